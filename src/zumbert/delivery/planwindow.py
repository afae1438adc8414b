"""A plan as it lies on a sheet: what the screen shows of it without what is selected, with
north, grid and scale bar.
"""

from collections.abc import Iterator
from itertools import pairwise
from math import floor, hypot, log10

import numpy as np

from zumbert.checks.check import no_findings
from zumbert.delivery.job import Job
from zumbert.delivery.paper import Box, WorldWindow
from zumbert.drawing.groundplan import base
from zumbert.drawing.labels import Box as Taken
from zumbert.drawing.labels import Labels, text_box
from zumbert.drawing.marks import Inset, Mark, Segments, Stroke, Target, Text, points, texts_in
from zumbert.drawing.picture import Picture, Show
from zumbert.drawing.plan import network, north_arrow
from zumbert.drawing.scalebar import scale_bar
from zumbert.drawing.sight import MapSight, PlanSight, StraightSight
from zumbert.drawing.style import text_width
from zumbert.geometry.elements import Array
from zumbert.model.sheet import Sheet

OUT = 1e5  # units: labels keep off what lies beyond the window, so none is cut
SHOWS: frozenset[Show] = frozenset({"services", "profile"})
CROSSES = 110.0  # units between crosses of the grid, at least


def picture_of(job: Job, sheet: Sheet) -> Picture:
    """The picture that a sheet is drawn from: nothing selected, no findings, labels where they were
    put on this sheet.
    """
    return Picture(
        facts=job.facts,
        findings=no_findings(job.facts),
        shows=SHOWS,
        moved=sheet.labels,
        rows=sheet.rows,
    )


def outside(width: float, height: float) -> list[Taken]:
    """Boxes round a window."""
    return [
        (-OUT, -OUT, 2.0, OUT),
        (width - 2.0, -OUT, OUT, OUT),
        (-OUT, -OUT, OUT, 2.0),
        (-OUT, height - 2.0, OUT, OUT),
    ]


def plan_window(
    picture: Picture,
    sight: MapSight | StraightSight,
    box: Box,
    grid: bool = False,
    bar: bool = True,
) -> tuple[list[Mark], list[Target]]:
    """The plan in a box with what stands at its edges, and what can be taken hold of in it, in
    units of the page.
    """
    wide, tall = box.width, box.height
    bar_box = (8.0, tall - 34.0, 190.0, tall - 4.0)
    north = (wide - 44.0, 6.0, wide - 6.0, 44.0)
    taken = [*outside(wide, tall), *([bar_box] if bar else []), north]
    under = base(picture.facts, sight, 0.0)
    crosses: list[Mark] = []
    if grid:
        labels = Labels([*taken, *(text_box(t) for t in texts_in(under))], plates=True)
        crosses = [*_grid(sight, labels), *labels.texts]
    boxes = [text_box(t) for t in texts_in([*under, *crosses])]
    net = network(picture, sight, [*taken, *boxes])
    edges = [*crosses, *north_arrow(sight, wide - 25.0, 25.0)]
    if bar:
        edges += scale_bar(sight.scale, 16.0, tall - 14.0, picture.units, plate=True)
    targets = [
        t._replace(xy=t.xy + np.array([box.x, box.y])) for t in net.targets if t.kind == "label"
    ]
    window = WorldWindow(sight, picture.run.key if picture.run is not None else None)
    return [Inset((*under, *net.marks), *box, window=window), Inset(tuple(edges), *box)], targets


def grid_step(scale: float) -> float:
    """Round metres between the crosses of a grid, at a scale in units a metre."""
    least = CROSSES / scale
    power = 10.0 ** floor(log10(least))
    return next(power * s for s in (1.0, 2.0, 5.0, 10.0) if power * s >= least - 1e-9)


