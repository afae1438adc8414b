"""Rain: its intensity by duration and return period, from a formula or a table."""

from bisect import bisect_right
from collections.abc import Callable
from itertools import pairwise
from math import exp, log
from typing import NamedTuple

from msgspec import Struct


class Form(NamedTuple):
    """A formula of intensity: how it is written, and what its a T^m is divided by."""

    words: str
    # of t (min), b and c
    under: Callable[[float, float, float], float]


# the formulas that can be chosen; i in mm/h, t in minutes, T in years
FORMS: dict[str, Form] = {
    "power": Form("i = a T\u1d50 / (t + b)\u1d9c", lambda t, b, c: (t + b) ** c),
    "sum": Form("i = a T\u1d50 / (t\u1d9c + b)", lambda t, b, c: t**c + b),
}


class RainFormula(Struct, frozen=True, kw_only=True, tag="formula"):
    """An intensity in mm/h by one of `FORMS`, with t in minutes and T in years."""

    a: float = 1200.0
    b: float = 10.0  # min; in the form "sum" min^c
    c: float = 0.8
    m: float = 0.0
    form: str = "power"

    @property
    def periods(self) -> tuple[float, ...]:
        """The return periods (years) that it is given for: a formula holds for any."""
        return ()

    @property
    def fault(self) -> str | None:
        """Why it cannot be, in a few words; None where it is sound."""
        if self.form not in FORMS:
            return f'no formula is called "{self.form}", but {", ".join(FORMS)}'
        sound = self.a > 0 and self.b >= 0 and 0 <= self.c <= 5 and -5 <= self.m <= 5
        return None if sound else "a is more than 0, b and c are 0 or more"

    def by(self, years: float, climate: float = 1.0) -> Callable[[float], float]:
        """The intensity (mm/h) by duration (min), at a return period (years) and a factor."""
        k, b, c, under = climate * self.a * years**self.m, self.b, self.c, FORMS[self.form].under
        return lambda t: k / under(t, b, c)


class RainTable(Struct, frozen=True, kw_only=True, tag="table"):
    """Intensities by duration, a row for each return period."""

    minutes: tuple[float, ...]  # rising
    # years, rising, each with its intensities in mm/h
    rows: tuple[tuple[float, tuple[float, ...]], ...]

    @property
    def periods(self) -> tuple[float, ...]:
        """The return periods (years) that it is given for."""
        return tuple(y for y, _ in self.rows)

    @property
    def fault(self) -> str | None:
        """Why it cannot be, in a few words; None where it is sound."""
        if len(self.minutes) < 2 or not self.rows:
            return "a table has two durations and one return period at least"
        if self.minutes[0] <= 0 or any(a >= b for a, b in pairwise(self.minutes)):
            return "durations are more than 0 and rise"
        years = self.periods
        if years[0] <= 0 or any(a >= b for a, b in pairwise(years)):
            return "return periods are more than 0 and rise"
        if any(len(row) != len(self.minutes) or min(row) <= 0 for _, row in self.rows):
            return "each return period has an intensity above 0 for each duration"
        return None

    def by(self, years: float, climate: float = 1.0) -> Callable[[float], float]:
        """The intensity (mm/h) by duration (min), at a return period (years) within its own and a
        factor. Both go log-log; beyond the last duration the last two give the line, below the
        first the first holds.
        """
        at, row = [log(m) for m in self.minutes], self._row(years)

        def by(t: float) -> float:
            if t <= self.minutes[0]:
                return climate * exp(row[0])
            x = log(t)
            i = min(bisect_right(at, x), len(at) - 1)
            share = (x - at[i - 1]) / (at[i] - at[i - 1])
            return climate * exp(row[i - 1] + share * (row[i] - row[i - 1]))

        return by

    def _row(self, years: float) -> list[float]:
        """Logarithms of the intensities of a return period."""
        i = min(max(1, bisect_right(self.periods, years)), len(self.rows) - 1)
        if i == 0:
            return [log(v) for v in self.rows[0][1]]
        (ya, a), (yb, b) = self.rows[i - 1], self.rows[i]
        share = (log(years) - log(ya)) / (log(yb) - log(ya))
        return [log(u) + share * (log(v) - log(u)) for u, v in zip(a, b, strict=True)]


class Rain(Struct, frozen=True, kw_only=True):
    """The rain that a project is drained for."""

    name: str = "Rain"
    source: RainFormula | RainTable = RainFormula()
    years: float = 2.0  # return period
    climate: float = 1.0  # factor on intensities
    entry: float = 5.0  # min, of an area that has none of its own
    place: tuple[float, float] | None = None  # where in the rain atlas its formula was taken

    @property
    def intensity(self) -> Callable[[float], float]:
        """The intensity (mm/h, the climate factor in it) by duration (min), of a sound rain."""
        return self.source.by(self.years, self.climate)


def atlas_name(place: tuple[float, float]) -> str:
    """The name of a rain taken from the atlas at a place, as the atlas counts places."""
    return f"Rain atlas {place[0]:.1f}, {place[1]:.1f}"


def rain_fault(rain: Rain) -> str | None:
    """Why a rain cannot be, in a few words; None where it is sound."""
    if not 0.01 <= rain.years <= 10_000:
        return "the return period lies between 0.01 and 10,000 years"
    if not 0 < rain.climate <= 10:
        return "the climate factor lies between 0 and 10"
    if not 0 < rain.entry <= 1440:
        return "the time of entry is more than 0 and at most a day"
    if (fault := rain.source.fault) is not None:
        return fault
    years = rain.source.periods
    if years and not years[0] - 1e-9 <= rain.years <= years[-1] + 1e-9:
        return (
            f"the table has return periods of {years[0]:g} to {years[-1]:g} years, not "
            f"{rain.years:g}"
        )
    return None
