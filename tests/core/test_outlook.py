"""The outlook before work against the judgement after it, and what its words may say."""

import itertools
from dataclasses import replace

import numpy as np
import pytest

from helpers.simulate import designs, trial
from loam.core.design import Outlook, PanelPlan, Plan, even_deal, outlook
from loam.core.judging.model import fit_model
from loam.core.matter import matters
from loam.core.prior import default_priors
from loam.core.readings import kind_of
from loam.core.scale import scale_for
from loam.core.stats.pooling import draw_class
from loam.core.stats.prior import Prior
from loam.core.words.outlook import (
    amount,
    enough,
    outlook_notes,
    outlook_sentence,
    short_amount,
)

NAMES = "ABCDEFGHIJKL"
GLOSS, HAZE, DEFECTS = (kind_of(k) for k in ("gloss20", "haze", "defects"))


def planned(design):
    """Return a simulated design as a plan, and what its cells have."""
    count = max(p for p, _ in design.layout) + 1
    columns, assigned = [0] * count, {}
    for p, c in design.layout:
        assigned[p, 0, columns[p]] = NAMES[c]
        columns[p] += 1
    panels = tuple(PanelPlan(f"p{p}", str(design.classes[p]), 1, columns[p]) for p in range(count))
    v = max(c for _, c in design.layout) + 1
    return Plan(tuple(NAMES[:v]), panels, readings_per_cell=design.readings), assigned


def judged_half_widths(design, trials):
    """Half of the 90 % interval of every difference on the first class, over trials."""
    found = []
    for seed in range(trials):
        data = trial(design, seed)[0]
        kind = kind_of(design.measurand)
        model = fit_model(data, scale_for(kind, data.y, data.scale), None)
        at = np.array([i for i, (h, _) in enumerate(model.where) if h == 0])
        drawn = draw_class(model.mixture, at, np.random.default_rng(seed)).plain
        for a, b in itertools.combinations(range(at.size), 2):
            low, high = np.quantile(drawn[:, a] - drawn[:, b], [0.05, 0.95])
            found.append(0.5 * (high - low))
    return found


@pytest.mark.parametrize("letter", ["a", "c", "g", "i"])
def test_the_outlook_foretells_the_judgement(letter):
    """The middle half-width of 16 judged trials is met within a fifth: full, one cell each on
    two panels, one cell each on one panel, an own panel each."""
    design = replace(designs()[letter], operators=1)
    expected = outlook(*planned(design), default_priors(kind_of(design.measurand)))[0]
    middle = float(np.median(judged_half_widths(design, 16)))
    assert expected.half_width == pytest.approx(middle, rel=0.2)
    assert expected.half_width < expected.finds <= expected.worst


def full(panels=3, v=4, rows=2, columns=2, readings=5):
    on = tuple(PanelPlan(f"p{i}", "soft", rows, columns) for i in range(panels))
    plan = Plan(tuple(NAMES[:v]), on, readings_per_cell=readings)
    return plan, even_deal(plan)


KNOWN = {
    "panel": Prior(0.5, 1e6), "panel:combination": Prior(1e-9, 1e6), "cell": Prior(0.6, 1e6),
    "residual": Prior(0.4, 1e6),
}  # fmt: skip


def test_with_variances_known_it_is_least_squares():
    """Complete blocks: the variance of a difference is 2 (0.36 + 0.16 / 5) / 3; normal quantile."""
    found = outlook(*full(), {**default_priors(GLOSS), **KNOWN})[0]
    # one cell each: cell and panel:combination are one term, whose prior is a tenth wider
    wanted = np.sqrt(2 * (1.1**2 * 0.36 + 0.16 / 5) / 3)
    assert found.half_width == pytest.approx(1.6449 * wanted, rel=1e-3)
    assert found.finds == pytest.approx((1.6449 + 0.8416) * wanted, rel=2e-3)
    assert found.assumed > 0.99


def test_more_of_anything_never_tells_less():
    priors = default_priors(GLOSS)
    base = outlook(*full(), priors)[0].finds
    assert outlook(*full(panels=4), priors)[0].finds < base
    assert outlook(*full(rows=4), priors)[0].finds < base
    assert outlook(*full(readings=9), priors)[0].finds <= base
    assert (
        outlook(*full(v=3, panels=4), priors)[0].finds < outlook(*full(panels=4), priors)[0].finds
    )
    many = outlook(*full(readings=1000), priors)[0].finds
    assert many > 0.75 * base  # readings cannot make up for cells


def test_what_is_missing_is_told():
    plan, assigned = full()
    without = {p: a for p, a in assigned.items() if a != "D"}
    found = outlook(plan, without, default_priors(GLOSS))
    assert found[0].missing == 1
    assert "one combination has no cell" in " ".join(outlook_notes(found))
    alone = {p: a for p, a in assigned.items() if a == "A"}
    found = outlook(plan, alone, default_priors(GLOSS))
    assert (found[0].finds, found[0].missing) == (None, 3)
    assert "Nothing can be compared" in outlook_sentence(found, matters(GLOSS), GLOSS)
    assert outlook(plan, {}, default_priors(GLOSS)) == []


def made(hardness, finds, assumed=0.1):
    return Outlook(hardness, 0.7 * finds, finds, finds, 20.0, assumed, 12, 2, 0)


@pytest.mark.parametrize(
    ("found", "kind", "said"),
    [
        ([made("soft", 0.8), made("hard", 0.8)], GLOSS,
         "It can answer for gloss 20°: it finds 0.8 GU on soft and hard, and 1.0 GU matters."),
        ([made("soft", 0.8), made("hard", 1.4)], GLOSS,
         "It can answer for gloss 20° on soft, where 1.0 GU matters: it finds 0.8 GU on soft."
         " Not yet elsewhere: 1.4 GU on hard."),
        ([made("hard", 1.4)], GLOSS,
         "It cannot answer for gloss 20° yet: it finds 1.4 GU on hard, and 1.0 GU matters."),
        ([made("soft", 0.08)], HAZE,
         "It can answer for haze: it finds 8 % of haze on soft, and 10 % matters."),
        ([made("soft", 0.6)], DEFECTS,
         "It cannot answer for defects removed yet: it finds 1.8 times the odds of what is left on"
         " soft, and 1.5 times matters."),
        ([], GLOSS, "Nothing is laid out yet."),
    ],
)  # fmt: skip
def test_sentences(found, kind, said):
    assert outlook_sentence(found, matters(kind), kind) == said


@pytest.mark.parametrize("kind", [GLOSS, HAZE, DEFECTS], ids=lambda k: k.key)
def test_the_figures_never_contradict_the_verdict(kind):
    chosen = matters(kind)
    for finds in np.linspace(0.01, 3.0, 400):
        one = made("soft", float(finds))
        shown = short_amount(kind, one.finds)
        if shown == short_amount(kind, chosen.on_scale):
            assert enough(kind, one, chosen)
        assert enough(kind, one, chosen) == (
            "It can answer" in outlook_sentence([one], chosen, kind)
        )
        assert amount(kind, one.finds).startswith(shown)


def test_what_rests_on_assumptions_is_said():
    assert outlook_notes([made("soft", 1.0, assumed=0.8)])[0].startswith("This rests mostly")
    both = [made("soft", 1.0, assumed=0.8), made("hard", 1.0)]
    assert "on soft" in outlook_notes(both)[0]
    assert outlook_notes([made("hard", 1.0)]) == []
