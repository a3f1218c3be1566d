"""The window: the path above, one view, the keys below."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from contextlib import suppress
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QSize, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QKeySequence,
    QResizeEvent,
    QShortcut,
)
from PyQt6.QtWidgets import (
    QApplication,
    QMainWindow,
    QVBoxLayout,
    QWidget,
)

from loam.app.changes import ALL, Changes
from loam.app.commands.trials import clear_unfinished
from loam.app.presenters.guide import KEY as GUIDE
from loam.app.presenters.guide import guide_note
from loam.app.presenters.guide import wanted as guided
from loam.app.presenters.opening import opening_words
from loam.app.presenters.path import STEPS, path_state
from loam.app.session import Session
from loam.app.standing import step_head
from loam.app.tally import Tally
from loam.core.errors import LoamError
from loam.store.cells import cell_count
from loam.store.copies import keep_copy
from loam.store.database import reading_apart, writing_apart
from loam.ui.covering import Covering, at_hand
from loam.ui.dressing import Dressing
from loam.ui.incoming import Incoming
from loam.ui.keys import LIGHTS_KEY, Key
from loam.ui.lights import light_for, turn_lights
from loam.ui.outgoing import Outgoing
from loam.ui.photograph import SUFFIXES as PICTURES
from loam.ui.theme import dress, look
from loam.ui.view_list import Views, build
from loam.ui.views.base import View
from loam.ui.widgets.guide_bar import GuideBar
from loam.ui.widgets.keys_overlay import KeysOverlay
from loam.ui.widgets.note import Note
from loam.ui.widgets.path_strip import PathStrip
from loam.ui.widgets.scroll_stack import Room, Stack
from loam.ui.widgets.step_head import StepHeadLine
from loam.ui.widgets.tape import KeyStrip
from loam.ui.worker import Jobs

if TYPE_CHECKING:
    from loam.app.questions.question import Asked
    from loam.devices.meter import Meter
    from loam.store.draft import TrialDraft

WATCH_MS, WARM_MS = 2000, 300
LARGE = 2000
"""Cells from which on a trial is counted on the worker before it is turned to."""
SIZE, LEAST, FRAME = QSize(1280, 800), QSize(820, 440), QSize(8, 40)
"""Size at first, the least size, and what a system's frame takes of a screen."""
TEXT_SIZES = (100, 125, 150, 175, 200)


