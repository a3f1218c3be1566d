"""The pacer: where the pad should be now, on the very path that the dose integrates.

Time is told by a clock that is asked, never by counting ticks: what a screen misses is not lost,
and a pause is a pause to the clock's own precision.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from loam.core.dose.path import passes
from loam.core.dose.settings import SectionSettings
from loam.core.errors import ValueRefused
from loam.core.stats.reduce import FloatArray, IntArray

SPREAD_S = 8.0
"""To spread the compound at low speed before the first pass: assumed."""
READY, SPREAD, WORK, EASE, HELD, DONE = "ready", "spread", "work", "ease", "held", "done"


@dataclass(frozen=True)
class Track:
    """The way of the pad over a section, in time.

    Attributes
    ----------
    settings : SectionSettings
    spread_s : float
        Before the first pass.
    points_mm : (n, 2)
        Corners of the way, all passes one after the other.
    at_s : (n,)
        When each is reached, from the start of the first pass.
    of_pass : (n,) int
        The pass of each corner, from 0.
    """

    settings: SectionSettings
    spread_s: float
    points_mm: FloatArray
    at_s: FloatArray
    of_pass: IntArray

    @property
    def whole_s(self) -> float:
        """From the start to the end, spreading included."""
        return self.spread_s + float(self.at_s[-1])

    def pass_start(self, number: int) -> float:
        """Return when a pass starts, from 1; spreading included."""
        first = int(np.searchsorted(self.of_pass, number - 1))
        return self.spread_s + float(self.at_s[min(first, self.at_s.size - 1)])


def track_of(
    settings: SectionSettings, spread_s: float = SPREAD_S, burst_s: float | None = None
) -> Track:
    """Return the way of a stage over its section.

    In bursts every pass takes ``burst_s``, along and across alike; the dose takes the mean speed
    of all passes, which comes to the same time in all.

    From the end of a pass the pad goes straight to the start of the next; the arm's speed is the
    planned one all the way, as in the dose.
    """
    ways = passes(settings)
    points = np.concatenate([way.points_mm for way in ways])
    of_pass = np.repeat(np.arange(len(ways)), [len(way.points_mm) for way in ways])
    steps = np.hypot(*np.diff(points, axis=0).T)
    steps[np.diff(of_pass) > 0] = 0.0  # lifted or slid to the next start: no time on the paint
    if burst_s is not None:
        into = of_pass[1:]
        length = np.bincount(into, weights=steps, minlength=len(ways))
        steps = steps / length[into] * (burst_s * settings.arm_mm_s)
    at = np.concatenate([[0.0], np.cumsum(steps)]) / settings.arm_mm_s
    return Track(settings, spread_s, points, at, np.asarray(of_pass, np.intp))


@dataclass(frozen=True)
class Moment:
    """What is to be shown at a moment.

    Attributes
    ----------
    phase : str
        ready, spread, work, ease (the last line of the last pass), held or done.
    x_mm, y_mm : float
        Middle of the pad.
    done_passes : int
        Passes that are behind; ``of`` all of them.
    ahead_mm : (m, 2)
        The way that comes next: the rest of this line and the one after it.
    left_s : float
        To the end, spreading included.
    left_in_pass_s : float
    behind_mm : (k, 2)
        The way of this pass that is done, to where the pad is.
    line : int
        Which corner of the whole way comes next: it grows at every turn.
    """

    phase: str
    x_mm: float
    y_mm: float
    done_passes: int
    of: int
    ahead_mm: FloatArray
    left_s: float
    left_in_pass_s: float
    behind_mm: FloatArray = field(default_factory=lambda: np.zeros((0, 2)), compare=False)
    line: int = 0


class Pacer:
    """Runs over a track: started, held, resumed, stopped.

    Parameters
    ----------
    clock : callable
        Returns seconds that only grow.
    """

    def __init__(self, track: Track, clock: Callable[[], float], done_passes: int = 0) -> None:
        if not 0 <= done_passes <= track.settings.passes:
            raise ValueRefused(f"{done_passes} passes cannot be done of {track.settings.passes}.")
        self.track, self._clock = track, clock
        self.skipped_s = track.pass_start(done_passes + 1) if done_passes else 0.0
        if done_passes == track.settings.passes:
            self.skipped_s = track.whole_s
        self._spent = self.skipped_s
        self._since: float | None = None
        self._held_since: float | None = None
        self.held_s = 0.0

    @property
    def elapsed_s(self) -> float:
        """Time that the pad was to move, what was skipped included."""
        running = 0.0 if self._since is None else self._clock() - self._since
        return min(self._spent + running, self.track.whole_s)

    @property
    def trigger_s(self) -> float:
        """Time that the machine ran."""
        return self.elapsed_s - self.skipped_s

    @property
    def running(self) -> bool:
        """Whether the pad is to move now."""
        return self._since is not None and self.elapsed_s < self.track.whole_s

    def start(self) -> None:
        """Start, or go on after a pause."""
        if self._since is not None or self.elapsed_s >= self.track.whole_s:
            return
        now = self._clock()
        if self._held_since is not None:
            self.held_s += now - self._held_since
            self._held_since = None
        self._since = now

    def hold(self) -> None:
        """Pause."""
        if self._since is not None:
            now = self._clock()
            self._spent = min(self._spent + now - self._since, self.track.whole_s)
            self._since, self._held_since = None, now

    def hold_at(self, spent_s: float) -> None:
        """Pause, and take no more than ``spent_s`` as run: a burst ends where it ends."""
        self.hold()
        self._spent = min(self._spent, spent_s)

    def take_up(self, spent_s: float) -> bool:
        """Stand, held, where the pad was left; False for a place that this stage does not have."""
        if self._since is not None or not self.skipped_s < spent_s < self.track.whole_s:
            return False
        self._spent = spent_s
        return True

    def turn(self) -> None:
        """Start, hold or go on: one key for all."""
        if self.running:
            self.hold()
        else:
            self.start()

    def moment(self) -> Moment:
        """Return what is to be shown now."""
        track, spent = self.track, self.elapsed_s
        total = track.settings.passes
        if spent >= track.whole_s:
            x, y = track.points_mm[-1]
            empty = np.zeros((0, 2))
            return Moment(DONE, float(x), float(y), total, total, empty, 0.0, 0.0)
        phase = WORK if spent >= track.spread_s else SPREAD
        if self._since is None:
            phase = READY if spent == self.skipped_s else HELD
        at = max(spent - track.spread_s, 0.0)
        x, y = (float(np.interp(at, track.at_s, track.points_mm[:, i])) for i in (0, 1))
        corner = int(np.searchsorted(track.at_s, at, side="right"))
        corner = min(corner, track.at_s.size - 1)
        if phase == WORK and corner == track.at_s.size - 1:
            phase = EASE
        own = int(track.of_pass[corner])
        ahead = track.points_mm[corner : corner + 3]
        ahead = ahead[track.of_pass[corner : corner + 3] == own]
        end = track.pass_start(own + 2) if own + 1 < total else track.whole_s
        done = track.points_mm[:corner][track.of_pass[:corner] == own]
        return Moment(
            phase,
            x,
            y,
            own,
            total,
            np.vstack([[x, y], ahead]),
            track.whole_s - spent,
            end - spent,
            np.vstack([done, [[x, y]]]),
            corner,
        )
