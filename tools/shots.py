"""Make the pictures in docs/screenshots from the demo workshop."""

import os
import shutil
import sys
import tempfile
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))

from PIL import Image  # noqa: E402
from PyQt6.QtCore import QEventLoop  # noqa: E402
from PyQt6.QtWidgets import QApplication  # noqa: E402

from loam.app.commands import EditTrial, SetMatters  # noqa: E402
from loam.app.session import Session  # noqa: E402
from loam.demo.scenario import make_demo  # noqa: E402
from loam.simulated.camera import Scene, photograph  # noqa: E402
from loam.store.copies import keep_copy  # noqa: E402
from loam.store.datapackage import write_package  # noqa: E402
from loam.store.take_in import write_draft  # noqa: E402
from loam.store.take_out import read_draft  # noqa: E402
from loam.store.workshop import Workshop  # noqa: E402
from loam.ui.start import Desk, make_window  # noqa: E402

ON_DEMAND = {
    "gates",
    "between",
    "tile",
    "story",
    "carried",
    "pooled",
    "goal",
    "benches",
    "masking",
    "origin",
    "sanding",
    "seen",
    "wipes",
    "garage",
    "customer",
}
"""Pictures that are only taken when they are asked for."""


class Studio:
    """A window on the demo, and where its pictures go."""

    def __init__(self, application, place, folder, only, size):
        self.application, self.place, self.folder = application, place, folder
        self.only, self.size = only, size
        path = place / "demo.loam"
        make_demo(path)
        self.window = self.open(path)
        self.session = self.window.session
        self.trials = [t.id for t in self.session.trials()]

    def open(self, path):
        """Open a window on a workshop."""
        workshop = Workshop(path, clock=lambda: datetime(2026, 9, 26, 14, 2, 11))
        window = make_window(self.application, workshop)
        window.resize(*self.size)
        window.show()
        self.settle(window)
        return window

    def settle(self, window=None):
        """Let answers arrive and paint until nothing is left to do."""
        window = window or self.window
        while window.jobs.busy:
            self.application.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
        for _ in range(5):
            self.application.processEvents()

    def take(self, name, window=None):
        """Take a picture, if it is wanted."""
        window = window or self.window
        if name not in ON_DEMAND if self.only is None else name in self.only:
            self.settle(window)
            window.note.leave()
            self.settle(window)
            window.grab().save(str(self.folder / f"{name}.png"))

    def go(self, step, trial=1):
        """Turn to a step of one of the demo's trials and return its view."""
        self.session.choose(self.trials[trial])
        self.window.go(step)
        self.settle()
        return self.window.view

    def applying(self):
        """Take the car at its second spot, a card for the wall, a sheet, all cars."""
        apply = self.go("apply")
        self.take("apply")
        self.session.remember("letterhead", "Saltmarsh Skills Centre")
        self.session.remember("letterhead_address", "3 Ferry Lane")
        apply.show_cards()
        self.settle()
        apply.cards.choose("customer")
        self.take("customer")
        apply.cards.choose("hard")
        self.take("card")
        apply.leave()
        apply.show_garage()
        self.take("garage")
        apply.leave()

    def judging(self):
        """Take the ranking, in both themes, and the readings behind a figure."""
        judge = self.go("judge")
        self.take("judge")
        judge.open_question("D")
        self.settle()
        judge.doubts.at = 1
        judge.open_question("D")
        self.take("doubts")
        judge.to_ranking()
        judge.open_question("P")
        self.settle()
        self.take("priorities")
        judge.priorities.turn_goal()
        self.settle()
        self.take("goal")
        judge.priorities.turn_goal()
        judge.to_ranking()
        for letter, name in (("V", "drivers"), ("N", "next"), ("E", "carried"), ("A", "pooled")):
            judge.open_question(letter)
            self.take(name)
            judge.to_ranking()
        judge.turn("defects")
        judge.open_question("C")
        self.take("price")
        judge.to_ranking()
        judge.turn("gloss20")
        judge.chart.choose("hard", "B")
        judge.open_origin()
        self.settle()
        self.take("origin")
        judge.to_ranking()
        trap = self.go("judge", 0)
        trap.turn_masking()
        self.take("masking")
        trap.turn_masking()
        self.go("judge", 8).open_question("I")
        self.take("seen")
        self.window.view.to_ranking()
        wipes = self.go("judge", 7)
        wipes.turn_masking()
        self.take("wipes")
        wipes.turn_masking()
        self.go("judge", 5)
        self.take("gauge")
        self.go("judge", 6).open_question("S")
        self.take("stages")
        self.window.view.to_ranking()

    def planning(self):
        """Take the question, the kit, the panels and the layout."""
        self.go("ask", 3)
        self.take("ask")
        kit = self.go("kit")
        kit._choose(self.session.combinations()[1].id)
        self.take("kit")
        self.go("kit", 9)
        self.take("sanding")
        kit = self.go("kit")
        kit.turn_page()
        self.take("shelf")
        kit.turn_page()
        panels = self.go("panels", 3)
        panels.turn_page()
        self.take("panels")
        panels.turn_page()
        panels.turn_page()
        self.go("layout", 3)
        self.take("layout")

    def working(self):
        """Take a cell in the middle of its work, on a clock of the picture's own."""
        work, now = self.go("work", 3), [100.0]
        work.runner.clock = lambda: now[0]
        while work.worker != "Tam":
            work.hands.turn()
        work.bench.set_up(work.runner.clock)
        panels = self.session.panels()
        work.choose(self.session.cells_of(panels[1].id)[0].id)
        for _ in range(2):
            work.press()
        self.take("gates")
        work.choose(self.session.cells_of(panels[0].id)[2].id)
        work.press()
        now[0] += 62.0
        work.runner.tick()
        self.take("work")
        for _ in range(60):
            now[0] += 7.0
            work.runner.tick()
        self.take("between")
        work.press()
        if self.only and "loss" in self.only:
            work.ask_loss()
            self.take("loss")
            work.mode.leave()

    def reading(self):
        """Take the reading of a cell in a round, a tile that drifted, photographs and a story."""
        now = [datetime(2026, 9, 26, 14, 2, 11)]
        self.session.workshop.clock = lambda: now[0]
        read = self.go("read", 2)
        read.form.reader.set_text("Lise")
        read.form.meter.set_text("Glim")
        read.letter("N")
        read.board.enter()
        read.letter("W")
        read.board.enter()
        self.check_tile(read, ("92.4", "92.5", "92.3"))
        now[0] += timedelta(minutes=6)
        cell = read.chosen
        for text in ("84,6", "84,9", "85,0"):
            now[0] += timedelta(seconds=12)
            read.digits.setText(text)
            read.keep()
            self.settle()
        read.digits.setText("84,6")
        self.take("read")
        read.clear()
        now[0] += timedelta(minutes=38)
        self.check_tile(read, ("93.6", "93.4", "93.5"), leave=False)
        self.take("tile")
        read.leave_mode()
        self.photographs(read)
        read.choose(cell)
        read.letter("H")
        self.take("story")
        read.leave_page()
        read.letter("N")
        read.board.press("C")

    def check_tile(self, read, figures, leave=True):
        """Type what the meter shows on its tile."""
        read.letter("T")
        for text in figures:
            read.board.line.setText(text)
            read.board.enter()
        if leave:
            read.leave_mode()

    def photographs(self, read):
        """Measure and keep a pair from the simulated camera."""
        pair = photograph(Scene(3, "black", 1000, cut_um=0.5, tape=True, turn_deg=0.4))
        read.letter("P")
        for name, values in (("before", pair.before), ("after", pair.after)):
            file = self.place / f"M2-{name}.png"
            Image.fromarray((255 * values).round().astype("uint8")).save(file)
            read.take_picture(file)
            self.settle()
        read.photos.enter()
        self.take("photographs")
        read.photos.enter()

    def bringing_in(self):
        """Take a file that is refused and, when asked for, the first start."""
        sample = self.place / "evening.csv"
        sample.write_text(sample_evening())
        self.window.bring_in_file(sample)
        self.settle()
        self.window.view.outcome.word_set.emit("1", "soft")
        self.settle()
        self.take("bring-in")
        if self.only and "settings" in self.only:
            self.window.go("settings")
            self.take("settings")
        if self.only and "choose" in self.only:
            self.window.bring_in()
            self.take("choose")
            self.window.write_out()
            self.take("write")
        if self.only and "benches" in self.only:
            self.benches()
        first = self.open(self.place / "empty.loam")
        if self.only and "empty" in self.only:
            self.take("empty", first)
        if self.only and "rescue" in self.only:
            self.rescue()
        for window in (first, self.window):
            window.close()
            window.session.close()

    def benches(self):
        """Take what is asked where two benches changed the same."""
        self.window.session.choose(self.trials[2])
        there = Workshop(self.place / "other.loam")
        draft = read_draft(self.session.workshop.connection, self.trials[2])
        with there.transaction() as db:
            write_draft(db, draft, there.now())
        other = Session(there)
        asked = (
            (other, 3.0, "Which for a day's work?"),
            (self.session, 2.0, "Which motion cuts and finishes?"),
        )
        for session, value, words in asked:
            trial = session.trial
            session.run(SetMatters(trial.id, trial.id, "gloss20", None, value))
            session.run(EditTrial(trial, replace(trial, question=words)))
        write_package(read_draft(there.connection, other.trial_id), self.place / "other.zip")
        other.close()
        self.window.bring_in_file(self.place / "other.zip")
        self.settle()
        self.take("benches")

    def rescue(self):
        """Take what is shown when a workshop cannot be opened."""
        if self.only is not None and "rescue" not in self.only:
            return
        path = Path("/tmp/loam-shots/workshop.loam")
        path.parent.mkdir(exist_ok=True)
        path.unlink(missing_ok=True)
        make_demo(path)
        for day in (22, 24):
            keep_copy(path, datetime(2026, 9, day, 18, 2, 11))
        path.write_bytes(b"not a workshop " * 300)
        desk = Desk(self.application)
        desk.open(path)
        desk.window.resize(*self.size)
        for _ in range(5):
            self.application.processEvents()
        desk.window.grab().save(str(self.folder / "rescue.png"))
        desk.window.close()
        shutil.rmtree(path.parent)


