"""Reference data with known answers, and their columns as the core wants them."""

import csv
import json
from pathlib import Path

import numpy as np

from loam.core.trial_rows import Coded, TrialData

ROOT = Path(__file__).resolve().parent.parent / "reference"


def load_json(*parts):
    return json.loads(ROOT.joinpath(*parts).read_text())


def load_rows(*parts):
    with ROOT.joinpath(*parts).open(newline="") as file:
        return list(csv.DictReader(file))


def coded(values, names=None):
    names = list(names) if names else sorted(set(values))
    at = {name: i for i, name in enumerate(names)}
    return Coded(np.array([at[v] for v in values], dtype=np.intp), tuple(names))


def column(rows, name):
    if name == "removed_um":
        return column(rows, "thickness_before_um") - column(rows, "thickness_after_um")
    return np.array([float(r[name]) for r in rows])


def trial_data(name, measurand, *, baseline=True, higher=True):
    rows = load_rows("trials", name, f"{name}.csv")
    return TrialData(
        measurand,
        column(rows, measurand),
        coded([r["hardness"] for r in rows]),
        coded([r["combo"] for r in rows]),
        {k: coded([r[k] for r in rows]) for k in ("cell", "panel", "operator", "day")},
        column(rows, "baseline_gloss20") if baseline else None,
        higher,
    )
