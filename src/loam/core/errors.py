"""The one family of errors that is meant for the user; anything else is a bug."""

from __future__ import annotations


class LoamError(Exception):
    """Something the user can mend: what happened, where, what to do and what was kept.

    Parameters
    ----------
    what : str
        What is wrong, in one plain sentence.
    where : str
        The place: a file with its line, a panel, a cell, a field.
    todo : str
        What to do about it.
    kept : str
        What is untouched or safe in spite of it.
    """

    def __init__(self, what: str, *, where: str = "", todo: str = "", kept: str = "") -> None:
        super().__init__(what)
        self.what = what
        self.where = where
        self.todo = todo
        self.kept = kept

    def __str__(self) -> str:
        head = f"{self.where}: {self.what}" if self.where else self.what
        return " ".join(part for part in (head, self.todo, self.kept) if part)


class ValueRefused(LoamError):
    """A typed or imported value that cannot be what it claims to be."""


class PartFailed(LoamError):
    """A part of Loam that failed: a bug, told where its answer would stand, so that silence is
    never taken for an answer.
    """


class NotEnough(LoamError):
    """The readings do not suffice for what was asked of them."""
