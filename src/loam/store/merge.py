"""One trial from two workshops: what the other has changed is taken, what both changed is asked.

Whatever can be changed of a trial (what a cell got, a combination, what matters) is a register: a
value, and the changes that this workshop has seen of it, oldest first. The workshop that has seen
the other's newest change is ahead, and its value holds. Where neither has, both changed it: that is
asked, unless they agree. The result is the same in whichever order files are joined.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from loam.core.trial import Combination, Panel
from loam.store.builds import build_text, facts_text, outline_text
from loam.store.differs import ABSENT, AWAY, Differs, differs
from loam.store.draft import TrialDraft
from loam.store.facts_text import facts_of
from loam.store.identity import cell_uid, digest

MINE, THEIRS = "mine", "theirs"
Log = list[tuple[str, str]]
"""Changes of one register: identity and when, oldest first."""


@dataclass
class Plan:
    """What joining a file to a trial comes to.

    Attributes
    ----------
    take : dict
        Values of the file that hold, by register.
    rename : dict
        Names of panels and codes of combinations that two things bear, by register.
    log : list
        Changes (of what, identity, when) to be kept, in this order.
    conflicts : list of Differs
        What is to be asked; nothing is to be written then.
    """

    take: dict[str, Any] = field(default_factory=dict)
    rename: dict[str, str] = field(default_factory=dict)
    log: list[tuple[str, str, str]] = field(default_factory=list)
    conflicts: list[Differs] = field(default_factory=list)


def merge(mine: TrialDraft, theirs: TrialDraft, choose: str | Mapping[str, str] = "") -> Plan:
    """Say what joining a file to a trial comes to.

    Parameters
    ----------
    choose : str or mapping
        What to do where both changed the same: MINE or THEIRS for all, or by register; "" asks.
    """
    plan = Plan()
    ours, others = registers(mine), registers(theirs)
    our_log, other_log = _logs(mine), _logs(theirs)
    for key in [*ours, *(k for k in others if k not in ours)]:
        if key == "choice:assumed":
            _newest(plan, key, ours.get(key, ABSENT), others.get(key, ABSENT))
            continue
        a, b = ours.get(key, ABSENT), others.get(key, ABSENT)
        logs = our_log.get(key, []), other_log.get(key, [])
        _settle(plan, key, (a, b), logs, choose, (mine, theirs))
    _names(plan, mine, theirs)
    return plan


def registers(draft: TrialDraft) -> dict[str, Any]:
    """Return the value of everything that can be changed of a trial, by its register."""
    t = draft.trial
    found: dict[str, Any] = {
        f"trial:{draft.uid}": (
            t.name,
            t.question,
            (*t.measurands, *t.unknown),
            t.readings_per_cell,
            t.seed,
            t.note,
        )
    }
    panel = {p.id: str(draft.beside("panel", "uid", i)) for i, p in enumerate(draft.panels)}
    code = {
        c.id: str(draft.beside("combination", "uid", i)) for i, c in enumerate(draft.combinations)
    }
    found.update((f"panel:{panel[p.id]}", panel_value(p)) for p in draft.panels)
    found.update((f"combination:{code[c.id]}", combination_value(c)) for c in draft.combinations)
    for cell in draft.cells:
        uid = cell_uid(panel[cell.panel_id], cell.row, cell.column)
        found[f"cell:{uid}"] = (code.get(cell.combination_id or 0), cell.run_order, cell.name)
        for measurand, value in cell.baseline.items():
            found[f"baseline:{uid}:{measurand}"] = value
    found.update((f"choice:{r['key']}", r["value"]) for r in draft.rest.get("choice", ()))
    found.update((f"{r['sort']}:{r['uid']}", AWAY) for r in draft.rest.get("away", ()))
    return found


def panel_value(p: Panel) -> tuple[Any, ...]:
    """Return what can be changed of a panel."""
    t = p.taping
    return (
        p.name,
        p.hardness,
        p.paint,
        t.width_mm,
        t.height_mm,
        t.rows,
        t.columns,
        t.gap_mm,
        t.margin_mm,
        build_text(p.build),
        outline_text(p.outline),
        facts_text(p.facts),
    )


def combination_value(c: Combination) -> tuple[Any, ...]:
    """Return what can be changed of a combination."""
    return (c.code, c.name, c.control, c.stages)


def _logs(draft: TrialDraft) -> dict[str, Log]:
    found: dict[str, Log] = {}
    for row in draft.rest.get("change", ()):
        found.setdefault(str(row["of"]), []).append((str(row["uid"]), str(row["at"])))
    return found


def _newest(plan: Plan, key: str, a: Any, b: Any) -> None:
    """Take what is assumed of a trial from whichever was worked out last."""
    if b is ABSENT:
        return
    if a is ABSENT or (_said_at(a), a) < (_said_at(b), b):
        plan.take[key] = b


def _said_at(text: Any) -> str:
    return str(facts_of(text).get("at", ""))


def _settle(
    plan: Plan,
    key: str,
    values: tuple[Any, Any],
    logs: tuple[Log, Log],
    choose: str | Mapping[str, str],
    drafts: tuple[TrialDraft, TrialDraft],
) -> None:
    (a, b), (ours, others) = values, logs
    if b is ABSENT and not others:
        return  # the file knows nothing of it
    seen, known = {u for u, _ in ours}, {u for u, _ in others}
    head, other = (log[-1][0] if log else "" for log in logs)
    resolved = ""
    if a == b:
        if head and other and other not in seen and head not in known:
            resolved = digest("agreed", key, *sorted((head, other)))
    elif head != other and (not other or other in seen):
        pass  # this workshop is ahead
    elif (head != other and (not head or head in known)) or a is ABSENT:
        plan.take[key] = b
    else:
        said = choose if isinstance(choose, str) else choose.get(key, "")
        if not said:
            plan.conflicts.append(differs(key, a, b, *drafts))
            return
        resolved = digest("chosen", key, *sorted((head, other)), repr(a if said == MINE else b))
        if said == THEIRS:
            plan.take[key] = b
    _join_logs(plan, key, ours, others, resolved)


def _join_logs(plan: Plan, key: str, ours: Log, others: Log, resolved: str) -> None:
    """Keep the changes that the file has seen; the newest stands last."""
    seen = {u for u, _ in ours}
    known = {u for u, _ in others}
    new = [(u, at) for u, at in others if u not in seen]
    if not new and not resolved:
        return
    if resolved:
        last = (resolved, max((at for _, at in (*ours, *others)), default=""))
    elif ours and (not others or others[-1][0] in seen or ours[-1][0] not in known):
        last = ours[-1]
    else:
        last = others[-1]
    plan.log += [(key, u, at) for u, at in new if u != last[0]] + [(key, *last)]


def _names(plan: Plan, mine: TrialDraft, theirs: TrialDraft) -> None:
    """Tell apart panels, and combinations, that were named alike in two places.

    The one that was made later gets another name, wherever the files are joined.
    """
    for sort, most in (("panel", 120), ("combination", 12)):
        named: dict[str, tuple[str, str]] = {}
        for draft in (theirs, mine):
            names = [p.name for p in draft.panels]
            if sort == "combination":
                names = [c.code for c in draft.combinations]
            for i, name in enumerate(names):
                key = f"{sort}:{draft.beside(sort, 'uid', i)}"
                named[key] = (str(draft.beside(sort, "made", i)), name)
        for key, value in plan.take.items():
            if key in named:
                named[key] = (named[key][0], value[0]) if value != AWAY else ("", "")
        gone = {k for k, v in registers_away(mine).items() if k not in plan.take}
        taken: set[str] = set()
        for key in sorted(named, key=lambda k: (named[k][0], k)):
            name = named[key][1]
            if not name or key in gone:
                continue
            free = _free(name, key.partition(":")[2], taken, most)
            taken.add(free)
            if free != name:
                plan.rename[key] = free
                plan.log.append((key, digest("told apart", key, free), ""))


def registers_away(draft: TrialDraft) -> dict[str, str]:
    """Return what was put away of a trial, by register."""
    return {f"{r['sort']}:{r['uid']}": AWAY for r in draft.rest.get("away", ())}


def _free(name: str, uid: str, taken: set[str], most: int) -> str:
    """Return a name with the first letters of the identity: the same wherever it is told apart."""
    found, letters = name, 2
    while found in taken:
        ending = f" ({uid[:letters]})" if most > 20 else f"-{uid[:letters]}"
        found, letters = name[: most - len(ending)] + ending, letters + 1
    return found
