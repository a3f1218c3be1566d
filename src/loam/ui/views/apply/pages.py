"""The pages beside the car: a panel and its film, what is wanted, how hard it is, a spot."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from loam.app.applying.aims import PRESETS
from loam.app.applying.at_hand import keep_price, prices_of
from loam.app.session import Session
from loam.core.errors import ValueRefused
from loam.core.film.build import SUBSTRATES
from loam.core.readings import kind_of
from loam.core.units import parse_number, percent
from loam.core.vehicle.events import DAMAGES, LEVELS, STATES
from loam.core.vehicle.job import CarPart, Job
from loam.core.vehicle.room import SPOTS, Room
from loam.ui.views.apply.photos import Photos, small_jpeg
from loam.ui.widgets.fields import Chips, Field, words
from loam.ui.widgets.tape import TapeKey


class Page(QWidget):
    """``note`` carries the sort of a note, its facts, what was done, and the field it came from.

    ``wanted`` carries a measurand whose box is empty at Enter: a meter may read it.
    """

    note = pyqtSignal(str, object, str, object)
    wanted = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.rows = QVBoxLayout(self)
        self.rows.setContentsMargins(0, 0, 0, 0)
        self.rows.setSpacing(8)

    def first(self) -> QWidget:
        """Return what takes the keyboard."""
        return self.findChildren(Field)[0].line

    def number(self, field: Field, text: str) -> float | None:
        """Read a number; one that is none is said in place."""
        try:
            return parse_number(text) if text else None
        except ValueRefused as error:
            field.complain(f"{error.what} {error.todo}".strip())
            return None


class PanelPage(Page):
    """A panel: its film, spot by spot, and what it is."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.part: CarPart | None = None
        self.rows.setSpacing(4)
        self.title = words("", "head")
        self.rows.addWidget(self.title)
        row = QHBoxLayout()
        self.film = Field("Whole film, one spot after the other", "film_um", unit="µm", width=90)
        self.film.line.returnPressed.connect(self._read)
        row.addWidget(self.film)
        self.edge = Chips("Where", "film_place", [("", "in the field"), ("edge", "at an edge")])
        self.edge.set_value("")
        row.addWidget(self.edge)
        row.addStretch(1)
        self.rows.addLayout(row)
        self.spots = words("", "figure", wrap=True)
        self.rows.addWidget(self.spots)
        self.said = words("", "", wrap=True)
        self.rows.addWidget(self.said)
        self.photos = Photos()
        self.rows.addWidget(self.photos)
        self.state = Chips("Its paint is", "paint_state", list(STATES), flows=True)
        self.state.chosen.connect(lambda k: self._set("state", k))
        self.rows.addWidget(self.state)
        self.substrate = Chips("It is made of", "car_substrate", list(SUBSTRATES))
        self.substrate.chosen.connect(lambda k: self._set("substrate", k))
        self.rows.addWidget(self.substrate)
        grid = QGridLayout()
        self.label = Field("Called", "part_label", width=120)
        self.area = Field("Area", "area_m2", unit="m²", width=62)
        self.worked = Field("Clear taken earlier", "worked_um", unit="µm", width=62)
        self.turn = Field("Turn", "part_turn", width=46)
        for i, (field, name) in enumerate(
            (
                (self.label, "label"),
                (self.area, "area_m2"),
                (self.worked, "worked_um"),
                (self.turn, "turn"),
            )
        ):
            field.kept.connect(lambda t, f=field, n=name: self._typed(f, n, t))
            grid.addWidget(field, 0, i)
        self.rows.addLayout(grid)
        self.kind = Chips("Marks seen", "damage_kind", list(DAMAGES), flows=True)
        self.kind.chosen.connect(lambda _k: self._show_level())
        self.level = Chips("How heavy", "damage_level", [("", "none"), *LEVELS])
        self.level.chosen.connect(self._damage)
        self.rows.addWidget(self.kind)
        self.out = Chips("It is", "part_out", [("0", "worked"), ("1", "left out")])
        self.out.chosen.connect(lambda k: self._set("out", int(k)))
        foot = QHBoxLayout()
        foot.addWidget(self.level)
        foot.addWidget(self.out)
        self.more = Field("Add a panel", "new_part", placeholder="its name", width=110)
        self.more.line.returnPressed.connect(self._more)
        foot.addWidget(self.more)
        foot.addStretch(1)
        self.rows.addLayout(foot)
        self.rows.addStretch(1)

    def show_part(self, part: CarPart | None, room: Room | None) -> None:
        """Show a panel."""
        self.part = part
        if part is None:
            return
        self.title.setText(part.key if part.label in part.key else f"{part.label} ({part.key})")
        every = [f"{v:g}" for v in part.film] + [f"{v:g} (edge)" for v in part.edge]
        lacking = max(0, SPOTS - len(every))
        more = f" · {lacking} more wanted" if lacking and part.gauged else ""
        self.spots.setText((" · ".join(every) or "no spot read yet") + more)
        self.said.setText(room_words(part, room))
        self.photos.show_photos(part.photos)
        self.film.setEnabled(part.gauged)
        self.state.set_value(part.state)
        self.substrate.set_value(part.substrate)
        self.label.set_text(part.label)
        self.area.set_text(f"{part.area_m2:g}")
        self.worked.set_text(f"{part.worked_um:g}" if part.worked_um else "")
        self.turn.set_text(str(part.turn))
        self.out.set_value(str(int(part.out)))
        if not self.kind.value():
            self.kind.set_value(next(iter(part.damage), DAMAGES[0][0]))
        self._show_level()

    def _show_level(self) -> None:
        if self.part is not None:
            self.level.set_value(self.part.damage.get(pressed(self.kind), ""))

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
        """Keep a spot of the panel's film."""
        if self.part is None:
            return
        place = pressed(self.edge)
        facts = {"part": self.part.key, "film_um": value} | ({"place": place} if place else {})
        self.film.set_text("")
        self.note.emit("film", facts, f"film of {self.part.key}", self.film)
        self.film.line.setFocus()

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

    def _damage(self, level: str) -> None:
        if self.part is not None and pressed(self.kind):
            facts = {"part": self.part.key, "kind": pressed(self.kind), "level": level}
            self.note.emit("damage", facts, f"marks of {self.part.key}", None)


