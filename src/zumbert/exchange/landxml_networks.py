"""Pipe networks of a LandXML file: structures by what they are, pipes by their ends, levels at
their structures.
"""

from collections.abc import Iterable, Iterator
from typing import Any

from lxml import etree
from msgspec import Struct

from zumbert.exchange.xmlparts import LeftOut, need, numbers
from zumbert.model.display import counted
from zumbert.model.structure import Service, Status

CODE = "zumbert"  # of Feature elements that hold what the format has no attribute for
STATES: dict[str, Status] = {
    "existing": "existing",
    "abandoned": "abandoned",
    "destroyed": "abandoned",
    "proposed": "proposed",
}
WATERS: dict[str, Service] = {"storm": "storm", "sanitary": "foul", "combined": "storm"}


class StructFound(Struct, frozen=True, kw_only=True):
    """A structure of a file, in m. A shape without sizes has none."""

    label: str
    words: str  # its type in words
    shape: str  # CircStruct, RectStruct, InletStruct, OutletStruct, Connection
    x: float
    y: float
    rim: float | None
    sump: float | None
    inside: float = 0.0
    across: float | None = None
    wall: float = 0.0
    status: Status = "proposed"
    own: dict[str, str] = {}  # what the program itself wrote


class PipeFound(Struct, frozen=True, kw_only=True):
    """A pipe of a file, in m."""

    label: str
    up: str
    down: str
    inside: float
    wall: float
    material: str
    invert_up: float | None
    invert_down: float | None
    status: Status = "proposed"
    own: dict[str, str] = {}


class NetworkFound(Struct, frozen=True, kw_only=True):
    """A pipe network of a file."""

    name: str
    service: Service
    structures: tuple[StructFound, ...]
    pipes: tuple[PipeFound, ...]
    # types and sizes as the program itself wrote them, by "type KEY" and "size KEY"
    own: dict[str, str] = {}


def networks_of(
    root: Any, unit: float, diameter: float, points: dict[Any, Any], notes: list[str]
) -> tuple[NetworkFound, ...]:
    """All pipe networks; lengths are in a unit (m), diameters in another. What is left out is
    told.
    """
    return tuple(
        _network(e, unit, diameter, points, notes)
        for e in root.iterfind(".//{*}PipeNetworks/{*}PipeNetwork")
    )


def _network(
    element: Any, unit: float, diameter: float, points: dict[Any, Any], notes: list[str]
) -> NetworkFound:
    name = element.get("name") or "Network"
    kind = (element.get("pipeNetType") or "storm").lower()
    if kind not in WATERS or kind == "combined":
        notes.append(f'The network "{name}" is of the kind {kind}: taken as storm.')
    structures = list(
        _each(
            element.iterfind("{*}Structs/{*}Struct"),
            lambda e: _struct(e, unit, diameter, points),
            "structure",
            notes,
        )
    )
    inverts: dict[tuple[str, str, str], float] = {}
    for e in element.iterfind("{*}Structs/{*}Struct"):
        for v in e.iterfind("{*}Invert"):
            way = (v.get("flowDir") or "").lower()
            if v.get("elev") is not None and v.get("refPipe"):
                key = (e.get("name", ""), v.get("refPipe"), way if way in ("in", "out") else "")
                inverts[key] = need(v, "elev") * unit
    pipes = list(
        _each(
            element.iterfind("{*}Pipes/{*}Pipe"),
            lambda e: _pipe(e, unit, diameter, inverts),
            "pipe",
            notes,
        )
    )
    own = _own(element)
    return NetworkFound(
        name=own.get("network", name),
        service=WATERS.get(kind, "storm"),
        structures=tuple(structures),
        pipes=tuple(pipes),
        own=own,
    )


def _each(found: Iterable[Any], read: Any, what: str, notes: list[str]) -> Iterator[Any]:
    for element in found:
        try:
            yield read(element)
        except (LeftOut, ValueError, TypeError) as e:
            notes.append(
                f'The {what} "{element.get("name", "")}" (line {element.sourceline}) is left '
                f"out: {e}."
            )


