"""Judge: the ranking per hardness, the sentence, and a way to the readings behind any figure."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from loam.app.changes import (
    CELLS,
    COMBINATIONS,
    DECIDED,
    JOBS,
    KIT,
    MATTERS,
    NOTED,
    PANELS,
    READINGS,
    TRIALS,
    WEIGHED,
    WORK,
    Changes,
)
from loam.app.questions.question import Asked
from loam.app.questions.ranking.find import (
    has_film_pairs,
    ranking_table,
    reflected,
)
from loam.app.questions.ranking.masked import masked_cells_table
from loam.app.questions.ranking.picture import RankingPicture, caption, rests_on, spoken_class
from loam.app.readers import crossed
from loam.core.errors import LoamError
from loam.core.readings import FILM
from loam.core.verdict import asked_of
from loam.core.words.verdict import short_sentences
from loam.ui.picture_out import Picture
from loam.ui.views.base import Key, Shell, View
from loam.ui.views.judge.aiming import Aiming
from loam.ui.views.judge.deciding import Deciding
from loam.ui.views.judge.doubts.page import DoubtsPage
from loam.ui.views.judge.gauge.page import GaugePage
from loam.ui.views.judge.judge_jobs import Judging
from loam.ui.views.judge.owner import Traced
from loam.ui.views.judge.priorities.page import PrioritiesPage
from loam.ui.views.judge.questions import Answering, Questions
from loam.ui.views.judge.ranking.looks import ranking_picture
from loam.ui.views.judge.ranking.mattering import Mattering
from loam.ui.views.judge.ranking.page import RankingPage
from loam.ui.views.judge.reporting import asked_from, report_of
from loam.ui.views.judge.tracing import Tracing
from loam.ui.widgets.fields import unbroken, words
from loam.ui.widgets.scroll_stack import Stack

LOW = 700
_JUDGED = (TRIALS, PANELS, CELLS, COMBINATIONS, READINGS, WORK, NOTED, KIT)


class JudgeView(View):
    """The ranking, and beside it one combination in detail."""

    step = "judge"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.measurand = "gloss20"
        self.rankings: dict[str, RankingPicture] = {}
        self.refusals: dict[str, str] = {}
        self.unwiped = False
        self.mattering = Mattering(self)
        self._stale = True
        self.judging = Judging(shell, self._answer, self._refused, lambda: self.doubts.switches())
        self._further = QTimer(self)
        self._further.setSingleShot(True)
        self._further.timeout.connect(self._show_further)
        self._trial_shown: int | None = None
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 10, 24, 0)
        outer.setSpacing(5)
        self.question = words("", "title", wrap=True)
        outer.addWidget(self.question)
        self.trap = words("", "lead", wrap=True)
        self.trap.setObjectName("trap")
        self.trap.hide()
        outer.addWidget(self.trap)
        self.pages = Stack()
        outer.addWidget(self.pages, 1)
        self.pages.addWidget(self._ranking_page())
        self.tracing = Tracing(self)
        self.origin = self.tracing.page
        self.pages.addWidget(self.origin)
        self.gauge = GaugePage(self)
        self.deciding = Deciding(self)
        self.pages.addWidget(self.gauge)
        self.questions = Questions(self.pages, self, self.to_ranking)
        self.priorities: PrioritiesPage = self.questions.of("priorities")
        self.doubts: DoubtsPage = self.questions.of("doubts")
        outer.insertWidget(1, self.questions)
        self.pages.currentChanged.connect(self._page_turned)

    def warm_up(self) -> bool:
        """Build one question's page before it is asked."""
        return self.questions.build_next()

    def _ranking_page(self) -> QWidget:
        page = RankingPage(self.open_figure, self.open_origin)
        self.kinds, self.matters, self.sheet = page.kinds, page.matters, page.sheet
        self.sentence = page.sheet.verdict
        self.aiming = Aiming(self, page.aim)
        self.legend, self.caption, self.notes = page.legend, page.caption, page.notes
        self.looks, self.masking = page.looks, page.looks.masking
        self.chart, self.rows = page.looks.chart, page.looks.rows
        self.kinds.chosen.connect(self.turn)
        self.matters.typed.connect(self.mattering.keep)
        self.matters.left.connect(self._to_ranking)
        self.chart.row_chosen.connect(lambda h, c: self._show_detail())
        self.chart.row_opened.connect(lambda h, c: self.open_origin())
        self.chart.edge_dragged.connect(self.mattering.drag)
        return page

    @property
    def _beside(self) -> Answering | None:
        """What is shown in place of the ranking."""
        shown = self.pages.currentWidget()
        own = next((p for p in (self.origin, self.gauge) if p is shown), None)
        return own or self.questions.page

    def keys(self) -> list[Key]:
        if self._beside is not None:
            return self._beside.keys()
        return [
            ("arrows", "choose", None),
            ("Enter", "readings behind it", self.open_origin),
            ("M", "next measurement", self.next_kind),
            ("W", "what matters", self.matters.open),
            ("G", "another aim", self.aiming.turn),
            ("R", "swatches" if self.looks.at(self.looks.holder) else "exact rows", self.turn_rows),
            *(
                [
                    (
                        "F",
                        "swatches" if self.looks.at(self.masking) else "what the wipe took",
                        self.turn_masking,
                    )
                ]
                if self._masked
                else []
            ),
            *(
                [("B", "after the wipe" if self.unwiped else "before the wipe", self.turn_wiped)]
                if self._masked or self.unwiped
                else []
            ),
            ("L", "what it means and rests on", self.turn_legend),
            *(
                [
                    (
                        "X",
                        "count all" if self.left_out else "as planned only",
                        self.deciding.turn_left_out,
                    )
                ]
                if self.deciding.may_leave_out
                else []
            ),
        ]

    def more_keys(self) -> list[Key]:
        if self.pages.currentWidget() is self.origin:
            return []
        report: list[Key] = [("O", "report", lambda: report_of(self))] if self.rankings else []
        return [*report, ("Ctrl+E", "write out", self.shell.write_out)]

    def asked(self) -> Asked | None:
        """Return what a question is asked of; None while the measurand at hand is not judged."""
        return asked_from(self) if self.ranking is not None else None

    def pending(self) -> str:
        if self.matters.pending():
            return f"What matters is not kept: {self.matters.error.text()}"
        return super().pending()

    def picture(self) -> Picture | None:
        if self.questions.page is not None:
            return self.questions.page.picture()
        if (trial := self.session.trial) is None or (ranking := self.ranking) is None:
            return None
        return ranking_picture(trial, ranking, self.chart)

    def table(self) -> list[list[str]]:
        if self._beside is not None:
            return self._beside.table()
        if self.looks.at(self.masking) and self.ranking is not None and self.ranking.masked:
            return masked_cells_table(self.session, self.ranking.masked)
        return ranking_table(self.ranking) if self.ranking is not None else []

    def entered(self) -> None:
        if self._stale:
            self._judge()
        self._to_ranking()

    def refresh(self, changes: Changes) -> None:
        if changes.touches(*_JUDGED):
            self._stale = True
        elif changes.touches(MATTERS) and self.rankings:
            self.mattering.follow()
        if changes.touches(WEIGHED):
            self.priorities.follow_decided()
            self.aiming.again()
        if changes.touches(JOBS):
            self.doubts.follow_cars()
        if changes.touches(DECIDED) and self.isVisible() and not self._stale:
            self.deciding.follow()
        elif changes.touches(DECIDED):
            self._stale = True
        trial = self.session.trial
        self.question.setText(trial.question or trial.name if trial else "")
        if trial is None or trial.id != self._trial_shown:
            self._trial_shown, self.unwiped = trial.id if trial else None, False
            self.rankings.clear()
            self.chart.chosen = None
            self.chart.show_ranking(None, {})
            self.pages.setCurrentIndex(2 if crossed(trial) else 0)
            self.questions.setVisible(trial is not None and not crossed(trial))
        if self.isVisible() and self._stale:
            self._judge()

    def _judge(self, *, look_through: bool = True) -> None:
        self._stale = False
        self.refusals.clear()
        trial = self.session.trial
        self.judging.stop([*self.rankings, *self.kinds.buttons])
        if trial is None:
            self._wait("Here the combinations are ranked. Start a trial first (F2).")
            return
        if crossed(trial):
            self.trap.hide()
            self.pages.setCurrentWidget(self.gauge)
            self.gauge.judge("")
            return
        if self.pages.currentWidget() is self.gauge:
            self.pages.setCurrentIndex(0)
        db = self.session.workshop.connection
        pairs = FILM.key in trial.measurands and has_film_pairs(db, trial.id)
        kinds = asked_of(trial, pairs)
        self.kinds.set_choices([(k, self.session.kind(k).label) for k in kinds])
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
        self.judging.start(kinds, self.measurand, unwiped=self.unwiped)
        if look_through:
            self.questions.say(self.doubts.letter)
            self.doubts.look_through()

    def _wait(self, said: str) -> None:
        self.chart.show_ranking(None, {}, said)
        for label in (self.sentence, self.caption, self.notes):
            label.setText("")
        self.aiming.clear()
        self.trap.hide()
        self.matters.hide()
        self.notes.hide()
        self.sheet.hide()

    def _answer(self, found: RankingPicture) -> None:
        self.rankings[found.measurand] = found
        if self.questions.page is not self.doubts:
            self.questions.again()
        if found.measurand == self.measurand:
            self._show()
        elif self.sheet.isVisibleTo(self):
            self._further.start()  # once for all that come together
        self.judging.go_on()
        if self.tracing.shown:
            self.tracing.again(found.measurand)

    def _refused(self, kind: str, error: LoamError) -> None:
        said = str(error)
        if self.left_out:
            said += " What was not worked as planned is left out: X lets it count."
        self.refusals[kind] = said
        self.rankings.pop(kind, None)
        if self.questions.page is not self.doubts:
            self.questions.again()
        if kind == self.measurand:
            self._wait(said)
        self.judging.go_on()

    @property
    def ranking(self) -> RankingPicture | None:
        """The ranking that is shown."""
        return self.rankings.get(self.measurand)

    def _show(self) -> None:
        ranking = self.ranking
        if ranking is None:
            self._wait(self.refusals.get(self.measurand, "Judging the readings …"))
            return
        self._paint_ranking(ranking)
        self.aiming.again()
        self._page_turned(0)
        self.trap.setText(unbroken(short_sentences(ranking.trap)))
        self.trap.setVisible(bool(ranking.trap))
        self.matters.show_picture(ranking)
        self.matters.show()
        self.caption.setText(caption(ranking))
        self._say_rests()
        self.shell.keys_changed()
        self.sheet.show()
        self._show_detail()

    def _paint_ranking(self, ranking: RankingPicture) -> None:
        combinations = {c.code: c for c in self.session.combinations()}
        paints: dict[str, set[str]] = {}
        for panel in self.session.panels():
            paints.setdefault(panel.hardness, set()).add(panel.paint)
        shared = {h: min(names) for h, names in paints.items() if len(names) == 1}
        lights = {
            (strip.hardness, s.combination): reflected(self.rankings, strip.hardness, s.combination)
            for strip in ranking.strips
            for s in strip.swatches
        }
        self.looks.show_ranking(ranking, combinations, shared, lights)

    def _show_further(self) -> None:
        """Other measurands came: what a swatch reflects, and the sheet, hold them."""
        if (ranking := self.ranking) is not None:
            self._paint_ranking(ranking)
            self.aiming.again()
            self._show_detail()

    def _show_detail(self) -> None:
        chosen, keys = self.chart.chosen, list(self.kinds.buttons)
        if self.ranking is None or chosen is None:
            return
        c = next((x for x in self.session.combinations() if x.code == chosen[1]), None)
        self.sheet.show_standing(self.rankings, keys, self.measurand, chosen, c)
        self.say_class()

    def say_class(self) -> None:
        """Say what the chosen hardness shows; the advice too, where its band is too low for it."""
        chosen, ranking = self.chart.chosen, self.ranking
        if chosen is None or ranking is None:
            return
        said = [short_sentences(spoken_class(ranking, chosen[0]))]
        advice = self.aiming.advice.get(chosen[0])
        if advice is not None and self.chart.low:
            said = [advice.because, advice.change, advice.price]
        self.sentence.setText(unbroken(" ".join(filter(None, said))))

    def show_turned(self, ranking: RankingPicture) -> None:
        """Show the ranking at hand with other verdicts."""
        self.aiming.again()
        self.matters.show_picture(ranking)
        self.caption.setText(caption(ranking))
        self._paint_ranking(ranking)
        self._show_detail()

    @property
    def left_out(self) -> bool:
        """Whether cells that were not worked as planned are left out."""
        return self.deciding.left_out

    def _page_turned(self, _: int) -> None:
        """What is asked beside the ranking has its own sentence; two could deny each other."""
        traced = self.tracing.back if self.tracing.shown else None
        if traced is not None:
            self.questions.set_value(traced.letter)
        shown = traced is None and self.questions.page is None
        self.trap.setVisible(shown and bool(self.trap.text()))

    def open_question(self, letter: str) -> None:
        """Show what a letter asks; never on what was read before the wipe."""
        if self.unwiped:
            self.rankings.pop(self.measurand, None)
            self.turn_wiped()
        self.questions.open(letter)

    def to_ranking(self) -> None:
        """Go back to the ranking."""
        self.pages.setCurrentIndex(0)
        self._to_ranking()
        self.shell.keys_changed()

    def doubted(self) -> None:
        """What is doubted was found: say it beside the ranking."""
        self.judging.look_ahead()
        count = len(self.doubts.found)
        self.questions.say(self.doubts.letter, f"{count} to check" if count else "")
        if self.pages.currentIndex() == 0 and self.ranking is not None:
            self._show()

    def judge_again(self) -> None:
        """Judge anew: what is doubted counts otherwise."""
        self._judge(look_through=False)

    def turn_rows(self) -> None:
        """Show the exact rows, or the swatches again."""
        self._turn_look(self.looks.holder)

    def turn_masking(self) -> None:
        """Show what the wipe took back, or the swatches again."""
        if self._masked or self.looks.at(self.masking):
            self._turn_look(self.masking)

    def turn_wiped(self) -> None:
        """Rank on what was read before the wipe, to teach, or on what stays again."""
        if self._masked or self.unwiped:
            self.unwiped = not self.unwiped
            self.judge_again()

    @property
    def _masked(self) -> bool:
        return self.ranking is not None and self.ranking.masked is not None

    def _turn_look(self, look: QWidget) -> None:
        self.looks.turn(look)
        self._to_ranking()
        self.shell.keys_changed()

    def turn_legend(self) -> None:
        """Show what the tape means and what it rests on, or hide it again."""
        self.legend.setVisible(not self.legend.isVisible())
        self._say_rests()

    def _say_rests(self) -> None:
        """What it rests on stands in the sheet; in a low window, where it is asked for."""
        window, ranking = self.window(), self.ranking
        whole = self.legend.isVisibleTo(self)
        said = rests_on(ranking, whole=whole) if ranking is not None else ()
        self.notes.setText(unbroken(" ".join(map(short_sentences, said))))
        room = window is None or window.height() >= LOW or whole
        self.notes.setVisible(room and bool(said))

    def _to_ranking(self) -> None:
        if self.pages.currentWidget() is self.gauge:
            self.gauge.setFocus()
            return
        self.looks.take_keyboard()

    def turn(self, key: str) -> None:
        """Judge by another measurand."""
        self.measurand = key
        if self.unwiped:
            self.unwiped = False
            self.judge_again()
        self.kinds.set_value(key)
        self._show()
        if self.questions.page is not None:
            self.questions.again()
        else:
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
        self.tracing.open_own()

    def trace(self, page: Traced, key: str) -> None:
        """Show the readings behind a figure of a page."""
        self.tracing.open(page, key)

    def to_page(self, page: Traced) -> None:
        """Go back to a page whose figure was traced."""
        assert isinstance(page, QWidget)
        self.pages.setCurrentWidget(page)
        page.setFocus()
        self.shell.keys_changed()

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        window = self.window()  # a low one needs its room
        self.question.setVisible(window is None or window.height() >= LOW)
        self._say_rests()
        if self.isVisible():
            self._show_detail()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        shown = self.pages.currentWidget() is not self.origin and self.ranking is not None
        letter, escape = event.text().upper(), event.key() == Qt.Key.Key_Escape
        if letter in self.questions.offers and shown:
            self.open_question(letter)
        elif escape and self.pages.currentWidget() is self.origin:
            self.tracing.close()
        elif escape and self.looks.at(self.masking):
            self.turn_masking()
        elif shown or letter == "X":
            super().keyPressEvent(event)
        else:
            event.ignore()