def pressed(chips: Chips) -> str:
    """Return the one that is pressed, or ""."""
    return next(iter(chips.value()), "")


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


class AimPage(Page):
    """What is wanted: presets, limits, the clear that stays, the customer's say, what it is worth.

    ``priced`` says that what an hour or the aim is worth was changed, for all cars.
    """

    priced = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.rows.addWidget(words("What is wanted of this vehicle", "head"))
        self.presets = Chips("Fit for", "presets", [(k, label) for k, label, _, _ in PRESETS])
        self.presets.chosen.connect(lambda k: self.note.emit("preset", {"preset": k}, "aim", None))
        self.rows.addWidget(self.presets)
        grid = QGridLayout()
        self.fields: dict[tuple[str, str], Field] = {}
        for i, (m, side, label) in enumerate(
            (
                ("defects", "at_least", "Marks gone, at least"),
                ("haze", "at_most", "Haze at most"),
                ("gloss20", "at_least", "Gloss 20° at least"),
            )
        ):
            kind = kind_of(m)
            field = Field(label, f"aim_{m}", unit=kind.unit, width=70)
            field.kept.connect(lambda t, f=field, k=m, s=side: self._limit(f, k, s, t))
            self.fields[m, side] = field
            grid.addWidget(field, 0, i)
        self.keep = Field("Clear to keep everywhere", "keep_um", unit="µm", width=70)
        self.keep.kept.connect(lambda t: self._wish(self.keep, "keep_um", t))
        self.minutes = Field("Minutes, at most", "aim_minutes", unit="min", width=70)
        self.minutes.kept.connect(lambda t: self._wish(self.minutes, "minutes", t))
        grid.addWidget(self.keep, 1, 0)
        grid.addWidget(self.minutes, 1, 1)
        self.rows.addLayout(grid)
        self.say = Field("What the customer says", "customer_say")
        self.say.kept.connect(lambda t: self.note.emit("wish", {"say": t}, "the say", self.say))
        self.rows.addWidget(self.say)
        worth = QHBoxLayout()
        self.worth = {
            "hour_um": Field("An hour is worth, of clear", "hour_um", unit="µm", width=70),
            "aim_um": Field("Reaching the aim is worth", "aim_um", unit="µm", width=70),
        }
        for name, field in self.worth.items():
            field.kept.connect(lambda t, f=field, n=name: self._price(f, n, t))
            worth.addWidget(field)
        worth.addStretch(1)
        self.rows.addLayout(worth)
        self.house = Chips("House process", "house", [], flows=True)
        self.house.chosen.connect(
            lambda k: self.note.emit("basis", {"house": k}, "the house process", None)
        )
        self.rows.addWidget(self.house)
        self.rows.addStretch(1)

    def show_job(self, job: Job, codes: Sequence[str]) -> None:
        """Show what is wanted."""
        self.presets.set_value(job.preset)
        limits = {w.measurand: w for w in job.aim}
        for (m, side), field in self.fields.items():
            value = getattr(limits[m], side) if m in limits else None
            field.set_text("" if value is None else f"{value:g}")
        self.keep.set_text(f"{job.keep_um:g}")
        self.minutes.set_text("" if job.minutes is None else f"{job.minutes:g}")
        self.say.set_text(job.say)
        prices = prices_of(self.session)
        self.worth["hour_um"].set_text(f"{prices.clear_per_minute * 60:.3g}")
        self.worth["aim_um"].set_text(f"{prices.give_up:g}")
        self.house.setVisible(bool(codes))
        self.house.set_choices([(c, c) for c in codes])
        self.house.set_value(job.house)

    def _limit(self, field: Field, m: str, side: str, text: str) -> None:
        value = self.number(field, text)
        if text and value is None:
            return
        facts = {"measurand": m} | ({side: value} if value is not None else {})
        self.note.emit("aim", facts, "what is wanted", field)

    def _price(self, field: Field, name: str, text: str) -> None:
        value = self.number(field, text)
        if value is None:
            return
        try:
            keep_price(self.session, name, value)
        except ValueRefused as error:
            field.complain(error.what)
            return
        field.complain("")
        self.priced.emit()

    def _wish(self, field: Field, name: str, text: str) -> None:
        value = self.number(field, text)
        if value is not None:
            self.note.emit("wish", {name: value}, "what is wanted", field)


