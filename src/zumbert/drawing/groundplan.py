"""The plan under the network: ground, drawings by others, land, roads, services and spot levels."""

from collections.abc import Iterator

import numpy as np

from zumbert.analysis.facts import Facts
from zumbert.analysis.surfaces import levels
from zumbert.drawing.contours import contour_marks
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
from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.tin import Tin
from zumbert.model.background import Background
from zumbert.model.land import Land
from zumbert.model.service import ServiceLine

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
            marks += faded(contour_marks(facts, surface, sight, labels, margin), surface.strength)
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
    """The targets of the ground: spot levels before services before roads before
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
