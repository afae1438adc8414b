"""One's own frame of a sheet, read from a DXF or SVG in mm: lines, and texts whose fields in braces
are filled in.

A closed rectangle on the layer `room` (in an SVG with that id) is the room for the drawing.
"""

from pathlib import Path
from typing import Any

import numpy as np
from lxml import etree

from zumbert.errors import ReadError
from zumbert.exchange.dxf import read_dxf
from zumbert.exchange.reader import reader
from zumbert.model.sheet import FrameText, OwnFrame

Line = tuple[tuple[float, float], ...]
ROOM = "room"


@reader
def read_frame(path: str | Path) -> OwnFrame:
    """The frame of a file. Raises ReadError for one that is none, or is larger than any paper."""
    file = Path(path)
    lines, texts, inside = _svg(file) if file.suffix.lower() == ".svg" else _dxf(file)
    places = [p for line in lines for p in line]
    if not places:
        raise ReadError(f"{path} has no lines: a frame needs its border at least.")
    xy = np.array(places)
    low, high = xy.min(axis=0), xy.max(axis=0)
    wide, tall = (high - low).tolist()
    if not (50 <= wide <= 5000 and 50 <= tall <= 5000):
        raise ReadError(
            f"{path} is {wide:.0f} by {tall:.0f} mm: a frame is drawn in mm at its paper size."
        )
    x0, y0 = low.tolist()

    def moved(line: Line) -> Line:
        return tuple((x - x0, y - y0) for x, y in line)

    box = (
        None if inside is None else (inside[0] - x0, inside[1] - y0, inside[2] - x0, inside[3] - y0)
    )
    return OwnFrame(
        name=file.name,
        width=wide,
        height=tall,
        lines=tuple(moved(line) for line in lines),
        texts=tuple(FrameText(t.text, t.x - x0, t.y - y0, t.height) for t in texts),
        inside=box,
    )


Read = tuple[list[Line], list[FrameText], tuple[float, float, float, float] | None]


def _dxf(path: Path) -> Read:
    """Y grows downwards here; a DXF's grows upwards."""
    found = read_dxf(path, "mm")
    lines: list[Line] = []
    room: list[tuple[float, float]] = []
    segments = np.asarray(found.segments) * 1000.0
    for (ax, ay, bx, by), layer in zip(
        segments.tolist(), np.asarray(found.layer).tolist(), strict=True
    ):
        if found.layers[layer].lower() == ROOM:
            room += [(ax, -ay), (bx, -by)]
        else:
            lines.append(((ax, -ay), (bx, -by)))
    texts = [FrameText(t.text, t.x * 1000, -t.y * 1000, t.height * 1000) for t in found.texts]
    return lines, texts, _box(room)


def _box(places: list[tuple[float, float]]) -> tuple[float, float, float, float] | None:
    if not places:
        return None
    xs, ys = zip(*places, strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def _svg(path: Path) -> Read:
    """Lines, rectangles, polylines and straight paths of an SVG whose user unit is a mm."""
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False
    )
    try:
        root = etree.fromstring(path.read_bytes(), parser)
    except (OSError, etree.XMLSyntaxError) as e:
        raise ReadError(f"{path} could not be read as SVG: {e}. Save it again.") from e
    lines: list[Line] = []
    texts: list[FrameText] = []
    room = None
    try:
        for element in root.iter("{*}line", "{*}rect", "{*}polyline", "{*}polygon", "{*}text"):
            tag = etree.QName(element).localname
            if tag == "text":
                size = _number(element, "font-size", 3.5)
                texts.append(
                    FrameText(
                        "".join(element.itertext()).strip(),
                        _number(element, "x"),
                        _number(element, "y"),
                        size * 0.7,
                    )
                )
                continue
            line = _line(element, tag)
            if element.get("id") == ROOM:
                room = _box(list(line))
            else:
                lines.append(line)
    except ValueError as e:
        raise ReadError(
            f"{path} has a value that is not a number: {e}. Save it as plain SVG, in mm."
        ) from e
    return lines, texts, room


def _number(e: Any, name: str, otherwise: float = 0.0) -> float:
    text = (e.get(name) or "").strip().removesuffix("px").removesuffix("mm")
    return float(text) if text else otherwise


def _line(e: Any, tag: str) -> Line:
    if tag == "line":
        return (_number(e, "x1"), _number(e, "y1")), (_number(e, "x2"), _number(e, "y2"))
    if tag == "rect":
        x, y, w, h = (_number(e, k) for k in ("x", "y", "width", "height"))
        return (x, y), (x + w, y), (x + w, y + h), (x, y + h), (x, y)
    values = [float(v) for v in (e.get("points") or "").replace(",", " ").split()]
    places = tuple(zip(values[::2], values[1::2], strict=True))
    return (*places, places[0]) if tag == "polygon" and places else places
