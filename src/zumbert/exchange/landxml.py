"""Roads, surfaces and pipe networks from LandXML 1.0, 1.1 and 1.2."""

import warnings
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

import numpy as np
from lxml import etree
from msgspec import Struct

from zumbert.errors import ReadError
from zumbert.exchange.landxml_networks import NetworkFound, networks_of
from zumbert.exchange.landxml_roads import RoadFound, road_of
from zumbert.exchange.reader import reader
from zumbert.exchange.sense import sound
from zumbert.exchange.sense import told as told_of
from zumbert.exchange.xmlparts import LeftOut, need, numbers
from zumbert.geometry.spikes import SPIKE, spikes
from zumbert.geometry.tin import Tin
from zumbert.geometry.triangulate import Boundary, Fault, crossed, triangulate
from zumbert.model.display import counted

METRES = {
    "meter": 1.0, "metre": 1.0, "millimeter": 0.001, "centimeter": 0.01, "kilometer": 1000.0,
    "foot": 0.3048, "ussurveyfoot": 1200 / 3937, "inch": 0.0254,
}  # fmt: skip


class Source(Struct, frozen=True, eq=False):
    """Source data of a surface, x east first."""

    points: Any
    breaklines: list[Any]
    boundaries: list[Boundary]


class SurfaceFound(Struct, frozen=True, kw_only=True, eq=False, dict=True):
    """A surface of a file: vertices (n, 3) in m, faces (m, 3)."""

    name: str
    vertices: Any
    faces: Any
    source: Source | None = None  # what it was triangulated from, in the unit of the file
    notes: tuple[str, ...] = ()
    tin: Tin | None = None  # the surface in the unit of the file, where that was made
    unit: float = 1.0  # m of one unit of the file


class LandXml(Struct, frozen=True, kw_only=True):
    """The content of a file, and in sentences what is reported or left out and why."""

    roads: tuple[RoadFound, ...]
    surfaces: tuple[SurfaceFound, ...]
    networks: tuple[NetworkFound, ...] = ()
    notes: tuple[str, ...]


LEFT_OUT = (("Parcel", "parcel"), ("PlanFeature", "plan feature"), ("Survey", "survey"))


@reader
def read_landxml(path: str | Path, tell: Callable[[float, str], None] | None = None) -> LandXml:
    """Reads roads, surfaces and pipe networks, in metres, x east and y north (a file has northing
    first). Raises ReadError.

    `tell` hears how far it is between its parts, and may stop it by raising.
    """
    root = _root(path)
    notes: list[str] = []
    unit = _unit(root, path, notes)
    points = {p.get("name"): p for p in root.iterfind(".//{*}CgPoints/{*}CgPoint")}
    roads = _taken(
        root.iterfind(".//{*}Alignments/{*}Alignment"),
        lambda e: road_of(e, unit, points, notes),
        "road",
        notes,
    )
    found = root.findall(".//{*}Surfaces/{*}Surface")

    def surface(e: Any) -> SurfaceFound:
        if tell is not None:
            tell(
                0.5 + 0.5 * found.index(e) / len(found), f"Reading the surface {e.get('name', '')}"
            )
        return _surface(e, unit)

    surfaces = _taken(found, surface, "surface", notes)
    left = [(len(root.findall(f".//{{*}}{tag}")), words) for tag, words in LEFT_OUT]
    if any(n for n, _ in left):
        notes.append("Left out: " + ", ".join(counted(n, words) for n, words in left if n) + ".")
    networks = networks_of(root, unit, _diameter(root, unit, notes), points, notes)
    return LandXml(
        roads=tuple(roads), surfaces=tuple(surfaces), networks=networks, notes=tuple(notes)
    )


def _root(path: str | Path) -> Any:
    parser = etree.XMLParser(
        resolve_entities=False,
        no_network=True,
        load_dtd=False,
        remove_comments=True,
        huge_tree=True,
    )
    try:
        root = etree.fromstring(Path(path).read_bytes(), parser)
    except OSError as e:
        raise ReadError(f"{path} could not be read: {e.strerror or e}. Check the name.") from e
    except etree.XMLSyntaxError as e:
        raise ReadError(
            f"{path}, line {e.lineno or 1}: this is no sound XML ({e.msg}). Export it again."
        ) from e
    if etree.QName(root).localname != "LandXML":
        raise ReadError(
            f"{path} is XML but no LandXML: its outermost element is {etree.QName(root).localname}."
        )
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
            f'{path}, line {inner.sourceline}: the unit "{name}" is not known: metre, foot '
            "or USSurveyFoot."
        )
    if name.lower() not in ("meter", "metre"):
        notes.append(f"Lengths were converted from {name} to metres.")
    return METRES[name.lower()]


