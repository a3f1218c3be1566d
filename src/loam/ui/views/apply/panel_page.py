"""The page of a panel: the panel itself, its film read place by place, and what is on it."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from loam.app.session import Session
from loam.core.film.build import SUBSTRATES
from loam.core.units import percent
from loam.core.vehicle.events import DAMAGES, LEVELS, LIGHTS, STATES
from loam.core.vehicle.job import CarPart
from loam.core.vehicle.places import Place, next_place, usual_places
from loam.core.vehicle.room import SPOTS, Room
from loam.ui.views.apply.pages import Page, pressed
from loam.ui.views.apply.panel_drawing import PanelDrawing
from loam.ui.views.apply.photos import Photos, small_jpeg
from loam.ui.views.base import Key
from loam.ui.widgets.fields import Chips, Field, words
from loam.ui.widgets.tape import TapeKey

_HEAVIER = ("", *(key for key, _ in LEVELS))
_ANY = "any light"


class PanelPage(Page):
    """A panel: its film, place by place, and what it is."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.part: CarPart | None = None
        self.ring: Place | None = None
        self.rows.setSpacing(4)
        self.title = words("", "head")
        self.rows.addWidget(self.title)
        self.drawn = PanelDrawing()
        self.drawn.placed.connect(self.place_at)
        self.rows.addWidget(self.drawn, 1)
        row = QHBoxLayout()
        row.setSpacing(16)
        self.film = Field("Whole film at the ring", "film_um", unit="µm", width=90)
        self.film.line.returnPressed.connect(self._read)
        row.addWidget(self.film)
        self.edge = Chips("Where that is", "film_place", [("", "in the field"), ("edge", "edge")])
        self.edge.chosen.connect(self._edge)
        row.addWidget(self.edge)
        row.addStretch(1)
        self.scratch = TapeKey("", "a nail catches there", main=True)
        self.scratch.setObjectName("nail_here")
        self.scratch.clicked.connect(self._nail)
        row.addWidget(self.scratch, 0, Qt.AlignmentFlag.AlignBottom)
        self.rows.addLayout(row)
        self.said = words("", "", wrap=True)
        self.rows.addWidget(self.said)
        self.photos = Photos()
        self.rows.addWidget(self.photos)
        self.kind = Chips("", "damage_kind", list(DAMAGES), several=True, flows=True)
        self.kind.chosen.connect(self._heavier)
        self.light = Chips("", "damage_light", [(k, label or _ANY) for k, label in LIGHTS])
        self.light.set_value("")
        marks = QHBoxLayout()
        marks.addWidget(words("Marks seen; pressed again, heavier. Seen under", "small"))
        marks.addStretch(1)
        marks.addWidget(self.light)
        self.rows.addLayout(marks)
        self.rows.addWidget(self.kind)
        self.state = Chips("Its paint is", "paint_state", list(STATES), flows=True)
        self.state.chosen.connect(lambda k: self._set("state", k))
        self.rows.addWidget(self.state)
        self.more_key = TapeKey("", "more: made of, name, area, turn", main=True)
        self.more_key.clicked.connect(self._open)
        self.rows.addWidget(self.more_key)
        self.facts = QWidget()
        self._facts(QVBoxLayout(self.facts))
        self.facts.hide()
        self.rows.addWidget(self.facts)

    def _open(self) -> None:
        """Show the rest of what a panel is, or put it away again."""
        self.facts.setVisible(self.facts.isHidden())

    def _facts(self, rows: QVBoxLayout) -> None:
        rows.setContentsMargins(0, 0, 0, 0)
        made = QHBoxLayout()
        self.substrate = Chips("It is made of", "car_substrate", list(SUBSTRATES))
        self.substrate.chosen.connect(lambda k: self._set("substrate", k))
        made.addWidget(self.substrate)
        self.out = Chips("It is", "part_out", [("0", "worked"), ("1", "left out")])
        self.out.chosen.connect(lambda k: self._set("out", int(k)))
        made.addWidget(self.out)
        made.addStretch(1)
        rows.addLayout(made)
        grid = QGridLayout()
        self.label = Field("Called", "part_label", width=104)
        self.area = Field("Area", "area_m2", unit="m²", width=50)
        self.worked = Field("Taken earlier", "worked_um", unit="µm", width=50)
        self.turn = Field("Turn", "part_turn", width=36)
        fields = (
            (self.label, "label"),
            (self.area, "area_m2"),
            (self.worked, "worked_um"),
            (self.turn, "turn"),
        )
        for i, (field, name) in enumerate(fields):
            field.kept.connect(lambda t, f=field, n=name: self._typed(f, n, t))
            grid.addWidget(field, 0, i)
        self.more = Field("Add a panel", "new_part", placeholder="its name", width=96)
        self.more.line.returnPressed.connect(self._more)
        grid.addWidget(self.more, 0, len(fields))
        rows.addLayout(grid)

    def first(self) -> QWidget:
        return self.film.line

    def show_part(self, part: CarPart | None, room: Room | None) -> None:
        """Show a panel."""
        if part is None:
            return
        if self.part is None or part.key != self.part.key or part.survey != self.part.survey:
            self.ring = next_place(part) if part.gauged else None
        self.part = part
        count = len(part.survey)
        wanted = f" · {count} of {SPOTS} spots read" if part.gauged and count < SPOTS else ""
        name = part.key if part.label in part.key else f"{part.label} ({part.key})"
        self.title.setText(name + wanted)
        self.said.setText(room_words(part, room))
        self.photos.show_photos(part.photos)
        self.film.setEnabled(part.gauged)
        self.edge.setEnabled(part.gauged)
        self.state.set_value(part.state)
        self.substrate.set_value(part.substrate)
        self.label.set_text(part.label)
        self.area.set_text(f"{part.area_m2:g}")
        self.worked.set_text(f"{part.worked_um:g}" if part.worked_um else "")
        self.turn.set_text(str(part.turn))
        self.out.set_value(str(int(part.out)))
        for key, label in DAMAGES:
            level = part.damage.get(key, "")
            light = dict(LIGHTS).get(part.lights.get(key, ""), "")
            under = f", {light}" if light else ""
            self.kind.buttons[key].setText(f"{label}: {level}{under}" if level else label)
        self.kind.set_value(*part.damage)
        self._show_ring()

    def _show_ring(self) -> None:
        if self.part is not None:
            self.edge.set_value("edge" if self.ring is not None and self.ring.edge else "")
            self.drawn.show_part(self.part, self.ring)

    def place_at(self, place: Place) -> None:
        """Read the next spot at a place."""
        self.ring = place
        self._show_ring()
        self.film.line.setFocus(Qt.FocusReason.OtherFocusReason)

    def keys(self) -> list[Key]:
        """Return the keys of the page."""
        return [
            ("PgDn", "next place", partial(self.other_place, 1)),
            ("PgUp", "place before", partial(self.other_place, -1)),
        ]

    def other_place(self, step: int) -> None:
        """Turn to another of the usual places."""
        if self.part is None or not self.part.gauged:
            return
        usual = usual_places(self.part.outline)
        at = usual.index(self.ring) if self.ring in usual else -1 if step > 0 else 0
        self.ring = usual[(at + step) % len(usual)]
        self._show_ring()

    def _edge(self, where: str) -> None:
        """Say that the ring lies at an edge, or that it does not: it goes to such a place."""
        if self.part is None or self.ring is None or self.ring.edge == bool(where):
            return
        own = [p for p in usual_places(self.part.outline) if p.edge == bool(where)]
        read = [(s.x, s.y) for s in self.part.survey]
        self.ring = next((p for p in own if (p.x, p.y) not in read), own[0])
        self._show_ring()

    def box(self, measurand: str) -> Field:
        """Return the box of the film."""
        return self.film

    def place(self) -> str:
        """Return which panel is read, where a gauge can read it."""
        return self.part.key if self.part is not None and self.part.gauged else ""

    def _read(self) -> None:
        if not self.film.text():
            self.wanted.emit("film")
            return
        value = self.number(self.film, self.film.text())
        if value is not None:
            self.take("film", value)

    def take(self, measurand: str, value: float) -> None:
        """Keep a spot of the panel's film, at the ring."""
        if self.part is None:
            return
        facts: dict[str, object] = {"part": self.part.key, "film_um": value}
        if self.ring is not None:
            facts |= {"x": self.ring.x, "y": self.ring.y}
            facts |= {"place": "edge"} if self.ring.edge else {}
        self.film.set_text("")
        self.note.emit("film", facts, f"film of {self.part.key}", self.film)
        self.film.line.setFocus()

    def _nail(self) -> None:
        if self.part is not None:
            at = self.ring or Place(0.5, 0.5)
            facts = {"part": self.part.key, "x": at.x, "y": at.y}
            self.note.emit("nail", facts, "a mark that catches the nail", None)

    def take_picture(self, path: Path) -> None:
        """Keep a photograph of the panel.

        Raises
        ------
        ValueRefused
            For what is none.
        """
        image = small_jpeg(path)
        if self.part is not None:
            facts = {"part": self.part.key, "image": image, "words": path.stem[:120]}
            self.note.emit("photo", facts, f"a photograph of {self.part.key}", None)

    def _more(self) -> None:
        name = self.more.text()
        if name:
            self.more.set_text("")
            self.note.emit("part", {"part": name, "own": 1}, f"{name} is added", self.more)

    def _set(self, name: str, value: object) -> None:
        if self.part is not None:
            facts = {"part": self.part.key, name: value}
            self.note.emit("part", facts, f"{self.part.key} is changed", None)

    def _typed(self, field: Field, name: str, text: str) -> None:
        if self.part is None or not text:
            return
        value: object = text
        if name != "label":
            number = self.number(field, text)
            if number is None:
                return
            value = int(number) if name == "turn" and number == int(number) else number
        self.note.emit("part", {"part": self.part.key, name: value}, "a panel is changed", field)

    def _heavier(self, kind: str) -> None:
        """Say that marks of a sort are heavier than was said; after heavy, that there are none."""
        if self.part is None:
            return
        now = _HEAVIER.index(self.part.damage.get(kind, ""))
        level = _HEAVIER[(now + 1) % len(_HEAVIER)]
        light = pressed(self.light)
        facts = {"part": self.part.key, "kind": kind, "level": level}
        facts |= {"light": light} if light and level else {}
        self.note.emit("damage", facts, f"marks of {self.part.key}", None)


def room_words(part: CarPart, room: Room | None) -> str:
    """Say what a panel has room for."""
    if room is None:
        return ""
    if room.may_go is None:
        told = room.lacks[0].upper() + room.lacks[1:] if room.lacks else ""
        return f"{told}." if told else ""
    said = f"Up to {room.may_go:.0f} µm may go at its thinnest spot"
    if room.clear is not None:
        said += (
            f": its clear there is assumed to be {room.clear.mean:.0f} ± {room.clear.sd:.0f} µm,"
            " as a gauge reads the whole film"
        )
    if room.chance is not None:
        said += f". One set of what is planned leaves enough with {percent(room.chance)}"
    if room.unlike:
        said += ". Its film is unlike the other panels: painted again, or filled?"
    return said.rstrip(".") + "."
