"""The upper surface over a pipe, from which its trench is dug, and the trench that it needs
there.
"""

import numpy as np

from zumbert.analysis.digs import Dig, bottom_line, depth_line, dig_of, trench_type
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.plots import World
from zumbert.analysis.spans import Span
from zumbert.analysis.surfaces import Surfaces
from zumbert.geometry.kept import kept
from zumbert.geometry.line import Line, cut_at, lower
from zumbert.model.trench import Upper


def dig_for(facts: Facts, f: PipeFacts, world: World) -> Dig | None:
    """The trench of a pipe on its ground. None where its type has no row for its size, or
    nothing is dug.
    """
    kind = trench_type(facts.project, f.pipe)
    upper = upper_line(f.span, facts.surfaces, kind.upper, world.stripped)
    deepest, top, ground = 0.0, -np.inf, ""
    if upper is not None and not np.isnan(upper.z).all():
        z, slope = bottom_line(f, 0.0)
        deepest, top = float(np.nanmax(upper.z - (z - slope * upper.s))), float(np.nanmax(upper.z))
    if kind.by_ground:
        ground = ground_at(world, f, f.span.length / 2)
    return dig_of(facts, f, ground, deepest, top)


def ground_at(world: World, f: PipeFacts, s: float) -> str:
    """The stratum that the underside of a pipe lies in, at a distance along it."""
    x, y = f.span.point(s)
    level, found = f.invert(s) - f.wall, ""
    for layer in world.layers:
        tops = []
        for roof in layer.roofs:
            tin = world.surfaces.existing if roof.tin is None else roof.tin
            tops.append(np.nan if tin is None else float(tin.level(x, y)) - roof.lowered)
        if all(level <= t for t in tops) or not found:
            found = layer.name
    return found


@kept(4)
def upper_line(
    span: Span, surfaces: Surfaces, upper: Upper, stripped: float, offset: float = 0.0
) -> Line | None:
    """The upper surface along the axis of a pipe, or at an offset (m, positive to the right) from
    it: existing ground, formation, or the lower of both. Distances are those on the axis.
    """
    ground = span.ground
    if ground is not None and offset and surfaces.existing is not None:
        ground = span.along(surfaces.existing, offset)
    if ground is not None and stripped:
        ground = Line(ground.s, ground.z - stripped)
    if upper == "existing" or surfaces.formation is None:
        return ground if upper != "formation" else None
    formation = span.along(surfaces.formation, offset)
    if upper == "formation" or ground is None:
        return formation
    return lower(ground, formation)


def _side_depths(facts: Facts, f: PipeFacts, dig: Dig) -> tuple[Line | None, Line | None]:
    """The depth of a trench (m) along the feet of its left and right side."""
    stripped, half = facts.project.digging.stripped, dig.width / 2
    left, right = (
        upper_line(f.span, facts.surfaces, dig.upper, stripped, o) for o in (-half, half)
    )
    return (
        depth_line(f, left, dig.begin, dig.end, dig.size.bedding),
        depth_line(f, right, dig.begin, dig.end, dig.size.bedding),
    )


def support(facts: Facts, f: PipeFacts, dig: Dig) -> float:
    """The area (m²) of both sides that are to be supported: where a side is deeper than the limit,
    its upright part, or all of it where no part slopes.
    """
    limit = dig.size.support_above
    if limit is None:
        return 0.0
    tall = dig.size.vertical_height if dig.sloped else np.inf
    total = 0.0
    for depth in _side_depths(facts, f, dig):
        if depth is not None:
            s, h = cut_at(*depth, limit)
            s, h = cut_at(s, h, tall) if tall < np.inf else (s, h)
            deep = (h[:-1] + h[1:]) / 2 > limit
            total += float(
                (np.diff(s) * (np.minimum(h[:-1], tall) + np.minimum(h[1:], tall)) / 2)[deep].sum()
            )
    return total
