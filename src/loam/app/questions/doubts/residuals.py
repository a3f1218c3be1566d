"""What the model leaves over in every cell, for the drawing of the panels."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np

from loam.app.questions.ranking.picture import RankingPicture
from loam.core.trial import Cell, Combination, Panel


def residuals(
    ranking: RankingPicture,
    panels: Iterable[Panel],
    cells: Iterable[Cell],
    combinations: Iterable[Combination],
) -> Mapping[int, float]:
    """Return, by cell, what is left of its mean beside its combination and its panel.

    In standard deviations of all cells, on the measurand's scale, more is better.
    """
    judgement = ranking.judgement
    codes = {c.id: c.code for c in combinations}
    hardness = {p.id: p.hardness for p in panels}
    estimates = {
        (found.hardness, s.combination): s.figures.estimate
        for found in judgement.classes
        for s in found.standings
    }
    ids: list[int] = []
    at_panel: list[int] = []
    pairs: list[tuple[float, float]] = []
    for cell in cells:
        code = codes.get(cell.combination_id or 0, "")
        fitted = estimates.get((hardness.get(cell.panel_id, ""), code))
        if fitted is not None and cell.id in ranking.means:
            ids.append(cell.id)
            at_panel.append(cell.panel_id)
            pairs.append((ranking.means[cell.id], fitted))
    if len(ids) < 3:
        return {}
    both = judgement.scale.to(np.array(pairs).ravel()).reshape(-1, 2)
    left = both[:, 0] - both[:, 1]
    _, at = np.unique(at_panel, return_inverse=True)
    left = left - (np.bincount(at, weights=left) / np.bincount(at))[at]
    spread = float(np.sqrt((left**2).mean()))
    sign = 1.0 if judgement.higher_is_better else -1.0
    if spread <= 0.0:
        return dict.fromkeys(ids, 0.0)
    return dict(zip(ids, (sign * left / spread).tolist(), strict=True))
