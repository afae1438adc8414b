"""Trenches and pits in plan: where they come out of the ground, their bottoms, and the space
that they share.
"""

from collections.abc import Iterator

import numpy as np

from zumbert.analysis.crosssection import edges_in_plan
from zumbert.analysis.digs import Dig
from zumbert.analysis.plots import World
from zumbert.analysis.trench import Trenches, TrenchFacts
from zumbert.analysis.union import Net
from zumbert.drawing.marks import Fill, Mark, Segments, Stroke
from zumbert.drawing.sight import PlanSight
from zumbert.geometry.elements import Array
from zumbert.geometry.kept import kept

MOST = 250  # trenches in sight: of more only the bottoms are drawn
HATCH = 5.0  # drawing units between the lines of an overlap's hatch


def trench_outlines(dug: Trenches, net: Net | None, sight: PlanSight) -> list[Mark]:
    """The outlines in sight, the lowest first; with the union of the trenches what they share."""
    seen = [
        (t, t.dig)
        for t in dug.pipes.values()
        if t.dig is not None and t.length > 1e-9 and _near(t, sight)
    ]
    marks: list[Mark] = []
    for t, dig in seen:
        marks += _trench(t, dig, dug.world, sight, len(seen) <= MOST)
    for pit in dug.pits.values():
        marks += _outline("trench-plan", pit.plan.outline, sight)
    for overlap in net.overlaps if net is not None else ():
        for xy in overlap.outline:
            marks += _overlap(xy, sight)
    return marks


def _near(t: TrenchFacts, sight: PlanSight) -> bool:
    span = t.pipe.span
    xy = sight.to_drawing(
        np.array([span.point(0.0), span.point(span.length / 2), span.point(span.length)])
    )
    ok = ~np.isnan(xy).any(axis=1)
    if not ok.any():
        return False
    (x0, y0), (x1, y1) = xy[ok].min(axis=0), xy[ok].max(axis=0)
    return bool(x1 > -40 and y1 > -40 and x0 < sight.width + 40 and y0 < sight.height + 40)


@kept(1)
def _edges(t: TrenchFacts, world: World) -> tuple[Array, Array]:
    return edges_in_plan(t, world)


def _trench(
    t: TrenchFacts, dig: Dig, world: World, sight: PlanSight, whole: bool
) -> Iterator[Mark]:
    if whole and t.excavation is not None and dig.sloped:
        left, right = _edges(t, world)
        yield from _outline("trench-plan", np.vstack([left, right[::-1]]), sight)
    s = np.linspace(t.begin, t.end, 2 if t.pipe.span.arc is None else 17)
    at, across = (
        np.array([f(v) for v in s.tolist()]) for f in (t.pipe.span.point, t.pipe.span.across)
    )
    half = dig.width / 2
    yield from _outline(
        "trench-foot", np.vstack([at - half * across, (at + half * across)[::-1]]), sight
    )


def _outline(role: str, xy: Array, sight: PlanSight) -> Iterator[Mark]:
    drawn = sight.to_drawing(xy)
    if np.isnan(drawn).any():
        return
    (x0, y0), (x1, y1) = drawn.min(axis=0), drawn.max(axis=0)
    if x1 > 0 and y1 > 0 and x0 < sight.width and y0 < sight.height:
        yield Stroke(role, drawn, closed=True)


def _overlap(xy: Array, sight: PlanSight) -> Iterator[Mark]:
    """Shared space, hatched: lines at 45 degrees through a convex outline."""
    p = sight.to_drawing(xy)
    if np.isnan(p).any() or p[:, 0].max() < 0 or p[:, 0].min() > sight.width:
        return
    yield Fill("overlap", p)
    d = p[:, 0] + p[:, 1]
    rows = []
    for level in np.arange(np.ceil(d.min() / HATCH) * HATCH, d.max(), HATCH).tolist():
        ends = []
        for a, b, da, db in zip(p, np.roll(p, -1, axis=0), d, np.roll(d, -1), strict=True):
            if (da - level) * (db - level) < 0:
                ends.append(a + (b - a) * ((level - da) / (db - da)))
        if len(ends) >= 2:
            rows.append((*ends[0], *ends[1]))
    if rows:
        yield Segments("overlap", np.array(rows))
