"""Answers that are kept with a value."""

import gc
import weakref

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from zumbert.drawing.contours import contour_ceiling
from zumbert.geometry.kept import kept
from zumbert.geometry.tin import Tin
from zumbert.space.ground import _halves


class Thing:
    def __init__(self, by):
        self.by = by


asked = []


@kept(3)
def times(of, n, more=0):
    asked.append((of, n, more))
    return of.by * n + more


@given(st.lists(st.tuples(st.integers(0, 1), st.integers(0, 5), st.integers(0, 1)), max_size=30))
def test_what_is_kept_is_what_is_made(calls):
    things, seen = [Thing(2), Thing(7)], {0: [], 1: []}
    for i, n, more in calls:
        asked.clear()
        assert times(things[i], n, more=more) == things[i].by * n + more
        assert bool(asked) == ((n, more) not in seen[i])
        if asked:
            seen[i] = [*seen[i], (n, more)][-3:]


def test_a_ground_takes_along_what_was_cut_of_it():
    x, y = (v.ravel() for v in np.meshgrid(np.arange(20.0), np.arange(20.0)))
    i = np.arange(380)[np.arange(380) % 20 < 19]
    faces = np.vstack([np.column_stack([i, i + 1, i + 21]), np.column_stack([i, i + 21, i + 20])])
    tin = Tin(np.column_stack([x, y, 0.1 * x]), faces)
    line = np.array([[-1.0, 9.7], [21.0, 9.9]])
    both = weakref.ref(_halves(tin, line.tobytes()).left.vertices)
    contour_ceiling(tin, 0.5)
    assert both() is not None
    del tin
    gc.collect()
    assert both() is None
