"""Panels: what each is, and how it is taped."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.changes import CELLS, COMBINATIONS, PANELS, READINGS, Changes
from loam.app.commands import (
    AddPanel,
    AddSpot,
    EditPanel,
    PutPanelAway,
    StrikeSpot,
)
from loam.app.presenters.film import film_state
from loam.app.presenters.hardness_check import Answers, answers
from loam.app.presenters.kit import usual_panel
from loam.app.presenters.picture import assigned, surveyed
from loam.app.session import Session
from loam.core.errors import ValueRefused
from loam.core.film import FilmBuild, Spot
from loam.core.outline import Outline, Zone
from loam.core.panel import Taping
from loam.core.record.panel_facts import PANEL_FACTS
from loam.core.trial import Panel, Trial
from loam.store import panels as panel_store
from loam.store.database import reading_apart
from loam.store.panels import workshop_panels
from loam.ui.picture_out import Picture
from loam.ui.theme import look
from loam.ui.views.base import Key, Shell, View
from loam.ui.views.panels.film_sheet import FilmSheet
from loam.ui.views.panels.photo import PanelPhoto
from loam.ui.views.panels.tape_sheet import TapeSheet
from loam.ui.views.pictures import panels_picture
from loam.ui.widgets.fields import Chips, Field, words
from loam.ui.widgets.panel_drawing import PanelDrawing
from loam.ui.widgets.rows import ListRow
from loam.ui.widgets.scroll_stack import Stack
from loam.ui.widgets.shelf import Shelf
from loam.ui.widgets.tape import TapeKey

TAPE, FILM_PAGE, BUILD = _PAGES = ("tape", "film", "build")


def another_panel(session: Session, trial: Trial, like: Panel | None = None) -> Panel:
    """Return a new panel with a free name, taped like another one."""
    panels = session.panels()
    names = {p.name for p in panels}
    number = next(i for i in range(1, len(names) + 2) if f"Panel {i}" not in names)
    like = like or (panels[-1] if panels else None)
    return Panel(
        0,
        trial.id,
        f"Panel {number}",
        like.hardness if like else "medium",
        like.taping if like else usual_panel(session),
        like.paint if like else "",
        build=like.build if like else FilmBuild(),
        outline=like.outline if like else Outline(),
        facts=like.facts if like else {},
    )


class PanelsView(View):
    """Panels on the left, the drawing in the middle, its figures on the right."""

    step = "panels"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.chosen: int | None = None
        self.workshop = False
        self.spot: tuple[float, float] | None = None
        self._answers: Answers | None = None
        self.photo = PanelPhoto(self)
        row = QHBoxLayout(self)
        row.setContentsMargins(24, 18, 24, 0)
        row.setSpacing(24)
        side = QWidget()
        side.setFixedWidth(look.wide(250))
        left = QVBoxLayout(side)
        left.setContentsMargins(0, 0, 0, 0)
        self.shelf = Shelf("Panels", "panels", "panels of this trial")
        self.shelf.chosen.connect(self._choose)
        self.shelf.turned.connect(self._turned)
        self.list = self.shelf.list
        left.addWidget(self.shelf, 1)
        row.addWidget(side)
        middle = self.middle = QVBoxLayout()
        self.empty = words(
            "A panel is drawn to scale as you type its size and tape: cells in rows and columns,"
            " the gap between them, and the margin left free along the edges, where paint is thin.",
            "lead",
            wrap=True,
        )
        self.first = TapeKey("Ctrl+N", "add a panel", main=True)
        self.first.clicked.connect(self.add)
        self.drawing = PanelDrawing()
        self.drawing.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.drawing.spot_chosen.connect(self._point)
        self.drawing.zone_drawn.connect(lambda *zone: self._keep_free(zone))
        self.drawing.zone_clicked.connect(lambda number: self.tape.give_back(number))
        self.drawing.zones = True
        middle.addWidget(self.empty)
        middle.addWidget(self.first)
        middle.addWidget(self.drawing, 1)
        self.filler = QWidget()
        middle.addWidget(self.filler, 1)
        row.addLayout(middle, 1)
        self.sheet = self._form()
        row.addWidget(self.sheet)

    def _form(self) -> QWidget:
        sheet = QWidget()
        sheet.setObjectName("sheet")
        sheet.setFixedWidth(look.wide(310))
        box = QVBoxLayout(sheet)
        box.setContentsMargins(20, 14, 20, 12)
        box.setSpacing(10)
        self.pages = Chips(
            "", "panel_pages", [(TAPE, "size, tape"), (FILM_PAGE, "film"), (BUILD, "build")]
        )
        self.pages.chosen.connect(self._turn_page)
        self.pages.set_value(TAPE)
        box.addWidget(self.pages)
        self.stack = Stack()
        self.stack.setObjectName("sheet")
        self.tape = TapeSheet(self.session)
        self.tape.changed.connect(lambda field, values: self._change(field, **values))
        self.name, self.hardness, self.fields = (
            self.tape.name,
            self.tape.hardness,
            self.tape.fields,
        )
        self.stack.addWidget(self.tape)
        self.film = FilmSheet(self.session)
        self.film.built.connect(lambda field, build: self._change(field, build=build))
        self.film.painted.connect(lambda field, text: self._change(field, paint=text))
        self.film.told.connect(lambda field, facts: self._change(field, facts=facts))
        self.film.read.connect(self._read)
        self.middle.addWidget(self.film.core, 1)
        self.film.core.hide()
        self.stack.addWidget(self.film)
        self.stack.addWidget(self.film.record)
        box.addWidget(self.stack, 1)
        return sheet

    def keys(self) -> list[Key]:
        found: list[Key] = [("Ctrl+N", "new panel", self.add)]
        if self.panel is not None or self.shelf.away:
            found += [
                ("Ctrl+D", "a copy", self.copy),
                ("Ctrl+Del", self.shelf.put_words, self.put_away),
            ]
        if self.panel is not None:
            turned = ("its film", "its build", "size and tape")[self.stack.currentIndex()]
            found.append(("Ctrl+T", turned, self.turn_page))
        if self.session.trial is not None:
            said = "tape it here" if self.workshop else "one of the workshop"
            found.append(("Ctrl+G", said, self.from_workshop))
        if self.workshop:
            found += [
                ("Enter", "tape it here", self.from_workshop),
                ("Esc", "the trial's own", self.leave_workshop),
            ]
        return [
            *found,
            ("Ctrl+H", self.shelf.turn_words, self.shelf.turn_away),
            ("PgUp", "panel before", lambda: self.turn(-1)),
            ("PgDn", "next panel", lambda: self.turn(1)),
        ]

    def more_keys(self) -> list[Key]:
        found: list[Key] = [("Ctrl+F", "search the panels", self.shelf.search_for)]
        if self.panel is not None:
            said = (
                "strike the last reading of the film"
                if self.on_film
                else ("let cells lie where was kept free last")
            )
            found += [
                ("Ctrl+B", said, self.strike_spot if self.on_film else self.give_back),
                (
                    "Ctrl+V",
                    "lay the copied picture under the panel",
                    lambda: self._with_panel(self.photo.paste),
                ),
                (
                    "Ctrl+M",
                    "take the photograph away",
                    lambda: self._with_panel(self.photo.take_away),
                ),
            ]
        return found

    @property
    def on_film(self) -> bool:
        """Whether the film is looked at, not tape or build."""
        return _PAGES[self.stack.currentIndex()] == FILM_PAGE

    @property
    def on_build(self) -> bool:
        """Whether the build is looked at."""
        return _PAGES[self.stack.currentIndex()] == BUILD

    def turn_page(self) -> None:
        """Turn to the next page: size and tape, film, build."""
        self._turn_page(_PAGES[(self.stack.currentIndex() + 1) % len(_PAGES)])

    def _turn_page(self, page: str) -> None:
        self.stack.setCurrentIndex(_PAGES.index(page))
        self.pages.set_value(page)
        self.drawing.surveys = self.on_film
        self.drawing.zones = page == TAPE
        self.spot = None
        self._show()
        self.shell.keys_changed()
        first = {TAPE: self.name, FILM_PAGE: self.film.figure, BUILD: self.film.first()}
        first[page].line.setFocus()

    def _point(self, x_mm: float, y_mm: float) -> None:
        """Read next where the panel was clicked."""
        self.spot = (round(x_mm, 1), round(y_mm, 1))
        self._show()
        self.film.figure.line.setFocus()

    def _read(self, film_um: float) -> None:
        panel, trial = self.panel, self.session.trial
        if panel is None or trial is None:
            return
        x, y = film_state(self.session, panel, self.spot).next_spot
        self.spot = None
        self.act(AddSpot(trial.id, panel.physical, Spot(x, y, film_um)), self.film.figure)
        self.film.figure.line.setFocus()

    def strike_spot(self) -> None:
        """Let the last reading of the film count no longer."""
        panel, trial = self.panel, self.session.trial
        found = film_state(self.session, panel).survey if panel is not None else None
        if found is None or trial is None:
            self.shell.say("There is no reading of this film to strike.")
            return
        self.act(StrikeSpot(trial.id, found.spots[-1].id))

    def _keep_free(self, zone: tuple[float, ...]) -> None:
        try:
            self.tape.keep_free(Zone(*zone))
        except ValueRefused as error:
            self.shell.say(str(error), care=True)

    def give_back(self) -> None:
        """Let cells lie again where was kept free last."""
        if not self.tape.give_back():
            self.shell.say("Nothing of this panel is kept free.")

    def take_picture(self, path: Path) -> bool:
        if self.panel is not None:
            self.photo.take(self.panel, path)
        return True

    def _with_panel(self, act: Callable[[Panel], None]) -> None:
        if self.panel is not None:
            act(self.panel)

    def _turned(self) -> None:
        self._show_list()
        self.shell.keys_changed()

    def put_away(self) -> None:
        """Take the panel that is shown out of the trial, with its readings; or bring one back."""
        trial, panel = self.session.trial, self.panel
        if trial is None:
            return
        if not self.shelf.away:
            if panel is not None:
                self.act(PutPanelAway(trial.id, id=panel.id))
            return
        marked = self.list.marked()
        if marked is not None and self.act(PutPanelAway(trial.id, id=marked, away=False)):
            self.shelf.away, self.chosen = False, marked
            self._show()
            self.shell.keys_changed()

    def from_workshop(self) -> None:
        """Show the workshop's panels; the second time tape the marked one for this trial."""
        trial = self.session.trial
        if trial is None:
            return
        if not self.workshop:
            self.workshop, self.shelf.away = True, False
            self._turned()
            self.list.setFocus()
            if self.list.count() == 0:
                self.shell.say("The workshop has no other panel yet.")
                self.leave_workshop()
            elif self.list.currentRow() < 0:
                self.list.setCurrentRow(0)
            return
        marked = self.list.marked()
        known = workshop_panels(self.session.workshop.connection)
        found = next((w for w in known if w.id == marked), None)
        self.leave_workshop()
        if found is None:
            return
        like = self.panel.taping if self.panel is not None else usual_panel(self.session)
        try:
            taping = replace(like, width_mm=found.width_mm, height_mm=found.height_mm)
        except ValueRefused:
            taping = Taping(found.width_mm, found.height_mm, 1, 1, 0.0, 0.0)
        panel = Panel(
            0,
            trial.id,
            found.name,
            found.hardness,
            taping,
            found.paint,
            found.id,
            found.build,
            found.outline,
            found.facts,
        )
        command = AddPanel(panel)
        if self.act(command):
            self._choose(command.id)

    def leave_workshop(self) -> None:
        """Show the trial's own panels again."""
        if self.workshop:
            self.workshop = False
            self._turned()

    def copy(self) -> None:
        """Add a panel like the one that is shown."""
        self.add()

    def picture(self) -> Picture | None:
        trial = self.session.trial
        return panels_picture(self.session, trial.name) if trial is not None else None

    def table(self) -> list[list[str]]:
        size = self.session.unit("size")
        head = [
            "panel",
            "hardness",
            "paint",
            f"width, {size.symbol}",
            f"height, {size.symbol}",
            "rows",
            "columns",
            *(f.label.lower() for f in PANEL_FACTS),
        ]
        rows = [
            [
                p.name,
                p.hardness,
                p.paint,
                self.tape.figure("width_mm", p.taping.width_mm),
                self.tape.figure("height_mm", p.taping.height_mm),
                str(p.taping.rows),
                str(p.taping.columns),
                *(f.write(p.facts.get(f.key)) for f in PANEL_FACTS),
            ]
            for p in self.session.panels()
        ]
        return [head, *rows] if rows else []

    @property
    def panel(self) -> Panel | None:
        """The panel that is shown."""
        return next((p for p in self.session.panels() if p.id == self.chosen), None)

    def entered(self) -> None:
        if self.panel is None:
            self.first.setFocus()
        else:
            self.list.setFocus()

    def refresh(self, changes: Changes) -> None:
        if changes.touches(PANELS) or not changes.kinds:
            known = [p.id for p in self.session.panels()]
            if self.chosen not in known:
                self.chosen = known[0] if known else None
        if changes.touches(PANELS, READINGS, CELLS, COMBINATIONS) or not changes.kinds:
            self._ask_answers()
        self._show()

    def _show(self) -> None:
        self._show_list()
        panel = self.panel
        for widget, shown in (
            (self.empty, panel is None),
            (self.first, panel is None and self.session.trial is not None),
            (self.filler, panel is None),
            (self.drawing, panel is not None and not self.on_build),
            (self.film.core, panel is not None and self.on_build),
            (self.sheet, panel is not None),
        ):
            widget.setVisible(shown)
        if panel is None:
            return
        if self.stack.currentIndex():
            state = film_state(self.session, panel, self.spot)
            self.film.show_film(panel, state)
        self.drawing.photo = self.photo.of(panel)
        if self.on_film:
            self.drawing.show_picture(surveyed(self.session, panel, state))
        else:
            self.drawing.show_picture(assigned(self.session, panel))
        self._show_tape(panel)

    def _show_tape(self, panel: Panel) -> None:
        said, warn = self._answer_of(panel)
        self.tape.show_panel(panel, said, warn=warn)

    def _answer_of(self, panel: Panel) -> tuple[str, bool]:
        """Return how a panel's readings fit its class, and whether to mind it."""
        if self._answers is None:
            return "", False
        return self._answers.said(panel.physical, panel.hardness)

    def _ask_answers(self) -> None:
        """See on the worker how the panels answer, against what they are declared to be."""
        source = self.session.workshop.reads
        declared = {p.physical: p.hardness for p in self.session.panels()}

        def work() -> Answers:
            with reading_apart(source) as db:
                return answers(db, declared)

        self.shell.jobs.start("answers", work, self._answered, lambda _e: None)

    def _answered(self, found: Answers) -> None:
        self._answers = found
        if (panel := self.panel) is not None:
            said, warn = self._answer_of(panel)
            self.tape.show_answer(said, warn=warn)

    def _show_list(self) -> None:
        db, trial_id = self.session.workshop.connection, self.session.trial_id
        if self.workshop:
            here = {p.physical for p in self.session.panels()}
            others = [w for w in workshop_panels(db) if w.id not in here]
            self.shelf.show_rows(
                [
                    ListRow(
                        w.id,
                        w.name,
                        f"{w.ground} · "
                        + (f"in {', '.join(w.trials)}" if w.trials else "in no trial now"),
                    )
                    for w in others
                ],
                None,
            )
            return
        shown = self.session.panels()
        if self.shelf.away:
            shown = panel_store.panels(db, trial_id, away=True) if trial_id else []
        rows = [
            ListRow(p.id, p.name, f"{p.ground} · {p.taping.rows} × {p.taping.columns} cells")
            for p in shown
        ]
        self.shelf.show_rows(rows, None if self.shelf.away else self.chosen)

    def _choose(self, row_id: int) -> None:
        if not self.shelf.away and not self.workshop:
            self.chosen, self.spot = row_id, None
            self._show()

    def turn(self, step: int) -> None:
        """Turn to the panel before or after."""
        ids = [p.id for p in self.session.panels()]
        if self.chosen in ids:
            self._choose(ids[(ids.index(self.chosen) + step) % len(ids)])

    def add(self) -> None:
        """Add a panel, taped like the one that is shown."""
        trial = self.session.trial
        if trial is None:
            self.shell.say("Start a trial first.", care=True)
            return
        panel = another_panel(self.session, trial, self.panel)
        command = AddPanel(panel)
        if self.act(command):
            self._choose(command.id)
            self.name.line.setFocus()
            self.name.line.selectAll()

    def _change(self, field: Field | None, **values: object) -> None:
        panel = self.panel
        if panel is None:
            return
        try:
            after = replace(panel, **values)  # type: ignore[arg-type]
        except ValueRefused as error:
            if field is not None:
                field.complain(f"{error.what} {error.todo}".strip())
            return
        if after != panel and not self.act(EditPanel(panel, after), field) and field is None:
            self._show()
