"""LandXML 1.2 out: alignments with profiles, surfaces, pipe networks; what has no place there is
told.

A file has northing first. What the format has no attribute for but the program reads back goes into
`Feature` elements with the code `zumbert`, which other programs pass over.
"""

from collections.abc import Iterable, Iterator
from datetime import date
from math import inf
from typing import NamedTuple
from xml.sax.saxutils import quoteattr

import msgspec
import numpy as np

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.roads import pieces
from zumbert.delivery.job import Job
from zumbert.geometry.clothoid import Clothoid
from zumbert.geometry.elements import Arc
from zumbert.geometry.profile import Pvi
from zumbert.model.catalogue import PipeSize, StructureType
from zumbert.model.display import counted
from zumbert.model.ids import NetworkId, StructureId
from zumbert.model.pipe import Bore, Pipe
from zumbert.model.project import inside_and_wall, invert_basis, nominal
from zumbert.model.road import Piece, Road
from zumbert.model.structure import Anchored, FixedRim, Free, Structure

CODE = "zumbert"
NETWORK_TYPES = {"storm": "storm", "foul": "sanitary"}


class Written(NamedTuple):
    """The text of a file, and in sentences what has no place in it."""

    text: str
    notes: tuple[str, ...]


def landxml(job: Job) -> Written:
    """The project as LandXML 1.2, in its own unit of length; diameters in millimetres or inches."""
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        '<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2" version="1.2" '
        'language="English" readOnly="false" '
        f'date="{job.project.delivery.date or date.today().isoformat()}" time="00:00:00">',
        *_units(job),
        f"<Project{_attributes(name=job.project.name)}/>",
        '<Application name="Zumbert"/>',
        *_surfaces(job),
        *_alignments(job),
        *_networks(job),
        "</LandXML>",
    ]
    return Written("\n".join(lines) + "\n", tuple(_lost(job)))


def _units(job: Job) -> Iterator[str]:
    kind, names = job.units.measures.landxml
    angles = {"angularUnit": "decimal degrees", "directionUnit": "decimal degrees"}
    yield f"<Units><{kind}{_attributes(**names, **angles)}/></Units>"
    if job.project.delivery.epsg is not None:
        yield f'<CoordinateSystem epsgCode="{job.project.delivery.epsg}"/>'


def _attributes(**values: str | float | None) -> str:
    """Attributes of an element; none for a value that there is not. Numbers are written whole,
    so that they come back.
    """
    return "".join(
        f" {k}={quoteattr(_number(v) if isinstance(v, float) else str(v))}"
        for k, v in values.items()
        if v is not None
    )


def _number(value: float) -> str:
    return repr(float(value))


def _place(job: Job, x: float, y: float) -> str:
    one = job.units.metres
    return f"{_number(y / one)} {_number(x / one)}"


# -- surfaces --------------------------------------------------------------------------------------


def _surfaces(job: Job) -> Iterator[str]:
    if not job.project.surfaces:
        return
    one = job.units.metres
    yield "<Surfaces>"
    for s in job.project.surfaces.values():
        v, f = np.asarray(s.vertices) / one, np.asarray(s.faces) + 1
        yield f'<Surface{_attributes(name=s.name, desc=s.role)}><Definition surfType="TIN"><Pnts>'
        yield "\n".join(
            f'<P id="{i}">{y!r} {x!r} {z!r}</P>' for i, (x, y, z) in enumerate(v.tolist(), 1)
        )
        yield "</Pnts><Faces>"
        yield "\n".join(f"<F>{a} {b} {c}</F>" for a, b, c in f.tolist())
        yield "</Faces></Definition></Surface>"
    yield "</Surfaces>"


# -- alignments ------------------------------------------------------------------------------------


def _alignments(job: Job) -> Iterator[str]:
    if not job.project.roads:
        return
    yield '<Alignments name="Roads">'
    for road in job.project.roads.values():
        alignment = job.facts.roads[road.id].alignment
        one = job.units.metres
        told = _attributes(
            name=road.name, length=alignment.length / one, staStart=alignment.start / one
        )
        yield f"<Alignment{told}><CoordGeom>"
        yield from (_piece(job, p) for p in pieces(road))
        yield "</CoordGeom>"
        yield from _profiles(job, road)
        yield "</Alignment>"
    yield "</Alignments>"


