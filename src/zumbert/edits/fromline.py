"""Pipes from a line: a stretch of a road at an offset, or a drawn polyline, with joints or
chambers at its corners.
"""

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.edits.lay import lay_next
from zumbert.edits.layoptions import LayOptions
from zumbert.errors import EditError
from zumbert.geometry.elements import Arc, Straight
from zumbert.geometry.intersections import pieces_through
from zumbert.model.ids import PipeId, RoadId, StructureId, TypeKey
from zumbert.model.project import Project
from zumbert.model.structure import Anchored, Free

SHORTEST = 0.5  # m: nearer corners are one


class LineWay(Struct, frozen=True, kw_only=True):
    """How a line becomes pipes: chambers at its ends, joints or chambers at its corners and at a
    greatest spacing.
    """

    way: LayOptions
    corner: TypeKey  # what stands at corners: a joint, or a chamber
    spacing: float | None = None  # m: greatest length of a pipe


class FromLine(NamedTuple):
    """The project with the pipes of a line."""

    project: Project
    structures: tuple[StructureId, ...]
    pipes: tuple[PipeId, ...]


Place = Anchored | Free
# where a pipe ends, and the place that it passes where it is curved
Leg = tuple[Place, Place | None]


def along(
    project: Project,
    facts: Facts,
    road: RoadId,
    begin: float,
    end: float,
    offset: float,
    how: LineWay,
) -> FromLine:
    """The project with pipes along a road at an offset, from one chainage to another (falling where
    it goes back).

    Each straight of the road gives a straight pipe, each arc a curved one; a clothoid counts as an
    arc. Raises EditError where the stretch lies off the road.
    """
    line = facts.roads[road].alignment
    u = project.units
    if (
        min(begin, end) < line.start - 1e-6
        or max(begin, end) > line.end + 1e-6
        or abs(end - begin) < SHORTEST
    ):
        raise EditError(
            f"The road runs from {u.chainage(line.start)} to {u.chainage(line.end)}: choose a "
            "stretch of it."
        )
    low, high = sorted((begin, end))
    inner = [b for b in line.breaks.tolist() if low + SHORTEST < b < high - SHORTEST]
    at = [low, *inner, high]
    if begin > end:
        at = at[::-1]
    legs: list[Leg] = []
    for a, b in pairwise(at):
        element = line.elements[
            int(np.clip(np.searchsorted(line.breaks, (a + b) / 2) - 1, 0, len(line.elements) - 1))
        ]
        for c, d in _parted(a, b, how.spacing):
            bend = None if isinstance(element, Straight) else Anchored(road, (c + d) / 2, offset)
            legs.append((Anchored(road, d, offset), bend))
    return _laid(project, facts, Anchored(road, begin, offset), legs, how)


def drawn(project: Project, facts: Facts, xy: Sequence[Sequence[float]], how: LineWay) -> FromLine:
    """The project with pipes along a drawn polyline, first place to last; its arcs stay arcs.
    Raises EditError without length.
    """
    pieces = pieces_through(xy)
    if not pieces:
        raise EditError("This line has no length.")
    legs: list[Leg] = []
    for piece in pieces:
        for a, b in _parted(0.0, piece.length, how.spacing):
            x, y = piece.point(np.array([b, (a + b) / 2]), np.zeros(2))
            bend = Free(float(x[1]), float(y[1])) if isinstance(piece, Arc) else None
            legs.append((Free(float(x[0]), float(y[0])), bend))
    return _laid(project, facts, Free(pieces[0].x0, pieces[0].y0), legs, how)


def _parted(a: float, b: float, spacing: float | None) -> list[tuple[float, float]]:
    """A stretch in equal parts no longer than a spacing."""
    n = 1 if spacing is None else max(1, int(np.ceil(abs(b - a) / spacing - 1e-9)))
    cuts = np.linspace(a, b, n + 1).tolist()
    return list(pairwise(cuts))


def _laid(project: Project, facts: Facts, first: Place, legs: list[Leg], how: LineWay) -> FromLine:
    if how.spacing is not None and how.spacing < SHORTEST:
        raise EditError(f"Chambers stand {project.units.long(SHORTEST)} apart at least.")
    begun = lay_next(project, facts, None, first, how.way)
    project, facts, last = begun.project, begun.facts, begun.structure
    structures, pipes = [last], list[PipeId]()
    way = how.way
    for i, (place, bend) in enumerate(legs):
        kind = how.way.type if i == len(legs) - 1 else how.corner
        laid = lay_next(project, facts, last, place, replace(way, type=kind), through=bend)
        project, facts, last = laid.project, laid.facts, laid.structure
        way = replace(way, start=None)
        structures.append(last)
        if laid.pipe is not None:
            pipes.append(laid.pipe)
    return FromLine(project, tuple(structures), tuple(pipes))
