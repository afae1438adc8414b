from math import pi

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pytest import approx

from zumbert.demo.site import pieces
from zumbert.geometry.alignment import Alignment
from zumbert.geometry.clothoid import Clothoid, between_points
from zumbert.geometry.elements import Arc, Straight

ROAD = Alignment(
    pieces(500_000.0, 6_000_000.0, 115.0, ((40, 0), (100, -120.0), (95, 0), (105, 150.0), (80, 0))),
    100.0,
)


def test_offset_is_positive_to_the_right_looking_up_chainage():
    road = Alignment([Straight(0, 0, 100, 0)])  # going east: right is south
    assert [float(v) for v in road.point(25, 3)] == approx([25, -3])
    assert [float(v) for v in road.project(25, -3)] == approx([25, 3])


def test_a_quarter_circle_to_the_right():
    # centre (0, 0), from west (-10, 0) going north, turning right: after a quarter at (0, 10),
    # heading east
    road = Alignment([Arc(-10, 0, 0, 10, 0, 0, True)])
    assert road.length == approx(5 * pi)
    assert [float(v) for v in road.point(road.length, 0)] == approx([0, 10], abs=1e-9)
    assert float(road.bearing(road.length)) == approx(pi / 2)
    # right of north is east: nearer to the centre
    assert [float(v) for v in road.point(0, 2)] == approx([-8, 0])


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


@given(
    st.lists(st.tuples(st.floats(100.0, 520.0), st.floats(-108.0, 108.0)), min_size=1, max_size=40)
)
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


def spiralled(turn=1.0, radius=90.0):
    """Straight 40, clothoid 50 to a radius, arc 60, clothoid 30 to twice the radius, arc 40,
    clothoid 50 out, straight 30.
    """
    k = turn / radius
    out, x, y, b = [], 500_000.0, 6_000_000.0, 1.0
    for length, k0, k1 in (
        (40, 0, 0),
        (50, 0, k),
        (60, k, k),
        (30, k, k / 2),
        (40, k / 2, k / 2),
        (50, k / 2, 0),
        (30, 0, 0),
    ):
        piece = Clothoid(x, y, b, float(length), k0, k1)
        x, y, b = piece.x1, piece.y1, float(piece.bearing(np.array(float(length))))
        out.append(piece)
    return Alignment(out, 1000.0)


def test_a_clothoid_against_a_fine_sum():
    c = Clothoid(0.0, 0.0, 0.3, 120.0, 0.0, 1 / 60)  # turns by 1 rad
    t = (np.arange(2_000_000) + 0.5) / 2_000_000 * 120.0
    angle = 0.3 + t**2 / (2 * 120 * 60)
    assert [c.x1, c.y1] == approx(
        [np.sin(angle).mean() * 120, np.cos(angle).mean() * 120], abs=1e-9
    )
    # the first terms of the series: x along is L (1 - a²/10 + a⁴/216), across L (a/3 - a³/42), a =
    # 1 rad
    flat = Clothoid(0.0, 0.0, 0.0, 120.0, 0.0, 1 / 60)
    assert flat.y1 == approx(120 * (1 - 1 / 10 + 1 / 216 - 1 / 9360), abs=2e-3)
    assert flat.x1 == approx(120 * (1 / 3 - 1 / 42 + 1 / 1320), abs=2e-3)


def test_equal_curvatures_make_an_arc():
    arc = Arc(-10, 0, 0, 10, 0, 0, True)
    same = Clothoid(-10.0, 0.0, 0.0, arc.length, 0.1, 0.1)
    s = np.linspace(0, arc.length, 9)
    assert np.allclose(same.point(s, 0 * s + 1.5), arc.point(s, 0 * s + 1.5), atol=1e-9)


@given(
    st.sampled_from([1.0, -1.0]),
    st.lists(st.tuples(st.floats(1000.0, 1300.0), st.floats(-81.0, 81.0)), min_size=1, max_size=30),
)
def test_round_trip_over_spirals_up_to_nine_tenths_of_the_smallest_radius(turn, places):
    road = spiralled(turn)
    ch, off = np.array(places).T
    x, y = road.point(ch, off)
    back_ch, back_off = road.project(x, y)
    assert np.allclose(
        np.column_stack(road.point(back_ch, back_off)), np.column_stack([x, y]), atol=1e-3
    )
    assert (np.abs(back_off) <= np.abs(off) + 1e-6).all()
    same = np.abs(np.abs(back_off) - np.abs(off)) < 1e-6
    assert np.allclose(back_ch[same], ch[same], atol=1e-3)


def test_points_that_no_such_clothoid_spans_are_refused():
    with pytest.raises(ValueError, match="but its ends are 50.000 m apart"):
        between_points(0.0, 0.0, 50.0, 0.0, 60.0, 0.0, 0.01)
    c = between_points(10.0, 20.0, 10 + 30.0, 20 + 40.0, 50.0, 0.0, 0.0)
    assert [c.x1, c.y1] == approx([40.0, 60.0])


@given(
    st.lists(st.tuples(st.floats(-200, 200), st.floats(-200, 200)), min_size=6, max_size=30),
    st.floats(-300, 300),
    st.floats(-300, 300),
)
def test_elements_that_are_left_out_as_too_far_would_not_have_been_the_nearest(corners, x, y):
    try:
        line = Alignment.through(corners)
    except ValueError:
        return
    one = line.foot(x, y)
    # so many that every element is looked at
    many = line.foot(np.full(30_000, x), np.full(30_000, y))
    for a, b in zip(one, many, strict=True):
        assert np.array_equal(a, b[0], equal_nan=True)


def test_beyond_a_corner_sharper_than_a_right_angle_all_is_outside():
    line = Alignment.through([(0.0, 0.0), (0.0, 10.0), (4.0, 3.0)])  # it turns right by 150 degrees
    a = np.radians(np.linspace(-88.0, 58.0, 30))  # between the two normals, seen from the corner
    ch, off = line.project(3.0 * np.sin(a), 10.0 + 3.0 * np.cos(a))
    assert ch == approx(10.0) and off == approx(-3.0)
    ch, off = Alignment.through([(0.0, 0.0), (0.0, 10.0), (-4.0, 3.0)]).project(
        -3.0 * np.sin(a), 10.0 + 3.0 * np.cos(a)
    )
    assert ch == approx(10.0) and off == approx(3.0)
