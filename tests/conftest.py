"""Settings for every test."""

import os

import pytest
from hypothesis import HealthCheck, settings

settings.register_profile("loam", deadline=None, max_examples=30, derandomize=True)
explored = int(os.environ.get("EXPLORE", "0"))
"""Examples a property, drawn anew each time; 0 for the same few (`./run attack properties`)."""
if explored:
    settings.register_profile(
        "explore",
        deadline=None,
        max_examples=explored,
        print_blob=True,
        suppress_health_check=[HealthCheck.too_slow],
    )
settings.load_profile("explore" if explored else "loam")


@pytest.fixture(scope="session")
def terminals():
    """Skip what simulated meters are needed for where there are no pseudo-terminals."""
    try:
        ours, theirs = os.openpty()
    except OSError as error:
        pytest.skip(f"there are no pseudo-terminals here: {error}")
    os.close(ours)
    os.close(theirs)


@pytest.fixture(scope="session")
def demo_file(tmp_path_factory):
    """The demo workshop, made once; tests work on copies of it."""
    from loam.demo.scenario import make_demo

    path = tmp_path_factory.mktemp("demo") / "demo.loam"
    make_demo(path)
    return path
