"""The plan under the network: ground, drawings by others, land, roads, services and spot levels."""

import itertools
from collections.abc import Iterator
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from zumbert.analysis.facts import Facts
from zumbert.analysis.surfaces import levels
from zumbert.drawing.flowmarks import washes
from zumbert.drawing.labels import Labels, text_box
from zumbert.drawing.marks import Fill, Mark, Raster, Segments, Target, Text, faded, points
from zumbert.drawing.planroads import (
    carriageway,
    chainage_ticks,
    chainages_seen,
    road_edges,
    road_name,
    turning_marks,
)
from zumbert.drawing.sight import PlanSight
from zumbert.drawing.strokes import strokes
from zumbert.drawing.style import text_width
from zumbert.geometry.contours import contours
from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.tin import Tin
from zumbert.model.background import Background
from zumbert.model.display import METRIC, Units
from zumbert.model.land import Land
from zumbert.model.service import ServiceLine
from zumbert.model.surface import Surface

MOST_LEVELS, MOST_PIECES = 2_000, 600_000  # of contours of one surface
READABLE, MOST_TEXTS = 5.0, 800  # drawing units of a drawing's letters, and how many of its texts
SHADE_CELL = 5.0  # drawing units of one cell of the slope shading
STEEP = 0.66  # slope (fraction) that is shaded fully


def seen_on_ground(facts: Facts, areas: bool = False) -> tuple[object, ...]:
    """All that ground, roads and (if asked for) areas are drawn from: where the parts are the
    same, so are they.
    """
    p = facts.project
    of_areas = (facts.areas, facts.places, p.area_kinds) if areas else ()
    return (
        facts.roads,
        facts.surfaces,
        p.settings,
        p.surfaces,
        p.backgrounds,
        p.land,
        p.services,
        p.spots,
        *of_areas,
    )


def base(facts: Facts, sight: PlanSight, margin: float = 0.0, areas: bool = False) -> list[Mark]:
    """Everything that stays while pipes are edited, with the areas that drain to structures if
    asked for. It is drawn with a margin outside the view; a label lies entirely inside the view or
    entirely outside.
    """
    paper = points((0, 0), (sight.width, 0), (sight.width, sight.height), (0, sight.height))
    marks: list[Mark] = [Fill("paper", paper)]
    labels = Labels(plates=True)
    project = facts.project
    roads = [r for r in facts.roads.values() if r.road.shown]
    if project.settings.shading and facts.surfaces.existing is not None:
        marks += _shading(facts.surfaces.existing, sight)
    for surface in project.surfaces.values():
        if surface.shown:
            marks += faded(_contours(facts, surface, sight, labels, margin), surface.strength)
    for b in project.backgrounds.values():
        if b.shown:
            marks += faded(_background(b, sight), b.strength)
    for r in roads:
        marks += faded(carriageway(r, sight), r.road.strength)
    if areas:
        marks += washes(facts, sight, labels)
    for area in project.land.values():
        if area.shown:
            marks += faded(_land(area, sight, labels), area.strength)
    for r in roads:
        marks += faded(road_edges(r, roads, sight), r.road.strength)
    for line in project.services.values():
        if line.shown:
            marks += faded(_service(line, sight, labels), line.strength)
    for r in roads:
        marks += turning_marks(r, sight, labels, facts.units)
    for r in roads:
        marks += chainage_ticks(r, roads, sight, labels, facts.units)
    for r in roads:
        marks += road_name(r, sight, labels)
    marks += _spots(facts, sight, labels)
    return marks + list(labels.texts)


def ground_targets(facts: Facts, sight: PlanSight) -> list[Target]:
    """What can be picked in the stage Ground: spot levels before services before roads before
    land.
    """
    project = facts.project
    out = []
    for key, spot in project.spots.items():
        out.append(Target("spot", key, sight.to_drawing(np.array([[spot.x, spot.y]])), 9.0))
    for vkey, line in project.services.items():
        if line.shown:
            out.append(Target("service", vkey, sight.to_drawing(_axis(line)), 7.0))
    for rkey, r in facts.roads.items():
        if r.road.shown:
            ch = chainages_seen(r, sight)
            out.append(
                Target("road", rkey, sight.to_drawing(np.column_stack(r.alignment.point(ch))), 6.0)
            )
    for lkey, area in project.land.items():
        if area.shown:
            out.append(Target("land", lkey, sight.to_drawing(_ring(area)), 6.0))
    return [t for t in out if not np.isnan(t.xy).any()]


