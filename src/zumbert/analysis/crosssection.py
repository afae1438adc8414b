"""Cross-sections of trenches on their own ground, left and right of the axis, and volumes by
average end areas.
"""

from collections.abc import Callable, Iterable
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from zumbert.analysis.cells import pit_outline
from zumbert.analysis.digs import Dig, TrenchShape, chamber_sides, is_dug, trench_type
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.plots import World
from zumbert.analysis.spans import Span
from zumbert.analysis.strata import Layer
from zumbert.analysis.surfaces import Ground
from zumbert.analysis.trench import Trenches, TrenchFacts
from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line, between, level_at, lower
from zumbert.geometry.prisms import stretches_over
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.trench import Upper

BESIDE = 2.5  # m of ground shown beside a trench, at least


class CrossSection(NamedTuple):
    """A section square to a pipe, facing down its flow; offsets (m) from the axis, positive to
    the right, and levels (m).
    """

    pipe: PipeId
    s: float  # m along the pipe
    half: float  # m to either side that the lines reach
    ground: Line | None
    design: Line | None
    formation: Line | None
    strata: tuple[tuple[str, Line], ...]  # names and tops, from the ground down
    upper: Line | None
    invert: float
    trench: "Cut | None"  # None: no trench is dug here, or its ground is not known
    pit: "PitCut | None" = None  # of the structure whose pit this is in


class PitCut(NamedTuple):
    """A pit in a cross-section, with the chamber in it; from and to are offsets from the pipe's
    axis, m.
    """

    structure: StructureId
    bottom: float  # m above datum, underside of the base
    begin: float
    end: float
    chamber: tuple[float, float] | None  # its outside here; None: the section passes it
    floor: float  # m above datum, of the sump
    rim: float
    wall: float  # m


class Cut(NamedTuple):
    """The outline of a trench in a cross-section."""

    bottom: float  # m above datum
    # (n, 2): from where its left side meets the upper surface round the bottom to where the right
    # one does
    outline: Array
    area: float  # m²
    by_stratum: dict[str, float]  # m²
    left: float  # m, depth where the left side meets the surface
    right: float

    @property
    def top_width(self) -> float:
        """Width at the upper surface, m."""
        return float(self.outline[-1, 0] - self.outline[0, 0])


def across(tin: Ground | None, span: Span, s: float, half: float) -> Line | None:
    """A surface along the line square to a pipe at a distance; None where it has nothing there."""
    if tin is None:
        return None
    x, y = span.point(s)
    dx, dy = span.across(s)
    at, z = tin.section(np.array([(x - half * dx, y - half * dy), (x + half * dx, y + half * dy)]))
    return None if np.isnan(z).all() else Line(at - half, z)


def cross_section(dug: Trenches, pipe: PipeId, s: float, half: float | None = None) -> CrossSection:
    """The cross-section of a pipe at a distance (m), over so much to either side (m), or as much
    as the trench needs.
    """
    facts, world = dug.facts, dug.world
    f = facts.pipes[pipe]
    t = dug.pipes[pipe]
    there = t.dig is not None and t.begin - 1e-9 <= s <= t.end + 1e-9
    wide = half or half_needed(t)
    on = world.surfaces
    ground, design, formation = (
        across(tin, f.span, s, wide) for tin in (on.existing, on.design, on.formation)
    )
    upper = _upper(ground, formation, trench_type(facts.project, f.pipe).upper, world.stripped)
    strata = tuple(
        (layer.name, top)
        for layer in world.layers
        if (top := _top(world, layer, f.span, s, wide)) is not None
    )
    cut = None
    if there and t.dig is not None and upper is not None and upper.solid:
        cut = cut_at_section(t.dig, t.bottom(s), upper, strata)
    pit = None if cut is not None else _pit(dug, f, s)
    return CrossSection(
        pipe, s, wide, ground, design, formation, strata, upper, f.invert(s), cut, pit
    )


