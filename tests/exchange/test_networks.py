"""Networks of LandXML taken into a project: where structures stand, and inverts that follow from
a slope.
"""

import pytest
from lxml import etree
from pytest import approx

from tests.build import road_project
from zumbert.exchange.landxml_networks import _pipe
from zumbert.exchange.taking.networks import _place
from zumbert.exchange.xmlparts import LARGEST, numbers
from zumbert.model.structure import Anchored, Free


def test_a_place_of_ours_comes_back_where_its_road_is_there():
    p = road_project()
    [road] = p.roads
    assert _place(p, "free 12.5 -3") == Free(12.5, -3.0)
    assert _place(p, "road 120 -2.5 Quillerby Rise") == Anchored(road, 120.0, -2.5)
    assert _place(p, "road 120 -2.5 Another") is None
    assert _place(p, "") is None


@pytest.mark.parametrize(
    ("inverts", "ends"),
    [
        ({"A": 48.0}, (48.0, 47.0)),
        ({"B": 47.0}, (48.0, 47.0)),
        ({"A": 48.0, "B": 46.5}, (48.0, 46.5)),
    ],
)
def test_an_invert_that_is_not_given_follows_from_slope_and_length(inverts, ends):
    text = (
        '<Pipe name="P" refStart="A" refEnd="B" slope="0.02" length="50"><CircPipe '
        'diameter="0.3"/></Pipe>'
    )
    found = _pipe(etree.fromstring(text), 1.0, 1.0, {(at, "P", ""): z for at, z in inverts.items()})
    assert (found.invert_up, found.invert_down) == (approx(ends[0]), approx(ends[1]))


def test_numbers_up_to_a_bound_are_taken():
    assert numbers(f"1 {LARGEST} -3") == [1.0, 1e12, -3.0]
    with pytest.raises(ValueError, match="larger"):
        numbers("1.1e12")
