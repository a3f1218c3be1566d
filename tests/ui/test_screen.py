"""The program under a virtual screen: the real platform plug-in, the real start."""

import os
import signal
import subprocess
import sys

import pytest

from helpers.reference import ROOT

SRC = ROOT.parent.parent / "src"
SCRIPT = """
import sys
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from loam.ui.window import MainWindow
from loam.ui.start import start

def look():
    window = next((w for w in QApplication.topLevelWidgets() if isinstance(w, MainWindow)), None)
    if window is None or window.jobs.busy or not window.views["judge"].rankings:
        QTimer.singleShot(20, look)
        return
    print(QApplication.platformName())
    print(window.views["judge"].sentence.text())
    QTest.mouseClick(window.path.steps["read"], Qt.MouseButton.LeftButton)
    print(window.view.step)
    window.close()

application = QApplication(sys.argv)
QTimer.singleShot(0, look)
sys.exit(start(["--demo"]))
"""


@pytest.fixture
def screen():
    """Start a virtual screen on a free display."""
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1400x900x24", "-nolisten", "tcp"],
        pass_fds=[write],
        stderr=subprocess.DEVNULL,
    )
    os.close(write)
    with os.fdopen(read) as told:
        number = told.readline().strip()
    yield f":{number}"
    server.terminate()
    server.wait()


@pytest.mark.xvfb
def test_the_demo_starts_on_a_screen_and_closes(screen, tmp_path):
    done = subprocess.run(
        [sys.executable, "-c", SCRIPT],
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
        env={
            **os.environ,
            "PYTHONPATH": str(SRC),
            "DISPLAY": screen,
            "QT_QPA_PLATFORM": "xcb",
            "XDG_DATA_HOME": str(tmp_path),
            "HOME": str(tmp_path),
        },
    )
    lines = done.stdout.splitlines()
    assert done.returncode == 0, done.stderr
    assert lines[0] == "xcb"
    assert lines[1].startswith("Hard: too close to call between B")
    assert lines[2] == "read"
    assert (tmp_path / "loam" / "demo.loam").exists()


def test_without_a_screen_it_runs_all_the_same_and_can_be_ended(tmp_path):
    bare = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY")}
    bare.pop("QT_QPA_PLATFORM", None)
    loam = subprocess.Popen(
        [sys.executable, "-m", "loam", "--demo"],
        stderr=subprocess.PIPE,
        text=True,
        env={**bare, "PYTHONPATH": str(SRC), "XDG_DATA_HOME": str(tmp_path)},
    )
    assert "no screen found" in loam.stderr.readline()
    assert loam.poll() is None
    loam.send_signal(signal.SIGINT)
    assert loam.wait(timeout=60) == -signal.SIGINT
    loam.stderr.close()
