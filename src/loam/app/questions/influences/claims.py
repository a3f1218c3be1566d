"""What makers claim, held against what was measured: grits cleared, scales of cut and finish."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np

from loam.app.questions.ranking.masked import MaskedPicture
from loam.app.questions.source import Source, Sources
from loam.core.inspection import jeffreys
from loam.core.judging import ClassJudgement, TrialJudgement
from loam.core.kit.facts import COMPOUND
from loam.core.masking import Masked
from loam.core.readings import KINDS, REMOVED
from loam.core.readings.kind import ReadingKind
from loam.core.snapshot import Snapshot
from loam.core.trends import concordance
from loam.core.trial import AFTER, BETWEEN, UNWIPED, Combination
from loam.core.units import fixed, percent
from loam.core.words.masking import span
from loam.core.words.verdict import listed
from loam.store import kit

CLEARED = 95.0
"""A cell counts as cleared from this share of defects removed: assumed."""
LEAST_COMPOUNDS = 3
GRITS, MASKING = "grit claims", "masking"
AGREES, AGAINST, NEITHER, OPEN = "agrees", "goes against", "neither", "not settled"


@dataclass(frozen=True)
class GritClaim:
    """In how many cells a compound cleared the grit that its maker names; Jeffreys interval."""

    compound: str
    grit: float
    hits: int
    cells: int
    low: float
    high: float
    codes: tuple[str, ...]

    def words(self) -> str:
        """Say it."""
        return (
            f"{self.compound} (claims P{self.grit:g}) cleared {self.hits} of {self.cells} cells"
            f" ({percent(self.low)} to {percent(self.high)})"
        )


@dataclass(frozen=True)
class OnClass:
    """A maker's scale on one hardness.

    Attributes
    ----------
    places : mapping of str to (int, int, int)
        Place of each compound as measured, 1 is the most, and its 90 % interval.
    tau, low, high : float
        Kendall's tau-b with the maker's figures, and its 90 % interval.
    """

    hardness: str
    places: Mapping[str, tuple[int, int, int]]
    tau: float
    low: float
    high: float
    codes: tuple[str, ...]

    @property
    def verdict(self) -> str:
        """Whether what was measured follows the maker's figures."""
        if self.low == self.high == 0.0:
            return NEITHER
        return AGREES if self.low > 0 else AGAINST if self.high < 0 else OPEN


@dataclass(frozen=True)
class MakersScale:
    """Figures on one maker's scale against one measurand.

    Attributes
    ----------
    what : str
        Of what: makers' cut, makers' finish.
    figures : mapping of str to float
        By compound, the most first.
    """

    what: str
    scale: str
    kind: ReadingKind
    figures: Mapping[str, float]
    classes: tuple[OnClass, ...]

    def words(self, own: OnClass) -> str:
        """Say it of one hardness."""
        return (
            f"On {own.hardness}, on {self.scale}: {listed(list(own.places))} against measured"
            f" {self.kind.label}: Kendall's tau {fixed(own.tau, 2)}"
            f" ({fixed(own.low, 2)} to {fixed(own.high, 2)}), {own.verdict}."
        )


