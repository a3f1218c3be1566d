"""What tests of the app layer share."""

import shutil

import pytest

from loam.app.session import Session
from loam.store.workshop import Workshop


@pytest.fixture
def session(tmp_path, demo_file):
    """A session on the demo."""
    path = tmp_path / "demo.loam"
    shutil.copy(demo_file, path)
    opened = Session(Workshop(path))
    yield opened
    opened.close()
