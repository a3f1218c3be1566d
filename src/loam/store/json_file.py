"""A file of JSON as an object whose fields are taken one by one; what is left over is refused."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from loam.core.errors import LoamError, ValueRefused
from loam.store.safe_files import open_regular

MAX_BYTES = 16 * 1024 * 1024
REQUIRED = object()
"""Stands for no default: the field must be there."""


class Fields:
    """The fields of a JSON object, each taken once and checked.

    Parameters
    ----------
    value : object
        As JSON gave it.
    where : str
        What it is, for messages: "the plan", "panel 3".
    """

    def __init__(self, value: Any, where: str) -> None:
        if not isinstance(value, dict):
            raise ValueRefused(f"{_short(value)} is no object with fields.", where=where)
        self.where = where
        self._left: dict[str, Any] = dict(value)

    def _take(self, name: str, default: Any) -> Any:
        if name in self._left:
            return self._left.pop(name)
        if default is REQUIRED:
            raise ValueRefused(f"{name!r} is missing.", where=self.where)
        return default

    def _wrong(self, name: str, value: Any, wanted: str) -> ValueRefused:
        return ValueRefused(f"{name!r} is {_short(value)}, not {wanted}.", where=self.where)

    def text(self, name: str, default: Any = REQUIRED) -> str:
        """Take a text."""
        value = self._take(name, default)
        if not isinstance(value, str):
            raise self._wrong(name, value, "a text")
        return value

    def number(self, name: str, default: Any = REQUIRED) -> float:
        """Take a finite number."""
        value = self._take(name, default)
        if isinstance(value, bool) or not isinstance(value, int | float):
            raise self._wrong(name, value, "a number")
        if (isinstance(value, int) and abs(value) > 2**1000) or not math.isfinite(value):
            raise self._wrong(name, value, "a usual number")
        return float(value)

    def whole(self, name: str, default: Any = REQUIRED) -> int:
        """Take a whole number."""
        value = self._take(name, default)
        whole = isinstance(value, int) or (isinstance(value, float) and value.is_integer())
        if isinstance(value, bool) or not whole or abs(value) > 2**53:
            raise self._wrong(name, value, "a whole number")
        return int(value)

    def yes(self, name: str, default: Any = REQUIRED) -> bool:
        """Take true or false; 0 and 1 stand for them."""
        value = self._take(name, default)
        if value not in (True, False):
            raise self._wrong(name, value, "true or false")
        return bool(value)

    def many(self, name: str, default: Any = REQUIRED) -> list[Any]:
        """Take a list."""
        value = self._take(name, default)
        if not isinstance(value, list):
            raise self._wrong(name, value, "a list")
        return value

    def texts(self, name: str) -> list[str]:
        """Take a list of texts."""
        values = self.many(name)
        for value in values:
            if not isinstance(value, str):
                raise self._wrong(name, value, "a list of texts")
        return values

    def pair(self, name: str) -> tuple[float, float]:
        """Take two numbers."""
        values = self.many(name)
        if len(values) != 2:
            raise self._wrong(name, values, "two numbers")
        inner = Fields({"first": values[0], "second": values[1]}, f"{self.where}, {name}")
        return inner.number("first"), inner.number("second")

    def inner(self, name: str, default: Any = REQUIRED) -> Fields:
        """Take an object."""
        value = self._take(name, default)
        if not isinstance(value, dict):
            raise self._wrong(name, value, "an object with fields")
        return Fields(value, f"{self.where}, {name}")

    def mapping(self, name: str) -> Mapping[str, str]:
        """Take an object of texts; nothing when it is missing."""
        value = self._take(name, {})
        if not isinstance(value, dict) or not all(isinstance(v, str) for v in value.values()):
            raise self._wrong(name, value, "an object of texts")
        return value

    def names(self) -> list[str]:
        """Return the fields that are not yet taken, in their order."""
        return list(self._left)

    def has(self, name: str) -> bool:
        """Whether a field is there and not yet taken."""
        return name in self._left

    def drop(self, *names: str) -> None:
        """Pass fields over that say nothing here."""
        for name in names:
            self._left.pop(name, None)

    def done(self) -> None:
        """Refuse what was not taken.

        Raises
        ------
        ValueRefused
        """
        if self._left:
            names = ", ".join(sorted(self._left))[:200]
            raise ValueRefused(f"Loam knows no field {names}.", where=self.where, todo="Drop it.")


def _short(value: Any) -> str:
    text = repr(value)
    return text if len(text) <= 40 else text[:39] + "…"


def _refuse_constant(name: str) -> Any:
    raise ValueError(f"{name} is no number")


def read_json(path: Path, what: str) -> Fields:
    """Read a file that holds one JSON object.

    Raises
    ------
    LoamError
        When it cannot be read, is too large, or is no JSON object.
    """
    try:
        with open_regular(path) as file:
            data = file.read(MAX_BYTES + 1)
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise LoamError(f"It cannot be read: {reason}.", where=str(path)) from error
    if len(data) > MAX_BYTES:
        raise LoamError(f"It is larger than {MAX_BYTES // 2**20} MB.", where=str(path))
    try:
        value = json.loads(data.decode("utf-8-sig"), parse_constant=_refuse_constant)
    except (ValueError, RecursionError) as error:
        raise LoamError(f"It is no JSON: {error}.", where=str(path)) from error
    return Fields(value, what)
