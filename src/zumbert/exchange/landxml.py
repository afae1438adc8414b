"""Roads and surfaces from LandXML 1.0, 1.1 and 1.2."""

import warnings
from collections.abc import Callable, Iterable, Iterator
from itertools import pairwise
from math import hypot
from pathlib import Path
from typing import Any

import numpy as np
from lxml import etree
from msgspec import Struct

from zumbert.errors import ReadError
from zumbert.geometry.clothoid import between_points
from zumbert.geometry.elements import Arc, Straight
from zumbert.geometry.profile import Profile, Pvi
from zumbert.geometry.tin import Tin
from zumbert.geometry.triangulate import Boundary, Triangulated, crossed, spikes, triangulate
from zumbert.model.display import counted
from zumbert.model.road import Piece, RoadProfile

METRES = {
    "meter": 1.0, "metre": 1.0, "millimeter": 0.001, "centimeter": 0.01, "kilometer": 1000.0,
    "foot": 0.3048, "ussurveyfoot": 1200 / 3937, "inch": 0.0254,
}  # fmt: skip
GAP = 0.005  # m: elements that miss each other by more are not one alignment


class RoadFound(Struct, frozen=True, kw_only=True):
    """An alignment of a file."""

    name: str
    elements: tuple[Piece, ...]
    start: float
    profiles: tuple[RoadProfile, ...]


class Source(Struct, frozen=True, eq=False):
    """Source data of a surface, x east first."""

    points: Any
    breaklines: list[Any]
    boundaries: list[Boundary]


class SurfaceFound(Struct, frozen=True, kw_only=True, eq=False):
    """A surface of a file: vertices (n, 3) in m, faces (m, 3)."""

    name: str
    vertices: Any
    faces: Any
    source: Source | None = None  # what it was triangulated from
    notes: tuple[str, ...] = ()


class LandXml(Struct, frozen=True, kw_only=True):
    """What a file holds for us, and in sentences what was told or left out and why."""

    roads: tuple[RoadFound, ...]
    surfaces: tuple[SurfaceFound, ...]
    notes: tuple[str, ...]


class _LeftOut(Exception):
    """A part of a file that is not taken; the text says why."""


def read_landxml(path: str | Path, tell: Callable[[float, str], None] | None = None) -> LandXml:
    """Reads roads and surfaces, in metres, x east and y north (a file has northing first). Raises ReadError.

    `tell` hears how far it is between its parts, and may stop it by raising.
    """
    root = _root(path)
    notes: list[str] = []
    unit = _unit(root, path, notes)
    points = {p.get("name"): p for p in root.iterfind(".//{*}CgPoints/{*}CgPoint")}
    roads = _taken(
        root.iterfind(".//{*}Alignments/{*}Alignment"), lambda e: _road(e, unit, points, notes), "road", notes
    )
    found = root.findall(".//{*}Surfaces/{*}Surface")

    def surface(e: Any) -> SurfaceFound:
        if tell is not None:
            tell(0.5 + 0.5 * found.index(e) / len(found), f"Reading the surface {e.get('name', '')}")
        return _surface(e, unit)

    surfaces = _taken(found, surface, "surface", notes)
    return LandXml(roads=tuple(roads), surfaces=tuple(surfaces), notes=tuple(notes))


def _root(path: str | Path) -> Any:
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, remove_comments=True)
    try:
        root = etree.fromstring(Path(path).read_bytes(), parser)
    except OSError as e:
        raise ReadError(f"{path} could not be read: {e.strerror or e}. Check the name.") from e
    except etree.XMLSyntaxError as e:
        raise ReadError(f"{path}, line {e.lineno or 1}: this is no sound XML ({e.msg}). Export it again.") from e
    if etree.QName(root).localname != "LandXML":
        raise ReadError(f"{path} is XML but no LandXML: its outermost element is {etree.QName(root).localname}.")
    return root


def _unit(root: Any, path: str | Path, notes: list[str]) -> float:
    units = root.find("{*}Units")
    inner = None if units is None else next(iter(units), None)
    if inner is None:
        notes.append("The file names no unit: taken as metres.")
        return 1.0
    name = inner.get("linearUnit", "")
    if name.lower() not in METRES:
        raise ReadError(
            f'{path}, line {inner.sourceline}: the unit "{name}" is not known: metre, foot or USSurveyFoot.'
        )
    if name.lower() not in ("meter", "metre"):
        notes.append(f"Lengths were converted from {name} to metres.")
    return METRES[name.lower()]


