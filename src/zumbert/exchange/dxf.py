"""A background drawing from DXF: its line work as segments by layer."""

import math
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
from msgspec import Struct

from zumbert.errors import ReadError

UNITS: dict[str, float] = {"m": 1.0, "mm": 0.001, "ft": 0.3048}
_HEADER = {4: "mm", 6: "m", 2: "ft"}  # $INSUNITS
CURVE = 0.01  # m: curves leave their segments by no more
LINE_WORK = {"LINE", "LWPOLYLINE", "POLYLINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE"}


class Drawing(Struct, frozen=True, kw_only=True, eq=False):
    """What a DXF file holds for us: segments (n, 4) in m, the layer of each, and what was told or left out."""

    name: str
    layers: tuple[str, ...]
    off: frozenset[str]
    segments: Any
    layer: Any
    unit: str
    notes: tuple[str, ...]


def read_dxf(path: str | Path, unit: str | None = None) -> Drawing:
    """Reads the line work of the model space, blocks taken apart; texts and hatches are counted and left out.

    The unit is the one given, else the header's, else guessed from the extents; which it was is told. The drawing's
    own origin is kept. Raises ReadError for what is no DXF, or holds no lines.
    """
    doc = _document(path)
    if unit is not None and unit not in UNITS:
        raise ReadError(f'{path}: the unit "{unit}" is not known: m, mm or ft.')
    found: list[tuple[str, np.ndarray]] = []
    left: dict[str, int] = {}
    header = _HEADER.get(int(doc.header.get("$INSUNITS", 0)))
    tolerance = CURVE / UNITS[unit or header or "m"]
    for kind, layer, points in _lines(doc, tolerance):
        if points is None:
            left[kind] = left.get(kind, 0) + 1
        elif len(points) > 1 and np.isfinite(points).all():
            found.append((layer, points))
    if not found:
        raise ReadError(f"{path} holds no lines that can be shown under the plan.")
    segments = np.vstack([np.hstack([p[:-1], p[1:]]) for _, p in found])
    use, how = (
        (unit, "as asked for") if unit else (header, "from its header") if header else (_guess(segments), "guessed")
    )
    assert use is not None  # noqa: S101 - one of the three names a unit
    names = tuple(dict.fromkeys(layer for layer, _ in found))
    number = {name: i for i, name in enumerate(names)}
    which = np.repeat([number[layer] for layer, _ in found], [len(p) - 1 for _, p in found]).astype(np.int32)
    notes = [f"{len(segments)} segments on {len(names)} layer(s), in {use}, {how}."]
    if left:
        notes.append("Left out: " + ", ".join(f"{n} {kind}" for kind, n in sorted(left.items())) + ".")
    return Drawing(
        name=Path(path).stem, layers=names, off=_off(doc), segments=segments * UNITS[use], layer=which, unit=use,
        notes=tuple(notes),
    )  # fmt: skip


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


def _lines(doc: Any, tolerance: float) -> Iterator[tuple[str, str, np.ndarray | None]]:
    """Kind, layer and points (n, 2) in drawing units of each entity; None for what is no line work."""
    from ezdxf.disassemble import recursive_decompose

    for entity in recursive_decompose(doc.modelspace()):
        kind, layer = entity.dxftype(), str(entity.dxf.get("layer", "0"))
        if kind not in LINE_WORK:
            yield kind, layer, None
            continue
        try:
            for points in _points(entity, kind, tolerance):
                yield kind, layer, np.array([(v[0], v[1]) for v in points], float).reshape(-1, 2)
        except (TypeError, ValueError, ArithmeticError):
            yield kind, layer, None


def _points(entity: Any, kind: str, tolerance: float) -> Iterator[list[Any]]:
    """The points of an entity; curves lie on their points and leave their chords by a tolerance (drawing units)."""
    if kind == "LINE":
        yield [entity.dxf.start, entity.dxf.end]
    elif kind in ("CIRCLE", "ARC", "ELLIPSE", "SPLINE"):
        yield list(entity.flattening(tolerance))
    elif entity.has_arc:
        for part in entity.virtual_entities():
            yield from _points(part, part.dxftype(), tolerance)
    elif kind == "LWPOLYLINE":
        points = list(entity.vertices_in_wcs())
        yield [*points, points[0]] if entity.closed and points else points
    else:
        points = list(entity.points_in_wcs())
        yield [*points, points[0]] if entity.is_closed and points else points


def _off(doc: Any) -> frozenset[str]:
    return frozenset(layer.dxf.name for layer in doc.layers if layer.is_off() or layer.is_frozen())


def _guess(segments: np.ndarray) -> str:
    """Millimetres where the drawing is over 20 km wide in its own units, else metres."""
    x, y = segments[:, [0, 2]], segments[:, [1, 3]]
    wide = max(float(np.ptp(x)), float(np.ptp(y)))
    return "mm" if wide > 20_000 and not math.isclose(wide, 0.0) else "m"
