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
