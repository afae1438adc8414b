"""Rain drawn: its curves with the durations in use, and the map of the atlas."""

from collections.abc import Iterator, Sequence
from math import log
from typing import Protocol

import numpy as np
from msgspec.structs import replace

from zumbert.drawing.marks import Disc, Fill, Mark, Segments, Stroke, Text, points
from zumbert.model.display import Units
from zumbert.model.rain import Rain, RainFormula

SPAN = (2.0, 120.0)  # min that are drawn
TICKS = (2, 5, 10, 20, 60, 120)


def rain_curves(
    rain: Rain, times: Sequence[float], u: Units, wide: float, tall: float
) -> Iterator[Mark]:
    """Intensity against duration for the return period in force, and others faintly; the times
    of the network marked on it.
    """
    left, top, right, bottom = 40.0, 10.0, wide - 10.0, tall - 24.0
    t = np.geomspace(*SPAN, 60)
    by = rain.intensity
    others = _others(rain)
    high = max(by(SPAN[0]), *(r.intensity(SPAN[0]) for r in others), 1.0) * 1.05

    def at(minutes: float, i: float) -> tuple[float, float]:
        return left + log(minutes / SPAN[0]) / log(SPAN[1] / SPAN[0]) * (
            right - left
        ), bottom - i / high * (bottom - top)

    step = next(s for s in (10, 20, 25, 50, 100, 200, 500, 1000, 5000, 20000) if high / s <= 6)
    for k in range(int(high // step) + 1):
        y = at(SPAN[0], k * step)[1]
        yield Segments("grid-major", np.array([(left, y, right, y)]))
        yield Text("small", u.intensity(k * step), left - 5, y + 4, "right")
    for minutes in TICKS:
        x = at(minutes, 0)[0]
        yield Segments("grid-major", np.array([(x, top, x, bottom)]))
        yield Text("small", str(minutes), x, bottom + 14, "middle")
    for r in others:
        other = r.intensity
        yield Stroke("axis-thin", np.array([at(v, other(v)) for v in t.tolist()]))
    yield Stroke("storm", np.array([at(v, by(v)) for v in t.tolist()]))
    for v in times[:200]:
        if SPAN[0] <= v <= SPAN[1]:
            yield Disc("field", *at(v, by(v)), 2.6, "storm")
    yield Text(
        "small",
        f"{u.intensity_unit} by minutes, {rain.years:g} years",
        right,
        top + 12,
        "right",
        plate=True,
    )


def _others(rain: Rain) -> list[Rain]:
    """The same rain at the other return periods of its table."""
    return [replace(rain, years=y) for y in rain.source.periods if abs(y - rain.years) > 1e-9]


class Atlas(Protocol):
    """A grid of formulas, km."""

    @property
    def x(self) -> tuple[float, ...]:
        """Columns."""

    @property
    def y(self) -> tuple[float, ...]:
        """Rows."""

    @property
    def at(self) -> dict[tuple[float, float], RainFormula]:
        """The formula of each crossing."""


def _frame(atlas: Atlas, wide: float, tall: float) -> tuple[float, float, float]:
    """Where the map lies in its box: left, bottom, and drawing units a km."""
    k = min((wide - 40) / (atlas.x[-1] - atlas.x[0]), (tall - 34) / (atlas.y[-1] - atlas.y[0]))
    return 30.0, tall - 20.0, k


def atlas_map(
    atlas: Atlas, place: tuple[float, float] | None, wide: float, tall: float
) -> Iterator[Mark]:
    """The county by its rain of ten minutes in two years, the darker the more; and the place
    that was taken.
    """
    left, bottom, k = _frame(atlas, wide, tall)
    rain = {at: Rain(source=f).intensity(10.0) for at, f in atlas.at.items()}
    low, high = min(rain.values()), max(rain.values())

    def spot(x: float, y: float) -> tuple[float, float]:
        return left + (x - atlas.x[0]) * k, bottom - (y - atlas.y[0]) * k

    for i in range(len(atlas.x) - 1):
        for j in range(len(atlas.y) - 1):
            xs, ys = atlas.x[i : i + 2], atlas.y[j : j + 2]
            mean = sum(rain[x, y] for x in xs for y in ys) / 4
            role = f"rain-{1 + min(3, int(4 * (mean - low) / max(high - low, 1e-9)))}"
            yield Fill(
                role,
                points(
                    spot(xs[0], ys[0]), spot(xs[1], ys[0]), spot(xs[1], ys[1]), spot(xs[0], ys[1])
                ),
            )
    x0, x1, y0, y1 = atlas.x[0], atlas.x[-1], atlas.y[0], atlas.y[-1]
    yield Stroke(
        "axis", points(spot(x0, y0), spot(x1, y0), spot(x1, y1), spot(x0, y1)), closed=True
    )
    for x in (atlas.x[0], atlas.x[-1]):
        yield Text("small", f"{x:g}", spot(x, 0)[0], bottom + 14, "middle")
    for y in (atlas.y[0], atlas.y[-1]):
        yield Text("small", f"{y:g}", left - 5, spot(0, y)[1] + 4, "right")
    if place is not None:
        x, y = spot(*place)
        yield Disc("field", x, y, 5.0, "structure")
        yield Segments("structure", np.array([(x - 8, y, x + 8, y), (x, y - 8, x, y + 8)]))


def atlas_place(
    atlas: Atlas, x: float, y: float, wide: float, tall: float
) -> tuple[float, float] | None:
    """The place (km) under a point of the map; None beside it."""
    left, bottom, k = _frame(atlas, wide, tall)
    px, py = atlas.x[0] + (x - left) / k, atlas.y[0] + (bottom - y) / k
    inside = atlas.x[0] <= px <= atlas.x[-1] and atlas.y[0] <= py <= atlas.y[-1]
    return (px, py) if inside else None
