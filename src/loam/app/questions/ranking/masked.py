"""What the wipe took back: by combination, by product, and since the wipe, in figures and words."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from loam.app.presenters.rounds import place_words
from loam.app.session import Session
from loam.core.judging import TrialJudgement
from loam.core.masking import CellMasked, Left, Masked, cells_masked, masking, wipes_left
from loam.core.readings import ReadingKind
from loam.core.snapshot import Snapshot
from loam.core.stats.summary import Z90
from loam.core.trial import AFTER, BETWEEN_WIPES, DAY, HARDNESSES, WASH, Combination
from loam.core.wipes import said as wiped
from loam.core.wipes import singles, together
from loam.core.words.masking import (
    later_words,
    leads_unclean,
    masking_words,
    span,
    trap_words,
    wipes_words,
)
from loam.core.words.verdict import listed


@dataclass(frozen=True)
class MaskedPicture:
    """What fell back of one measurand.

    Attributes
    ----------
    by_class : mapping of str to tuple of Masked
        By hardness, then by combination.
    products : tuple of Masked
        By the last stage's compound, over all hardnesses.
    wipes : tuple of Masked
        By what was wiped with, where that was noted.
    cells : tuple of CellMasked
    later : mapping of str to tuple of Masked
        By combination since the wipe: on another day, after a wash.
    traps : tuple of str
        Who looked best before the wipe, and what became of it.
    words : tuple of str
        What else it means.
    left : tuple of Left
        What each planned wipe leaves of what each product hid.
    unclean : mapping of str to Left
        Of the combinations that were read with filler on, what their wipe left.
    """

    kind: ReadingKind
    by_class: Mapping[str, tuple[Masked, ...]]
    products: tuple[Masked, ...]
    wipes: tuple[Masked, ...]
    cells: tuple[CellMasked, ...]
    later: Mapping[str, tuple[Masked, ...]]
    traps: tuple[str, ...]
    words: tuple[str, ...]
    left: tuple[Left, ...] = ()
    unclean: Mapping[str, Left] = field(default_factory=dict)


def masked_in(
    snapshot: Snapshot,
    judgement: TrialJudgement,
    kind: ReadingKind,
    repeat: float,
    wiped: Mapping[int, str] | None = None,
) -> MaskedPicture | None:
    """Return what fell back in a trial; None where nothing was read before the wipe.

    Parameters
    ----------
    repeat : float
        Standard deviation of a repeat reading, in the stored unit.
    wiped : mapping of int to str, optional
        What each panel was wiped with.
    """
    if not kind.flattered:
        return None
    combinations = {c.id: c for c in snapshot.combinations}
    panels = {p.id: p for p in snapshot.panels}
    codes, product, of_class, wipe = {}, {}, {}, {}
    baseline: dict[int, float] = {}
    for cell in snapshot.cells:
        combination = combinations.get(cell.combination_id or 0)
        if combination is None:
            continue
        codes[cell.id] = combination.code
        of_class[cell.id] = panels[cell.panel_id].hardness
        if wiped and cell.panel_id in wiped:
            wipe[cell.id] = wiped[cell.panel_id]
        if combination.stages and combination.stages[-1].compound:
            product[cell.id] = combination.stages[-1].compound
        if kind.key in cell.baseline:
            baseline[cell.id] = cell.baseline[kind.key]

    def between(early: str, later: str, groups: Mapping[int, str]) -> list[CellMasked]:
        return cells_masked(
            snapshot.columns,
            kind.key,
            groups,
            higher_is_better=kind.higher_is_better,
            repeatability=repeat,
            early=early,
            later=later,
            baseline=baseline,
        )

    left = _left(snapshot, kind, repeat, between)
    cells = between("unwiped", AFTER, codes)
    later = {p: tuple(masking(between(AFTER, p, codes), repeat)) for p in (DAY, WASH)}
    later = {p: found for p, found in later.items() if found}
    if not cells and not later:
        return None
    by_class = {
        h: tuple(masking([c for c in cells if of_class[c.cell_id] == h], repeat))
        for h in HARDNESSES
        if any(of_class[c.cell_id] == h for c in cells)
    }
    products = tuple(masking(between("unwiped", AFTER, product), repeat))
    wipes = tuple(masking(between("unwiped", AFTER, wipe), repeat))
    traps = _traps(snapshot, judgement, kind, by_class, left)
    said = []
    if cells and not any(traps) and not left:
        said.append(masking_words(products or next(iter(by_class.values())), kind))
    said += later_words(later, kind)
    return MaskedPicture(
        kind,
        by_class,
        products,
        wipes,
        tuple(cells),
        later,
        tuple(filter(None, traps)),
        tuple(filter(None, said)),
        tuple(left),
        _unclean(snapshot, left),
    )


def _unclean(snapshot: Snapshot, left: Sequence[Left]) -> dict[str, Left]:
    by = {(f.product, f.wipe): f for f in left if f.seen}
    named = {c.code: _named(c) for c in snapshot.combinations}
    return {code: by[own] for code, own in named.items() if own in by}


Between = Callable[[str, str, Mapping[int, str]], list[CellMasked]]


def _traps(
    snapshot: Snapshot,
    judgement: TrialJudgement,
    kind: ReadingKind,
    by_class: Mapping[str, tuple[Masked, ...]],
    left: Sequence[Left],
) -> list[str]:
    """Say by hardness who looked best before the wipe, and who leads with filler on.

    Where wipes are compared their own lesson comes first, and who looked best is no trap.
    """
    named = {c.code: _named(c) for c in snapshot.combinations}
    traps = wipes_words(left, kind)
    for found in judgement.classes:
        own = named.get(found.leader.combination)
        its = next((f for f in left if (f.product, f.wipe) == own), None)
        if not left:
            traps.append(trap_words(found.hardness, by_class.get(found.hardness, ()), found, kind))
        traps.append(leads_unclean(found, its, kind))
    return traps


def _named(combination: Combination) -> tuple[str, str] | None:
    """Return the product of a combination and how it is wiped in the end, where it plans that."""
    if not combination.stages or not combination.stages[-1].wipes:
        return None
    last = combination.stages[-1]
    return last.compound or last.pad or combination.code, wiped(together(singles(last.wipes)))


def _left(snapshot: Snapshot, kind: ReadingKind, repeat: float, between: Between) -> list[Left]:
    """Return what each wipe that combinations plan leaves of what their product hid.

    A cell that several wipes are planned for counts once for each state that it was read in.
    """
    combinations = {c.id: c for c in snapshot.combinations}
    named: dict[str, tuple[str, str]] = {}
    groups: dict[str, dict[int, str]] = {}
    for cell in snapshot.cells:
        own = combinations.get(cell.combination_id or 0)
        if own is None or not own.stages or not own.stages[-1].wipes:
            continue
        last = own.stages[-1]
        single = singles(last.wipes)
        for count in range(1, len(single) + 1):
            phase = AFTER if count == len(single) else BETWEEN_WIPES[count - 1]
            how = wiped(together(single[:count]))
            product = last.compound or last.pad or own.code
            name = f"{product}, {how}"
            named[name] = (product, how)
            groups.setdefault(phase, {})[cell.id] = name
    cells = [c for phase, own in groups.items() for c in between("unwiped", phase, own)]
    return wipes_left(cells, named, repeat) if cells else []


def masked_table(found: MaskedPicture, cells: Mapping[int, str] | None = None) -> list[list[str]]:
    """Return what fell back as a table, its heading first; ``cells`` names them."""
    kind = found.kind
    more = 0 if kind.decimals else 1
    head = [
        "hardness, or cell",
        "combination, product or wipe",
        "cells",
        "before the wipe",
        "after it",
        "fell back",
        "low",
        "high",
        "of the apparent gain, %",
    ]
    rows = [
        [
            h,
            m.group,
            str(m.cells),
            kind.write(m.unwiped, more),
            kind.write(m.later, more),
            kind.write_span(m.masked, more),
            kind.write_span(m.low, more),
            kind.write_span(m.high, more),
            "" if m.share is None else f"{100 * m.share:.0f}",
        ]
        for h, own in [
            *found.by_class.items(),
            ("product", found.products),
            ("wipe", found.wipes),
            *found.later.items(),
        ]
        for m in own
    ]
    rows += [
        [
            f"{f.product} hid {kind.write_span(f.hid, more)}",
            f"left by {f.wipe}",
            str(f.cells),
            "",
            "",
            kind.write_span(f.left, more),
            kind.write_span(f.low, more),
            kind.write_span(f.high, more),
            f"{100 * f.left / f.hid:.0f}",
        ]
        for f in found.left
    ]
    names = cells or {}
    rows += [
        [
            names.get(c.cell_id, str(c.cell_id)),
            c.group,
            "1",
            kind.write(c.unwiped, more),
            kind.write(c.later, more),
            kind.write_span(c.masked, more),
            kind.write_span(c.masked - Z90 * c.error, more),
            kind.write_span(c.masked + Z90 * c.error, more),
            f"{100 * c.masked / c.gain:.0f}" if c.gain else "",
        ]
        for c in found.cells
    ]
    return [head, *rows]


def masked_cells_table(session: Session, found: MaskedPicture) -> list[list[str]]:
    """Return what fell back as a table, cells by their names in the trial at hand."""
    return masked_table(found, {c: place_words(session, c) for c in session.order()})


def products_words(found: MaskedPicture) -> str:
    """Say what was taken back by product, and by what was wiped with."""

    def each(own: tuple[Masked, ...]) -> str:
        said = [
            f"{m.group} {span(m, found.kind)}" if m.seen else f"{m.group} nothing sure" for m in own
        ]
        return listed(said)

    parts = []
    if found.products:
        parts.append(f"By the product of the last stage: {each(found.products)}.")
    if found.wipes:
        parts.append(f"By wipe: {each(found.wipes)}.")
    return " ".join(parts)
