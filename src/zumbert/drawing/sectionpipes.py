"""Pipes of a long section: barrels with what is held, halos, the line of least cover, former
places.
"""

from collections.abc import Iterator

import numpy as np

from zumbert.analysis.crossings import Reach
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.reference import references
from zumbert.drawing.labels import Corners
from zumbert.drawing.marks import Fill, Mark, Segments, Stroke, Target, Text, points
from zumbert.drawing.picture import Picture, RunPicture
from zumbert.drawing.sectionchambers import chamber_box
from zumbert.drawing.sectionground import solid_parts
from zumbert.drawing.sight import SectionSight
from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line


def barrel_ends(f: PipeFacts, reach: Reach) -> tuple[float, float, float, float]:
    """Section distances (m) and inverts of the barrel's ends at the inner walls: up first."""
    a, b = f.span.reach_up, f.span.length - f.span.reach_down
    if b <= a:
        a = b = f.span.length / 2
    return reach.at(a, f.span.length), reach.at(b, f.span.length), f.invert(a), f.invert(b)


def barrel_shape(picture: Picture, reach: Reach, sight: SectionSight) -> Corners:
    """The corners of a barrel with its walls, in turn, drawing units."""
    f = picture.facts.pipes[reach.pipe]
    a, b, ia, ib = barrel_ends(f, reach)
    xa, xb = sight.x_of(a), sight.x_of(b)
    low, high = -f.wall, f.outside_height
    return (
        (xa, sight.y_of(ia + low)),
        (xb, sight.y_of(ib + low)),
        (xb, sight.y_of(ib + high)),
        (xa, sight.y_of(ia + high)),
    )


def _tone(f: PipeFacts) -> str:
    return f.pipe.service


def barrel(picture: Picture, reach: Reach, sight: SectionSight) -> Iterator[Mark]:
    """A pipe as a barrel with both walls."""
    f = picture.facts.pipes[reach.pipe]
    a, b, ia, ib = barrel_ends(f, reach)
    x0, x1 = sight.x_of(a), sight.x_of(b)
    if max(x0, x1) < sight.left or min(x0, x1) > sight.width:
        return
    tone = _tone(f)
    role = f"{tone}-existing" if f.pipe.status != "proposed" else tone

    def across(low: float, high: float) -> Array:
        return points(
            (x0, sight.y_of(ia + high)),
            (x1, sight.y_of(ib + high)),
            (x1, sight.y_of(ib + low)),
            (x0, sight.y_of(ia + low)),
        )

    outside, bore = across(-f.wall, f.outside_height), across(0.0, f.inside)
    yield Fill(f"{tone}-wall", outside)
    yield Fill(f"{tone}-bore", bore)
    fresh = f.pipe.id in picture.fresh
    for lines, kind in ((outside, "outside"), (bore, "inside")):
        for part in (lines[:2], lines[2:]):
            yield Stroke("preview" if fresh else f"{role}-{kind}", part)
    yield from _holds(
        f, (x0, sight.y_of(ia)), (x1, sight.y_of(ib)), sight.y_of(ia + f.inside) - sight.y_of(ia)
    )


def _holds(
    f: PipeFacts, up: tuple[float, float], down: tuple[float, float], bore: float
) -> Iterator[Mark]:
    """Marks for what is held: a solid square on an invert, two strokes across the bore for the
    slope, a bar over the bore for the size.
    """
    way = 1.0 if down[0] > up[0] else -1.0
    for held, (x, y), inward in ((f.pipe.hold_up, up, way), (f.pipe.hold_down, down, -way)):
        if held:
            x += inward * 9
            yield Fill(
                "ink", points((x - 3, y - 3), (x + 3, y - 3), (x + 3, y + 3), (x - 3, y + 3))
            )
    if f.pipe.hold_size:
        x, y = up[0] + 0.3 * (down[0] - up[0]), up[1] + 0.3 * (down[1] - up[1])
        yield Segments(
            "held",
            np.array(
                [(x, y, x, y + bore), (x - 3, y, x + 3, y), (x - 3, y + bore, x + 3, y + bore)]
            ),
        )
    if f.pipe.hold_slope:
        x, y = (up[0] + down[0]) / 2 + 16, (up[1] + down[1]) / 2
        lean = (down[1] - up[1]) / (down[0] - up[0] or 1.0)
        strokes = [
            (x + d - 2, y + lean * (16 + d) + 3, x + d + 2, y + lean * (16 + d) + bore - 3)
            for d in (0.0, 6.0)
        ]
        yield Segments("held", np.array(strokes))


