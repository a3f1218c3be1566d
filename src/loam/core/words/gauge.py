"""What a gauge study says, in sentences."""

from __future__ import annotations

from collections.abc import Sequence

from loam.core.gauge import REML, SURELY_APART, Offset, Study
from loam.core.text import listed

FEW_READERS = 3


def offset_words(found: Sequence[Offset], unit: str = "", digits: int = 2) -> list[str]:
    """Name who surely reads high or low beside the others, the furthest first."""
    of = f" {unit}" if unit else ""
    apart = sorted((o for o in found if o.p < SURELY_APART), key=lambda o: -abs(o.middle))
    said = []
    for o in apart:
        low, high = sorted((abs(o.low), abs(o.high)))
        side = "high" if o.middle > 0 else "low"
        said.append(
            f"{o.reader} reads {abs(o.middle):.{digits}f}{of} {side} ({low:.{digits}f} to"
            f" {high:.{digits}f})."
        )
    return said


MOST_READINGS = 12
MANY_READINGS = 5


def gauge_verdict(meter: str, needed: int, by: str, apart: Sequence[Offset], unit: str) -> str:
    """Say in short whether a meter is good enough, who reads apart, and how often to read.

    Parameters
    ----------
    needed : int
        Readings a cell that tell two cells apart by what matters, ``by`` in words.
    """
    name = meter or "The meter"
    if needed >= MOST_READINGS:
        good = f"{name} is too coarse to tell {by} apart"
    elif needed > MANY_READINGS:
        good = f"{name} is coarse for {by}"
    else:
        good = f"{name} is good enough"
    off = sorted((o for o in apart if o.p < SURELY_APART), key=lambda o: -abs(o.middle))
    said = "They agree."
    if off:
        of = f" {unit}" if unit else ""
        alike: dict[str, list[str]] = {}
        for o in off:
            side = "high" if o.middle > 0 else "low"
            alike.setdefault(f"{abs(o.middle):.1f}{of} {side}", []).append(o.reader)
        told = [
            f"{listed(who)} {'reads' if len(who) == 1 else 'read'} {by_how_much}"
            for by_how_much, who in alike.items()
        ]
        said = f"{'; '.join(told)}."
    often = "twelve times or more" if needed >= MOST_READINGS else f"{needed} times"
    return f"{good}. {said} Read each cell {often}."


def study_words(
    study: Study, unit: str = "", digits: int = 2, apart: Sequence[Offset] = ()
) -> list[str]:
    """Say what a study found.

    Parameters
    ----------
    apart : sequence of Offset
        How each reader reads beside the others.
    unit : str
        Of the readings; "" where it is not known.
    """
    r, of = study.result, f" {unit}" if unit else ""

    def figure(value: float) -> str:
        return f"{value:.{digits}f}{of}"

    low, high = study.interval()
    said = [
        f"{study.parts} spots, {study.readers} readers, {study.repeats} readings each.",
        f"One reader on one spot scatters by {figure(r.ev)} (s.d.; 95 %: {low:.{digits}f} to"
        f" {high:.{digits}f}): two readings differ by more than {figure(r.limit)} once in twenty.",
    ]
    if r.av == 0.0:
        said.append("Readers differ by no more than their own repeats explain.")
    else:
        hardly = " (hardly known from so few)" if study.readers <= FEW_READERS else ""
        said.append(f"Readers differ by {figure(r.av)} (s.d.){hardly}.")
    said += offset_words(apart, unit, digits)
    if study.method == REML:
        said.append("Readings are missing: the variances are estimated by likelihood (REML).")
    elif study.pooled:
        said.append("Readers differ alike on every spot: that is taken as repeat scatter.")
    elif r.interaction > 0.0:
        said.append("Readers differ from spot to spot.")
    return said
