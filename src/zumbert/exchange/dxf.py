"""A background drawing from DXF: its line work as segments by layer, its faces and its lines with levels."""

import hashlib
import math
from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
from msgspec import Struct

from zumbert.errors import ReadError, ZumbertError
from zumbert.geometry.elements import Array
from zumbert.model.background import UNITS, DrawnPlace
from zumbert.model.display import counted

_HEADER = {  # $INSUNITS
    1: "in", 2: "ft", 3: "mi", 4: "mm", 5: "cm", 6: "m", 7: "km", 10: "yd", 14: "dm", 21: "US survey ft",
}  # fmt: skip
CURVE = 0.01  # m: curves leave their segments by no more
LINE_WORK = {"LINE", "LWPOLYLINE", "POLYLINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE"}
FACES = {"3DFACE", "MESH"}
LEVEL = 1e-6  # drawing units: a line with any level off this is a 3-D line
EVERY = 2000  # entities between two words about how far reading is

Tell = Callable[[float, str], None]


class DxfLine(Struct, frozen=True, eq=False):
    """One line of a drawing: its layer, its places (n, 3) in m, and whether it carries levels of its own."""

    layer: str
    xyz: Array
    deep: bool


class Drawing(Struct, frozen=True, kw_only=True, eq=False):
    """What a DXF file holds for us: segments (n, 4) in m, the layer of each, and what was told or left out."""

    name: str
    path: str
    stamp: str  # SHA-256 of the file
    layers: tuple[str, ...]
    off: frozenset[str]
    segments: Any
    layer: Any
    centres: Any  # (n, 2) of arcs and circles, m
    places: tuple[DrawnPlace, ...]  # circles, points and blocks
    lines: tuple[DxfLine, ...]
    faces: Any  # (n, 3, 3): corners of triangles, m
    points: Any  # (n, 3): points with levels, m
    unit: str
    unit_told: bool  # by the header, or asked for
    notes: tuple[str, ...]

    @property
    def deep_lines(self) -> list[DxfLine]:
        """The lines that carry levels."""
        return [line for line in self.lines if line.deep]


def stamp_of(path: str | Path) -> str | None:
    """SHA-256 of a file; None where it cannot be read."""
    try:
        return hashlib.sha256(Path(path).read_bytes()).hexdigest()
    except OSError:
        return None


def read_dxf(path: str | Path, unit: str | None = None, tell: Tell | None = None) -> Drawing:
    """Reads the model space, blocks taken apart; texts and hatches are counted and left out.

    The unit is the one given, else the header's, else guessed from the extents; which it was is told. The drawing's
    own origin is kept. Raises ReadError for what is no DXF, or holds no lines, faces or points.
    """
    doc = _document(path)
    if unit is not None and unit not in UNITS:
        raise ReadError(f'{path}: the unit "{unit}" is not known: {", ".join(UNITS)}.')
    try:
        header = _HEADER.get(int(doc.header.get("$INSUNITS", 0)))
        got = _Gathered(CURVE / UNITS[unit or header or "m"])
        got.take(doc, Path(path).name, tell)
        off = _off(doc)
    except ZumbertError:  # given up
        raise
    except Exception as e:  # whatever a damaged file makes the library say
        raise ReadError(f"{path} is a damaged DXF: write it again where it was made.") from e
    if not got.lines and not got.faces and not got.points and not got.places:
        raise ReadError(f"{path} holds no lines that can be shown under the plan.")
    extents = np.vstack(
        [
            *(xyz for _, xyz in got.lines),
            *got.faces,
            *(np.array([p]) for p in got.points),
            *(np.array([[p.x, p.y, 0.0]]) for p in got.places),
        ]
    )
    use, how = (
        (unit, "as asked for") if unit else (header, "from its header") if header else (_guess(extents), "guessed")
    )
    assert use is not None  # noqa: S101 - one of the three names a unit
    by = UNITS[use]
    lines = tuple(DxfLine(layer, xyz * by, bool(np.abs(xyz[:, 2]).max() > LEVEL)) for layer, xyz in got.lines)
    segments, which, names = _segments(lines)
    names = (*names, *dict.fromkeys(p.layer for p in got.places if p.layer not in names))
    notes = [f"{counted(len(segments), 'segment')} on {counted(len(names), 'layer')}, in {use}, {how}."]
    faces = np.vstack(got.faces).reshape(-1, 3, 3) * by if got.faces else np.zeros((0, 3, 3))
    deep = sum(line.deep for line in lines)
    if len(faces) or deep or got.points:
        notes.append(
            f"{counted(len(faces), 'face')}, {counted(deep, 'line')} with levels, {counted(len(got.points), 'point')}."
        )
    if got.places:
        counts = Counter(p.what for p in got.places)
        told = ", ".join(f"{n} {what}{'s' if n > 1 else ''}" for what, n in counts.items())
        notes.append(f"Places that can become structures: {told}.")
    if got.left:
        notes.append("Left out: " + ", ".join(f"{n} {kind}" for kind, n in sorted(got.left.items())) + ".")
    return Drawing(
        name=Path(path).stem, path=str(Path(path).absolute()), stamp=stamp_of(path) or "", layers=names, off=off,
        segments=segments, layer=which, centres=np.array(got.centres, float).reshape(-1, 2) * by, lines=lines,
        faces=faces, points=np.array(got.points, float).reshape(-1, 3) * by,
        places=tuple(p.scaled(by) for p in got.places), unit=use, unit_told=bool(unit or header), notes=tuple(notes),
    )  # fmt: skip


