"""The plan: ground and roads as a base, the network over it. Straightened or not, the same marks."""

from collections.abc import Iterator, Sequence
from functools import lru_cache

import numpy as np

from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.roads import RoadFacts
from zumbert.checks.finding import Finding
from zumbert.drawing.labels import Labels, around, text_box
from zumbert.drawing.marks import (
    Composed,
    Disc,
    Fill,
    Mark,
    Segments,
    Stroke,
    Target,
    Text,
    arrow,
    lozenge,
    notch,
    points,
    turning_point,
)
from zumbert.drawing.picture import Picture
from zumbert.drawing.sight import PlanSight
from zumbert.geometry.contours import contours
from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.strip import at_chainages
from zumbert.geometry.tin import Tin
from zumbert.model.display import METRIC, Units
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.structure import Structure

NEAR = 6.0  # drawing units a metre: from here on pipes show open arrows
BARREL = 5.0  # drawing units: pipes at least this wide are drawn at true width


def base(facts: Facts, sight: PlanSight, margin: float = 0.0) -> list[Mark]:
    """Ground and roads: what does not change while pipes are edited. A margin all round is drawn but not in view yet:
    labels stand whole inside the view or whole outside.
    """
    paper = points((0, 0), (sight.width, 0), (sight.width, sight.height), (0, sight.height))
    marks: list[Mark] = [Fill("paper", paper)]
    labels = Labels()
    roads = list(facts.roads.values())
    road_marks = [m for r in roads for m in _carriageway(r, sight)]
    if facts.surfaces.existing is not None:
        marks += _contours(facts.surfaces.existing, sight, labels, margin, facts.units)
    marks += _backgrounds(facts, sight)
    marks += road_marks
    for r in roads:
        marks += _edges(r, roads, sight)
    for r in roads:
        marks += _turning_points(r, sight, labels, facts.units)
    for r in roads:
        marks += _ticks(r, roads, sight, labels, facts.units)
    for r in roads:
        marks += _road_name(r, sight, labels)
    return marks + list(labels.texts)


# -- ground ------------------------------------------------------------------------------------------------------------


def contour_steps(scale: float, units: Units = METRIC) -> tuple[float, float]:
    """Metres between minor and major contours at a scale (drawing units a metre), round in the project's unit."""
    scale, metres = scale * units.metres, units.metres
    for least, minor, major in ((6.0, 0.2, 1.0), (2.5, 0.5, 1.0), (1.0, 1.0, 5.0), (0.3, 2.5, 10.0)):
        if scale >= least:
            return minor * metres, major * metres
    return 5.0 * metres, 25.0 * metres


@lru_cache(maxsize=4)
def _pieces(tin: Tin, minor: float) -> tuple[Array, Array]:
    """Contour pieces and their levels; the last ones asked for are kept, since panning asks again and again."""
    z = tin.vertices[np.unique(tin.faces), 2]
    levels = np.arange(np.floor(z.min() / minor), np.ceil(z.max() / minor) + 1) * minor
    xy, index = contours(tin, levels)
    return xy, levels[index]


def _contours(tin: Tin, sight: PlanSight, labels: Labels, margin: float, u: Units) -> Iterator[Mark]:
    minor, major = contour_steps(sight.scale, u)
    xy, level = _pieces(tin, minor)
    a, b = sight.to_drawing(xy[:, :2]), sight.to_drawing(xy[:, 2:])
    low, high = np.minimum(a, b), np.maximum(a, b)
    wide, tall = sight.width + 60, sight.height + 60
    keep = (high[:, 0] > -60) & (low[:, 0] < wide) & (high[:, 1] > -60) & (low[:, 1] < tall)
    world = np.hypot(xy[:, 2] - xy[:, 0], xy[:, 3] - xy[:, 1]) * sight.scale
    keep &= np.hypot(*(b - a).T) < 3 * world + 4  # not torn apart at a bend; NaN (not in sight) compares false
    a, b, level = a[keep], b[keep], level[keep]
    whole = np.abs(level / major - np.round(level / major)) < 1e-6
    yield Segments("contour-minor", np.column_stack([a, b])[~whole])
    yield Segments("contour-major", np.column_stack([a, b])[whole])
    mid = (a[whole] + b[whole]) / 2
    x, y, right, under = mid[:, 0], mid[:, 1], sight.width - margin, sight.height - margin
    inside = (x > margin + 40) & (x < right - 40) & (y > margin + 46) & (y < under - 40)
    yield from _contour_labels(a[whole], b[whole], level[whole], inside, labels, u)
    beyond = (x < margin - 20) | (x > right + 20) | (y < margin - 12) | (y > under + 12)
    yield from _contour_labels(a[whole], b[whole], level[whole], beyond, labels, u)


