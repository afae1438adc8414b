"""The entities of a DXF model space, with blocks resolved; each has the layer on which it shows."""

import math
from collections.abc import Callable, Iterable, Iterator
from typing import Any

import numpy as np

from zumbert.errors import ReadError
from zumbert.exchange.sense import clean
from zumbert.geometry.elements import Array
from zumbert.model.background import DrawnPlace, DrawnText

LINE_WORK = {"LINE", "LWPOLYLINE", "POLYLINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE"}
FACES = {"3DFACE", "MESH"}
TEXTS = {"TEXT", "MTEXT", "ATTRIB"}
LEVEL = 1e-6  # drawing units: a line with any level off this is a 3-D line
EVERY = 2000  # entities between two words about how far reading is
MOST_OF_BLOCK = 500_000  # things that one block stands for
MOST = 3_000_000  # things in all
MOST_CHORDS = 20_000  # of one curve
MOST_TEXTS = 50_000
DEEPEST = 40  # blocks within blocks

Tell = Callable[[float, str], None]
CANNOT = (TypeError, ValueError, ArithmeticError, AttributeError, IndexError, KeyError)


class Gathered:
    """The content of a model space, in drawing units."""

    def __init__(self, tolerance: float) -> None:
        self.tolerance = tolerance
        self.lines: list[tuple[str, Array]] = []
        self.faces: list[Array] = []
        self.points: list[tuple[float, float, float]] = []
        self.centres: list[tuple[float, float]] = []
        self.places: list[DrawnPlace] = []
        self.texts: list[DrawnText] = []
        self.left: dict[str, int] = {}
        self._sizes: dict[str, float] = {}

    def take(self, doc: Any, name: str, tell: Tell | None) -> None:
        """Takes all of the model space. Raises ReadError where it holds more than any drawing
        does.
        """
        space = doc.modelspace()
        many = max(1, len(space))
        for i, (entity, layer) in enumerate(self._walk(space, "", 0)):
            if tell is not None and i % EVERY == 0:
                tell(min(0.99, i / many), f"Reading {name}: {i} things")
            if i > MOST:
                raise ReadError(
                    f"{name} holds more than {MOST} things: leave out what the plan does not need."
                )
            kind = entity.dxftype()
            try:
                if not self._one(entity, kind, layer):
                    self._leave(kind)
            except CANNOT:
                self._leave(kind)

    def _leave(self, what: str, count: int = 1) -> None:
        self.left[what] = self.left.get(what, 0) + count

    def _walk(self, entities: Iterable[Any], over: str, deep: int) -> Iterator[tuple[Any, str]]:
        """All entities, those of blocks too, each with its layer: in a block layer 0 is that of
        the block itself.
        """
        from ezdxf.disassemble import recursive_decompose

        for entity in entities:
            own = clean(str(entity.dxf.get("layer", "0")))
            layer = over if over and own == "0" else own
            kind = entity.dxftype()
            if kind == "INSERT":
                yield from self._block(entity, layer, deep)
            elif kind in LINE_WORK or kind in FACES or kind in TEXTS or kind == "POINT":
                yield entity, layer
            else:
                try:
                    parts = list(recursive_decompose([entity]))
                except CANNOT:
                    self._leave(kind)
                    continue
                yield from ((part, layer) for part in parts)

    def _block(self, insert: Any, layer: str, deep: int) -> Iterator[tuple[Any, str]]:
        if deep == 0:
            self._stands(insert, layer)
        yield from ((a, layer) for a in insert.attribs)
        try:
            size = self._size(str(insert.dxf.name), insert.doc, ()) * max(1, insert.mcount)
            if size == 0:
                self._leave("block that is not defined")
                return
            if size > MOST_OF_BLOCK or deep > DEEPEST:
                self._leave("block of too many things")
                return
            for one in insert.multi_insert() if insert.mcount > 1 else (insert,):
                yield from self._walk(list(one.virtual_entities()), layer, deep + 1)
        except CANNOT:
            self._leave("INSERT")

    def _size(self, name: str, doc: Any, within: tuple[str, ...]) -> float:
        """How many things a block stands for, those of its own blocks counted; none where it is
        not defined.
        """
        if name in within or len(within) > DEEPEST:
            return math.inf
        if name not in self._sizes:
            block = doc.blocks.get(name)
            self._sizes[name] = (
                0.0
                if block is None
                else float(
                    max(
                        1,
                        sum(
                            max(1, e.mcount) * self._size(str(e.dxf.name), doc, (*within, name))
                            if e.dxftype() == "INSERT"
                            else 1
                            for e in block
                        ),
                    )
                )
            )
        return self._sizes[name]

    def _stands(self, insert: Any, layer: str) -> None:
        """Where a block of the model space is put, and how it is turned."""
        try:
            x, y, _ = (float(v) for v in insert.ocs().to_wcs(insert.dxf.insert))
            turn = -math.radians(float(insert.dxf.get("rotation", 0.0))) % (2 * math.pi)
        except CANNOT:
            return
        if math.isfinite(x) and math.isfinite(y) and math.isfinite(turn):
            self.places.append(
                DrawnPlace("block", layer, x, y, 0.0, clean(str(insert.dxf.name)), turn)
            )

    def _one(self, entity: Any, kind: str, layer: str) -> bool:
        """Takes one entity; False for a kind that is not used."""
        if kind in FACES or (
            kind == "POLYLINE" and (entity.is_poly_face_mesh or entity.is_polygon_mesh)
        ):
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
        if kind in TEXTS:
            return self._text(entity, kind, layer)
        if kind not in LINE_WORK:
            return False
        for places in _places(entity, kind, self.tolerance):
            xyz = np.array(
                [(v[0], v[1], v[2] if len(v) > 2 else 0.0) for v in places], float
            ).reshape(-1, 3)
            if len(xyz) > 1 and np.isfinite(xyz).all():
                self.lines.append((layer, xyz))
        if kind in ("ARC", "CIRCLE"):
            centre = entity.ocs().to_wcs(entity.dxf.center)
            self.centres.append((float(centre[0]), float(centre[1])))
            if kind == "CIRCLE":
                self.places.append(
                    DrawnPlace("circle", layer, *self.centres[-1], float(entity.dxf.radius))
                )
        return True

    def _text(self, entity: Any, kind: str, layer: str) -> bool:
        """A text as it stands: its first line, where it begins, how high and how it is turned."""
        lines = (
            clean(entity.plain_text() if kind == "MTEXT" else str(entity.dxf.text))
            .strip()
            .splitlines()
        )
        x, y, _ = (
            float(v)
            for v in (
                entity.dxf.insert if kind == "MTEXT" else entity.ocs().to_wcs(entity.dxf.insert)
            )
        )
        high = float(entity.dxf.char_height if kind == "MTEXT" else entity.dxf.height)
        turn = float(entity.dxf.get("rotation", 0.0))
        if not lines or len(self.texts) >= MOST_TEXTS or not np.isfinite((x, y, high, turn)).all():
            return False
        self.texts.append(
            DrawnText(layer, lines[0], x, y, high, -math.radians(turn) % (2 * math.pi))
        )
        return True