def _piece(job: Job, p: Piece) -> str:
    one = job.units.metres
    ends = f"<Start>{_place(job, p.x0, p.y0)}</Start>"
    last = f"<End>{_place(job, p.x1, p.y1)}</End>"
    if isinstance(p, Arc):
        rot = "cw" if p.clockwise else "ccw"
        centre = f"<Center>{_place(job, p.xc, p.yc)}</Center>"
        told = _attributes(rot=rot, crvType="arc", radius=p.radius / one)
        return f"<Curve{told}>{ends}{centre}{last}</Curve>"
    if isinstance(p, Clothoid):
        turn = p.k0 + p.k1
        radii = [1 / abs(k) / one if k else inf for k in (p.k0, p.k1)]
        a, b = ("INF" if r == inf else _number(r) for r in radii)
        rot = "cw" if turn > 0 else "ccw"
        told = _attributes(
            length=p.length / one, radiusStart=a, radiusEnd=b, rot=rot, spiType="clothoid"
        )
        x, y = p.point(np.array(p.length / 2), np.array(0.0))
        return f"<Spiral{told}>{ends}<PI>{_place(job, float(x), float(y))}</PI>{last}</Spiral>"
    return f"<Line{_attributes(length=p.length / one)}>{ends}{last}</Line>"


def _profiles(job: Job, road: Road) -> Iterator[str]:
    if not road.profiles:
        return
    one = job.units.metres
    yield f"<Profile{_attributes(name=road.name)}>"
    order = [p for i, p in enumerate(road.profiles) if i == road.design]
    # the one in force is read first
    order += [p for i, p in enumerate(road.profiles) if i != road.design]
    for p in order:
        if p.kind == "design":
            yield (
                f"<ProfAlign{_attributes(name=p.name)}>"
                + "".join(_pvi(v, one) for v in p.pvis)
                + "</ProfAlign>"
            )
        else:
            pairs = " ".join(
                f"{_number(v.chainage / one)} {_number(v.level / one)}" for v in p.pvis
            )
            yield f"<ProfSurf{_attributes(name=p.name)}><PntList2D>{pairs}</PntList2D></ProfSurf>"
    yield "</Profile>"


def _pvi(v: Pvi, one: float) -> str:
    at = f"{_number(v.chainage / one)} {_number(v.level / one)}"
    if v.radius:
        return f"<CircCurve{_attributes(radius=v.radius / one)}>{at}</CircCurve>"
    if v.length and v.ahead is not None:
        told = _attributes(lengthIn=(v.length - v.ahead) / one, lengthOut=v.ahead / one)
        return f"<UnsymParaCurve{told}>{at}</UnsymParaCurve>"
    return (
        f"<ParaCurve{_attributes(length=v.length / one)}>{at}</ParaCurve>"
        if v.length
        else f"<PVI>{at}</PVI>"
    )


# -- networks --------------------------------------------------------------------------------------


def _networks(job: Job) -> Iterator[str]:
    """A pipe network for each network and water; a structure lies in the one that it belongs to."""
    p = job.project
    groups: dict[tuple[NetworkId, str], tuple[list[Structure], list[Pipe]]] = {}
    for s in p.structures.values():
        groups.setdefault((s.network, s.service), ([], []))[0].append(s)
    for pipe in p.pipes.values():
        groups.setdefault((pipe.network, pipe.service), ([], []))[1].append(pipe)
    if not groups:
        return
    yield "<PipeNetworks>"
    taken: set[str] = set()
    for (key, water), (structures, pipes) in groups.items():
        name = p.networks[key].name
        title = name if name not in taken else f"{name} ({water})"
        taken.add(title)
        kind = _attributes(name=title, pipeNetType=NETWORK_TYPES[water])
        used = {f"type {s.type}": _json(p.types[s.type]) for s in structures}
        used |= {
            f"size {q.size}": _json(p.sizes[q.size]) for q in pipes if not isinstance(q.size, Bore)
        }
        yield f"<PipeNetwork{kind}>{_feature(network=name, **used)}<Structs>"
        yield from (_structure(job, s) for s in structures)
        yield "</Structs><Pipes>"
        yield from (_pipe(job, pipe) for pipe in pipes)
        yield "</Pipes></PipeNetwork>"
    yield "</PipeNetworks>"


def _feature(**values: str | None) -> str:
    """Values that the program reads back and the format has no attribute for."""
    inner = "".join(
        f"<Property{_attributes(label=k, value=v)}/>" for k, v in values.items() if v is not None
    )
    return f'<Feature code="{CODE}">{inner}</Feature>' if inner else ""


def _json(record: StructureType | PipeSize) -> str:
    """A record of the library, for a library that does not have it."""
    return msgspec.json.encode(record).decode()


