"""The shape of trenches: the trench type of a pipe, the size of its trench, and the pits at its
ends.
"""

from math import ceil, floor, pi
from typing import NamedTuple

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.spans import Span, reach_along
from zumbert.geometry.line import Line, between
from zumbert.model.pipe import End, Pipe
from zumbert.model.project import Project
from zumbert.model.structure import Structure
from zumbert.model.trench import TrenchSize, TrenchType, Upper

LOW_STEP = 0.25  # m: a trench's plan is made for the bottom at the next level of these below it


class Side(NamedTuple):
    """A strip of one side of a trench in plan: distances out from the axis and heights over the
    bottom, m; straight between.
    """

    out: float
    out_to: float
    rise: float
    rise_to: float


class TrenchShape(Struct, frozen=True, kw_only=True):
    """A trench in section: its row of the trench type for a pipe."""

    size: TrenchSize
    width: float  # m at the bottom
    outside: float  # m, outside diameter of the pipe

    @property
    def top_of_surround(self) -> float:
        """Height of the surround's top over the trench bottom, m; of the crown where there is no
        surround.
        """
        return self.size.bedding + self.outside + (self.size.surround or 0.0)

    def sides(self, tall: float) -> list[Side]:
        """The strips beside the bottom, the same left and right, up to a height over the bottom
        (m); they part at the tops of bedding and surround.
        """
        row, out, rise, strips = self.size, self.width / 2, self.size.vertical_height, list[Side]()
        marks = (self.size.bedding, self.top_of_surround)
        ledge = row.bench_width > 0
        if ledge and rise > 0:
            strips.append(Side(out, out + row.bench_width, rise, rise))
            out += row.bench_width
        while rise < tall and (row.batter > 0 or ledge):
            top = rise + row.bench_height if ledge else tall
            for stop in (*sorted(m for m in marks if rise < m < top), top):
                if row.batter > 0:
                    strips.append(Side(out, out + row.batter * (stop - rise), rise, stop))
                    out += row.batter * (stop - rise)
                rise = stop
            if ledge:
                strips.append(Side(out, out + row.bench_width, rise, rise))
                out += row.bench_width
        return strips

    @property
    def sloped(self) -> bool:
        """Whether the sides leave the upright."""
        return self.size.batter > 0 or self.size.bench_width > 0


class Dig(TrenchShape, frozen=True, kw_only=True):
    """A trench in plan and section. Equal ones have the same plan, whatever the levels of the
    pipe.
    """

    span: Span
    begin: float  # m from the upstream reference point
    end: float  # m
    upper: Upper
    # m above datum: no lower than this does the plan hold; -inf where the sides are upright
    low: float
    tall: float  # m over the bottom, to which the sides are made at first

    @property
    def length(self) -> float:
        """Length of the trench, m."""
        return self.end - self.begin


def is_dug(project: Project, record: Pipe | Structure) -> bool:
    """Whether a pipe or structure is counted as dug: proposed work, unless the project says
    otherwise.
    """
    return (
        record.status in project.digging.statuses and record.network not in project.digging.left_out
    )


def trench_type(project: Project, of: Pipe | Structure) -> TrenchType:
    """The trench type of a pipe: its own, else that of its network; of a structure that of its
    network.
    """
    own = of.trench if isinstance(of, Pipe) else None
    return project.trench_types[own or project.networks[of.network].trench]


def pit_sides(project: Project, structure: Structure) -> tuple[float, float | None]:
    """The pit of a chamber in plan, m: outside of the chamber and working space all round. A
    diameter and None where it is round, else its length along the chamber's bearing and its width;
    0 without a chamber.
    """
    more = 2 * trench_type(project, structure).working_space
    wide, across = chamber_sides(project, structure)
    return (wide + more if wide else 0.0), None if across is None else across + more


def chamber_sides(project: Project, structure: Structure) -> tuple[float, float | None]:
    """The outside of a chamber in plan, m, as `pit_sides`."""
    kind = project.types[structure.type]
    return (
        kind.outside,
        None if kind.across is None or not kind.inside else kind.across + 2 * kind.wall,
    )


def trench_reach(facts: Facts, f: PipeFacts, end: End) -> float:
    """From a structure's reference point to where the trench of a pipe begins, along the pipe, m:
    the edge of its pit; at a chamber that nobody digs a pit for, the outside of its wall. 0 where
    trenches run to centres.
    """
    p, project = f.pipe, facts.project
    s = project.structures[p.at(end)]
    kind = project.types[s.type]
    if not kind.inside or project.digging.to_centres:
        return 0.0
    there = p.status == "proposed" and s.status == "existing" and not is_dug(project, s)
    sides = chamber_sides(project, s) if there else pit_sides(project, s)
    return reach_along(f.span, end, replace(kind, inside=sides[0], across=sides[1], wall=0.0))


def ends_of(facts: Facts, f: PipeFacts) -> tuple[float, float]:
    """Where the trench of a pipe begins and ends, m; where two pits meet there is none, and both
    are one place.
    """
    begin = trench_reach(facts, f, "up")
    return begin, max(begin, f.span.length - trench_reach(facts, f, "down"))


def dig_of(facts: Facts, f: PipeFacts, ground: str, deepest: float, top: float) -> Dig | None:
    """The trench of a pipe that lies in a kind of ground, has a greatest depth to its underside (m)
    and a highest level of ground over it (m above datum). None where the type has no row for its
    size, or nothing is dug.
    """
    kind = trench_type(facts.project, f.pipe)
    size = kind.size_for(f.dn, ground)
    if size is None or not is_dug(facts.project, f.pipe):
        return None
    begin, end = ends_of(facts, f)
    outside = f.inside + 2 * f.wall
    width = size.width_at(outside, deepest + size.bedding)
    low, tall = -np.inf, 0.0
    if size.batter > 0 or size.bench_width > 0:
        bottom = min(f.invert(begin), f.invert(end)) - f.wall - size.bedding
        low = floor(bottom / LOW_STEP) * LOW_STEP
        tall = ceil(max(0.5, top - low) / LOW_STEP) * LOW_STEP + LOW_STEP
    return Dig(
        span=f.span,
        begin=begin,
        end=end,
        width=width,
        upper=kind.upper,
        size=size,
        outside=outside,
        low=low,
        tall=tall,
    )


def bottom_line(f: PipeFacts, bedding: float) -> tuple[float, float]:
    """The trench bottom at the upstream reference point (m above datum), and its fall (fraction)
    along the pipe.
    """
    slope = f.slope or 0.0
    return f.pipe.invert_up + slope * f.quoted_from - f.wall - bedding, slope


def depth_line(
    f: PipeFacts, upper: Line | None, begin: float, end: float, bedding: float
) -> Line | None:
    """Depth of a trench (m) along its axis: the upper surface less the bottom; None where the
    upper surface has a gap.
    """
    if upper is None or end - begin <= 1e-9:
        return None
    part = between(upper, begin, end)
    if not part.solid:
        return None
    z, slope = bottom_line(f, bedding)
    return Line(part.s, part.z - (z - slope * part.s))


def plan_area(sides: tuple[float, float | None]) -> float:
    """Area in plan of a pit or chamber, m²."""
    wide, across = sides
    return pi * wide**2 / 4 if across is None else wide * across
