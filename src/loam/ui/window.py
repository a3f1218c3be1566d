"""The window: the path above, one view, the keys below."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from contextlib import suppress
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer, pyqtSignal
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
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from loam.app.bring_in import is_package
from loam.app.changes import ALL, Changes
from loam.app.commands import TakeInTrial
from loam.app.commands.trials import clear_unfinished
from loam.app.presenters.path import STEPS, path_state
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.store.copies import keep_copy
from loam.store.workshop import writing_apart
from loam.ui.theme import BENCH, LIGHTS_OUT, look
from loam.ui.views.base import View
from loam.ui.widgets.keys_overlay import KeysOverlay
from loam.ui.widgets.note import Note
from loam.ui.widgets.path_strip import PathStrip
from loam.ui.widgets.tape import KeyStrip
from loam.ui.widgets.write_out import WriteOut
from loam.ui.worker import Jobs

if TYPE_CHECKING:
    from loam.store.draft import TrialDraft

VIEWS: dict[str, tuple[str, str]] = {
    "ask": ("loam.ui.views.ask_view", "AskView"),
    "kit": ("loam.ui.views.kit_view", "KitView"),
    "panels": ("loam.ui.views.panels_view", "PanelsView"),
    "layout": ("loam.ui.views.layout_view", "LayoutView"),
    "read": ("loam.ui.views.read_view", "ReadView"),
    "judge": ("loam.ui.views.judge_view", "JudgeView"),
    "bring_in": ("loam.ui.views.bring_in_view", "BringInView"),
    "copies": ("loam.ui.views.copies_view", "CopiesView"),
}
"""Each view's module and class; built when first turned to, so that the window opens at once."""


