"""Pipes in plan: their path, the walls at their ends and the ground over them. Levels of pipes
play no part.
"""

from collections.abc import Sequence
from itertools import pairwise
from math import cos, inf, sin

import numpy as np
from msgspec import Struct, structs
from numpy.typing import ArrayLike

from zumbert.analysis.places import PlaceFacts
from zumbert.analysis.surfaces import Ground, Surfaces
from zumbert.geometry.elements import Arc, Array, Mask
from zumbert.geometry.line import Line, between, between_all, filled
from zumbert.model.catalogue import StructureType
from zumbert.model.pipe import End
from zumbert.model.project import Project

SAGITTA = (
    0.005  # m: the ground along a curved pipe is that along chords which leave the arc by no more
)


class Span(Struct, frozen=True, kw_only=True, eq=False, dict=True):
    """The plan of a pipe. Distances (m) are from the upstream reference point, on the plan path."""

    up: PlaceFacts
    down: PlaceFacts
    length: float  # m, centre plan, along the arc where it is curved
    bearing: float  # radians clockwise from north, in flow direction, at the upstream end
    bearing_down: float  # the same at the downstream end
    reach_up: float  # m from the upstream reference point to the inner wall
    reach_down: float  # m
    ground: Line | None  # existing ground, centre to centre; None: there is no surface
    design: Line | None  # design surface
    barrel: (
        Line | None
    )  # reference levels for cover, inner wall to inner wall; None: no barrel is left
    sources: tuple[str, ...]  # what the reference levels come from: design, existing, rims
    arc: Arc | None = None  # the path where it is curved

    @property
    def wall(self) -> float:
        """Wall plan length, m; not above 0 where the chambers meet."""
        return self.length - self.reach_up - self.reach_down

    def point(self, s: float) -> tuple[float, float]:
        """X and y (m) at a distance."""
        x, y = self.points(np.array([s]))[0].tolist()
        return x, y

    def points(self, s: Array) -> Array:
        """X and y (n, 2; m) at distances."""
        if self.arc is not None:
            return np.column_stack(self.arc.point(s, np.zeros(len(s))))
        t = s / self.length if self.length else np.zeros(len(s))
        ux, uy, dx, dy = self.up.x or 0.0, self.up.y or 0.0, self.down.x or 0.0, self.down.y or 0.0
        return np.column_stack([ux + t * (dx - ux), uy + t * (dy - uy)])

    def chords(self, sagitta: float = SAGITTA) -> Array:
        """Distances (m) between which the path is straight enough: its two ends, and on an arc as
        many as keep its chords within a sagitta (m).
        """
        if self.arc is None:
            return np.array([0.0, self.length])
        n = int(np.ceil(self.length / np.sqrt(8 * self.arc.radius * sagitta)))
        return np.linspace(0.0, self.length, max(2, n) + 1)

    def _right(self, s: Array) -> Array:
        """Unit vectors to the right of the path at distances (n, 2)."""
        turn = np.full(len(s), self.bearing) if self.arc is None else self.arc.bearing(s)
        return np.column_stack([np.cos(turn), -np.sin(turn)])

    def across(self, s: float) -> tuple[float, float]:
        """The unit vector to the right of the path at a distance."""
        x, y = self._right(np.array([s]))[0]
        return float(x), float(y)

    def along(self, tin: Ground, offset: float = 0.0) -> Line:
        """A surface along the whole path, or at an offset (m, positive to the right) from it; on an
        arc along its chords, distances stretched to those of the arc.
        """
        s = self.chords()
        xy = self.points(s)
        if offset:
            xy = xy + offset * self._right(s)
        at, z = tin.section(xy)
        whole = float(np.hypot(*np.diff(xy, axis=0).T).sum())
        return Line(at * (self.length / whole) if whole else at, z)


Ends = tuple[
    PlaceFacts, PlaceFacts, tuple[float, float] | None
]  # both places, and the place that a curved path passes


