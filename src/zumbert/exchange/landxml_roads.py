"""Roads of a LandXML file: elements of the alignment, station equations, profiles."""

from collections.abc import Iterable, Iterator
from itertools import pairwise
from math import hypot
from typing import Any

import numpy as np
from lxml import etree
from msgspec import Struct
from msgspec.structs import replace

from zumbert.exchange.xmlparts import LeftOut, need, numbers
from zumbert.geometry.clothoid import between_points
from zumbert.geometry.elements import Arc, Straight
from zumbert.geometry.profile import Profile, Pvi
from zumbert.geometry.rejoin import joined, tangent
from zumbert.model.road import Piece, RoadProfile

GAP = 0.002  # m: elements that miss each other by more are told; up to that it is rounding


class RoadFound(Struct, frozen=True, kw_only=True):
    """An alignment of a file."""

    name: str
    elements: tuple[Piece, ...]
    start: float
    profiles: tuple[RoadProfile, ...]


def _point(element: Any, tag: str, unit: float, points: dict[Any, Any]) -> tuple[float, float]:
    """A point as x east, y north, m; a file writes northing first."""
    at = element.find(f"{{*}}{tag}")
    if at is not None and at.get("pntRef"):
        at = points.get(at.get("pntRef"))
    if at is None or len(numbers(at.text)) < 2:
        raise LeftOut(f"line {element.sourceline} has no {tag}")
    north, east = numbers(at.text)[:2]
    return east * unit, north * unit


def road_of(element: Any, unit: float, points: dict[Any, Any], notes: list[str]) -> RoadFound:
    """A road from its alignment; what is told goes to the notes. Raises LeftOut or ValueError
    where there is none.
    """
    name = element.get("name") or "Road"
    geometry = element.find("{*}CoordGeom")
    if geometry is None:
        raise LeftOut("it has no CoordGeom")
    pieces: list[Piece] = []
    for piece in geometry:
        pieces += _pieces(piece, unit, points)
    pieces = [p for p in pieces if p.length > 1e-6]
    if not pieces:
        raise LeftOut("it has no length")
    whole, gap = joined(pieces)
    if gap > GAP:
        notes.append(
            f'The road "{name}": elements that missed each other, by {gap:.3f} m at most, '
            "were joined."
        )
    equations = element.findall("{*}StaEquation")
    if equations:
        notes.append(
            f'The road "{name}" has {len(equations)} station equation(s): chainages are kept '
            "continuous."
        )
    notes += [_equation(name, e, unit) for e in equations]
    start = (numbers(element.get("staStart")) or [0.0])[0] * unit
    stations = _Stationing(
        start, [e for e in (_equation_of(e, unit) for e in equations) if e is not None]
    )
    profiles = tuple(_profiles(element, unit, stations, notes))
    return RoadFound(name=name, elements=tangent(whole), start=start, profiles=profiles)


class _Stationing:
    """The chainages that a road's own stationing means, where station equations let that jump."""

    def __init__(
        self, start: float, equations: list[tuple[float | None, float | None, float]]
    ) -> None:
        """Each equation as chainage along the road (None: by its station back), station back and
        station ahead, m.
        """
        parts = [(start, start)]  # where each begins: its chainage, and its own stationing there
        for at, back, ahead in equations:
            begin, own = parts[-1]
            where = at if at is not None else begin + (back or 0.0) - own
            parts.append((where, ahead))
        self._parts = parts

    def chainage(self, own: float, last: float) -> float:
        """The chainage of a station that lies beyond the last chainage. Raises ValueError where
        it is on no part.
        """
        ends = [p[0] for p in self._parts[1:]] + [np.inf]
        for i, ((begin, at_begin), end) in enumerate(zip(self._parts, ends, strict=True)):
            ch = begin + own - at_begin
            if (i == 0 or ch >= begin - 1e-6) and ch <= end + 1e-6 and ch > last:
                return ch
        raise ValueError(f"its chainage {own:.3f} is on no part of the road's stationing")

    @property
    def jumps(self) -> bool:
        """Whether there is an equation at all."""
        return len(self._parts) > 1


def _equation_of(e: Any, unit: float) -> tuple[float | None, float | None, float] | None:
    """A station equation: chainage along the road, station back and station ahead, m; None where
    they are missing.
    """
    ahead, back, at = (
        next(iter(numbers(e.get(k))), None) for k in ("staAhead", "staBack", "staInternal")
    )
    if ahead is None or (at is None and back is None):
        return None
    return at if at is None else at * unit, back if back is None else back * unit, ahead * unit


def _equation(name: str, e: Any, unit: float) -> str:
    """A station equation in words."""
    ahead, back, at = (
        next(iter(numbers(e.get(k))), None) for k in ("staAhead", "staBack", "staInternal")
    )
    where = at if at is not None else back
    if ahead is None or where is None:
        return (
            f'"{name}": a station equation at line {e.sourceline} without its chainages is '
            "passed over."
        )
    return (
        f'"{name}": where the chainage here is {where * unit:.3f} m, its own stationing goes on '
        f"with {ahead * unit:.3f} m."
    )