def _contour_labels(
    a: Array, b: Array, level: Array, inside: Mask, labels: Labels, u: Units
) -> Iterator[Mark]:  # fmt: skip
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
                yield Text("contour", f"{u.shown(z):.1f}", x - 4 * s, y + 4 * c, "middle", angle, plate=True)
                break


def _backgrounds(facts: Facts, sight: PlanSight) -> Iterator[Mark]:
    """Drawings by others, the layers that are on, faded."""
    for b in facts.project.backgrounds.values():
        on = np.array([name not in b.off for name in b.layers])[b.layer]
        ends = sight.to_drawing(b.segments[on, :2]), sight.to_drawing(b.segments[on, 2:])
        low, high = np.minimum(*ends), np.maximum(*ends)
        seen = (
            (high[:, 0] > -20) & (low[:, 0] < sight.width + 20) & (high[:, 1] > -20) & (low[:, 1] < sight.height + 20)
        )
        yield Segments("background", np.hstack(ends)[seen])


# -- roads -------------------------------------------------------------------------------------------------------------


def _chainages(r: RoadFacts, sight: PlanSight) -> Array:
    """Chainages at which lines beside a road are drawn: as near as can be seen."""
    step = float(np.clip(6.0 / sight.scale, 0.5, 10.0))
    strip = [s.chainage for s in r.road.strip.sections] if r.road.strip is not None else []
    known = [c for c in strip if r.alignment.start < c < r.alignment.end]
    steps = np.arange(r.alignment.start, r.alignment.end, step)
    return np.unique(np.concatenate([r.alignment.polyline(), steps, known]))


def _offset_line(r: RoadFacts, off: float | Array, ch: Array, sight: PlanSight) -> tuple[Array, Array]:
    """World and drawing points of a line at offsets."""
    world = np.column_stack(r.alignment.point(ch, off))
    return world, sight.to_drawing(world)


def _carriageway(r: RoadFacts, sight: PlanSight) -> Iterator[Mark]:
    if r.road.strip is None:
        return
    ch = _chainages(r, sight)
    s = at_chainages(r.road.strip.sections, ch)
    left, right = _offset_line(r, -s["left"], ch, sight)[1], _offset_line(r, s["right"], ch, sight)[1]
    ok = ~(np.isnan(left).any(axis=1) | np.isnan(right).any(axis=1))
    if ok.sum() > 1:
        yield Fill("road", np.vstack([left[ok], right[ok][::-1]]))


def _edges(r: RoadFacts, roads: list[RoadFacts], sight: PlanSight) -> Iterator[Mark]:
    """Kerbs and backs of verge, broken where another road's carriageway goes through; centre line."""
    ch = _chainages(r, sight)
    if r.road.strip is not None:
        s = at_chainages(r.road.strip.sections, ch)
        for off, role, behind in (
            (-s["left"], "kerb", 0.0), (s["right"], "kerb", 0.0),
            (-s["left"] - s["verge"], "verge", s["verge"]), (s["right"] + s["verge"], "verge", s["verge"]),
        ):  # fmt: skip
            if role == "verge" and not np.any(s["verge"]):
                continue
            world, xy = _offset_line(r, off, ch, sight)
            for other in roads:
                if other is not r and other.road.strip is not None:
                    xy[_on(other, world, behind)] = np.nan
            yield from strokes(role, xy)
    yield from strokes("centre-line", _offset_line(r, 0.0, ch, sight)[1])


def _on(r: RoadFacts, world: Array, more: float | Array) -> Mask:
    """Which places lie on a road's carriageway and `more` metres beside it."""
    assert r.road.strip is not None  # noqa: S101 - asked for roads with one
    ch, off = r.alignment.project(world[:, 0], world[:, 1])
    s = at_chainages(r.road.strip.sections, ch)
    return np.asarray((off > -s["left"] - more - 1e-6) & (off < s["right"] + more + 1e-6))


def _beside_road(r: RoadFacts, ch: Array, side: str) -> Array:
    """The offset (m, without sign) of the back of verge at chainages; 0 where the road has no strip."""
    if r.road.strip is None:
        return np.zeros_like(ch)
    s = at_chainages(r.road.strip.sections, ch)
    return np.asarray(s[side] + s["verge"])


