"""The rain atlas: a grid of formulas over the made-up county, as CSV."""

from bisect import bisect_right
from functools import cache
from pathlib import Path
from typing import NamedTuple

from zumbert.errors import EditError, ReadError
from zumbert.exchange.reader import reader
from zumbert.exchange.rows import csv_rows
from zumbert.model.rain import RainFormula

HEADS = ("x_km", "y_km", "a", "b", "c", "m")
SHIPPED = Path(__file__).parent / "rain" / "county.csv"


class RainAtlas(NamedTuple):
    """Formulas at the crossings of a grid, km."""

    x: tuple[float, ...]
    y: tuple[float, ...]
    at: dict[tuple[float, float], RainFormula]

    def formula_at(self, x: float, y: float) -> RainFormula:
        """The formula of a place (km), its four values between those of the crossings about it.
        Raises EditError outside.
        """
        if not (self.x[0] <= x <= self.x[-1] and self.y[0] <= y <= self.y[-1]):
            held = f"x {self.x[0]:g} to {self.x[-1]:g} and y {self.y[0]:g} to {self.y[-1]:g} km"
            raise EditError(f"The rain atlas holds {held}, not {x:g}, {y:g}.")
        i, j = (min(bisect_right(v, w) - 1, len(v) - 2) for v, w in ((self.x, x), (self.y, y)))
        u, v = (
            (x - self.x[i]) / (self.x[i + 1] - self.x[i]),
            (y - self.y[j]) / (self.y[j + 1] - self.y[j]),
        )
        corners = [
            (self.at[self.x[i + p], self.y[j + q]], (u if p else 1 - u) * (v if q else 1 - v))
            for p in (0, 1)
            for q in (0, 1)
        ]
        return RainFormula(
            **{
                k: round(sum(getattr(f, k) * w for f, w in corners), 6)
                for k in ("a", "b", "c", "m")
            }
        )


@reader
def read_atlas(path: str | Path) -> RainAtlas:
    """An atlas of x and y (km), a, b, c and m, a row a crossing. Raises ReadError where a
    crossing is missing.
    """
    at: dict[tuple[float, float], RainFormula] = {}
    for row in csv_rows(path, HEADS, HEADS):
        values = [row.number_of(h) for h in HEADS]
        if any(v is None for v in values):
            raise row.error("a value is missing: give x, y, a, b, c and m")
        x, y, a, b, c, m = (float(v) for v in values if v is not None)
        at[x, y] = RainFormula(a=a, b=b, c=c, m=m)
    xs, ys = (tuple(sorted({k[i] for k in at})) for i in (0, 1))
    if len(xs) < 2 or len(ys) < 2 or len(at) != len(xs) * len(ys):
        raise ReadError(f"{path} is no grid of two by two crossings or more, each with its row.")
    return RainAtlas(xs, ys, at)


@cache
def shipped_atlas() -> RainAtlas:
    """The atlas of the made-up county."""
    return read_atlas(SHIPPED)