def reach(kind: StructureType, rotation: float, bearing: float) -> float:
    """Distance from a structure's reference point to its inner wall in a direction (radians), m.

    A round chamber: its radius; a rectangular one: the ray to its box, turned as the structure is.
    """
    if kind.across is None or not kind.inside:
        return kind.inside / 2
    c, s = abs(cos(bearing - rotation)), abs(sin(bearing - rotation))
    return min(kind.inside / 2 / c if c > 1e-12 else inf, kind.across / 2 / s if s > 1e-12 else inf)


def spans(project: Project, ends: Sequence[Ends], surfaces: Surfaces) -> list[Span]:
    """Spans between pairs of places, in their order; ground lines are cut for all straight ones
    together.
    """
    if not ends:
        return []
    xy = np.array([(u.x, u.y, d.x, d.y) for u, d, _ in ends], float)
    dx, dy = xy[:, 2] - xy[:, 0], xy[:, 3] - xy[:, 1]
    length, bearing = np.hypot(dx, dy), np.arctan2(dx, dy) % (2 * np.pi)
    ru, rd = _reaches(project, ends, bearing)
    wide = np.asarray(length - ru - rd > 1e-9)
    ground = _along(surfaces.existing, xy, length, ru, rd, wide)
    design = _along(surfaces.design, xy, length, ru, rd, wide)
    out = []
    long, a, b, turn = length.tolist(), ru.tolist(), rd.tolist(), bearing.tolist()
    for i, (up, down, third) in enumerate(ends):
        arc = (
            None
            if third is None or np.isnan(xy[i]).any()
            else arc_through(xy[i, :2], third, xy[i, 2:])
        )
        if arc is not None:
            out.append(_curved(project, up, down, arc, surfaces))
            continue
        barrel, sources = (
            _barrel(up, down, long[i], a[i], b[i], ground[i][1], design[i][1])
            if wide[i]
            else (None, ())
        )
        out.append(
            Span(
                up=up,
                down=down,
                length=long[i],
                bearing=turn[i],
                bearing_down=turn[i],
                reach_up=a[i],
                reach_down=b[i],
                ground=ground[i][0],
                design=design[i][0],
                barrel=barrel,
                sources=sources,
            )
        )
    return out


def _reaches(project: Project, ends: Sequence[Ends], bearing: Array) -> tuple[Array, Array]:
    """Reaches at both ends; at once for round chambers."""
    half = {key: t.inside / 2 for key, t in project.types.items()}
    ru, rd = (np.array([half[e[k].type] for e in ends]) for k in (0, 1))  # type: ignore[union-attr]
    if any(t.across is not None for t in project.types.values()):
        for i, (up, down, _) in enumerate(ends):
            for place, into in ((up, ru), (down, rd)):
                kind = project.types[place.type]
                if kind.across is not None:
                    into[i] = reach(kind, place.bearing, float(bearing[i]))
    return ru, rd


def arc_through(a: ArrayLike, b: ArrayLike, c: ArrayLike) -> Arc | None:
    """The arc from a over b to c (x, y in m); None where they lie on one line, within 1 mm."""
    (x0, y0), (x1, y1), (x2, y2) = np.asarray(a, float), np.asarray(b, float), np.asarray(c, float)
    d = 2 * ((x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0))
    chord = float(np.hypot(x2 - x0, y2 - y0))
    if chord < 1e-9 or abs(d) / 2 / chord < 1e-3:
        return None
    s1, s2 = (x1 - x0) ** 2 + (y1 - y0) ** 2, (x2 - x0) ** 2 + (y2 - y0) ** 2
    xc, yc = x0 + ((y2 - y0) * s1 - (y1 - y0) * s2) / d, y0 + ((x1 - x0) * s2 - (x2 - x0) * s1) / d
    return Arc(float(x0), float(y0), float(x2), float(y2), float(xc), float(yc), bool(d < 0))


