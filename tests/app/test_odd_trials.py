"""Small and odd trials, forty from their seeds (thousands in `./run attack`): every presenter,
report and door has an answer or one line that says what it takes, and no two of them differ."""

import pytest

from helpers.drive import Driven
from helpers.odd_trials import odd_trial
from loam.core import drivers


@pytest.fixture(autouse=True)
def few_draws(monkeypatch):
    monkeypatch.setattr(drivers, "KEPT", 20)
    monkeypatch.setattr(drivers, "WARM", 30)


FELL = (1219, 1266)
"""Seeds that once fell: starts that do not scatter at all."""


@pytest.mark.parametrize("seed", [*range(40), *FELL])
def test_nothing_fails_is_silent_or_contradicts_itself(seed, tmp_path):
    odd = odd_trial(seed)
    driven = Driven(odd.draft, tmp_path)
    try:
        faults = driven.everything()
    finally:
        driven.close()
    assert not faults, (odd.how, faults)
