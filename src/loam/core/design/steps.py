"""Stage by stage over a panel: all cells P1200, then all P3000, then all the first compound.

A cell's stages are put on steps that all cells of a panel share: what sands by its grain, coarse
first, what follows by its place among the compounds. On a step the cells are drawn by lot, anew on
each, from the seed of the layout and their place in the order of work: the same wherever the trial
is, and unmoved when a cell is lost.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from hashlib import blake2b

from loam.core.kit.grit import USUAL, grain_um, grit_of
from loam.core.trial import Stage

Step = tuple[int, float]
"""0 and minus the grain for a step that sands, 1 and the number of the compound for others."""
SANDS, COMPOUNDS = 0, 1


def steps_of(stages: Sequence[Stage]) -> list[Step]:
    """Return the step of each stage of a combination, never before that of the stage before."""
    found: list[Step] = []
    compounds = 0
    for stage in stages:
        if stage.disc:
            grit = grit_of(stage.disc, stage.grit)
            own: Step = (SANDS, -grain_um(USUAL if grit is None else grit))
        else:
            compounds += 1
            own = (COMPOUNDS, float(compounds))
        found.append(max(own, found[-1]) if found else own)
    return found


def all_steps(combinations: Iterable[Sequence[Stage]]) -> list[Step]:
    """Return the steps that some combinations take together, in their order."""
    return sorted({step for stages in combinations for step in steps_of(stages)})


def lot(seed: int, step: Step, place: int) -> bytes:
    """Return the lot of a cell on a step: the smaller comes first."""
    return blake2b(f"{seed} {step[0]} {step[1]:.6f} {place}".encode(), digest_size=8).digest()


def shares_a_pad(combinations: Iterable[Sequence[Stage]]) -> bool:
    """Tell whether combinations of several stages work with one pad and compound."""
    used: Counter[tuple[str, str]] = Counter()
    for stages in combinations:
        if len(stages) > 1:
            used.update({(s.pad, s.compound) for s in stages if s.pad and s.compound})
    return any(count > 1 for count in used.values())


def usually_by_stage(combinations: Iterable[Sequence[Stage]]) -> bool:
    """Tell whether a trade works such a plan stage by stage: it sands, or shares a pad."""
    found = [stages for stages in combinations if stages]
    several = any(len(stages) > 1 for stages in found)
    return several and (any(s.disc for own in found for s in own) or shares_a_pad(found))


def step_words(step: Step, combinations: Iterable[Sequence[Stage]]) -> str:
    """Say what is done on a step: the discs' names, or the compounds'."""
    names = dict.fromkeys(
        stage.disc or stage.compound or stage.pad or "a stage"
        for stages in combinations
        for stage, own in zip(stages, steps_of(stages), strict=True)
        if own == step
    )
    told = list(names)
    return ", ".join(told[:3]) + (f" and {len(told) - 3} more" if len(told) > 3 else "")
