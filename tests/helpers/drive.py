"""Put every presenter, the report and the doors to a trial: what fails, what says nothing, what
disagrees."""

from __future__ import annotations

import contextlib
import io
import json
import re
import traceback
from collections.abc import Callable
from pathlib import Path
from typing import Any

from loam.app.advising import advised
from loam.app.headless import run as run_door
from loam.app.presenters.outlook import look_ahead
from loam.app.questions import questions
from loam.app.questions.all_trials.find import pooled_picture
from loam.app.questions.all_trials.judging import judge_pool
from loam.app.questions.doubts.find import doubts_of
from loam.app.questions.doubts.noticed import noticed
from loam.app.questions.doubts.residuals import residuals
from loam.app.questions.next_test.find import NextPicture
from loam.app.questions.price.find import PricePicture
from loam.app.questions.priorities.find import Making, find_map
from loam.app.questions.question import Asked
from loam.app.questions.ranking.find import has_film_pairs, judge_trial
from loam.app.questions.ranking.picture import spoken
from loam.app.report import make_report
from loam.core.errors import LoamError
from loam.core.readings import kind_of
from loam.core.verdict import asked_of
from loam.core.verdicts import EQUAL, OPEN
from loam.store.flat import write_flat
from loam.store.take_in import write_draft
from loam.store.workshop import Workshop


