"""A look at what a blind round covers is noted, and told beside the result."""

from __future__ import annotations

from loam.app.commands import Note
from loam.app.presenters.rounds import open_round
from loam.app.session import Session
from loam.store import noted


def peek_note(session: Session, what: str) -> Note | None:
    """Return the act of noting that somebody looked although a round is open; None without one."""
    opened = open_round(session)
    if opened is None:
        return None
    who, day = str(session.recall("reader", "")), session.workshop.now()[:10]
    return Note(session.trial_id or 0, noted.PEEK, {"of": opened.id, "what": what}, None, who, day)
