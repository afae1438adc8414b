"""Trench and pit volumes, exact for level-across sections over the exact ground along the axis."""

from collections.abc import Sequence
from functools import lru_cache
from math import pi

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.spans import Span, reach_along
from zumbert.analysis.stages import Derived, Read, Stage, derive, joined
from zumbert.analysis.surfaces import Surfaces, levels
from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line, between, level_at, lower
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import End, Pipe
from zumbert.model.project import Project
from zumbert.model.structure import Structure
from zumbert.model.trench import DEPTH_BANDS, TrenchType, Upper


class TrenchFacts(Struct, frozen=True, kw_only=True, eq=False):
    """The trench of one pipe, from pit edge to pit edge. Volumes in m³; None where the upper surface is not known."""

    pipe: PipeFacts
    begin: float  # m from the upstream reference point
    end: float  # m
    excavation: float | None
    bedding: float  # of it in the excavation
    displacement: float  # the pipe's own outside volume in the excavation
    fill_first: float  # m of trench over which the upper surface lies under the crown of the pipe
    fill: float  # m³ that come first there: up to the crown, as wide as the trench at its bottom
    by_depth: dict[str, float]
    depth_max: float | None  # m, upper surface to trench bottom

    @property
    def length(self) -> float:
        """Length of the trench, m."""
        return self.end - self.begin


class PitFacts(Struct, frozen=True, kw_only=True, eq=False):
    """The pit of one structure: outside plan size and working space all round, counted once. m³."""

    structure: StructureFacts
    width: float  # m, diameter, or length along the bearing of a rectangular chamber
    across: float | None  # m, width of a rectangular pit
    bottom: float | None  # m above datum
    excavation: float | None


class Trenches(Struct, frozen=True, kw_only=True, eq=False):
    """Trenches and pits of a project; a structure without a chamber has no pit."""

    facts: Facts
    made: Derived
    pipes: dict[str, TrenchFacts]
    pits: dict[str, PitFacts]


def trenches(facts: Facts, previous: Trenches | None = None) -> Trenches:
    """All trenches and pits; those of unchanged facts are kept. A trench goes by its pipe and by the pits at both its ends."""
    records = facts.project.structures
    world = ("project.types", "project.trench_types", "project.networks")

    def dug(now: Derived, keys: list[PipeId]) -> list[TrenchFacts]:
        return [trench_of(facts, facts.pipes[k]) for k in keys]

    def pits(now: Derived, keys: list[StructureId]) -> list[PitFacts | None]:
        inside = {k: facts.project.types[records[k].type].inside for k in keys}
        return [pit_of(facts, facts.structures[k]) if inside[k] else None for k in keys]

    stages = (
        Stage(name="trenches", each="pipes", reads=(Read("pipes"), Read("project.structures", via=joined)), world=world, make=dug),
        Stage(name="pits", each="structures", reads=(Read("structures"),), world=world, make=pits),
    )
    made = derive(stages, facts.project, None if previous is None else previous.made, facts.made)
    return Trenches(facts=facts, made=made, pipes=made["trenches"], pits=made["pits"])


def trench_type(project: Project, of: Pipe | Structure) -> TrenchType:
    """The trench type of the network of a pipe or structure."""
    return project.trench_types[project.networks[of.network].trench]


def pit_sides(project: Project, structure: Structure) -> tuple[float, float | None]:
    """The pit of a chamber in plan, m: outside of the chamber and working space all round. A diameter and None where it is
    round, else its length along the chamber's bearing and its width; 0 without a chamber.
    """
    kind = project.types[structure.type]
    more = 2 * (kind.wall + trench_type(project, structure).working_space) if kind.inside else 0.0
    return kind.inside + more, None if kind.across is None or not kind.inside else kind.across + more


def trench_reach(facts: Facts, f: PipeFacts, end: End) -> float:
    """From a structure's reference point to where the trench of a pipe begins, along the pipe, m: the edge of its pit; at a
    chamber that is there already, whose pit nobody digs, the outside of its wall.
    """
    p, project = f.pipe, facts.project
    s = project.structures[p.at(end)]
    kind = project.types[s.type]
    if not kind.inside:
        return 0.0
    if s.status == "existing" and p.status == "proposed":
        sides = kind.outside, None if kind.across is None else kind.across + 2 * kind.wall
    else:
        sides = pit_sides(project, s)
    box = replace(kind, inside=sides[0], across=sides[1], wall=0.0)
    return reach_along(f.span, end, box)


