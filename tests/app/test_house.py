"""The house: only ui knows Qt, heavy libraries load late, nothing personal is in the tree."""

import os
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parent.parent.parent
SRC = ROOT / "src"
MODULES = sorted(
    ".".join(p.relative_to(SRC).with_suffix("").parts).removesuffix(".__init__")
    for p in (SRC / "loam").rglob("*.py")
    if "ui" not in p.parts
)


def fresh(code):
    return subprocess.run(
        [sys.executable, "-c", code],
        capture_output=True,
        text=True,
        check=False,
        env={**os.environ, "PYTHONPATH": str(SRC)},
    )


def test_no_module_outside_ui_loads_qt():
    names = [m for m in MODULES if m != "loam.__main__"]
    assert len(names) > 40
    done = fresh(
        "import importlib, sys\n"
        f"for name in {names!r}: importlib.import_module(name)\n"
        "print([m for m in sys.modules if m.startswith('PyQt')])"
    )
    assert done.stdout.strip() == "[]", done.stderr


@pytest.mark.parametrize("heavy", ["scipy", "zoneinfo", "statsmodels", "pandas", "PIL", "serial"])
def test_the_window_starts_without_heavy_libraries(heavy):
    done = fresh(f"import sys, loam.ui.start\nprint({heavy!r} in sys.modules)")
    assert done.stdout.strip() == "False", done.stderr