class HardPage(Page):
    """How hard the clear may be, and what that rests on."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.rows.addWidget(words("How hard is its clear?", "head"))
        self.paint = Field("Its paint line, where it is known", "car_paint")
        self.paint.kept.connect(self._painted)
        self.rows.addWidget(self.paint)
        self.alike = words("", "", wrap=True)
        self.rows.addWidget(self.alike)
        self.take_key = TapeKey("", "take that", main=True)
        self.take_key.clicked.connect(self._take)
        self.rows.addWidget(self.take_key)
        self._like: Mapping[str, float] = {}
        self._shape = ""
        self.said = words("", "", wrap=True)
        self.rows.addWidget(self.said)
        self.likely = Chips(
            "Most likely",
            "likely",
            [("", "not known"), ("soft", "soft"), ("medium", "medium"), ("hard", "hard")],
        )
        self.likely.chosen.connect(self._likely)
        self.rows.addWidget(self.likely)
        row = QHBoxLayout()
        self.fields = {h: Field(h, f"chance_{h}", unit="%", width=62) for h in _CLASSES}
        for field in self.fields.values():
            field.kept.connect(lambda _t: self._keep())
            row.addWidget(field)
        row.addStretch(1)
        self.rows.addLayout(row)
        self.why = Field("What that rests on", "hardness_why", placeholder="pencil, its maker, …")
        self.why.kept.connect(lambda _t: self._keep())
        self.rows.addWidget(self.why)
        self.rows.addStretch(1)

    def show_job(self, job: Job, like: Mapping[str, float]) -> None:
        """Show the chances; ``like`` is how hard earlier cars of the same paint line were."""
        self._like, self._shape = like, job.shape.key
        self.paint.set_text(job.paint)
        told = [f"{h} {percent(p)}" for h, p in sorted(like.items(), key=lambda i: -i[1])]
        self.alike.setText(f"Earlier cars of this paint line: {', '.join(told)}." if told else "")
        self.alike.setVisible(bool(told))
        self.take_key.setVisible(bool(told))
        for h, field in self.fields.items():
            field.set_text(f"{100 * job.chances.get(h, 0.0):.0f}")
        self.why.set_text(job.why)
        sure = max(job.chances, key=lambda h: job.chances[h]) if job.known else ""
        self.likely.set_value(sure if job.chances.get(sure, 0.0) > 0.5 else "")
        self.said.setText(
            "Unknown until it is shown: give chances from what is known of its paint line, its"
            " maker's word or a pencil. Every test spot then moves them."
        )

    def _painted(self, text: str) -> None:
        facts = {"shape": self._shape, "paint": text}
        self.note.emit("vehicle", facts, "its paint line", self.paint)

    def _take(self) -> None:
        chances = {h: round(self._like.get(h, 0.0), 4) for h in _CLASSES}
        facts: dict[str, object] = {**chances, "why": "earlier cars of its paint line"}
        self.note.emit("hardness", facts, "how hard it is", None)

    def _likely(self, hardness: str) -> None:
        chances = {h: (0.8 if h == hardness else 0.1) if hardness else 1.0 / 3 for h in _CLASSES}
        why = self.why.text()
        facts: dict[str, object] = {**chances} | ({"why": why} if why else {})
        self.note.emit("hardness", facts, "how hard it is", None)

    def _keep(self) -> None:
        chances = {}
        for h, field in self.fields.items():
            value = self.number(field, field.text())
            if value is None:
                return
            chances[h] = value / 100.0
        why = self.why.text()
        facts: dict[str, object] = {**chances} | ({"why": why} if why else {})
        self.note.emit("hardness", facts, "how hard it is", self.why)


_CLASSES = ("soft", "medium", "hard")