def _curved(
    project: Project, up: PlaceFacts, down: PlaceFacts, arc: Arc, surfaces: Surfaces
) -> Span:
    """The span of a curved pipe: its reaches are where the arc leaves the chambers."""
    at = np.array([0.0, arc.length])
    first, last = (float(v) for v in arc.bearing(at))
    ru, rd = (
        _arc_reach(arc, end, project.types[p.type], p)  # type: ignore[arg-type]
        for p, end in ((up, "up"), (down, "down"))
    )
    bare = Span(
        up=up,
        down=down,
        length=arc.length,
        bearing=first,
        bearing_down=last,
        reach_up=ru,
        reach_down=rd,
        ground=None,
        design=None,
        barrel=None,
        sources=(),
        arc=arc,
    )
    lines = [
        None if tin is None else bare.along(tin) for tin in (surfaces.existing, surfaces.design)
    ]
    if bare.wall <= 1e-9:
        return structs.replace(bare, ground=lines[0], design=lines[1])
    parts = [None if line is None else between(line, ru, arc.length - rd) for line in lines]
    barrel, sources = _barrel(up, down, arc.length, ru, rd, parts[0], parts[1])
    return structs.replace(bare, ground=lines[0], design=lines[1], barrel=barrel, sources=sources)


def reach_along(span: Span, end: End, kind: StructureType) -> float:
    """From an end's reference point, along the pipe, to where it leaves a chamber of a kind that
    stands there, m.
    """
    place = span.up if end == "up" else span.down
    if span.arc is not None:
        return _arc_reach(span.arc, end, kind, place)
    return reach(kind, place.bearing, span.bearing if end == "up" else span.bearing_down)


def _arc_reach(arc: Arc, end: End, kind: StructureType, place: PlaceFacts) -> float:
    """Along an arc from one of its ends to the inner wall of the chamber there, m; its whole
    length where it does not leave.
    """
    r = arc.radius
    if kind.across is None or not kind.inside:
        return 2 * r * float(np.arcsin(min(1.0, kind.inside / (4 * r))))
    x0, y0 = (arc.x0, arc.y0) if end == "up" else (arc.x1, arc.y1)
    c, n = cos(place.bearing), sin(place.bearing)
    away = np.array([arc.xc - x0, arc.yc - y0])
    centre = np.array(
        [away[0] * n + away[1] * c, away[0] * c - away[1] * n]
    )  # along the bearing, to the right of it
    found = [arc.length]
    for k, half in ((0, kind.inside / 2), (1, kind.across / 2)):
        for edge in (-half, half):
            room = r**2 - (edge - centre[k]) ** 2
            for sign in (-1.0, 1.0) if room >= 0 else ():
                p = np.empty(2)
                p[k], p[1 - k] = edge, centre[1 - k] + sign * np.sqrt(room)
                a, b = -centre, p - centre
                turn = float(
                    np.arctan2(a[0] * b[1] - a[1] * b[0], a @ b)
                )  # to the right positive: along is x, right is y
                turns_right = arc.clockwise == (end == "up")
                found.append((turn if turns_right else -turn) % (2 * np.pi) * r)
    return min(s for s in found if s > 1e-9)


Cut = tuple[Line | None, Line | None]


def _along(
    tin: Ground | None, xy: Array, length: Array, ru: Array, rd: Array, wide: Mask
) -> list[Cut]:
    """The surface along each line, whole and over the barrel; None where there is no surface,
    place or barrel.
    """
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
    up: PlaceFacts,
    down: PlaceFacts,
    length: float,
    ru: float,
    rd: float,
    ground: Line | None,
    design: Line | None,
) -> tuple[Line | None, tuple[str, ...]]:
    """Reference levels wall to wall: design, else existing ground, else straight between the
    rims.
    """
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


def _rims(up: PlaceFacts, down: PlaceFacts, length: float, ru: float, rd: float) -> Line | None:
    if up.rim is None or down.rim is None:
        return None
    return between(Line(np.array([0.0, length]), np.array([up.rim, down.rim])), ru, length - rd)
