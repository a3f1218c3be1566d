"""What is said of a ladder: what to do, why, how a spot came, and what is assumed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from loam.app.applying.rests import Rests
from loam.app.applying.told import (
    PRICES,
    Came,
    School,
)
from loam.core.ladder import (
    After,
    Ladder,
    Prices,
    State,
)
from loam.core.readings import kind_of
from loam.core.text import listed, some
from loam.core.units import fixed, percent
from loam.core.vehicle.follow import FEW, Learnt
from loam.core.vehicle.job import Job, SpotDone
from loam.core.vehicle.room import EDGE, SEAM, Room, unsurveyed
from loam.core.words.verdict import counted

OTHERWISE = "By photographs: another measure than the panels were read by, so no promise."
"""Why photographs of a spot stand beside the promise without a range of their own."""


def spot_words(done: SpotDone, rows: Sequence[Came], unlike: Sequence[str], after: After) -> str:
    """Say whether a spot came as promised, and what it is most likely to be where not."""
    if after.state is None:
        return (
            "Nothing like this was seen on any panel. Measure again after another wipe, and ask"
            " what this paint is, before anything is taken off."
        )
    if unlike:
        names = listed([kind_of(m).short for m in unlike])
        why = "It was read before the wipe. " if not done.wiped else ""
        return (
            f"Unlike the panels in {names}. {why}Likely: other paint than it is taken for, filler"
            " left on, another hand, or a worn pad."
        )
    out = [r.label for r in rows if not r.inside]
    if out:
        lies = "lies" if len(out) == 1 else "lie"
        said = f"As promised, but {listed(out)} {lies} outside where nine of ten spots should."
    else:
        said = "As the panels promised."
    return said if done.wiped else f"{said} It was not wiped before: filler may flatter it."


def advise(
    job: Job,
    rests: Rests,
    ladder: Ladder,
    now: State | None,
    afters: Sequence[After],
    least: Room | None,
) -> tuple[str, tuple[str, str]]:
    """Say in one line what to do, and which act that is."""
    if now is None:
        return "Stop: nothing like this was seen on any panel. Measure first.", ("measure", "")
    sure = _class_words(now.classes, unread(job, rests))
    if least is None and any(p.gauged for p in job.working):
        return f"{sure} Survey its film first (F): no clear is known to spare.", ("measure", "")
    if not afters:
        if not now.best.sequence:
            return f"{sure} {_why_none(rests, ladder, now, least, ())}", ("stop", "")
        k = now.best.sequence[0]
        chance = percent(now.rungs[k].passes)
        code = rests.codes[k]
        said = f"Try {code} on a spot: {chance} that the spot does it."
        return f"{sure} {said}", ("try", code)
    ways, last = afters[-1].ways, afters[-1]
    decision = last.decision
    if decision.startswith("take "):
        code = decision.removeprefix("take ")
        k = ladder.rungs.index(next(r for r in ladder.rungs if r.name == code))
        said = f"Take {code}: it does this vehicle with {percent(now.rungs[k].reach)}."
        return f"{sure} {said}", ("take", code)
    if decision.startswith("try "):
        code = decision.removeprefix("try ")
        k = rests.codes.index(code)
        short = _short_of(rests, ladder, now, last, ways)
        said = f"{short}Try {code}: {percent(now.rungs[k].passes)} that the spot does it."
        return f"{sure} {said}", ("try", code)
    short = _short_of(rests, ladder, now, last, ways)
    tried = [a.rung for a in afters]
    return f"{sure} {short}{_why_none(rests, ladder, now, least, tried)}", ("stop", "")


def _short_of(
    rests: Rests, ladder: Ladder, now: State, last: After, ways: Mapping[str, float]
) -> str:
    """Say why what was tried last is not taken."""
    own, code = now.rungs[last.rung], rests.codes[last.rung]
    if f"take {code}" in ways:
        return ""
    if not own.allowed:
        return f"{code} may take more clear than there is. "
    return f"{code} does all of the vehicle with {percent(own.reach)} only. "


def _why_none(
    rests: Rests, ladder: Ladder, now: State, least: Room | None, tried: Sequence[int]
) -> str:
    """Say why nothing is tried: the budget, its price, or nothing left; and what reaches most."""
    within = [k for k in range(len(rests.rungs)) if now.rungs[k].allowed]
    still = [k for k in range(len(rests.rungs)) if k not in tried]
    where = f" on the {least.part}" if least is not None else ""
    if not within:
        help_ = (
            " A milder one there (I) or leaving it out (O) lets the others go on." if where else ""
        )
        return f"Stop: whatever is tried may take more clear than there is{where}.{help_}"
    most = max(within, key=lambda k: now.rungs[k].reach)
    best = f"{rests.codes[most]} would reach most within it: {percent(now.rungs[most].reach)}."
    if still and not any(now.rungs[k].allowed for k in still):
        return f"Stop: what is left may take more clear than there is{where}. {best}"
    if not still:
        return f"Stop: all is tried. {best}"
    return f"Stop: what is left is not worth its clear and time. {best}"


def unread(job: Job, rests: Rests) -> list[str]:
    """Return the classes that a vehicle may be, of which no panel was read: no chance is theirs."""
    return [h for h, p in job.chances.items() if p > 0.0 and h not in rests.classes]


def _class_words(classes: Mapping[str, float], unread: Sequence[str]) -> str:
    """Say how hard its clear is: hard (71 %) or medium (29 %)."""
    likely = sorted(classes.items(), key=lambda item: -item[1])
    if unread and len(classes) == 1:
        return f"It is taken for {likely[0][0]}: no other panels were read."
    of = "Of what was read, its" if unread else "Its"
    if likely and likely[0][1] > 0.99:
        return f"{of} clear is {likely[0][0]}."
    told = [f"{h} ({percent(p)})" for h, p in likely if p >= 0.005]
    return f"{of} clear is {' or '.join(told)}."


def too_long(job: Job, schools: Sequence[School]) -> tuple[str, ...]:
    """Say where the way that is advised takes longer than was wanted."""
    if job.minutes is None or not schools or schools[0].minutes <= job.minutes:
        return ()
    hours, wanted = (fixed(m / 60.0, 1) for m in (schools[0].minutes, job.minutes))
    return (f"It takes about {hours} h, more than the {wanted} h that were wanted.",)


def notes_on(
    job: Job,
    rests: Rests,
    learnt: Mapping[str, Learnt],
    least: Room | None,
    rooms: Mapping[str, Room],
    prices: Prices,
) -> tuple[str, ...]:
    """Say what is assumed."""
    found = list(rests.notes)
    bare = unsurveyed(job, rooms.values())
    if bare and least is not None:
        found.append(f"Not surveyed, so nothing is said of {some(bare, 3)}.")
    if rests.lacking:
        names = listed([kind_of(m).short for m in rests.lacking])
        found.append(f"Nothing is promised of {names}: no trial read it.")
    vehicles = max((own.vehicles for own in learnt.values()), default=0)
    if vehicles < FEW:
        found.append("How vehicles differ from panels is assumed.")
    else:
        shifts = [
            f"{kind_of(m).short} {fixed(own.means[0], 2)}"
            for m, own in learnt.items()
            if abs(own.means[0]) > own.means[1] / 2
        ]
        also = f": {listed(shifts)} on its scale" if shifts else ""
        found.append(f"How vehicles differ from panels is learnt from {counted(vehicles)}{also}.")
    if not job.known:
        found.append("Nobody said how hard it is: the classes that were read count alike.")
    if job.assumed_aim:
        found.append("The usual aim, as nobody said another.")
    if least is not None:
        found.append(
            f"Assumed: the clear's share of the film; edges not read lose {EDGE:g} times, seams"
            f" {SEAM:g} times as much."
        )
    assumed = ", assumed" if prices == PRICES else ""
    found.append(
        f"All in all: clear, hours ({fixed(prices.clear_per_minute * 60, 1)} µm each) and missing"
        f" the aim ({fixed(prices.give_up, 0)} µm){assumed} (G)."
    )
    return tuple(found)