@dataclass(frozen=True)
class Claims:
    """What makers claim, and what a wipe takes back by product.

    Attributes
    ----------
    masked : tuple of Masked
        By the product of the last stage, the most first.
    codes : mapping of str to tuple of str
        The combinations that end with each of those.
    missing : tuple of (str, str)
        What is not carried, and what would carry it.
    """

    kind: ReadingKind
    grits: tuple[GritClaim, ...]
    scales: tuple[MakersScale, ...]
    masked: tuple[Masked, ...]
    codes: Mapping[str, tuple[str, ...]]
    missing: tuple[tuple[str, str], ...]

    def lines(self) -> list[tuple[str, str]]:
        """Return all of it in words: heads and sentences."""
        found: list[tuple[str, str]] = []
        if self.grits:
            found.append((GRITS, f"{'; '.join(g.words() for g in self.grits)}. {cleared_words()}"))
        for scale in self.scales:
            found.append((scale.what, " ".join(scale.words(own) for own in scale.classes)))
        if self.masked:
            each = "; ".join(f"{m.group} {span(m, self.kind)}" for m in self.masked)
            found.append((MASKING, f"By product: {each}."))
        return [*found, *self.missing]

    def sources(self) -> Sources:
        """Return what each figure rests on, by the key of its spot."""
        made: Sources = {}
        for g in self.grits:
            made[grit_key(g)] = (
                Source(
                    f"{g.words()}.",
                    f"Cells with at least {CLEARED:g} % of the marks gone after the first stage"
                    " (after the last where it was not read then), of all cells of the compound;"
                    " Jeffreys interval, 90 %.",
                    "defects",
                    "",
                    g.codes,
                    (BETWEEN[0], AFTER),
                ),
            )
        for scale in self.scales:
            for own in scale.classes:
                made[scale_key(scale, own)] = (
                    Source(
                        scale.words(own),
                        "Kendall's tau-b of the maker's figures with the draws of what was"
                        " measured, combinations with the same compound averaged; 90 % interval.",
                        scale.kind.key,
                        own.hardness,
                        own.codes,
                    ),
                )
        for m in self.masked:
            made[masked_key(m)] = (
                Source(
                    f"{m.group}: {span(m, self.kind)} falls back at the wipe.",
                    "Before the wipe less after it by cell, products partially pooled; 90 %"
                    " interval (section 14).",
                    self.kind.key,
                    "",
                    self.codes.get(m.group, ()),
                    (UNWIPED, AFTER),
                ),
            )
        return made


def cleared_words() -> str:
    """Say what counts as cleared."""
    return (
        f"Cleared: {CLEARED:g} % of the marks gone, whatever marks this trial was given (assumed)."
    )


def grit_key(claim: GritClaim) -> str:
    """Return the key of a grit claim's spot."""
    return f"grit:{claim.compound}"


def scale_key(scale: MakersScale, own: OnClass) -> str:
    """Return the key of a maker's scale on one hardness."""
    return f"{scale.what}:{scale.scale}:{own.hardness}"


def masked_key(masked: Masked) -> str:
    """Return the key of a product that masked."""
    return f"masked:{masked.group}"


def makers_facts(db: sqlite3.Connection) -> dict[str, Mapping[str, object]]:
    """Return what makers say of their compounds, by name in small letters."""
    return {t.name.casefold(): t.facts for t in kit.things(db, COMPOUND)}


def find_claims(
    snapshot: Snapshot,
    judged: Mapping[str, TrialJudgement],
    facts: Mapping[str, Mapping[str, object]],
    masked: MaskedPicture | None,
    kind: ReadingKind,
) -> Claims:
    """Hold what makers claim against what was measured.

    Parameters
    ----------
    facts : mapping
        What makers say, by compound in small letters.
    masked : MaskedPicture or None
        What fell back of the measurand at hand.
    """
    missing: list[tuple[str, str]] = []
    grits = tuple(_grits(snapshot, facts))
    if not grits:
        missing.append(
            (
                GRITS,
                "Not carried: it would take defects read after work, and a compound"
                " whose grit claim is on the shelf (Kit, Ctrl+T).",
            )
        )
    scales: list[MakersScale] = []
    for fact, at, what in (("cut", 0, "makers' cut"), ("finish", -1, "makers' finish")):
        held = sorted((k for k in KINDS if fact in k.claims), key=lambda k: k.claims[fact])
        key = next((k.key for k in held if k.key in judged), "")
        found = list(_scales(snapshot, judged[key], facts, fact, at, what)) if key else []
        scales += found
        if not found:
            missing.append(
                (
                    what,
                    f"Not carried: it would take {LEAST_COMPOUNDS} compounds with"
                    " figures on one maker's scale, and"
                    f" {held[0].label} judged.",
                )
            )
    products = tuple(sorted(masked.products, key=lambda m: -m.masked)) if masked else ()
    if masked is None:
        missing.append(
            (
                MASKING,
                f"Not carried: it would take {kind.label} read before the wipe and again after it.",
            )
        )
    elif not products:
        missing.append((MASKING, "Nothing fell back at the wipe that can be laid to a product."))
    last: dict[str, list[str]] = {}
    for c in snapshot.combinations:
        if c.stages:
            last.setdefault(c.stages[-1].compound, []).append(c.code)
    codes = {product: tuple(own) for product, own in last.items()}
    shown = masked.kind if masked else kind
    return Claims(shown, grits, tuple(scales), products, codes, tuple(missing))


