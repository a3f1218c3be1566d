"""One bench: a person with a machine at a cell. Two can stand side by side on one screen."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from loam.app.presenters.shelf import Single
from loam.app.presenters.working import Wish, Working
from loam.core.pacer import Pacer, track_of
from loam.core.trial import Cell

MOST_OWED_S = 600.0
"""No more of a counted pass is taken for worked: nobody knows whether it was."""


@dataclass(frozen=True)
class Between:
    """A stage that was just finished, until the next is begun.

    Attributes
    ----------
    pad : Single or None
        The pad that it was worked with.
    """

    panel: str
    cell_id: int
    code: str
    stage: int
    of: int
    pad: Single | None


class Bench:
    """What one bench is at: its cell, its pacer, who works, and what was just finished.

    Attributes
    ----------
    number : int
        0 or 1.
    chosen : int or None
        The cell that was asked for; by itself the next in the order of work.
    pad : int or None
        The single pad that was taken instead of the proposed one.
    extra : int
        Passes of this stage beyond those that were planned: the former grit was not gone.
    left_at : str
        Where a pass was left when Loam ended, in words; "" once it is gone on with.
    owed_s : float
        What of a counted pass was worked before Loam ended.
    """

    def __init__(self, number: int) -> None:
        self.number = number
        self.chosen: int | None = None
        self.pad: int | None = None
        self.state: Working | None = None
        self.pacer: Pacer | None = None
        self.between: Between | None = None
        self.counting = False
        self.passes = 0
        self.extra = 0
        self.noted_s = 0.0
        self.counted_at = 0.0
        self.warned = False
        self.laid_for: tuple[object, ...] = ()
        self.left_at = ""
        self.owed_s = 0.0

    @property
    def worker_key(self) -> str:
        """The setting that keeps who works here."""
        return "worker" if not self.number else f"worker:{self.number + 1}"

    @property
    def place_key(self) -> str:
        """The setting that keeps where the pad is."""
        return "pace" if not self.number else f"pace:{self.number + 1}"

    def place(self, now_s: float) -> dict[str, Any] | None:
        """Return where the pad is: cell, stage, passes done, and what was worked till then, s."""
        state, pacer = self.state, self.pacer
        if state is None or pacer is None or not self.begun:
            return None
        spent = pacer.elapsed_s
        if self.counting:
            owed = now_s - self.counted_at if pacer.running else self.owed_s
            start = pacer.track.pass_start(self.passes + 1) if self.passes else 0.0
            spent = start + owed
        return {
            "cell": state.cell.id,
            "stage": state.stage,
            "passes": self.passes,
            "spent_s": round(spent, 2),
            "counting": self.counting,
        }

    def take_up(self, kept: object) -> bool:
        """Stand where the pad was left when Loam ended, if that is the stage at hand."""
        state, pacer, self.left_at, self.owed_s = self.state, self.pacer, "", 0.0
        if state is None or pacer is None or not isinstance(kept, dict):
            return False
        here = (state.cell.id, state.stage, self.passes)
        spent = kept.get("spent_s")
        if here != tuple(kept.get(k) for k in ("cell", "stage", "passes")):
            return False
        if isinstance(spent, bool) or not isinstance(spent, int | float):
            return False
        start = pacer.track.pass_start(self.passes + 1) if self.passes else 0.0
        if kept.get("counting") is True:
            self.counting, self.owed_s = True, min(max(spent - start, 0.0), MOST_OWED_S)
        elif spent >= pacer.track.pass_start(self.passes + 2) or not pacer.take_up(float(spent)):
            return False
        gone = round(spent - start)
        if gone:
            self.left_at = f"Pass {self.passes + 1} was left {gone // 60}:{gone % 60:02d} after"
            self.left_at += " it was begun: Space goes on from there."
        return bool(gone)

    @property
    def running(self) -> bool:
        """Whether the pad is to move here now."""
        return self.pacer is not None and self.pacer.running

    @property
    def asks_grit(self) -> bool:
        """Whether a stage that takes former marks off is through, and waits to be looked at."""
        state, pacer = self.state, self.pacer
        if state is None or pacer is None or state.former is None or pacer.running:
            return False
        return self.passes >= pacer.track.settings.passes

    @property
    def begun(self) -> bool:
        """Whether its stage was begun: it keeps its cell until that is done."""
        return self.pacer is not None and self.pacer.trigger_s > 0.0

    def wish(self, taken: Cell | None, person: str) -> Wish:
        """Return what it asks for: a stage that was begun is worked to its end."""
        held = self.state is not None and self.begun and self.between is None
        begun = self.state.cell.id if self.state is not None and held else None
        return Wish(begun or self.chosen, taken, self.pad, person)

    def set_up(self, clock: Callable[[], float]) -> None:
        """Lay the pacer out for the stage at hand; passes that were done stay done."""
        self.pacer, state = None, self.state
        self.extra, self.warned = 0, False
        if state is None or state.settings is None:
            return
        track = track_of(state.settings.section, burst_s=state.now.burst_s)
        done = min(state.done_passes, track.settings.passes)
        self.pacer = Pacer(track, clock, done)
        self.passes, self.noted_s = done, self.pacer.elapsed_s

    def once_more(self, clock: Callable[[], float]) -> None:
        """Lay out one more set of a sanding stage."""
        if self.pacer is None:
            return
        self.extra += self.pacer.track.settings.passes
        self.pacer = Pacer(self.pacer.track, clock)
        self.passes, self.noted_s = 0, 0.0

    def follow(self, state: Working | None, clock: Callable[[], float], *, anew: bool) -> bool:
        """Take what is worked now; True when the pacer was laid out anew."""
        self.state = state
        of = (state.cell.id, state.stage, state.now, state.panel.taping) if state else ()
        if of == self.laid_for and not anew:
            return False
        self.laid_for = of
        self.set_up(clock)
        return True

    def running_for(self) -> tuple[str, float]:
        """Return the machine that runs, and for how long since a pass was noted last, s."""
        state, pacer = self.state, self.pacer
        if state is None or pacer is None:
            return "", 0.0
        return state.now.machine, max(pacer.elapsed_s - self.noted_s, 0.0)

    def said(self, worker: str) -> str:
        """Say in a line where this bench stands, for whoever looks at the other."""
        state, pacer = self.state, self.pacer
        who = worker or "nobody named"
        if self.between is not None:
            return f"Bench {self.number + 1}, {who}: {self.between.code} is worked"
        if state is None or pacer is None:
            return f"Bench {self.number + 1}, {who}"
        moment = pacer.moment()
        left = round(moment.left_s)
        how = "" if pacer.running else ", held" if pacer.trigger_s else ", not begun"
        return (
            f"Bench {self.number + 1}, {who}: {state.panel.name} {state.cell.code},"
            f" {moment.done_passes} of {moment.of} passes, {left // 60}:{left % 60:02d}{how}"
        )
