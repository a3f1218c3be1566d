"""Take files into a workshop, each whole or not at all."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from loam.app.bring_in import read_file
from loam.app.commands.trials import TakeInTrial, clear_unfinished
from loam.app.headless.common import FAILED, answer, as_json, complain, workshop_option
from loam.core.errors import LoamError
from loam.store.database import writing_apart
from loam.store.trials import trials
from loam.store.workshop import Workshop


def run(arguments: Sequence[str]) -> int:
    """Run ``loam bring-in`` and return the exit status: 0 when all were taken, else 2."""
    parser = argparse.ArgumentParser(
        prog="loam bring-in", description="Take tables of readings, or files for exchange, in."
    )
    parser.add_argument("files", nargs="+", metavar="FILE")
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
        found = [_take(workshop, file) for file in options.files]
    finally:
        workshop.close()
    return _told(found, json=options.json)


def _take(workshop: Workshop, file: str) -> dict[str, Any]:
    try:
        workshop.need_writer()
        if not file:
            raise LoamError("A file needs a name.", todo="Name a table or a file for exchange.")
        draft = read_file(Path(file), seed=len(trials(workshop.connection)) + 1)
        command = TakeInTrial(draft)
        command.write_apart(workshop.path, workshop.now())
    except LoamError as error:
        return _refused(file, error)
    return {
        "file": file,
        "taken": True,
        "trial": draft.trial.name,
        "readings": len(draft.readings),
    }


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
