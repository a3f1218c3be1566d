"""The short of a gauge study: good enough or not, who reads apart, how often to read."""

import pytest

from loam.core.gauge import Offset
from loam.core.words.gauge import gauge_verdict


def off(reader, middle, p):
    return Offset(reader, middle, middle - 0.1, middle + 0.1, 10, p)


@pytest.mark.parametrize(
    ("needed", "starts", "ends"),
    [
        (3, "Glim is good enough.", "Read each cell 3 times."),
        (8, "Glim is coarse for 1.0 GU.", "Read each cell 8 times."),
        (12, "Glim is too coarse to tell 1.0 GU apart.", "Read each cell twelve times or more."),
    ],
)
def test_what_a_meter_is_good_for(needed, starts, ends):
    said = gauge_verdict("Glim", needed, "1.0 GU", [off("Tam", -0.3, 0.5)], "GU")
    assert said == f"{starts} They agree. {ends}"


def test_who_reads_apart_is_named_the_furthest_first():
    apart = [off("Ivo", 0.2, 1e-4), off("Tam", -0.43, 1e-6), off("Lise", 0.1, 0.4)]
    said = gauge_verdict("", 3, "1.0 GU", apart, "GU")
    assert said.startswith("The meter is good enough. Tam reads 0.4 GU low; Ivo reads 0.2 GU high.")
    assert "Lise" not in said
    alike = [off("Ivo", 0.22, 1e-4), off("Tam", -0.43, 1e-6), off("Lise", 0.21, 1e-3)]
    said = gauge_verdict("Glim", 3, "1.0 GU", alike, "GU")
    assert "Tam reads 0.4 GU low; Ivo and Lise read 0.2 GU high." in said, "nobody is passed over"