def _own(element: Any) -> dict[str, str]:
    """The properties that the program itself wrote there."""
    return {
        p.get("label", ""): p.get("value", "")
        for f in element.iterfind("{*}Feature")
        if f.get("code") == CODE
        for p in f.iterfind("{*}Property")
    }


def _status(element: Any) -> Status:
    return STATES.get((element.get("state") or "proposed").lower(), "proposed")


def _level(element: Any, attribute: str, unit: float) -> float | None:
    return need(element, attribute) * unit if (element.get(attribute) or "").strip() else None


def _struct(element: Any, unit: float, diameter: float, points: dict[Any, Any]) -> StructFound:
    label = (element.get("name") or "").strip()
    if not label:
        raise LeftOut("it has no name")
    at = element.find("{*}Center")
    if at is not None and at.get("pntRef"):
        at = points.get(at.get("pntRef"))
    place = numbers(at.text) if at is not None else []
    if len(place) < 2:
        raise LeftOut("it has no place")
    shapes = ("CircStruct", "RectStruct", "InletStruct", "OutletStruct", "Connection")
    shape = next((e for e in element if etree.QName(e).localname in shapes), None)
    kind = "CircStruct" if shape is None else etree.QName(shape).localname
    inside, across, wall = 0.0, None, 0.0
    if shape is not None and kind == "CircStruct":
        inside = need(shape, "diameter") * diameter
        wall = need(shape, "thickness") * diameter if shape.get("thickness") else 0.0
    elif shape is not None and kind == "RectStruct":
        inside, across = need(shape, "length") * unit, need(shape, "width") * unit
        wall = need(shape, "thickness") * unit if shape.get("thickness") else 0.0
    return StructFound(
        label=label,
        words=element.get("desc") or "",
        shape=kind,
        x=place[1] * unit,
        y=place[0] * unit,
        rim=_level(element, "elevRim", unit),
        sump=_level(element, "elevSump", unit),
        inside=inside,
        across=across,
        wall=wall,
        status=_status(element),
        own=_own(element),
    )


def _pipe(
    element: Any, unit: float, diameter: float, inverts: dict[tuple[str, str, str], float]
) -> PipeFound:
    label = (element.get("name") or "").strip()
    up, down = (element.get("refStart") or "").strip(), (element.get("refEnd") or "").strip()
    if not label or not up or not down:
        raise LeftOut("it has no name, or not two structures")
    shape = element.find("{*}CircPipe")
    if shape is None:
        other = next(
            (
                etree.QName(e).localname
                for e in element
                if etree.QName(e).localname.endswith("Pipe")
            ),
            "nothing",
        )
        raise LeftOut(f"its shape is {other}, and only round pipes are read")
    own = _own(element)
    ends = [
        float(own[f"invert_{end}"])
        if f"invert_{end}" in own
        else inverts.get((at, label, way), inverts.get((at, label, "")))
        for end, at, way in (("up", up, "out"), ("down", down, "in"))
    ]
    slope, length = element.get("slope"), element.get("length")
    # the other end follows from the slope
    if (ends[0] is None) != (ends[1] is None) and slope and length:
        fall = float(slope) * float(length) * unit
        high, low = ends
        ends = [
            high if high is not None else (low or 0.0) + fall,
            low if low is not None else (high or 0.0) - fall,
        ]
    return PipeFound(
        label=label,
        up=up,
        down=down,
        inside=need(shape, "diameter") * diameter,
        wall=need(shape, "thickness") * diameter if shape.get("thickness") else 0.0,
        material=shape.get("material") or "",
        invert_up=ends[0],
        invert_down=ends[1],
        status=_status(element),
        own=own,
    )


def told(found: NetworkFound) -> str:
    """The content of a network, in a sentence."""
    s, p = counted(len(found.structures), "structure"), counted(len(found.pipes), "pipe")
    return f'The network "{found.name}" ({found.service}): {s}, {p}.'
