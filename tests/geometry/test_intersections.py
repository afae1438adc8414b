import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from pytest import approx

from zumbert.geometry.alignment import Alignment
from zumbert.geometry.clothoid import Clothoid
from zumbert.geometry.elements import Arc, Straight
from zumbert.geometry.intersections import (
    Intersection,
    elements_through,
    intersections_of,
    pieces_through,
)


def test_an_arc_between_two_tangents():
    # a turn of 90° with radius 50: tangents of 50 m, an arc of 78.540 m
    made = elements_through(
        [Intersection(0, 0), Intersection(0, 200, 50.0), Intersection(200, 200)]
    )
    assert [type(e) for e in made] == [Straight, Arc, Straight]
    assert [e.length for e in made] == approx([150.0, 25 * np.pi, 150.0])
    assert (made[1].xc, made[1].yc, made[1].clockwise) == (approx(50.0), approx(150.0), True)


def test_a_curve_with_two_clothoids_joins_both_tangents_smoothly():
    made = elements_through(
        [Intersection(0, 0), Intersection(200, 0, 80.0, 40.0, 25.0), Intersection(320, -150)]
    )
    assert [type(e) for e in made] == [Straight, Clothoid, Arc, Clothoid, Straight]
    for a, b in zip(made, made[1:], strict=False):
        assert (b.x0, b.y0) == (approx(a.x1, abs=1e-6), approx(a.y1, abs=1e-6))
        turn = float(b.bearing(np.array(0.0)) - a.bearing(np.array(a.length)))
        assert (turn + np.pi) % (2 * np.pi) - np.pi == approx(0, abs=1e-9)
    assert (made[-1].x1, made[-1].y1) == (320, -150)


def test_a_radius_of_nothing_leaves_a_corner():
    made = elements_through([Intersection(0, 0), Intersection(10, 0), Intersection(10, 10)])
    assert [e.length for e in made] == [10.0, 10.0]


@pytest.mark.parametrize(
    ("points", "words"),
    [
        ([Intersection(0, 0)], "at least two points"),
        ([Intersection(0, 0), Intersection(0, 0)], "points 1 and 2 are one place"),
        (
            [Intersection(0, 0), Intersection(10, 0, 20.0), Intersection(10, 10)],
            "points 1 and 2 need 10.00 m more",
        ),
        (
            [Intersection(0, 0), Intersection(100, 0, 20.0, 40.0, 40.0), Intersection(100, 100)],
            "turn more than the road",
        ),
        (
            [Intersection(0, 0), Intersection(100, 0, 20.0), Intersection(0, 0.0001)],
            "turns back on itself",
        ),
    ],
)
def test_what_does_not_fit_is_told(points, words):
    with pytest.raises(ValueError, match=words):
        elements_through(points)


turns = st.floats(-1.9, 1.9).filter(lambda a: abs(a) > 0.05)
curve = st.tuples(
    turns, st.floats(20, 300), st.sampled_from([0.0, 10.0, 25.0]), st.sampled_from([0.0, 15.0])
)


@given(st.lists(curve, min_size=1, max_size=4), st.floats(0, 6.2))
def test_points_of_an_alignment_give_it_again(curves, bearing):
    assume(sum(abs(turn) for turn, *_ in curves) < 2.8)  # a road that crosses itself has two feet
    x, y, points = 4000.0, 9000.0, [Intersection(4000.0, 9000.0)]
    for turn, radius, a, b in curves:
        x, y = x + 1500 * np.sin(bearing), y + 1500 * np.cos(bearing)
        fits = (a + b) / (2 * radius) < abs(turn) - 0.01
        points.append(
            Intersection(float(x), float(y), radius, a if fits else 0.0, b if fits else 0.0)
        )
        bearing += turn
    points.append(
        Intersection(float(x + 1500 * np.sin(bearing)), float(y + 1500 * np.cos(bearing)))
    )
    made = elements_through(points)
    back = intersections_of(made)
    assert len(back) == len(points)
    for p, q in zip(points, back, strict=True):
        assert (q.x, q.y, q.radius) == (
            approx(p.x, abs=1e-4),
            approx(p.y, abs=1e-4),
            approx(p.radius, abs=1e-4),
        )
        assert (q.clothoid_in, q.clothoid_out) == (approx(p.clothoid_in), approx(p.clothoid_out))
    line = Alignment(made)
    ch = np.linspace(line.start, line.end, 50)
    off = 0.9 * min(p.radius for p in points[1:-1]) * np.sin(ch)
    got = line.point(*line.project(*line.point(ch, off)))
    np.testing.assert_allclose(np.hypot(*(np.array(got) - line.point(ch, off)))[1:-1], 0, atol=1e-3)


def test_curves_of_several_radii_are_told_apart():
    compound = (Arc(0, 0, 10, 10, 10, 0, True), Arc(10, 10, 30, -10, 10, -10, True))
    with pytest.raises(ValueError, match="several radii"):
        intersections_of(compound)


@pytest.mark.parametrize("turn", [20.0, 34.9, 35.1])
def test_a_drawn_arc_far_from_the_origin_is_one_where_its_steps_turn_by_less_than_35_degrees(turn):
    a = np.radians(turn) * np.arange(6)
    xy = np.column_stack([400_000 + 30 * np.cos(a), 900_000 + 30 * np.sin(a)])
    pieces = pieces_through(xy)
    if turn > 35:
        assert len(pieces) == 5 and all(isinstance(p, Straight) for p in pieces)
        return
    [arc] = pieces
    assert isinstance(arc, Arc) and not arc.clockwise
    assert (arc.xc, arc.yc, arc.radius) == (
        approx(400_000, abs=1e-3),
        approx(900_000, abs=1e-3),
        approx(30.0, abs=1e-3),
    )