def _taken(found: Iterable[Any], read: Callable[[Any], Any], what: str, notes: list[str]) -> list[Any]:
    out = []
    for element in found:
        try:
            out.append(read(element))
        except _LeftOut as e:
            notes.append(f'The {what} "{element.get("name", "")}" (line {element.sourceline}) is left out: {e}.')
        except (ValueError, TypeError) as e:
            notes.append(f'The {what} "{element.get("name", "")}" (line {element.sourceline}) is left out: {e}.')
    return out


def _numbers(text: str | None) -> list[float]:
    values = [float(v) for v in (text or "").split()]
    if not all(np.isfinite(values)):
        raise ValueError("a coordinate is no number")
    return values


def _need(element: Any, attribute: str) -> float:
    text = element.get(attribute)
    if text is None:
        raise _LeftOut(f"line {element.sourceline} has no {attribute}")
    values = _numbers(text)
    if not values:
        raise _LeftOut(f"line {element.sourceline} has an empty {attribute}")
    return values[0]


def _point(element: Any, tag: str, unit: float, points: dict[Any, Any]) -> tuple[float, float]:
    """A point as x east, y north, m; a file writes northing first."""
    at = element.find(f"{{*}}{tag}")
    if at is not None and at.get("pntRef"):
        at = points.get(at.get("pntRef"))
    if at is None or len(_numbers(at.text)) < 2:
        raise _LeftOut(f"line {element.sourceline} has no {tag}")
    north, east = _numbers(at.text)[:2]
    return east * unit, north * unit


def _road(element: Any, unit: float, points: dict[Any, Any], notes: list[str]) -> RoadFound:
    name = element.get("name") or "Road"
    geometry = element.find("{*}CoordGeom")
    if geometry is None:
        raise _LeftOut("it has no CoordGeom")
    pieces: list[Piece] = []
    for piece in geometry:
        pieces += _pieces(piece, unit, points)
    pieces = [p for p in pieces if p.length > 1e-6]
    if not pieces:
        raise _LeftOut("it has no length")
    for a, b in pairwise(pieces):
        if hypot(b.x0 - a.x1, b.y0 - a.y1) > GAP:
            raise _LeftOut(f"two of its elements miss each other by {hypot(b.x0 - a.x1, b.y0 - a.y1):.3f} m")
    equations = element.findall("{*}StaEquation")
    if equations:
        notes.append(f'The road "{name}" has {len(equations)} station equation(s): chainages are kept continuous.')
    notes += [_equation(name, e, unit) for e in equations]
    start = (_numbers(element.get("staStart")) or [0.0])[0] * unit
    return RoadFound(name=name, elements=tuple(pieces), start=start, profiles=tuple(_profiles(element, unit, notes)))


def _equation(name: str, e: Any, unit: float) -> str:
    """A station equation in words."""
    ahead, back, at = (next(iter(_numbers(e.get(k))), None) for k in ("staAhead", "staBack", "staInternal"))
    where = at if at is not None else back
    if ahead is None or where is None:
        return f'"{name}": a station equation at line {e.sourceline} without its chainages is passed over.'
    return f'"{name}": where the chainage here is {where * unit:.3f} m, its own stationing goes on with {ahead * unit:.3f} m.'


def _pieces(piece: Any, unit: float, points: dict[Any, Any]) -> list[Piece]:
    tag = etree.QName(piece).localname
    if tag == "Line":
        return [Straight(*_point(piece, "Start", unit, points), *_point(piece, "End", unit, points))]
    if tag == "Curve":
        ends = (*_point(piece, "Start", unit, points), *_point(piece, "End", unit, points))
        rot = piece.get("rot")
        if rot not in ("cw", "ccw"):
            raise _LeftOut(f"the curve at line {piece.sourceline} has no rot of cw or ccw")
        arc = Arc(*ends, *_point(piece, "Center", unit, points), rot == "cw")
        if abs(hypot(arc.x1 - arc.xc, arc.y1 - arc.yc) - arc.radius) > 0.01:
            raise _LeftOut(f"the ends of the curve at line {piece.sourceline} have different radii")
        return [arc]
    if tag == "IrregularLine":
        values = np.array(_numbers(piece.findtext("{*}PntList2D"))).reshape(-1, 2)[:, ::-1] * unit
        return [Straight(*map(float, (*a, *b))) for a, b in pairwise(values)]
    if tag == "Spiral":
        return [_spiral(piece, unit, points)]
    if tag == "Chain":
        raise _LeftOut(f"its {tag} at line {piece.sourceline} is of a kind that is not read yet")
    return []


