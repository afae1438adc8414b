from math import pi

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from pytest import approx

from zumbert.demo.make import pieces
from zumbert.geometry.alignment import Alignment
from zumbert.geometry.elements import Arc, Straight

ROAD = Alignment(pieces(500_000.0, 6_000_000.0, 115.0, ((40, 0), (100, -120.0), (95, 0), (105, 150.0), (80, 0))), 100.0)


def test_offset_is_positive_to_the_right_looking_up_chainage():
    road = Alignment([Straight(0, 0, 100, 0)])  # going east: right is south
    assert [float(v) for v in road.point(25, 3)] == approx([25, -3])
    assert [float(v) for v in road.project(25, -3)] == approx([25, 3])


def test_a_quarter_circle_to_the_right():
    # centre (0, 0), from west (-10, 0) going north, turning right: after a quarter at (0, 10), heading east
    road = Alignment([Arc(-10, 0, 0, 10, 0, 0, True)])
    assert road.length == approx(5 * pi)
    assert [float(v) for v in road.point(road.length, 0)] == approx([0, 10], abs=1e-9)
    assert float(road.bearing(road.length)) == approx(pi / 2)
    assert [float(v) for v in road.point(0, 2)] == approx([-8, 0])  # right of north is east: nearer to the centre


def test_beyond_the_ends_there_is_no_chainage():
    road = Alignment([Straight(0, 0, 100, 0)], 1000.0)
    ch, off = road.project([-0.01, 0.0, 100.0, 100.01], [5.0, 5.0, 5.0, 5.0])
    assert np.isnan(ch).tolist() == [True, False, False, True]
    assert np.isnan(off).tolist() == [True, False, False, True]
    assert ch[1:3].tolist() == [1000.0, 1100.0]
    assert np.isnan(road.point(999.0, 0.0)[0])


def test_the_distance_to_a_road_is_known_beyond_its_ends():
    _, _, far = Alignment([Straight(0, 0, 100, 0)]).foot(103.0, 4.0)
    assert float(far) == approx(5.0)


@given(st.lists(st.tuples(st.floats(100.0, 520.0), st.floats(-108.0, 108.0)), min_size=1, max_size=40))
def test_round_trip_within_a_millimetre_up_to_nine_tenths_of_the_smallest_radius(places):
    ch, off = np.array(places).T
    x, y = ROAD.point(ch, off)
    back_ch, back_off = ROAD.project(x, y)
    again = np.column_stack(ROAD.point(back_ch, back_off))
    assert np.hypot(*(again - np.column_stack([x, y])).T).max() < 1e-3
    nearer = np.abs(back_off) < np.abs(off) - 1e-6  # another foot may be nearer, never farther
    assert (np.abs(back_off) <= np.abs(off) + 1e-6).all()
    assert np.allclose(back_ch[~nearer], ch[~nearer], atol=1e-3)


def test_a_corner_serves_as_foot_in_its_outer_wedge():
    road = Alignment.through([(0, 0), (10, 0), (10, 10)])  # turns left at (10, 0)
    ch, off = road.project(13.0, -4.0)
    assert float(ch) == approx(10.0)
    assert float(off) == approx(5.0)  # outside of a left turn is the right side


def test_polyline_leaves_an_arc_by_a_centimetre_at_most():
    ch = ROAD.polyline(step=50.0)
    x, y = ROAD.point(ch, 0.0)
    mx, my = ROAD.point((ch[1:] + ch[:-1]) / 2, 0.0)
    gap = np.hypot((x[1:] + x[:-1]) / 2 - mx, (y[1:] + y[:-1]) / 2 - my)
    assert 0.005 < gap.max() < 0.0101
