"""Build records and outlines of panels as text: JSON of what is known."""

from __future__ import annotations

import json
from collections.abc import Mapping

from loam.core.errors import ValueRefused
from loam.core.film.build import FilmBuild
from loam.core.outline import Outline


def build_text(build: FilmBuild) -> str:
    """Return a record as JSON; "{}" when nothing is known."""
    return _text(build.as_plain())


def outline_text(outline: Outline) -> str:
    """Return an outline as JSON; "{}" for a plain rectangle."""
    return _text(outline.as_plain())


def facts_text(facts: Mapping[str, object]) -> str:
    """Return what else is known of a panel as JSON; "{}" when nothing is."""
    return _text({k: v for k, v in facts.items() if v not in (None, "")})


def _text(value: object) -> str:
    return json.dumps(value, sort_keys=True, separators=(",", ":"), ensure_ascii=False)


def build_of(text: str) -> FilmBuild:
    """Read a record; an empty text is one of which nothing is known.

    Raises
    ------
    ValueRefused
        When it is none.
    """
    return FilmBuild.from_plain(_value(text, "build record"))


def outline_of(text: str) -> Outline:
    """Read an outline; an empty text is a plain rectangle.

    Raises
    ------
    ValueRefused
        When it is none.
    """
    return Outline.from_plain(_value(text, "outline"))


def _value(text: str, what: str) -> object:
    try:
        return json.loads(text or "{}")
    except (ValueError, RecursionError) as error:
        raise ValueRefused(f"The {what} of a panel cannot be read.") from error
