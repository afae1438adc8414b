"""The rules of a pipe solved: against a general solver of linear programmes."""

from collections.abc import Iterator

import numpy as np
from scipy.optimize import linprog

from benchmarks.measure import Figure, median_ms
from zumbert.checks.legal import Constraint, least_breach, shallowest


def rules() -> Iterator[Figure]:
    t = np.linspace(0, 1, 180)  # all of them on the hull: ground that sags
    z = 50 + 3 * (t - 0.5) ** 2
    rows = [
        Constraint(1 - s, s, v - 1.245, "cover_min")
        for s, v in zip(t.tolist(), z.tolist(), strict=True)
    ]
    rows += [Constraint(-1, 1, -0.24, "slope_min"), Constraint(1, -1, 6.0, "slope_max")]
    high = [*rows, Constraint(0, -1, -49.5, "drop_min")]  # the outlet lies too high for the cover
    a = np.array([(r.a, r.b, -1.0 if r.rule == "cover_min" else 0.0) for r in high])
    c = np.array([r.c for r in high])
    bounds = [(None, None), (None, None), (0, None)]
    theirs = median_ms(lambda: linprog([0, 0, 1], A_ub=a, b_ub=c, bounds=bounds, method="highs"), 9)
    ours = median_ms(lambda: least_breach(high, "cover_min"), 9)
    yield Figure("least breach over 180 points of ground", ours, theirs, ours / theirs, 0.4)
    ours = median_ms(lambda: shallowest(rows), 9)
    yield Figure("the shallowest levels over them", ours, theirs, ours / theirs, 0.4)
