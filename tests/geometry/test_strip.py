import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pytest import approx

from tests.amount import times
from tests.geometry.defined import strip_levels
from zumbert.geometry.alignment import Alignment
from zumbert.geometry.elements import Straight
from zumbert.geometry.intersections import Intersection, elements_through
from zumbert.geometry.profile import Profile, Pvi
from zumbert.geometry.strip import LEVEL_ERROR, StripAt, strip_tins

FLAT = Profile([Pvi(0.0, 10.0), Pvi(100.0, 12.0)])
SECTION = StripAt(
    left=3.0,
    right=4.0,
    crossfall_left=-0.02,
    crossfall_right=-0.03,
    kerb=0.1,
    verge=2.0,
    verge_crossfall=0.05,
)


def test_levels_across_a_straight_strip():
    made = strip_tins(Alignment([Straight(0, 0, 0, 100)]), FLAT, [SECTION], 0.5)
    # at 50 m the profile is at 11.000; left 3 x -0.02, right 4 x -0.03, behind the kerb +0.1 and 5
    # % of 1 m
    x = np.array([0.0, -3.0, 4.0, 2.0, -4.0, 5.0, 6.001, -5.001])
    z = made.design.level(x, 50.0)
    assert z[:6].tolist() == approx([11.0, 10.94, 10.88, 10.94, 11.09, 11.03])
    assert np.isnan(z[6:]).all()
    assert made.formation.level([0.0, 4.0], [50.0, 50.0]).tolist() == approx([10.5, 10.38])
    assert np.isnan(made.formation.level(4.5, 50.0))


def test_a_kerb_without_a_verge_is_no_step_on_the_carriageway():
    bare = StripAt(
        left=3.0, right=4.0, crossfall_left=-0.02, crossfall_right=-0.03, kerb=0.1, verge=0.0
    )
    made = strip_tins(Alignment([Straight(0, 0, 0, 100)]), FLAT, [bare], 0.5)
    # 11.000 at 50 m; nothing is behind the kerb, so its edge is the carriageway's: 3 x -0.02, 4 x
    # -0.03
    assert made.design.level([-3.0, -2.999, 3.999, 4.0], 50.0).tolist() == approx(
        [10.94, 10.94002, 10.88003, 10.88]
    )
    assert np.isnan(made.design.level([-3.001, 4.001], 50.0)).all()


def test_where_alignment_and_profile_do_not_meet_there_is_no_strip():
    with pytest.raises(ValueError, match="no chainage in common"):
        strip_tins(Alignment([Straight(0, 0, 0, 100)], start=200.0), FLAT, [SECTION], 0.4)


@settings(max_examples=times(25), deadline=None)
@given(
    radius=st.floats(15, 400),
    clothoid=st.sampled_from([0.0, 20.0]),
    turn=st.sampled_from([-1, 1]),
    g=st.tuples(st.floats(-0.1, 0.1), st.floats(-0.1, 0.1)),
    curve=st.floats(10, 80),
    widths=st.tuples(st.floats(2, 5), st.floats(2, 8)),
    falls=st.tuples(st.floats(-0.04, 0.04), st.floats(-0.04, 0.04)),
)
def test_no_level_is_off_by_more_than_is_said(radius, clothoid, turn, g, curve, widths, falls):
    points = [
        Intersection(0, 0),
        Intersection(0, 600, radius, clothoid, clothoid),
        Intersection(turn * 600, 700),
    ]
    line = Alignment(elements_through(points))
    end = line.end - 1
    profile = Profile(
        [
            Pvi(0.0, 20.0),
            Pvi(end / 2, 20 + g[0] * end / 2, curve),
            Pvi(end, 20 + (g[0] + g[1]) * end / 2),
        ]
    )
    sections = [
        StripAt(
            chainage=100.0, left=widths[0], right=3.0, crossfall_left=falls[0], kerb=0.12, verge=1.5
        ),
        StripAt(
            chainage=300.0,
            left=3.0,
            right=widths[1],
            crossfall_right=falls[1],
            kerb=0.12,
            verge=1.5,
        ),
    ]
    made = strip_tins(line, profile, sections, 0.4)
    ch = np.linspace(1.0, end - 1.0, 1500)
    off = 6 * np.sin(np.arange(1500.0))
    want = strip_levels(profile, sections, ch, off)
    got = made.design.level(*line.point(ch, off))
    left, right = (
        np.interp(ch, [100, 300], [widths[0], 3.0]),
        np.interp(ch, [100, 300], [3.0, widths[1]]),
    )
    half = np.where(off < 0, left, right)
    # beside the kerb's face and the edge
    clear = (np.abs(np.abs(off) - half) > 0.02) & (np.abs(off) < half + 1.48)
    assert np.nanmax(np.abs(got - want)[clear]) < LEVEL_ERROR