def _spiral(piece: Any, unit: float, points: dict[Any, Any]) -> Piece:
    """A clothoid; its bearing follows from its ends, its radii are numbers or INF."""
    kind = (piece.get("spiType") or "clothoid").lower()
    if kind != "clothoid":
        raise _LeftOut(f"its spiral at line {piece.sourceline} is a {kind}, and only clothoids are read")
    rot = piece.get("rot")
    if rot not in ("cw", "ccw"):
        raise _LeftOut(f"the spiral at line {piece.sourceline} has no rot of cw or ccw")
    turn = 1.0 if rot == "cw" else -1.0
    k0, k1 = (turn * _curvature(piece, a, unit) for a in ("radiusStart", "radiusEnd"))
    ends = (*_point(piece, "Start", unit, points), *_point(piece, "End", unit, points))
    try:
        return between_points(*ends, _need(piece, "length") * unit, k0, k1)
    except ValueError as e:
        raise _LeftOut(f"the spiral at line {piece.sourceline} does not fit: {e}") from e


def _curvature(piece: Any, attribute: str, unit: float) -> float:
    text = piece.get(attribute)
    if text is None:
        raise _LeftOut(f"line {piece.sourceline} has no {attribute}")
    if text.strip().upper() in ("INF", "INFINITY"):
        return 0.0
    radius = _numbers(text)[0] * unit
    return 1 / radius if radius else 0.0


def _profiles(element: Any, unit: float, notes: list[str]) -> Iterator[RoadProfile]:
    for kind, tag in (("design", "ProfAlign"), ("existing", "ProfSurf")):
        for found in element.iterfind(f".//{{*}}Profile/{{*}}{tag}"):
            name = found.get("name") or tag
            try:
                pvis = tuple(_pvis(found, unit) if kind == "design" else _line_points(found, unit))
                Profile(pvis)  # raises where the points are no profile
            except (_LeftOut, ValueError) as e:
                notes.append(f'The profile "{name}" (line {found.sourceline}) is left out: {e}.')
                continue
            yield RoadProfile(name=name, kind=kind, pvis=pvis)  # type: ignore[arg-type]


def _pvis(element: Any, unit: float) -> Iterator[Pvi]:
    for point in element:
        tag = etree.QName(point).localname
        if tag not in ("PVI", "ParaCurve", "UnsymParaCurve", "CircCurve"):
            continue
        values = [v * unit for v in _numbers(point.text)]
        if len(values) < 2:
            raise _LeftOut(f"line {point.sourceline} has no chainage and level")
        if tag == "ParaCurve":
            yield Pvi(values[0], values[1], _need(point, "length") * unit)
        elif tag == "UnsymParaCurve":
            before, ahead = _need(point, "lengthIn") * unit, _need(point, "lengthOut") * unit
            yield Pvi(values[0], values[1], before + ahead, ahead=ahead)
        elif tag == "CircCurve":
            yield Pvi(values[0], values[1], radius=abs(_need(point, "radius")) * unit)
        else:
            yield Pvi(values[0], values[1])


def _line_points(element: Any, unit: float) -> Iterator[Pvi]:
    values = np.array(_numbers(element.findtext("{*}PntList2D"))).reshape(-1, 2) * unit
    last = -np.inf
    for ch, z in values.tolist():
        if ch > last:
            yield Pvi(ch, z)
        last = max(last, ch)


def _surface(element: Any, unit: float) -> SurfaceFound:
    """Faces as they are; without faces the source data is triangulated here, and its faults are told."""
    name = element.get("name") or "Surface"
    definition = element.find("{*}Definition")
    points = None if definition is None else definition.find("{*}Pnts")
    faces = None if definition is None else definition.find("{*}Faces")
    if points is not None and len(points) and faces is not None and len(faces):
        vertices = _vertices(points, unit)
        return SurfaceFound(name=name, vertices=vertices, faces=_faces(points, faces, len(vertices)))
    source = _source(element, unit)
    loose = _vertices(points, unit) if points is not None and len(points) else np.zeros((0, 3))
    if not len(source.points) and not source.breaklines and not len(loose):
        raise _LeftOut("it has neither faces nor points")
    return triangulated(name, Source(np.vstack([loose, source.points]), source.breaklines, source.boundaries))


