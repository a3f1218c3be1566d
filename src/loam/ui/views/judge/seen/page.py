"""What the eye still sees, kind by kind; the arrows turn to another kind or hardness."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from loam.app.presenters.inspecting import inspections
from loam.app.questions.seen import QUESTION
from loam.app.questions.seen.find import SeenPicture, head_of, never_mixed, readers_words
from loam.core.seen import leads_words
from loam.ui.views.base import Key
from loam.ui.views.judge.seen.paint import draw_seen
from loam.ui.views.judge.turning import Turning
from loam.ui.widgets.fields import unbroken


class SeenPage(Turning):
    """Fields of squares: how many still show a mark under each combination."""

    question = QUESTION
    teaches = "Here stands what inspections by eye and by squares still see."
    found: SeenPicture | None

    def rests_on(self) -> tuple[object, ...]:
        """The inspections themselves: no ranking changes with them."""
        found = inspections(self.owner.shell.session)
        last = found[-1].at if found else ""
        return (*super().rests_on(), f"{len(found)} {last}")

    def show_found(self) -> None:
        """Say who leaves least of the kind at hand."""
        found = self.found
        if found is None or not found.classes:
            return
        self.at %= len(found.classes)
        own = found.classes[self.at]
        rest = found.said()[len(found.classes) :]
        said = [f"{head_of(own)}: {leads_words(own.seen)}.", *rest]
        self.lead.setText(unbroken(" ".join(said)))
        of = f"{self.at + 1} of {len(found.classes)}. " if len(found.classes) > 1 else ""
        small = f"{of}Filled: squares that still show a mark; grey and hatched: as far as that is"
        small += f" not sure. {readers_words(own)} {never_mixed()}"
        self.small.setText(unbroken(small))

    def draw(self, painter: QPainter, area: QRectF) -> list[Any]:
        """Draw the kind at hand."""
        if self.found is None or not self.found.classes:
            return []
        return draw_seen(painter, area, self.found.classes[self.at % len(self.found.classes)])

    def own_keys(self) -> list[Key]:
        """Turn to another kind or hardness."""
        if self.found is None or len(self.found.classes) < 2:
            return []
        return [("← →", "another kind", self.turn)]


PAGE = SeenPage
