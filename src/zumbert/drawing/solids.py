"""The network, the services and the surfaces in space: closed bodies and triangles with ids, from
facts. Heights are vertical, as in the long section: a pipe's crown lies over its invert by its
inside.
"""

from collections.abc import Iterator
from typing import Literal, NamedTuple

import numpy as np

from zumbert.analysis.cells import pit_outline
from zumbert.analysis.chambers import StructureFacts, extent
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.strips import Strips
from zumbert.analysis.surfaces import Ground
from zumbert.geometry.elements import Array
from zumbert.geometry.mesh import Mesh, circle, merged, outward, rings, rod, tube
from zumbert.geometry.tin import Tin
from zumbert.model.catalogue import StructureType
from zumbert.model.project import base_thickness
from zumbert.model.service import ServiceLine

SolidKind = Literal["pipe", "structure", "service", "surface"]

COVER = 0.1  # m: height of a cover with its frame
RIM = 0.08  # m: what a frame is wider than its opening on each side
SLAB = 0.1  # m: the least thickness of the slab under it
HEADWALL = 0.25  # m: thickness of a headwall, which has no record of it
BEYOND = 0.3  # m: what a headwall reaches below its lowest invert and beside its pipes
LOOKS = {"existing": "ink-2", "abandoned": "soft"}  # roles of what is not proposed


class Solid(NamedTuple):
    """One thing in space; coordinates are those of the project, m."""

    kind: SolidKind
    id: str
    role: str  # how it looks
    mesh: Mesh


def solids(facts: Facts) -> Iterator[Solid]:
    """Everything that stands in space: structures, pipes, services with known levels, surfaces
    in force.
    """
    p = facts.project
    for k, s in p.structures.items():
        body = structure_mesh(facts, facts.structures[k])
        if body is not None:
            yield Solid("structure", k, LOOKS.get(s.status, "chamber-wall"), body)
    for key, pipe in p.pipes.items():
        body = pipe_mesh(facts.pipes[key])
        if body is not None:
            yield Solid("pipe", key, LOOKS.get(pipe.status, pipe.service), body)
    for name, service in p.services.items():
        body = service_mesh(service)
        if body is not None:
            yield Solid("service", name, "service", body)
    for role, look in (("existing", "ground"), ("design", "design")):
        body = surface_mesh(getattr(facts.surfaces, role))
        if body is not None:
            yield Solid("surface", role, look, body)


def has_barrel(f: PipeFacts) -> bool:
    """Whether a pipe has a place, and is longer than its chambers are wide."""
    return f.span.wall > 1e-9 and f.span.up.x is not None and f.span.down.x is not None


def axis(f: PipeFacts) -> Array | None:
    """The axis of a pipe from inner wall to inner wall (n, 3), m; on an arc its chords. None
    where it has no barrel or no place.
    """
    if not has_barrel(f):
        return None
    span = f.span
    a, b = span.reach_up, span.length - span.reach_down
    chords = span.chords()
    s = np.concatenate([[a], chords[(chords > a + 1e-9) & (chords < b - 1e-9)], [b]])
    return np.array([(*span.point(d), f.invert(d) + f.inside / 2) for d in s.tolist()])


def pipe_mesh(f: PipeFacts) -> Mesh | None:
    """The barrel of a pipe; None where it has none."""
    path = axis(f)
    return None if path is None else tube(path, f.inside, f.inside + 2 * f.wall)


def service_mesh(service: ServiceLine) -> Mesh | None:
    """A service where its levels are known, axis to axis; None where no two levels follow each
    other.
    """
    parts: list[Mesh] = []
    path: list[tuple[float, float, float]] = []
    for x, y, z in (*service.points, (0.0, 0.0, None)):
        if z is not None:
            path.append((x, y, z))
            continue
        if len(path) > 1 and np.ptp(np.array(path), axis=0).max() > 1e-9:
            parts.append(rod(path, service.size))
        path = []
    return merged(parts) if parts else None


def surface_mesh(ground: Ground | None) -> Mesh | None:
    """The triangles of a surface; of several strips all, where they overlap too."""
    tins = list(ground.tins) if isinstance(ground, Strips) else [ground]
    found = [Mesh(t.vertices, t.faces) for t in tins if isinstance(t, Tin) and len(t.faces)]
    return merged(found) if found else None


