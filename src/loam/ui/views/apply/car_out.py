"""A car as a picture and as a table, to be copied or written out."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from loam.app.applying.told import Stairs
from loam.core.units import fixed
from loam.core.vehicle.job import Job
from loam.core.vehicle.room import Room
from loam.ui.picture_out import Picture
from loam.ui.views.apply.car_drawing import draw_car
from loam.ui.views.apply.stairs_drawing import draw_stairs


def car_picture(job: Job, rooms: Mapping[str, Room], stairs: Stairs | None, lacks: str) -> Picture:
    """Return the car, its stairs below it, or with what they lack."""

    def draw(painter: QPainter, area: QRectF) -> None:
        high = area.height() * (0.58 if stairs is not None else 1.0)
        draw_car(painter, QRectF(area.left(), area.top(), area.width(), high), job, rooms)
        if stairs is not None:
            low = QRectF(area.left(), area.top() + high + 16, area.width(), 0)
            low.setBottom(area.bottom())
            draw_stairs(painter, low, stairs)

    said = stairs.advice if stairs is not None else lacks
    return Picture(job.name, job.name, said, 900.0, 900.0, draw)


def car_table(job: Job, rooms: Mapping[str, Room]) -> list[list[str]]:
    """Return its panels as a table, the heading first."""
    rows = []
    for p in job.working:
        room = rooms.get(p.key)
        thin = "" if room is None or room.thinnest is None else f"{room.thinnest:g}"
        may = "" if room is None or room.may_go is None else str(fixed(room.may_go, 0))
        rows.append([p.key, p.state_words, thin, may, p.done])
    return [["panel", "paint", "thinnest film, µm", "may go, µm", "done with"], *rows]
