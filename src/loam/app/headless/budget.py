"""How many sets the thinnest spot of a panel bears, from a file of its survey."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from loam.app.headless.common import FAILED, answer, as_json, complain
from loam.core.errors import LoamError
from loam.core.film.sets import Guess, Sets, sets_left
from loam.core.units import percent
from loam.store.json_file import Fields, read_json


def run(arguments: Sequence[str]) -> int:
    """Run ``loam budget`` and return the exit status: 0, or 2 after an error on stderr."""
    parser = argparse.ArgumentParser(
        prog="loam budget", description="How many sets the thinnest spot of a panel bears."
    )
    parser.add_argument("file", type=Path, metavar="CASE.json")
    parser.add_argument("--json", action="store_true", help="print JSON instead of text")
    options = parser.parse_args(arguments)
    try:
        found = sets_of(read_json(options.file, "the case"))
    except LoamError as error:
        complain(error)
        return FAILED
    answer(as_json(figures(found)) if options.json else in_words(found))
    return 0


def sets_of(given: Fields) -> Sets:
    """Read a case and work it out.

    Raises
    ------
    ValueRefused
        For a field that is missing, unknown, or cannot be.
    """
    given.drop("name", "note", "notes", "expected")
    readings = given.many("film")
    spots = Fields({str(i): v for i, v in enumerate(readings, 1)}, "film")
    film = [spots.number(str(i)) for i in range(1, len(readings) + 1)]
    clear, removed = _guess(given.inner("clear")), _guess(given.inner("removed"))
    if given.has("other"):  # the layers below: the survey shows the film, and this says no more
        _guess(given.inner("other"))
    found = sets_left(
        film,
        given.number("gauge_sd", 0.0),
        clear,
        removed,
        floor=given.number("floor"),
        share=given.number("share", 0.5),
        edge=given.number("edge", 1.0),
        seam=given.number("seam", 1.0),
    )
    given.done()
    return found


def _guess(given: Fields) -> Guess:
    found = Guess(given.number("mean"), given.number("sd", 0.0))
    given.done()
    return found


def figures(found: Sets) -> dict[str, Any]:
    """Return what was worked out, as the door prints it."""
    return {
        "thinnest": found.thinnest,
        "clear_at_thinnest": {"mean": found.clear.mean, "sd": found.clear.sd},
        "may_go": found.may_go,
        "sets": [{"n": n, "chance": p} for n, p in enumerate(found.chances, 1)],
    }


def in_words(found: Sets) -> str:
    """Say it."""
    c = found.clear
    lines = [
        f"Thinnest {found.thinnest:.1f} µm of film: clear {c.mean:.1f} ± {c.sd:.1f} µm there,"
        f" {found.may_go:.1f} µm may go.",
        *(f"{n} sets: above the floor with {percent(p)}." for n, p in enumerate(found.chances, 1)),
    ]
    return "\n".join(lines)
