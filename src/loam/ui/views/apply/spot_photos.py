"""Photographs of a test spot, before and after: measured as those of a cell, kept with the spot."""

from __future__ import annotations

import base64
from collections.abc import Callable
from typing import Any, cast

from loam.app.presenters.photographing import paint_of
from loam.app.session import Session
from loam.core.film import FilmBuild
from loam.core.vehicle.job import SpotDone
from loam.ui.views.base import Shell
from loam.ui.views.read.owner import Owner
from loam.ui.views.read.photo_page import PhotoPage


class _Desk:
    """What the page asks of the view that it stands in: no cell is at hand here."""

    def __init__(self, shell: Shell, session: Session, leave: Callable[[], None]) -> None:
        self.shell, self.session = shell, session
        self.leave_page = leave
        self.state = None
        self.reader_name = ""


class SpotPhotos(PhotoPage):
    """``kept`` is called with the facts of a note once a pair is kept.

    Parameters
    ----------
    leave : callable
        Goes back to the spot.
    """

    def __init__(
        self,
        shell: Shell,
        session: Session,
        leave: Callable[[], None],
        kept: Callable[[dict[str, Any]], None],
    ) -> None:
        super().__init__(cast(Owner, _Desk(shell, session, leave)))
        self.setObjectName("spot_photos")
        self.spot: SpotDone | None = None
        self._kept = kept

    def begin_spot(self, spot: SpotDone, colour: str) -> None:
        """Show a spot; photographs of another are put away."""
        if self.spot is None or self.spot.uid != spot.uid:
            self.photos.clear()
            self.regions.clear()
            self.result = None
            self.paint = paint_of(FilmBuild(colour=colour))
        self.spot = spot
        self.title.setText(f"Spot {spot.number}, {spot.rung} on the {spot.part}: photographs")
        self.pages.setCurrentIndex(0)
        self.show_all()
        self.setFocus()

    def keep(self) -> None:
        """Keep what was measured with the spot."""
        found = self.result
        if found is None or self.spot is None:
            return
        if found.refused or found.removed_pct is None:
            self.owner.shell.say(f"Not kept: {found.reason}", care=True)
            return
        pair = self.pair()
        image = base64.b64encode(self._small_picture()).decode()
        facts: dict[str, Any] = {
            "spot": self.spot.uid,
            "removed_pct": round(found.removed_pct, 1),
            "before": pair.before.path.name[:120],
            "after": pair.after.path.name[:120],
            "image": image,
        }
        if found.error_points is not None:
            facts["error_points"] = round(min(found.error_points, 100.0), 1)
        self._kept(facts)
