"""What is said when a workshop is opened: only to be looked at, or holding the unknown."""

from __future__ import annotations

from loam.app.session import Session
from loam.store.panels import unreadable_panels

LOOK_ONLY = {
    "window": "Open in another window too: here it can only be looked at.",
    "folder": "Nothing can be written where this workshop lies: it can only be looked at.",
    "look": "Opened to look at only.",
}


def opening_words(session: Session) -> str:
    """Return what there is to say of a workshop that was opened; "" when all is as usual."""
    why = session.workshop.why
    done = session.workshop.said
    if why:
        return " ".join(w for w in (done, LOOK_ONLY[why]) if w)
    panels = unreadable_panels(session.workshop.connection)
    names = sorted({u[:40] for t in session.trials() for u in t.unknown})
    said = [f"measurands {', '.join(names[:5])}"] if names else []
    said += [f"panels {', '.join(panels[:5])}"] if panels else []
    if not said:
        return done
    return (
        f"{done} This workshop holds {' and '.join(said)}, which this Loam does not know. They are"
        " kept as they are and not shown."
    ).strip()
