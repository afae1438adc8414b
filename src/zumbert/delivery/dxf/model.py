"""The model space of a DXF file: ground, roads, land, services, pipes in plan and at their
inverts, structures as blocks.
"""

from math import degrees
from typing import Any, NamedTuple

import numpy as np
import shapely

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.pipes import PipeFacts
from zumbert.delivery.chambersheets import pipes_at
from zumbert.delivery.dxf.layers import THROUGH, LayerTable
from zumbert.delivery.dxf.world import FileWorld
from zumbert.delivery.job import Job, Tell
from zumbert.delivery.paper import scale_on_paper
from zumbert.drawing.contours import surface_contours
from zumbert.drawing.layers import Belongs
from zumbert.drawing.marks import Stroke
from zumbert.drawing.planroads import chainages_seen, road_edges
from zumbert.drawing.sight import MapSight
from zumbert.geometry.elements import Array
from zumbert.model.background import Background
from zumbert.model.catalogue import StructureType
from zumbert.model.ids import StructureId
from zumbert.model.surface import Surface

STEP = 1.0  # m between points of curves in plan
ATTRIBUTES = ("LABEL", "TYPE", "CHAINAGE", "OFFSET", "RIM", "INVERTS")
MANY = 500  # things between two words of how far it is


class Model(NamedTuple):
    """Where the model space is written to: its scale is that of plans, 1:scale, and labels are
    `height` m high.
    """

    job: Job
    doc: Any
    layers: LayerTable
    world: FileWorld
    scale: float
    height: float

    @property
    def space(self) -> Any:
        """The model space."""
        return self.doc.modelspace()

    def on(self, thing: Belongs, role: str, line: bool = True) -> dict[str, Any]:
        """The layer of a thing that looks as a role does; `line`: viewports on the plan show it."""
        layer = self.layers.of(thing, role, apart=not line)
        if line:
            self.layers.lines.add(layer)
        return {"layer": layer, "ltscale": self.scale / 1000 * self.world.k}

    def line(
        self, places: Any, thing: Belongs, role: str, close: bool = False, level: float = 0.0
    ) -> None:
        """A line in plan through places (n, 2) of the project, at a level (m above datum); its
        dashes go on through its corners.
        """
        on = {**self.on(thing, role), "flags": THROUGH, "elevation": level / self.world.metres}
        self.space.add_lwpolyline(self.world.xy(places).tolist(), close=close, dxfattribs=on)


def write_model(to: Model, tell: Tell) -> None:
    """All of the model space but long sections."""
    for surface in to.job.project.surfaces.values():
        if surface.shown:
            _contours(to, surface)
    for b in to.job.project.backgrounds.values():
        if b.shown:
            _background(to, b)
    _roads(to)
    _land(to)
    _services(to)
    _pipes(to, tell)
    _structures(to, tell)


def _contours(to: Model, surface: Surface) -> None:
    """The contours that plans show, joined, each at its level."""
    found = surface_contours(to.job.facts, surface, scale_on_paper(to.scale, to.layers.unit))
    if found is None:
        return
    for z in np.unique(found.level).tolist():
        at = found.level == z
        role = f"{found.role}-{'major' if found.major[at][0] else 'minor'}"
        for line in shapely.get_parts(
            shapely.line_merge(shapely.multilinestrings(found.xy[at].reshape(-1, 2, 2)))
        ):
            if line.length > 0:
                to.line(shapely.get_coordinates(line), Belongs("", role, ""), role, level=z)


def _background(to: Model, b: Background) -> None:
    """A drawing by others, the layers that are on: what the sheets show under the plan."""
    on = to.on(Belongs("", "background", ""), "background")
    kept = np.array([name not in b.off for name in b.layers], bool)[b.layer]
    for x0, y0, x1, y1 in to.world.xy(b.segments[kept].reshape(-1, 2)).reshape(-1, 4).tolist():
        to.space.add_line((x0, y0), (x1, y1), dxfattribs=on)


def _roads(to: Model) -> None:
    """Edges and centre line as plans have them, and the profile in force."""
    roads = [r for r in to.job.facts.roads.values() if r.road.shown]
    flat = MapSight(
        width=0.0, height=0.0, x=0.0, y=0.0, scale=scale_on_paper(to.scale, to.layers.unit)
    )
    for r in roads:
        for m in road_edges(r, roads, flat):
            if isinstance(m, Stroke):
                thing = (
                    "road-centre"
                    if m.role == "centre-line"
                    else "road-edge"
                    if m.role == "kerb"
                    else "road-verge"
                )
                to.line(flat.to_world(m.xy), Belongs("", thing, ""), m.role)
        if r.profile is not None:
            ch = chainages_seen(r, flat)
            z = r.profile.level(ch)
            xyz = np.column_stack([*r.alignment.point(ch), z])[~np.isnan(z)]
            if len(xyz) > 1:
                on = to.on(Belongs("", "road-profile", ""), "design", line=False)
                to.space.add_polyline3d(to.world.xyz(xyz).tolist(), dxfattribs=on)


def _land(to: Model) -> None:
    for area in to.job.project.land.values():
        if area.shown:
            to.line(area.ring, Belongs("", "land", ""), "limit", close=True)


def _services(to: Model) -> None:
    for line in to.job.project.services.values():
        if not line.shown:
            continue
        thing = Belongs(line.kind, "service", "existing")
        if all(z is not None for _, _, z in line.points):
            to.space.add_polyline3d(
                to.world.xyz(line.points).tolist(), dxfattribs=to.on(thing, "service")
            )
        else:
            to.line([p[:2] for p in line.points], thing, "service")


