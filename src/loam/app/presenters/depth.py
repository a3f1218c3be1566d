"""How deep a trial goes: what may go of its panels, and what would take more than that."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from loam.app.presenters.budget_rule import RULE, rule_of
from loam.app.presenters.film import cautions_at_hand
from loam.app.session import Session
from loam.core.design.costs import Costs, cell_work
from loam.core.dose.stage import heavy_sets
from loam.core.errors import ValueRefused
from loam.core.film import budget, survey
from loam.core.film.budget import BY_FLOOR, HEAVY_SETS, share_words
from loam.core.removal import Known
from loam.core.text import listed, some
from loam.core.trial import Combination, Panel, Stage
from loam.core.units import fixed
from loam.store import panels as panel_store
from loam.store import surveys

DEEP = "how deep it goes"
TOO_DEEP = "Too deep"
HELPS = "Fewer passes, a finer compound or a finer grit help."


@dataclass(frozen=True)
class Allowed:
    """What may go of a panel at its thinnest spot, µm.

    Attributes
    ----------
    coat : str
        Of what: clear, or colour in a single stage.
    assumed : bool
        Whether it rests on neither a record nor a survey.
    thick : float
        The coat on the whole, µm.
    why : str
        What binds it, in words.
    heavy_sets : int
        After so many on one place it is said.
    """

    name: str
    hardness: str
    may_go: float
    coat: str = "clear"
    assumed: bool = False
    thick: float = 0.0
    why: str = ""
    heavy_sets: int = HEAVY_SETS


def budgets(db: sqlite3.Connection, trial_id: int) -> list[Allowed]:
    """Return what may go of every panel of a trial, in their order."""
    return [allowed(db, panel) for panel in panel_store.panels(db, trial_id)]


def allowed(db: sqlite3.Connection, panel: Panel) -> Allowed:
    """Return what may go of a panel."""
    read = survey(surveys.spots(db, panel.physical)) if panel.physical else None
    rule = rule_of(db, panel)
    own = budget(panel.build, read, rule)
    assumed = own.assumed and read is None
    why = f"{share_words(own.share)} of it"
    if own.bound == BY_FLOOR:
        why = f"{own.floor:g} µm must stay"
    return Allowed(
        panel.name,
        panel.hardness,
        own.may_go,
        own.coat,
        assumed,
        own.thick,
        why,
        rule.heavy_sets,
    )


def too_deep(costs: Costs, found: Sequence[Allowed]) -> list[str]:
    """Say where a plan may take more than may go, and what helps; ``found`` as its panels are."""
    tight: dict[str, list[str]] = {}
    for i, panel in enumerate(found):
        what, _, high = costs.worst.get(i, ("", 0.0, 0.0))
        if high > panel.may_go:
            taken = f"{what} may take {_taken(high)} µm, more than may go of the {panel.coat} of"
            tight.setdefault(taken, []).append(f"{panel.name} ({_may_go(panel)})")
    if not tight:
        return []
    parts = []
    for taken, names in tight.items():
        more = f" and {len(names) - 4} more" if len(names) > 4 else ""
        parts.append(f"{taken} {listed(names[:4])}{more}")
    return [f"{TOO_DEEP}: {'; '.join(parts)}. {HELPS}"]


def _may_go(panel: Allowed) -> str:
    """Say what may go, and what binds it: 20 µm: half of it, assumed."""
    why = ", ".join(filter(None, (panel.why, "assumed" if panel.assumed else "")))
    return f"{fixed(panel.may_go, 0)} µm{f': {why}' if why else ''}"


def depth_care(
    stages: Mapping[str, Sequence[Stage]], panels: Sequence[tuple[Panel, Allowed]], known: Known
) -> str:
    """Say which combination goes too deep on which panel, the worst case; "" where none does.

    Parameters
    ----------
    stages : mapping
        Stages by the name of what is worked.
    known : mapping
        Measured Kp by recipe and hardness, instead of what is assumed by class of compound.
    """
    worst: tuple[float, str, Allowed] | None = None
    where = set()
    for which, own_stages in stages.items():
        for panel, own in panels:
            try:
                high = cell_work(own_stages, panel.taping, panel.hardness, known)[2]
            except ValueRefused:
                continue
            if high > own.may_go:
                where.add(own.name)
                if worst is None or high - own.may_go > worst[0] - worst[2].may_go:
                    worst = (high, which, own)
    if worst is None:
        return _many_sets(stages, [own for _, own in panels])
    high, which, own = worst
    also = f"; too deep on {len(where)} panels" if len(where) > 1 else ""
    end = " The primer lies below." if own.coat == "colour" else ""
    goes = f"more than may go of the {own.coat} of {own.name} ({_may_go(own)})"
    if own.may_go <= 0.0:
        goes = f"and nothing may go of the {own.coat} of {own.name}"
    return f"{TOO_DEEP}: {which} may take {_taken(high)} µm, {goes}{also}.{end} {HELPS}"


def _many_sets(stages: Mapping[str, Sequence[Stage]], found: Sequence[Allowed]) -> str:
    """Say which combination works a place with more heavy sets than are the rule; "" for none."""
    least = min((own.heavy_sets for own in found), default=HEAVY_SETS)
    counts = {which: heavy_sets(own) for which, own in stages.items()}
    which = max(counts, key=lambda w: counts[w], default="")
    if not which or counts[which] <= least:
        return ""
    return f"{which} works a place with {counts[which]} heavy sets; {least} are the rule here."


def _taken(high: float) -> str:
    return fixed(high, 1 if high < 3.0 else 0)


def budgets_at_hand(session: Session) -> list[tuple[Panel, Allowed]]:
    """Return the panels of the trial at hand with what may go of them."""
    db = session.workshop.connection
    found: list[tuple[Panel, Allowed]] = session.cached(
        f"budgets {session.recall(RULE, {})}",
        lambda: [(p, allowed(db, p)) for p in session.panels()],
    )
    return found


def may_go_known(session: Session) -> float | None:
    """Return what may go at the thinnest spot of any panel, µm; None where nothing is known."""
    known = [own.may_go for _, own in budgets_at_hand(session) if not own.assumed]
    return min(known, default=None)


def panel_care(
    session: Session, panel: Panel, combinations: Iterable[Combination], known: Known | None
) -> str:
    """Say in a few words what is to be minded on a panel: how deep it goes, and how it is built.

    While ``known`` is None, which is found out on the worker, nothing is said of depth.
    """
    own = [found for found in budgets_at_hand(session) if found[0].id == panel.id]
    staged = {c.code: c.stages for c in combinations if c.stages}
    deep = depth_care(staged, own, known) if known is not None else ""
    short = [c.short for c in cautions_at_hand(session, panel)]
    return " ".join(filter(None, [deep, *short]))


def cares_on_paper(session: Session, costs: Costs | None) -> list[str]:
    """Return what a plan on paper says first: what goes too deep, and how panels are built."""
    found = budgets_at_hand(session)
    said = too_deep(costs, [own for _, own in found]) if costs is not None else []
    about: dict[str, list[str]] = {}
    for panel, _ in found:
        for caution in cautions_at_hand(session, panel):
            about.setdefault(caution.said, []).append(panel.name)
    return said + [f"{some(names, 6)}: {words}" for words, names in about.items()]
