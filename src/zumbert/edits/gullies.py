"""Gullies: in pairs on both sides of a road, along it at a spacing, their leads joined to what
is near.
"""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from zumbert.analysis.facts import Facts, analyse
from zumbert.edits.join import placed, split
from zumbert.edits.labels import next_label, numbers_in_use, pattern_of
from zumbert.edits.lay import lay_next
from zumbert.edits.layoptions import LayOptions
from zumbert.edits.loose import TOO_NEAR, nearest_distance
from zumbert.errors import EditError
from zumbert.geometry.strip import at_chainages
from zumbert.model.ids import PipeId, RoadId, SizeKey, StructureId, TypeKey
from zumbert.model.project import Project
from zumbert.model.structure import Anchored

ONE_JOINT = 1.0  # m along a pipe: leads that come to it no farther apart share a joint


class GullyWay(Struct, frozen=True, kw_only=True):
    """How gullies are set: what they are, where across the road, and how their leads are laid."""

    type: TypeKey
    lead: SizeKey  # pipe size of the leads
    way: LayOptions  # network, service, status and where levels come from
    offset: float | None = None  # m on both sides; None: at the kerb
    flush: bool = True  # at the kerb: its outer edge stands at the kerb, not its middle
    reach: float = 15.0  # m: leads go no farther
    # what a lead joins a pipe with, where no manhole is in reach; None: it does not
    joint: TypeKey | None = None


class GulliesSet(NamedTuple):
    """The project with gullies more, what they are, and those that found nothing to join."""

    project: Project
    gullies: tuple[StructureId, ...]
    pipes: tuple[PipeId, ...]
    alone: tuple[str, ...]  # labels


def kerb_offset(
    project: Project, facts: Facts, road: RoadId, chainage: float, side: int, way: GullyWay
) -> float:
    """Offset (m) of a gully on a side (-1 left, 1 right): as asked for, else at the kerb.
    EditError without a strip.
    """
    if way.offset is not None:
        return side * abs(way.offset)
    strip = project.roads[road].strip
    if strip is None:
        raise EditError(
            f'"{project.roads[road].name}" has no kerbs: give an offset, or a strip in the '
            "stage Ground."
        )
    half = float(
        at_chainages(strip.sections, np.array([chainage]))["left" if side < 0 else "right"][0]
    )
    return side * (half - (project.types[way.type].outside / 2 if way.flush else 0.0))


def pair(
    project: Project,
    facts: Facts,
    road: RoadId,
    chainage: float,
    way: GullyWay,
    sides: Sequence[int] = (-1, 1),
) -> GulliesSet:
    """The project with a gully on each side of a road at a chainage, each lead joined to the
    nearest manhole in reach (else, with a joint, to the nearest pipe). Both get one number where
    their pattern tells the sides apart.
    """
    pattern = pattern_of(project, project.types[way.type].kind)
    n = max(numbers_in_use(project, pattern), default=0) + 1 if "{side}" in pattern else None
    gullies: list[StructureId] = []
    pipes: list[PipeId] = []
    alone: list[str] = []
    for side in sides:
        place = Anchored(road, chainage, kerb_offset(project, facts, road, chainage, side, way))
        label = next_label(project, way.type, place, n)
        made = placed(
            project, facts, way.type, place, way.way.network, way.way.service, way.way.status, label
        )
        project, facts = made.project, analyse(made.project, facts)
        gullies.append(made.structure)
        project, facts, pipe = _led(project, facts, made.structure, way)
        if pipe is None:
            alone.append(label)
        else:
            pipes.append(pipe)
    return GulliesSet(project, tuple(gullies), tuple(pipes), tuple(alone))


def _led(
    project: Project, facts: Facts, gully: StructureId, way: GullyWay
) -> tuple[Project, Facts, PipeId | None]:
    """The project with a gully's lead; without one where nothing is in reach."""
    target = nearest_chamber(project, facts, gully, way.reach)
    if target is None and way.joint is not None:
        found = _nearest_pipe(project, facts, gully, way.reach)
        target = None if found is None else _joint_near(project, facts, *found)
        if found is not None and target is None:
            made = split(project, facts, found[0], found[1], way.joint)
            project, facts, target = made.project, analyse(made.project, facts), made.structure
    if target is None:
        return project, facts, None
    laid = lay_next(
        project, facts, gully, target, replace(way.way, size=way.lead, up=False, start=None)
    )
    return laid.project, laid.facts, laid.pipe