def bottom_at(facts: Facts, f: PipeFacts, s: float) -> float:
    """Trench bottom (m above datum) at a distance: underside of the pipe less the bedding."""
    return f.invert(s) - f.wall - trench_type(facts.project, f.pipe).bedding


def trench_of(facts: Facts, f: PipeFacts) -> TrenchFacts:
    """The trench of one pipe. Where two pits meet there is none: its length is 0."""
    project = facts.project
    kind = trench_type(project, f.pipe)
    begin = trench_reach(facts, f, "up")
    end = max(begin, f.span.length - trench_reach(facts, f, "down"))
    long = end - begin
    outside = f.inside + 2 * f.wall
    crown = kind.bedding + outside  # m over the trench bottom
    depth = _depth(facts, f, kind, begin, end) if long > 1e-9 else None
    volumes = None if depth is None else _volumes(depth, kind)
    return TrenchFacts(
        pipe=f, begin=begin, end=end,
        excavation=0.0 if long <= 1e-9 else None if volumes is None else volumes[0],
        bedding=float(_area(np.array([kind.bedding]), kind)[0]) * long if depth is None else _bedding(depth, kind),
        displacement=pi * outside**2 / 4 * long if depth is None else _under_surface(depth, kind.bedding, outside / 2),
        fill_first=0.0 if depth is None else _below(depth, crown),
        fill=0.0 if depth is None else kind.width * _lacking(depth, crown),
        by_depth={} if volumes is None else volumes[1],
        depth_max=None if depth is None else float(depth.z.max()),
    )  # fmt: skip


def excavation(facts: Facts, f: PipeFacts) -> float | None:
    """The excavation (m³) of one pipe's trench alone; None where its upper surface has a gap."""
    kind = trench_type(facts.project, f.pipe)
    begin = trench_reach(facts, f, "up")
    end = f.span.length - trench_reach(facts, f, "down")
    if end - begin <= 1e-9:
        return 0.0
    depth = _depth(facts, f, kind, begin, end)
    return None if depth is None else integral(depth, kind)


def _depth(facts: Facts, f: PipeFacts, kind: TrenchType, begin: float, end: float) -> Line | None:
    """H along the trench: upper surface less trench bottom; None where the upper surface has a gap."""
    part = _over(f.span, facts.surfaces, kind.upper, begin, end)
    if part is None or not part.solid:
        return None
    slope = f.slope or 0.0
    bottom = f.pipe.invert_up - slope * (part.s - f.quoted_from) - f.wall - kind.bedding
    return Line(part.s, part.z - bottom)


@lru_cache(maxsize=8)
def _over(span: Span, surfaces: Surfaces, upper: Upper, begin: float, end: float) -> Line | None:
    """The upper surface over a trench; while a pipe's levels are dragged it stays, so those asked for last are remembered."""
    line = _upper(span, surfaces, upper)
    return None if line is None else between(line, begin, end)


def _upper(span: Span, surfaces: Surfaces, upper: Upper) -> Line | None:
    """The upper surface along a pipe: existing ground, formation, or the lower of both."""
    if upper == "existing" or surfaces.formation is None:
        return span.ground if upper != "formation" else None
    formation = span.along(surfaces.formation)
    if upper == "formation" or span.ground is None:
        return formation
    return lower(span.ground, formation)


def _area(h: Array, kind: TrenchType) -> Array:
    """Level-across section area (m²) at depth H (m): W H + m (H - h_v)² above the upright side; none above ground."""
    h = np.maximum(h, 0.0)
    return kind.width * h + kind.batter * np.maximum(h - kind.vertical_height, 0.0) ** 2


def integral(depth: Line, kind: TrenchType) -> float:
    """Volume (m³) under a depth line, exact: between its points, the ground's surface and the upright side's top
    the area is a quadratic in distance, and Simpson's rule is exact for it.
    """
    s, h = depth
    total = 0.0
    for mark in (0.0, kind.vertical_height):
        s, h = _cut_at(s, h, mark)
    a, b = h[:-1], h[1:]
    total = float((np.diff(s) / 6 * (_area(a, kind) + 4 * _area((a + b) / 2, kind) + _area(b, kind))).sum())
    return total


def _cut_at(s: Array, h: Array, mark: float) -> tuple[Array, Array]:
    """The same line with a point at each place where it passes a depth."""
    i = np.flatnonzero((h[:-1] - mark) * (h[1:] - mark) < 0)
    at = s[i] + (s[i + 1] - s[i]) * (mark - h[i]) / (h[i + 1] - h[i])
    return np.insert(s, i + 1, at), np.insert(h, i + 1, mark)


