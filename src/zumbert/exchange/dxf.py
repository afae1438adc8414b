"""A background drawing from DXF: its line work as segments by layer, its faces and its lines
with levels.
"""

import hashlib
from collections import Counter
from pathlib import Path
from typing import Any

import numpy as np
from msgspec import Struct

from zumbert.errors import ReadError, ZumbertError
from zumbert.exchange.dxf_entities import LEVEL, Gathered, Tell
from zumbert.exchange.reader import reader
from zumbert.exchange.sense import FARTHEST, clean
from zumbert.geometry.elements import Array
from zumbert.model.background import UNITS, DrawnPlace, DrawnText
from zumbert.model.display import counted

_HEADER = {  # $INSUNITS
    1: "in", 2: "ft", 3: "mi", 4: "mm", 5: "cm", 6: "m", 7: "km", 10: "yd", 14: "dm",
    21: "US survey ft",
}  # fmt: skip
CURVE = 0.01  # m: curves leave their segments by no more


class DxfLine(Struct, frozen=True, eq=False):
    """One line of a drawing: its layer, its places (n, 3) in m, and whether it carries levels of
    its own.
    """

    layer: str
    xyz: Array
    deep: bool


class Drawing(Struct, frozen=True, kw_only=True, eq=False, dict=True):
    """The content of a DXF file: segments (n, 4) in m, the layer of each, and what was told
    or left out.
    """

    name: str
    path: str
    stamp: str  # SHA-256 of the file
    layers: tuple[str, ...]
    off: frozenset[str]
    segments: Any
    layer: Any
    centres: Any  # (n, 2) of arcs and circles, m
    places: tuple[DrawnPlace, ...]  # circles, points and blocks
    texts: tuple[DrawnText, ...]
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


@reader
def read_dxf(path: str | Path, unit: str | None = None, tell: Tell | None = None) -> Drawing:
    """Reads the model space, blocks taken apart; hatches and what is out of sense are counted and
    left out.

    The unit is the one given, else the header's, else guessed from the extents; which it was is
    told. The drawing's own origin is kept. Raises ReadError for what is no DXF, or holds no lines,
    faces or points.
    """
    doc = _document(path)
    if unit is not None and unit not in UNITS:
        raise ReadError(f'{path}: the unit "{unit}" is not known: {", ".join(UNITS)}.')
    try:
        header = _HEADER.get(int(doc.header.get("$INSUNITS", 0)))
        got = Gathered(CURVE / UNITS[unit or header or "m"])
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
    if unit:
        use, how = unit, "as asked for"
    elif header:
        use, how = header, "from its header"
    else:
        use, how = _guess(extents), "guessed"
    by = UNITS[use]
    near = [(layer, xyz) for layer, xyz in got.lines if np.abs(xyz[:, :2]).max() * by <= FARTHEST]
    if len(near) < len(got.lines):
        got.left["line that lies nowhere"] = len(got.lines) - len(near)
    got.places = [p for p in got.places if max(abs(p.x), abs(p.y)) * by <= FARTHEST]
    got.texts = [t for t in got.texts if max(abs(t.x), abs(t.y)) * by <= FARTHEST]
    lines = tuple(
        DxfLine(layer, xyz * by, bool(np.abs(xyz[:, 2]).max() > LEVEL)) for layer, xyz in near
    )
    segments, which, names = _segments(lines)
    held = [*(p.layer for p in got.places), *(t.layer for t in got.texts)]
    names = (*names, *dict.fromkeys(n for n in held if n not in names))
    notes = [
        f"{counted(len(segments), 'segment')} on {counted(len(names), 'layer')}, in {use}, {how}."
    ]
    faces = np.vstack(got.faces).reshape(-1, 3, 3) * by if got.faces else np.zeros((0, 3, 3))
    deep = sum(line.deep for line in lines)
    if len(faces) or deep or got.points:
        notes.append(
            f"{counted(len(faces), 'face')}, {counted(deep, 'line')} with levels, "
            f"{counted(len(got.points), 'point')}."
        )
    if got.places:
        counts = Counter(p.what for p in got.places)
        told = ", ".join(f"{n} {what}{'s' if n > 1 else ''}" for what, n in counts.items())
        notes.append(f"Places that can become structures: {told}.")
    if got.texts:
        notes.append(f"{counted(len(got.texts), 'text')}.")
    if got.left:
        notes.append(
            "Left out: " + ", ".join(f"{n} {kind}" for kind, n in sorted(got.left.items())) + "."
        )
    return Drawing(
        name=Path(path).stem,
        path=str(Path(path).absolute()),
        stamp=stamp_of(path) or "",
        layers=names,
        off=off,
        segments=segments,
        layer=which,
        centres=np.array(got.centres, float).reshape(-1, 2) * by,
        lines=lines,
        faces=faces,
        points=np.array(got.points, float).reshape(-1, 3) * by,
        places=tuple(p.scaled(by) for p in got.places),
        texts=tuple(t.scaled(by) for t in got.texts),
        unit=use,
        unit_told=bool(unit or header),
        notes=tuple(notes),
    )


def _segments(lines: tuple[DxfLine, ...]) -> tuple[Array, Any, tuple[str, ...]]:
    """All lines as straight pieces (n, 4), the index of the layer of each, and the layers."""
    names = tuple(dict.fromkeys(line.layer for line in lines))
    if not lines:
        return np.zeros((0, 4)), np.zeros(0, np.int32), ()
    number = {name: i for i, name in enumerate(names)}
    pieces = np.vstack([np.hstack([line.xyz[:-1, :2], line.xyz[1:, :2]]) for line in lines])
    which = np.repeat(
        [number[line.layer] for line in lines], [len(line.xyz) - 1 for line in lines]
    ).astype(np.int32)
    return pieces, which, names


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
            raise ReadError(
                f"{path} is no DXF, or a damaged one: write it again where it was made."
            ) from e


def _off(doc: Any) -> frozenset[str]:
    return frozenset(
        clean(layer.dxf.name) for layer in doc.layers if layer.is_off() or layer.is_frozen()
    )


def _guess(places: Array) -> str:
    """Millimetres where the drawing is over 20 km wide in its own units, else metres."""
    wide = max(float(np.ptp(places[..., 0])), float(np.ptp(places[..., 1])))
    return "mm" if wide > 20_000 else "m"


def surface_of(drawing: Drawing) -> tuple[Array, Any, tuple[Any, ...]]:
    """Vertices, faces and faults of the surface that a drawing's faces are; without faces that over
    its lines with levels (as breaklines) and its points. Raises ValueError where they make none.
    """
    from zumbert.geometry.triangulate import triangulate

    if len(drawing.faces):
        corners = drawing.faces.reshape(-1, 3)
        _, first, index = np.unique(
            np.round(corners, 4), axis=0, return_index=True, return_inverse=True
        )
        faces = index.reshape(-1, 3)
        whole = (
            (faces[:, 0] != faces[:, 1])
            & (faces[:, 1] != faces[:, 2])
            & (faces[:, 2] != faces[:, 0])
        )
        return corners[first], faces[whole], ()
    made = triangulate(drawing.points, [line.xyz for line in drawing.deep_lines])
    return made.vertices, made.faces, made.faults