def pipe_line(f: PipeFacts) -> Array:
    """The axis of a pipe in plan from reference point to reference point, with its inverts (n,
    3), m.
    """
    span = f.span
    s = (
        np.array([0.0, span.length])
        if span.arc is None
        else np.linspace(0.0, span.length, max(9, int(span.length / STEP) + 1))
    )
    ends = [(span.up.x, span.up.y), (span.down.x, span.down.y)]
    xy = np.array(ends if span.arc is None else [span.point(v) for v in s.tolist()], float)
    return np.column_stack([xy, [f.invert(v) for v in s.tolist()]])


def _pipes(to: Model, tell: Tell) -> None:
    from ezdxf.enums import TextEntityAlignment as Align

    job, space, world, height = to.job, to.space, to.world, to.height
    u, facts = job.units, job.facts
    known = [
        f for f in facts.pipes.values() if f.span.up.x is not None and f.span.down.x is not None
    ]
    for i, f in enumerate(known):
        if not i % MANY:
            tell(0.5 * i / len(known), f"Drawing pipe {f.pipe.label}")
        axis = pipe_line(f)
        xyz = world.xyz(axis)
        p = f.pipe
        role = p.service + ("-existing" if p.status == "existing" else "")
        to.line(axis[:, :2], Belongs(p.service, "pipe", p.status), role)
        deep = to.on(Belongs(p.service, "invert", p.status), p.service, line=False)
        space.add_polyline3d(xyz.tolist(), dxfattribs=deep)
        middle = len(xyz) // 2
        a, b = xyz[middle - 1], xyz[middle]
        turn = (degrees(float(np.arctan2(b[1] - a[1], b[0] - a[0]))) + 90) % 180 - 90
        at = (a[:2] + b[:2]) / 2
        c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
        lift = 0.6 * height * world.k
        text = (
            f"{p.label}  {u.dn(f.dn)}  {u.long(f.length(job.project.settings.length_basis))}  "
            f"{u.slope(f.slope)}"
        )
        on = to.on(Belongs(p.service, "pipe-label", p.status), p.service, line=False)
        made = space.add_text(
            text, height=height * world.k, dxfattribs={**on, "rotation": turn, "style": "PLEX"}
        )
        made.set_placement((at[0] - s * lift, at[1] + c * lift), align=Align.CENTER)


def _structures(to: Model, tell: Tell) -> None:
    job, world, height = to.job, to.world, to.height
    facts, p = job.facts, job.project
    blocks = {
        key: _block(to.doc, p.types[key], height * world.k, world.k)
        for key in {s.type for s in p.structures.values()}
    }
    known = [(k, f) for k, f in facts.structures.items() if f.place.x is not None]
    for i, (_, f) in enumerate(known):
        if not i % MANY:
            tell(0.5 + 0.5 * i / len(known), f"Drawing structure {f.structure.label}")
        s = f.structure
        on = to.on(Belongs(s.service, "structure", s.status), "structure", line=False)
        [[x, y, z]] = world.xyz(
            [(f.place.x, f.place.y, f.place.rim if f.place.rim is not None else 0.0)]
        ).tolist()
        turn = 90.0 - degrees(f.place.bearing) + degrees(world.back.turn)
        made = to.space.add_blockref(blocks[s.type], (x, y, z), dxfattribs={**on, "rotation": turn})
        label = to.on(Belongs(s.service, "structure-label", s.status), "structure", line=False)
        values = attributes(job, s.id)
        size = p.types[s.type].outside / 2 * world.k
        for j, tag in enumerate(ATTRIBUTES):
            at = (
                x + size + 0.6 * height * world.k,
                y + 0.6 * height * world.k - 1.6 * j * height * world.k,
            )
            attrib = made.add_attrib(
                tag,
                values[tag],
                at,
                dxfattribs={**label, "height": height * world.k, "style": "PLEX"},
            )
            attrib.is_invisible = tag != "LABEL"


def attributes(job: Job, key: StructureId) -> dict[str, str]:
    """The attributes of the block of a structure."""
    f: StructureFacts = job.facts.structures[key]
    u, s = job.units, f.structure
    inverts = "; ".join(
        f"{'in' if e.into else 'out'} {e.pipe.pipe.label} {u.level(e.invert)}" for e in pipes_at(f)
    )
    return {
        "LABEL": s.label,
        "TYPE": job.project.types[s.type].name,
        "CHAINAGE": u.chainage(f.place.chainage),
        "OFFSET": u.offset(f.place.offset),
        "RIM": u.level(f.place.rim),
        "INVERTS": inverts,
    }


def _block(doc: Any, kind: StructureType, height: float, k: float) -> str:
    """The block of a type, in units of the file, its bearing to the right: at its true size."""
    name = f"ZUMBERT-{kind.key}".upper().replace(" ", "-")
    if name in doc.blocks:
        return name
    block = doc.blocks.new(name)
    half, wall = kind.inside / 2 * k, kind.wall * k
    if not kind.inside:
        size = 0.6 * height
        block.add_lwpolyline(
            [(-size, -size), (size, -size), (size, size), (-size, size)], close=True
        )
    elif kind.across is None:
        block.add_circle((0, 0), half)
        block.add_circle((0, 0), half + wall)
    else:
        other = kind.across / 2 * k
        for more in (0.0, wall):
            a, b = half + more, other + more
            block.add_lwpolyline([(-a, -b), (a, -b), (a, b), (-a, b)], close=True)
    if kind.frame:
        block.add_circle((0, 0), kind.frame / 2 * k)
    for tag in ATTRIBUTES:
        made = block.add_attdef(tag, (half + height, 0), dxfattribs={"height": height})
        made.is_invisible = tag != "LABEL"
    return name
