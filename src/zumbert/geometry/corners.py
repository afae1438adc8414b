"""Linear programmes of two or three unknowns with many rows a x <= c, solved exactly: the best is
at a corner.

A few rows at a time are solved by trying all their corners; the row that this answer breaks the
most joins them, those that do not hold the answer go, until none is broken. Each answer is no
better than the one before it, so this ends.
"""

from functools import lru_cache
from itertools import combinations

import numpy as np

from zumbert.geometry.elements import Array

FAR = 2e4  # no level lies farther from 0, m
BROKEN = 1e-9  # a row that is passed by less is kept
SINGULAR = 1e-9  # of rows so nearly parallel there is no corner
FEW = {2: 24, 3: 9}  # rows of which all corners are tried at once, by the number of unknowns


def best_corner(goal: Array, a: Array, c: Array) -> Array | None:
    """The x (k,) with the least goal (k,) · x that keeps all rows a (n, k), c (n,); None where
    none keeps them.
    """
    k = len(goal)
    box_a, box_c = np.vstack([np.eye(k), -np.eye(k)]), np.full(2 * k, FAR)
    held, former = list(range(len(c))) if len(c) <= FEW[k] else [], -np.inf
    while True:
        some_a, some_c = np.vstack([box_a, a[held]]), np.concatenate([box_c, c[held]])
        x = _best_of_few(goal, some_a, some_c)
        if x is None:
            return None
        over = a @ x - c
        worst = int(over.argmax()) if len(over) else -1
        if worst < 0 or over[worst] <= BROKEN or worst in held:
            return x
        value = float(goal @ x)
        if value > former + 1e-12:  # rows that do not hold it have done their part
            held = [i for i in held if over[i] > -1e-7]
            former = value
        held.append(worst)


def along(x: Array, way: Array, a: Array, c: Array) -> float:
    """How far from a place x that keeps all rows one may go along `way` until the first row ends
    it; inf where none does.
    """
    rate, room = a @ way, c - a @ x
    ends = rate > SINGULAR
    return float(np.maximum(room[ends] / rate[ends], 0.0).min()) if ends.any() else np.inf


def _best_of_few(goal: Array, a: Array, c: Array) -> Array | None:
    index = _choices(len(c), len(goal))
    corner = a[index]
    there = np.abs(np.linalg.det(corner)) > SINGULAR
    found = np.linalg.solve(corner[there], c[index[there]][:, :, None])[:, :, 0]
    kept = (found @ a.T <= c + 1e-7).all(axis=1)
    if not kept.any():
        return None
    return np.asarray(found[np.where(kept, found @ goal, np.inf).argmin()])


@lru_cache(maxsize=64)
def _choices(n: int, k: int) -> np.ndarray:
    """The rows that may meet in a corner: each k of n."""
    return np.array(list(combinations(range(n), k)))
