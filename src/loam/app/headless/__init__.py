"""Loam without a window: one file a door. A new one is one file here and one line in DOORS."""

from __future__ import annotations

from importlib import import_module

DOORS: dict[str, str] = {
    "demo": "demo W.loam: write the demo workshop to a new file",
    "rank": "rank FILE.csv --measurand NAME: rank the combinations of a file of readings",
    "judge": "judge FILE.csv ... | --workshop W.loam --trial NAME: judge as the window does",
    "layout": "layout PLAN.json: choose which combination goes into which cell",
    "dose": "dose CASE.json: what a stage's settings do to a section",
    "gauge": "gauge FILE.csv --part COLUMN --reader COLUMN --value COLUMN: judge a gauge study",
    "ladder": "ladder CASE.json: which combination to try next on a vehicle",
    "budget": "budget CASE.json: how many sets the thinnest spot of a panel bears",
    "photo": "photo BEFORE AFTER --paint P --cell X,Y,W,H --strip X,Y,W,H: measure photographs",
    "bring-in": "bring-in FILE [FILE ...] --workshop W.loam: take files in, join what is new",
    "write-out": "write-out TRIAL FILE --workshop W.loam: write a trial as a package or flat CSV",
    "check": "check W.loam: say what a workshop holds and whether it is whole",
}

ELSEWHERE = {"demo": "loam.demo.door"}
"""Doors that lead to what stands above this folder."""


def run(door: str, arguments: list[str]) -> int:
    """Go through a door and return the exit status."""
    module = ELSEWHERE.get(door, f"loam.app.headless.{door.replace('-', '_')}")
    status: int = import_module(module).run(arguments)
    return status