def _segments(lines: tuple[DxfLine, ...]) -> tuple[Array, Any, tuple[str, ...]]:
    """All lines as straight pieces (n, 4), the index of the layer of each, and the layers."""
    names = tuple(dict.fromkeys(line.layer for line in lines))
    if not lines:
        return np.zeros((0, 4)), np.zeros(0, np.int32), ()
    number = {name: i for i, name in enumerate(names)}
    pieces = np.vstack([np.hstack([line.xyz[:-1, :2], line.xyz[1:, :2]]) for line in lines])
    which = np.repeat([number[line.layer] for line in lines], [len(line.xyz) - 1 for line in lines]).astype(np.int32)
    return pieces, which, names


class _Gathered:
    """What a model space holds, in drawing units."""

    def __init__(self, tolerance: float) -> None:
        self.tolerance = tolerance
        self.lines: list[tuple[str, Array]] = []
        self.faces: list[Array] = []
        self.points: list[tuple[float, float, float]] = []
        self.centres: list[tuple[float, float]] = []
        self.places: list[DrawnPlace] = []
        self.left: dict[str, int] = {}

    def take(self, doc: Any, name: str, tell: Tell | None) -> None:
        from ezdxf.disassemble import recursive_decompose

        space = doc.modelspace()
        many = max(1, len(space))
        self._blocks(space)
        for i, entity in enumerate(recursive_decompose(space)):
            if tell is not None and i % EVERY == 0:
                tell(min(0.99, i / many), f"Reading {name}: {i} things")
            kind = entity.dxftype()
            try:
                if not self._one(entity, kind, str(entity.dxf.get("layer", "0"))):
                    self.left[kind] = self.left.get(kind, 0) + 1
            except (TypeError, ValueError, ArithmeticError, AttributeError, IndexError):
                self.left[kind] = self.left.get(kind, 0) + 1

    def _blocks(self, space: Any) -> None:
        """The blocks of the model space, by where they are put and how they are turned."""
        for entity in space.query("INSERT"):
            try:
                x, y, _ = (float(v) for v in entity.ocs().to_wcs(entity.dxf.insert))
                turn = -math.radians(float(entity.dxf.get("rotation", 0.0))) % (2 * math.pi)
            except (TypeError, ValueError, ArithmeticError, AttributeError):
                continue
            if math.isfinite(x) and math.isfinite(y) and math.isfinite(turn):
                layer = str(entity.dxf.get("layer", "0"))
                self.places.append(DrawnPlace("block", layer, x, y, 0.0, str(entity.dxf.name), turn))

    def _one(self, entity: Any, kind: str, layer: str) -> bool:
        """Takes one entity; False where it is nothing for us."""
        if kind in FACES or (kind == "POLYLINE" and (entity.is_poly_face_mesh or entity.is_polygon_mesh)):
            found = _corners(entity, kind)
            self.faces += [f for f in found if np.isfinite(f).all()]
            return bool(found)
        if kind == "POINT":
            place = tuple(float(v) for v in entity.dxf.location)
            if not np.isfinite(place).all():
                return False
            self.places.append(DrawnPlace("point", layer, place[0], place[1]))
            if abs(place[2]) > LEVEL:
                self.points.append(place)  # type: ignore[arg-type]
            return True
        if kind not in LINE_WORK:
            return False
        for places in _places(entity, kind, self.tolerance):
            xyz = np.array([(v[0], v[1], v[2] if len(v) > 2 else 0.0) for v in places], float).reshape(-1, 3)
            if len(xyz) > 1 and np.isfinite(xyz).all():
                self.lines.append((layer, xyz))
        if kind in ("ARC", "CIRCLE"):
            centre = entity.ocs().to_wcs(entity.dxf.center)
            self.centres.append((float(centre[0]), float(centre[1])))
            if kind == "CIRCLE":
                self.places.append(DrawnPlace("circle", layer, *self.centres[-1], float(entity.dxf.radius)))
        return True