def sample_evening():
    """Return a table of an evening's readings with the file's own words for hardness."""
    rows = ["panel;hardness;cell;combo;operator;gloss20;haze;remark"]
    for p, (name, word) in enumerate((("Heron", "1"), ("Curlew", "mittel"), ("Snipe", "hart"))):
        for i in range(12):
            for k in range(3):
                gloss, haze = 88 - 2 * p - (i * 5 + p) % 6 + 0.1 * k, 10 + (i * 7 + p) % 9 - 0.2 * k
                rows.append(
                    f"{name};{word};{'KLM'[i // 4]}{i % 4 + 1};{'ABCDEF'[(i * 5 + p) % 6]};Ivo;"
                    f"{gloss:.1f};{haze:.1f};".replace(".", ",")
                )
    return "\n".join(rows)


def main(arguments):
    """Take every picture, or only those named: [FOLDER [NAME,NAME [WIDTHxHEIGHT]]]."""
    folder = Path(arguments[0]) if arguments else ROOT / "docs" / "screenshots"
    only = arguments[1].split(",") if len(arguments) > 1 else None
    size = [int(x) for x in arguments[2].split("x")] if len(arguments) > 2 else [1280, 800]
    folder.mkdir(parents=True, exist_ok=True)
    application = QApplication([])
    with tempfile.TemporaryDirectory() as place:
        studio = Studio(application, Path(place), folder, only, size)
        studio.judging()
        studio.applying()
        studio.planning()
        studio.working()
        studio.reading()
        studio.bringing_in()


if __name__ == "__main__":
    main(sys.argv[1:])
