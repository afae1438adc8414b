import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pytest import approx

from zumbert.geometry.placing import Placing, by_pairs

NUMBER = st.floats(-1e4, 1e4)
POINT = st.tuples(NUMBER, NUMBER)


@given(POINT, POINT, POINT, POINT)
def test_two_pairs_go_where_they_are_told_and_back(p, q, r, s):
    if np.hypot(r[0] - p[0], r[1] - p[1]) < 1 or np.hypot(s[0] - q[0], s[1] - q[1]) < 1:
        return
    made = by_pairs([(p, q), (r, s)])
    assert made.apply([p, r]).tolist() == [approx(q, abs=1e-6), approx(s, abs=1e-6)]
    assert made.back.apply([q, s]).tolist() == [approx(p, abs=1e-4), approx(r, abs=1e-4)]
    again = made.back.after(made)
    assert (again.a, again.b) == (approx(1), approx(0, abs=1e-9))


def test_turn_and_scale_of_a_worked_example():
    # (0, 0) and (10, 0) go to (100, 50) and (100, 70): a quarter to the left, twice as large
    made = by_pairs([((0, 0), (100, 50)), ((10, 0), (100, 70))])
    assert (made.turn, made.scale) == (approx(np.pi / 2), approx(2.0))
    assert made.apply([(10, 5)]).tolist() == [approx([90.0, 70.0])]
    assert by_pairs([((1, 2), (4, 6))]) == Placing(1.0, 0.0, 3, 4)
    with pytest.raises(ValueError, match="one place"):
        by_pairs([((0, 0), (1, 1)), ((0, 0), (2, 2))])