def structure_mesh(facts: Facts, f: StructureFacts) -> Mesh | None:
    """A structure as it is built; None where it has no place, or no level at all."""
    upright, place = extent(f), f.place
    if upright is None or place.x is None or place.y is None:
        return None
    rim, sump = upright
    kind = facts.project.types[f.structure.type]
    if kind.inside:
        return chamber_mesh(
            f, kind, rim, min(sump, rim - 0.01), base_thickness(facts.project, f.structure)
        )
    if kind.kind == "joint":
        return _ball(place.x, place.y, *_collar(f, sump))
    return _headwall(f, rim, sump)


def chamber_mesh(
    f: StructureFacts, kind: StructureType, rim: float, sump: float, base: float
) -> Mesh:
    """Base, walls, slab and cover of a chamber. Where it is too shallow for a slab, its walls reach
    up to the rim and it is open.

    Outside volume less the inside from the sump up to the slab, less the opening in the slab; the
    cover lies over it.
    """
    x, y, bearing = f.place.x or 0.0, f.place.y or 0.0, f.place.bearing

    def ring(by: float, z: float) -> Array:
        """The chamber's outline, wider than its inside by twice a wall."""
        sides = kind.inside + 2 * by, None if kind.across is None else kind.across + 2 * by
        xy = pit_outline(x, y, sides, bearing)
        return np.column_stack([xy, np.full(len(xy), z)])

    bottom = [ring(kind.wall, sump - base)]
    slab, top = max(SLAB, kind.wall), rim - COVER
    opening = min(kind.frame, kind.inside, kind.across or kind.inside)
    if not opening or top - slab - sump < SLAB:
        return outward(rings([*bottom, ring(kind.wall, rim), ring(0.0, rim), ring(0.0, sump)]))
    ahead, right = f.structure.cover
    cx = x + ahead * np.sin(bearing) + right * np.cos(bearing)
    cy = y + ahead * np.cos(bearing) - right * np.sin(bearing)

    def frame(wide: float, z: float) -> Array:
        """The opening in the slab: round, or square as the chamber is rectangular."""
        if kind.across is None:
            return circle(cx, cy, z, wide)
        xy = pit_outline(cx, cy, (wide, wide), bearing)
        return np.column_stack([xy, np.full(len(xy), z)])

    body = rings(
        [
            *bottom,
            ring(kind.wall, top),
            frame(opening, top),
            frame(opening, top - slab),
            ring(0.0, top - slab),
            ring(0.0, sump),
        ]
    )
    lid = rings([frame(opening + 2 * RIM, top), frame(opening + 2 * RIM, rim)])
    return merged([outward(body), outward(lid)])


def _collar(f: StructureFacts, level: float) -> tuple[float, float]:
    """The middle of a joint and its diameter: a collar around its largest pipe."""
    pipes = (*f.pipes_in, *f.pipes_out)
    wide = max((p.inside + 2 * p.wall for p in pipes), default=0.2)
    inside = max((p.inside for p in pipes), default=0.2)
    return level + inside / 2, wide * 1.25


def _ball(x: float, y: float, z: float, across: float) -> Mesh:
    """A ball, of eight bands."""
    a = np.linspace(-np.pi / 2, np.pi / 2, 11)[1:-1]
    return outward(
        rings([circle(x, y, z + across / 2 * np.sin(t), across * np.cos(t)) for t in a.tolist()])
    )


def _headwall(f: StructureFacts, rim: float, sump: float) -> Mesh:
    """A wall across its pipe, as wide as twice the pipe and something beside; turned by hand
    where the structure is.
    """
    pipes = (*f.pipes_in, *f.pipes_out)
    wide = 2 * max((p.inside + 2 * p.wall for p in pipes), default=0.3) + 2 * BEYOND
    bearing = f.place.bearing
    if f.structure.rotation is None and pipes:
        bearing = f.pipes_in[0].span.bearing_down if f.pipes_in else f.pipes_out[0].span.bearing
    xy = pit_outline(f.place.x or 0.0, f.place.y or 0.0, (HEADWALL, wide), bearing)
    under = min(sump, rim - 0.01) - BEYOND
    return outward(rings([np.column_stack([xy, np.full(4, z)]) for z in (under, rim)]))
