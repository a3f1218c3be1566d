"""What the doors share: how an error is told, and how an answer is printed."""

from __future__ import annotations

import argparse
import io
import json
import os
import sys
from typing import Any

from loam.core.errors import LoamError, ValueRefused
from loam.core.readings import KINDS, kind_of
from loam.core.trial import Trial

FAILED = 2


def workshop_option(parser: argparse.ArgumentParser) -> None:
    """Add the options that name the workshop and ask for JSON."""
    from pathlib import Path

    parser.add_argument("--workshop", type=Path, required=True, metavar="W.loam")
    parser.add_argument("--json", action="store_true", help="print JSON instead of text")


def complain(error: LoamError, name: str = "") -> None:
    """Say an error on standard error, every problem of a file on a line of its own."""
    print(f"loam: {error}", file=sys.stderr)
    for problem in getattr(error, "problems", ())[1:]:
        print(f"loam: {name}: {problem}", file=sys.stderr)


def answer(text: str) -> None:
    """Print an answer; a reader that has seen enough (head, say) is no fault.

    What the terminal cannot show (a file name that is no text, say) is written as its number.
    """
    if isinstance(sys.stdout, io.TextIOWrapper):
        sys.stdout.reconfigure(errors="backslashreplace")
    try:
        print(text, flush=True)
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def as_json(value: Any) -> str:
    """Return an answer as JSON."""
    return json.dumps(value, indent=1, ensure_ascii=True, allow_nan=False)


MOST_SEED = 2**32


def check_seed(seed: int) -> None:
    """Refuse a seed that is none.

    Raises
    ------
    ValueRefused
    """
    if not 0 <= seed < MOST_SEED:
        raise ValueRefused(f"A seed of {seed} is none.", todo=f"Give 0 to {MOST_SEED - 1}.")


def measurand_of(name: str) -> str:
    """Return the measurand that a command's word means: its key, or a column that carries it.

    Raises
    ------
    ValueRefused
        When there is none.
    """
    low = name.strip().lower()
    for kind in KINDS:
        if low == kind.key or low in kind.columns:
            return kind.key
    return kind_of(name.strip()).key


def trial_named(known: list[Trial], wanted: str) -> Trial:
    """Return the trial of this name, the newest of several, or of this number.

    Raises
    ------
    LoamError
        When there is none; it names those that are there.
    """
    found = [t for t in known if t.name == wanted]
    if not found and wanted.isascii() and wanted.isdigit():
        found = [t for t in known if t.id == int(wanted)]
    if not found:
        raise LoamError(
            f"There is no trial {wanted[:60]!r}.",
            todo="Trials: " + (", ".join(t.name for t in known[:20]) or "none") + ".",
        )
    return found[-1]
