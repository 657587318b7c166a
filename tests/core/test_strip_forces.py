"""Forces of strips at stations, by case, combination, arrangement and over a limit state."""

import numpy as np
import pytest

from piastra.core.model import floor_from
from piastra.core.readings.reading import Chosen, UnknownReadingError
from piastra.core.readings.responses import responses_of
from piastra.core.readings.strips import along_strip
from piastra.exchange.responses_file import packed, unpacked
from tests.floors import spans
from tests.solving import solve_floor

L = 6.0


@pytest.fixture(scope="module")
def three():
    """Three spans, read back from the file of the run: under 1 kPa live load, and half of it in service."""
    data = spans(3)
    data["combinations"].append({"id": "F", "limit_state": "ultimate", "factors": {"Q": 0.5}})
    data["combinations"].append({"id": "C", "limit_state": "characteristic", "factors": {"Q": 0.1}})
    return unpacked(packed(responses_of(solve_floor(floor_from(data)))))


def strips(r):
    return [k for k in r.strips.labels if k.startswith("x")]


def test_envelopes_of_three_spans(three):
    """q L2 x (3/40 mid, -1/60 least mid; end span's 0.1 near its middle; -7/60 over a support), shear 37/60 q L at most beside the support."""
    end, middle, _ = (along_strip(three, k, "M", None, "ultimate") for k in strips(three))
    assert middle.unit == "kNm"
    at = int(np.abs(middle.s - 1.5 * L).argmin())
    assert middle.greatest[at] == pytest.approx(3 / 40 * L**2, rel=5e-3)
    assert middle.least[at] == pytest.approx(-1 / 20 * L**2, rel=5e-3)
    assert set(middle.greatest_of) == {"U"}
    assert middle.low.value == pytest.approx(-7 / 60 * L**2, rel=0.02)
    assert {p.panel for p in middle.low.panels} in ({"P0", "P1"}, {"P1", "P2"})
    V = along_strip(three, strips(three)[0], "V", None, "ultimate")
    # Loads act at the nodes: that of half an element of 0.5 m goes straight into the support.
    assert max(abs(V.low.value), abs(V.high.value)) == pytest.approx(37 / 60 * L, abs=0.25)
    assert end.greatest[int(np.abs(end.s - L / 2).argmin())] == pytest.approx(0.1 * L**2, rel=5e-3)
    service = along_strip(three, strips(three)[1], "M", None, "characteristic")
    assert service.greatest == pytest.approx(0.1 * middle.greatest, rel=1e-6)
    assert set(service.least_of) == {"C"}


def test_one_case_combination_and_arrangement(three):
    first, middle, last = strips(three)

    def at_middle(*how):
        found = along_strip(three, middle, "M", Chosen(*how))
        k = int(np.abs(found.s - 1.5 * L).argmin())
        return found.least[k], found.greatest[k]

    # All spans loaded: q L2/40 in the middle; half of it by the other combination; end spans alone lift it.
    assert at_middle("U") == pytest.approx((L**2 / 40,) * 2, rel=0.02)
    assert at_middle("F") == pytest.approx((L**2 / 80,) * 2, rel=0.02)
    assert at_middle("Q", "envelope") == pytest.approx((-(L**2) / 20, 3 / 40 * L**2), rel=5e-3)
    assert at_middle("U", "arrangement", "P0,P2") == pytest.approx((-(L**2) / 20,) * 2, rel=5e-3)
    assert at_middle("U", "greatest") == pytest.approx((3 / 40 * L**2,) * 2, rel=5e-3)
    assert at_middle("U", "least") == pytest.approx((-(L**2) / 20,) * 2, rel=5e-3)
    found = along_strip(three, middle, "M", Chosen("U", "arrangement", "P0,P2"))
    assert {p.panel for p in found.low.panels} == {"P0", "P2"}
    # The mirrored floor: moments alike, shear with the other sign.
    a, b = (along_strip(three, k, "M", Chosen("U")) for k in (first, last))
    assert b.greatest[::-1] == pytest.approx(a.greatest, rel=1e-3, abs=1e-3)
    a, b = (along_strip(three, k, "V", Chosen("U")) for k in (first, last))
    # Loads act at the nodes: at a station between two the load of one element of 0.5 m may lie to either side.
    assert b.greatest[::-1] == pytest.approx(-a.greatest, abs=0.5)


def test_what_is_not_there_is_told(three):
    for strip, effect, chosen, state in (
        ("none", "M", None, "ultimate"), (strips(three)[0], "Q", None, "ultimate"), (strips(three)[0], "M", None, "sustained"),
        (strips(three)[0], "M", Chosen("X"), None), (strips(three)[0], "M", Chosen("U", "loudest"), None), (strips(three)[0], "M", Chosen("U", "arrangement", "P9"), None),
    ):  # fmt: skip
        with pytest.raises(UnknownReadingError):
            along_strip(three, strip, effect, chosen, state)
