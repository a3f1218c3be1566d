"""Write docs/keys.md: the keys of every view, as they are declared there."""

import sys
import tempfile
from datetime import datetime
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src")]

from PyQt6.QtWidgets import QApplication  # noqa: E402

from loam.demo.scenario import make_demo  # noqa: E402
from loam.store.workshop import Workshop  # noqa: E402
from loam.ui.keys_page import keys_page  # noqa: E402
from loam.ui.start import make_window  # noqa: E402


def main():
    """Write the page."""
    application = QApplication([])
    with tempfile.TemporaryDirectory() as place:
        path = Path(place) / "demo.loam"
        make_demo(path)
        workshop = Workshop(path, clock=lambda: datetime(2026, 9, 26, 14, 2, 11))
        window = make_window(application, workshop)
        window.resize(1280, 800)
        window.show()
        (ROOT / "docs" / "keys.md").write_text(keys_page(window, settle(application, window)))
        window.close()
        window.session.close()


def settle(application, window):
    """Return what waits until nothing is left to do."""

    def wait():
        while window.jobs.busy:
            application.processEvents()
        application.processEvents()

    return wait


if __name__ == "__main__":
    main()