def _pit(dug: Trenches, f: PipeFacts, s: float) -> PitCut | None:
    """The pit at either end of a pipe that a section at a distance is in."""
    project, span = dug.facts.project, f.span
    near = (span.up, f.pipe.up, s), (span.down, f.pipe.down, span.length - s)
    for place, key, _ in sorted(near, key=lambda n: n[2]):
        pit = dug.pits.get(key)
        if pit is None or pit.bottom is None:
            continue
        across_pit = _chord(span, s, pit.plan.outline)
        if across_pit is None:
            continue
        record = pit.structure.structure
        outline = pit_outline(
            place.x or 0.0, place.y or 0.0, chamber_sides(project, record), place.bearing
        )
        rim = pit.structure.place.rim
        floor = pit.structure.sump_level if pit.structure.sump_level is not None else pit.bottom
        return PitCut(
            record.id,
            pit.bottom,
            *across_pit,
            _chord(span, s, outline),
            floor,
            pit.bottom if rim is None else rim,
            project.types[record.type].wall,
        )
    return None


def _chord(span: Span, s: float, outline: Array) -> tuple[float, float] | None:
    """From and to where the line square to a pipe runs inside a convex outline, offsets in m;
    None where it passes it.
    """
    x, y = span.point(s)
    dx, dy = span.across(s)
    edge = np.roll(outline, -1, axis=0) - outline
    normal = np.column_stack([edge[:, 1], -edge[:, 0]])
    room = (normal * (outline - [x, y])).sum(axis=1)
    turn = normal @ [dx, dy]
    flat = np.abs(turn) < 1e-12
    if (room[flat] < 0).any():
        return None
    at = room[~flat] / turn[~flat]
    low, high = at[turn[~flat] < 0].max(initial=-np.inf), at[turn[~flat] > 0].min(initial=np.inf)
    return (float(low), float(high)) if high > low else None


def half_needed(t: TrenchFacts) -> float:
    """How far to either side a cross-section should reach, m."""
    if t.dig is None or t.depth_max is None:
        return BESIDE + 1.0
    sides = t.dig.sides(t.depth_max)
    return (sides[-1].out_to if sides else t.dig.width / 2) + BESIDE


def _upper(
    ground: Line | None, formation: Line | None, upper: Upper, stripped: float
) -> Line | None:
    if ground is not None and stripped:
        ground = Line(ground.s, ground.z - stripped)
    if upper == "formation":
        return formation
    if upper == "existing" or formation is None or ground is None:
        return ground if ground is not None or upper == "existing" else formation
    return lower(ground, formation)


def _top(world: World, layer: Layer, span: Span, s: float, half: float) -> Line | None:
    """The top of a stratum: the lowest of what it lies under; None where one of them is missing."""
    out: Line | None = None
    for roof in layer.roofs:
        tin = world.surfaces.existing if roof.tin is None else roof.tin
        line = across(tin, span, s, half)
        if line is None:
            return None
        line = Line(line.s, line.z - roof.lowered)
        out = line if out is None else lower(out, line)
    return out


def floor_line(dig: TrenchShape, tall: float) -> Array:
    """The right half of a trench's section (n, 2): distances out and heights over the bottom,
    from the foot of the side up.
    """
    points = [
        (dig.width / 2, 0.0),
        (dig.width / 2, dig.size.vertical_height if dig.sloped else tall),
    ]
    for side in dig.sides(tall):
        points += [(side.out, side.rise), (side.out_to, side.rise_to)]
    points.append((points[-1][0], max(tall, points[-1][1])))
    kept = [p for p, q in pairwise(points) if p != q]
    return np.array([*kept, points[-1]])


