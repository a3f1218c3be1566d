"""Runs the benches: time goes on, passes are written down, a stage is finished."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping

from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

from loam.app.commands import Act, NoteWork, pad_event
from loam.app.presenters.shelf import Single, singles_by_kind
from loam.app.session import Session
from loam.core.kit.life import WORKED as SET_WORKED
from loam.store import work
from loam.ui.pacing_sounds import Ear
from loam.ui.views.work.bench import Bench, Between

TICK_MS = 16
KEEP_S = 1.0
"""So often is kept where the pad is."""


class Runner(QObject):
    """Two benches at most, and one clock for both.

    ``moved`` says that a pad moved, ``halted`` that one came to rest or set off, ``finished`` that
    a stage was worked.

    Parameters
    ----------
    act : callable
        Runs a command; False when it was refused.
    """

    moved = pyqtSignal()
    halted = pyqtSignal()
    finished = pyqtSignal(object)

    def __init__(self, session: Session, act: Callable[[Act], bool]) -> None:
        super().__init__()
        self.session, self.act = session, act
        self.clock: Callable[[], float] = time.monotonic
        self._kept_at = 0.0
        self.ear = Ear(session, self)
        self.benches = [Bench(0)]
        self.bench = self.benches[0]
        self.timer = QTimer(self)
        self.timer.setInterval(TICK_MS)
        self.timer.setTimerType(Qt.TimerType.PreciseTimer)
        self.timer.timeout.connect(self.tick)

    def worker(self, bench: Bench) -> str:
        """Return who works at a bench."""
        return str(self.session.recall(bench.worker_key, "") or "")

    def day(self) -> str:
        """Return today."""
        return f"{self.session.workshop.clock():%Y-%m-%d}"

    def turn_bench(self) -> None:
        """Turn to the other bench; either runs on."""
        if len(self.benches) == 1:
            self.benches.append(Bench(1))
        self.bench = self.benches[1 - self.bench.number]

    def hold_all(self) -> None:
        """Hold every pad."""
        for bench in self.benches:
            if bench.running and bench.pacer is not None:
                if bench.counting:
                    bench.owed_s = self.clock() - bench.counted_at
                bench.pacer.hold()
                self._keep_place(bench)
        self.timer.stop()

    def take_up(self, bench: Bench) -> None:
        """Go back to where the pad was left, after Loam ended in a pass."""
        bench.take_up(self.session.recall(bench.place_key))

    def _keep_place(self, bench: Bench) -> None:
        """Keep where the pad is, so that a pass that is cut off is gone on with."""
        self._kept_at = self.clock()
        place = bench.place(self._kept_at)
        if place is not None:
            self.session.remember(bench.place_key, place)

    def _run_timer(self) -> None:
        if not any(b.running for b in self.benches):
            self.timer.stop()
        elif not self.timer.isActive():
            self.timer.start()

    def press(self) -> None:
        """Start, hold or go on at the bench at hand; in count-only mode count a pass."""
        bench = self.bench
        if bench.pacer is None:
            return
        if bench.counting and bench.running:
            now = self.clock()
            self._note_pass(bench, now - bench.counted_at, timed=True)
            bench.counted_at = now
            return
        bench.counted_at = self.clock() - bench.owed_s
        bench.left_at, bench.owed_s = "", 0.0
        bench.pacer.turn()
        self._run_timer()
        self._keep_place(bench)
        self.halted.emit()

    def tick(self) -> None:
        """Note every pass that is done, at either bench."""
        for bench in self.benches:
            self._tick(bench)
            paced = bench.pacer if not bench.counting else None
            self.ear.follow(bench.number, paced.moment() if paced is not None else None)
            if bench.running and self.clock() - self._kept_at >= KEEP_S:
                self._keep_place(bench)
        self.moved.emit()

    def _tick(self, bench: Bench) -> None:
        pacer = bench.pacer
        if pacer is None or bench.counting or bench.between is not None or bench.asks_grit:
            return
        moment = pacer.moment()
        burst = bench.state is not None and bench.state.now.burst_s is not None
        while bench.pacer is pacer and bench.passes < moment.done_passes:
            last = bench.passes + 1 == moment.of
            self._note_pass(bench, pacer.elapsed_s - bench.noted_s if last else None)
            if burst and not last and bench.pacer is pacer:
                pacer.hold_at(pacer.track.pass_start(bench.passes + 1))
                moment = pacer.moment()
                self._run_timer()
                self.halted.emit()

    def _note_pass(self, bench: Bench, seconds: float | None, *, timed: bool = False) -> None:
        """Write a pass down; after the last one the stage is worked."""
        state, pacer = bench.state, bench.pacer
        if state is None or pacer is None:
            return
        number = bench.passes + 1
        if seconds is None:
            seconds = pacer.track.pass_start(number + 1) - bench.noted_s
        bench.noted_s += seconds
        bench.passes = number
        spread = pacer.track.spread_s if number == 1 else 0.0
        facts: dict[str, object] = {
            "seconds": round(seconds, 3),
            "machine": state.now.machine,
            "number": number + bench.extra,
            "paint_s": round(max(seconds - spread, 0.0), 3),
        }
        if timed:
            facts["timed"] = True
        if not self.note(bench, work.PASS, facts):
            bench.noted_s -= seconds
            bench.passes -= 1
            pacer.hold()
            self.halted.emit()
        elif number >= pacer.track.settings.passes:
            pacer.hold()
            if state.former is not None:  # first: is what the former grit left gone?
                self._run_timer()
                self.halted.emit()
            else:
                self.finish(bench)

    def finish(self, bench: Bench, looked: Mapping[str, object] | None = None) -> None:
        """The stage is done: note it, with what was seen of former marks, and load the pad."""
        state, pacer = bench.state, bench.pacer
        if state is None or pacer is None:
            return
        pad = state.pad if state.now.pad else None
        facts: dict[str, object] = {
            "held_s": round(pacer.held_s, 1),
            "passes": pacer.track.settings.passes + bench.extra,
            **(looked or {}),
        }
        if not self.note(bench, work.WORKED, facts, pad.name if pad is not None else ""):
            return
        if pad is not None:
            self.happen(pad, SET_WORKED)
            pad = self.single(pad) or pad
        bench.between = Between(
            state.panel.name,
            state.cell.id,
            state.cell.code,
            state.stage,
            len(state.combination.stages),
            pad,
        )
        self._run_timer()
        self.finished.emit(bench)

    def single(self, pad: Single) -> Single | None:
        """Return a single pad as it is now."""
        kinds = singles_by_kind(self.session).values()
        return next((s for own in kinds for s in own if s.item_id == pad.item_id), None)

    def note(self, bench: Bench, what: str, facts: dict[str, object], pad: str = "") -> bool:
        """Note something of a bench's cell: between the cells, of the one that was worked."""
        state, trial, b = bench.state, self.session.trial, bench.between
        if trial is None:
            return False
        if b is not None:
            cell, stage = b.cell_id, b.stage
        elif state is not None:
            cell, stage = state.cell.id, state.stage
        else:
            return False
        person = self.worker(bench)
        return self.act(NoteWork(trial.id, cell, stage, what, facts, person, self.day(), pad))

    def happen(self, pad: Single, event: str) -> bool:
        """Note what happened to a single pad."""
        now = self.single(pad) or pad
        return self.act(pad_event(now.item_id, now.name, now.facts, event))
