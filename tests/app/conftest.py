"""What tests of the app layer share."""

import pytest

from loam.app.session import Session
from loam.demo.scenario import make_demo
from loam.store.workshop import Workshop


@pytest.fixture
def session(tmp_path):
    """A session on the demo."""
    path = tmp_path / "demo.loam"
    make_demo(path)
    opened = Session(Workshop(path))
    yield opened
    opened.close()
