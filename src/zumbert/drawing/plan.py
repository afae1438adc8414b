"""The network in plan, over ground and roads. Straightened or not, the same marks."""

from collections.abc import Iterator, Sequence

import numpy as np

from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import Finding
from zumbert.drawing.groundplan import strokes
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
)
from zumbert.drawing.picture import Picture
from zumbert.drawing.sight import PlanSight
from zumbert.geometry.elements import Array
from zumbert.model.display import METRIC, Units
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.structure import Structure

NEAR = 6.0  # drawing units a metre: from here on pipes show open arrows
BARREL = 5.0  # drawing units: pipes at least this wide are drawn at true width


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
    n = 2 if hasattr(sight, "turn") and f.span.arc is None else 13 if f.span.arc is None else 25
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
        n = 2 if hasattr(sight, "turn") and f.span.arc is None else 9
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


LABEL_AREA = 350.0  # square drawing units that a label of a structure takes up


def _labels(
    picture: Picture, at: dict[StructureId, tuple[float, float]], sight: PlanSight, labels: Labels, hover: str | None
) -> None:
    """Labels of structures: selected and hovered always, then chambers, then gullies where there is room for them.

    Where there are more than would fill the drawing, the rest wait until one looks nearer.
    """
    project = picture.facts.project
    if len(at) * LABEL_AREA > sight.width * sight.height:
        at = {k: place for k, place in at.items() if k in picture.structures or k == hover}

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