def _corners(entity: Any, kind: str) -> list[Array]:
    """Triangles (3, 3) of a face or mesh; quads are parted along a diagonal."""
    if kind == "3DFACE":
        polygons = [list(entity.wcs_vertices())]
    else:
        from ezdxf.render.mesh import MeshBuilder

        mesh: Any = (
            MeshBuilder.from_mesh(entity) if kind == "MESH" else MeshBuilder.from_polyface(entity)
        )
        polygons = [list(f) for f in mesh.faces_as_vertices()]
    out = []
    for polygon in polygons:
        p = np.array([tuple(v) for v in polygon], float).reshape(-1, 3)
        out += [p[[0, i, i + 1]] for i in range(1, len(p) - 1)]
    return [t for t in out if np.linalg.norm(np.cross(t[1] - t[0], t[2] - t[0])) > 0]


def _places(entity: Any, kind: str, tolerance: float) -> Iterator[list[Any]]:
    """The places of an entity; curves lie on their points and leave their chords by a tolerance
    (drawing units).
    """
    if kind == "LINE":
        yield [entity.dxf.start, entity.dxf.end]
    elif kind in ("CIRCLE", "ARC", "ELLIPSE", "SPLINE"):
        if _chords(entity, kind, tolerance) > MOST_CHORDS:
            raise ValueError("a curve so large that no drawing shows it")
        yield list(entity.flattening(tolerance))
    elif entity.has_arc:
        joined: list[Any] = []
        for part in entity.virtual_entities():
            for places in _places(part, part.dxftype(), tolerance):
                if (
                    part.dxftype() == "ARC"
                    and joined
                    and _far(places[0], joined[-1]) > _far(places[-1], joined[-1])
                ):
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


def _chords(entity: Any, kind: str, tolerance: float) -> float:
    """About how many chords keep a curve within a tolerance; of a spline those of a circle as
    wide.
    """
    share = 1.0
    if kind in ("CIRCLE", "ARC"):
        radius = float(entity.dxf.radius)
        if kind == "ARC":
            share = (
                (float(entity.dxf.end_angle) - float(entity.dxf.start_angle)) % 360 or 360
            ) / 360
    elif kind == "ELLIPSE":
        radius = float(entity.dxf.major_axis.magnitude)
    else:
        p = np.array([tuple(v) for v in (*entity.control_points, *entity.fit_points)], float)
        radius = float(np.ptp(p, axis=0).max()) if len(p) else 0.0
    return math.inf if not radius < 1e12 else share * math.pi * math.sqrt(radius / (2 * tolerance))