def _pieces(piece: Any, unit: float, points: dict[Any, Any]) -> list[Piece]:
    tag = etree.QName(piece).localname
    if tag == "Line":
        return [
            Straight(*_point(piece, "Start", unit, points), *_point(piece, "End", unit, points))
        ]
    if tag == "Curve":
        ends = (*_point(piece, "Start", unit, points), *_point(piece, "End", unit, points))
        rot = piece.get("rot")
        if rot not in ("cw", "ccw"):
            raise LeftOut(f"the curve at line {piece.sourceline} has no rot of cw or ccw")
        arc = Arc(*ends, *_point(piece, "Center", unit, points), rot == "cw")
        if abs(hypot(arc.x1 - arc.xc, arc.y1 - arc.yc) - arc.radius) > 0.01:
            raise LeftOut(f"the ends of the curve at line {piece.sourceline} have different radii")
        return [arc]
    if tag == "IrregularLine":
        values = np.array(numbers(piece.findtext("{*}PntList2D"))).reshape(-1, 2)[:, ::-1] * unit
        return [Straight(*map(float, (*a, *b))) for a, b in pairwise(values)]
    if tag == "Spiral":
        return [_spiral(piece, unit, points)]
    if tag == "Chain":
        raise LeftOut(f"its {tag} at line {piece.sourceline} is of a kind that is not read yet")
    return []


def _spiral(piece: Any, unit: float, points: dict[Any, Any]) -> Piece:
    """A clothoid; its bearing follows from its ends, its radii are numbers or INF."""
    kind = (piece.get("spiType") or "clothoid").lower()
    if kind != "clothoid":
        raise LeftOut(
            f"its spiral at line {piece.sourceline} is a {kind}, and only clothoids are read"
        )
    rot = piece.get("rot")
    if rot not in ("cw", "ccw"):
        raise LeftOut(f"the spiral at line {piece.sourceline} has no rot of cw or ccw")
    turn = 1.0 if rot == "cw" else -1.0
    k0, k1 = (turn * _curvature(piece, a, unit) for a in ("radiusStart", "radiusEnd"))
    ends = (*_point(piece, "Start", unit, points), *_point(piece, "End", unit, points))
    try:
        return between_points(*ends, need(piece, "length") * unit, k0, k1)
    except ValueError as e:
        raise LeftOut(f"the spiral at line {piece.sourceline} does not fit: {e}") from e


def _curvature(piece: Any, attribute: str, unit: float) -> float:
    text = piece.get(attribute)
    if text is None:
        raise LeftOut(f"line {piece.sourceline} has no {attribute}")
    if text.strip().upper() in ("INF", "INFINITY"):
        return 0.0
    radius = numbers(text)[0] * unit
    return 1 / radius if radius else 0.0


def _profiles(
    element: Any, unit: float, stations: _Stationing, notes: list[str]
) -> Iterator[RoadProfile]:
    for kind, tag in (("design", "ProfAlign"), ("existing", "ProfSurf")):
        for found in element.iterfind(f".//{{*}}Profile/{{*}}{tag}"):
            name = found.get("name") or tag
            try:
                read = tuple(_pvis(found, unit) if kind == "design" else _line_points(found, unit))
                pvis = tuple(_continuous(read, stations)) if stations.jumps else read
                Profile(pvis)  # raises where the points are no profile
            except (LeftOut, ValueError) as e:
                notes.append(f'The profile "{name}" (line {found.sourceline}) is left out: {e}.')
                continue
            lists = len(found.findall("{*}PntList2D"))
            if lists > 1:
                notes.append(
                    f'The profile "{name}" comes in {lists} lists of points: they were '
                    "joined to one."
                )
            yield RoadProfile(name=name, kind=kind, pvis=pvis)  # type: ignore[arg-type]


def _continuous(pvis: Iterable[Pvi], stations: _Stationing) -> Iterator[Pvi]:
    """The points of a profile at chainages that run on, whatever the road's own stationing does."""
    last = -np.inf
    for p in pvis:
        last = stations.chainage(p.chainage, last)
        yield replace(p, chainage=last)


def _pvis(element: Any, unit: float) -> Iterator[Pvi]:
    for point in element:
        tag = etree.QName(point).localname
        if tag not in ("PVI", "ParaCurve", "UnsymParaCurve", "CircCurve"):
            continue
        values = [v * unit for v in numbers(point.text)]
        if len(values) < 2:
            raise LeftOut(f"line {point.sourceline} has no chainage and level")
        if tag == "ParaCurve":
            yield Pvi(values[0], values[1], need(point, "length") * unit)
        elif tag == "UnsymParaCurve":
            before, ahead = need(point, "lengthIn") * unit, need(point, "lengthOut") * unit
            yield Pvi(values[0], values[1], before + ahead, ahead=ahead)
        elif tag == "CircCurve":
            yield Pvi(values[0], values[1], radius=abs(need(point, "radius")) * unit)
        else:
            yield Pvi(values[0], values[1])


def _line_points(element: Any, unit: float) -> Iterator[Pvi]:
    lists = [
        np.array(numbers(e.text)).reshape(-1, 2) * unit for e in element.iterfind("{*}PntList2D")
    ]
    last: float | None = None
    for ch, z in np.vstack(lists).tolist() if lists else ():
        if ch != last:
            yield Pvi(ch, z)
        last = ch
