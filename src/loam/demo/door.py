"""Write the demo workshop to a new file."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path

from loam.app.headless.common import FAILED, answer, as_json, complain
from loam.core.errors import LoamError
from loam.demo.scenario import make_demo
from loam.store.database import reading_apart
from loam.store.trials import trials


def run(arguments: Sequence[str]) -> int:
    """Run ``loam demo`` and return the exit status: 0, or 2 after an error on stderr."""
    parser = argparse.ArgumentParser(
        prog="loam demo", description="Write the demo workshop, all made up, to a new file."
    )
    parser.add_argument("workshop", type=Path, metavar="W.loam")
    parser.add_argument("--json", action="store_true", help="print JSON instead of text")
    options = parser.parse_args(arguments)
    path: Path = options.workshop
    try:
        if path.exists() or path.is_symlink():
            raise LoamError(
                "There is a file already.",
                where=str(path),
                todo="Name a new one.",
                kept="It is as it was.",
            )
        make_demo(path)
        with reading_apart(path) as db:
            named = [t.name for t in trials(db)]
    except OSError as error:
        complain(
            LoamError(
                f"The demo could not be written ({error.strerror or error}).",
                where=str(path),
                todo="Name another place.",
            )
        )
        return FAILED
    except LoamError as error:
        complain(error)
        return FAILED
    answer(
        as_json({"file": str(path), "trials": named})
        if options.json
        else f"{path}: {', '.join(named)}"
    )
    return 0