def pipe_target(picture: Picture, reach: Reach, sight: SectionSight) -> Target:
    """The target of a pipe: its barrel."""
    f = picture.facts.pipes[reach.pipe]
    a, b, ia, ib = barrel_ends(f, reach)
    mid = f.inside / 2
    line = points((sight.x_of(a), sight.y_of(ia + mid)), (sight.x_of(b), sight.y_of(ib + mid)))
    return Target("pipe", reach.pipe, line, max(7.0, f.outside_height / 2 * sight.sz))


HALO = 5.5  # drawing units that a halo reaches to both sides of a wall


def halos(picture: RunPicture, sight: SectionSight) -> Iterator[Mark]:
    """The pale halo under what is selected."""
    for reach in picture.run.reaches:
        if reach.pipe in picture.pipes:
            f = picture.facts.pipes[reach.pipe]
            a, b, ia, ib = barrel_ends(f, reach)
            x0, x1 = sight.x_of(a), sight.x_of(b)
            for h in (f.outside_height, -f.wall):
                y0, y1 = sight.y_of(ia + h), sight.y_of(ib + h)
                yield Fill(
                    "halo",
                    points((x0, y0 - HALO), (x1, y1 - HALO), (x1, y1 + HALO), (x0, y0 + HALO)),
                )
    for key, at in picture.run.structures:
        box = chamber_box(picture, key, at, sight)
        if key in picture.structures and box is not None:
            x0, x1, y0, y1 = box
            yield Stroke("halo", points((x0, y0), (x1, y0), (x1, y1), (x0, y1)), closed=True)


def least_cover(picture: RunPicture, sight: SectionSight) -> Iterator[Mark]:
    """The line that outside tops have to stay under: reference less least cover, over each
    barrel.
    """
    for reach in picture.run.reaches:
        f = picture.facts.pipes[reach.pipe]
        if f.span.barrel is None:
            continue
        for r in references(picture.facts, f, "cover_min"):
            s = reach.up + (reach.down - reach.up) * r.line.s / f.span.length
            for ps, pz in solid_parts(
                Line(s[::-1], r.line.z[::-1]) if s[0] > s[-1] else Line(s, r.line.z)
            ):
                yield Stroke("least-cover", np.column_stack([sight.px(ps), sight.py(pz - r.limit)]))


NEXT = 90.0  # drawing units that a slope set for the next pipe is drawn along


def next_slope(picture: Picture, sight: SectionSight) -> Iterator[Mark]:
    """The slope that is set at the run's lowest structure for the next pipe down, from its
    lowest invert on.
    """
    if picture.run is None or not picture.run.structures:
        return
    key, at = min(picture.run.structures, key=lambda s: s[1])
    f = picture.facts.structures[key]
    slope, level = f.structure.next_slope, f.lowest
    if slope is None or level is None or at > 0:
        return
    x, y = sight.x_of(at), sight.y_of(level)
    end = y + slope * NEXT / sight.sx * sight.sz
    yield Stroke("preview", points((x, y), (x - NEXT, end)))
    yield Text(
        "storm",
        f"next {picture.units.slope(slope)}",
        x - NEXT / 2,
        (y + end) / 2 + 16,
        "middle",
        plate=True,
    )


def former(picture: Picture, sight: SectionSight) -> Iterator[Mark]:
    """Where pipes lay before a preview that moves several: their inverts and crowns."""
    before = picture.before
    if before is None or picture.run is None:
        return
    moved = []
    for reach in picture.run.reaches:
        old, new = before.pipes.get(reach.pipe), picture.facts.pipes[reach.pipe]
        levels = (new.pipe.invert_up, new.pipe.invert_down)
        if old is not None and (old.pipe.invert_up, old.pipe.invert_down) != levels:
            moved.append((reach, old))
    if len(moved) < 2:
        return
    for reach, f in moved:
        s = np.array([f.span.reach_up, f.span.length - f.span.reach_down])
        x = sight.px(reach.up + (reach.down - reach.up) * s / f.span.length)
        z = np.array([f.invert(v) for v in s.tolist()])
        for up in (0.0, f.inside):
            yield Stroke("former", np.column_stack([x, sight.py(z + up)]))
