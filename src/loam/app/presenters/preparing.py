"""The gate that is open before a panel is worked."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from loam.app.presenters.laying import done_cells
from loam.app.session import Session
from loam.core.prepare import (
    BASELINE,
    BY_KEY,
    GATES,
    SKIPPED,
    Gate,
    Passed,
    gates_for,
    next_gate,
    standing,
)
from loam.core.readings import TEMPERATURE, kind_of
from loam.core.text import listed
from loam.core.trial import Panel
from loam.store import preparation


@dataclass(frozen=True)
class Preparing:
    """How far a panel is prepared.

    Attributes
    ----------
    gate : Gate
        The one that is open.
    passed : mapping of str to Passed
        What counts of each gate.
    missing, of : int
        Cells without a reading before work, and cells with a combination.
    alike : tuple of int
        Panels that wait for the same gate, this one too.
    usual : mapping of str to str
        Answers that were given last, or the usual ones.
    reads : tuple of str
        What is read before work in this trial.
    lacks : tuple of (str, int)
        What of it lacks, on how many cells of the panel.
    gates : tuple of Gate
        Those that this trial asks.
    """

    panel: Panel
    gate: Gate
    passed: Mapping[str, Passed]
    missing: int
    of: int
    alike: tuple[int, ...]
    usual: Mapping[str, str]
    reads: tuple[str, ...] = ()
    lacks: tuple[tuple[str, int], ...] = ()
    gates: tuple[Gate, ...] = GATES

    @property
    def open_after(self) -> tuple[Gate, ...]:
        """Gates that are open after this one, but for the readings before work."""
        at = self.gates.index(self.gate)
        rest = self.gates[at + 1 :]
        return tuple(g for g in rest if g.key not in self.passed and g.key != BASELINE)


def gates_noted(session: Session) -> dict[int, list[Passed]]:
    """Return what was noted of the gates of the trial at hand, by panel, oldest first."""
    trial_id, db = session.trial_id, session.workshop.connection
    if trial_id is None:
        return {}
    found: dict[int, list[Passed]] = session.cached(
        "gates", lambda: preparation.passed(db, trial_id)
    )
    return found


def read_before(session: Session) -> list[str]:
    """Return the measurands of the trial at hand that are read before work."""
    trial = session.trial
    kinds = [kind_of(m) for m in trial.measurands] if trial is not None else []
    return [k.key for k in kinds if k.before_columns and not k.derived and k.key != TEMPERATURE.key]


def _lacking(session: Session) -> dict[int, dict[str, int]]:
    """Return by panel, and measurand, how many cells lack a reading before work."""
    trial_id, db = session.trial_id, session.workshop.connection
    if trial_id is None:
        return {}

    def count() -> dict[int, dict[str, int]]:
        found: dict[int, dict[str, int]] = {}
        for measurand in read_before(session):
            for panel, n in preparation.without_baseline(db, trial_id, measurand).items():
                found.setdefault(panel, {})[measurand] = n
        return found

    found: dict[int, dict[str, int]] = session.cached("cells without baseline", count)
    return found


def lacking_words(found: Preparing) -> str:
    """Say which readings before work are typed on a panel, and which lack."""
    lack = [f"{kind_of(m).label} lacks on {n} of {found.of} cells" for m, n in found.lacks]
    there = [kind_of(m).label for m in found.reads if m not in dict(found.lacks)]
    said = f"{listed(lack)[:1].upper()}{listed(lack)[1:]}." if lack else ""
    if there:
        verb = "is" if len(there) == 1 else "are"
        said += f" {listed(there)[:1].upper()}{listed(there)[1:]} {verb} read on all of them."
    return said.strip()


def preparing(session: Session, panel: Panel) -> Preparing | None:
    """Return the gate that is open on a panel; None once it may be worked, or was begun."""
    noted, lacking = gates_noted(session), _lacking(session)
    missing = {panel: max(own.values(), default=0) for panel, own in lacking.items()}
    places = session.panel_of()
    begun = {places[cell] for cell in done_cells(session) if cell in places}
    if panel.id in begun:
        return None
    open_at: dict[int, Gate] = {}
    gates = gates_for(c.stages for c in session.combinations())
    for other in session.panels():
        if other.id not in begun:
            gate = next_gate(standing(noted.get(other.id, ())), missing.get(other.id, 0), gates)
            if gate is not None:
                open_at[other.id] = gate
    gate = open_at.get(panel.id)
    if gate is None:
        return None
    laid = sum(c.combination_id is not None for c in session.cells_of(panel.id))
    return Preparing(
        panel,
        gate,
        standing(noted.get(panel.id, ())),
        missing.get(panel.id, 0),
        laid,
        tuple(i for i, g in open_at.items() if g.key == gate.key),
        _usual(gate, noted),
        tuple(read_before(session)),
        tuple(lacking.get(panel.id, {}).items()),
        gates,
    )


def _usual(gate: Gate, noted: Mapping[int, list[Passed]]) -> dict[str, str]:
    """Return what was answered at this gate last; what never was, as it usually is."""
    found = {asked.key: asked.choices[0] for asked in gate.asks}
    same = [p for passed in noted.values() for p in passed if p.gate == gate.key]
    for p in sorted(same, key=lambda p: p.id):
        found |= {k: str(v) for k, v in p.facts.items() if k in found}
    return found


def gate_lines(found: Preparing) -> list[tuple[str, str, str]]:
    """Return every gate of a panel: its name, how it stands (a word), and who and when."""
    lines = []
    for gate in found.gates:
        p = found.passed.get(gate.key)
        if p is not None:
            how = "left out" if p.what == SKIPPED else "done"
            who = ", ".join(part for part in (p.person, p.day[5:], p.at[11:16]) if part)
            reason = str(p.facts.get("reason", ""))
            lines.append((gate.name, how, reason or who))
        elif gate.key == BASELINE and found.missing == 0:
            lines.append((gate.name, "done", ""))
        else:
            lines.append((gate.name, "now" if gate.key == found.gate.key else "", ""))
    return lines


def skipping(gate: str) -> str:
    """Say what leaving a gate out does."""
    return f"Left out: {BY_KEY[gate].skipped}."