def strokes(role: str, xy: Array) -> Iterator[Mark]:
    """The parts of a line between places that are not in sight."""
    ok = np.asarray(~np.isnan(xy).any(axis=1))
    for part in np.split(np.arange(len(xy)), np.flatnonzero(np.diff(ok.astype(int))) + 1):
        if len(part) > 1 and ok[part[0]]:
            yield Stroke(role, xy[part])


def _tick_step(scale: float, units: Units) -> float:
    """Metres between chainage ticks, round in the project's unit."""
    one = units.metres
    return one * next((s for s in (5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0) if s * one * scale >= 70), 1000.0)


def _ticks(r: RoadFacts, roads: list[RoadFacts], sight: PlanSight, labels: Labels, u: Units) -> Iterator[Mark]:
    a, step = r.alignment, _tick_step(sight.scale, u)
    ch = np.arange(np.ceil(a.start / step) * step, a.end + 1e-6, step)
    for other in roads:  # where it lies in another road that one counts
        if other is not r and other.road.strip is not None and len(ch):
            verge = max(s.verge for s in other.road.strip.sections)
            ch = ch[~_on(other, np.column_stack(a.point(ch)), verge) | (ch > a.start + 20)]
    ends = [sight.to_drawing(np.column_stack(a.point(ch, o * 5 / sight.scale))) for o in (-1.0, 1.0)]
    ok = ~np.isnan(np.hstack(ends)).any(axis=1)
    yield Segments("chainage-tick", np.hstack(ends)[ok])
    at = sight.to_drawing(np.column_stack(a.point(ch, _beside_road(r, ch, "right") + 24 / sight.scale)))
    for (x, y), c in zip(at.tolist(), ch.tolist(), strict=True):
        if x == x and -20 < x < sight.width + 20:
            labels.put("chainage", u.chainage(c, 0), [(x, y + 4, "middle")])


def _turning_points(r: RoadFacts, sight: PlanSight, labels: Labels, u: Units) -> Iterator[Mark]:
    """Low points (water gathers there) and crests of the profile in force."""
    for ch, kind in r.profile.turning_points() if r.profile is not None else ():
        [[x, y]] = sight.to_drawing(np.column_stack(r.alignment.point(np.array([ch])))).tolist()
        if x != x:
            continue
        yield Fill("design", turning_point(x, y, kind))
        labels.put(
            "design", f"{kind.capitalize()} {u.chainage(ch, 1)}", [(x + 9, y + 14, "left"), (x + 9, y - 7, "left")]
        )


def _road_name(r: RoadFacts, sight: PlanSight, labels: Labels) -> Iterator[Mark]:
    """The name along the road, at the first place where it stands whole."""
    a = r.alignment
    wide = max(s.left for s in r.road.strip.sections) if r.road.strip is not None else 0.0
    for share in (0.55, 0.7, 0.4, 0.85, 0.25, 0.3, 0.5, 0.6):
        ch = a.start + share * a.length
        p = sight.to_drawing(np.column_stack(a.point(np.array([ch - 3, ch, ch + 3]), -(wide + 9 / sight.scale))))
        if np.isnan(p).any() or not (60 < p[1, 0] < sight.width - 60 and 50 < p[1, 1] < sight.height - 30):
            continue
        angle = float(np.degrees(np.arctan2(p[2, 1] - p[0, 1], p[2, 0] - p[0, 0])))
        turned = (angle + 90) % 180 - 90
        half = 46.0
        c, s = abs(np.cos(np.radians(turned))), abs(np.sin(np.radians(turned)))
        box = (p[1, 0] - half * c - 6, p[1, 1] - half * s - 6, p[1, 0] + half * c + 6, p[1, 1] + half * s + 6)
        if labels.free(box):
            labels.block(box)
            yield Text("road-name", r.road.name, float(p[1, 0]), float(p[1, 1]) + 4, "middle", turned, plate=True)
            return


# -- the network -------------------------------------------------------------------------------------------------------


