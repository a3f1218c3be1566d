"""What other packages bring stands with what ships, each under a key of its own."""

from __future__ import annotations

from typing import Any, Protocol, TypeVar

from loam.core.errors import ValueRefused


class Keyed(Protocol):
    """Something with a key."""

    @property
    def key(self) -> str:
        """Its stable name."""
        ...


_K = TypeVar("_K", bound=Keyed)


def let_stand(known: dict[str, _K], brought: Any, sort: type[_K], what: str) -> None:
    """Let what a package brings stand with what is known.

    Raises
    ------
    ValueRefused
        When it is of another sort, or there is one of its key.
    """
    if not isinstance(brought, sort) or brought.key in known:
        raise ValueRefused(f"{str(getattr(brought, 'key', brought))[:40]!r} is no new {what}.")
    known[brought.key] = brought
