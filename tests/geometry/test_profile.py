import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pytest import approx

from zumbert.geometry.profile import Profile, Pvi

# PVI (200, 50.000), g1 = +2 %, g2 = -1 %, L = 80
CREST = Profile([Pvi(100, 48.0), Pvi(200, 50.0, 80.0), Pvi(300, 49.0)])


def test_the_worked_parabola():
    assert CREST.level([160, 200, 240]).tolist() == approx([49.200, 49.700, 49.600])
    assert float(CREST.level(213.3333333)) == approx(49.7333, abs=5e-5)
    [(at, kind)] = CREST.turning_points()
    assert kind == "crest"
    assert at == approx(213.333, abs=5e-4)


def test_grades():
    assert CREST.grade([120, 200, 280]).tolist() == approx([0.02, 0.005, -0.01])


def test_beyond_its_ends_it_has_no_level():
    assert np.isnan(CREST.level([99.9, 300.1])).all()


def test_a_low_point_is_where_it_turns_from_falling_to_rising():
    sag = Profile([Pvi(0, 10.0), Pvi(100, 9.0, 40.0), Pvi(200, 11.0)])  # -1 %, +2 %
    [(at, kind)] = sag.turning_points()
    assert (at, kind) == (approx(80 + 40 / 3), "low")


@pytest.mark.parametrize(
    ("pvis", "words"),
    [
        ([Pvi(0, 1.0)], "two points"),
        ([Pvi(0, 1.0), Pvi(0, 2.0)], "rise"),
        ([Pvi(0, 1.0), Pvi(50, 2.0, 60.0), Pvi(100, 2.0, 60.0), Pvi(200, 3.0)], "overlap"),
    ],
)
def test_nonsense_is_refused(pvis, words):
    with pytest.raises(ValueError, match=words):
        Profile(pvis)


@given(st.floats(-0.1, 0.1), st.floats(-0.1, 0.1), st.floats(1.0, 99.0))
def test_level_and_grade_agree_and_nothing_jumps(g1, g2, long):
    p = Profile([Pvi(0, 10.0), Pvi(100, 10 + 100 * g1, long), Pvi(200, 10 + 100 * g1 + 100 * g2)])
    ch = np.linspace(0.5, 199.5, 797)
    step = 1e-4
    slope = (p.level(ch + step) - p.level(ch - step)) / (2 * step)
    assert np.abs(slope - p.grade(ch)).max() < 1e-3


CURVES = st.sampled_from([{}, {"ahead": 0.3}, {"radius": 1.0}])


@given(st.floats(-0.08, 0.08), st.floats(-0.08, 0.08), st.floats(5.0, 90.0), CURVES)
def test_every_kind_of_curve_is_smooth_and_touches_its_tangents(g1, g2, long, kind):
    if abs(g2 - g1) < 1e-3:
        return
    more = (
        {"ahead": long * 0.3}
        if "ahead" in kind
        else {"radius": long / abs(g2 - g1)}
        if "radius" in kind
        else {}
    )
    p = Profile(
        [
            Pvi(0, 10.0),
            Pvi(100, 10 + 100 * g1, 0.0 if "radius" in kind else long, **more),
            Pvi(200, 10 + 100 * (g1 + g2)),
        ]
    )
    begin, end = 100 - p.before[1], 100 + p.beyond[1]
    assert float(p.level(begin)) == approx(10 + g1 * begin)
    assert float(p.level(end)) == approx(10 + 100 * g1 + g2 * (end - 100))
    ch = np.linspace(0.5, 199.5, 500)
    slope = (p.level(ch + 1e-4) - p.level(ch - 1e-4)) / 2e-4
    assert np.abs(slope - p.grade(ch)).max() < 1e-3
    for at, _ in p.turning_points():
        assert float(p.grade(at)) == approx(0.0, abs=1e-9)


def test_an_unsymmetric_parabola():
    # g1 -2 %, g2 +3 %, 40 before and 60 beyond: e = 40 * 60 * 0.05 / 200 = 0.6 over the PVI
    p = Profile([Pvi(0, 12.0), Pvi(100, 10.0, 100.0, ahead=60.0), Pvi(200, 13.0)])
    assert float(p.level(100)) == approx(10.6)
    # grade at the PVI (40 * -0.02 + 60 * 0.03) / 100 = 0.01: level at 60 + 40 * 2/3
    assert p.turning_points() == [(approx(86.6666667), "low")]


def test_a_circular_curve():
    p = Profile([Pvi(0, 8.0), Pvi(100, 10.0, radius=1000.0), Pvi(200, 9.0)])  # +2 %, -1 %
    assert p.before[1] == approx(
        1000 * np.tan((np.arctan(0.02) + np.arctan(0.01)) / 2) * np.cos(np.arctan(0.02))
    )
    [(top, kind)] = p.turning_points()
    assert kind == "crest"
    # at the crest the level is R (1 - cos a1) over the beginning of the curve
    begin = 100 - p.before[1]
    assert float(p.level(top)) == approx(8 + 0.02 * begin + 1000 * (1 - np.cos(np.arctan(0.02))))


def test_a_circular_curve_between_steep_grades_reaches_as_far_along_each_tangent():
    # +40 %, -30 %, radius 100: along both tangents 100 tan((0.380506 + 0.291457) / 2) = 34.9222, so
    # less in plan
    p = Profile([Pvi(0, 0.0), Pvi(100, 40.0, radius=100.0), Pvi(200, 10.0)])
    along = 100 * np.tan((np.arctan(0.4) + np.arctan(0.3)) / 2)
    assert along == approx(34.9222, abs=1e-4)
    assert p.before[1] == approx(along / np.hypot(1, 0.4))  # 32.4244
    assert p.beyond[1] == approx(along / np.hypot(1, 0.3))  # 33.4494
    ch = np.linspace(100 - p.before[1], 100 + p.beyond[1], 9)
    z = p.level(ch)
    centre = ch[0] + 100 * np.sin(np.arctan(0.4)), z[0] - 100 * np.cos(np.arctan(0.4))
    assert np.hypot(ch - centre[0], z - centre[1]).tolist() == approx([100.0] * 9)


def test_a_level_stretch_between_two_grades_is_a_low_point_or_crest_too():
    p = Profile([Pvi(0, 10), Pvi(100, 8), Pvi(160, 8), Pvi(200, 9)])
    assert p.turning_points() == [(130.0, "low")]  # the middle of 100 to 160
    p = Profile([Pvi(0, 10), Pvi(100, 12, 20), Pvi(160, 12, 40), Pvi(260, 9)])
    assert p.turning_points() == [(approx((110 + 140) / 2), "crest")]  # between the curves
    p = Profile([Pvi(0, 10), Pvi(100, 8), Pvi(160, 8), Pvi(200, 7)])  # a step, no low point
    assert p.turning_points() == []


def test_a_curve_with_a_part_of_negative_length_is_refused():
    with pytest.raises(ValueError, match="chainage 50.000 has a part of negative length"):
        Profile([Pvi(0, 1), Pvi(50, 2, 20, ahead=-5.0), Pvi(100, 1)])
    with pytest.raises(ValueError, match="negative length"):
        Profile([Pvi(0, 1), Pvi(50, 2, 20, ahead=25.0), Pvi(100, 1)])
