"""The estimate of a trench that follows the mouse: as if the ground were level across it."""

import numpy as np

from zumbert.analysis.digs import Dig, depth_line, is_dug
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.plots import World
from zumbert.analysis.uppers import dig_for, upper_line
from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line, cut_at


def estimate(facts: Facts, f: PipeFacts) -> float | None:
    """The excavation (m³) of one pipe's trench as if the ground were level across, from the ground
    along its axis alone: for values that follow the mouse. Exact where it is level across; None
    where the upper surface has a gap.
    """
    world = World(facts.surfaces, facts.roads, (), facts.project.digging.stripped)
    dig = dig_for(facts, f, world)
    if dig is None:
        return 0.0 if not is_dug(facts.project, f.pipe) else None
    upper = upper_line(f.span, facts.surfaces, dig.upper, world.stripped)
    depth = depth_line(f, upper, dig.begin, dig.end, dig.size.bedding)
    return 0.0 if dig.length <= 1e-9 else None if depth is None else integral(depth, dig)


def _area(h: Array, dig: Dig) -> Array:
    """Level-across section area (m²) at depths H: the width times H, and what the sides add
    above each of their strips.
    """
    h = np.maximum(h, 0.0)
    out = dig.width * h
    for out_from, out_to, rise, rise_to in dig.sides(float(h.max(initial=0.0)) + 1e-9):
        wide, tall = out_to - out_from, rise_to - rise
        over = np.maximum(h - rise, 0.0)
        reached = np.minimum(over / tall, 1.0) if tall > 0 else (over > 0) * 1.0
        out = out + 2 * wide * reached * (over - reached * tall / 2)
    return np.asarray(out)


def integral(depth: Line, dig: Dig) -> float:
    """Volume (m³) under a depth line of a trench that is level across, exact: between its points,
    the ground's surface and the heights at which the sides turn the area is a quadratic in
    distance, and Simpson's rule is exact for it.
    """
    s, h = depth
    marks = {0.0} | {
        m for side in dig.sides(float(np.max(h, initial=0.0))) for m in (side.rise, side.rise_to)
    }
    for mark in sorted(marks):
        s, h = cut_at(s, h, mark)
    a, b = h[:-1], h[1:]
    return float(
        (np.diff(s) / 6 * (_area(a, dig) + 4 * _area((a + b) / 2, dig) + _area(b, dig))).sum()
    )