def cut_at_section(
    dig: Dig, bottom: float, upper: Line, strata: Iterable[tuple[str, Line]]
) -> Cut | None:
    """The trench in one section; None where it lies over the upper surface at its axis."""
    middle = float(level_at(upper, 0.0))
    if not middle > bottom:
        return None
    tall = float(np.nanmax(upper.z)) - bottom + 1e-6
    right = np.add(floor_line(dig, max(tall, 0.01)), (0.0, bottom))
    ends = [_daylight(upper, right, side) for side in (-1.0, 1.0)]
    halves = [
        np.concatenate([right[: i + 1], [(out, level)]]) * [side, 1.0]
        for side, (i, out, level) in zip((-1, 1), ends, strict=True)
    ]
    outline = np.concatenate([halves[0][::-1], halves[1]])
    area = float(areas(dig, [bottom], [upper])[0])
    under = [(n, float(areas(dig, [bottom], [_lower_of(upper, top)])[0])) for n, top in strata]
    by_stratum: dict[str, float] = {}
    for i, (name, a) in enumerate(under):
        part = a - (under[i + 1][1] if i + 1 < len(under) else 0.0)
        by_stratum[name] = by_stratum.get(name, 0.0) + part
    return Cut(
        bottom,
        outline,
        area,
        {k: v for k, v in by_stratum.items() if v > 1e-9},
        ends[0][2] - bottom,
        ends[1][2] - bottom,
    )


def _lower_of(upper: Line, top: Line) -> Line:
    """The lower of two, over what both cover; far down where the second is missing."""
    if top.solid:
        return lower(upper, top)
    z = np.where(np.isnan(top.z), -1e6, top.z)
    return lower(upper, Line(top.s, z))


def _daylight(upper: Line, right: Array, side: float) -> tuple[int, float, float]:
    """Where a side meets the upper surface: the number of the piece of the side, the distance
    out and the level.
    """
    for i, ((out, z), (out_to, z_to)) in enumerate(pairwise(right.tolist())):
        if out_to - out < 1e-12:
            level = float(level_at(upper, side * out))
            if level <= z_to:
                return i, out, max(z, level)
            continue
        a, b = sorted((side * out, side * out_to))
        part = between(upper, max(a, float(upper.s[0])), min(b, float(upper.s[-1])))
        points = sorted(zip((side * part.s).tolist(), part.z.tolist(), strict=True))
        over = [(u, level - (z + (u - out) / (out_to - out) * (z_to - z))) for u, level in points]
        for (u, h), (v, g) in pairwise(over):
            if h >= 0 >= g:
                at = u + (v - u) * (h / (h - g) if h > g else 0.0)
                return i, at, z + (at - out) / (out_to - out) * (z_to - z)
    return len(right) - 1, float(right[-1, 0]), float(right[-1, 1])


def areas(dig: Dig, bottoms: Iterable[float], uppers: list[Line]) -> Array:
    """Areas (m²) of sections with bottoms (m above datum) under their upper surfaces: exact,
    left and right on their own ground.
    """
    return np.asarray(areas_by_side(dig, bottoms, uppers).sum(axis=0))


def areas_by_side(dig: Dig, bottoms: Iterable[float], uppers: list[Line]) -> Array:
    """The same left and right of the axis, as (2, n)."""
    count = [len(line.s) for line in uppers]
    owner = np.repeat(np.arange(len(uppers)), count)
    u, z = np.concatenate([line.s for line in uppers]), np.concatenate([line.z for line in uppers])
    h = z - np.array(list(bottoms))[owner]
    same = owner[1:] == owner[:-1]
    which, a, b, ha, hb = owner[1:][same], u[:-1][same], u[1:][same], h[:-1][same], h[1:][same]
    known = ~(np.isnan(ha) | np.isnan(hb)) & (b - a > 1e-12)
    which, a, b, ha, hb = which[known], a[known], b[known], ha[known], hb[known]
    half = dig.width / 2
    out = np.zeros((2, len(uppers)))
    strips = [(-half, 0.0, 0.0, 0.0), (0.0, half, 0.0, 0.0)]
    for side in dig.sides(float(h[~np.isnan(h)].max(initial=0.0)) + 1e-6):
        strips += [
            (side.out, side.out_to, side.rise, side.rise_to),
            (-side.out_to, -side.out, side.rise_to, side.rise),
        ]
    for start, stop, rise, rise_to in strips:
        low, high = np.maximum(a, start), np.minimum(b, stop)
        on = np.flatnonzero(high > low)
        if not on.size or stop <= start:
            continue
        at = np.stack([low[on], high[on]])
        top = ha[on] + (at - a[on]) / (b[on] - a[on]) * (hb[on] - ha[on])
        floor = rise + (at - start) / (stop - start) * (rise_to - rise)
        strip = stretches_over(high[on] - low[on], *(top - floor))
        out[int(start >= 0)] += np.bincount(which[on], weights=strip, minlength=len(uppers))
    return out