class Driven:
    """A trial in a workshop of its own, and what was wrong with what is said of it."""

    def __init__(self, draft: Any, folder: Path) -> None:
        self.path = folder / "odd.loam"
        self.draft, self.folder = draft, folder
        self.workshop = Workshop(self.path)
        with self.workshop.transaction() as db:
            self.trial_id = write_draft(db, draft, self.workshop.now())
        self.faults: list[str] = []
        self.refused: list[str] = []

    def close(self) -> None:
        """Close the workshop."""
        self.workshop.close()

    def ask(self, page: str, make: Callable[[], Any]) -> Any:
        """Ask a page; a refusal in words is an answer, anything else that is raised a fault."""
        try:
            return make()
        except LoamError as error:
            if not error.what.strip():
                self.faults.append(f"{page}: refused without a word")
            self.refused.append(f"{page}: {error.what}")
        except Exception:
            self.faults.append(f"{page}: {traceback.format_exc(limit=-4)}")
        return None

    def everything(self) -> list[str]:  # noqa: C901 - one page after the other
        """Ask everything, and return the faults."""
        from loam.store import trials as trial_store

        db = self.workshop.connection
        trial = next(t for t in trial_store.trials(db) if t.id == self.trial_id)
        combinations, path = self.draft.combinations, self.path
        keys = asked_of(trial, has_film_pairs(db, trial.id))
        rankings = {}
        for m in keys:
            picture = self.ask(
                f"ranking {m}", lambda m=m: judge_trial(path, trial.id, m, trial.seed)
            )
            if picture is not None:
                rankings[m] = picture
                self._coherent(picture)
        judged = {m: r.judgement for m, r in rankings.items()}
        for m in trial.measurands:
            self.ask(f"outlook {m}", lambda m=m: look_ahead(path, trial.id, kind_of(m)))
        seen = self.ask("noticed", lambda: noticed(path, trial.id)) or ()
        found = self.ask("doubts", lambda: doubts_of(path, trial.id, trial.seed)) or []
        for one in found:
            if not one.sentence.strip():
                self.faults.append("doubts: a doubt without a sentence")
        for m, ranking in rankings.items():
            advice = self.ask(f"advice {m}", lambda m=m: advised(rankings, m, None)) or {}
            asked = Asked(path, trial, rankings, m, combinations, (found, seen), advice=advice)
            for question in questions():
                if not question.reported:
                    continue
                name, finder = f"{question.name} {m}", question.finder()
                said = self.ask(name, lambda f=finder, a=asked: f.answer(a, lambda _share: None))
                if said is not None:
                    self._says(name, said)
                    self._agrees(name, said, advice)
            self.ask(
                f"residuals {m}",
                lambda r=ranking: residuals(r, self.draft.panels, self.draft.cells, combinations),
            )
            self.ask(
                f"all trials {m}",
                lambda m=m: pooled_picture(judge_pool(path, trial.id, m, trial.seed), kind_of(m)),
            )
        self.ask("priorities", lambda: find_map(judged, Making(combinations, {})))
        if rankings:
            told = Asked(
                path,
                trial,
                rankings,
                next(iter(rankings)),
                combinations,
                (found, seen),
                when="2026-09-20 12:00",
            )
            report = self.ask("report", lambda: make_report(told))
            self.report = report
            if report is not None:
                self.faults += [f"report: {e!r}" for e in report.failed]
                for section in report.sections:
                    if not any(w.strip() for w in section.words):
                        self.faults.append(f"report: {section.head} says nothing")
                    if any("could not be" in w for w in section.words):
                        self.faults.append(f"report: {section.head}: {section.words}")
        self._doors()
        return self.faults

    def _says(self, page: str, found: Any) -> None:
        """A page has words; a table of it has a heading as wide as its rows."""
        words = found.said()
        refused = dict(getattr(found, "refused", {}) or {})
        if not any(str(w).strip() for w in words) and not any(refused.values()):
            self.faults.append(f"{page}: says nothing")
        table = found.table()
        if any(len(row) != len(table[0]) for row in table):
            self.faults.append(f"{page}: a table with uneven rows")

    def _agrees(self, page: str, found: Any, advice: Any) -> None:
        """What a price and what a further test is worth say no other than the ranking."""
        if isinstance(found, PricePicture):
            for own in found.classes:
                ranked = found.judgement.on(own.hardness)
                said = f"{own.advice} {own.sentence}"
                told = advice.get(own.hardness)
                if told is not None and own.used and own.used not in told.among:
                    self.faults.append(f"{page}: {own.used} is on tape, advised is {told.among}")
                for name in re.findall(r"([^\s:]+)(?:: it)? gives most", own.advice):
                    rest = [p.name for p in own.priced if p.name != name]
                    if any(ranked.compare(name, o).verdict in (OPEN, EQUAL) for o in rest):
                        self.faults.append(f"{page}: {said} beside a tie")
        if isinstance(found, NextPicture) and found.kind.scale == "identity":
            for own in found.classes:
                loses = re.search(r"now loses (\S+) ", own.brief)
                for tile in own.tiles if loses else ():
                    saves = tile.saves.split()[0]
                    if saves != "next" and float(saves) > float(loses.group(1)) + 1e-9:
                        self.faults.append(f"{page}: {own.brief} saves {tile.saves}")

    def _coherent(self, picture: Any) -> None:
        """The picture, its verdicts, chances and figures agree with each other."""
        j = picture.judgement
        sign = 1.0 if j.higher_is_better else -1.0
        if not spoken(picture).strip() or not picture.sentence.strip():
            self.faults.append("ranking: says nothing")
        for strip, c in zip(picture.strips, j.classes, strict=True):
            lead = strip.swatches[0]
            for swatch, s in zip(strip.swatches[1:], c.standings[1:], strict=True):
                if swatch.place > lead.place + 1e-6 * max(abs(lead.place), 1.0):
                    self.faults.append(f"ranking: {s.combination} is drawn ahead of the leader")
                apart = swatch.high < lead.low - 1e-6 * max(abs(lead.low), 1.0)
                if s.relation == OPEN and apart:
                    self.faults.append("ranking: bars apart under torn tape")
                if s.relation == EQUAL and lead.place - swatch.place > c.delta + 1e-6:
                    self.faults.append("ranking: as good, drawn beyond what matters")
                pair = c.compare(c.leader.combination, s.combination)
                if pair.verdict != s.relation:
                    self.faults.append("ranking: verdict and standing differ")
                if pair.verdict not in (OPEN, EQUAL) and pair.p_better < 0.95:
                    self.faults.append("ranking: ahead with a chance below 95 %")
                drawn = lead.place - swatch.place
                inside = all(
                    j.scale.least < x.figures.estimate < j.scale.most for x in (s, c.leader)
                )
                if inside and abs(drawn - sign * pair.estimate) > 1e-6 * (1 + abs(lead.place)):
                    self.faults.append("ranking: told otherwise than drawn")

    def _doors(self) -> None:
        """The doors take what Loam writes."""
        table = self.folder / "odd.csv"
        if self.ask("write out", lambda: write_flat(self.draft, table) or True) is None:
            return
        for door in (["judge", str(table), "--json"], ["check", str(self.path), "--json"]):
            out, err = io.StringIO(), io.StringIO()

            def run(door: list[str] = door, out: io.StringIO = out, err: io.StringIO = err) -> Any:
                with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
                    return run_door(door[0], door[1:])

            status = self.ask(f"loam {door[0]}", run)
            if status == 0:
                json.loads(out.getvalue())
            elif status is not None and not err.getvalue().strip():
                self.faults.append(f"loam {door[0]}: failed without a word")
