"""The overlay while a road is edited: its points with their tangents, and those of its profile."""

from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np

from zumbert.drawing.marks import Composed, Disc, Mark, Segments, Stroke, Target, Text, points
from zumbert.drawing.sight import PlanSight, SectionSight
from zumbert.geometry.elements import Array
from zumbert.geometry.intersections import Intersection, bisector_point
from zumbert.geometry.profile import Profile, Pvi
from zumbert.model.display import Units

REACH = 11.0  # drawing units: hit radius of a ring


def road_rings(
    line: Sequence[Intersection],
    sight: PlanSight,
    u: Units,
    hot: str | None = None,
    part: int | None = None,
) -> Composed:
    """Rings on the intersection points ("ip 1") and in the middle of their curves ("radius 1"),
    with the tangents.
    """
    xy = sight.to_drawing(np.array([(p.x, p.y) for p in line], float))
    marks: list[Mark] = [Stroke("tangent", xy)] if not np.isnan(xy).any() else []
    targets: list[Target] = []
    for i, (x, y) in enumerate(xy.tolist()):
        if x != x:
            continue
        if 0 < i < len(line) - 1:
            marks += _radius_ring(line, i, sight, u, hot, targets)
        marks += ring(x, y, hot == f"ip {i}", part == i)
        targets.append(Target("ip", i, points((x, y)), REACH))
        marks.append(Text("small", f"{i + 1}", x + 8, y - 8))
    return Composed(marks, targets[::-1], [])


def _radius_ring(
    line: Sequence[Intersection],
    i: int,
    sight: PlanSight,
    u: Units,
    hot: str | None,
    targets: list[Target],
) -> Iterator[Mark]:
    place = bisector_point(line, i)
    if place is None or line[i].radius <= 0:
        return
    x, y = sight.to_drawing(np.array([place]))[0].tolist()
    px, py = sight.to_drawing(np.array([[line[i].x, line[i].y]]))[0].tolist()
    if x != x or np.hypot(x - px, y - py) < 9:
        return
    yield Stroke("stalk", points((px, py), (x, y)))
    yield from ring(x, y, hot == f"radius {i}", False, 4.0)
    yield Text("small", f"R {u.length(line[i].radius)}", x + 8, y + 12, plate=True)
    targets.append(Target("radius", i, points((x, y)), 10.0))


def ring(x: float, y: float, hot: bool, selected: bool, radius: float = 5.0) -> Iterator[Mark]:
    """An open ring; under the cursor it swells, selected it has a halo."""
    if selected or hot:
        yield Disc("halo", x, y, 13.0)
    yield Disc("field", x, y, radius + 1 if hot else radius, "ring-hand" if hot else "ring")


def profile_rings(
    pvis: Sequence[Pvi], sight: SectionSight, hot: str | None = None, part: int | None = None
) -> Composed:
    """Rings on the vertical points ("pvi 1") and at the beginnings and ends of their curves ("curve
    1"), with the tangents.
    """
    xy = np.column_stack(
        [
            sight.px(np.array([p.chainage for p in pvis])),
            sight.py(np.array([p.level for p in pvis])),
        ]
    )
    marks: list[Mark] = [Stroke("tangent", xy)]
    targets: list[Target] = []
    profile = Profile(pvis)
    for i in range(len(pvis)):
        for ch in (profile.ch[i] - profile.before[i], profile.ch[i] + profile.beyond[i]):
            if profile.before[i] + profile.beyond[i] <= 0:
                continue
            cx, cy = sight.x_of(float(ch)), sight.y_of(float(profile.level(ch)))
            marks += ring(cx, cy, hot == f"curve {i}", False, 4.0)
            targets.append(Target("curve", i, points((cx, cy)), 9.0))
    for i, (x, y) in enumerate(xy.tolist()):
        marks += ring(x, y, hot == f"pvi {i}", part == i)
        targets.append(Target("pvi", i, points((x, y)), REACH))
    return Composed(marks, targets[::-1], [])


# -- lines in hand ---------------------------------------------------------------------------------


def line_draft(
    world: Sequence[tuple[float, float]], sight: PlanSight, closed: bool = False
) -> list[Mark]:
    """A line that is being drawn, its places as small discs; the last piece, to the cursor,
    dashed.
    """
    if not world:
        return []
    xy = sight.to_drawing(np.array(world, float))
    marks: list[Mark] = []
    if closed and len(xy) > 2 and not np.isnan(xy).any():
        marks.append(Stroke("draft", xy[[-1, 0]]))
    if len(xy) > 1:
        marks += [Stroke("draft-full", xy[:-1]), Stroke("draft", xy[-2:])]
    marks += [Disc("field", x, y, 3.0, "draft-full") for x, y in xy[:-1].tolist() if x == x]
    return [m for m in marks if not (isinstance(m, Stroke) and np.isnan(m.xy).any())]


def measured(world: Sequence[tuple[float, float]], sight: PlanSight, u: Units) -> list[Mark]:
    """A measured line with the length of each piece, and the area that it holds."""
    from zumbert.drawing.marks import Fill

    if not world:
        return []
    xy = sight.to_drawing(np.array(world, float))
    marks: list[Mark] = []
    if len(xy) > 2 and not np.isnan(xy).any():
        marks.append(Fill("measured", xy))
    marks += line_draft(world, sight, closed=len(xy) > 2)
    for (wa, wb), (a, b) in zip(_pairs(world), _pairs(xy.tolist()), strict=True):
        if np.hypot(b[0] - a[0], b[1] - a[1]) > 34:
            long = float(np.hypot(wb[0] - wa[0], wb[1] - wa[1]))
            marks.append(
                Text(
                    "ink",
                    u.long(long),
                    (a[0] + b[0]) / 2,
                    (a[1] + b[1]) / 2 - 5,
                    "middle",
                    plate=True,
                )
            )
    return marks


def _pairs(places: Sequence[Sequence[float]]) -> list[tuple[Sequence[float], Sequence[float]]]:
    return list(pairwise(places))


def snap_ring(x: float, y: float, name: str) -> Iterator[Mark]:
    """Where the cursor is drawn to, and what that is."""
    turn = np.linspace(0, 2 * np.pi, 25)[:-1]
    yield Stroke(
        "snap", np.column_stack([x + 9.5 * np.cos(turn), y + 9.5 * np.sin(turn)]), closed=True
    )
    ticks = [
        (x + 9.5 * c, y + 9.5 * s, x + 14 * c, y + 14 * s)
        for c, s in ((1, 0), (-1, 0), (0, 1), (0, -1))
    ]
    yield Segments("snap", np.array(ticks))
    yield Text("ink", name, x + 16, y - 10, plate=True)


def drawn(sight: PlanSight, x: float, y: float) -> Array:
    """The drawing place of one world place."""
    return np.asarray(sight.to_drawing(np.array([[x, y]]))[0])
