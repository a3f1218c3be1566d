"""What a gauge study says, in sentences."""

from __future__ import annotations

from loam.core.gauge import REML, Study

FEW_READERS = 3


def study_words(study: Study, unit: str = "", digits: int = 2) -> list[str]:
    """Say what a study found.

    Parameters
    ----------
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
    if study.method == REML:
        said.append("Readings are missing: the variances are estimated by likelihood (REML).")
    elif study.pooled:
        said.append("Readers differ alike on every spot: that is taken as repeat scatter.")
    elif r.interaction > 0.0:
        said.append("Readers differ from spot to spot.")
    return said