def item_halo(facts: Facts, kind: str, key: str, sight: PlanSight) -> list[Mark]:
    """A halo round the selected thing."""
    project = facts.project
    if kind == "road" and key in facts.roads:
        r = facts.roads[key]  # type: ignore[index]
        xy = np.column_stack(r.alignment.point(chainages_seen(r, sight)))
    elif kind == "service" and key in project.services:
        xy = _axis(project.services[key])  # type: ignore[index]
    elif kind == "land" and key in project.land:
        xy = _ring(project.land[key])  # type: ignore[index]
    elif kind == "spot" and key in project.spots:
        spot = project.spots[key]  # type: ignore[index]
        xy = np.array([[spot.x - 0.01, spot.y], [spot.x + 0.01, spot.y]])
    else:
        return []
    return list(strokes("halo-wide", sight.to_drawing(xy)))


# -- ground ----------------------------------------------------------------------------------------


def contour_steps(scale: float, units: Units = METRIC) -> tuple[float, float]:
    """Metres between minor and major contours at a scale (drawing units a metre), round in the
    project's unit.
    """
    scale, metres = scale * units.metres, units.metres
    for least, minor, major in (
        (6.0, 0.2, 1.0),
        (2.5, 0.5, 1.0),
        (1.0, 1.0, 5.0),
        (0.3, 2.5, 10.0),
    ):
        if scale >= least:
            return minor * metres, major * metres
    return 5.0 * metres, 25.0 * metres


@lru_cache(maxsize=64)
def contour_ceiling(tin: Tin, minor: float) -> float:
    """The step (m) between contours, no less than is asked for, at which there are not too many
    levels or pieces.
    """
    z = tin.vertices[tin.faces, 2]
    low, high = z.min(axis=1), z.max(axis=1)
    step = minor
    for by in itertools.cycle((2.0, 2.5, 2.0)):
        pieces = float((np.floor(high / step) - np.floor(low / step)).sum())
        if (high.max() - low.min()) / step <= MOST_LEVELS and pieces <= MOST_PIECES:
            return step
        step *= by
    raise AssertionError  # the cycle has no end


@lru_cache(maxsize=6)
def _pieces(tin: Tin, minor: float) -> tuple[Array, Array]:
    """Contour pieces and their levels; the last ones asked for are kept, since panning asks
    again and again.
    """
    z = tin.vertices[tin.used, 2]
    levels = np.arange(np.floor(z.min() / minor), np.ceil(z.max() / minor) + 1) * minor
    xy, index = contours(tin, levels)
    return xy, levels[index]


@lru_cache(maxsize=4)
def _tin(surface: Surface) -> Tin:
    """A surface without a role in force, ready for its contours; the last ones are kept."""
    return Tin(surface.vertices, surface.faces)


def _tin_of(facts: Facts, surface: Surface) -> Tin:
    for tin in (
        facts.surfaces.existing,
        facts.surfaces.design,
        facts.surfaces.formation,
        facts.surfaces.rock,
    ):
        if isinstance(tin, Tin) and tin.is_of(surface.vertices):
            return tin
    return _tin(surface)


class Contours(NamedTuple):
    """The contours of a surface at a scale."""

    role: str  # without -minor and -major
    xy: Array  # straight pieces (n, 4), m
    level: Array  # of each, m above datum
    major: Mask  # which of them are
    thinned: float | None  # m between them where the step that was asked for gives too many


def surface_contours(facts: Facts, surface: Surface, scale: float) -> Contours | None:
    """The contours of a surface at a scale (drawing units a metre); None where it has no
    triangle.
    """
    role = "contour" if surface.role in ("existing", "none", "rock") else "contour-design"
    return tin_contours(facts, _tin_of(facts, surface), role, scale)


def tin_contours(facts: Facts, tin: Tin, role: str, scale: float) -> Contours | None:
    """The same of triangles."""
    u, typed = facts.units, facts.project.settings.contours
    wanted, major = contour_steps(scale, u) if typed is None else (typed, 5 * typed)
    if not len(tin.faces):
        return None
    minor = contour_ceiling(tin, wanted)
    if minor > wanted:
        major = 5 * minor
    xy, level = _pieces(tin, minor)
    whole = np.abs(level / major - np.round(level / major)) < 1e-6
    return Contours(role, xy, level, whole, minor if minor > wanted else None)