def stations(t: TrenchFacts, ground: Line | None, spacing: float) -> Array:
    """Where the sections of a trench stand (m along the pipe): at a spacing, at both ends, and
    at each vertex of the ground.
    """
    own = np.zeros(0) if ground is None else ground.s[(ground.s > t.begin) & (ground.s < t.end)]
    s = np.concatenate([[t.begin, t.end], own, np.arange(t.begin, t.end, spacing)])
    s = np.unique(s)
    return np.asarray(s[np.concatenate([[True], np.diff(s) > 1e-6])])


def section_volumes(
    dug: Trenches, spacing: float | None = None, tell: Callable[[float], None] = lambda share: None
) -> dict[PipeId, float]:
    """Volumes (m³) of all trenches by average end areas of sections at a spacing (m; None: that
    of each type).
    """
    facts: Facts = dug.facts
    out: dict[PipeId, float] = {}
    for i, (key, t) in enumerate(dug.pipes.items()):
        if (
            t.excavation is None
            or t.dig is None
            or t.length <= 1e-9
            or not is_dug(facts.project, t.pipe.pipe)
        ):
            continue
        if i % 50 == 0:
            tell(i / len(dug.pipes))
        kind = trench_type(facts.project, t.pipe.pipe)
        s = stations(t, t.pipe.span.ground, spacing or kind.spacing)
        area = areas(
            t.dig,
            [t.bottom(v) for v in s.tolist()],
            uppers_across(dug.world, t, t.dig, s, kind.upper),
        )
        out[PipeId(key)] = float((np.diff(s) * (area[:-1] + area[1:]) / 2).sum())
    return out


def uppers_across(world: World, t: TrenchFacts, dig: Dig, s: Array, upper: Upper) -> list[Line]:
    """The upper surface across a trench, dug so, at distances."""
    sides = dig.sides(0.0 if t.plot is None else t.plot.tall)
    half = (sides[-1].out_to if sides else dig.width / 2) + 0.01
    span = t.pipe.span
    at = span.points(s)
    right = np.array([span.across(v) for v in s.tolist()])
    lines: list[list[Line] | list[None]] = []
    for tin in (world.surfaces.existing, world.surfaces.formation if upper != "existing" else None):
        if tin is None:
            lines.append([None] * len(s))
            continue
        offsets, u, z = tin.sections(at - half * right, at + half * right)
        lines.append(
            [
                Line(u[p:q] - half, z[p:q])
                for p, q in zip(offsets[:-1].tolist(), offsets[1:].tolist(), strict=True)
            ]
        )
    empty = Line(np.array([-half, half]), np.full(2, np.nan))
    return [_upper(g, f, upper, world.stripped) or empty for g, f in zip(*lines, strict=True)]


def edges_in_plan(t: TrenchFacts, world: World, spacing: float = 2.5) -> tuple[Array, Array]:
    """Where the left and the right side of a trench come out of the ground, places (n, 2) in m
    along it, by sections at a spacing. Where it lies over the ground they are the edges of its
    bottom; where nothing is dug there are none.
    """
    dig = t.dig
    if dig is None:
        return np.zeros((0, 2)), np.zeros((0, 2))
    s = np.unique(np.append(np.arange(t.begin, t.end, spacing), t.end))
    sides: tuple[list[float], list[float]] = ([], [])
    for at, upper in zip(s.tolist(), uppers_across(world, t, dig, s, dig.upper), strict=True):
        cut = cut_at_section(dig, t.bottom(at), upper, ()) if upper.solid else None
        half = dig.width / 2
        for out, x in zip(
            sides,
            (-half, half) if cut is None else (cut.outline[0, 0], cut.outline[-1, 0]),
            strict=True,
        ):
            out.append(float(x))
    span = t.pipe.span
    point, across_ = (np.array([f(v) for v in s.tolist()]) for f in (span.point, span.across))
    left, right = (point + np.array(out)[:, None] * across_ for out in sides)
    return left, right
