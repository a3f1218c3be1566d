"""Note which functions each test enters: what `tools/mutants.py` needs to try the right tests.

A pytest plugin: `PYTHONPATH=src:tools pytest -p reach`. Where REACH names a folder, each process
of the run leaves one JSON there: {"tests": {test: [seconds, [function, ...]]}}, a function as
"core/film.py:12" (its first line). A call on a thread that is not Python's own goes unnoticed.
"""

import json
import os
import sys
import threading
import time
from pathlib import Path

import pytest

SOURCE = str(Path(__file__).resolve().parent.parent / "src/loam") + os.sep


class Reach:
    """The functions of Loam that are entered, test by test."""

    def __init__(self, folder):
        self.folder, self.tests, self._entered = Path(folder), {}, set()

    def trace(self, frame, event, _argument):
        """Note the function of a call; its lines are not followed."""
        if event == "call":
            self._entered.add(frame.f_code)

    @pytest.hookimpl(hookwrapper=True)
    def pytest_runtest_protocol(self, item):
        self._entered.clear()
        start = time.perf_counter()
        threading.settrace(self.trace)
        sys.settrace(self.trace)
        try:
            yield
        finally:
            sys.settrace(None)
            threading.settrace(None)
        ours = {
            f"{code.co_filename[len(SOURCE) :]}:{code.co_firstlineno}"
            for code in list(self._entered)
            if code.co_filename.startswith(SOURCE)
        }
        self.tests[item.nodeid] = [time.perf_counter() - start, sorted(ours)]

    def pytest_sessionfinish(self):
        if self.tests:
            path = self.folder / f"{os.getpid()}.json"
            path.write_text(json.dumps({"tests": self.tests}))


def pytest_configure(config):
    folder = os.environ.get("REACH")
    if folder:
        config.pluginmanager.register(Reach(folder))
