"""The light of the room: out for reading, on elsewhere, unless somebody chose otherwise there."""

from __future__ import annotations

from PyQt6.QtWidgets import QApplication

from loam.app.session import Session
from loam.ui.theme import BENCH, LIGHTS_OUT, look

_READ = "read"


def _key(step: str) -> str:
    return "theme:read" if step == _READ else "theme"


def light_for(session: Session, step: str) -> None:
    """Turn to the theme of a step."""
    usual = LIGHTS_OUT if step == _READ else BENCH
    name = session.recall(_key(step), usual.name)
    tokens = LIGHTS_OUT if name == LIGHTS_OUT.name else BENCH
    application = QApplication.instance()
    if look.tokens is not tokens and isinstance(application, QApplication):
        look.apply(application, tokens)


def turn_lights(session: Session, step: str) -> None:
    """Turn to the other theme, and keep that for this step (or for all but reading)."""
    application = QApplication.instance()
    assert isinstance(application, QApplication)
    tokens = BENCH if look.lights_out else LIGHTS_OUT
    look.apply(application, tokens)
    if not session.workshop.read_only:
        session.remember(_key(step), tokens.name)