def _grid(sight: PlanSight, labels: Labels) -> Iterator[Mark]:
    """Crosses at round coordinates, told where their lines leave the window; none where the plan
    is straightened.
    """
    if not isinstance(sight, MapSight):
        return
    step = grid_step(sight.scale)
    frame = points((0, 0), (sight.width, 0), (sight.width, sight.height), (0, sight.height))
    world = sight.to_world(frame)
    (x0, y0), (x1, y1) = world.min(axis=0).tolist(), world.max(axis=0).tolist()
    xs = np.arange(np.ceil(x0 / step), np.floor(x1 / step) + 1) * step
    ys = np.arange(np.ceil(y0 / step), np.floor(y1 / step) + 1) * step
    if not len(xs) or not len(ys):
        return
    gx, gy = (v.ravel() for v in np.meshgrid(xs, ys))
    at = sight.to_drawing(np.column_stack([gx, gy]))
    arm = 5.0
    c, s = np.cos(sight.turn) * arm, np.sin(sight.turn) * arm
    for dx, dy in ((c, s), (-s, c)):
        yield Segments(
            "grid-cross",
            np.column_stack([at[:, 0] - dx, at[:, 1] - dy, at[:, 0] + dx, at[:, 1] + dy]),
        )
    lines = [(f"{v:.0f} E", points((v, y0), (v, y1))) for v in xs.tolist()]
    lines += [(f"{v:.0f} N", points((x0, v), (x1, v))) for v in ys.tolist()]
    for value, ends in lines:
        for x, y in _leaves(sight.to_drawing(ends), sight.width, sight.height):
            _coordinate(value, x, y, sight, labels)


def _coordinate(text: str, x: float, y: float, sight: MapSight, labels: Labels) -> None:
    """A coordinate at the edge where its line leaves."""
    wide = text_width(text, "note") + 10
    if not sight.turn and (x > sight.width - 1 or y > sight.height - 1):
        return  # upright they are told once, at the left and on top
    if x < 1 or x > sight.width - 1:
        labels.put(
            "note", text, [(6.0, y - 3, "left") if x < 1 else (sight.width - 6.0, y - 3, "right")]
        )
    elif wide / 2 < x < sight.width - wide / 2:
        labels.put("note", text, [(x, 14.0 if y < 1 else sight.height - 6.0, "middle")])


def _leaves(ends: Array, width: float, height: float) -> Iterator[tuple[float, float]]:
    """Where a straight line between two places crosses the edges of a window."""
    (ax, ay), (bx, by) = ends.tolist()
    corners = [(0.0, 0.0), (width, 0.0), (width, height), (0.0, height), (0.0, 0.0)]
    for (px, py), (qx, qy) in pairwise(corners):
        det = (bx - ax) * (qy - py) - (by - ay) * (qx - px)
        if abs(det) < 1e-9 * hypot(bx - ax, by - ay):
            continue
        t = ((px - ax) * (qy - py) - (py - ay) * (qx - px)) / det
        u = ((px - ax) * (by - ay) - (py - ay) * (bx - ax)) / det
        if 0 <= u <= 1 and 0 <= t <= 1:
            yield ax + t * (bx - ax), ay + t * (by - ay)


def match_line(
    a: tuple[float, float],
    b: tuple[float, float],
    words: str,
    inward: float,
    top: float | None = None,
) -> list[Mark]:
    """The line at which a neighbour goes on, with the sheet that it is on: in its middle, or under
    `top` where it stands upright.

    `inward` is the side of the words: -1 or 1.
    """
    upright = abs(b[0] - a[0]) < abs(b[1] - a[1])
    x, y = (a[0] + b[0]) / 2, (a[1] + b[1]) / 2
    if top is not None:
        y = top + text_width(words, "sheet-strong") / 2
    if upright:
        text = Text(
            "sheet-strong",
            words,
            x + 12.0 * inward - 2.0 * (inward < 0) + 4.0,
            y,
            "middle",
            -90.0,
            plate=True,
        )
    else:
        text = Text(
            "sheet-strong", words, x, y + (16.0 if inward > 0 else -8.0), "middle", plate=True
        )
    return [Stroke("match", points(a, b)), text]
