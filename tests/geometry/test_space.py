import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pytest import approx

from zumbert.geometry.space import between_pieces

PLACE = st.tuples(*[st.floats(-20, 20)] * 3)
PIECE = st.tuples(PLACE, PLACE)


def least(p, q):
    return float(between_pieces(np.array([p], float), np.array([q], float))[0, 0])


@pytest.mark.parametrize(
    ("p", "q", "far"),
    [
        (((0, 0, 0), (10, 0, 0)), ((5, -3, 2), (5, 3, 2)), 2.0),  # they cross, 2 m apart
        (((0, 0, 0), (10, 0, 0)), ((0, 4, 3), (10, 4, 3)), 5.0),  # side by side
        (((0, 0, 0), (10, 0, 0)), ((13, 4, 0), (20, 4, 0)), 5.0),  # end to end, 3 and 4 m
        (((0, 0, 0), (10, 0, 0)), ((4, 3, 4), (4, 3, 4)), 5.0),  # a point
        (((1, 2, 3), (1, 2, 3)), ((1, 2, 7), (1, 2, 7)), 4.0),  # two points
        (((0, 0, 0), (10, 0, 10)), ((10, 0, 0), (0, 0, 10)), 0.0),  # they meet
    ],
)
def test_what_one_can_work_out_by_hand(p, q, far):
    assert least(p, q) == approx(far, abs=1e-12)
    assert least(q, p) == approx(far, abs=1e-12)


@given(p=PIECE, q=PIECE)
def test_no_places_on_two_pieces_are_nearer_and_some_are_as_near(p, q):
    t = np.linspace(0, 1, 41)[:, None]
    a, b = (np.array(s[0]) + t * (np.array(s[1]) - np.array(s[0])) for s in (p, q))
    sampled = np.sqrt(((a[:, None] - b[None]) ** 2).sum(-1)).min()
    step = max(np.linalg.norm(np.subtract(*s)) for s in (p, q)) / 40
    found = least(p, q)
    assert found <= sampled + 1e-9
    assert found >= sampled - step - 1e-9


def test_many_against_many():
    rng = np.random.default_rng(4)
    p, q = rng.normal(0, 5, (7, 2, 3)), rng.normal(0, 5, (4, 2, 3))
    assert between_pieces(p, q) == approx(np.array([[least(a, b) for b in q] for a in p]))


def test_pieces_that_are_almost_parallel_and_share_an_end_touch():
    assert least(((0.0, 1.0, 0.0), (0.0, 0.0, 0.0)), ((0.0, 0.0, 0.0), (0.0, 2.0, 1e-6))) <= 1e-12
    assert least(
        ((0.0, 0.0, 0.0), (0.0, 0.0, 1e-6)), ((0.0, 1.0, 0.0), (0.0, 2.0, 1e-7))
    ) == approx(1.0)
