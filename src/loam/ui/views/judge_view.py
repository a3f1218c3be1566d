"""Judge: the ranking per hardness, the sentence, and a way to the readings behind any figure."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from loam.app.changes import CELLS, COMBINATIONS, PANELS, READINGS, TRIALS, Changes
from loam.app.presenters.judging import (
    Origin,
    RankingPicture,
    figures,
    has_film_pairs,
    judge_trial,
    load_origin,
    rankable,
    ranking_table,
    standing,
)
from loam.core.errors import LoamError
from loam.core.readings import FILM, kind_of
from loam.ui.picture_out import Picture
from loam.ui.theme import look
from loam.ui.theme.look import SMALL
from loam.ui.views.base import Key, Shell, View
from loam.ui.views.origin_page import OriginPage
from loam.ui.widgets.fields import Chips, FigureButton, words
from loam.ui.widgets.mark_picture import MarkPicture
from loam.ui.widgets.ranking_chart import RankingChart
from loam.ui.widgets.ranking_painter import draw_ranking
from loam.ui.widgets.room import Stack
from loam.ui.widgets.tape import TapeKey

_MATTERS = (TRIALS, PANELS, CELLS, COMBINATIONS, READINGS)


class JudgeView(View):
    """The ranking, and beside it one combination in detail."""

    step = "judge"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.measurand = "gloss20"
        self.rankings: dict[str, RankingPicture] = {}
        self.refusals: dict[str, str] = {}
        self._stale = True
        self._trial_shown: int | None = None
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 14, 24, 0)
        outer.setSpacing(8)
        self.question = words("", "title", wrap=True)
        outer.addWidget(self.question)
        self.sentence = words("", "lead", wrap=True)
        self.sentence.setObjectName("sentence")
        outer.addWidget(self.sentence)
        self.pages = Stack()
        outer.addWidget(self.pages, 1)
        self.pages.addWidget(self._ranking_page())
        self.origin = OriginPage(shell, self.close_origin)
        self.pages.addWidget(self.origin)

    def _ranking_page(self) -> QWidget:
        page = QWidget()
        page.setObjectName("ground")
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(6)
        self.kinds = Chips("", "judge_kinds", [])
        self.kinds.chosen.connect(self.turn)
        grid.addWidget(self.kinds, 0, 0)
        self.chart = RankingChart()
        self.chart.row_chosen.connect(lambda h, c: self._show_detail())
        self.chart.row_opened.connect(lambda h, c: self.open_origin())
        grid.addWidget(self.chart, 1, 0)
        self.caption = words("", "small", wrap=True)
        grid.addWidget(self.caption, 2, 0)
        self.notes = words("", "quiet", wrap=True)
        grid.addWidget(self.notes, 3, 0)
        grid.addWidget(self._detail(), 0, 1, 4, 1)
        grid.setColumnStretch(0, 1)
        grid.setRowStretch(1, 1)
        return page

    def _detail(self) -> QWidget:
        self.sheet = QWidget()
        self.sheet.setObjectName("sheet")
        self.sheet.setFixedWidth(look.wide(310))
        box = QVBoxLayout(self.sheet)
        box.setContentsMargins(18, 14, 18, 14)
        box.setSpacing(8)
        self.title = words("", "head")
        box.addWidget(self.title)
        self.what = words("", "quiet", wrap=True)
        box.addWidget(self.what)
        self.mark = MarkPicture(22, told=False)
        box.addWidget(self.mark)
        self.figure_grid = QGridLayout()
        self.figure_grid.setHorizontalSpacing(8)
        self.figure_grid.setVerticalSpacing(3)
        box.addLayout(self.figure_grid)
        self.chance = words("", "quiet", wrap=True)
        box.addWidget(self.chance)
        self.against = QGridLayout()
        self.against.setHorizontalSpacing(8)
        self.against.setVerticalSpacing(1)
        box.addLayout(self.against)
        box.addStretch(1)
        self.behind = TapeKey("Enter", "readings behind it", main=True)
        self.behind.setObjectName("readings_behind")
        self.behind.clicked.connect(self.open_origin)
        box.addWidget(self.behind)
        return self.sheet

    def keys(self) -> list[Key]:
        if self.pages.currentWidget() is self.origin:
            return self.origin.keys()
        return [
            ("arrows", "choose a row", None),
            ("Enter", "readings behind it", self.open_origin),
            ("M", "next measurand", self.next_kind),
            ("Ctrl+E", "write out", self.shell.write_out),
        ]

    def picture(self) -> Picture | None:
        trial, ranking = self.session.trial, self.ranking
        if trial is None or ranking is None:
            return None
        combinations, paints = self.chart.combinations, self.chart.paints
        lines = max(len(c.rows) + len(c.untested) for c in ranking.columns)
        words_above = f"{ranking.sentence}\n{self._caption(ranking)}"
        return Picture(
            f"{trial.name}, {ranking.label}",
            trial.question or trial.name,
            words_above,
            1120.0,
            max(420.0, 46.0 * lines + 90.0),
            lambda painter, area: draw_ranking(painter, area, ranking, combinations, paints=paints),
        )

    def table(self) -> list[list[str]]:
        if self.pages.currentWidget() is self.origin:
            return self.origin.rows()
        return ranking_table(self.ranking) if self.ranking is not None else []

    def entered(self) -> None:
        if self._stale:
            self._judge()
        self.chart.setFocus()

    def refresh(self, changes: Changes) -> None:
        if changes.touches(*_MATTERS):
            self._stale = True
        trial = self.session.trial
        self.question.setText(trial.question or trial.name if trial else "")
        if trial is None or trial.id != self._trial_shown:
            self._trial_shown = trial.id if trial else None
            self.rankings.clear()
            self.chart.chosen = None
            self.chart.show_ranking(None, {})
            self.pages.setCurrentIndex(0)
        if self.isVisible() and self._stale:
            self._judge()

    def _judge(self) -> None:
        self._stale = False
        self.refusals.clear()
        trial = self.session.trial
        for kind in list(self.rankings):
            self.shell.jobs.cancel(f"judge:{kind}")
        if trial is None:
            self._wait("Here the combinations are ranked. Start a trial first (F2).")
            return
        db = self.session.workshop.connection
        pairs = FILM.key in trial.measurands and has_film_pairs(db, trial.id)
        kinds = rankable(trial, pairs)
        self.kinds.set_choices([(k, kind_of(k).label) for k in kinds])
        if self.measurand not in kinds:
            self.measurand = kinds[0] if kinds else ""
        self.kinds.set_value(self.measurand)
        if not kinds:
            self._wait(
                "This trial reads nothing that can be ranked. Choose gloss, say, in Ask (F2)."
            )
            return
        if self.measurand not in self.rankings:
            self._wait("Judging the readings …")
        path, trial_id, seed = self.session.workshop.reads, trial.id, trial.seed
        for kind in sorted(kinds, key=lambda k: k != self.measurand):
            shown = self.session.kind(kind)
            self.shell.jobs.start(
                f"judge:{kind}",
                lambda k=shown: judge_trial(path, trial_id, k.key, seed, k),
                lambda found, t=trial_id: self._answer(t, found),
                lambda error, k=kind, t=trial_id: self._refused(t, k, error),
            )

    def _wait(self, said: str) -> None:
        self.chart.show_ranking(None, {}, said)
        for label in (self.sentence, self.caption, self.notes):
            label.setText("")
        self.sentence.hide()
        self.notes.hide()
        self.sheet.hide()

    def _answer(self, trial_id: int, found: RankingPicture) -> None:
        if trial_id != self.session.trial_id:
            return
        self.rankings[found.measurand] = found
        if found.measurand == self.measurand:
            self._show()
        elif self.sheet.isVisibleTo(self):
            self._show_detail()

    def _refused(self, trial_id: int, kind: str, error: LoamError) -> None:
        if trial_id != self.session.trial_id:
            return
        self.refusals[kind] = str(error)
        self.rankings.pop(kind, None)
        if kind == self.measurand:
            self._wait(str(error))

    @property
    def ranking(self) -> RankingPicture | None:
        """The ranking that is shown."""
        return self.rankings.get(self.measurand)

    def _show(self) -> None:
        ranking = self.ranking
        if ranking is None:
            self._wait(self.refusals.get(self.measurand, "Judging the readings …"))
            return
        combinations = {c.code: c for c in self.session.combinations()}
        paints: dict[str, set[str]] = {}
        for panel in self.session.panels():
            paints.setdefault(panel.hardness, set()).add(panel.paint)
        shared = {h: min(names) for h, names in paints.items() if len(names) == 1}
        self.chart.show_ranking(ranking, combinations, paints=shared)
        self.sentence.setText(ranking.sentence)
        self.sentence.show()
        self.caption.setText(self._caption(ranking))
        self.notes.setText(" ".join(ranking.notes))
        self.notes.setVisible(bool(ranking.notes))
        self.sheet.show()
        self._show_detail()
        if self.pages.currentWidget() is self.origin:
            self.open_origin()

    @staticmethod
    def _caption(ranking: RankingPicture) -> str:
        ties = {c.tie for c in ranking.columns}
        said = []
        if "equal" in ties:
            said.append("Whole tape: equal.")
        if "open" in ties:
            said.append("Tape in pieces: not settled yet.")
        return " ".join([*said, ranking.caption])

    def _show_detail(self) -> None:
        ranking, chosen = self.ranking, self.chart.chosen
        if ranking is None or chosen is None:
            return
        hardness, code = chosen
        c = next((x for x in self.session.combinations() if x.code == code), None)
        self.title.setText(f"{code} on {hardness} clear")
        self.what.setText(c.words() if c else "")
        self.mark.show_combination(c)
        self.mark.setVisible(c is not None)
        _clear(self.figure_grid)
        keys = list(self.kinds.buttons)
        row = 0
        for key in keys:
            found = figures(self.rankings[key], hardness, code) if key in self.rankings else []
            for f in found:
                self.figure_grid.addWidget(words(f.label, "quiet"), row, 0)
                value = FigureButton(f.value, f"{f.label} {f.value} {f.unit}: readings behind it")
                value.setObjectName(f"figure_{key}")
                value.clicked.connect(lambda _c=False, k=key: self.open_figure(k))
                self.figure_grid.addWidget(value, row, 1)
                self.figure_grid.addWidget(words(f.unit, "quiet"), row, 2)
                self.figure_grid.setRowMinimumHeight(row, look.px(25))
                row += 1
        self.figure_grid.setColumnStretch(1, 1)
        fit = max(2, (self.sheet.height() - 372) // 20)
        said = standing(ranking, hardness, code, fit)
        self.chance.setText(
            f"For {ranking.label}: {said[0][0].lower()}{said[0][1:]}" if said else ""
        )
        _clear(self.against)
        for i, line in enumerate(said[1:]):
            if "\t" not in line:
                self.against.addWidget(words(line, "small"), i, 0, 1, 3)
                continue
            other, difference, verdict = line.split("\t")
            self.against.addWidget(words(f"against {other}", "small"), i, 0)
            value = words(difference)
            value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            value.setFont(look.figures(SMALL - 1))
            self.against.addWidget(value, i, 1)
            self.against.addWidget(words(verdict, "small"), i, 2)
        self.against.setColumnStretch(1, 1)

    def turn(self, key: str) -> None:
        """Judge by another measurand."""
        self.measurand = key
        self.kinds.set_value(key)
        self._show()
        self.chart.setFocus()

    def next_kind(self) -> None:
        """Judge by the next measurand."""
        keys = list(self.kinds.buttons)
        if keys and self.pages.currentWidget() is not self.origin:
            at = keys.index(self.measurand) if self.measurand in keys else -1
            self.turn(keys[(at + 1) % len(keys)])

    def open_figure(self, key: str) -> None:
        """Show the readings behind a figure of the sheet, whichever measurand it is of."""
        if key != self.measurand:
            self.turn(key)
        self.open_origin()

    def open_origin(self) -> None:
        """Show the readings behind the chosen figure."""
        ranking, chosen, trial = self.ranking, self.chart.chosen, self.session.trial
        if ranking is None or chosen is None or trial is None:
            return
        path, trial_id = self.session.workshop.reads, trial.id
        again = self.pages.currentWidget() is self.origin
        self.shell.jobs.start(
            "origin",
            lambda: load_origin(path, trial_id, ranking, *chosen),
            lambda found: self._show_origin(found, again),
            lambda error: self.shell.say(str(error), care=True),
        )

    def _show_origin(self, found: Origin, again: bool) -> None:
        self.origin.show_origin(found)
        if again and self.pages.currentWidget() is not self.origin:
            return  # it was left meanwhile
        self.pages.setCurrentWidget(self.origin)
        self.origin.table.setFocus()
        self.shell.keys_changed()

    def close_origin(self) -> None:
        """Go back to the ranking."""
        self.pages.setCurrentIndex(0)
        self.chart.setFocus()
        self.shell.keys_changed()

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        if self.isVisible():
            self._show_detail()

    def keyPressEvent(self, event: object) -> None:
        key = event.key()  # type: ignore[attr-defined]
        if key == Qt.Key.Key_M:
            self.next_kind()
        elif key == Qt.Key.Key_Escape and self.pages.currentWidget() is self.origin:
            self.close_origin()
        else:
            super().keyPressEvent(event)  # type: ignore[arg-type]


def _clear(grid: QGridLayout | QHBoxLayout) -> None:
    while grid.count():
        item = grid.takeAt(0)
        widget = item.widget() if item else None
        if widget is not None:
            widget.hide()
            widget.deleteLater()
