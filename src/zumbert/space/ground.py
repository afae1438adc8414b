"""The ground seen in space: surfaces and roads, whole or parted along a run, with contours,
limits of land, and a section.
"""

from collections.abc import Iterator
from functools import partial
from typing import Any

import numpy as np

from zumbert.analysis.facts import Facts
from zumbert.analysis.roads import RoadFacts
from zumbert.analysis.runline import Run
from zumbert.analysis.surfaces import Ground
from zumbert.drawing.contours import tin_contours
from zumbert.drawing.solids import surface_mesh
from zumbert.geometry.cut import Parted, parted
from zumbert.geometry.elements import Array
from zumbert.geometry.kept import kept
from zumbert.geometry.mesh import Mesh
from zumbert.geometry.strip import strip_tins
from zumbert.geometry.tin import Tin
from zumbert.model.land import Land
from zumbert.space.part import Key, Kind, Maker, SpacePart, solid_part
from zumbert.space.wanted import InSpace

SCALE = 2.5  # drawing units a metre whose steps the contours have


UNDER = 1.0  # m that a section of the ground reaches below the lowest invert


SIDES = ("left", "right")


def ground_parts(
    facts: Facts, wanted: InSpace, line: Array | None
) -> Iterator[tuple[Key, tuple[Any, ...], Maker]]:
    """The surfaces in force with their contours, and the limits of land. With a cut all come in
    two halves.
    """
    p, s = facts.project, facts.surfaces
    blade = line if wanted.cut else None
    sheets: list[tuple[Kind, str, Ground | None]] = [("ground", "topsoil", s.existing)]
    if isinstance(s.design, Tin) and any(r.role == "design" for r in p.surfaces.values()):
        sheets.append(("design", "soft", s.design))
    for kind, role, tin in sheets:
        for side in SIDES if blade is not None else ("",):
            if tin is not None:
                yield (
                    (kind, side),
                    (tin, blade),
                    partial(_sheet, kind, kind, role, tin, blade, side),
                )
                for weight in ("major", "minor"):
                    of = (tin, blade, p.settings.contours, p.settings.units)
                    yield (
                        (kind, f"{side} {weight}"),
                        of,
                        partial(_contours, facts, kind, tin, blade, side, weight),
                    )
    if len(sheets) == 1:
        for r in facts.roads.values():
            if r.road.shown and r.road.strip is not None and r.profile is not None:
                for side in SIDES if blade is not None else ("",):
                    yield (
                        ("road", f"{r.road.id} {side}"),
                        (r, blade),
                        partial(_road, r, blade, side),
                    )
    for area in p.land.values():
        if area.shown:
            yield ("land", area.id), (area, s.existing), partial(_limit, area, s.existing)


@kept(8)
def _halves(tin: Ground, line: bytes) -> Parted | None:
    """A surface parted by a line in plan; asked for by each half and by its contours."""
    mesh = surface_mesh(tin)
    return None if mesh is None else parted(mesh, np.frombuffer(line).reshape(-1, 2))


def _half(tin: Ground, blade: Array | None, side: str) -> Mesh | None:
    """A surface, or the half of it on one side."""
    if blade is None:
        return surface_mesh(tin)
    both = _halves(tin, blade.tobytes())
    return None if both is None else both.left if side == "left" else both.right


def _sheet(
    kind: Kind, key: str, role: str, tin: Ground, blade: Array | None, side: str
) -> SpacePart | None:
    mesh = _half(tin, blade, side)
    return (
        None if mesh is None or not len(mesh.faces) else SpacePart(kind, key, role, mesh, side=side)
    )


