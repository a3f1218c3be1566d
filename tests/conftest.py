"""Settings for every test."""

import pytest
from hypothesis import settings

settings.register_profile("loam", deadline=None, max_examples=30, derandomize=True)
settings.load_profile("loam")


@pytest.fixture(scope="session")
def demo_file(tmp_path_factory):
    """The demo workshop, made once; tests work on copies of it."""
    from loam.demo.scenario import make_demo

    path = tmp_path_factory.mktemp("demo") / "demo.loam"
    make_demo(path)
    return path
