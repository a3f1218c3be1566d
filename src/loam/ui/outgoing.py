"""What goes out of the window: a trial, a picture, a table; to a file, a printer, the clipboard."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QApplication

from loam.app.peeking import peek_note
from loam.app.presenters.rounds import covered
from loam.core.errors import LoamError
from loam.store.guarded import guarded, one_line
from loam.ui.views.base import Shell
from loam.ui.widgets.write_out import WriteOut

if TYPE_CHECKING:
    from loam.app.questions.question import Asked
    from loam.ui.report_out import ReportWriter


class Outgoing:
    """Asks where to, and writes."""

    def __init__(self, shell: Shell) -> None:
        self.shell = shell
        self.told: Asked | None = None
        self.report: ReportWriter | None = None
        self.asking = WriteOut(self.write_out_to, self.print_out)

    def _refuse(self, error: LoamError) -> None:
        self.shell.say(str(error), care=True)

    def write_out(self) -> None:
        """Ask where to, in place, and write the trial (or the shelf) out."""
        if self.shell.view.writes == "kit":
            self.asking.ask(self._place("shelf"), "kit", QApplication.focusWidget())
            return
        trial = self.shell.session.trial
        if trial is None:
            self.shell.say("There is no trial to write out.", care=True)
            return
        self.asking.ask(self._place(trial.name), "trial", QApplication.focusWidget())

    def write_picture(self) -> None:
        """Ask where to, in place, and print the view's picture or write it to a file."""
        picture = self.shell.view.picture()
        if picture is None:
            self.shell.say("There is no picture here yet.", care=True)
            return
        self.asking.ask(self._place(picture.name), "picture", QApplication.focusWidget())

    def write_report(self, told: Asked) -> None:
        """Ask where to, in place, and write a report of what is judged; stop one that is made."""
        if self.report is not None and self.report.busy:
            self.report.stop()
            return
        self.told = told
        place = self._place(f"{told.trial.name}, report")
        self.asking.ask(place, "report", QApplication.focusWidget())

    def _write_report_to(self, path: Path) -> None:
        from loam.ui.report_out import ReportWriter

        if self.told is None:
            return
        note = peek_note(self.shell.session, "out") if covered(self.shell.session) else None
        try:
            if note is not None:
                self.shell.session.run(note)
        except LoamError as error:
            self._refuse(error)
            return
        self.report = ReportWriter(self.shell.jobs, self.told, path, self.shell.say, self._refuse)

    def _place(self, name: str) -> Path:
        """Return a path without an ending for something of this name."""
        folder = Path(self.shell.session.recall("folder", str(Path.home())))
        safe = "".join(c if c.isalnum() or c in " -_" else "-" for c in name).strip()
        try:
            known = folder.is_dir()
        except OSError:
            known = False
        return (folder if known else Path.home()) / (safe[:80] or "trial")

    def copy_table(self) -> None:
        """Copy the table at hand, as text with tabs that a spreadsheet takes."""
        rows = self.shell.view.table()
        clipboard = QApplication.clipboard()
        if not rows or clipboard is None:
            self.shell.say("There is no table here to copy.", care=True)
            return
        lines = ("\t".join(guarded(one_line(cell)) for cell in row) for row in rows)
        clipboard.setText("\n".join(lines) + "\n")
        count = len(rows) - 1
        self.shell.say(f"Copied: {count} line{'' if count == 1 else 's'} and their heading.")

    def write_out_to(self, path: Path) -> None:
        """Write the trial at hand, or the view's picture, as the ending says."""
        from loam.app.going_out import whole_trial
        from loam.app.headless.write_out import write_trial
        from loam.store.database import reading_apart

        if self.asking.what == "report":
            self._write_report_to(path)
            return
        if path.suffix.lower() in (".png", ".svg", ".pdf"):
            self._write_picture_to(path)
            return
        if self.asking.what == "kit":
            self._write_shelf_to(path)
            return
        trial_id = self.shell.session.trial_id
        source = self.shell.session.workshop.reads
        if trial_id is None:
            return
        told, now = "", self.shell.session.workshop.now()
        note = peek_note(self.shell.session, "out") if covered(self.shell.session) else None
        if note is not None:
            try:
                self.shell.session.run(note)
            except LoamError as error:
                self._refuse(error)
                return
            told = " It shows what the blind round covers, so a peek is noted."

        def write() -> str:
            with reading_apart(source) as db:
                draft = whole_trial(db, trial_id, now)
            write_trial(draft, path)
            return str(path)

        self.shell.jobs.start(
            "write_out",
            write,
            lambda where: self.shell.say(f"Written: {where}{told}"),
            self._refuse,
            stays=True,
        )

    def _write_shelf_to(self, path: Path) -> None:
        from loam.ui.views.kit.shelf_page import write_shelf

        try:
            write_shelf(self.shell.session, path)
        except LoamError as error:
            self._refuse(error)
            return
        self.shell.say(f"Written: {path}")

    def _write_picture_to(self, path: Path) -> None:
        picture = self.shell.view.picture()
        if picture is None:
            return
        from loam.ui.picture_out import save_picture

        try:
            save_picture(picture, path)
        except LoamError as error:
            self._refuse(error)
            return
        self.shell.say(f"Written: {path}")

    def print_out(self, printer: str) -> None:
        """Print the view's picture."""
        picture = self.shell.view.picture()
        if picture is None:
            return
        from loam.ui.picture_out import print_picture

        try:
            print_picture(picture, printer)
        except LoamError as error:
            self._refuse(error)
            return
        self.shell.say(f"Sent to {printer}.")
