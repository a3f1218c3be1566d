"""What each stage adds, as drawn and in words: from damaged to finished, seen by the lamp."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from loam.app.presenters.lamps import lamp_means
from loam.app.questions.price.find import minutes_of
from loam.app.questions.question import Asked, Tell
from loam.app.record import record_of
from loam.app.reflection import Light, light_of
from loam.app.work_against_plan import marks_left_in
from loam.core.judging import ClassJudgement, TrialJudgement
from loam.core.readings import FILM, REMOVED, ReadingKind
from loam.core.readings.haze import LOG_SCALE, from_log_haze
from loam.core.sanding import Left, marks_words
from loam.core.scale import Scale
from loam.core.snapshot import Snapshot
from loam.core.stages import (
    BELOW,
    LOST,
    SEEN,
    START,
    UNSETTLED,
    Gain,
    Staged,
    one_more,
    stage_gains,
)
from loam.core.trial import AFTER, BEFORE, BETWEEN, CONTROLS, UNWIPED, Combination, Stage
from loam.core.units import fixed, signed
from loam.core.verdict import counting
from loam.core.verdicts import BETTER, CLEARLY_BETTER, EQUAL, OPEN, SURE
from loam.core.words.verdict import about, counted, listed, unit_of
from loam.store.database import reading_apart


@dataclass(frozen=True)
class Box:
    """What one state reflects.

    Attributes
    ----------
    name, value : str
        What it is, and the measurand at hand there; "" where that was not read.
    read : bool
        Whether anything was read there.
    phase : str
        When its readings were taken.
    """

    name: str
    value: str
    light: Light
    read: bool
    phase: str


@dataclass(frozen=True)
class Link:
    """What lies between two states.

    Attributes
    ----------
    gain, verdict, price : str
    size : float
        The gain on the scale, at least 0.
    earns : str
        Whether it earns its place: by a combination without it where there is one, else by its
        own gain.
    """

    gain: str
    verdict: str
    price: str
    size: float = 0.0
    earns: str = ""


@dataclass(frozen=True)
class Row:
    """One combination or control from left to right."""

    code: str
    words: str
    boxes: tuple[Box, ...]
    links: tuple[Link, ...]


@dataclass(frozen=True)
class StagesOf:
    """One hardness."""

    hardness: str
    ground: str
    rows: tuple[Row, ...]
    sentence: str


@dataclass(frozen=True)
class StagesPicture:
    """What each stage adds in one measurand.

    Attributes
    ----------
    by_stage : bool
        Whether anything was read between two stages.
    """

    kind: ReadingKind
    classes: tuple[StagesOf, ...]
    by_stage: bool
    floor: str

    def said(self) -> tuple[str, ...]:
        """Return what is said of each hardness."""
        return tuple(f"{c.hardness.capitalize()}: {c.sentence}" for c in self.classes)

    def table(self) -> list[list[str]]:
        """Return it as a table, its heading first."""
        rows = [["hardness", "combination", "state", "reads", "then adds", "verdict", "price"]]
        for own in self.classes:
            for row in own.rows:
                for i, box in enumerate(row.boxes):
                    link = row.links[i] if i < len(row.links) else Link("", "", "")
                    rows.append(
                        [
                            own.hardness,
                            row.code,
                            box.name,
                            box.value,
                            link.gain,
                            link.verdict,
                            link.price,
                        ]
                    )
        return rows


EARNS_IT, LEAVE_OUT, NOT_SURE = "earns it", "leave it out", "not sure"
EARNS = {SEEN: EARNS_IT, BELOW: LEAVE_OUT, LOST: LEAVE_OUT, UNSETTLED: NOT_SURE}


def _earned(found: ClassJudgement, more: str, less: str) -> str:
    """Say whether a stage earns its place, by the combination that does without it."""
    compared = found.compare(more, less)
    if compared.verdict in (CLEARLY_BETTER, BETTER):
        return EARNS_IT
    if compared.verdict == EQUAL or (compared.p_better or 0.0) <= 1.0 - SURE:
        return LEAVE_OUT
    return NOT_SURE


def find_stages(
    path: Path, trial_id: int, judged: Mapping[str, TrialJudgement], measurand: str
) -> StagesPicture:
    """Find what each stage adds; made for a worker."""
    with reading_apart(path) as db:
        snapshot = counting(record_of(db, trial_id)).snapshot
        left = marks_left_in(db, snapshot, trial_id)
    return _Maker(snapshot, judged, measurand, left).picture()


class _Maker:
    """Puts a trial's states together."""

    def __init__(
        self,
        snapshot: Snapshot,
        judged: Mapping[str, TrialJudgement],
        measurand: str,
        left: Sequence[Left] = (),
    ) -> None:
        self.left = left
        self.snapshot, self.judged, self.measurand = snapshot, judged, measurand
        self.kind, self.own = judged[measurand].kind, judged[measurand]
        self.combinations = {c.code: c for c in snapshot.combinations}
        self.hardness = {p.id: p.hardness for p in snapshot.panels}
        self.taping = {p.hardness: p.taping for p in reversed(snapshot.panels)}
        self.staged: list[Staged] = []
        if measurand != REMOVED.key:
            self.staged = stage_gains(snapshot, measurand, self.own.scale, self._floor(), self.sign)
        films = Scale("identity", -np.inf, np.inf)
        self.film = {
            (s.hardness, s.combination): s
            for s in stage_gains(snapshot, FILM.key, films, 0.0, -1.0)
        }
        self.lamps = lamp_means(snapshot)
        self.earned = {
            (found.hardness, more.code, at): _earned(found, more.code, less.code)
            for found in self.own.classes
            for more, less, at in one_more(self._worked(found))
        }

    @property
    def sign(self) -> float:
        return 1.0 if self.own.higher_is_better else -1.0

    def _floor(self) -> float:
        """The meter's limit on the scale, at the middle of what was read."""
        estimates = [s.figures.estimate for c in self.own.classes for s in c.standings]
        middle = float(np.median(estimates))
        least = max(middle - self.own.floor, self.own.scale.least)
        ends = self.own.scale.to(np.array([middle, least]))
        return abs(float(ends[0] - ends[1]))

    def picture(self) -> StagesPicture:
        """Return the whole picture."""
        by_stage = any(
            sum(s.done > START for s in own.states) > 1
            for own in (*self.staged, *self.film.values())
        )
        floor = f"{self.kind.write_span(self.own.floor, 1)} {unit_of(self.kind)}"
        classes = []
        for found in self.own.classes:
            rows = tuple(self._rows(found))
            classes.append(StagesOf(found.hardness, found.ground, rows, self._sentence(found)))
        return StagesPicture(self.kind, tuple(classes), by_stage, floor)

    def _rows(self, found: ClassJudgement) -> list[Row]:
        here = {s.combination: s for s in self.staged if s.hardness == found.hardness}
        names = sorted(n for n in found.names if n in self.combinations)
        controls = [c.code for c in self.snapshot.combinations if c.control and c.code not in names]
        rows = []
        for name in (*names, *controls):
            own = here.get(name)
            done = {s.done for s in own.states} if own is not None else set()
            done |= {
                s
                for (h, c, s) in self.lamps
                if h == found.hardness and c == name and isinstance(s, int)
            }
            rows.append(self._row(found.hardness, self.combinations[name], sorted(done), own))
        return [r for r in rows if r.boxes]

    def _row(self, hardness: str, c: Combination, done: list[int], own: Staged | None) -> Row:
        boxes: list[Box] = []
        links: list[Link] = []
        last = done[-1] if done else 0
        unwiped = (hardness, c.code, UNWIPED) in self.lamps
        for i, state in enumerate(done):
            if state == last and unwiped:
                boxes.append(self._box(hardness, c, UNWIPED, "before the wipe", last))
                links.append(self._wiped(hardness, c, last))
            boxes.append(self._box(hardness, c, state, _state_words(c, state, last), last))
            if i + 1 < len(done):
                link = self._link(hardness, c, own, state, done[i + 1], len(done))
                if done[i + 1] == last and unwiped and link.gain:
                    link = replace(link, gain=f"{link.gain} stays")
                links.append(link)
        return Row(c.code, c.name or c.words(), tuple(boxes), tuple(links))

    def _wiped(self, hardness: str, c: Combination, last: int) -> Link:
        """What the wipe took back, or gave."""
        before = self._levelled(hardness, c.code, UNWIPED, last)
        after = self._levelled(hardness, c.code, last, last)
        if before is None or after is None:
            return Link("", "", "")
        gap = self.kind.span(after - before)
        return Link(f"{signed(gap, self.kind.decimals)} by the wipe", "", "")

    def _box(self, hardness: str, c: Combination, state: int | str, name: str, last: int) -> Box:
        means = self.lamps.get((hardness, c.code, state), {})
        value = self._levelled(hardness, c.code, state, last)
        text = f"{self.kind.write(value)} {self.kind.unit}" if value is not None else ""
        haze = means.get("haze")
        if haze is not None and self._log_haze():
            haze = float(from_log_haze(np.array([haze]))[0])
        removed = means.get("defects")
        if removed is None and "defects" in self.judged:  # marks are all there before work
            final = self.lamps.get((hardness, c.code, last), {})
            removed = 0.0 if state == START else final.get("defects")
        return Box(
            name,
            text,
            light_of(means.get("gloss20"), haze, removed),
            bool(means),
            _phase(state, last),
        )

    def _levelled(self, hardness: str, code: str, state: int | str, last: int) -> float | None:
        """Return what a state reads, levelled as the ranking levels its last.

        The means of cells before it keep their distance on the scale to the last.
        """
        value = self.lamps.get((hardness, code, state), {}).get(self.measurand)
        shift = self._shift(hardness, code, last)
        if value is None or not shift:
            return value
        scale = self.own.scale
        moved = scale.back(scale.to(np.array([value])) + shift)
        return float(moved[0])

    def _shift(self, hardness: str, code: str, last: int) -> float:
        """Return how far the ranking lies from the mean of a combination's cells, on the scale."""
        found = self.own.on(hardness)
        standing = found.standing(code) if found is not None else None
        plain = self.lamps.get((hardness, code, last), {}).get(self.measurand)
        if standing is None or plain is None:
            return 0.0
        ends = self.own.scale.to(np.array([standing.figures.estimate, plain]))
        return float(ends[0] - ends[1])

    def _log_haze(self) -> bool:
        judged = self.judged.get("haze")
        return judged is not None and judged.scale.meter == LOG_SCALE

    def _link(
        self, hardness: str, c: Combination, own: Staged | None, a: int, b: int, states: int
    ) -> Link:
        gain = next((g for g in own.gains if (g.start, g.end) == (a, b)), None) if own else None
        stages = c.stages[a : b if states > 2 or b > a + 1 else len(c.stages)]
        price = self._price(hardness, c, a, b, stages)
        if gain is None:
            return Link("", "", price)
        earns = EARNS[gain.verdict]
        if b == a + 1:
            earns = self.earned.get((hardness, c.code, b), earns)
        return Link(self._gain_words(gain, own, a), gain.verdict, price, abs(gain.middle), earns)

    def _gain_words(self, gain: Gain, own: Staged | None, a: int) -> str:
        assert own is not None
        at = next(s.mean for s in own.states if s.done == a)
        at += self._shift(own.hardness, own.combination, max(s.done for s in own.states))
        ends = self.own.scale.back(
            np.array(
                [
                    at,
                    at + self.sign * gain.middle,
                    at + self.sign * gain.low,
                    at + self.sign * gain.high,
                ]
            )
        )
        amount = float(ends[1] - ends[0])
        half = 0.5 * abs(float(ends[3] - ends[2])) if np.isfinite(gain.low) else 0.0
        digits = max(self.kind.decimals, 0)
        return f"{signed(self.kind.span(amount), digits)} ± {fixed(self.kind.span(half), digits)}"

    def _price(self, hardness: str, c: Combination, a: int, b: int, stages: Sequence[Stage]) -> str:
        parts = []
        film = self.film.get((hardness, c.code))
        lost = next((g for g in film.gains if (g.start, g.end) == (a, b)), None) if film else None
        if lost is not None and film is not None:
            taken = self._taken(film, lost)
            parts.append(f"{'about 0' if taken < 0.0 else FILM.write(taken)} {FILM.unit}")
        minutes = minutes_of(stages, self.taping[hardness])
        if minutes:
            parts.append(f"{fixed(minutes, 1)} min")
        return ", ".join(parts)

    def _taken(self, film: Staged, part: Gain) -> float:
        """Return what a part of the stages takes off, µm: its share of what the ranking says."""
        removed = self.judged.get(REMOVED.key)
        taken = removed.on(film.hardness) if removed is not None else None
        standing = taken.standing(film.combination) if taken is not None else None
        whole = sum(g.middle for g in film.gains)
        if standing is None or min(g.start for g in film.gains) != START:
            return part.middle
        if len(film.gains) == 1:
            return standing.figures.estimate
        return part.middle / whole * standing.figures.estimate if whole > 0.0 else part.middle

    def _worked(self, found: ClassJudgement) -> list[Combination]:
        own = (self.combinations[n] for n in found.columns if n in self.combinations)
        return [c for c in own if c.stages]

    def _sentence(self, found: ClassJudgement) -> str:
        """Say what a stage more brings, and which stages the meter cannot see."""
        own = self._worked(found)
        parts = [self._one_more(found, *pair) for pair in one_more(own)]
        if not parts:
            parts = self._by_number(found, own)
        unseen = self._unseen(found.hardness)
        if unseen:
            parts.append(f"the meter cannot see what {listed(unseen)} adds")
        seen = marks_words(
            [f for f in self.left if f.hardness == found.hardness], self.combinations
        )
        if seen:
            parts.append(seen)
        if not parts:
            lead = found.leader.combination
            own_stages = len(self.combinations[lead].stages) if lead in self.combinations else 0
            each = f"{counted(own_stages)} stage{'s' if own_stages != 1 else ''} each"
            parts.append(f"{each}; {self._leader(found.hardness, lead)}")
        return "; ".join(parts) + "."

    def _leader(self, hardness: str, lead: str) -> str:
        """Say what the leader gained over the state before work."""
        own = next(
            (s for s in self.staged if (s.hardness, s.combination) == (hardness, lead)), None
        )
        if own is None or not own.gains:
            return "nothing was read before work, so what is gained is not known"
        told = [f"{self._gain_words(g, own, g.start)} {self.kind.unit}" for g in own.gains]
        return f"{lead}, the leader, gained {listed(told)}"

    def _unseen(self, hardness: str) -> list[str]:
        """Return the stages whose gain is surely below what the meter sees."""
        return [
            f"stage {g.end} of {own.combination}"
            for own in self.staged
            for g in own.gains
            if own.hardness == hardness and g.start > START and g.verdict == BELOW
        ]

    def _one_more(
        self, found: ClassJudgement, more: Combination, less: Combination, at: int
    ) -> str:
        compared = found.compare(more.code, less.code)
        stage = more.stages[at - 1]
        name = "middle stage" if 1 < at < len(more.stages) else f"stage {at}"
        who = f"the {name} of {more.code} ({stage.pad} + {stage.compound})"
        price = self._difference(found.hardness, more, less)
        told = self._amount(found, more.code, less.code)
        if compared.verdict in (CLEARLY_BETTER, BETTER):
            maybe = "" if compared.verdict == CLEARLY_BETTER else ", perhaps less than matters,"
            return f"{who} earns its place: {told}{maybe} than {less.code} for {price}"
        if compared.verdict == EQUAL:
            return f"{who} does not earn its place: as good as {less.code} without it, for {price}"
        if (compared.p_better or 0.0) <= 1.0 - SURE:
            return f"{who} does harm: {less.code} without it is ahead, and it costs {price}"
        return f"whether {who} earns its place is not settled: {told} than {less.code} for {price}"

    def _by_number(self, found: ClassJudgement, own: Sequence[Combination]) -> list[str]:
        """Compare the best of each number of stages with the next."""
        best: dict[int, Combination] = {}
        for n in found.names:
            c = self.combinations.get(n)
            if c is not None and c in own:
                best.setdefault(len(c.stages), c)
        parts = []
        numbers = sorted(best)
        for few, many in itertools.pairwise(numbers):
            a, b = best[many], best[few]
            verdict = found.compare(a.code, b.code).verdict
            told = self._amount(found, a.code, b.code)
            words = "as good as" if verdict == EQUAL else f"{told} than"
            still = " (not settled)" if verdict == OPEN else ""
            price = self._difference(found.hardness, a, b)
            parts.append(
                f"{counted(many)} stages at their best ({a.code}) read {words} {counted(few)}"
                f" ({b.code}){still}, for {price}"
            )
        return parts

    def _amount(self, found: ClassJudgement, a: str, b: str) -> str:
        first, second = found.standing(a), found.standing(b)
        if first is None or second is None:
            return ""
        gap = first.figures.estimate - second.figures.estimate
        half = 0.5 * (first.figures.own_high - first.figures.own_low)
        kind = self.kind
        amount = about(kind.span(abs(gap)), kind.span(half), kind.decimals)
        return f"{amount} {unit_of(kind)} {'more' if gap >= 0 else 'less'}"

    def _difference(self, hardness: str, a: Combination, b: Combination) -> str:
        """Say what one costs more than the other, in clear and in minutes."""
        parts = []
        removed = self.judged.get(REMOVED.key)
        taken = removed.on(hardness) if removed is not None else None
        if taken is not None and a.code in taken.columns and b.code in taken.columns:
            first, second = taken.standing(a.code), taken.standing(b.code)
            if first is not None and second is not None:
                gap = first.figures.estimate - second.figures.estimate
                kind = removed.kind if removed is not None else self.kind
                word = "more" if gap >= 0 else "less"
                parts.append(f"{kind.write_span(abs(gap))} {kind.unit} of {taken.coat} {word}")
        both = [minutes_of(c.stages, self.taping[hardness]) for c in (a, b)]
        if both[0] is not None and both[1] is not None:
            gap = both[0] - both[1]
            parts.append(f"{fixed(abs(gap), 1)} min {'more' if gap >= 0 else 'less'}")
        return listed(parts) or "what was not measured"


def _phase(state: int | str, last: int) -> str:
    """Return the phase of the readings of a state."""
    if isinstance(state, str):
        return state
    if state == START:
        return BEFORE
    return AFTER if state == last or state > len(BETWEEN) else BETWEEN[state - 1]


def _state_words(c: Combination, state: int, last: int) -> str:
    if c.control:
        return CONTROLS[c.control]
    if state == START:
        return "before work"
    if state == last:
        return "after" if last < len(c.stages) or last == 1 else f"after stage {state}"
    return f"after stage {state}"


def head(asked: Asked) -> str:
    """Return what its part of the report is called."""
    return f"What each stage adds to {asked.label}"


def answer(asked: Asked, tell: Tell) -> StagesPicture:
    """Find what the stages of each combination add."""
    return find_stages(asked.path, asked.trial.id, asked.judged, asked.measurand)
