"""The outlook before work against the judgement after it, and what its words may say."""

import itertools
from dataclasses import replace

import numpy as np
import pytest

from helpers.simulate import Design, designs, trial
from loam.core.design import Outlook, PanelPlan, Plan, even_deal, expected_pairs, outlook
from loam.core.design.expect import Expected
from loam.core.judging import judge_readings
from loam.core.judging.model import fit_model
from loam.core.matter import matters
from loam.core.prior import default_priors
from loam.core.readings import kind_of
from loam.core.scale import scale_for
from loam.core.stats.pooling import draw_class
from loam.core.stats.prior import Prior
from loam.core.verdicts import CLEARLY_BETTER, EQUAL
from loam.core.words.outlook import (
    outlook_notes,
    outlook_sentence,
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
    assert expected.half_width < expected.ahead <= expected.worst


def full(panels=3, v=4, rows=2, columns=2, readings=5):
    on = tuple(PanelPlan(f"p{i}", "soft", rows, columns) for i in range(panels))
    plan = Plan(tuple(NAMES[:v]), on, readings_per_cell=readings)
    return plan, even_deal(plan)


KNOWN = {
    "panel": Prior(0.5, 1e6),
    "panel:combination": Prior(1e-9, 1e6),
    "cell": Prior(0.6, 1e6),
    "residual": Prior(0.4, 1e6),
}


def test_with_variances_known_it_is_least_squares():
    """Complete blocks: the variance of a difference is 2 (0.36 + 0.16 / 5) / 3; normal quantile."""
    found = outlook(*full(), {**default_priors(GLOSS), **KNOWN})[0]
    # one cell each: cell and panel:combination are one term, whose prior is a tenth wider
    wanted = np.sqrt(2 * (1.1**2 * 0.36 + 0.16 / 5) / 3)
    assert found.half_width == pytest.approx(1.6449 * wanted, rel=1e-3)
    assert found.ahead > (1.6449 + 0.8416) * wanted  # pooling and what is unknown ask for more
    assert found.assumed > 0.99


def test_more_of_anything_never_tells_less():
    priors = default_priors(GLOSS)
    base = outlook(*full(), priors)[0].ahead
    assert outlook(*full(panels=4), priors)[0].ahead < base
    assert outlook(*full(rows=4), priors)[0].ahead < base
    assert outlook(*full(readings=9), priors)[0].ahead <= base
    assert (
        outlook(*full(v=3, panels=4), priors)[0].ahead < outlook(*full(panels=4), priors)[0].ahead
    )
    many = outlook(*full(readings=1000), priors)[0].ahead
    assert many > 0.75 * base  # readings cannot make up for cells


def test_what_is_missing_is_told():
    plan, assigned = full()
    without = {p: a for p, a in assigned.items() if a != "D"}
    found = outlook(plan, without, default_priors(GLOSS))
    assert found[0].missing == 1
    assert "one combination has no cell" in " ".join(outlook_notes(found))
    alone = {p: a for p, a in assigned.items() if a == "A"}
    found = outlook(plan, alone, default_priors(GLOSS))
    assert (found[0].ahead, found[0].missing) == (None, 3)
    assert "Nothing can be compared" in outlook_sentence(found, matters(GLOSS), GLOSS)
    assert outlook(plan, {}, default_priors(GLOSS)) == []


def made(hardness, ahead, clearly=None, answers=False, assumed=0.1):
    told = Expected(ahead, clearly, 0.9 if answers else 0.3, 0.9 if answers else 0.1)
    return Outlook(hardness, 0.7 * ahead, ahead, ahead, 20.0, assumed, 12, 2, 0, told)


@pytest.mark.parametrize(
    ("found", "kind", "said"),
    [
        (
            [made("soft", 0.4, 1.4, True), made("hard", 0.4, 1.4, True)],
            GLOSS,
            "It can answer for gloss 20°: it shows differences over 0.4 GU, clearly over"
            " 1.4 GU on soft and hard; 1.0 GU matters.",
        ),
        (
            [made("soft", 0.4, 1.4, True), made("hard", 1.4, 2.4)],
            GLOSS,
            "It can answer for gloss 20° on soft: it shows differences over 0.4 GU, clearly"
            " over 1.4 GU on soft; 1.0 GU matters. Not yet elsewhere: it can only show differences"
            " over 1.4 GU, clearly over 2.4 GU on hard.",
        ),
        (
            [made("hard", 1.4)],
            GLOSS,
            "It cannot answer for gloss 20° yet: it can only show differences over 1.4 GU,"
            " clearly never on hard; 1.0 GU matters.",
        ),
        (
            [made("soft", 0.08, 0.2)],
            HAZE,
            "It cannot answer for haze yet: it can only show differences over 8 %, clearly over"
            " 22 % on soft; 10 % of haze matters.",
        ),
        ([], GLOSS, "Nothing is laid out yet."),
    ],
)
def test_sentences(found, kind, said):
    assert outlook_sentence(found, matters(kind), kind) == said


# Rates measured in 150 simulated judgements a difference, standard deviations held at the usual
# ones (panel 0.8, cell 0.6, combination on a panel 0.3, reading 0.4), one combination ahead of
# the others: the difference that was called ahead, and clearly, in 80 % of them.
MEASURED = {
    (4, 3, 2, 2): (1.69, 2.84),
    (5, 3, 2, 5): (1.37, 2.50),
    (4, 1, 2, 4): (2.50, None),
    (3, 2, 3, 4): (1.20, None),
}


@pytest.mark.parametrize("layout", MEASURED)
def test_verdicts_are_foretold_as_they_fall(layout):
    """A tenth in the difference is at most ten points in how often it is found."""
    v, panels, rows, columns = layout
    plan, assigned = full(panels, v, rows, columns)
    priors = default_priors(GLOSS)
    true = {name: p.sd for name, p in priors.items()}
    found = expected_pairs(plan, assigned, true, priors, 1.0)
    ahead, clearly = MEASURED[layout]
    for one in found.values():
        assert one.ahead == pytest.approx(ahead, rel=0.09)
        if clearly is None:
            assert one.clearly is None
        else:
            assert one.clearly == pytest.approx(clearly, rel=0.09)


def test_it_can_answer_only_where_both_are_said():
    """Large and many: clearly of twice what matters and as good of none, in judged trials too."""
    plan, assigned = full(6, 3, 4, 6)
    (found,) = outlook(plan, assigned, default_priors(GLOSS), 1.0)
    assert found.answers
    assert not outlook(*full(3, 4), default_priors(GLOSS), 1.0)[0].answers
    layout = [(p, NAMES.index(a)) for (p, _, _), a in assigned.items()]
    fixed = {t: GLOSS.usual[t] for t in ("panel", "panel:combination", "cell", "residual")}
    design = Design("large", layout, (0,) * 6, 5, 1, fixed={**fixed, "operator": 0.0}, spread=0.0)
    clear = same = 0
    for seed in range(8):
        data, _ = trial(design, seed)
        y = data.y + 2.0 * (data.combination.codes == 0)
        found = judge_readings(replace(data, y=y), seed=seed).classes[0]
        clear += found.compare("c0", "c1").verdict == CLEARLY_BETTER
        same += found.compare("c1", "c2").verdict == EQUAL
    assert clear >= 6
    assert same >= 6


def test_what_rests_on_assumptions_is_said():
    assert outlook_notes([made("soft", 1.0, assumed=0.8)])[0].startswith("This rests mostly")
    both = [made("soft", 1.0, assumed=0.8), made("hard", 1.0)]
    assert "on soft" in outlook_notes(both)[0]
    assert "Clearly cannot be said on hard" in outlook_notes([made("hard", 1.0)])[0]
    assert outlook_notes([made("hard", 1.0, 2.0)]) == []
