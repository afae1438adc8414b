"""Pipes in plan: their path, the walls at their ends and the ground over them. Levels of pipes play no part."""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from msgspec import Struct

from zumbert.analysis.places import Place
from zumbert.analysis.surfaces import Ground, Surfaces
from zumbert.geometry.elements import Array, Mask
from zumbert.geometry.line import Line, between, between_all, filled
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
    length, bearing = np.hypot(dx, dy), (np.arctan2(dx, dy) % (2 * np.pi)).tolist()
    half = {key: t.inside / 2 for key, t in project.types.items()}
    ru, rd = (np.array([half[e[k].type] for e in ends]) for k in (0, 1))
    wide = np.asarray(length - ru - rd > 1e-9)
    ground = _along(surfaces.existing, xy, length, ru, rd, wide)
    design = _along(surfaces.design, xy, length, ru, rd, wide)
    out = []
    long, a, b = length.tolist(), ru.tolist(), rd.tolist()
    for i, (up, down) in enumerate(ends):
        barrel, sources = _barrel(up, down, long[i], a[i], b[i], ground[i][1], design[i][1]) if wide[i] else (None, ())
        out.append(Span(
            up=up, down=down, length=long[i], bearing=bearing[i], reach_up=a[i], reach_down=b[i],
            ground=ground[i][0], design=design[i][0], barrel=barrel, sources=sources,
        ))  # fmt: skip
    return out


Cut = tuple[Line | None, Line | None]


def _along(tin: Ground | None, xy: Array, length: Array, ru: Array, rd: Array, wide: Mask) -> list[Cut]:
    """The surface along each line, whole and over the barrel; None where there is no surface, place or barrel."""
    out: list[Cut] = [(None, None)] * len(xy)
    rows = np.flatnonzero(~np.isnan(xy).any(axis=1))
    if tin is None or not rows.size:
        return out
    offsets, s, z = tin.sections(xy[rows, :2], xy[rows, 2:])
    a, b = np.where(wide, ru, 0.0)[rows], np.where(wide, length - rd, length)[rows]
    parts = between_all(offsets, s, z, a, b)
    for i, (p, q), part in zip(rows.tolist(), pairwise(offsets.tolist()), parts, strict=True):
        out[i] = Line(s[p:q], z[p:q]), part
    return out


def _barrel(
    up: Place, down: Place, length: float, ru: float, rd: float, ground: Line | None, design: Line | None
) -> tuple[Line | None, tuple[str, ...]]:
    """Reference levels wall to wall: design, else existing ground, else straight between the rims."""
    whole: Line | None = None
    sources = []
    for name, part in (("design", design), ("existing", ground), ("rims", None)):
        if whole is not None and whole.solid:
            break
        on = _rims(up, down, length, ru, rd) if name == "rims" else part
        if on is None or np.isnan(on.z).all():
            continue
        whole = on if whole is None else filled(whole, on)
        sources.append(name)
    return whole, tuple(sources)


def _rims(up: Place, down: Place, length: float, ru: float, rd: float) -> Line | None:
    if up.rim is None or down.rim is None:
        return None
    return between(Line(np.array([0.0, length]), np.array([up.rim, down.rim])), ru, length - rd)