def _contours(
    facts: Facts, kind: Kind, tin: Ground, blade: Array | None, side: str, weight: str
) -> SpacePart | None:
    """The contours of a surface that are major, or the others."""
    half = _half_tin(tin, None if blade is None else blade.tobytes(), side)
    lines = "contour" if kind == "ground" else "contour-design"
    found = None if half is None else tin_contours(facts, half, lines, SCALE)
    if found is None:
        return None
    mine = found.major if weight == "major" else ~found.major
    xy, at = found.xy[mine], found.level[mine]
    ends = np.stack([np.column_stack([xy[:, :2], at]), np.column_stack([xy[:, 2:], at])], axis=1)
    return SpacePart(kind, side, f"{lines}-{weight}", lines=ends, side=side) if len(ends) else None


@kept(8)
def _half_tin(tin: Ground, line: bytes | None, side: str) -> Tin | None:
    """A half as a surface of its own; asked for by its major contours and by the others."""
    if line is None and isinstance(tin, Tin):
        return tin
    mesh = _half(tin, None if line is None else np.frombuffer(line).reshape(-1, 2), side)
    return None if mesh is None or not len(mesh.faces) else Tin(mesh.vertices, mesh.faces)


def _road(r: RoadFacts, blade: Array | None, side: str) -> SpacePart | None:
    strip = _strip(r)
    return None if strip is None else _sheet("road", r.road.id, "soft", strip, blade, side)


@kept(1)
def _strip(r: RoadFacts) -> Tin | None:
    """The surface of a road's strip; None where it gives none, which is told among the faults of
    surfaces.
    """
    if r.road.strip is None or r.profile is None:
        return None
    try:
        return strip_tins(r.alignment, r.profile, r.road.strip.sections, r.road.strip.depth).design
    except ValueError:
        return None


def _limit(area: Land, ground: Ground | None) -> SpacePart | None:
    """The limit of an area on the ground, where there is one."""
    if ground is None:
        return None
    ring = np.array([*area.ring, area.ring[0]], float)
    s, z = ground.section(ring)
    long = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(ring, axis=0).T))])
    path = np.column_stack([np.interp(s, long, ring[:, 0]), np.interp(s, long, ring[:, 1]), z])
    pieces = np.stack([path[:-1], path[1:]], axis=1)
    pieces = pieces[~np.isnan(pieces).any(axis=(1, 2))]
    return SpacePart("land", area.id, "limit", lines=pieces) if len(pieces) else None


def lowest_seen(run: Run, facts: Facts) -> float | None:
    """The level (m) down to which a section of the ground is shown."""
    z = [
        v
        for r in run.reaches
        for v in (facts.pipes[r.pipe].pipe.invert_up, facts.pipes[r.pipe].pipe.invert_down)
    ]
    if run.ground is not None:
        z.append(float(np.nanmin(run.ground.z)) if not np.isnan(run.ground.z).all() else np.inf)
    low = min(z, default=np.inf)
    return float(np.floor(low - UNDER)) if np.isfinite(low) else None


def section_part(run: Run, facts: Facts) -> SpacePart | None:
    """The ground in section: upright along the run, from the ground line down."""
    low = lowest_seen(run, facts)
    if run.ground is None or run.line is None or low is None:
        return None
    s = run.ground.s
    at = (
        np.unique(np.concatenate([s, run.at[(run.at >= s[0]) & (run.at <= s[-1])]]))
        if len(run.at)
        else s
    )
    z = np.interp(at, s, run.ground.z)
    xy = np.column_stack(run.line.point(at, np.zeros(len(at))))
    ok = ~(np.isnan(z) | np.isnan(xy).any(axis=1))
    top, foot = np.column_stack([xy, z]), np.column_stack([xy, np.full(len(xy), low)])
    n = len(at)
    i = np.flatnonzero(ok[:-1] & ok[1:])
    faces = np.concatenate(
        [np.column_stack([i, i + n, i + n + 1]), np.column_stack([i, i + n + 1, i + 1])]
    ).astype(np.int64)
    vertices = np.where(np.isnan(np.vstack([top, foot])), 0.0, np.vstack([top, foot]))
    return solid_part("section", "run", "general", Mesh(vertices, faces))
