"""Where everything is put together: what other packages bring, paths, workshop, session, window."""

from __future__ import annotations

import sys

MORE = {
    "measurands": "loam.core.readings",
    "machines": "loam.core.machines",
    "meters": "loam.devices.meter",
}
"""What other packages may bring, as entry points `loam.…`, and where it stands with what ships."""


def bring_more() -> None:
    """Let what other packages bring stand with what ships, before anything builds on it.

    What cannot is said, and left out.
    """
    from importlib import import_module
    from importlib.metadata import entry_points

    for group, module in MORE.items():
        for entry in entry_points(group=f"loam.{group}"):
            try:
                import_module(module).add(entry.load())
            except Exception as error:
                print(f"loam: {entry.value} ({group}) was left out: {error}", file=sys.stderr)


def main(arguments: list[str] | None = None) -> int:
    """Run Loam and return its exit status."""
    given = sys.argv[1:] if arguments is None else arguments
    if "loam.core.readings" not in sys.modules:
        bring_more()
    if given:
        from loam.app.headless import DOORS, run

        if given[0] in DOORS:
            return run(given[0], given[1:])
    from loam.ui.start import start

    return start(given)


if __name__ == "__main__":
    sys.exit(main())
