"""While a blind round is open, steps that show the combinations stand covered."""

from __future__ import annotations

from loam.app.presenters.rounds import COVERED, covered
from loam.app.session import Session
from loam.ui.views.base import View


class Covering:
    """Knows which step is covered, and into which one somebody peeks."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._peeking = ""

    def peek(self, step: str) -> None:
        """Let one step be seen until another is turned to."""
        self._peeking = step

    def covers(self, step: str) -> bool:
        """Tell whether a step stands covered now."""
        return step in COVERED and step != self._peeking and covered(self.session)

    def turned(self, step: str) -> bool:
        """Turn to a step and tell whether it is covered; a peek into another is over."""
        if self.covers(step):
            return True
        if step != self._peeking:
            self._peeking = ""
        return False

    def elsewhere(self, view: View) -> str:
        """Return the step that must be turned to, now that something changed; "" to stay."""
        if self.covers(view.step):
            return view.step
        if view.step == "cover" and not covered(self.session):
            return at_hand(view)
        return ""


def at_hand(view: View) -> str:
    """Return the step of a view; of a cover, the step below it."""
    return str(getattr(view, "wanted", view.step))
