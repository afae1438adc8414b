"""Land areas and services, drawn here or taken from drawings by others."""

from collections.abc import Sequence
from math import isfinite

from msgspec.structs import replace

from zumbert.errors import EditError
from zumbert.model.display import Units
from zumbert.model.ids import LandId, ServiceId
from zumbert.model.land import LAND_WORDS, Land, LandKind
from zumbert.model.levels import on_land
from zumbert.model.project import Project, with_id
from zumbert.model.service import ServiceKind, ServiceLine

FAR = 1e9  # m: no coordinate is farther


def add_land(
    project: Project, kind: LandKind, ring: Sequence[tuple[float, float]], name: str | None = None
) -> tuple[Project, LandId]:
    """The project with one area more, and its id. Raises EditError for a ring that holds no
    area.
    """
    corners = _open(ring)
    if len(corners) < 3 or abs(area_of(corners)) < 1e-3:
        raise EditError("An area of land needs three corners or more that are not on one line.")
    _finite(corners, project.units)
    project, key = with_id(project, "l")
    land = Land(
        id=LandId(key), name=name or _next_name(project, LAND_WORDS[kind]), kind=kind, ring=corners
    )
    return replace(project, land={**project.land, land.id: land}), land.id


def _open(ring: Sequence[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    """A ring without corners that stand twice one after another, its closing double included."""
    out: list[tuple[float, float]] = []
    for x, y in ring:
        if not out or abs(x - out[-1][0]) + abs(y - out[-1][1]) > 1e-6:
            out.append((float(x), float(y)))
    if len(out) > 1 and abs(out[0][0] - out[-1][0]) + abs(out[0][1] - out[-1][1]) <= 1e-6:
        out.pop()
    return tuple(out)


def _next_name(project: Project, word: str) -> str:
    taken = {a.name for a in project.land.values()}
    return next(
        n for n in (word, *(f"{word} {i}" for i in range(2, len(taken) + 3))) if n not in taken
    )


def _finite(places: Sequence[Sequence[float | None]], units: Units) -> None:
    if not all(v is None or (isfinite(v) and abs(v) < FAR) for p in places for v in p):
        raise EditError("A coordinate is no number, or far off the earth.")
    for p in places:
        if len(p) > 2 and p[2] is not None:
            on_land(p[2], units)


def area_of(ring: Sequence[tuple[float, float]]) -> float:
    """Area (m²) within a ring of corners; positive where it runs anticlockwise."""
    turned = [*ring[1:], ring[0]]
    x0, y0 = ring[0]
    return (
        sum(
            (a[0] - x0) * (b[1] - y0) - (b[0] - x0) * (a[1] - y0)
            for a, b in zip(ring, turned, strict=True)
        )
        / 2
    )


def add_service(
    project: Project,
    kind: ServiceKind,
    points: Sequence[tuple[float, float, float | None]],
    label: str | None = None,
    size: float = 0.1,
    clearance: float = 0.3,
) -> tuple[Project, ServiceId]:
    """The project with one service more, and its id. Raises EditError for fewer than two places
    or an odd size.
    """
    kept: list[tuple[float, float, float | None]] = []
    for p in points:
        if not kept or abs(p[0] - kept[-1][0]) + abs(p[1] - kept[-1][1]) > 1e-6:
            kept.append(p)
    if len(kept) < 2:
        raise EditError("A service needs two places or more.")
    _finite(kept, project.units)
    sound_service(project, size, clearance)
    project, key = with_id(project, "v")
    line = ServiceLine(
        id=ServiceId(key),
        label=label or _next_label(project, kind),
        kind=kind,
        points=tuple(kept),
        size=size,
        clearance=clearance,
    )
    return replace(project, services={**project.services, line.id: line}), line.id


def sound_service(project: Project, size: float, clearance: float) -> None:
    """Raises EditError for a size or clearance that cannot be."""
    if not 0 < size <= 5 or not 0 <= clearance <= 50:
        u = project.units
        raise EditError(
            f"A service is at most {u.long(5.0)} wide, and keeps a clearance of 0 to "
            f"{u.long(50.0)}."
        )


def _next_label(project: Project, kind: ServiceKind) -> str:
    taken = {s.label for s in project.services.values()}
    letter = {"water": "W", "gas": "GAS", "power": "E", "telecom": "T", "sewer": "SEW"}[kind]
    return next(n for n in (f"{letter}{i}" for i in range(1, len(taken) + 2)) if n not in taken)