def _diameter(root: Any, unit: float, notes: list[str]) -> float:
    """Metres of the unit of diameters: one of its own, else that of lengths."""
    units = root.find("{*}Units")
    inner = None if units is None else next(iter(units), None)
    name = "" if inner is None else (inner.get("diameterUnit") or "")
    if not root.findall(".//{*}PipeNetwork") or not name:
        return unit
    if name.lower() not in METRES:
        notes.append(f'The unit of diameters "{name}" is not known: taken as that of lengths.')
        return unit
    if METRES[name.lower()] != unit:
        notes.append(f"Diameters were converted from {name}.")
    return METRES[name.lower()]


def _taken(
    found: Iterable[Any], read: Callable[[Any], Any], what: str, notes: list[str]
) -> list[Any]:
    out = []
    for element in found:
        try:
            out.append(read(element))
        except LeftOut as e:
            notes.append(
                f'The {what} "{element.get("name", "")}" (line {element.sourceline}) is left '
                f"out: {e}."
            )
        except (ValueError, TypeError) as e:
            notes.append(
                f'The {what} "{element.get("name", "")}" (line {element.sourceline}) is left '
                f"out: {e}."
            )
    return out


def _surface(element: Any, unit: float) -> SurfaceFound:
    """Faces as they are; without faces the source data is triangulated here, and its faults are
    told.
    """
    name = element.get("name") or "Surface"
    definition = element.find("{*}Definition")
    points = None if definition is None else _one(definition.findall("{*}Pnts"))
    faces = None if definition is None else _one(definition.findall("{*}Faces"))
    if points is not None and len(points) and faces is not None and len(faces):
        vertices = _vertices(points, unit)
        return SurfaceFound(
            name=name, vertices=vertices, faces=_faces(points, faces, len(vertices))
        )
    source = _source(element, unit)
    loose = _vertices(points, unit) if points is not None and len(points) else np.zeros((0, 3))
    if not len(source.points) and not source.breaklines and not len(loose):
        raise LeftOut("it has neither faces nor points")
    return triangulated(
        name, Source(np.vstack([loose, source.points]), source.breaklines, source.boundaries)
    )


def _one(groups: list[Any]) -> Any:
    """Several groups of points or faces as one; None without any."""
    for more in groups[1:]:
        groups[0].extend(list(more))
    return groups[0] if groups else None


def triangulated(
    name: str, source: Source, leave_crossed: bool = False, unit: float = 1.0
) -> SurfaceFound:
    """The surface over source data, one of whose units is `unit` m; breaklines that cross an
    earlier one at another level can be left out, their places kept as points. Raises ValueError
    where there is none.
    """
    ok = sound(source.points * unit)
    strings = [(b, sound(b * unit)) for b in source.breaklines]
    lost = [
        *([] if ok.all() else [source.points[~ok]]),
        *(b[~fine] for b, fine in strings if not fine.all()),
    ]
    notes = [] if not lost else told_of(name, (bad := np.vstack(lost)), np.ones(len(bad), bool))
    points, lines = source.points[ok], [b[fine] for b, fine in strings if fine.sum() > 1]
    if leave_crossed:
        out = crossed([b * unit for b in lines])
        points = np.vstack([points, *(lines[i] for i in out)])
        lines = [b for i, b in enumerate(lines) if i not in set(out)]
        if out:
            notes.append(
                f'The surface "{name}": {counted(len(out), "breakline")} crossing an earlier '
                "one: taken as points only."
            )
    made = triangulate(points, lines, source.boundaries, unit)
    notes.append(
        f'The surface "{name}" was triangulated here: '
        f"{counted(len(made.vertices), 'point')}, {counted(len(made.faces), 'face')}."
    )
    notes += told(name, made.tin, unit, made.faults)
    return SurfaceFound(
        name=name,
        vertices=made.vertices * unit,
        faces=made.faces,
        source=source,
        notes=tuple(notes),
        tin=made.tin,
        unit=unit,
    )