def _joint_near(project: Project, facts: Facts, pipe: PipeId, at: float) -> StructureId | None:
    """The joint that a pipe ends at, where its end is so near to a place on it that both are
    one: one for a pair.
    """
    f = facts.pipes[pipe]
    for end, far in ((f.pipe.up, at), (f.pipe.down, f.span.length - at)):
        if project.types[project.structures[end].type].kind == "joint" and far <= ONE_JOINT:
            return end
    return None


def nearest_chamber(
    project: Project, facts: Facts, gully: StructureId, reach: float
) -> StructureId | None:
    """The nearest manhole or catch pit within a reach (m); None where there is none."""
    at = facts.places[gully]
    best: tuple[float, StructureId] | None = None
    for key, p in facts.places.items():
        kind = project.types[p.type].kind
        if key == gully or kind not in ("manhole", "catchpit") or p.x is None or at.x is None:
            continue
        far = float(np.hypot(p.x - at.x, (p.y or 0.0) - (at.y or 0.0)))
        if far <= reach and (best is None or far < best[0] - 1e-9):
            best = (far, key)
    return None if best is None else best[1]


def _nearest_pipe(
    project: Project, facts: Facts, gully: StructureId, reach: float
) -> tuple[PipeId, float] | None:
    """The nearest pipe within a reach (m) and where on it, leads of other gullies left out."""
    at = facts.places[gully]
    best: tuple[float, PipeId, float] | None = None
    for key, f in facts.pipes.items():
        if at.x is None or at.y is None or f.span.length < 4 * TOO_NEAR:
            continue
        if project.types[project.structures[f.pipe.up].type].kind == "gully":
            continue
        s = nearest_distance(f.span, at.x, at.y)
        x, y = f.span.point(s)
        far = float(np.hypot(x - at.x, y - at.y))
        if far <= reach and (best is None or far < best[0]):
            best = (far, key, s)
    return None if best is None else (best[1], best[2])


def spaced(
    project: Project,
    facts: Facts,
    road: RoadId,
    begin: float,
    end: float,
    spacing: float,
    way: GullyWay,
    sides: Sequence[int] = (-1, 1),
    at_low_points: bool = True,
) -> GulliesSet:
    """The project with gullies each `spacing` m between two chainages, and (at_low_points) one at
    each low point of the road's profile; those that would stand in another road's carriageway are
    passed over.

    Raises EditError for a spacing under 1 m, or chainages off the road.
    """
    line = facts.roads[road].alignment
    begin, end = sorted((begin, end))
    if not spacing >= 1.0:
        raise EditError(f"Gullies stand {project.units.long(1.0)} apart at least.")
    if begin < line.start - 1e-6 or end > line.end + 1e-6:
        u = project.units
        raise EditError(
            f"The road runs from {u.chainage(line.start)} to {u.chainage(line.end)}: choose "
            "chainages on it."
        )
    at = np.arange(begin, end + 1e-6, spacing).tolist()
    profile = facts.roads[road].profile
    if at_low_points and profile is not None:
        low = [ch for ch, kind in profile.turning_points() if kind == "low" and begin <= ch <= end]
        at = [c for c in at if all(abs(c - x) >= spacing / 2 for x in low)] + low
    gullies: list[StructureId] = []
    pipes: list[PipeId] = []
    alone: list[str] = []
    for ch in sorted(at):
        free = [side for side in sides if not _in_junction(project, facts, road, ch, side, way)]
        if not free:
            continue
        made = pair(project, facts, road, ch, way, free)
        project, facts = made.project, analyse(made.project, facts)
        gullies += made.gullies
        pipes += made.pipes
        alone += made.alone
    if not gullies:
        raise EditError("No gully stands between these chainages: all places lie in junctions.")
    return GulliesSet(project, tuple(gullies), tuple(pipes), tuple(alone))


def catch_spacing(width: float, area: float) -> float:
    """The spacing (m) at which each gully catches an area (m²) of a road of a width (m). Raises
    EditError unless both are above 0.
    """
    if not (width > 0 and area > 0):
        raise EditError("A catch needs a width and an area of more than nothing.")
    return area / width


def _in_junction(
    project: Project, facts: Facts, road: RoadId, ch: float, side: int, way: GullyWay
) -> bool:
    """Whether a place at the kerb lies in another road's carriageway, its mouth too."""
    off = kerb_offset(project, facts, road, ch, side, way)
    x, y = facts.roads[road].alignment.point(ch, off)
    for key, other in facts.roads.items():
        strip = other.road.strip
        if key == road or strip is None:
            continue
        c, o = (float(v) for v in other.alignment.project(x, y))
        if c != c:
            continue
        half = at_chainages(strip.sections, np.array([c]))
        if -float(half["left"][0]) - 1.0 <= o <= float(half["right"][0]) + 1.0:
            return True
    return False
