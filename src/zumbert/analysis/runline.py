"""A run: its line, its reaches and structures, what lies along it."""

from collections.abc import Sequence
from typing import Literal, NamedTuple

import numpy as np

from zumbert.analysis.crossings import Crossing, Reach
from zumbert.analysis.facts import Facts
from zumbert.geometry.alignment import Alignment
from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line
from zumbert.model.ids import PipeId, RoadId, StructureId
from zumbert.model.project import Project


class RunKey(NamedTuple):
    """The key of a long section: the way from a structure to its outfall, or a road."""

    kind: Literal["run", "road", "path", "named"]
    id: str  # of a path: the ids of its ends, with a blank between

    @classmethod
    def path(cls, a: StructureId, b: StructureId) -> "RunKey":
        """The way between two structures, whichever is named first."""
        return cls("path", " ".join(sorted((a, b))))


class Other(NamedTuple):
    """Another line of levels along a run: formation, rock, or a road profile that is not in
    force.
    """

    role: Literal["formation", "rock", "existing profile", "design profile"]
    name: str
    line: Line


class Run(NamedTuple):
    """A run laid out along a line: structures and pipes by distance, ground and design along it."""

    key: RunKey
    name: str
    structures: tuple[tuple[StructureId, float], ...]
    reaches: tuple[Reach, ...]
    length: float  # m
    start: float  # m: distance at which it begins; a road's first chainage
    fall: float | None  # m, highest invert less lowest
    ground: Line | None
    design: Line | None
    line: Alignment | None  # the line in plan, distances as its chainages
    others: tuple[Other, ...] = ()
    crossings: tuple[Crossing, ...] = ()
    corners: Array = np.zeros((0, 2))  # of the line in plan
    at: Array = np.zeros(0)  # m: distances of those along it
    near: tuple[PipeId, ...] = ()  # pipes that may cross it
    anchors: tuple[RoadId | None, ...] = ()  # the roads that its structures are anchored to
    plan: object = None  # the spans that it was laid out by: the same ones lay it out the same
    made: tuple[object, ...] = ()  # the facts and records that it was made from


def met_on(run: Run) -> list[Crossing]:
    """The roads that cross a run."""
    return [c for c in run.crossings if c.kind == "road"]


def fall_along(project: Project, reaches: Sequence[Reach]) -> float | None:
    """The highest invert less the lowest, m."""
    inverts = [
        v
        for r in reaches
        for v in (project.pipes[r.pipe].invert_up, project.pipes[r.pipe].invert_down)
    ]
    return max(inverts) - min(inverts) if inverts else None


def other_lines(facts: Facts, xy: Array, ch: Array | None) -> tuple[Other, ...]:
    """Formation and rock along a line; distances along it, or (ch) the chainages of its corners."""
    out: list[Other] = []
    for role, tin in (("formation", facts.surfaces.formation), ("rock", facts.surfaces.rock)):
        if tin is None or len(xy) < 2:
            continue
        s, z = tin.section(xy)
        if not np.isnan(z).all():
            out.append(Other(role, facts.surfaces.name(role), Line(as_chainages(s, xy, ch), z)))  # type: ignore[arg-type]
    return tuple(out)


def as_chainages(s: Array, xy: Array, ch: Array | None) -> Array:
    """Distances along chords as the chainages of their ends say."""
    if ch is None:
        return s
    chord = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(xy, axis=0).T))])
    return np.asarray(np.interp(s, chord, ch))