def _corners(entity: Any, kind: str) -> list[Array]:
    """Triangles (3, 3) of a face or mesh; quads are parted along a diagonal."""
    if kind == "3DFACE":
        polygons = [list(entity.wcs_vertices())]
    else:
        from ezdxf.render.mesh import MeshBuilder

        mesh: Any = MeshBuilder.from_mesh(entity) if kind == "MESH" else MeshBuilder.from_polyface(entity)
        polygons = [list(f) for f in mesh.faces_as_vertices()]
    out = []
    for polygon in polygons:
        p = np.array([tuple(v) for v in polygon], float).reshape(-1, 3)
        out += [p[[0, i, i + 1]] for i in range(1, len(p) - 1)]
    return [t for t in out if np.linalg.norm(np.cross(t[1] - t[0], t[2] - t[0])) > 0]


def _document(path: str | Path) -> Any:
    import ezdxf
    from ezdxf import recover

    try:
        return ezdxf.readfile(path)  # type: ignore[attr-defined]
    except OSError as e:
        said = e.strerror or "it is no DXF"
        raise ReadError(f"{path} could not be read: {said}. Check the name.") from e
    except Exception:
        try:
            return recover.readfile(path)[0]
        except Exception as e:
            raise ReadError(f"{path} is no DXF, or a damaged one: write it again where it was made.") from e


def _places(entity: Any, kind: str, tolerance: float) -> Iterator[list[Any]]:
    """The places of an entity; curves lie on their points and leave their chords by a tolerance (drawing units)."""
    if kind == "LINE":
        yield [entity.dxf.start, entity.dxf.end]
    elif kind in ("CIRCLE", "ARC", "ELLIPSE", "SPLINE"):
        yield list(entity.flattening(tolerance))
    elif entity.has_arc:
        joined: list[Any] = []
        for part in entity.virtual_entities():
            for places in _places(part, part.dxftype(), tolerance):
                if part.dxftype() == "ARC" and joined and _far(places[0], joined[-1]) > _far(places[-1], joined[-1]):
                    places = places[::-1]  # arcs run anticlockwise, the polyline may not
                joined += places if not joined else places[1:]
        yield joined
    elif kind == "LWPOLYLINE":
        points = list(entity.vertices_in_wcs())
        yield [*points, points[0]] if entity.closed and points else points
    else:
        points = list(entity.points_in_wcs())
        yield [*points, points[0]] if entity.is_closed and points else points


def _far(a: Any, b: Any) -> float:
    return math.hypot(a[0] - b[0], a[1] - b[1])


def _off(doc: Any) -> frozenset[str]:
    return frozenset(layer.dxf.name for layer in doc.layers if layer.is_off() or layer.is_frozen())


def _guess(places: Array) -> str:
    """Millimetres where the drawing is over 20 km wide in its own units, else metres."""
    wide = max(float(np.ptp(places[..., 0])), float(np.ptp(places[..., 1])))
    return "mm" if wide > 20_000 else "m"


def surface_of(drawing: Drawing) -> tuple[Array, Any, tuple[Any, ...]]:
    """Vertices, faces and faults of the surface that a drawing's faces are; without faces that over its lines with
    levels (as breaklines) and its points. Raises ValueError where they make none.
    """
    from zumbert.geometry.triangulate import triangulate

    if len(drawing.faces):
        corners = drawing.faces.reshape(-1, 3)
        _, first, index = np.unique(np.round(corners, 4), axis=0, return_index=True, return_inverse=True)
        faces = index.reshape(-1, 3)
        whole = (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])
        return corners[first], faces[whole], ()
    made = triangulate(drawing.points, [line.xyz for line in drawing.deep_lines])
    return made.vertices, made.faces, made.faults
