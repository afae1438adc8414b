"""Rain: its intensity by duration and return period, from a formula or a table."""

from itertools import pairwise

from msgspec import Struct


class RainFormula(Struct, frozen=True, kw_only=True, tag="formula"):
    """i = a T^m / (t + b)^c, in mm/h, with t in minutes and T in years."""

    a: float = 1200.0
    b: float = 10.0  # min
    c: float = 0.8
    m: float = 0.0


class RainTable(Struct, frozen=True, kw_only=True, tag="table"):
    """Intensities by duration, a row for each return period."""

    minutes: tuple[float, ...]  # rising
    # years, rising, each with its intensities in mm/h
    rows: tuple[tuple[float, tuple[float, ...]], ...]


class Rain(Struct, frozen=True, kw_only=True):
    """The rain that a project is drained for."""

    name: str = "Rain"
    source: RainFormula | RainTable = RainFormula()
    years: float = 2.0  # return period
    climate: float = 1.0  # factor on intensities
    entry: float = 5.0  # min, of an area that has none of its own
    place: tuple[float, float] | None = None  # where in the rain atlas its formula was taken


def rain_fault(rain: Rain) -> str | None:
    """Why a rain cannot be, in a few words; None where it is sound."""
    if not 0.01 <= rain.years <= 10_000:
        return "the return period lies between 0.01 and 10,000 years"
    if not 0 < rain.climate <= 10:
        return "the climate factor lies between 0 and 10"
    if not 0 < rain.entry <= 1440:
        return "the time of entry is more than 0 and at most a day"
    s = rain.source
    if isinstance(s, RainFormula):
        return (
            None
            if s.a > 0 and s.b >= 0 and 0 <= s.c <= 5 and -5 <= s.m <= 5
            else "a is more than 0, b and c are 0 or more"
        )
    if len(s.minutes) < 2 or not s.rows:
        return "a table has two durations and one return period at least"
    if s.minutes[0] <= 0 or any(a >= b for a, b in pairwise(s.minutes)):
        return "durations are more than 0 and rise"
    years = [y for y, _ in s.rows]
    if years[0] <= 0 or any(a >= b for a, b in pairwise(years)):
        return "return periods are more than 0 and rise"
    if any(len(row) != len(s.minutes) or min(row) <= 0 for _, row in s.rows):
        return "each return period has an intensity above 0 for each duration"
    if not years[0] - 1e-9 <= rain.years <= years[-1] + 1e-9:
        return (
            f"the table has return periods of {years[0]:g} to {years[-1]:g} years, not "
            f"{rain.years:g}"
        )
    return None
