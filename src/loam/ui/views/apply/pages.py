"""The pages beside the car: what is wanted, and how hard it is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from loam.app.applying.aims import PRESETS
from loam.app.applying.at_hand import keep_price, prices_of
from loam.app.session import Session
from loam.core.errors import ValueRefused
from loam.core.readings import kind_of
from loam.core.trial import HARDNESSES
from loam.core.units import parse_number, percent
from loam.core.vehicle.job import Job
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


def pressed(chips: Chips) -> str:
    """Return the one that is pressed, or ""."""
    return next(iter(chips.value()), "")


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
        self.fields = {h: Field(h, f"chance_{h}", unit="%", width=62) for h in HARDNESSES}
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
        chances = {h: round(self._like.get(h, 0.0), 4) for h in HARDNESSES}
        facts: dict[str, object] = {**chances, "why": "earlier cars of its paint line"}
        self.note.emit("hardness", facts, "how hard it is", None)

    def _likely(self, hardness: str) -> None:
        chances = {h: (0.8 if h == hardness else 0.1) if hardness else 1.0 / 3 for h in HARDNESSES}
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
