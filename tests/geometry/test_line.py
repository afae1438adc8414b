import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from pytest import approx

from zumbert.geometry.line import Line, between, between_all, filled, level_at, line, lower


def test_between_has_a_point_at_each_end():
    part = between(line((0, 0.0), (10, 10.0), (20, 0.0)), 5.0, 15.0)
    assert part.s.tolist() == approx([5, 10, 15])
    assert part.z.tolist() == approx([5, 10, 5])


def test_a_jump_has_both_levels():
    step = line((0, 1.0), (5, 1.0), (5, 3.0), (10, 3.0))
    assert float(level_at(step, 5.0, "left")) == 1.0
    assert float(level_at(step, 5.0, "right")) == 3.0
    assert between(step, 5.0, 8.0).z.tolist() == approx([3.0, 3.0])
    assert between(step, 2.0, 5.0).z.tolist() == approx([1.0, 1.0])


def test_gaps_of_the_first_are_filled_by_the_second_with_a_jump():
    first = Line(np.array([0.0, 4.0, 4.0, 6.0, 10.0]), np.array([2.0, 2.0, np.nan, 2.0, 2.0]))
    whole = filled(first, line((0, 1.0), (10, 1.0)))
    assert whole.solid
    assert level_at(whole, [3.0, 5.0, 7.0]).tolist() == approx([2.0, 1.0, 2.0])
    assert float(level_at(whole, 4.0, "left")) == 2.0
    assert float(level_at(whole, 4.0, "right")) == 1.0


@given(
    st.lists(st.tuples(st.floats(0.1, 9.0), st.floats(-5, 5)), min_size=2, max_size=12),
    st.floats(0, 0.4),
    st.floats(0.6, 1),
)
def test_many_at_once_are_as_one_by_one(steps, p, q):
    s = np.cumsum([d for d, _ in steps]) - steps[0][0]
    z = np.array([v for _, v in steps])
    a, b = p * s[-1], q * s[-1]
    both = between_all(
        np.array([0, len(s), 2 * len(s)]),
        np.tile(s, 2),
        np.concatenate([z, -z]),
        np.array([a, a]),
        np.array([b, b]),
    )
    alone = between(Line(s, z), a, b)
    assert both[0].s.tolist() == approx(alone.s.tolist())
    assert both[0].z.tolist() == approx(alone.z.tolist(), abs=1e-9)
    assert both[1].z.tolist() == approx((-alone.z).tolist(), abs=1e-9)


def test_the_lower_of_two_lines_with_gaps_and_a_crossing():
    a = line((0, 5.0), (10, 5.0))
    b = Line(
        np.array([0.0, 2.0, 2.0, 8.0, 8.0, 10.0]),
        np.array([np.nan, np.nan, 4.0, 7.0, np.nan, np.nan]),
    )
    low = lower(a, b)
    # b crosses 5 at 4 m; before 2 m and from 8 m on it is not there
    at = [1.0, 2.0, 3.0, 4.0, 6.0, 9.0]
    assert level_at(low, at).tolist() == approx([5.0, 4.0, 4.5, 5.0, 5.0, 5.0])
    assert level_at(low, 2.0, "left") == approx(5.0)
    both = lower(
        Line(np.array([0.0, 1.0]), np.array([np.nan, np.nan])),
        Line(np.array([0.0, 1.0]), np.array([1.0, 2.0])),
    )
    assert both.z.tolist() == [1.0, 2.0]
