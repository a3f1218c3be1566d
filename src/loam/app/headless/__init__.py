"""Loam without a window: one file a door. A new one is one file here and one line in DOORS."""

from __future__ import annotations

from importlib import import_module

DOORS: dict[str, str] = {
    "rank": "rank FILE.csv --measurand NAME: rank the combinations of a file of readings",
    "judge": "judge FILE.csv [FILE ...]: judge files of readings as the window does",
    "layout": "layout PLAN.json: choose which combination goes into which cell",
    "dose": "dose CASE.json: what a stage's settings do to a section",
    "gauge": "gauge FILE.csv --part COLUMN --reader COLUMN --value COLUMN: judge a gauge study",
    "photo": "photo BEFORE AFTER --paint P --cell X,Y,W,H --strip X,Y,W,H: measure photographs",
    "bring-in": "bring-in FILE [FILE ...] --workshop W.loam: take files into a workshop",
    "write-out": "write-out TRIAL FILE --workshop W.loam: write a trial as a package or flat CSV",
    "check": "check W.loam: say what a workshop holds and whether it is whole",
}


def run(door: str, arguments: list[str]) -> int:
    """Go through a door and return the exit status."""
    status: int = import_module(f"loam.app.headless.{door.replace('-', '_')}").run(arguments)
    return status