def network(picture: Picture, sight: PlanSight, hover: str | None = None, under: Sequence[Mark] = ()) -> Composed:
    """Pipes, structures and findings; with what can be hit, nearest to the eye first. Labels keep off texts under it."""
    marks: list[Mark] = []
    targets: list[Target] = []
    labels = Labels([text_box(m) for m in under if isinstance(m, Text)])
    seen = _in_sight(picture.facts, sight)
    lines = {k: _pipe_line(picture.facts.pipes[k], sight) for k in seen.pipes}
    for key in picture.pipes:
        if key in lines:
            marks += [Stroke("halo", part.xy) for part in strokes("halo", lines[key]) if isinstance(part, Stroke)]
    for key, xy in lines.items():
        marks += _pipe(picture, picture.facts.pipes[key], xy, sight)
        if not np.isnan(xy).any():
            targets.append(Target("pipe", key, xy, 7.0))
    for key in seen.pipes:
        for finding in picture.found(key):
            marks += _pipe_finding(picture, finding, picture.facts.pipes[key], lines[key], sight)
    for at, (x, y) in seen.structures.items():
        marks += _structure(picture, at, x, y, sight, hover == at)
        targets.append(Target("structure", at, points((x, y)), _hit_radius(picture.facts, at)))
    for at, (x, y) in seen.structures.items():
        marks += _structure_sign(picture, at, x, y)
        labels.block((x - 5, y - 5, x + 5, y + 5))
    _labels(picture, seen.structures, sight, labels, hover)
    marks += _pipe_labels(picture, lines, labels)
    order = sorted(targets, key=lambda t: t.kind != "structure")
    return Composed(marks + list(labels.texts), order, [])


class _Seen:
    """What of the network is in sight."""

    def __init__(self) -> None:
        self.pipes: list[PipeId] = []
        self.structures: dict[StructureId, tuple[float, float]] = {}


def _in_sight(facts: Facts, sight: PlanSight) -> _Seen:
    out = _Seen()
    keys = [k for k, p in facts.places.items() if p.x is not None]
    if not keys:
        return out
    world = np.array([(facts.places[k].x, facts.places[k].y) for k in keys], float)
    xy = sight.to_drawing(world)
    at = dict(zip(keys, xy.tolist(), strict=True))
    out.structures = {
        k: (x, y) for k, (x, y) in at.items() if -20 < x < sight.width + 20 and -20 < y < sight.height + 20
    }
    for k, p in facts.project.pipes.items():
        if p.up in at and p.down in at:
            (x0, y0), (x1, y1) = at[p.up], at[p.down]
            whole = x0 != x0 or x1 != x1  # an end that the straightened plan does not hold: look at the pipe itself
            if whole or (
                max(x0, x1) > -20
                and min(x0, x1) < sight.width + 20
                and max(y0, y1) > -20
                and min(y0, y1) < sight.height + 20
            ):
                out.pipes.append(k)
    return out


def _pipe_line(f: PipeFacts, sight: PlanSight) -> Array:
    """The axis from inner wall to inner wall; a straight pipe bends where the plan is straightened."""
    n = 2 if hasattr(sight, "turn") else 13
    a, b = f.span.reach_up, f.span.length - f.span.reach_down
    if b <= a:
        a, b = 0.0, f.span.length
    return sight.to_drawing(np.array([f.span.point(s) for s in np.linspace(a, b, n).tolist()]))


def _pipe(picture: Picture, f: PipeFacts, xy: Array, sight: PlanSight) -> Iterator[Mark]:
    tone = f.pipe.service + ("-existing" if f.pipe.status != "proposed" else "")
    role = "preview" if f.pipe.id in picture.fresh else tone
    wide = (f.inside + 2 * f.wall) * sight.scale
    if wide >= BARREL and not np.isnan(xy).any():
        left, right = _beside(xy, wide / 2)
        yield Fill(f"{f.pipe.service}-bore", np.vstack([left, right[::-1]]))
        for line in (left, right):
            yield Stroke(f"{tone}-outside" if role != "preview" else role, line)
    else:
        yield from strokes(role, xy)
    long = float(np.nansum(np.hypot(*np.diff(xy, axis=0).T)))
    if long > 44:
        yield from _flow(f, xy, sight)


def _beside(xy: Array, by: float) -> tuple[Array, Array]:
    d = np.gradient(xy, axis=0)
    d /= np.maximum(np.hypot(d[:, 0], d[:, 1]), 1e-9)[:, None]
    normal = np.column_stack([d[:, 1], -d[:, 0]]) * by
    return xy + normal, xy - normal


