"""Take files into a workshop, each whole or not at all."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from loam.app.bring_in import read_file
from loam.app.commands.trials import TakeInTrial, clear_unfinished
from loam.app.headless.common import (
    FAILED,
    answer,
    as_json,
    complain,
    trial_named,
    workshop_option,
)
from loam.app.joining import join_apart
from loam.core.errors import LoamError
from loam.store.counts import counts_of
from loam.store.database import writing_apart
from loam.store.join import trial_here
from loam.store.merge import MINE, THEIRS
from loam.store.trials import trials
from loam.store.workshop import Workshop


def run(arguments: Sequence[str]) -> int:
    """Run ``loam bring-in`` and return the exit status: 0 when all were taken, else 2."""
    parser = argparse.ArgumentParser(
        prog="loam bring-in",
        description="Take tables of readings, or files for exchange, in. Of a trial that is here"
        " already what is new comes, and nothing twice.",
    )
    parser.add_argument("files", nargs="+", metavar="FILE")
    parser.add_argument(
        "--into",
        metavar="TRIAL",
        help="join the files to this trial: panels and combinations are found by their names",
    )
    which = parser.add_mutually_exclusive_group()
    which.add_argument(
        "--mine",
        action="store_const",
        dest="choose",
        const=MINE,
        default="",
        help="what both changed stays as it is here",
    )
    which.add_argument(
        "--theirs",
        action="store_const",
        dest="choose",
        const=THEIRS,
        help="what both changed is as the file has it",
    )
    workshop_option(parser)
    options = parser.parse_args(arguments)
    try:
        workshop = Workshop(options.workshop)
    except LoamError as error:
        return _told([_refused(f, error) for f in options.files], json=options.json)
    try:
        if not workshop.read_only:
            with writing_apart(workshop.path) as db:
                clear_unfinished(db, workshop.path)
        found = [_take(workshop, file, options.into, options.choose) for file in options.files]
    finally:
        workshop.close()
    return _told(found, json=options.json)


def _take(workshop: Workshop, file: str, into: str | None, choose: str) -> dict[str, Any]:
    try:
        workshop.need_writer()
        if not file:
            raise LoamError("A file needs a name.", todo="Name a table or a file for exchange.")
        db = workshop.connection
        draft = read_file(Path(file), seed=len(trials(db)) + 1)
        here = trial_named(trials(db), into).id if into is not None else trial_here(db, draft)
        if here is None:
            name, rows = draft.trial.name, _taken_in(workshop, TakeInTrial(draft))
        else:
            name = next(t.name for t in trials(db) if t.id == here)
            joined = join_apart(workshop.path, here, draft, workshop.now(), choose)
            rows = dict(joined.added)
    except LoamError as error:
        return _refused(file, error)
    return {
        "file": file,
        "taken": True,
        "trial": name,
        "readings": rows.get("reading", 0),
        "rows": rows,
    }


def _taken_in(workshop: Workshop, command: TakeInTrial) -> dict[str, int]:
    """Take a new trial in, and return how many rows of each sort came."""
    command.write_apart(workshop.path, workshop.now())
    return {k: n for k, n in counts_of(workshop.connection, command.id).items() if n}


def _refused(file: str, error: LoamError) -> dict[str, Any]:
    return {"file": file, "taken": False, "error": str(error)}


def _told(found: list[dict[str, Any]], *, json: bool) -> int:
    if json:
        answer(as_json(found))
    else:
        for each in found:
            if each["taken"]:
                answer(f"{each['file']}: {each['readings']} readings, trial {each['trial']}")
            else:
                complain(LoamError(each["error"], where=each["file"]))
    return 0 if all(each["taken"] for each in found) else FAILED
