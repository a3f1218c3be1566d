"""The house: only ui knows Qt, heavy libraries load late, nothing personal is in the tree."""

import ast
import importlib
import importlib.util
import json
import os
import re
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


def _imports(path):
    """Give each (line, module, name) that a file imports from Loam, wherever it stands in it."""
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("loam"):
            yield from ((node.lineno, node.module, alias.name) for alias in node.names)


@pytest.mark.parametrize("tool", sorted((ROOT / "tools").glob("*.py")), ids=lambda p: p.stem)
def test_what_tools_take_from_loam_is_there(tool):
    """Many import it late, so that only a long benchmark would tell."""
    for line, module, name in _imports(tool):
        there = hasattr(importlib.import_module(module), name)
        assert there or importlib.util.find_spec(f"{module}.{name}"), f"{tool.name}:{line} {name}"


def test_the_page_for_a_fresh_reader_needs_nothing_and_gives_nothing_away():
    """Pictures first, words only at the end; what is told of a screen cannot break out of it."""
    found = subprocess.run(
        [
            sys.executable,
            "-c",
            "import sys; sys.path.insert(0, 'tools'); import glance;"
            "shown = [(n, b'PNG', '</script>' + n) for n in glance.MEANT];"
            "sys.stdout.write(glance.page(shown, 3))",
        ],
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=True,
    ).stdout
    assert found.count("</script>") == 1
    assert "seconds = 3" in found
    assert not re.search(r"https?://|src=\"|@\w+@", found), "it needs no network"
    body, script = found.split("<script>")
    shown = re.search(r"const screens = (\[.*?\]), seconds = ", script, re.DOTALL).group(1)
    told = json.loads(shown)
    assert len(told) == 15
    assert all(one["meant"] and one["says"].endswith(one["name"]) for one in told)
    assert not any(one["meant"] in body for one in told)
