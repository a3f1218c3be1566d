"""A gauge study, judged: readers beside each other, what the meter repeats, and keeping that."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from loam.app.commands import PutOnShelf
from loam.app.meter_repeatability import STUDY
from loam.app.questions.gauge.find import GaugePicture, gauge_of, gauge_table
from loam.core.errors import LoamError
from loam.core.words.verdict import short_sentences
from loam.store.kit import METER
from loam.ui.keys import perform
from loam.ui.views.base import Key
from loam.ui.views.judge.gauge.chart import GaugeChart
from loam.ui.views.judge.owner import Owner
from loam.ui.widgets.fields import unbroken, words


class GaugePage(QWidget):
    """Shows the study of a trial; U keeps what the meter repeats within."""

    def __init__(self, owner: Owner) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.owner = owner
        self.measurand, self.whole = "", False
        self.found: GaugePicture | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(8)
        self.lead = words("", "lead", wrap=True)
        self.lead.setObjectName("gauge_lead")
        box.addWidget(self.lead)
        self.chart = GaugeChart()
        box.addWidget(self.chart, 1)
        self.more = words("", "quiet", wrap=True)
        box.addWidget(self.more)

    def judge(self, measurand: str) -> None:
        """Judge the study of the trial at hand."""
        session = self.owner.session
        trial = session.trial
        if trial is None:
            return
        if self.measurand not in trial.measurands or measurand:
            self.measurand = measurand or trial.measurands[0]
        kind, path, trial_id = session.kind(self.measurand), session.workshop.reads, trial.id
        self.owner.shell.jobs.start(
            "judge:gauge", lambda: gauge_of(path, trial_id, kind), self._show, self._refused
        )

    def next_kind(self) -> None:
        """Judge what else was read."""
        trial = self.owner.session.trial
        if trial is not None and self.measurand in trial.measurands:
            keys = trial.measurands
            self.judge(keys[(keys.index(self.measurand) + 1) % len(keys)])

    def _show(self, found: GaugePicture) -> None:
        self.found = found
        self.lead.setText(unbroken(found.verdict))
        self.chart.show_study(found)
        said = found.words if self.whole else (found.words[0], found.words[-1])
        self.more.setText(unbroken(" ".join(map(short_sentences, said))))
        self.owner.shell.keys_changed()

    def turn_whole(self) -> None:
        """Say how much each scatters and reads apart, or only what to do."""
        self.whole = not self.whole
        if self.found is not None:
            self._show(self.found)

    def _refused(self, error: LoamError) -> None:
        self.found = None
        self.chart.show_study(None)
        self.lead.setText(f"{error.what} {error.todo}".strip())
        self.more.setText(
            "Here stands how well a meter repeats and whether readers agree, once two readers have"
            " read every cell twice."
        )
        self.owner.shell.keys_changed()

    @property
    def meter(self) -> str:
        """The meter that was studied, else the one that is named in Read."""
        if self.found is not None and self.found.meter:
            return self.found.meter
        return str(self.owner.session.recall("meter", ""))

    def keys(self) -> list[Key]:
        """Return the keys of the page."""
        name = self.meter or "the meter"
        keep: list[Key] = []
        if self.found is not None:
            rests = "less of it" if self.whole else "what it rests on"
            keep = [("U", f"use it for {name}", self.use), ("L", rests, self.turn_whole)]
        return [*keep, ("M", "next measurement", self.next_kind)]

    def use(self) -> None:
        """Keep what was found as the repeatability of the meter."""
        found, meter = self.found, self.meter
        if found is None:
            return
        if not meter:
            self.owner.shell.say("Name the meter in Read (F7) first.", care=True)
            return
        sd = round(found.study.result.ev, 4)
        facts = {f"{self.measurand}:repeat": sd, "basis": STUDY}
        if self.owner.act(PutOnShelf(((METER, meter, facts),))):
            unit = found.kind.unit
            shown = f"{found.kind.span(sd):.{max(found.kind.decimals + 1, 1)}f} {unit}"
            self.owner.shell.say(
                f"{meter} repeats within {shown} (s.d.) from now on: in Read's ‘enough’, in what"
                " the meter cannot see, and in forecasts."
            )

    def table(self) -> list[list[str]]:
        """Return the readings of the study as a table."""
        return gauge_table(self.found) if self.found is not None else []

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if not perform(event, self.keys()):
            super().keyPressEvent(event)
