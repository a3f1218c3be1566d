"""What the record of a trial is made of: sorts of things, and the fields of each."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from loam.core.errors import ValueRefused
from loam.core.text import LINE, check_text

INTEGER, NUMBER, TEXT, OBJECT, VALUE = "integer", "number", "text", "object", "value"
"""What a field holds: a whole number, a number, text, a JSON object or any JSON value as text."""
MOST_WHOLE = 2**53
"""Whole numbers beyond this do not survive a file of numbers."""
MOST_LETTERS = 20_000


@dataclass(frozen=True)
class Field:
    """One thing that is known of a row.

    Attributes
    ----------
    name : str
        In files, and in the table unless ``column`` says otherwise.
    holds : str
        INTEGER, NUMBER, TEXT, OBJECT or VALUE.
    label, unit : str
        For people.
    low, high : float or None
        Between which a number lies; for text, ``high`` is the most letters.
    choices : tuple of str
        The only values, where there are few.
    empty : bool
        Whether it may be left out.
    since : int
        The first format of a file for exchange that has it.
    column : str
        Its column in the workshop; ``-`` for one that is not a column of the row's own table.
    of : str
        The sort that it refers to: by number in files, by row in the workshop; of a person by
        name, of a day by date.
    within : mapping of str to str
        Keys of an OBJECT that hold rows of a sort (one, or a list): in files by identity.
    """

    name: str
    holds: str = TEXT
    label: str = ""
    unit: str = ""
    low: float | None = None
    high: float | None = None
    choices: tuple[str, ...] = ()
    empty: bool = False
    since: int = 1
    column: str = ""
    of: str = ""
    within: Mapping[str, str] = field(default_factory=dict)
    lines: bool = False

    @property
    def stored(self) -> str:
        """Its column in the workshop."""
        return self.column or self.name

    def check(self, value: object) -> None:
        """Refuse a value that cannot be.

        Raises
        ------
        ValueRefused
        """
        if value is None:
            if not self.empty:
                raise ValueRefused(f"{self.said} is missing")
            return
        if self.holds in (INTEGER, NUMBER):
            self._check_number(value)
            return
        if not isinstance(value, str):
            raise ValueRefused(f"{self.said}: this is no text")
        if self.holds in (OBJECT, VALUE):
            self._check_object(value)
            return
        most = int(self.high) if self.high is not None else LINE
        check_text(value, self.said, most, lines=self.lines)
        if self.choices and value not in self.choices:
            known = ", ".join(choice or "nothing" for choice in self.choices)
            raise ValueRefused(f"{self.said} is one of {known}")

    @property
    def said(self) -> str:
        """What it is called."""
        return self.label or self.name.replace("_", " ")

    def _check_number(self, value: object) -> None:
        number = isinstance(value, int | float) and not isinstance(value, bool)
        if not number or not math.isfinite(value):  # type: ignore[arg-type]
            raise ValueRefused(f"{self.said}: this is no number")
        low = -math.inf if self.low is None else self.low
        high = math.inf if self.high is None else self.high
        if not low <= value <= high:  # type: ignore[operator]
            raise ValueRefused(f"{self.said} lies between {low:g} and {high:g}")

    def _check_object(self, value: str) -> None:
        if len(value) > (self.high or MOST_LETTERS):
            raise ValueRefused(f"{self.said} is longer than it may be")


@dataclass(frozen=True, eq=False)
class Sort:
    """One sort of thing that a trial is made of.

    Attributes
    ----------
    key, one, many : str
    file : str
        Its file for exchange, without the ending.
    table : str
        Its table in the workshop; "" for what is put together from several.
    fields : tuple of Field
    belongs : str
        The sort that a row belongs to, and by that to a trial.
    grows : bool
        Whether rows are only ever added: then a row has an identity by what it says.
    key_fields : tuple of str
        What tells rows of a file from each other.
    latest : str
        The field whose row a later row says anew: only the last of them holds.
    parts : mapping of str to str
        Where a table holds several sorts: by the value of ``part_by``, what each is counted as.
    most : int
        How many rows one trial may have.
    """

    key: str
    one: str
    many: str
    file: str
    table: str
    fields: tuple[Field, ...]
    belongs: str = "trial"
    grows: bool = False
    key_fields: tuple[str, ...] = ("id",)
    latest: str = ""
    part_by: str = ""
    parts: Mapping[str, str] = field(default_factory=dict)
    most: int = 1_000_000
    since: int = 1

    def of_format(self, version: int) -> tuple[Field, ...]:
        """Return the fields that a format has; none where it lacks the whole sort."""
        if version < self.since:
            return ()
        return tuple(f for f in self.fields if f.since <= version)

    def field(self, name: str) -> Field:
        """Return a field by its name."""
        return next(f for f in self.fields if f.name == name)

    def check(self, row: Mapping[str, Any]) -> tuple[str, ValueRefused] | None:
        """Return the first field of a row that cannot be, with why; None when all can."""
        for each in self.fields:
            try:
                each.check(row[each.name])
            except ValueRefused as error:
                return each.name, error
        return None

    def counted_as(self, row: Mapping[str, Any]) -> str:
        """Return what a row is counted as."""
        return self.parts.get(str(row[self.part_by]), self.key) if self.part_by else self.key