def _flow(f: PipeFacts, xy: Array, sight: PlanSight) -> Iterator[Mark]:
    """A flow arrow at six tenths of the way, pointing downstream: solid from afar, open from near."""
    i = max(0, int((len(xy) - 1) * 0.6) - (len(xy) == 2))
    a, b = xy[i], xy[i + 1]
    if np.isnan(a).any() or np.isnan(b).any():
        return
    t = 0.6 if len(xy) == 2 else 0.5
    x, y = (a + (b - a) * t).tolist()
    shape = arrow(x, y, float(np.arctan2(b[1] - a[1], b[0] - a[0])))
    if sight.scale >= NEAR:
        yield Stroke("flow-open" if f.pipe.service == "storm" else "flow-open-foul", shape)
    else:
        yield Fill(f.pipe.service, shape)


def _pipe_finding(picture: Picture, finding: Finding, f: PipeFacts, xy: Array, sight: PlanSight) -> Iterator[Mark]:
    """The stretch that breaks a rule, with end bars, and the notch at its worst place."""
    for a, b in finding.stretches:
        n = 2 if hasattr(sight, "turn") else 9
        line = sight.to_drawing(np.array([f.span.point(s) for s in np.linspace(a, b, n).tolist()]))
        if np.isnan(line).any():
            continue
        yield Stroke("breach-plan", line)
        for end, near in ((line[0], line[1]), (line[-1], line[-2])):
            d = (near - end) / max(float(np.hypot(*(near - end))), 1e-9) * 6
            yield Segments("breach-bar", np.array([(end[0] - d[1], end[1] + d[0], end[0] + d[1], end[1] - d[0])]))
    if finding.x is None or finding.y is None:
        return
    x, y = sight.to_drawing(np.array([[finding.x, finding.y]]))[0].tolist()
    if x == x:
        yield from _sign(finding.severity, x, y - 4)


def _sign(severity: str | None, x: float, y: float) -> Iterator[Mark]:
    if severity == "breach":
        yield Fill("breach", notch(x, y), "paper-rim")
    elif severity == "caution":
        yield Stroke("caution", lozenge(x, y - 8), closed=True)


def _structure_sign(picture: Picture, key: StructureId, x: float, y: float) -> Iterator[Mark]:
    yield from _sign(picture.worst(key), x, y - 7)


def _hit_radius(facts: Facts, key: StructureId) -> float:
    kind = facts.project.types[facts.project.structures[key].type].kind
    return 10.0 if kind == "gully" else 14.0


def _structure(picture: Picture, key: StructureId, x: float, y: float, sight: PlanSight, swell: bool) -> Iterator[Mark]:
    s = picture.facts.project.structures[key]
    kind = picture.facts.project.types[s.type]
    edge = "preview" if key in picture.fresh else "structure" if s.status == "proposed" else "structure-existing"
    if key in picture.structures:
        yield Disc("halo", x, y, 12.0 if kind.kind != "gully" else 9.0)
    if swell:
        yield Disc("field", x, y, 9.0, "ring-hand")
    if kind.kind == "gully":
        yield from _gully(picture, s, x, y, sight)
    elif kind.kind in ("headwall", "outfall"):
        yield from _headwall(picture, key, x, y, sight, edge)
    elif kind.kind == "joint":
        yield Disc("ink", x, y, 2.5)
    else:
        true = kind.inside / 2 * sight.scale
        if kind.outside / 2 * sight.scale > 7:
            yield Disc("chamber-wall", x, y, kind.outside / 2 * sight.scale, "chamber")
        yield Disc("field", x, y, max(5.0, true), edge)


def _direction(picture: Picture, key: StructureId, x: float, y: float, sight: PlanSight) -> float:
    """The drawing angle of a structure's bearing (radians, from right, y downwards)."""
    p = picture.facts.places[key]
    wx, wy = p.x or 0.0, p.y or 0.0
    ahead = sight.to_drawing(np.array([[wx + 0.5 * np.sin(p.bearing), wy + 0.5 * np.cos(p.bearing)]]))[0]
    return 0.0 if np.isnan(ahead).any() else float(np.arctan2(ahead[1] - y, ahead[0] - x))


def _turned(shape: Array, x: float, y: float, angle: float) -> Array:
    c, s = np.cos(angle), np.sin(angle)
    return np.column_stack([x + shape[:, 0] * c - shape[:, 1] * s, y + shape[:, 0] * s + shape[:, 1] * c])


