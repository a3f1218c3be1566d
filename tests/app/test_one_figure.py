"""One figure, one value: what stands on two pages is the same on both."""

import shutil

import numpy as np
import pytest

from helpers.odd_trials import odd_trial
from loam.app.questions.price.find import CLEAR, MINUTES, find_price
from loam.app.questions.question import Asked
from loam.app.questions.ranking.find import (
    figures,
    has_film_pairs,
    judge_trial,
    ranking_table,
)
from loam.app.questions.source import own_source
from loam.app.questions.stages.find import find_stages
from loam.app.report import make_report
from loam.core.errors import LoamError
from loam.core.readings import REMOVED
from loam.core.units import fixed, percent
from loam.core.verdict import asked_of
from loam.store import combinations as combination_store
from loam.store import trials as trial_store
from loam.store.take_in import write_draft
from loam.store.workshop import Workshop


class Pages:
    """Every page of a trial, asked once."""

    def __init__(self, path, trial_id):
        self.path = path
        self.workshop = Workshop(path)
        db = self.workshop.connection
        self.trial = next(t for t in trial_store.trials(db) if t.id == trial_id)
        self.combinations = combination_store.combinations(db, trial_id)
        self.rankings = {}
        for m in asked_of(self.trial, has_film_pairs(db, trial_id)):
            found = self.ask(judge_trial, path, trial_id, m, self.trial.seed)
            if found is not None:
                self.rankings[m] = found
        self.judged = {m: r.judgement for m, r in self.rankings.items()}

    @staticmethod
    def ask(make, *args):
        try:
            return make(*args)
        except LoamError:
            return None

    def standings(self, m):
        for found in self.judged[m].classes:
            for s in found.standings:
                yield found, s


def compare(pages):
    """Return what was compared; a difference fails."""
    seen = 0
    told = Asked(
        pages.path,
        pages.trial,
        pages.rankings,
        next(iter(pages.rankings), ""),
        pages.combinations,
        when="2026-09-20 12:00",
    )
    report = make_report(told)
    tables = {t.name: t.rows for s in report.sections for t in s.tables}
    for m, ranking in pages.rankings.items():
        kind, d = ranking.kind, ranking.decimals
        rows = {(r[0], r[1]): r for r in ranking_table(ranking)[1:]}
        drawn = {(s.hardness, w.combination): w for s in ranking.strips for w in s.swatches}
        for found, s in pages.standings(m):
            at = (found.hardness, s.combination)
            shown = fixed(kind.shown(s.figures.estimate), d)
            assert rows[at][2] == shown
            assert rows[at][5] == percent(s.p_best)
            (line,) = figures(ranking, *at)
            assert line.value.split(" ")[0] == shown
            assert f"{kind.label} {shown} ±" in own_source(ranking, *at).heading
            assert fixed(kind.shown(kind_back(ranking, found.sign * drawn[at].place)), d) == shown
            seen += 1
        if f"ranking_{m}" in tables:
            assert tables[f"ranking_{m}"] == ranking_table(ranking)
        seen += stages(pages, m) + price(pages, m)
        lead = ranking.judgement.classes[0].leader
        if len(ranking.judgement.classes[0].standings) > 1:
            assert percent(lead.p_best) in ranking.sentence
    return seen


def kind_back(ranking, place):
    return float(ranking.judgement.scale.back(np.array([place]))[0])


def stages(pages, m):
    """The last state of every row is what the ranking says; film taken off too."""
    found = pages.ask(find_stages, pages.path, pages.trial.id, pages.judged, m)
    seen, kind = 0, pages.rankings[m].kind
    for own in found.classes if found is not None else ():
        judged = pages.judged[m].on(own.hardness)
        for row in own.rows:
            s = judged.standing(row.code)
            if s is None or not row.boxes or not row.boxes[-1].value:
                continue
            assert row.boxes[-1].value == f"{kind.write(s.figures.estimate)} {kind.unit}"
            removed = pages.judged.get(REMOVED.key)
            class_ = removed.on(own.hardness) if removed is not None else None
            taken = class_.standing(row.code) if class_ is not None else None
            priced = [link.price for link in row.links if "µm" in link.price]
            if taken is not None and len(priced) == 1 == len(row.links):
                said = f"{REMOVED.write(taken.figures.estimate)} µm"
                assert priced[0].startswith(said)
                seen += 1
            seen += 1
    return seen


def price(pages, m):
    """What is given, and what it costs, are what the rankings say."""
    removed = pages.judged.get(REMOVED.key)
    seen = 0
    for of in (CLEAR, MINUTES):
        if of == CLEAR and (removed is None or m == REMOVED.key):
            continue
        found = pages.ask(
            find_price, pages.path, pages.trial.id, pages.judged[m], removed, pages.combinations, of
        )
        for own in found.classes if found is not None else ():
            for p in own.priced:
                s = pages.judged[m].on(own.hardness).standing(p.name)
                kind = pages.rankings[m].kind
                assert kind.write(found.measured(p.gain[0])) == kind.write(s.figures.estimate)
                seen += 1
                if of == CLEAR:
                    taken = removed.on(own.hardness).standing(p.name)
                    said = f"{REMOVED.write(taken.figures.estimate)} µm"
                    assert found.cost_words(p.cost[0]) == said
    return seen


@pytest.mark.parametrize("trial", [1, 2, 3, 6, 7])
def test_the_demo_says_one_figure_once(demo_file, tmp_path, trial):
    path = tmp_path / "one.loam"
    shutil.copy(demo_file, path)
    pages = Pages(path, trial)
    try:
        assert compare(pages) > 0
    finally:
        pages.workshop.close()


@pytest.mark.parametrize("seed", [s for s in range(32) if s != 17])  # 26 combinations: slow
def test_small_odd_trials_say_one_figure_once(tmp_path, seed):
    path = tmp_path / "odd.loam"
    workshop = Workshop(path)
    with workshop.transaction() as db:
        trial = write_draft(db, odd_trial(seed).draft, workshop.now())
    workshop.close()
    pages = Pages(path, trial)
    try:
        if pages.rankings:
            compare(pages)
    finally:
        pages.workshop.close()