def _grits(snapshot: Snapshot, facts: Mapping[str, Mapping[str, object]]) -> Iterable[GritClaim]:
    """Return in how many cells a claimed grit was cleared by the first stage."""
    columns = snapshot.columns
    own = {c.id: c for c in snapshot.combinations if c.stages}
    read: dict[int, dict[int, list[float]]] = {}
    for phase in (BETWEEN[0], AFTER):
        rows = columns.rows("defects", phase)
        after = columns.stage[rows] if phase == AFTER else np.zeros(rows.size, dtype=int)
        for cell, stage, value in zip(
            columns.cell[rows].tolist(), after.tolist(), columns.value[rows].tolist(), strict=True
        ):
            read.setdefault(cell, {}).setdefault(stage, []).append(value)
    by_compound: dict[str, list[tuple[str, float]]] = {}
    for cell in snapshot.cells:
        c = own.get(cell.combination_id or 0)
        if c is not None and cell.id in read:
            values = read[cell.id][min(read[cell.id])]  # nearest to the first stage
            one = (c.code, sum(values) / len(values))
            by_compound.setdefault(c.stages[0].compound, []).append(one)
    for name, found in sorted(by_compound.items()):
        grit = facts.get(name.casefold(), {}).get("clears_grit")
        if isinstance(grit, int | float):
            hits = sum(v >= CLEARED for _, v in found)
            codes = tuple(sorted({code for code, _ in found}))
            low, high = jeffreys(hits, len(found))
            yield GritClaim(name, float(grit), hits, len(found), low, high, codes)


def _scales(
    snapshot: Snapshot,
    judged: TrialJudgement,
    facts: Mapping[str, Mapping[str, object]],
    fact: str,
    at: int,
    what: str,
) -> Iterable[MakersScale]:
    """Hold each maker's scale for itself against what was measured."""
    own = {c.code: c for c in snapshot.combinations if c.stages}
    kind = judged.kind
    sign = 1.0 if judged.measurand == REMOVED.key or kind.higher_is_better else -1.0
    classes: dict[str, list[OnClass]] = {}
    figures: dict[str, dict[str, float]] = {}
    for found in judged.classes:
        for scale, compounds in _by_scale(found, own, facts, at, fact).items():
            figure = {c: float(facts[c.casefold()][fact]) for c in compounds}  # type: ignore[arg-type]
            if len(compounds) < LEAST_COMPOUNDS or len(set(figure.values())) < 2:
                continue
            drawn = sign * np.stack(
                [
                    found.draws[:, [found.columns[n] for n in names]].mean(axis=1)
                    for names in compounds.values()
                ],
                axis=1,
            )
            tau, low, high = concordance(list(figure.values()), drawn)
            place = (-drawn).argsort(axis=1).argsort(axis=1) + 1
            middle = (-drawn.mean(axis=0)).argsort().argsort() + 1
            ends = np.quantile(place, (0.05, 0.95), axis=0, method="inverted_cdf")
            places = {
                c: (int(middle[i]), int(ends[0, i]), int(ends[1, i]))
                for i, c in enumerate(compounds)
            }
            codes = tuple(sorted(n for names in compounds.values() for n in names))
            classes.setdefault(scale, []).append(
                OnClass(found.hardness, places, tau, low, high, codes)
            )
            figures.setdefault(scale, {}).update(figure)
    for scale, known in classes.items():
        ordered = dict(sorted(figures[scale].items(), key=lambda each: (-each[1], each[0])))
        yield MakersScale(what, scale, judged.kind, ordered, tuple(known))


def _by_scale(
    found: ClassJudgement,
    own: Mapping[str, Combination],
    facts: Mapping[str, Mapping[str, object]],
    at: int,
    fact: str,
) -> dict[str, dict[str, list[str]]]:
    """Return the combinations of each compound with a figure, by the maker's scale."""
    scales: dict[str, dict[str, list[str]]] = {}
    for name in found.columns:
        compound = own[name].stages[at].compound if name in own else ""
        told = facts.get(compound.casefold(), {})
        if isinstance(told.get(fact), int | float):
            named = told.get("scale")
            scale = f"a scale of {named}" if named else "a scale without a name"
            scales.setdefault(scale, {}).setdefault(compound, []).append(name)
    return scales