def triangulated(name: str, source: Source, leave_crossed: bool = False) -> SurfaceFound:
    """The surface over source data; breaklines that cross an earlier one at another level can be left out, their
    places kept as points. Raises ValueError where there is none.
    """
    lines, points, notes = source.breaklines, source.points, []
    if leave_crossed:
        out = crossed(lines)
        points = np.vstack([points, *(lines[i] for i in out)])
        lines = [b for i, b in enumerate(lines) if i not in set(out)]
        if out:
            notes.append(
                f'The surface "{name}": {counted(len(out), "breakline")} crossing an earlier one: taken as points only.'
            )
    made = triangulate(points, lines, source.boundaries)
    notes.append(
        f'The surface "{name}" was triangulated here: {counted(len(made.vertices), "point")}, {counted(len(made.faces), "face")}.'
    )
    notes += told(name, made)
    return SurfaceFound(name=name, vertices=made.vertices, faces=made.faces, source=source, notes=tuple(notes))


def told(name: str, made: Triangulated) -> list[str]:
    """The faults of a triangulation in sentences, each kind with its count and its worst place."""
    out = []
    found = [*made.faults, *spikes(Tin(made.vertices, made.faces))]
    for kind in dict.fromkeys(f.kind for f in found):
        some = [f for f in found if f.kind == kind]
        worst = max(some, key=lambda f: abs(f.by))
        where = f"x {worst.x:.2f}, y {worst.y:.2f}"
        out.append(
            f'The surface "{name}" has {counted(len(some), kind.removesuffix("s"))}, the worst by {abs(worst.by):.3f} m at {where}.'
        )
    return out


def _vertices(points: Any, unit: float) -> Any:
    values = _triples(points, np.float64)
    if values is None or values.size != 3 * len(points) or not np.isfinite(values).all():
        raise _LeftOut("a point has no northing, easting and level")
    return values.reshape(-1, 3)[:, [1, 0, 2]] * unit


def _triples(parent: Any, kind: Any) -> Any:
    """The numbers of an element's children, three in each; None where something else stands there."""
    values = _read_numbers([etree.tostring(parent, method="text", encoding="unicode")], kind)
    if values is None or values.size != 3 * len(parent):  # children with nothing between them: their texts ran together
        values = _read_numbers(parent.itertext(), kind)
    return values


def _read_numbers(texts: Iterable[str], kind: Any) -> Any:
    """All numbers of many texts, read in one go; None where something else stands between them."""
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        try:
            return np.fromstring(" ".join(texts), kind, sep=" ")
        except (DeprecationWarning, ValueError):
            return None


def _faces(points: Any, faces: Any, count: int) -> Any:
    """Faces as rows of points, invisible ones left out; ids may be any words, in any order."""
    for face in faces.xpath("*[@i='1']"):
        faces.remove(face)
    names = points.xpath("*/@id", smart_strings=False)
    if len(names) != count:
        raise _LeftOut("a point has no id")
    ids, corners = _read_numbers(names, np.int64), _triples(faces, np.int64)
    if ids is None or corners is None or len(ids) != count:
        ids, corners = np.array(names), np.array(" ".join(faces.itertext()).split())
    if corners.size % 3:
        raise _LeftOut("a face has not three points")
    order = np.argsort(ids, kind="stable")
    at = np.clip(np.searchsorted(ids[order], corners), 0, count - 1)
    if (ids[order][at] != corners).any():
        raise _LeftOut("a face names a point that is not there")
    return order[at].reshape(-1, 3)


def _source(element: Any, unit: float) -> Source:
    def lists(path: str, width: int) -> list[Any]:
        out = []
        for found in element.iterfind(f"{{*}}SourceData/{path}"):
            values = np.array(_numbers(found.text)).reshape(-1, width)
            out.append(values[:, [1, 0, 2][:width]] * unit)
        return out

    lines = lists("{*}Breaklines/{*}Breakline/{*}PntList3D", 3)
    for contour in element.iterfind("{*}SourceData/{*}Contours/{*}Contour"):
        xy = np.array(_numbers(contour.findtext("{*}PntList2D"))).reshape(-1, 2)[:, ::-1] * unit
        lines.append(np.column_stack([xy, np.full(len(xy), _need(contour, "elev") * unit)]))
    rings = []
    for boundary in element.iterfind("{*}SourceData/{*}Boundaries/{*}Boundary"):
        kind = (boundary.get("bndType") or "outer").lower()
        flat, deep = boundary.findtext("{*}PntList2D"), boundary.findtext("{*}PntList3D")
        xy = np.array(_numbers(flat or deep)).reshape(-1, 2 if flat else 3)[:, [1, 0]] * unit
        if kind in ("outer", "void", "island"):
            rings.append(Boundary(xy, kind))  # type: ignore[arg-type]
    points = lists("{*}DataPoints/{*}PntList3D", 3)
    return Source(np.vstack(points) if points else np.zeros((0, 3)), lines, rings)
