"""Who read, and with what: asked once, by name, before the first figure is kept."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt

from loam.app.presenters.shelf import things
from loam.app.session import Session
from loam.core.kit.facts import METER
from loam.core.trial import BEFORE
from loam.ui.views.read.form import Form
from loam.ui.widgets.fields import Field

ASKED = "reader_asked"


class Naming:
    """Leads through the fields that name people and meter, then back to the figures.

    Parameters
    ----------
    ready : callable
        Gives the keyboard back to the figures.
    complain : callable
        Says what is asked.
    """

    def __init__(
        self,
        session: Session,
        form: Form,
        ready: Callable[[], None],
        complain: Callable[[str], None],
    ) -> None:
        self.session, self.form = session, form
        self._ready, self._complain = ready, complain
        self._rest: list[Field] = []
        self._then: Callable[[], object] | None = None
        form.operator.offer(session.people)
        form.reader.offer(session.people)
        form.meter.offer(lambda: [t.name for t in things(session, METER)])
        for field in (form.operator, form.reader, form.meter):
            field.line.returnPressed.connect(self._entered)

    def first(self, phase: str, then: Callable[[], object]) -> bool:
        """Ask before the first figure of a workshop in which nobody reads; True when asked."""
        form, session = self.form, self.session
        if form.reader.text() or session.recall(ASKED, False) or session.workshop.read_only:
            return False
        session.remember(ASKED, True)
        worked = [form.operator] if phase != BEFORE else []
        wanted = [f for f in (*worked, form.reader, form.meter) if not f.text()]
        names = {
            form.operator: "who worked it",
            form.reader: "who reads",
            form.meter: "which meter",
        }
        asked = ", ".join(names[f] for f in wanted)
        self.ask(wanted, f"Once, for all that follows: {asked}? Enter alone leaves it open.", then)
        return True

    def meter(self, then: Callable[[], object]) -> bool:
        """Ask which meter it is, where none is named; True when asked."""
        if self.form.meter.text():
            return False
        self.ask([self.form.meter], "Which meter is checked? Its name, then Enter.", then)
        return True

    def ask(self, fields: list[Field], said: str, then: Callable[[], object]) -> None:
        """Lead through some fields, then go on."""
        self._complain(said)
        self._rest, self._then = fields[1:], then
        fields[0].line.setFocus(Qt.FocusReason.TabFocusReason)

    def _entered(self) -> None:
        if self._rest:
            self._rest.pop(0).line.setFocus(Qt.FocusReason.TabFocusReason)
            return
        then, self._then = self._then, None
        self._ready()
        if then is not None:
            self._complain("")
            then()
