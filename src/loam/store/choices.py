"""What is chosen of a trial, in the words of files: rows named by identity, not by number."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

Rename = Callable[[str, Any], Any]
"""Gives what a row (sort; number here or identity) is called on the other side, or itself."""


def key_here(key: str, trial_id: int) -> str:
    """Return under which key a choice of a trial is kept in the workshop."""
    return f"{key}:{trial_id}"


def key_of_choice(kept: str) -> str:
    """Return the choice of a key of the workshop."""
    return kept.partition(":")[0]


def renamed(key: str, value: Any, rename: Rename, number: Callable[[Any], Any]) -> Any:
    """Return a choice with its rows named anew.

    Parameters
    ----------
    rename : callable
        Of (sort, row).
    number : callable
        Reads a row that stands as the key of an object, where all keys are text.
    """
    if key == "doubts" and isinstance(value, Mapping):
        return {k: _doubt(v, rename, number) for k, v in value.items()}
    if key == "pooled" and isinstance(value, Mapping):
        return {str(rename("trial", number(k))): v for k, v in value.items()}
    if key == "plan" and isinstance(value, Mapping):
        found = dict(value)
        found["locked"] = _each("cell", found.get("locked"), rename)
        if isinstance(found.get("workers"), list):
            found["workers"] = [
                [rename("panel", w[0]), *w[1:]] if isinstance(w, list) and w else w
                for w in found["workers"]
            ]
        return found
    return value


def _each(sort: str, rows: Any, rename: Rename) -> Any:
    return [rename(sort, row) for row in rows] if isinstance(rows, list) else rows


def _doubt(doubt: Any, rename: Rename, number: Callable[[Any], Any]) -> Any:
    if not isinstance(doubt, Mapping):
        return doubt
    found = dict(doubt)
    for name, sort in (("panels", "panel"), ("cells", "cell")):
        found[name] = _each(sort, found.get(name), rename)
    slopes = found.get("slope")
    if isinstance(slopes, list):
        found["slope"] = [
            [s[0], {str(rename("cell", number(c))): v for c, v in s[1].items()}, *s[2:]]
            if isinstance(s, list) and len(s) > 2 and isinstance(s[1], Mapping)
            else s
            for s in slopes
        ]
    return found


def named_within(facts: Mapping[str, Any], within: Mapping[str, str], rename: Rename) -> Any:
    """Return facts in which the rows that some keys hold are named anew."""
    found = dict(facts)
    for key, sort in within.items():
        if key in found:
            value = found[key]
            found[key] = (
                _each(sort, value, rename) if isinstance(value, list) else rename(sort, value)
            )
    return found
