"""Units, size of text, light, and how cells are read: what a person sets once."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from loam.app.changes import Changes
from loam.app.presenters.budget_rule import RULE
from loam.app.presenters.working import heat_limit
from loam.core.film.budget import FLOOR_UM, SHARE
from loam.core.units import QUANTITIES
from loam.ui import sounds
from loam.ui.keys import LIGHTS_KEY
from loam.ui.theme import look
from loam.ui.views.base import Key, Shell, View
from loam.ui.widgets.fields import Chips, words

SAMPLES: dict[str, tuple[str, float, int]] = {
    "film": ("film of a panel", 112.0, 0),
    "size": ("width of a cell", 160.0, 0),
    "force": ("firm hand", 70.0, 0),
    "temperature": ("panel after work", 41.5, 1),
}
LABELS = {
    "film": "Film and clear",
    "size": "Panels and cells",
    "force": "Force",
    "temperature": "Temperature",
}


SHARES = (25, 33, 50, 60)
FLOORS = (10.0, 15.0, 20.0, 25.0)
HEAT_LIMITS = (30.0, 35.0, 40.0, 45.0, 50.0, 60.0)


class _Ruler(QWidget):
    """A quantity on two rulers: in the unit it is kept in, and in the one it is shown in."""

    def __init__(self, quantity: str, shown: str) -> None:
        super().__init__()
        self.quantity = quantity
        self.unit = next(u for u in QUANTITIES[quantity] if u.symbol == shown)
        self.setFixedHeight(look.px(58))
        label, value, decimals = SAMPLES[quantity]
        self.said = (
            f"{label}: {self.unit.shown(value):.{decimals + self.unit.finer}f} {self.unit.symbol}"
        )
        self.setAccessibleName(self.said)

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setPen(look.ink)
        painter.setFont(look.words(14))
        metrics = painter.fontMetrics()
        painter.drawText(0, metrics.ascent() + 2, self.said)
        y = metrics.height() + 8
        _, value, _ = SAMPLES[self.quantity]
        reach = 1.25 * value
        width = min(self.width() - 2.0, look.px(620))
        painter.fillRect(QRectF(0, y, width * value / reach, look.px(6)), look.strong)
        painter.setPen(look.quiet)
        low, high = self.unit.shown(0.0), self.unit.shown(reach)
        step = _step(high - low)
        first = int(-(-low // step))
        painter.setFont(look.figures(11))
        for i in range(first, int(high // step) + 1):
            x = (i * step - low) / (high - low) * width
            painter.drawLine(int(x), y + look.px(6), int(x), y + look.px(11))
            label = QRectF(x - 40, y + look.px(11), 80, look.px(15))
            shown = f"{round(i * step, 6):g}"
            if x > 8:
                painter.drawText(label, Qt.AlignmentFlag.AlignHCenter, shown)


def _step(span: float) -> float:
    from loam.app.presenters.axis import ticks

    return ticks(0.0, span, 8)[2]


class SettingsView(View):
    """Chips for what is set, and a ruler that shows what it does."""

    step = "settings"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 18, 24, 12)
        box.setSpacing(16)
        box.addWidget(words("How Loam shows things", "title"))
        box.addWidget(
            words(
                "Everything is kept in one unit and shown in yours: a change changes no reading.",
                "quiet",
                wrap=True,
            )
        )
        grid = QGridLayout()
        grid.setHorizontalSpacing(28)
        grid.setVerticalSpacing(14)
        self.units: dict[str, Chips] = {}
        for i, (quantity, known) in enumerate(QUANTITIES.items()):
            shown = self.session.unit(quantity).symbol
            chips = Chips(
                LABELS[quantity], f"unit_{quantity}", [(u.symbol, u.symbol) for u in known]
            )
            chips.set_value(shown)
            chips.chosen.connect(lambda symbol, q=quantity: self._turn(q, symbol))
            self.units[quantity] = chips
            grid.addWidget(chips, i, 0)
            grid.addWidget(_Ruler(quantity, shown), i, 1)
        grid.setColumnStretch(1, 1)
        box.addLayout(grid)
        self.text = Chips(
            "Size of text", "text_size", [(str(n), f"{n} %") for n in (100, 125, 150, 175, 200)]
        )
        self.text.set_value(str(round(100 * look.scale)))
        self.text.chosen.connect(lambda key: shell.set_text(int(key)))
        box.addWidget(self.text)
        self.lights = Chips(
            "Light", "lights", [("bench", "bench, by day"), ("lights-out", "room lights off")]
        )
        self.lights.chosen.connect(self._light)
        box.addWidget(self.lights)
        self.together = Chips(
            "Reading",
            "reading_way",
            [("meter", "one meter after another"), ("cell", "all meters of a cell in one go")],
        )
        self.together.chosen.connect(lambda key: self.session.remember("reading_way", key))
        box.addWidget(self.together)
        self.sounds = Chips(
            "Heard: one for kept, three for asked back; at work every line, pass and the end",
            "sounds",
            [(sounds.ON, "heard"), (sounds.OFF, "silent")],
        )
        self.sounds.chosen.connect(lambda key: self.session.remember(sounds.KEY, key))
        box.addWidget(self.sounds)
        warm = self.session.unit("temperature")
        self.heat = Chips(
            "A panel cools before it is worked, above",
            "heat_limit",
            [(f"{c:g}", f"{warm.shown(c):.0f} {warm.symbol}") for c in HEAT_LIMITS],
        )
        self.heat.chosen.connect(lambda key: self.session.remember("heat_limit_c", float(key)))
        box.addWidget(self.heat)
        box.addWidget(words("How much of a coat may go", "title"))
        self.share = Chips(
            "Of a panel's coat may go, where the panel does not say otherwise",
            "budget_share",
            [(f"{s}", f"{s} %") for s in SHARES],
        )
        self.share.chosen.connect(lambda key: self._rule("share", int(key) / 100.0))
        box.addWidget(self.share)
        film = self.session.unit("film")
        self.floor = Chips(
            "And never less stays than",
            "budget_floor",
            [(f"{f:g}", f"{film.shown(f):.{film.finer}f} {film.symbol}") for f in FLOORS],
        )
        self.floor.chosen.connect(lambda key: self._rule("floor_um", float(key)))
        box.addWidget(self.floor)
        box.addStretch(1)

    def _rule(self, key: str, value: float) -> None:
        """Choose how much of a coat may go."""
        kept = self.session.recall(RULE, {})
        self.session.remember(RULE, {**(kept if isinstance(kept, dict) else {}), key: value})

    def keys(self) -> list[Key]:
        return [
            ("Tab", "next choice", None),
            ("← →", "another", None),
            ("Space", "take it", None),
            (LIGHTS_KEY, "lights", None),
        ]

    def entered(self) -> None:
        chips = next(iter(self.units.values()))
        chips.buttons[chips.value()[0]].setFocus()

    def refresh(self, changes: Changes) -> None:
        self.lights.set_value(look.tokens.name)
        self.together.set_value(self.session.recall("reading_way", "meter"))
        self.sounds.set_value(self.session.recall(sounds.KEY, sounds.ON))
        self.heat.set_value(f"{heat_limit(self.session):g}")
        kept = self.session.recall(RULE, {})
        kept = kept if isinstance(kept, dict) else {}
        self.share.set_value(f"{100 * kept.get('share', SHARE):.0f}")
        self.floor.set_value(f"{kept.get('floor_um', FLOOR_UM):g}")

    def _light(self, key: str) -> None:
        if key != look.tokens.name:
            self.shell.turn_lights()
        self.refresh(Changes(frozenset()))

    def _turn(self, quantity: str, symbol: str) -> None:
        self.session.choose_unit(quantity, symbol)
        self.shell.build_again()
        view = self.shell.view
        if isinstance(view, SettingsView):
            view.units[quantity].buttons[symbol].setFocus()