@settings(max_examples=times(40), deadline=None)
@given(
    start=st.floats(-500, 5000),
    legs=st.lists(st.floats(25, 90), min_size=2, max_size=4),
    turns=st.lists(st.floats(-1.6, 1.6), min_size=3, max_size=3),
    g=st.floats(-0.08, 0.08),
    lower=st.floats(0, 20),
    upper=st.floats(0, 20),
    left=st.floats(2, 5),
    right=st.floats(2, 6),
)
def test_with_any_start_chainage_and_corners_no_level_is_off(
    start, legs, turns, g, lower, upper, left, right
):
    bearing, places = 0.3, [(1000.0, 2000.0)]
    for long, turn in zip(legs, turns, strict=False):
        x, y = places[-1]
        places.append((x + long * np.sin(bearing), y + long * np.cos(bearing)))
        bearing += turn
    line = Alignment.through(places, start)
    profile = Profile(
        [
            Pvi(start + lower, 20.0),
            Pvi(line.end - upper / 2, 20 + g * (line.length - lower - upper / 2)),
        ]
    )
    sections = [
        StripAt(
            left=left, right=right, crossfall_left=-0.03, crossfall_right=-0.02, kerb=0.1, verge=1.0
        )
    ]
    made = strip_tins(line, profile, sections, 0.4)
    low, high = start + lower, line.end - upper / 2
    x0, y0, x1, y1 = line.extents
    rng = np.random.default_rng(5)
    x, y = rng.uniform(x0 - 8, x1 + 8, 4000), rng.uniform(y0 - 8, y1 + 8, 4000)
    ch, off = line.project(x, y)
    want = strip_levels(profile, sections, ch, off)
    edge = np.where(off < 0, left, right)
    clear = (np.abs(np.abs(off) - edge) > 0.03) & (np.abs(np.abs(off) - edge - 1.0) > 0.03)
    clear &= (np.abs(ch - low) > 0.02) & (np.abs(ch - high) > 0.02)
    nodes = np.stack([np.hypot(x - a, y - b) for a, b in (places[0], places[-1])]).min(axis=0)
    clear &= nodes > 8.0  # beyond the ends no foot is told
    got = made.design.level(x, y)
    assert (np.isnan(got) == np.isnan(want))[clear].all()
    both = clear & ~np.isnan(want)
    assert np.abs(got - want)[both].max(initial=0.0) < LEVEL_ERROR
    ends = line.point(np.array([low + 1e-7, high - 1e-7]))
    assert not np.isnan(made.design.level(*ends)).any()  # its first and last metre are there


def test_a_strip_is_not_sheared_before_a_corner():
    line = Alignment.through([(0, 0), (0, 100), (100, 100)])
    made = strip_tins(line, Profile([Pvi(0.0, 10.0), Pvi(200.0, 30.0)]), [SECTION], 0.5)
    # 50 m along, 3 m left: 15.000 - 0.06; sheared along the whole straight it stood 1.5 m off its
    # chainage
    assert float(made.design.level(-3.0, 50.0)) == approx(14.94)
    # outside the corner itself is the foot: 4 m from it on the diagonal, 20.0 - 3 x 0.02 + 0.1 + 1
    # x 0.05
    assert float(made.design.level(-4 / np.sqrt(2), 100 + 4 / np.sqrt(2))) == approx(
        20.09, abs=LEVEL_ERROR
    )
    # inside, 2 m right of the first straight at 95 m: 19.5 - 0.06
    assert float(made.design.level(2.0, 95.0)) == approx(19.44)
