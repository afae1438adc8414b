"""Trenches in a long section: their bottoms, the pits, strata and depth bands."""

from collections.abc import Iterator

import numpy as np

from zumbert.analysis.crossings import Reach
from zumbert.analysis.digs import trench_type
from zumbert.analysis.plots import World
from zumbert.analysis.spans import Span
from zumbert.analysis.strata import Layer
from zumbert.analysis.trench import Trenches
from zumbert.analysis.uppers import upper_line
from zumbert.drawing.hatches import pattern_of
from zumbert.drawing.marks import Fill, Mark, Segments, Stroke, Text, points
from zumbert.drawing.picture import Picture, RunPicture
from zumbert.drawing.sectionground import solid_parts
from zumbert.drawing.sight import SectionSight
from zumbert.geometry.elements import Array
from zumbert.geometry.kept import kept
from zumbert.geometry.line import Line, between, cut_at, lower


def trench(picture: RunPicture, dug: Trenches, sight: SectionSight) -> Iterator[Mark]:
    """Trench bottom from pit edge to pit edge, with a tick at each section."""
    for reach in picture.run.reaches:
        t = dug.pipes[reach.pipe]
        if t.length <= 0:
            continue
        f = picture.facts.pipes[reach.pipe]
        spacing = trench_type(picture.facts.project, f.pipe).spacing
        s = np.append(np.arange(t.begin, t.end, spacing), t.end)
        x = sight.px(reach.up + (reach.down - reach.up) * s / f.span.length)
        y = sight.py(np.array([t.bottom(d) for d in s.tolist()]))
        yield Stroke("trench-bottom", np.column_stack([x, y])[[0, -1]])
        yield Segments("trench-tick", np.column_stack([x, y, x, y + 5]))


def pits(picture: RunPicture, dug: Trenches, sight: SectionSight) -> Iterator[Mark]:
    """The pits round chambers, from the ground down."""
    for key, at in picture.run.structures:
        pit = dug.pits.get(key)
        place = picture.facts.places[key]
        if pit is None or pit.bottom is None or place.ground is None:
            continue
        half = (pit.width if pit.across is None else max(pit.width, pit.across)) / 2
        x0, x1 = sight.x_of(at - half), sight.x_of(at + half)
        y0, y1 = sight.y_of(place.ground), sight.y_of(pit.bottom)
        yield Fill("plate", points((x0, y0), (x1, y0), (x1, y1), (x0, y1)), "pit")


def strata(picture: RunPicture, dug: Trenches, sight: SectionSight) -> Iterator[Mark]:
    """The strata along the pipes: each has its colour, and a line at
    its top.
    """
    world = dug.world
    for reach in picture.run.reaches:
        for i, layer in enumerate(world.layers[1:], 1):
            top = layer_line(picture.facts.pipes[reach.pipe].span, world, layer)
            for xy in _placed(picture, reach, top, sight):
                pattern = pattern_of(layer.name, i)
                if pattern == "rock":
                    yield Fill(
                        "rock-section",
                        np.vstack([xy, [(xy[-1, 0], sight.height), (xy[0, 0], sight.height)]]),
                    )
                yield Stroke("stratum", xy)


def fill_first(picture: RunPicture, dug: Trenches, sight: SectionSight) -> Iterator[Mark]:
    """Where the ground lies under the crown of a pipe: what is filled first, between the two."""
    world = dug.world
    for reach in picture.run.reaches:
        t = dug.pipes[reach.pipe]
        if t.dig is None or t.fill_first <= 0:
            continue
        upper = upper_line(t.pipe.span, world.surfaces, t.dig.upper, world.stripped)
        if upper is None:
            continue
        part, top = between(upper, t.begin, t.end), t.dig.size.bedding + t.dig.outside
        crown = np.array([t.bottom(d) + top for d in part.s.tolist()])
        s, gap = cut_at(part.s, part.z - crown, 0.0)
        low = np.interp(s, part.s, part.z)
        for i in np.flatnonzero((gap[:-1] + gap[1:]) / 2 < 0).tolist():
            x = sight.px(reach.up + (reach.down - reach.up) * s[[i, i + 1]] / t.pipe.span.length)
            crowns = np.array([t.bottom(d) + top for d in s[[i, i + 1]].tolist()])
            y0, y1 = sight.py(low[[i, i + 1]]), sight.py(crowns)
            yield Fill(
                "fill-first",
                points((x[0], y0[0]), (x[1], y0[1]), (x[1], y1[1]), (x[0], y1[0])),
                "fill-first",
            )


def bands(picture: RunPicture, dug: Trenches, sight: SectionSight) -> Iterator[Mark]:
    """The depths at which the depth bands begin, over trenches that are deeper; each named once."""
    world, u = dug.world, picture.units
    named: dict[float, tuple[float, float]] = {}
    for reach in picture.run.reaches:
        t = dug.pipes[reach.pipe]
        if t.dig is None or t.depth_max is None:
            continue
        upper = upper_line(t.pipe.span, world.surfaces, t.dig.upper, world.stripped)
        if upper is None:
            continue
        for d in picture.facts.project.digging.bands[1:]:
            if d >= t.depth_max:
                continue
            part = between(Line(upper.s, upper.z - d), t.begin, t.end)
            for xy in _placed(picture, reach, part, sight):
                yield Stroke("depth-band", xy)
                x, y = float(xy[:, 0].mean()), float(xy[len(xy) // 2, 1])
                free = all(abs(x - a) > 76 or abs(y - b) > 13 for a, b in named.values())
                roomy = xy[-1, 0] - xy[0, 0] > 110
                if d not in named and free and roomy and sight.left + 40 < x < sight.width - 60:
                    named[d] = x, y
                    yield Text("small", f"{u.length(d)} {u.m} deep", x, y - 3, "middle", plate=True)


def _placed(
    picture: Picture, reach: Reach, line: Line | None, sight: SectionSight
) -> Iterator[Array]:
    """A line along a pipe in drawing units, without its gaps, its places rising; nothing of it
    out of sight.
    """
    if line is None:
        return
    long = picture.facts.pipes[reach.pipe].span.length
    for s, z in solid_parts(line):
        x = sight.px(reach.up + (reach.down - reach.up) * s / long) if long else sight.px(s)
        if x.max() < sight.left or x.min() > sight.width:
            continue
        xy = np.column_stack([x, sight.py(z)])
        yield xy if x[-1] >= x[0] else xy[::-1]


@kept(8)
def layer_line(span: Span, world: World, layer: Layer) -> Line | None:
    """The top of a stratum along a pipe: the lowest of what it lies under; None where one of
    them is missing.
    """
    out: Line | None = None
    for roof in layer.roofs:
        line = span.ground if roof.tin is None else span.along(roof.tin)
        if line is None or np.isnan(line.z).all():
            return None
        line = Line(line.s, line.z - roof.lowered)
        out = line if out is None else lower(out, line)
    return out
