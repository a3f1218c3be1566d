"""What else the readings carry: wear, order, place, heat, people; claims, scales, masking."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from loam.app.questions.influences.find import CarriedPicture, find_influences
from loam.app.questions.influences.sources import of_carried
from loam.app.questions.source import Sources
from loam.ui.views.judge.aside import Aside, Work
from loam.ui.views.judge.influences.paint import draw_carried as paint_carried
from loam.ui.widgets.fields import unbroken


class CarriedPage(Aside):
    """Strands around what matters; where the readings carry nothing, what would is said."""

    name, letter, label = "carried", "E", "what else"
    teaches = "Here stands what else moves the result: wear, order, place, heat, people, claims."
    found: CarriedPicture | None

    def rests_on(self) -> tuple[object, ...]:
        """The judgements, and which cells count."""
        return (*super().rests_on(), self.owner.left_out)

    def ask(self) -> Work | str:
        """Find what else the readings carry."""
        rankings, trial = self.owner.rankings, self.owner.session.trial
        measurand = self.owner.measurand
        if trial is None or measurand not in rankings:
            return self.lack(measurand)
        path = self.owner.session.workshop.reads
        judged = {m: r.judgement for m, r in rankings.items()}
        masked = rankings[measurand].masked
        tell = self.owner.shell.jobs.teller(self.name)
        return lambda: find_influences(path, trial.id, judged, measurand, masked, trial.seed, tell)

    def show_found(self) -> None:
        """Say what surely moves the result."""
        if self.found is None:
            return
        self.lead.setText(unbroken(self.found.lead))
        drawn = bool(self.found.claims.scales)
        scales = (
            " Makers' scales: from the place by the maker to the place as measured; level lines"
            " follow the maker."
        )
        self.small.setText(unbroken(
            "Each strand: from the least to the largest that was met, beside the combination,"
            " with its 90 % interval; between the dashed lines it does not matter. With tape:"
            " sure at 99 %, since several are looked at. D weighs all"
            f" measurands together, and can see what one alone cannot.{scales * drawn}"
        ))  # fmt: skip

    def sources(self) -> Sources:
        """The strands."""
        ranking = self.owner.rankings.get(self.owner.measurand)
        if self.found is None or ranking is None:
            return {}
        return of_carried(self.found, ranking.judgement)

    def draw(self, painter: QPainter, area: QRectF) -> list[Any]:
        """Draw the strands."""
        return paint_carried(painter, area, self.found) if self.found is not None else []
