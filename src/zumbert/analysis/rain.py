"""Intensity of rain by its duration."""

from bisect import bisect_right
from collections.abc import Callable
from math import exp, log

from zumbert.model.rain import Rain, RainFormula, RainTable


def intensities(rain: Rain) -> Callable[[float], float]:
    """Intensity (mm/h, the climate factor in it) by duration (min), of a sound rain.

    In a table both duration and return period go log-log; beyond the last duration the last two
    give the line, below the first the first holds.
    """
    s = rain.source
    if isinstance(s, RainFormula):
        k, b, c = rain.climate * s.a * rain.years**s.m, s.b, s.c
        return lambda t: k / (t + b) ** c
    return _by_table(s, rain.years, rain.climate)


def _by_table(s: RainTable, years: float, climate: float) -> Callable[[float], float]:
    at, row = [log(m) for m in s.minutes], _row(s, years)

    def by(t: float) -> float:
        if t <= s.minutes[0]:
            return climate * exp(row[0])
        x = log(t)
        i = min(bisect_right(at, x), len(at) - 1)
        share = (x - at[i - 1]) / (at[i] - at[i - 1])
        return climate * exp(row[i - 1] + share * (row[i] - row[i - 1]))

    return by


def _row(s: RainTable, years: float) -> list[float]:
    """Logarithms of the intensities of a return period that lies within those of the table."""
    periods = [y for y, _ in s.rows]
    i = min(max(1, bisect_right(periods, years)), len(periods) - 1)
    if i == 0:
        return [log(v) for v in s.rows[0][1]]
    (ya, a), (yb, b) = s.rows[i - 1], s.rows[i]
    share = (log(years) - log(ya)) / (log(yb) - log(ya))
    return [log(u) + share * (log(v) - log(u)) for u, v in zip(a, b, strict=True)]