class MainWindow(QMainWindow):
    """Assembles the views and passes changes on to them.

    ``copy_wanted`` carries the workshop and the path of a copy to go back to.

    Parameters
    ----------
    session : Session
    """

    copy_wanted = pyqtSignal(Path, str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.jobs = Jobs(self)
        self._told_moved = False
        self._watch = QTimer(self)
        self._watch.setInterval(WATCH_MS)
        self._warm = QTimer(self)
        self._warm.setInterval(WARM_MS)
        self._warm.timeout.connect(self.warm_up)
        self._watch.timeout.connect(self.look_after)
        self._asked = ""
        self.covering = Covering(session)
        self.setWindowTitle("Loam")
        self.setMinimumSize(LEAST)
        self.resize(self._first_size())
        body = QWidget()
        body.setObjectName("ground")
        box = QVBoxLayout(body)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        self.path = PathStrip()
        self.path.step_chosen.connect(self.go)
        box.addWidget(self.path)
        self.head = StepHeadLine()
        box.addWidget(self.head)
        self.stack = Stack()
        self.room = Room(self.stack)
        box.addWidget(self.room, 1)
        self.guide = GuideBar()
        box.addWidget(self.guide)
        self.note = Note()
        box.addWidget(self.note)
        self.out, self.incoming = Outgoing(self), Incoming(self, self._forget_file)
        self.asking = self.out.asking
        box.addWidget(self.asking)
        self.strip = KeyStrip()
        box.addWidget(self.strip)
        self.setAcceptDrops(True)
        self.setCentralWidget(body)
        self.views = Views(self._build)
        self._missed: dict[str, frozenset[str]] = {}
        self.overlay = KeysOverlay(body)
        self.dressing = Dressing(self, body, self.room)
        self.dressing.strips()
        self._shortcuts()
        session.subscribe(self._changed)
        self.go(path_state(session).next_step)
        said = opening_words(session)
        if said:
            self.say(said, care=True)

    def _first_size(self) -> QSize:
        """Return the size of last time, as far as the screen has room for it."""
        kept = self.session.recall("window", [])
        whole = len(kept) == 2 and all(isinstance(n, int) and 0 < n < 20_000 for n in kept)
        size = QSize(*kept) if whole else SIZE
        screen = self.screen()
        if screen is not None:
            size = size.boundedTo(screen.availableGeometry().size() - FRAME)
        return size.expandedTo(LEAST)

    def _build(self, step: str) -> View:
        view = build(step, self)
        dress(view)
        self.stack.addWidget(view)
        return view

    @property
    def view(self) -> View:
        """The view at hand."""
        current = self.stack.currentWidget()
        return current if isinstance(current, View) else self.views["ask"]

    def always(self) -> list[Key]:
        """Return the keys that work everywhere, with their words and what they do."""
        undo, redo = self.session.undo_name, self.session.redo_name
        return [
            ("F1", "this list; again: the words", self.show_keys),
            (LIGHTS_KEY, "room lights on or off", self.turn_lights),
            ("Ctrl+Z", f"take back: {undo}" if undo else "take back", self.undo),
            ("Ctrl+Y", f"do again: {redo}" if redo else "do again", self.redo),
            ("Ctrl+I", "bring in a file", self.bring_in),
            ("Ctrl+E", "write the trial out", self.write_out),
            ("Ctrl+P", "picture: print or write", self.out.write_picture),
            ("Ctrl+C", "copy the table", self.out.copy_table),
            ("Ctrl+,", "units, size of text", partial(self.go, "settings")),
            ("Ctrl++", "text larger", partial(self.step_text, 1)),
            ("Ctrl+-", "text smaller", partial(self.step_text, -1)),
            ("Ctrl+0", "text as it was", partial(self.set_text, 100)),
            ("Ctrl+Shift+O", "earlier copies", partial(self.go, "copies")),
            ("Ctrl+.", "notes of a first trial, on or off", self.turn_guide),
            ("Tab", "next field", None),
            ("Ctrl+Q", "close Loam", self.close),
        ]

    def _shortcuts(self) -> None:
        def bind(keys: str, act: Callable[[], object]) -> None:
            shortcut = QShortcut(QKeySequence(keys), self)
            shortcut.activated.connect(act)

        for i, (key, _) in enumerate(STEPS):
            bind(f"F{i + 2}", partial(self.go, key))
        for keys, _, act in self.always():
            if act is not None:
                bind(keys, act)
        bind("Ctrl+Shift+Z", self.redo)
        bind("Ctrl+=", partial(self.step_text, 1))
        for keys in (
            "Ctrl+N",
            "Ctrl+D",
            "Ctrl+G",
            "Ctrl+J",
            "Ctrl+Shift+J",
            "Ctrl+Shift+G",
            "Ctrl+B",
            "Ctrl+Del",
            "Ctrl+R",
            "Ctrl+F",
            "Ctrl+H",
            "Ctrl+L",
            "Ctrl+M",
            "Ctrl+T",
            "Ctrl+V",
            "PgUp",
            "PgDown",
        ):
            bind(keys, partial(self._view_key, keys))

    def _view_key(self, keys: str) -> None:
        """Do what the view at hand shows for a key."""
        name = "PgDn" if keys == "PgDown" else keys
        for key, _, act in [*self.view.keys(), *self.view.more_keys()]:
            if key == name and act is not None:
                act()
                return

    def go(self, step: str) -> None:
        """Turn to a step of the path, or to its cover while a blind round is open."""
        if not self.may_leave(step):
            return
        if self.covering.turned(step):
            self.views["cover"].wanted = step  # type: ignore[attr-defined]
            step = "cover"
        self.dressing.leaving = self.stack.currentWidget() is not self.views.get(step)
        light_for(self.session, step)
        self.dressing.leaving = False
        self.asking.leave(back=False)
        self.note.settle()
        focus = QApplication.focusWidget()
        if focus is not None and self.stack.isAncestorOf(focus):
            focus.clearFocus()
        missed = self._missed.pop(step, frozenset()) if step in self.views else ALL
        view = self.views[step]
        dress(view)
        self.stack.setCurrentWidget(view)
        self.room.ensureVisible(0, 0)
        self._show_path()
        view.refresh(Changes(missed, self.session.trial_id))
        self.view.entered()
        self.keys_changed()

    def meter_of(self, measurand: str) -> Meter | None:
        """Return the meter that was joined in Read and reads a measurand; None where none was."""
        wired = getattr(self.views.get("read"), "wired", None)
        found: Meter | None = wired.meter(measurand) if wired is not None else None
        return found

    def uncover(self, step: str) -> None:
        """Turn to a step although a blind round covers it, until another is turned to."""
        self.covering.peek(step)
        self.go(step)

    def may_leave(self, how: str) -> bool:
        """Tell whether nothing typed would be lost; else say so, and let it go the next time."""
        if self.stack.currentWidget() is None:
            return True
        typed = self.view.pending()
        if typed and self._asked != f"{how} {typed}":
            self._asked = f"{how} {typed}"
            said = f"{typed} Enter keeps it, Esc clears it. The same again leaves it behind."
            self.say(said, care=True, matter="pending")
            return False
        self._asked = ""
        self.note.settle("pending")
        return True

    def keys_changed(self) -> None:
        """Show the keys of the view at hand."""
        if self.stack.currentWidget() is not None:
            keys = [*self.view.keys(), ("F1", "all keys", self.show_keys)]
            self.strip.show_keys(keys)

    def say(self, text: str, *, care: bool = False, matter: str = "") -> None:
        """Say something above the keys: for a while, or until its matter is settled."""
        self.note.say(text, care=care, matter=matter)

    def settle(self, matter: str) -> None:
        """Put away what was said about a matter that is settled."""
        self.note.settle(matter)

    def _changed(self, changes: Changes) -> None:
        """Refresh the view at hand now; the others when they are turned to."""
        self.note.settle()
        for step, view in self.views.items():
            if view is not self.stack.currentWidget():
                self._missed[step] = self._missed.get(step, frozenset()) | changes.kinds
        elsewhere = self.covering.elsewhere(self.view)
        if elsewhere:
            self.go(elsewhere)
            return
        self._show_path()  # first: a view may set the worker to work, and that slows all else
        if self.stack.currentWidget() is not None:
            self.view.refresh(changes)

    def _show_path(self) -> None:
        state = path_state(self.session)
        safe = f"all safe on disk {self.session.safe_at}" if self.session.safe_at else ""
        trial = self.session.trial
        here = at_hand(self.view)
        named = trial.name if trial else ""
        if trial is not None and here in ("work", "read") and trial.question:
            named = trial.question  # hands and eyes are elsewhere: what it is all for is said here
        parts = [named, state.facts, safe]
        self.path.show_state(state, here, parts)
        self.guide.show_note(guide_note(self.session, here))
        self.head.show_head(step_head(self.session, here))

    def turn_guide(self) -> None:
        """Want the notes of a guided first trial, or put them away for good."""
        if not self.session.workshop.read_only:
            self.session.remember(GUIDE, not guided(self.session))
            self._show_path()

    def take_care(self) -> None:
        """Clear away what was cut off, keep a dated copy, and watch over the file's place."""
        self._warm.start()
        workshop = self.session.workshop
        if workshop.read_only:
            return
        workshop.settle_by_itself()
        self._watch.start()
        path, now = workshop.path, workshop.clock()

        def care() -> None:
            with suppress(LoamError, sqlite3.Error), writing_apart(path) as db:
                clear_unfinished(db, path)
            keep_copy(path, now)

        self.jobs.start("care", care, lambda _done: None, self.refuse, stays=True)

    def warm_up(self) -> bool:
        """Build one view or part more that was not turned to yet; tell whether any may be left."""
        left = [step for step, _ in STEPS if step not in self.views]
        if left and not self.jobs.busy:
            self._missed[self.views[left[0]].step] = ALL
            return True
        if not left and not self.jobs.busy and not any(v.warm_up() for v in self.views.values()):
            self._warm.stop()
            return False
        return True

    def look_after(self) -> None:
        """Say at once when the workshop's file was moved or replaced."""
        moved = not self.session.workshop.in_place
        if moved and not self._told_moved:
            self.session.workshop.settle()
            self.say(
                "The workshop's file was moved or replaced while it is open. Move it back to go on;"
                " what was kept so far is in the file that was moved.",
                care=True,
                matter="moved",
            )
        elif self._told_moved and not moved:
            self.note.settle("moved")
        self._told_moved = moved

    def go_back_to(self, copy: str) -> None:
        """Put an earlier copy in the workshop's place; whoever keeps this window opens it."""
        self.copy_wanted.emit(self.session.workshop.path, copy)

    def undo(self) -> None:
        """Take back the last act."""
        self._history(back=True)

    def redo(self) -> None:
        """Do again what was taken back."""
        self._history(back=False)

    def _history(self, *, back: bool) -> None:
        try:
            name = self.session.undo() if back else self.session.redo()
        except LoamError as error:
            self.say(str(error), care=True)
            return
        if name:
            self.say(f"{'Taken back' if back else 'Done again'}: {name}.")
        else:
            self.say("Nothing to take back." if back else "Nothing to do again.")

    def turn_lights(self) -> None:
        """Turn to the other theme."""
        turn_lights(self.session, self.view.step)

    def step_text(self, by: int) -> None:
        """Make all text a step larger or smaller."""
        now = min(TEXT_SIZES, key=lambda size: abs(size - 100 * look.scale))
        at = TEXT_SIZES.index(now) + by
        self.set_text(TEXT_SIZES[max(0, min(at, len(TEXT_SIZES) - 1))])

    def set_text(self, percent: int) -> None:
        """Show all text at a size, in percent of the usual one."""
        if not self.may_leave(f"text {percent}"):
            return
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        look.apply(application, look.tokens, percent / 100)
        if not self.session.workshop.read_only:
            self.session.remember("text", percent)
        self.build_again()
        self.say(f"Text at {percent} %.")

    def build_again(self) -> None:
        """Build strips and views anew: sizes or units have changed."""
        step = at_hand(self.view)
        self.jobs.leave_behind()
        for view in self.views.values():
            self.stack.removeWidget(view)
            view.deleteLater()
        self.views.clear()
        self._missed.clear()
        body = self.centralWidget()
        box = body.layout() if body is not None else None
        assert isinstance(box, QVBoxLayout)
        for old in (self.path, self.strip):
            old.hide()
            old.deleteLater()
        self.path = PathStrip()
        self.path.step_chosen.connect(self.go)
        box.replaceWidget(box.itemAt(0).widget(), self.path)  # type: ignore[union-attr]
        self.strip = KeyStrip()
        box.addWidget(self.strip)
        self.dressing.strips()
        self.go(step)

    def show_keys(self) -> None:
        """List every key."""
        if self.overlay.isVisible() and not self.overlay.words:
            self.overlay.turn_to_words()
            return
        if self.overlay.isVisible():
            self.overlay.leave()
            return
        steps = [(f"F{i + 2}", label) for i, (_, label) in enumerate(STEPS)]
        always = [(key, said) for key, said, _ in self.always()]
        shown = [*self.view.keys(), *self.view.more_keys()]
        here = [(key, said) for key, said, _ in shown]
        self.overlay.show_groups(
            [("Here", here), ("The path", steps), ("Always", always)], QApplication.focusWidget()
        )

    def bring_in(self) -> None:
        """Choose a file and bring it in."""
        self.go("bring_in")
        if self.view.step == "bring_in":
            self.view.choose_file()  # type: ignore[attr-defined]

    def bring_in_file(self, path: Path) -> None:
        """Bring in a file of readings, or a file for exchange."""
        self.incoming.bring_in_file(path)

    def take_in(
        self,
        draft: TrialDraft,
        said: str = "",
        failed: Callable[[LoamError], None] | None = None,
    ) -> None:
        """Write a trial on the worker, then turn to its ranking; it can be taken back."""
        self.incoming.take_in(draft, said, failed)

    def _forget_file(self) -> None:
        if "bring_in" in self.views:
            self.views["bring_in"].forget()  # type: ignore[attr-defined]

    def turn_to(self, trial_id: int) -> None:
        """Turn to another trial; what a large one holds is counted on the worker first."""
        session = self.session
        if trial_id == session.trial_id or not self.may_leave("trial"):
            return
        db = session.workshop.connection
        if cell_count(db, trial_id) <= LARGE:
            session.choose(trial_id)
            return
        source = session.workshop.reads

        def load() -> Tally:
            with reading_apart(source) as apart:
                return Tally.load(apart, trial_id)

        self.jobs.start(
            "turn_to", load, lambda tally: session.choose(trial_id, tally), self.refuse, stays=True
        )

    def refuse(self, error: LoamError) -> None:
        """Say what was refused."""
        self.say(str(error), care=True)

    def write_report(self, told: Asked) -> None:
        """Write a report of what is judged."""
        self.out.write_report(told)

    def write_out(self) -> None:
        """Ask where to, in place, and write the trial out."""
        self.out.write_out()

    def write_out_to(self, path: Path) -> None:
        """Write the trial at hand, or the view's picture, as the ending says."""
        self.out.write_out_to(path)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if data is not None and data.urls() and data.urls()[0].isLocalFile():
            self.take_dropped(Path(data.urls()[0].toLocalFile()))

    def take_dropped(self, path: Path) -> None:
        """Take a file that was dropped: a picture where it has a place, else readings."""
        if path.suffix.lower() not in PICTURES or not self.view.take_picture(path):
            self.bring_in_file(path)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        parent = self.overlay.parentWidget()
        if self.overlay.isVisible() and parent is not None:
            self.overlay.setGeometry(parent.rect())

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is not None and not self.may_leave("close"):
            event.ignore()
            return
        focus = QApplication.focusWidget()
        if focus is not None:
            focus.clearFocus()
        self._warm.stop()
        self.jobs.stop()
        size = [self.width(), self.height()]
        workshop = self.session.workshop
        if workshop.is_open and not self.isMaximized() and self.session.recall("window") != size:
            self.session.remember("window", size)
        super().closeEvent(event)
