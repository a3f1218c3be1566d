"""What comes in: a file of readings, a file for exchange, a whole trial."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6 import sip
from PyQt6.QtCore import QObject

from loam.app.changes import Changes
from loam.app.commands import TakeInTrial
from loam.app.joining import join_apart
from loam.app.presenters.joined import joined_words
from loam.app.tally import Tally
from loam.core.errors import LoamError
from loam.store.copies import keep_copy
from loam.store.database import reading_apart
from loam.store.join import BothChanged, Joined, trial_here
from loam.ui.log import LOG
from loam.ui.views.base import Shell

if TYPE_CHECKING:
    from loam.store.draft import TrialDraft


class Incoming:
    """Brings files into the workshop; ``forget`` clears the view of a file that is in."""

    def __init__(self, shell: Shell, forget: Callable[[], None]) -> None:
        self.shell, self._forget = shell, forget

    def _refuse(self, error: LoamError) -> None:
        self.shell.say(str(error), care=True)

    def bring_in_file(self, path: Path) -> None:
        """Bring in a file of readings, or a file for exchange."""
        from loam.app.bring_in import is_package

        if is_package(path):
            from loam.store.datapackage import read_package

            tell = self.shell.jobs.teller("bring_in")
            self.shell.jobs.start(
                "bring_in",
                lambda: read_package(path, tell),
                self._take_package,
                self._refuse,
                stays=True,
            )
            return
        self.shell.go("bring_in")
        if self.shell.view.step == "bring_in":
            self.shell.view.open_file(path)  # type: ignore[attr-defined]

    def _take_package(self, draft: TrialDraft) -> None:
        """Take a trial in as a new one; of one that is here already, what is new of it."""
        here = trial_here(self.shell.session.workshop.connection, draft)
        if here is None:
            self.take_in(draft)
        else:
            self.join(draft, here, {})

    def join(self, draft: TrialDraft, here: int, choose: Mapping[str, str]) -> None:
        """Join another bench's file to its trial on the worker; what both changed is asked."""
        session = self.shell.session
        workshop = session.workshop
        name = next((t.name for t in session.trials() if t.id == here), "")
        path, now, moment = workshop.path, workshop.now(), workshop.clock()

        def write() -> tuple[Joined, Tally]:
            keep_copy(path, moment)
            found = join_apart(path, here, draft, now, choose)
            with reading_apart(path) as db:
                return found, Tally.load(db, here)

        def written(done: tuple[Joined, Tally]) -> None:
            session.came(here, done[1])
            LOG.info(
                "joined a file to trial %d: %s, %d changed",
                here,
                dict(done[0].added),
                done[0].changed,
            )
            self._forget()
            self.shell.go("judge")
            self.shell.say(joined_words(done[0], name))

        def refuse(error: LoamError) -> None:
            if isinstance(error, BothChanged):
                self._ask(draft, here, name, error)
            else:
                self._refuse(error)

        try:
            workshop.need_writer()
        except LoamError as error:
            self._refuse(error)
            return
        self.shell.jobs.start("take_in", write, written, refuse, stays=True)

    def _ask(self, draft: TrialDraft, here: int, name: str, error: BothChanged) -> None:
        """Ask what holds of what both benches changed."""
        self.shell.go("bring_in")
        if self.shell.view.step == "bring_in":
            self.shell.view.ask_which(  # type: ignore[attr-defined]
                name, error.conflicts, lambda choose: self.join(draft, here, choose)
            )

    def take_in(
        self,
        draft: TrialDraft,
        said: str = "",
        failed: Callable[[LoamError], None] | None = None,
    ) -> None:
        """Write a trial on the worker, then turn to its ranking; it can be taken back."""
        workshop = self.shell.session.workshop
        command = TakeInTrial(draft)
        now = workshop.now()

        def write() -> tuple[Changes, Tally]:
            changes = command.write_apart(path, now, tell)
            with reading_apart(path) as db:
                return changes, Tally.load(db, command.id)

        def written(done: tuple[Changes, Tally]) -> None:
            self.shell.session.adopt(command, *done)
            self._forget()
            self.shell.go("judge")
            if said:
                self.shell.say(said)

        def refuse(error: LoamError) -> None:
            view = getattr(failed, "__self__", None)  # which may be built anew by then
            gone = isinstance(view, QObject) and sip.isdeleted(view)
            (self._refuse if failed is None or gone else failed)(error)

        try:
            workshop.need_writer()
        except LoamError as error:
            refuse(error)
            return
        path = workshop.path
        tell = self.shell.jobs.teller("take_in")
        self.shell.jobs.start("take_in", write, written, refuse, stays=True)
