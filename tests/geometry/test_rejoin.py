import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from tests.amount import times
from zumbert.geometry.alignment import Alignment
from zumbert.geometry.clothoid import Clothoid, between_points
from zumbert.geometry.elements import Arc, Straight
from zumbert.geometry.intersections import Intersection, elements_through
from zumbert.geometry.rejoin import joined, tangent


def as_written(pieces, digits=3):
    """The pieces read from coordinates with three decimals."""
    r = lambda v: round(v, digits)  # noqa: E731
    out = []
    for p in pieces:
        if isinstance(p, Straight):
            out.append(Straight(r(p.x0), r(p.y0), r(p.x1), r(p.y1)))
        elif isinstance(p, Arc):
            out.append(Arc(r(p.x0), r(p.y0), r(p.x1), r(p.y1), r(p.xc), r(p.yc), p.clockwise))
        else:
            out.append(between_points(r(p.x0), r(p.y0), r(p.x1), r(p.y1), r(p.length), p.k0, p.k1))
    return out


@settings(max_examples=times(40), deadline=None)
@given(
    legs=st.lists(st.floats(120, 400), min_size=3, max_size=6),
    turns=st.lists(st.floats(0.15, 1.0), min_size=5, max_size=5),
    sides=st.lists(st.sampled_from([-1, 1]), min_size=5, max_size=5),
    radius=st.floats(30, 200),
    clothoid=st.sampled_from([0.0, 20.0]),
)
def test_station_and_offset_lead_back_to_their_place_on_alignments_read_from_millimetres(
    legs, turns, sides, radius, clothoid
):
    bearing, x, y = 0.4, 4000.0, 9000.0
    points = [Intersection(x, y)]
    for long, turn, side in zip(legs, turns, sides, strict=False):
        x, y = x + long * np.sin(bearing), y + long * np.cos(bearing)
        points.append(Intersection(x, y, radius, clothoid, clothoid))
        bearing += side * turn
    points[-1] = replace(points[-1], radius=0.0, clothoid_in=0.0, clothoid_out=0.0)
    try:
        exact = elements_through(points)
    except ValueError:
        assume(False)
    line, true = Alignment(tangent(joined(as_written(exact))[0])), Alignment(exact)
    ch = np.linspace(line.start + 0.5, line.end - 0.5, 900)
    off = 15.0 * np.sin(np.arange(900.0))
    px, py = line.point(ch, off)
    s, o = line.project(px, py)
    assert np.nanmax(np.hypot(s - ch, o - off)) < 1e-3 and not np.isnan(s).any()
    _, beside = true.project(*line.point(ch, 0.0))
    assert np.nanmax(np.abs(beside)) < 0.006  # and it lies where the file says


def test_a_corner_and_a_compound_curve_stay_as_they_are():
    corner = (Straight(0, 0, 0, 100), Straight(0, 100, 100, 100))
    assert tangent(corner) == corner
    compound = (
        Straight(0.0, -50.0, 0.0, 0.0),
        Arc(0.0, 0.0, 50.0, 50.0, 50.0, 0.0, True),
        Arc(50.0, 50.0, 80.0, 20.0, 50.0, 20.0, True),
    )
    assert tangent(compound) == compound


def test_joining_keeps_radius_and_ends():
    arc = Arc(0.01, 100.0, 50.0, 150.0, 50.0, 100.0, True)
    whole, gap = joined(
        [Straight(0, 0, 0, 100), arc, Clothoid(50.004, 150.0, 1.0, 30.0, 0.02, 0.0)]
    )
    assert gap == np.float64(0.01) or abs(gap - 0.01) < 1e-12
    assert (whole[1].x0, whole[1].y0, whole[1].x1, whole[1].y1) == (0.0, 100.0, 50.0, 150.0)
    assert abs(whole[1].radius - arc.radius) < 1e-9
    assert (
        abs(np.hypot(whole[1].x1 - whole[1].xc, whole[1].y1 - whole[1].yc) - whole[1].radius) < 1e-9
    )
    assert (whole[2].x0, whole[2].y0) == (50.0, 150.0)