def _contours(
    facts: Facts, surface: Surface, sight: PlanSight, labels: Labels, margin: float
) -> Iterator[Mark]:
    found, u = surface_contours(facts, surface, sight.scale), facts.units
    if found is None:
        return
    lines, xy, level, whole, thinned = found
    if thinned is not None:
        words = (
            f"{surface.name}: contours each {u.contour(thinned)} {u.m}, nearer ones would be too "
            "many"
        )
        yield Text("small", words, margin + 16, sight.height - margin - 42, plate=True)
    a, b = sight.to_drawing(xy[:, :2]), sight.to_drawing(xy[:, 2:])
    low, high = np.minimum(a, b), np.maximum(a, b)
    wide, tall = sight.width + 60, sight.height + 60
    keep = (high[:, 0] > -60) & (low[:, 0] < wide) & (high[:, 1] > -60) & (low[:, 1] < tall)
    world = np.hypot(xy[:, 2] - xy[:, 0], xy[:, 3] - xy[:, 1]) * sight.scale
    keep &= (
        np.hypot(*(b - a).T) < 3 * world + 4
    )  # not torn apart at a bend; NaN (not in sight) compares false
    a, b, level, whole = a[keep], b[keep], level[keep], whole[keep]
    yield Segments(f"{lines}-minor", np.column_stack([a, b])[~whole])
    yield Segments(f"{lines}-major", np.column_stack([a, b])[whole])
    mid = (a[whole] + b[whole]) / 2
    x, y, right, under = mid[:, 0], mid[:, 1], sight.width - margin, sight.height - margin
    inside = (x > margin + 40) & (x < right - 40) & (y > margin + 46) & (y < under - 40)
    yield from _contour_labels(a[whole], b[whole], level[whole], inside, labels, u, lines)
    beyond = (x < margin - 20) | (x > right + 20) | (y < margin - 12) | (y > under + 12)
    yield from _contour_labels(a[whole], b[whole], level[whole], beyond, labels, u, lines)


def _contour_labels(
    a: Array, b: Array, level: Array, inside: Mask, labels: Labels, u: Units, role: str
) -> Iterator[Mark]:
    mid = (a + b) / 2
    for n, z in enumerate(np.unique(level[inside]).tolist()):
        rows = np.flatnonzero(inside & (level == z))
        for share in (0.25, 0.75, 0.5):
            low, high = mid[inside, 0].min(), mid[inside, 0].max()
            want = low + (high - low) * ((share + 0.17 * n) % 1.0)
            i = rows[int(np.abs(mid[rows, 0] - want).argmin())]
            x, y = mid[i]
            box = (x - 18, y - 9, x + 18, y + 9)
            if labels.free(box):
                labels.block(box)
                angle = float(np.degrees(np.arctan2(b[i, 1] - a[i, 1], b[i, 0] - a[i, 0])))
                angle = (angle + 90) % 180 - 90
                c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
                yield Text(role, u.contour(z), x - 4 * s, y + 4 * c, "middle", angle, plate=True)
                break


def _shading(tin: Tin, sight: PlanSight) -> Iterator[Mark]:
    """Darker where the ground is steeper, by cells."""
    columns, rows = int(np.ceil(sight.width / SHADE_CELL)), int(np.ceil(sight.height / SHADE_CELL))
    x, y = np.meshgrid(
        (np.arange(columns) + 0.5) * SHADE_CELL, (np.arange(rows) + 0.5) * SHADE_CELL
    )
    world = sight.to_world(np.column_stack([x.ravel(), y.ravel()]))
    slope = tin.slope(world[:, 0], world[:, 1]).reshape(rows, columns)
    yield Raster("shade", 0.0, 0.0, SHADE_CELL, np.clip(np.nan_to_num(slope) / STEEP, 0.0, 1.0))


# -- others' drawings and things -------------------------------------------------------------------


def _seen(ends: tuple[Array, Array], sight: PlanSight, more: float = 20.0) -> Mask:
    """Which straight pieces meet the drawing; NaN compares false."""
    low, high = np.minimum(*ends), np.maximum(*ends)
    inside = (high[:, 0] > -more) & (low[:, 0] < sight.width + more)
    return np.asarray(inside & (high[:, 1] > -more) & (low[:, 1] < sight.height + more))


def _background(b: Background, sight: PlanSight) -> Iterator[Mark]:
    """A drawing by others, the layers that are on."""
    on = np.array([name not in b.off for name in b.layers], bool)[b.layer]
    ends = sight.to_drawing(b.segments[on, :2]), sight.to_drawing(b.segments[on, 2:])
    yield Segments("background", np.hstack(ends)[_seen(ends, sight)])
    yield from _texts(b, sight)


def _texts(b: Background, sight: PlanSight) -> Iterator[Mark]:
    """The texts of a drawing whose letters are high enough to be read, of too many the first."""
    texts = [t for t in b.texts if t.layer not in b.off and t.height * sight.scale >= READABLE]
    if not texts:
        return
    at = np.array([(t.x, t.y) for t in texts], float)
    along = np.array([(np.cos(t.turn), -np.sin(t.turn)) for t in texts])
    xy, end = sight.to_drawing(at), sight.to_drawing(at + along)
    seen = _seen((xy, end), sight)
    for i in np.flatnonzero(seen)[:MOST_TEXTS].tolist():
        dx, dy = (end[i] - xy[i]).tolist()
        yield Text(
            "drawn",
            texts[i].text,
            float(xy[i, 0]),
            float(xy[i, 1]),
            angle=float(np.degrees(np.arctan2(dy, dx))),
        )