class _Views(dict[str, View]):
    """The views built so far; asking for another builds it."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__()
        self._window = window

    def __missing__(self, step: str) -> View:
        module, name = VIEWS[step]
        view: View = getattr(import_module(module), name)(self._window)
        self[step] = view
        self._window.stack.addWidget(view)
        return view


LOOK_ONLY = {
    "window": "Open in another window too: here it can only be looked at.",
    "folder": "Nothing can be written where this workshop lies: it can only be looked at.",
    "look": "Opened to look at only.",
}
WATCH_MS = 2000


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
        self._watch.timeout.connect(self.look_after)
        self.setWindowTitle("Loam")
        self.setMinimumSize(1024, 640)
        self.resize(1280, 800)
        body = QWidget()
        body.setObjectName("ground")
        box = QVBoxLayout(body)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        self.path = PathStrip()
        self.path.step_chosen.connect(self.go)
        box.addWidget(self.path)
        self.stack = QStackedWidget()
        box.addWidget(self.stack, 1)
        self.strip = KeyStrip()
        box.addWidget(self.strip)
        self.note = Note(body)
        self.asking = WriteOut(body, self.write_out_to)
        self.setAcceptDrops(True)
        self.setCentralWidget(body)
        self.views = _Views(self)
        self._missed: dict[str, frozenset[str]] = {}
        self.overlay = KeysOverlay(body)
        self._shortcuts()
        session.subscribe(self._changed)
        self.go(path_state(session).next_step)
        why = session.workshop.why
        if why:
            self.say(LOOK_ONLY[why], care=True)

    @property
    def view(self) -> View:
        """The view at hand."""
        current = self.stack.currentWidget()
        return current if isinstance(current, View) else self.views["ask"]

    def _shortcuts(self) -> None:
        def bind(keys: str, act: object) -> None:
            shortcut = QShortcut(QKeySequence(keys), self)
            shortcut.activated.connect(act)

        for i, (key, _) in enumerate(STEPS):
            bind(f"F{i + 2}", lambda k=key: self.go(k))
        bind("F1", self.show_keys)
        bind("F9", self.turn_lights)
        bind("Ctrl+Z", self.undo)
        bind("Ctrl+Shift+Z", self.redo)
        bind("Ctrl+Y", self.redo)
        bind("Ctrl+Shift+O", lambda: self.go("copies"))
        bind("Ctrl+I", self.bring_in)
        bind("Ctrl+E", self.write_out)
        bind("Ctrl+Q", self.close)
        for keys in ("Ctrl+N", "Ctrl+D", "Ctrl+G", "Ctrl+B", "Ctrl+Del", "Ctrl+R", "Ctrl+X",
                     "Ctrl+M", "PgUp", "PgDown"):  # fmt: skip
            bind(keys, lambda k=keys: self._view_key(k))

    def _view_key(self, keys: str) -> None:
        """Do what the view at hand shows for a key."""
        view = self.view
        if keys == "Ctrl+R":
            deal = getattr(view, "deal", None)
            if deal is not None:
                deal()
            return
        name = "PgDn" if keys == "PgDown" else keys
        shown = view.keys()
        for key, _, act in shown:
            if key == name and act is not None:
                act()
                return

    def go(self, step: str) -> None:
        """Turn to a step of the path."""
        focus = QApplication.focusWidget()
        if focus is not None and self.stack.isAncestorOf(focus):
            focus.clearFocus()
        missed = self._missed.pop(step, frozenset()) if step in self.views else ALL
        view = self.views[step]
        self.stack.setCurrentWidget(view)
        self._show_path()
        view.refresh(Changes(missed, self.session.trial_id))
        self.view.entered()
        self.keys_changed()

    def keys_changed(self) -> None:
        """Show the keys of the view at hand."""
        if self.stack.currentWidget() is not None:
            keys = [*self.view.keys(), ("F1", "all keys", self.show_keys)]
            self.strip.show_keys(keys)

    def say(self, text: str, *, care: bool = False) -> None:
        """Say something along the lower edge for a while."""
        self.note.say(text, self.strip.y(), care=care)

    def _changed(self, changes: Changes) -> None:
        """Refresh the view at hand now; the others when they are turned to."""
        for step, view in self.views.items():
            if view is not self.stack.currentWidget():
                self._missed[step] = self._missed.get(step, frozenset()) | changes.kinds
        self._show_path()  # first: a view may set the worker to work, and that slows all else
        if self.stack.currentWidget() is not None:
            self.view.refresh(changes)

    def _show_path(self) -> None:
        state = path_state(self.session)
        safe = f"all safe on disk {self.session.safe_at}" if self.session.safe_at else ""
        trial = self.session.trial
        parts = [trial.name if trial else "", state.facts, safe]
        here = self.view.step
        self.path.show_state(state, here, parts)

    def take_care(self) -> None:
        """Clear away what was cut off, keep a dated copy, and watch over the file's place."""
        workshop = self.session.workshop
        if workshop.read_only:
            return
        self._watch.start()
        path, now = workshop.path, workshop.clock()

        def care() -> None:
            with suppress(LoamError, sqlite3.Error), writing_apart(path) as db:
                clear_unfinished(db, path)
            keep_copy(path, now)

        self.jobs.start("care", care, lambda _done: None, self._refuse)

    def look_after(self) -> None:
        """Say at once when the workshop's file was moved or replaced."""
        moved = not self.session.workshop.in_place
        if moved and not self._told_moved:
            self.say(
                "The workshop's file was moved or replaced while it is open. Move it back to go on;"
                " what was kept so far is in the file that was moved.",
                care=True,
            )
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
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        tokens = BENCH if look.lights_out else LIGHTS_OUT
        look.apply(application, tokens)
        if not self.session.workshop.read_only:
            self.session.remember("theme", tokens.name)

    def show_keys(self) -> None:
        """List every key."""
        if self.overlay.isVisible():
            self.overlay.leave()
            return
        steps = [(f"F{i + 2}", label) for i, (_, label) in enumerate(STEPS)]
        undo, redo = self.session.undo_name, self.session.redo_name
        always = [
            ("F1", "this list"),
            ("F9", "room lights on or off"),
            ("Ctrl+Z", f"take back: {undo}" if undo else "take back"),
            ("Ctrl+Y", f"do again: {redo}" if redo else "do again"),
            ("Ctrl+I", "bring in a file"),
            ("Ctrl+E", "write out"),
            ("Ctrl+Shift+O", "earlier copies"),
            ("Tab", "next field"),
            ("Ctrl+Q", "close Loam"),
        ]
        shown = self.view.keys()
        here = [(key, said) for key, said, _ in shown]
        self.overlay.show_groups(
            [("Here", here), ("The path", steps), ("Always", always)], QApplication.focusWidget()
        )

    def bring_in(self) -> None:
        """Choose a file and bring it in."""
        self.go("bring_in")
        self.view.choose_file()  # type: ignore[attr-defined]

    def bring_in_file(self, path: Path) -> None:
        """Bring in a file of readings, or a Data Package."""
        if is_package(path):
            from loam.store.datapackage import read_package

            tell = self.jobs.teller("bring_in")
            self.jobs.start(
                "bring_in", lambda: read_package(path, tell), self.take_in, self._refuse
            )
            return
        self.go("bring_in")
        self.view.open_file(path)  # type: ignore[attr-defined]

    def take_in(
        self,
        draft: TrialDraft,
        said: str = "",
        failed: Callable[[LoamError], None] | None = None,
    ) -> None:
        """Write a trial on the worker, then turn to its ranking; it can be taken back."""
        workshop = self.session.workshop
        command = TakeInTrial(draft)
        now = workshop.now()

        def written(changes: Changes) -> None:
            self.session.adopt(command, changes)
            if "bring_in" in self.views:
                self.views["bring_in"].forget()  # type: ignore[attr-defined]
            self.go("judge")
            if said:
                self.say(said)

        refuse = failed or self._refuse
        try:
            workshop.need_writer()
        except LoamError as error:
            refuse(error)
            return
        path = workshop.path
        tell = self.jobs.teller("take_in")
        self.jobs.start("take_in", lambda: command.write_apart(path, now, tell), written, refuse)

    def _refuse(self, error: LoamError) -> None:
        self.say(str(error), care=True)

    def write_out(self) -> None:
        """Ask where to, in place, and write the trial out as a Data Package."""
        trial = self.session.trial
        if trial is None:
            self.say("There is no trial to write out.", care=True)
            return
        folder = Path(self.session.recall("folder", str(Path.home())))
        folder = folder if folder.is_dir() else Path.home()
        safe = "".join(c if c.isalnum() or c in " -_" else "-" for c in trial.name).strip()
        back = QApplication.focusWidget()
        self.asking.ask(folder / f"{safe or 'trial'}.zip", self.strip.y(), back)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if data is not None and data.urls() and data.urls()[0].isLocalFile():
            self.bring_in_file(Path(data.urls()[0].toLocalFile()))

    def write_out_to(self, path: Path) -> None:
        """Write the trial at hand out as a Data Package."""
        from loam.store.datapackage import write_package
        from loam.store.draft import read_draft
        from loam.store.workshop import reading_apart

        trial_id = self.session.trial_id
        source = self.session.workshop.reads
        if trial_id is None:
            return

        def write() -> str:
            with reading_apart(source) as db:
                draft = read_draft(db, trial_id)
            write_package(draft, path)
            return str(path)

        self.jobs.start(
            "write_out", write, lambda where: self.say(f"Written: {where}"), self._refuse
        )

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.note.place(self.strip.y())
        parent = self.overlay.parentWidget()
        if self.overlay.isVisible() and parent is not None:
            self.overlay.setGeometry(parent.rect())

    def closeEvent(self, event: QCloseEvent | None) -> None:
        focus = QApplication.focusWidget()
        if focus is not None:
            focus.clearFocus()
        self.jobs.stop()
        super().closeEvent(event)
