"""Pipes in plan: their path, the walls at their ends and the ground over them. Levels of pipes play no part."""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from msgspec import Struct

from zumbert.analysis.places import Place
from zumbert.analysis.surfaces import Surfaces
from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line, between, filled
from zumbert.geometry.tin import Tin
from zumbert.model.project import Project
from zumbert.model.structure import Structure


class Span(Struct, frozen=True, kw_only=True, eq=False):
    """The plan of a pipe. Distances (m) are from the upstream reference point."""

    up: Place
    down: Place
    length: float  # m, centre plan
    bearing: float  # radians clockwise from north, in flow direction
    reach_up: float  # m from the upstream reference point to the inner wall
    reach_down: float  # m
    ground: Line | None  # existing ground, centre to centre; None: there is no surface
    design: Line | None  # design surface
    barrel: Line | None  # reference levels for cover, inner wall to inner wall; None: no barrel is left
    sources: tuple[str, ...]  # what the reference levels come from: design, existing, rims

    @property
    def wall(self) -> float:
        """Wall plan length, m; not above 0 where the chambers meet."""
        return self.length - self.reach_up - self.reach_down

    def point(self, s: float) -> tuple[float, float]:
        """X and y (m) at a distance."""
        t = s / self.length if self.length else 0.0
        ux, uy, dx, dy = self.up.x or 0.0, self.up.y or 0.0, self.down.x or 0.0, self.down.y or 0.0
        return ux + t * (dx - ux), uy + t * (dy - uy)


def reach(project: Project, structure: Structure) -> float:
    """Distance from a structure's reference point to its inner wall, m; the same in each direction of a round one."""
    return project.types[structure.type].inside / 2


def spans(project: Project, ends: Sequence[tuple[Place, Place]], surfaces: Surfaces) -> list[Span]:
    """Spans between pairs of places, in their order; ground lines are cut for all of them together."""
    if not ends:
        return []
    xy = np.array([(u.x, u.y, d.x, d.y) for u, d in ends], float)
    dx, dy = xy[:, 2] - xy[:, 0], xy[:, 3] - xy[:, 1]
    length, bearing = np.hypot(dx, dy).tolist(), (np.arctan2(dx, dy) % (2 * np.pi)).tolist()
    ground = _lines(surfaces.existing, xy)
    design = ground if surfaces.design is surfaces.existing else _lines(surfaces.design, xy)
    half = {key: t.inside / 2 for key, t in project.types.items()}
    out = []
    for i, (up, down) in enumerate(ends):
        ru, rd = half[up.type], half[down.type]
        barrel, sources = _barrel(up, down, length[i], ru, rd, ground[i], design[i])
        out.append(Span(
            up=up, down=down, length=length[i], bearing=bearing[i], reach_up=ru, reach_down=rd,
            ground=ground[i], design=design[i], barrel=barrel, sources=sources,
        ))  # fmt: skip
    return out


def _lines(tin: Tin | None, xy: Array) -> list[Line | None]:
    """The surface along each line; None for all where there is no surface, and for a line without a place."""
    if tin is None:
        return [None] * len(xy)
    known = np.asarray(~np.isnan(xy).any(axis=1))
    offsets, s, z = tin.sections(xy[known, :2], xy[known, 2:])
    cuts = offsets.tolist()
    found = iter([Line(s[a:b], z[a:b]) for a, b in pairwise(cuts)])
    return [next(found) if k else None for k in known.tolist()]


def _barrel(
    up: Place, down: Place, length: float, ru: float, rd: float, ground: Line | None, design: Line | None
) -> tuple[Line | None, tuple[str, ...]]:
    """Reference levels wall to wall: design, else existing ground, else straight between the rims."""
    if not length - ru - rd > 1e-9:
        return None, ()
    a, b = ru, length - rd
    whole: Line | None = None
    sources = []
    for name, on in (("design", design), ("existing", ground), ("rims", _rims(up, down, length))):
        if on is None:
            continue
        part = between(on, a, b)
        if np.isnan(part.z).all() or (whole is not None and whole.solid):
            continue
        before = 0 if whole is None else int(np.isnan(whole.z).sum())
        whole = part if whole is None else filled(whole, part)
        if whole is part or before:
            sources.append(name)
    return whole, tuple(sources)


def _rims(up: Place, down: Place, length: float) -> Line | None:
    if up.rim is None or down.rim is None:
        return None
    return Line(np.array([0.0, length]), np.array([up.rim, down.rim]))
