"""Write a trial of a workshop out: a Data Package, or flat CSV by the file's ending."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path

from loam.app.going_out import whole_trial
from loam.app.headless.common import (
    FAILED,
    answer,
    as_json,
    complain,
    trial_named,
    workshop_option,
)
from loam.core.errors import LoamError
from loam.store.database import reading_apart
from loam.store.datapackage import write_package
from loam.store.draft import TrialDraft
from loam.store.flat import write_flat
from loam.store.trials import trials
from loam.store.workshop import Workshop

ENDINGS = {".zip": write_package, ".csv": write_flat}


def write_trial(draft: TrialDraft, path: Path) -> None:
    """Write a trial to a file; the ending says how.

    Raises
    ------
    LoamError
        For an ending that is not known, or when the place or the disk refuses.
    """
    write = ENDINGS.get(path.suffix.lower())
    if write is None:
        raise LoamError(
            f"A trial is not written as {path.suffix or 'a file without an ending'}.",
            where=str(path),
            todo="Let the name end in .zip (file for exchange) or .csv (flat table).",
        )
    write(draft, path)


def run(arguments: Sequence[str]) -> int:
    """Run ``loam write-out`` and return the exit status: 0, or 2 after an error on stderr."""
    parser = argparse.ArgumentParser(
        prog="loam write-out", description="Write a trial out, for exchange or as a flat table."
    )
    parser.add_argument("trial", metavar="TRIAL", help="its name, or its number in the workshop")
    parser.add_argument("file", metavar="FILE", help="ends in .zip or .csv")
    workshop_option(parser)
    options = parser.parse_args(arguments)
    try:
        workshop = Workshop(options.workshop, look=True)
        try:
            with reading_apart(workshop.reads) as db:
                trial = trial_named(trials(db), options.trial)
                draft = whole_trial(db, trial.id, workshop.now())
        finally:
            workshop.close()
        write_trial(draft, Path(options.file))
    except LoamError as error:
        complain(error)
        return FAILED
    said = {"file": options.file, "trial": trial.name, "readings": len(draft.readings)}
    answer(as_json(said) if options.json else f"{said['file']}: {said['readings']} readings")
    return 0