def told(name: str, tin: Tin, unit: float = 1.0, faults: tuple[Fault, ...] = ()) -> list[str]:
    """The spikes of a surface, one of whose units is `unit` m, and other faults of it (m): each
    kind in a sentence, with its count and its worst place, as the file has it.
    """
    out = []
    found = [*faults, *spikes(tin, SPIKE, unit)]
    for kind in dict.fromkeys(f.kind for f in found):
        some = [f for f in found if f.kind == kind]
        worst = max(some, key=lambda f: abs(f.by))
        where = f"x {worst.x / unit:.2f}, y {worst.y / unit:.2f}"
        out.append(
            f'The surface "{name}" has {counted(len(some), kind.removesuffix("s"))}, the '
            f"worst by {abs(worst.by):.3f} m at {where}."
        )
    return out


def _vertices(points: Any, unit: float) -> Any:
    values = _triples(points, np.float64)
    if values is None or values.size != 3 * len(points) or not np.isfinite(values).all():
        raise LeftOut("a point has no northing, easting and level")
    return values.reshape(-1, 3)[:, [1, 0, 2]] * unit


def _triples(parent: Any, kind: Any) -> Any:
    """The numbers of an element's children, three in each; None where something else stands
    there.
    """
    values = _readnumbers([etree.tostring(parent, method="text", encoding="unicode")], kind)
    # children with nothing between them: their texts ran together
    if values is None or values.size != 3 * len(parent):
        values = _readnumbers(parent.itertext(), kind)
    return values


def _readnumbers(texts: Iterable[str], kind: Any) -> Any:
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
        raise LeftOut("a point has no id")
    ids, corners = _readnumbers(names, np.int64), _triples(faces, np.int64)
    if ids is None or corners is None or len(ids) != count:
        ids, corners = np.array(names), np.array(" ".join(faces.itertext()).split())
    if corners.size != 3 * len(faces):
        corners = np.array([c for face in faces for c in _triangles(face)], corners.dtype)
    order = np.argsort(ids, kind="stable")
    at = np.clip(np.searchsorted(ids[order], corners), 0, count - 1)
    if (ids[order][at] != corners).any():
        raise LeftOut("a face names a point that is not there")
    return order[at].reshape(-1, 3)


def _triangles(face: Any) -> list[Any]:
    """The corners of a face three by three: one of four corners is two triangles."""
    words = (face.text or "").split()
    if len(words) not in (3, 4):
        raise LeftOut(
            f"the face at line {face.sourceline} has {len(words)} points, not three or four"
        )
    return words if len(words) == 3 else [words[i] for i in (0, 1, 2, 0, 2, 3)]


def _source(element: Any, unit: float) -> Source:
    def lists(path: str, width: int) -> list[Any]:
        out = []
        for found in element.iterfind(f"{{*}}SourceData/{path}"):
            values = np.array(numbers(found.text)).reshape(-1, width)
            out.append(values[:, [1, 0, 2][:width]] * unit)
        return out

    lines = lists("{*}Breaklines/{*}Breakline/{*}PntList3D", 3)
    for contour in element.iterfind("{*}SourceData/{*}Contours/{*}Contour"):
        xy = np.array(numbers(contour.findtext("{*}PntList2D"))).reshape(-1, 2)[:, ::-1] * unit
        lines.append(np.column_stack([xy, np.full(len(xy), need(contour, "elev") * unit)]))
    rings = []
    for boundary in element.iterfind("{*}SourceData/{*}Boundaries/{*}Boundary"):
        kind = (boundary.get("bndType") or "outer").lower()
        flat, deep = boundary.findtext("{*}PntList2D"), boundary.findtext("{*}PntList3D")
        xy = np.array(numbers(flat or deep)).reshape(-1, 2 if flat else 3)[:, [1, 0]] * unit
        if kind in ("outer", "void", "island"):
            rings.append(Boundary(xy, kind))  # type: ignore[arg-type]
    points = lists("{*}DataPoints/{*}PntList3D", 3)
    return Source(np.vstack(points) if points else np.zeros((0, 3)), lines, rings)
