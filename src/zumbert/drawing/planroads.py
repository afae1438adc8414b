"""Roads in plan: carriageway, edges, chainages, low and high points, names."""

from collections.abc import Iterator

import numpy as np

from zumbert.analysis.roads import RoadFacts
from zumbert.drawing.labels import Labels
from zumbert.drawing.marks import Fill, Mark, Segments, Text, turning_point
from zumbert.drawing.sight import PlanSight
from zumbert.drawing.strokes import strokes
from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.strip import at_chainages
from zumbert.model.display import Units
from zumbert.model.road import Strip


def chainages_seen(r: RoadFacts, sight: PlanSight) -> Array:
    """Chainages at which lines beside a road are drawn: as near as can be seen."""
    step = float(np.clip(6.0 / sight.scale, 0.5, 10.0))
    strip = [s.chainage for s in r.road.strip.sections] if r.road.strip is not None else []
    known = [c for c in strip if r.alignment.start < c < r.alignment.end]
    steps = np.arange(r.alignment.start, r.alignment.end, step)
    return np.unique(np.concatenate([r.alignment.polyline(), steps, known]))


def _offset_line(
    r: RoadFacts, off: float | Array, ch: Array, sight: PlanSight
) -> tuple[Array, Array]:
    """World and drawing points of a line at offsets."""
    world = np.column_stack(r.alignment.point(ch, off))
    return world, sight.to_drawing(world)


def carriageway(r: RoadFacts, sight: PlanSight) -> Iterator[Mark]:
    """The carriageway between its kerbs; nothing without a strip."""
    if r.road.strip is None:
        return
    ch = chainages_seen(r, sight)
    s = at_chainages(r.road.strip.sections, ch)
    left, right = (
        _offset_line(r, -s["left"], ch, sight)[1],
        _offset_line(r, s["right"], ch, sight)[1],
    )
    ok = ~(np.isnan(left).any(axis=1) | np.isnan(right).any(axis=1))
    if ok.sum() > 1:
        yield Fill("road", np.vstack([left[ok], right[ok][::-1]]))


def road_edges(r: RoadFacts, roads: list[RoadFacts], sight: PlanSight) -> Iterator[Mark]:
    """Kerbs and backs of verge, broken where another road's carriageway goes through; centre
    line.
    """
    ch = chainages_seen(r, sight)
    if r.road.strip is not None:
        s = at_chainages(r.road.strip.sections, ch)
        for off, role, behind in (
            (-s["left"], "kerb", 0.0),
            (s["right"], "kerb", 0.0),
            (-s["left"] - s["verge"], "verge", s["verge"]),
            (s["right"] + s["verge"], "verge", s["verge"]),
        ):
            if role == "verge" and not np.any(s["verge"]):
                continue
            world, xy = _offset_line(r, off, ch, sight)
            for other in roads:
                if other is not r and other.road.strip is not None:
                    xy[_on(other, other.road.strip, world, behind)] = np.nan
            yield from strokes(role, xy)
    yield from strokes("centre-line", _offset_line(r, 0.0, ch, sight)[1])


def _on(r: RoadFacts, strip: Strip, world: Array, more: float | Array) -> Mask:
    """Which places lie on a road's carriageway and `more` metres beside it."""
    ch, off = r.alignment.project(world[:, 0], world[:, 1])
    s = at_chainages(strip.sections, ch)
    return np.asarray((off > -s["left"] - more - 1e-6) & (off < s["right"] + more + 1e-6))


def _beside_road(r: RoadFacts, ch: Array, side: str) -> Array:
    """The offset (m, without sign) of the back of verge at chainages; 0 where the road has no
    strip.
    """
    if r.road.strip is None:
        return np.zeros_like(ch)
    s = at_chainages(r.road.strip.sections, ch)
    return np.asarray(s[side] + s["verge"])


def _tick_step(scale: float, units: Units) -> float:
    """Metres between chainage ticks, round in the project's unit."""
    one = units.metres
    return one * next(
        (s for s in (5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0) if s * one * scale >= 70), 1000.0
    )


def chainage_ticks(
    r: RoadFacts, roads: list[RoadFacts], sight: PlanSight, labels: Labels, u: Units
) -> Iterator[Mark]:
    """Ticks at round chainages, with their figures; another road that a road lies in has them
    alone.
    """
    a, step = r.alignment, _tick_step(sight.scale, u)
    ch = np.arange(np.ceil(a.start / step) * step, a.end + 1e-6, step)
    for other in roads:  # where it lies in another road that one counts
        if other is not r and other.road.strip is not None and len(ch):
            verge = max(s.verge for s in other.road.strip.sections)
            at = np.column_stack(a.point(ch))
            ch = ch[~_on(other, other.road.strip, at, verge) | (ch > a.start + 20)]
    ends = [
        sight.to_drawing(np.column_stack(a.point(ch, o * 5 / sight.scale))) for o in (-1.0, 1.0)
    ]
    ok = ~np.isnan(np.hstack(ends)).any(axis=1)
    yield Segments("chainage-tick", np.hstack(ends)[ok])
    at = sight.to_drawing(
        np.column_stack(a.point(ch, _beside_road(r, ch, "right") + 24 / sight.scale))
    )
    for (x, y), c in zip(at.tolist(), ch.tolist(), strict=True):
        if x == x and -20 < x < sight.width + 20:
            labels.put("chainage", u.chainage(c, 0), [(x, y + 4, "middle")])


def turning_marks(r: RoadFacts, sight: PlanSight, labels: Labels, u: Units) -> Iterator[Mark]:
    """Low points (water gathers there) and crests of the profile in force."""
    for ch, kind in r.profile.turning_points() if r.profile is not None else ():
        [[x, y]] = sight.to_drawing(np.column_stack(r.alignment.point(np.array([ch])))).tolist()
        if x != x:
            continue
        yield Fill("design", turning_point(x, y, kind))
        labels.put(
            "design",
            f"{kind.capitalize()} {u.chainage(ch, 1)}",
            [(x + 9, y + 14, "left"), (x + 9, y - 7, "left")],
        )


def road_name(r: RoadFacts, sight: PlanSight, labels: Labels) -> Iterator[Mark]:
    """The name along the road, at the first place where it stands whole."""
    a = r.alignment
    wide = max(s.left for s in r.road.strip.sections) if r.road.strip is not None else 0.0
    for share in (0.55, 0.7, 0.4, 0.85, 0.25, 0.3, 0.5, 0.6):
        ch = a.start + share * a.length
        p = sight.to_drawing(
            np.column_stack(a.point(np.array([ch - 3, ch, ch + 3]), -(wide + 9 / sight.scale)))
        )
        if np.isnan(p).any() or not (
            60 < p[1, 0] < sight.width - 60 and 50 < p[1, 1] < sight.height - 30
        ):
            continue
        angle = float(np.degrees(np.arctan2(p[2, 1] - p[0, 1], p[2, 0] - p[0, 0])))
        turned = (angle + 90) % 180 - 90
        half = 46.0
        c, s = abs(np.cos(np.radians(turned))), abs(np.sin(np.radians(turned)))
        box = (
            p[1, 0] - half * c - 6,
            p[1, 1] - half * s - 6,
            p[1, 0] + half * c + 6,
            p[1, 1] + half * s + 6,
        )
        if labels.free(box):
            labels.block(box)
            yield Text(
                "road-name",
                r.road.name,
                float(p[1, 0]),
                float(p[1, 1]) + 4,
                "middle",
                turned,
                plate=True,
            )
            return