def _ring(area: Land) -> Array:
    return np.array([*area.ring, area.ring[0]], float)


def _land(area: Land, sight: PlanSight, labels: Labels) -> Iterator[Mark]:
    """The limit of an area with its name along its longest side in view."""
    xy = sight.to_drawing(_dense(_ring(area), sight))
    yield from strokes("limit", xy)
    _along(area.name, "limit", sight.to_drawing(_ring(area)), sight, labels)


def _dense(xy: Array, sight: PlanSight) -> Array:
    """More points along a line where the plan is straightened, so that it bends with it."""
    if hasattr(sight, "turn"):
        return xy
    d = np.diff(xy, axis=0)
    parts = np.maximum(1, (np.hypot(d[:, 0], d[:, 1]) / 4.0).astype(int))
    first = np.repeat(np.cumsum(parts) - parts, parts)
    share = (np.arange(parts.sum()) - first) / np.repeat(parts, parts)
    return np.vstack(
        [np.repeat(xy[:-1], parts, axis=0) + share[:, None] * np.repeat(d, parts, axis=0), xy[-1:]]
    )


def _along(text: str, role: str, xy: Array, sight: PlanSight, labels: Labels) -> None:
    """A text beside the longest piece of a line that has its middle in view, where it is shorter
    than that; pieces that bend by less than 8° count as one.
    """
    xy = _straightened(xy)
    mid, d = (xy[:-1] + xy[1:]) / 2, np.diff(xy, axis=0)
    inside = (
        (mid[:, 0] > 50)
        & (mid[:, 0] < sight.width - 50)
        & (mid[:, 1] > 20)
        & (mid[:, 1] < sight.height - 20)
    )
    long = np.where(inside, np.hypot(d[:, 0], d[:, 1]), -1.0)
    for i in np.argsort(-long)[:4].tolist():
        if long[i] < text_width(text, role) + 8:
            return
        angle = float(np.degrees(np.arctan2(d[i, 1], d[i, 0])) + 90) % 180 - 90
        c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
        x, y = float(mid[i, 0] + 6 * s), float(mid[i, 1] - 6 * c)
        t = Text(role, text, x, y, "middle", angle, plate=True)
        if labels.free(text_box(t)):
            labels.block(text_box(t))
            labels.texts.append(t)
            return


def _straightened(xy: Array) -> Array:
    """A line without the corners at which it bends by less than 8°."""
    d = np.diff(xy, axis=0)
    turn = np.diff(np.unwrap(np.arctan2(d[:, 1], d[:, 0])))
    keep, sofar = [0], 0.0
    for i, t in enumerate(turn.tolist(), 1):
        sofar += t
        if not abs(sofar) < np.radians(8):
            keep.append(i)
            sofar = 0.0
    return xy[[*keep, len(xy) - 1]]


def _axis(line: ServiceLine) -> Array:
    return np.array([(x, y) for x, y, _ in line.points], float)


def _service(line: ServiceLine, sight: PlanSight, labels: Labels) -> Iterator[Mark]:
    """A service, dotted, with its label."""
    yield from strokes("service", sight.to_drawing(_dense(_axis(line), sight)))
    _along(f"{line.label} {line.kind}", "service", sight.to_drawing(_axis(line)), sight, labels)


def _spots(facts: Facts, sight: PlanSight, labels: Labels) -> Iterator[Mark]:
    """Spot levels: a cross, and the level of the surface that each follows now."""
    spots = list(facts.project.spots.values())
    if not spots:
        return
    world = np.array([(s.x, s.y) for s in spots], float)
    for s, (x, y) in zip(spots, sight.to_drawing(world).tolist(), strict=True):
        if not (-20 < x < sight.width + 20 and -20 < y < sight.height + 20):
            continue
        z = float(levels(getattr(facts.surfaces, s.follows), s.x, s.y))
        yield Segments(
            "spot", np.array([(x - 4, y - 4, x + 4, y + 4), (x - 4, y + 4, x + 4, y - 4)])
        )
        role = "ground" if s.follows == "existing" else "design"
        text = facts.units.level(None if z != z else z)
        labels.put(
            role,
            text,
            [(x + 7, y + 4, "left"), (x - 7, y + 4, "right"), (x, y - 8, "middle")],
            always=True,
        )


# -- roads -----------------------------------------------------------------------------------------