def _gully(picture: Picture, s: Structure, x: float, y: float, sight: PlanSight) -> Iterator[Mark]:
    """A box with a middle bar, square to the road."""
    angle = _direction(picture, s.id, x, y, sight)
    grow = max(1.0, 0.45 * sight.scale / 6.8)
    box = points((-3.4, -2.6), (3.4, -2.6), (3.4, 2.6), (-3.4, 2.6)) * grow
    role = "gully" if s.service == "storm" else "gully-foul"
    yield Fill("field", _turned(box, x, y, angle), role)
    yield Stroke(role, _turned(points((0, -2.6), (0, 2.6)) * grow, x, y, angle))


def _headwall(picture: Picture, key: StructureId, x: float, y: float, sight: PlanSight, edge: str) -> Iterator[Mark]:
    """A wall with two wings, its back to the pipe."""
    f = picture.facts.structures[key]
    angle = 0.0
    if f.pipes_in:
        a = sight.to_drawing(np.array([f.pipes_in[0].span.point(max(0.0, f.pipes_in[0].span.length - 1.0))]))[0]
        angle = 0.0 if np.isnan(a).any() else float(np.arctan2(y - a[1], x - a[0]))
    wall = points((5.0, -10.0), (0.0, -6.0), (0.0, 6.0), (5.0, 10.0))
    yield Stroke(edge, _turned(wall, x, y, angle))


def _labels(
    picture: Picture, at: dict[StructureId, tuple[float, float]], sight: PlanSight, labels: Labels, hover: str | None
) -> None:
    """Labels of structures: selected and hovered always, then chambers, then gullies where there is room for them."""
    project = picture.facts.project

    def rank(key: StructureId) -> tuple[bool, bool]:
        gully = project.types[project.structures[key].type].kind == "gully"
        return not (key in picture.structures or key == hover), gully

    for key in sorted(at, key=rank):
        x, y = at[key]
        first, gully = rank(key)
        if gully and sight.scale < 2.5 and first:
            continue
        role = "gully-label" if gully else "structure-label"
        labels.put(role, project.structures[key].label, around(x, y, 7.0), always=not first)


def _pipe_labels(picture: Picture, lines: dict[PipeId, Array], labels: Labels) -> Iterator[Mark]:
    """Label and size along pipes that have room for it: P5  DN 300."""
    for key, xy in lines.items():
        f = picture.facts.pipes[key]
        a, b = xy[0], xy[-1]
        if np.isnan(xy).any() or float(np.hypot(*(b - a))) < 130:
            continue
        i = int((len(xy) - 1) * 0.3)
        t = 0.3 if len(xy) == 2 else 0.0
        x, y = (xy[i] + (xy[i + 1] - xy[i]) * t).tolist()
        d = xy[i + 1] - xy[i]
        angle = (float(np.degrees(np.arctan2(d[1], d[0]))) + 90) % 180 - 90
        c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
        half = 40.0
        x, y = x + 7 * s, y - 7 * c
        box = (x - half * abs(c) - 6, y - half * abs(s) - 8, x + half * abs(c) + 6, y + half * abs(s) + 4)
        if labels.free(box):
            labels.block(box)
            yield Text(f.pipe.service, f"{f.pipe.label}  DN {f.dn:g}", x, y, "middle", angle, plate=True)


# -- over the plan -----------------------------------------------------------------------------------------------------


def north_arrow(sight: PlanSight, x: float, y: float, at: tuple[float, float] | None = None) -> Iterator[Mark]:
    """A needle in a ring; where the plan is straightened it tells north at the cursor."""
    turn = sight.north(*(at or (sight.width / 2, sight.height / 2)))
    yield Disc("chrome", x, y, 13.0, "pill")
    needle = points((0, -8), (4, 6), (0, 3), (-4, 6))
    yield Fill("ink", _turned(needle, x, y, turn))


def scale_bar(sight: PlanSight, x: float, y: float, units: Units = METRIC) -> Iterator[Mark]:
    """A bar of a round length, in two halves."""
    scale = sight.scale * units.metres
    step = next((s for s in (1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0) if s * scale >= 60), 1000.0)
    wide = step * scale
    yield Fill("ink", points((x, y), (x + wide, y), (x + wide, y + 4), (x, y + 4)))
    yield Fill("field", points((x + wide, y), (x + 2 * wide, y), (x + 2 * wide, y + 4), (x + wide, y + 4)), "ink-thin")
    yield Text("ink", "0", x, y - 4, "middle")
    yield Text("ink", f"{step:g}", x + wide, y - 4, "middle")
    yield Text("ink", f"{2 * step:g} {units.m}", x + 2 * wide, y - 4, "middle")