def average_end_area(depth: Line, kind: TrenchType, spacing: float) -> float:
    """Volume (m³) by average end areas at a spacing (m), both ends and the line's points: the trade's approximation.

    Too large by about m/6 (dH)² a metre between sections; shown beside the exact volume where one checks by hand.
    """
    s = np.unique(np.concatenate([depth.s, np.arange(depth.s[0], depth.s[-1], spacing)]))
    area = _area(level_at(depth, s), kind)
    return float((np.diff(s) * (area[:-1] + area[1:]) / 2).sum())


def band_name(i: int) -> str:
    """The name of a depth band: "0-1.5", … "4-"."""
    stop = f"{DEPTH_BANDS[i + 1]:g}" if i + 1 < len(DEPTH_BANDS) else ""
    return f"{DEPTH_BANDS[i]:g}-{stop}"


def _volumes(depth: Line, kind: TrenchType) -> tuple[float, dict[str, float]]:
    """The volume, and its parts by depth under the upper surface: what lies under a depth d is a trench of H - d."""
    under = [integral(Line(depth.s, depth.z - d), kind) for d in DEPTH_BANDS] + [0.0]
    parts = {band_name(i): under[i] - under[i + 1] for i in range(len(DEPTH_BANDS))}
    return under[0], {k: v for k, v in parts.items() if v > 0}


def _bedding(depth: Line, kind: TrenchType) -> float:
    """The bedding (m³) that lies in the excavation: what of the trench is no higher than it over the bottom."""
    s, h = _cut_at(*depth, kind.bedding)
    return integral(Line(s, np.minimum(h, kind.bedding)), kind)


def _under_surface(depth: Line, bedding: float, radius: float) -> float:
    """The volume (m³) of a pipe that lies under the upper surface, exact: the area of its circle up to a height,
    integrated over the heights that a straight stretch of the surface passes.
    """
    s, h = depth
    for mark in (bedding, bedding + 2 * radius):
        s, h = _cut_at(s, h, mark)
    x = np.clip(h - bedding - radius, -radius, radius)  # heights over the pipe's axis
    root = np.sqrt(np.maximum(radius**2 - x**2, 0.0))
    turn = np.arcsin(np.clip(x / radius, -1.0, 1.0))
    area = x * root + radius**2 * (turn + pi / 2)
    whole = -(root**3) / 3 + radius**2 * (x * turn + root + pi / 2 * x)
    rise = np.diff(x)
    flat = np.abs(rise) < 1e-9
    mean = np.where(flat, (area[:-1] + area[1:]) / 2, np.diff(whole) / np.where(flat, 1.0, rise))
    return float((np.diff(s) * mean).sum())


def _below(depth: Line, height: float) -> float:
    """Length (m) over which the upper surface lies under a height over the trench bottom."""
    s, h = _cut_at(*depth, height)
    return float(np.diff(s)[(h[:-1] + h[1:]) / 2 < height].sum())


def _lacking(depth: Line, height: float) -> float:
    """The area (m²) along the trench between the upper surface and a height over the bottom, where it lies under that."""
    s, h = _cut_at(*depth, height)
    short = np.maximum(height - h, 0.0)
    return float((np.diff(s) * (short[:-1] + short[1:]) / 2).sum())


def pit_of(facts: Facts, f: StructureFacts) -> PitFacts:
    """The pit of one structure: plan area times the depth at its centre, from the upper surface to the base's underside.

    The ground is taken as level across the pit: on a plane ground that is exact, since the mean is at the centre.
    """
    project = facts.project
    kind = trench_type(project, f.structure)
    wide, across = pit_sides(project, f.structure)
    bottom = None if f.sump_level is None else f.sump_level - kind.base_thickness
    upper = _upper_at(facts, f, kind)
    area = pi * wide**2 / 4 if across is None else wide * across
    volume = None if bottom is None or upper is None else area * max(0.0, upper - bottom)
    return PitFacts(structure=f, width=wide, across=across, bottom=bottom, excavation=volume)


def _upper_at(facts: Facts, f: StructureFacts, kind: TrenchType) -> float | None:
    formation: float | None = None
    if kind.upper != "existing" and f.place.x is not None and f.place.y is not None:
        z = float(levels(facts.surfaces.formation, f.place.x, f.place.y))
        formation = None if z != z else z
    choices: Sequence[float | None] = {
        "existing": (f.place.ground,), "formation": (formation,), "lower": (f.place.ground, formation),
    }[kind.upper]  # fmt: skip
    known = [v for v in choices if v is not None]
    return min(known) if known else None
