"""What a judgement says in words: a sentence a class, and notes on what it rests on.

Every combination of a class is named once, in the clause of the leader's verdict on it, so that
the sentence cannot say anything else than the chances, ranks and marks beside it.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from loam.core.judging.rests import START
from loam.core.judging.result import ClassJudgement, Standing, TrialJudgement
from loam.core.judging.starts import NO_SPREAD, UNLIKE
from loam.core.matter import RATIO, Matters
from loam.core.readings import BY_KEY, REMOVED
from loam.core.readings.kind import ReadingKind
from loam.core.text import MOST_NAMED
from loam.core.text import listed as listed
from loam.core.text import some as some
from loam.core.units import fixed, percent
from loam.core.verdicts import ASSUMED, BETTER, CLEARLY_BETTER, EQUAL, OPEN, SURE

MOST_CELLS = 12
_COUNTS = (
    "no",
    "one",
    "two",
    "three",
    "four",
    "five",
    "six",
    "seven",
    "eight",
    "nine",
    "ten",
    "eleven",
    "twelve",
)

RELATION_WORDS = {
    "": "the leader",
    EQUAL: "as good, for what matters",
    CLEARLY_BETTER: "behind",
    BETTER: "behind, perhaps by less than matters",
    OPEN: "not settled",
    ASSUMED: "behind here; rests on what is assumed",
}
"""How a combination stands to the leader, in words."""


def counted(n: int) -> str:
    """Write a small count in words."""
    return _COUNTS[n] if n < len(_COUNTS) else str(n)


def about(value: float, half: float, decimals: int) -> str:
    """Write a value to the digits that its half interval allows, and never as nothing.

    Parameters
    ----------
    value, half : float
        In the unit that is shown.
    decimals : int
        Decimals that the meter resolves; one more is the most.
    """
    digits = 0 if half >= 1.0 else 1 if half >= 0.1 else 2
    digits = min(digits, decimals + 1)
    while digits < decimals + 1 and float(f"{value:.{digits}f}") == 0.0:
        digits += 1
    return fixed(value, digits)


def unit_of(kind: ReadingKind) -> str:
    """Return the unit of a difference."""
    return "points" if kind.unit == "%" else kind.unit


def matters_words(chosen: Matters, kind: ReadingKind) -> str:
    """Say what matters: 1.0 GU; a tenth more haze; odds of 1.5."""
    if chosen.kind != RATIO:
        return f"{kind.write_span(chosen.value, 0 if kind.decimals else 1)} {unit_of(kind)}"
    if kind.scale == "logit":
        return f"{chosen.value:.3g} times the odds of what is left"
    return f"{100 * (chosen.value - 1):.3g} % of {kind.short}"


@dataclass(frozen=True)
class _Speaker:
    judgement: TrialJudgement
    found: ClassJudgement
    names: Mapping[str, str]
    kind: ReadingKind | None

    def related(self, relation: str) -> list[Standing]:
        return [s for s in self.found.standings[1:] if s.relation == relation]

    def full(self, standing: Standing) -> str:
        """The name with its letter, where it has one."""
        name = self.names.get(standing.combination, "")
        known = name and name.casefold() != standing.combination.casefold()
        return f"{standing.combination} ({name})" if known else standing.combination

    def codes(self, standings: Sequence[Standing]) -> str:
        return some([s.combination for s in standings])

    def lead_clause(self) -> str:
        lead = self.found.leader
        equal, still = self.related(EQUAL), self.may_be_best()
        chance = percent(lead.p_best)
        if still:
            return self._open_clause(lead, still, equal, chance)
        if len(equal) == 1:
            both = f"{self.full(lead)} and {self.full(equal[0])}"
            return f"{both} are equally good; {lead.combination} is best with {chance}"
        if equal:
            return (
                f"{self.codes(equal)} are as good as {self.full(lead)};"
                f" {lead.combination} is best with {chance}"
            )
        if lead.p_best >= SURE:
            return f"{self.full(lead)} is best ({chance})"
        if self.related(OPEN):
            return f"{self.full(lead)} leads, best of all with {chance}"
        return f"{self.full(lead)} is ahead of each other one, best of all with {chance}"

    def may_be_best(self) -> list[Standing]:
        """Those that are not settled against the leader and may be the best."""
        return [s for s in self.related(OPEN) if s.p_best >= 1.0 - SURE]

    def _open_clause(
        self, lead: Standing, still: list[Standing], equal: list[Standing], chance: str
    ) -> str:
        if len(still) == 1:
            between = f"{self.full(lead)} and {self.full(still[0])}"
        else:
            between = some([self.full(lead), *(s.combination for s in still)])
        said = f"not settled between {between}; {lead.combination} is best with {chance}"
        alone = len(still) == len(self.related(OPEN)) == 1
        more = self.found.cells_to_settle if alone else None
        if more is not None:
            said += f", and {_more_cells(more)}"
        if equal:
            verb = "is" if len(equal) == 1 else "are"
            said += f"; {self.codes(equal)} {verb} as good as {lead.combination}"
        return said

    def lead_amount(self, behind: Sequence[Standing]) -> str:
        """Say by about how much some are behind."""
        lead, kind = self.found.leader.figures, self.kind
        gaps = [abs(lead.estimate - s.figures.estimate) for s in behind]
        halves = [0.5 * (s.figures.own_high - s.figures.own_low) for s in behind]
        half = max(halves)
        if kind is None:
            low, high = (f"{g:.3g}" for g in (min(gaps), max(gaps)))
            return low if low == high else f"{low} to {high}"
        shown = [
            about(kind.span(g), kind.span(half), kind.decimals) for g in (min(gaps), max(gaps))
        ]
        amount = shown[0] if shown[0] == shown[1] else f"{shown[0]} to {shown[1]}"
        return f"{amount} {unit_of(kind)}".rstrip()

    def behind_clauses(self) -> list[str]:
        said = []
        near = [s for s in self.related(BETTER) if not s.rests]
        far, here = self.related(CLEARLY_BETTER), [s for s in self.related(BETTER) if s.rests]
        dim = [s for s in self.related(OPEN) if s.p_best < 1.0 - SURE]
        if dim:
            verb = "is" if len(dim) == 1 else "are"
            said.append(
                f"{self.codes(dim)} {verb} hardly the best, but not settled against"
                f" {self.found.leader.combination}"
            )
        if near:
            verb = "is" if len(near) == 1 else "are"
            said.append(
                f"{self.codes(near)} {verb} behind by about {self.lead_amount(near)},"
                " which may not matter"
            )
        if here:
            terms = tuple(dict.fromkeys(t for s in here for t in s.rests))
            verb = "is" if len(here) == 1 else "are"
            said.append(
                f"{self.codes(here)} {verb} behind by about {self.lead_amount(here)}"
                f" {scope_words(terms)}, which rests on what is assumed of"
                f" {listed(_unique(_ELSEWHERE[t] for t in _single(terms)))}"
            )
        if far:
            verb = "is" if len(far) == 1 else "are"
            every = len(far) == len(self.found.standings) - 1 and len(far) > MOST_NAMED
            who = "all others" if every else self.codes(far)
            said.append(f"{who} {verb} clearly behind")
        return said


def _single(terms: Sequence[str]) -> list[str]:
    """Take merged terms apart: what names the rest of them is said, not the cells."""
    found: list[str] = []
    for term in terms:
        parts = term.split("+")
        larger = [p for p in parts if p != "cell"] or parts
        found += larger[-1:]
    return list(dict.fromkeys(found))


def _unique(words: Iterable[str]) -> list[str]:
    return list(dict.fromkeys(words))


_SCOPE = {
    "panel": "on this panel",
    "panel:combination": "on this panel",
    "operator": "by this person",
    "reader": "as read by this person",
    "day": "on this day",
    "cell": "in these cells",
    START: "from this start",
    "trial": "in this trial",
    "trial:combination": "in this trial",
    "workshop": "in this workshop",
}
_ELSEWHERE = {
    "panel": "other panels",
    "panel:combination": "other panels",
    "operator": "other people",
    "reader": "other readers",
    "day": "other days",
    "cell": "other cells",
    START: "other starts",
    "trial": "other trials",
    "trial:combination": "other trials",
    "workshop": "other workshops",
}


def scope_words(terms: Sequence[str]) -> str:
    """Say where a lead was seen, from what it rests on: on this panel, by this person."""
    return listed(_unique(_SCOPE[t] for t in _single(terms)))


def _more_cells(count: int) -> str:
    if count > MOST_CELLS:
        return f"it takes over {_COUNTS[MOST_CELLS]} cells each to settle"
    if count == 1:
        return "about one more cell each would settle it"
    return f"about {counted(count)} more cells each would settle it"


def class_sentence(
    judgement: TrialJudgement,
    found: ClassJudgement,
    names: Mapping[str, str] | None = None,
    kind: ReadingKind | None = None,
    *,
    whole: bool = True,
) -> str:
    """Say in one sentence what is settled on one hardness class and what is not.

    Parameters
    ----------
    names : mapping, optional
        Name or recipe of each combination.
    kind : ReadingKind, optional
        Carries the unit to say it in; the stored one by default.
    whole : bool
        Whether those behind are named too.
    """
    place = found.hardness.capitalize()
    speaker = _Speaker(judgement, found, names or {}, kind or BY_KEY.get(judgement.measurand))
    if len(found.standings) == 1:
        only = speaker.full(found.leader)
        return f"{place}: only {only} was tested, so there is nothing to compare it with."
    clauses = [speaker.lead_clause(), *(speaker.behind_clauses() if whole else ())]
    if (
        judgement.starts.used
        and judgement.starts.p < UNLIKE
        and found.hardness in judgement.starts.at
    ):
        clauses.append("they started apart, so that all is levelled to one start")
    return f"{place}: {'; '.join(clauses)}."


_CLAUSES = (
    (", which rests on", "; that rests on"),
    (r",? for (?=[−\d][\d.]* (?:µm|mil|min))", "; that takes "),
    (r", and (?=(?:it|a|an|the) )", "; "),
    (", which one cannot show", "; one alone cannot show it"),
)
"""What begins a sentence of its own where sentences are to be short."""


def short_sentences(text: str) -> str:
    """Break what is said in clauses into short sentences, one a clause."""
    for long, short in _CLAUSES:
        text = re.sub(long, short, text)
    parts = [p.strip() for p in text.split("; ")]
    said = ". ".join(_capital(p).rstrip(".") for p in parts if p)
    return said if not said or said[-1] in "?!:…" else f"{said}."


def sentence(
    judgement: TrialJudgement,
    names: Mapping[str, str] | None = None,
    kind: ReadingKind | None = None,
) -> str:
    """Say the whole result in the order of the picture, one sentence a class."""
    return " ".join(class_sentence(judgement, c, names, kind) for c in judgement.classes)


_DIFFER = {
    "cell": "how cells vary",
    "panel": "how panels vary",
    "panel:combination": "how a combination takes to each panel",
    "operator": "how people differ",
    "reader": "how readers differ",
    "day": "how days differ",
    "trial:combination": "how a combination takes to each trial",
    "trial": "how trials differ",
    "workshop": "how workshops differ",
}


def notes(judgement: TrialJudgement) -> list[str]:
    """Say plainly what the judgement rests on beside the readings, and what was not tested."""
    said = _assumptions(judgement)
    for found in judgement.classes:
        if found.apart:
            a, b = found.apart[0]
            more = f", and {len(found.apart) - 1} more pairs" if len(found.apart) > 1 else ""
            said.append(
                f"On {found.hardness}, {a} and {b}{more} never shared a panel: what is said of them"
                " rests on how panels vary."
            )
        if found.untested:
            verb = "was" if len(found.untested) == 1 else "were"
            said.append(f"{some(found.untested)} {verb} not tested on {found.hardness}.")
    said += start_notes(judgement)
    if any(found.looked for found in judgement.classes):
        said.append(
            "Cells were added after a look at the result: ahead is said only where the readings"
            " make a difference ten times as likely as none."
        )
    return said


def start_notes(judgement: TrialJudgement) -> list[str]:
    """Say what became of the readings before work, cell for cell."""
    starts, kind = judgement.starts, BY_KEY.get(judgement.measurand)
    label = kind.label if kind else judgement.measurand
    said = []
    if starts.became == NO_SPREAD:
        said.append(f"The {label} before work is the same everywhere: nothing to level.")
    if not starts.used:
        return said
    decimals = max(kind.decimals, 1) if kind else 2

    def written(value: float) -> str:
        return fixed(kind.shown(value), decimals) if kind else f"{value:.3g}"

    at = listed([f"{h} {written(v)}" for h, v in starts.at.items()])
    unit = f" {kind.unit}" if kind and kind.unit else ""
    words = f"Levelled to the mean {label} before work of each hardness ({at}{unit})"
    said.append(words + ".")
    if starts.corrected:
        said.append("How poorly a start is known is corrected for.")
    if starts.missing:
        cells = f"{starts.missing} of {starts.cells} cells that count"
        verb = "lacks" if starts.missing == 1 else "lack"
        said.append(f"{_capital(cells)} {verb} it and count at that mean start.")
    return said


def _assumptions(judgement: TrialJudgement) -> list[str]:
    by_why: dict[str, list[str]] = {}
    for term in judgement.assumed:
        by_why.setdefault(_why(judgement, term), []).append(_DIFFER[term])
    return [
        f"{_capital(listed(terms))} {'is' if len(terms) == 1 else 'are'} assumed: {why}."
        for why, terms in by_why.items()
    ]


def _why(judgement: TrialJudgement, term: str) -> str:
    standings = [s for c in judgement.classes for s in c.standings]
    few = max(s.cells for s in standings)
    prior = judgement.priors[term]
    source = "" if prior.source == "default" else f", taken from {prior.source}"
    if term in ("cell", "panel:combination") and few == 1:
        return f"one cell each{source}"
    if term == "panel:combination":
        return f"too few cells of a combination on different panels{source}"
    if term == "cell":
        return f"few cells of each combination{source}"
    count = judgement.levels.get(term, 1)
    if term == "trial:combination":
        return f"few combinations were in several trials{source}"
    words = {
        "panel": "panels",
        "operator": "people",
        "reader": "readers",
        "day": "days",
        "trial": "trials",
        "workshop": "workshops",
    }[term]
    return f"only {counted(count)} {words}{source}" if count < 8 else f"few {words} apiece{source}"


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def scale_words(judgement: TrialJudgement) -> str:
    """Say on which scale the comparison is made, where that is not the plain one."""
    return {
        "log1p": "compared as ratios, since its scatter grows with it",
        "logit": "compared as odds of what is left, since its scatter shrinks towards the ends",
    }.get(judgement.scale.name, "")


def finite(value: float) -> float | None:
    """Return a number that JSON can carry."""
    return value if math.isfinite(value) else None


__all__ = [
    "RELATION_WORDS",
    "REMOVED",
    "about",
    "class_sentence",
    "listed",
    "matters_words",
    "notes",
    "scale_words",
    "sentence",
    "some",
    "unit_of",
]
