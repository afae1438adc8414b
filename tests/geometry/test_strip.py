import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pytest import approx

from zumbert.geometry.alignment import Alignment
from zumbert.geometry.elements import Straight
from zumbert.geometry.intersections import Intersection, elements_through
from zumbert.geometry.profile import Profile, Pvi
from zumbert.geometry.strip import LEVEL_ERROR, StripAt, strip_levels, strip_tins

FLAT = Profile([Pvi(0.0, 10.0), Pvi(100.0, 12.0)])
SECTION = StripAt(
    left=3.0, right=4.0, crossfall_left=-0.02, crossfall_right=-0.03, kerb=0.1, verge=2.0, verge_crossfall=0.05
)


def test_levels_across_a_straight_strip():
    made = strip_tins(Alignment([Straight(0, 0, 0, 100)]), FLAT, [SECTION], 0.5)
    # at 50 m the profile is at 11.000; left 3 x -0.02, right 4 x -0.03, behind the kerb +0.1 and 5 % of 1 m
    x = np.array([0.0, -3.0, 4.0, 2.0, -4.0, 5.0, 6.001, -5.001])
    z = made.design.level(x, 50.0)
    assert z[:6].tolist() == approx([11.0, 10.94, 10.88, 10.94, 11.09, 11.03])
    assert np.isnan(z[6:]).all()
    assert made.formation.level([0.0, 4.0], [50.0, 50.0]).tolist() == approx([10.5, 10.38])
    assert np.isnan(made.formation.level(4.5, 50.0))


def test_where_alignment_and_profile_do_not_meet_there_is_no_strip():
    with pytest.raises(ValueError, match="no chainage in common"):
        strip_tins(Alignment([Straight(0, 0, 0, 100)], start=200.0), FLAT, [SECTION], 0.4)


@settings(max_examples=25, deadline=None)
@given(
    radius=st.floats(15, 400), clothoid=st.sampled_from([0.0, 20.0]), turn=st.sampled_from([-1, 1]),
    g=st.tuples(st.floats(-0.1, 0.1), st.floats(-0.1, 0.1)), curve=st.floats(10, 80),
    widths=st.tuples(st.floats(2, 5), st.floats(2, 8)), falls=st.tuples(st.floats(-0.04, 0.04), st.floats(-0.04, 0.04)),
)  # fmt: skip
def test_no_level_is_off_by_more_than_is_said(radius, clothoid, turn, g, curve, widths, falls):
    points = [Intersection(0, 0), Intersection(0, 600, radius, clothoid, clothoid), Intersection(turn * 600, 700)]
    line = Alignment(elements_through(points))
    end = line.end - 1
    profile = Profile(
        [Pvi(0.0, 20.0), Pvi(end / 2, 20 + g[0] * end / 2, curve), Pvi(end, 20 + (g[0] + g[1]) * end / 2)]
    )
    sections = [
        StripAt(chainage=100.0, left=widths[0], right=3.0, crossfall_left=falls[0], kerb=0.12, verge=1.5),
        StripAt(chainage=300.0, left=3.0, right=widths[1], crossfall_right=falls[1], kerb=0.12, verge=1.5),
    ]
    made = strip_tins(line, profile, sections, 0.4)
    ch = np.linspace(1.0, end - 1.0, 1500)
    off = 6 * np.sin(np.arange(1500.0))
    want = strip_levels(profile, sections, ch, off)
    got = made.design.level(*line.point(ch, off))
    left, right = np.interp(ch, [100, 300], [widths[0], 3.0]), np.interp(ch, [100, 300], [3.0, widths[1]])
    half = np.where(off < 0, left, right)
    clear = (np.abs(np.abs(off) - half) > 0.02) & (np.abs(off) < half + 1.48)  # beside the kerb's face and the edge
    assert np.nanmax(np.abs(got - want)[clear]) < LEVEL_ERROR
