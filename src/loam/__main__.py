"""Where everything is put together: paths, workshop, session, window."""

from __future__ import annotations

import sys


def main(arguments: list[str] | None = None) -> int:
    """Run Loam and return its exit status."""
    given = sys.argv[1:] if arguments is None else arguments
    if given:
        from loam.app.headless import DOORS, run

        if given[0] in DOORS:
            return run(given[0], given[1:])
    from loam.ui.start import start

    return start(given)


if __name__ == "__main__":
    sys.exit(main())
