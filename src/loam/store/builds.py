"""Build records of panels as text: JSON of what is known."""

from __future__ import annotations

import json

from loam.core.errors import ValueRefused
from loam.core.film.build import FilmBuild


def build_text(build: FilmBuild) -> str:
    """Return a record as JSON; "{}" when nothing is known."""
    return json.dumps(build.as_plain(), sort_keys=True, separators=(",", ":"), ensure_ascii=False)


def build_of(text: str) -> FilmBuild:
    """Read a record; an empty text is one of which nothing is known.

    Raises
    ------
    ValueRefused
        When it is none.
    """
    try:
        value = json.loads(text or "{}")
    except (ValueError, RecursionError) as error:
        raise ValueRefused("The build record of a panel cannot be read.") from error
    return FilmBuild.from_plain(value)
