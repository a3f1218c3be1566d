"""Every promise stands beside a test that exists."""

import re
from pathlib import Path

ROOT = Path(__file__).parents[2]


def test_every_promise_names_a_test_that_is_there():
    rows = [
        line
        for line in (ROOT / "docs" / "promises.md").read_text().splitlines()
        if (line.startswith("| ") and "::" in line) or line.endswith(".py` |")
    ]
    assert len(rows) > 40
    for row in rows:
        (named,) = re.findall(r"`([^`]+\.py(?:::\w+)?)` \|$", row)
        file, _, test = named.partition("::")
        text = (ROOT / "tests" / file).read_text()
        assert not test or re.search(rf"^def {test}\(", text, flags=re.M), named