def _structure(job: Job, s: Structure) -> str:
    p, one = job.project, job.units.metres
    f: StructureFacts = job.facts.structures[s.id]
    kind = p.types[s.type]
    rim = None if f.place.rim is None else f.place.rim / one
    sump = None if f.sump_level is None else f.sump_level / one
    centre = (
        ""
        if f.place.x is None or f.place.y is None
        else f"<Center>{_place(job, f.place.x, f.place.y)}</Center>"
    )
    mm = job.units.mm / 1000
    if not kind.inside:
        shape = "<OutletStruct/>" if kind.kind in ("headwall", "outfall") else "<Connection/>"
    elif kind.across is not None:
        told = _attributes(
            length=kind.inside / one, width=kind.across / one, thickness=kind.wall / one
        )
        shape = f"<RectStruct{told}/>"
    elif kind.kind == "gully":
        shape = "<InletStruct/>"
    else:
        shape = f"<CircStruct{_attributes(diameter=kind.inside / mm, thickness=kind.wall / mm)}/>"
    inverts = "".join(
        f"<Invert{_attributes(elev=level / one, flowDir=way, refPipe=g.pipe.label)}/>"
        for way, level, g in (
            *(("in", g.pipe.invert_down, g) for g in f.pipes_in),
            *(("out", g.pipe.invert_up, g) for g in f.pipes_out),
        )
    )
    more = _feature(
        type=s.type,
        place=_anchor(job, s.place),
        rim=_rim(job, s),
        outfall="yes" if s.outfall else None,
        rotation=None if s.rotation is None else _number(s.rotation),
        sump=None if s.sump is None else _number(s.sump),
        sump_depth=None if s.sump_depth is None else _number(s.sump_depth),
        cover=None if s.cover == (0.0, 0.0) else " ".join(map(_number, s.cover)),
    )
    head = _attributes(name=s.label, desc=kind.name, elevRim=rim, elevSump=sump, state=s.status)
    return f"<Struct{head}>{centre}{shape}{inverts}{more}</Struct>"


def _anchor(job: Job, place: Anchored | Free | None) -> str | None:
    """A place as words that come back: chainage, offset and road, m."""
    if place is None:
        return None
    if isinstance(place, Free):
        return f"free {_number(place.x)} {_number(place.y)}"
    road = job.project.roads[place.road].name
    return f"road {_number(place.chainage)} {_number(place.offset)} {road}"


def _rim(job: Job, s: Structure) -> str:
    return (
        f"fixed {_number(s.rim.level)}"
        if isinstance(s.rim, FixedRim)
        else f"{s.rim.surface} {_number(s.rim.adjustment)}"
    )


def _pipe(job: Job, pipe: Pipe) -> str:
    p, one = job.project, job.units.metres
    f = job.facts.pipes[pipe.id]
    inside, wall = inside_and_wall(p, pipe)
    mm = job.units.mm / 1000
    size = None if isinstance(pipe.size, Bore) else p.sizes[pipe.size]
    round_ = _attributes(
        diameter=inside / mm,
        thickness=wall / mm,
        material=None if size is None else size.material,
        desc=job.units.dn(nominal(p, pipe)),
    )
    more = _feature(
        size=None if size is None else size.key,
        through=_anchor(job, pipe.through),
        invert_basis=pipe.invert_basis,
        quoted=invert_basis(p, pipe),
        invert_up=_number(pipe.invert_up),
        invert_down=_number(pipe.invert_down),
        trench=None if pipe.trench is None else p.trench_types[pipe.trench].name,
    )
    ends = _attributes(
        name=pipe.label,
        refStart=p.structures[pipe.up].label,
        refEnd=p.structures[pipe.down].label,
        length=f.basis / one,  # times the slope it is the fall from invert to invert
        slope=f.slope,
        state=pipe.status,
    )
    return f"<Pipe{ends}><CircPipe{round_}/>{more}</Pipe>"


# -- what is lost ----------------------------------------------------------------------------------


def _lost(job: Job) -> Iterator[str]:
    """A remark for the reader of the file."""
    p = job.project
    nowhere = [
        s.label for k, s in p.structures.items() if job.facts.places[StructureId(k)].x is None
    ]
    at_walls = sum(invert_basis(p, q) == "walls" for q in p.pipes.values())
    if at_walls:
        yield (
            f"{counted(at_walls, 'pipe')} with inverts at inner walls: the lengths are from wall "
            "to wall, so that slope times length is the fall."
        )
    if nowhere:
        yield f"Without a place: {', '.join(nowhere[:6])}."
    held = sum(s.hold_size for s in p.structures.values()) + sum(
        q.holds or q.hold_size for q in p.pipes.values()
    )
    limits = sum(len(s.limits) for s in p.structures.values()) + sum(
        len(q.limits) for q in p.pipes.values()
    )
    counts = (
        (held, "held value", None),
        (limits, "own limit of a pipe or structure", "own limits of pipes and structures"),
        (len(p.decisions), "decision", None),
        (len(p.pins), "pinned level", None),
        (len(p.land), "area of land", "areas of land"),
        (len(p.services), "service of others", "services of others"),
        (len(p.sheets), "sheet", None),
        (sum(r.strip is not None for r in p.roads.values()), "road strip", None),
    )
    told = [counted(n, one, many) for n, one, many in _some(counts)]
    if told:
        yield f"LandXML has no place for: {', '.join(told)}."


def _some(counts: Iterable[tuple[int, str, str | None]]) -> list[tuple[int, str, str | None]]:
    return [c for c in counts if c[0]]
