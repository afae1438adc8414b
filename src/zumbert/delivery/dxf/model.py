"""The model space of a DXF file: roads, land, services, pipes in plan and at their inverts, structures as blocks."""

from collections.abc import Callable
from math import degrees
from typing import Any

import numpy as np

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.pipes import PipeFacts
from zumbert.delivery.chambersheets import pipes_at
from zumbert.delivery.dxf.layers import LayerTable
from zumbert.delivery.dxf.world import FileWorld
from zumbert.delivery.job import Job
from zumbert.drawing.layers import Belongs
from zumbert.geometry.elements import Array
from zumbert.geometry.strip import at_chainages
from zumbert.model.catalogue import StructureType
from zumbert.model.ids import StructureId

STEP = 1.0  # m between points of curves in plan
ATTRIBUTES = ("LABEL", "TYPE", "CHAINAGE", "OFFSET", "RIM", "INVERTS")
Tell = Callable[[float, str], None]
MANY = 500  # things between two words of how far it is


def write_model(job: Job, doc: Any, layers: LayerTable, world: FileWorld, height: float, tell: Tell) -> None:
    """All of the model space but long sections; labels are `height` m high."""
    space = doc.modelspace()
    _roads(job, space, layers, world)
    _land(job, space, layers, world)
    _services(job, space, layers, world)
    _pipes(job, space, layers, world, height, tell)
    _structures(job, doc, space, layers, world, height, tell)


def _roads(job: Job, space: Any, layers: LayerTable, world: FileWorld) -> None:
    centre, edges = layers.of(Belongs("", "road-centre", "")), layers.of(Belongs("", "road-edge", ""))
    for r in job.facts.roads.values():
        ch = np.unique(np.concatenate([r.alignment.polyline(), np.arange(r.alignment.start, r.alignment.end, STEP)]))
        space.add_lwpolyline(world.xy(np.column_stack(r.alignment.point(ch))).tolist(), dxfattribs={"layer": centre})
        if r.road.strip is not None:
            s = at_chainages(r.road.strip.sections, ch)
            for off in (-s["left"], s["right"]):
                xy = world.xy(np.column_stack(r.alignment.point(ch, off)))
                space.add_lwpolyline(xy.tolist(), dxfattribs={"layer": edges})
        if r.profile is not None:
            z = r.profile.level(ch)
            xyz = np.column_stack([*r.alignment.point(ch), z])[~np.isnan(z)]
            if len(xyz) > 1:
                space.add_polyline3d(world.xyz(xyz).tolist(), dxfattribs={"layer": layers.of(Belongs("", "road-profile", ""))})


def _land(job: Job, space: Any, layers: LayerTable, world: FileWorld) -> None:
    for area in job.project.land.values():
        xy = world.xy(area.ring)
        space.add_lwpolyline(xy.tolist(), close=True, dxfattribs={"layer": layers.of(Belongs("", "land", ""))})


def _services(job: Job, space: Any, layers: LayerTable, world: FileWorld) -> None:
    for line in job.project.services.values():
        layer = layers.of(Belongs(line.kind, "service", "existing"))
        known = all(z is not None for _, _, z in line.points)
        if known:
            space.add_polyline3d(world.xyz(line.points).tolist(), dxfattribs={"layer": layer})
        else:
            space.add_lwpolyline(world.xy([p[:2] for p in line.points]).tolist(), dxfattribs={"layer": layer})


def pipe_line(f: PipeFacts) -> Array:
    """The axis of a pipe in plan from reference point to reference point, with its inverts (n, 3), m."""
    span = f.span
    s = np.array([0.0, span.length]) if span.arc is None else np.linspace(0.0, span.length, max(9, int(span.length / STEP) + 1))
    ends = [(span.up.x, span.up.y), (span.down.x, span.down.y)]
    xy = np.array(ends if span.arc is None else [span.point(v) for v in s.tolist()], float)
    return np.column_stack([xy, [f.invert(v) for v in s.tolist()]])


def _pipes(job: Job, space: Any, layers: LayerTable, world: FileWorld, height: float, tell: Tell) -> None:
    u, facts = job.units, job.facts
    known = [f for f in facts.pipes.values() if f.span.up.x is not None and f.span.down.x is not None]
    for i, f in enumerate(known):
        if not i % MANY:
            tell(0.5 * i / len(known), f"Drawing pipe {f.pipe.label}")
        xyz = world.xyz(pipe_line(f))
        p = f.pipe
        space.add_lwpolyline(xyz[:, :2].tolist(), dxfattribs={"layer": layers.of(Belongs(p.service, "pipe", p.status))})
        space.add_polyline3d(xyz.tolist(), dxfattribs={"layer": layers.of(Belongs(p.service, "invert", p.status))})
        middle = len(xyz) // 2
        a, b = xyz[middle - 1], xyz[middle]
        turn = (degrees(float(np.arctan2(b[1] - a[1], b[0] - a[0]))) + 90) % 180 - 90
        at = (a[:2] + b[:2]) / 2
        c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
        lift = 0.6 * height * world.k
        text = f"{p.label}  {u.dn(f.dn)}  {u.long(f.length(job.project.settings.length_basis))}  {u.slope(f.slope)}"
        made = space.add_text(
            text, height=height * world.k,
            dxfattribs={"layer": layers.of(Belongs(p.service, "pipe-label", p.status)), "rotation": turn, "style": "PLEX"},
        )  # fmt: skip
        from ezdxf.enums import TextEntityAlignment as Align

        made.set_placement((at[0] - s * lift, at[1] + c * lift), align=Align.CENTER)


def _structures(job: Job, doc: Any, space: Any, layers: LayerTable, world: FileWorld, height: float, tell: Tell) -> None:
    facts, p = job.facts, job.project
    blocks = {key: _block(doc, p.types[key], height * world.k, world.k) for key in {s.type for s in p.structures.values()}}
    known = [(k, f) for k, f in facts.structures.items() if f.place.x is not None]
    for i, (_, f) in enumerate(known):
        if not i % MANY:
            tell(0.5 + 0.5 * i / len(known), f"Drawing structure {f.structure.label}")
        s = f.structure
        layer = layers.of(Belongs(s.service, "structure", s.status))
        [[x, y, z]] = world.xyz([(f.place.x, f.place.y, f.place.rim if f.place.rim is not None else 0.0)]).tolist()
        turn = 90.0 - degrees(f.place.bearing) + degrees(world.back.turn)
        made = space.add_blockref(blocks[s.type], (x, y, z), dxfattribs={"layer": layer, "rotation": turn})
        label = layers.of(Belongs(s.service, "structure-label", s.status))
        values = attributes(job, s.id)
        size = p.types[s.type].outside / 2 * world.k
        for j, tag in enumerate(ATTRIBUTES):
            at = (x + size + 0.6 * height * world.k, y + 0.6 * height * world.k - 1.6 * j * height * world.k)
            attrib = made.add_attrib(tag, values[tag], at, dxfattribs={"layer": label, "height": height * world.k, "style": "PLEX"})
            attrib.is_invisible = tag != "LABEL"


def attributes(job: Job, key: StructureId) -> dict[str, str]:
    """What the block of a structure says."""
    f: StructureFacts = job.facts.structures[key]
    u, s = job.units, f.structure
    inverts = "; ".join(f"{'in' if e.into else 'out'} {e.pipe.pipe.label} {u.level(e.invert)}" for e in pipes_at(f))
    return {
        "LABEL": s.label, "TYPE": job.project.types[s.type].name, "CHAINAGE": u.chainage(f.place.chainage),
        "OFFSET": u.offset(f.place.offset), "RIM": u.level(f.place.rim), "INVERTS": inverts,
    }  # fmt: skip


def _block(doc: Any, kind: StructureType, height: float, k: float) -> str:
    """The block of a type, in units of the file, its bearing to the right: at its true size."""
    name = f"ZUMBERT-{kind.key}".upper().replace(" ", "-")
    if name in doc.blocks:
        return name
    block = doc.blocks.new(name)
    half, wall = kind.inside / 2 * k, kind.wall * k
    if not kind.inside:
        size = 0.6 * height
        block.add_lwpolyline([(-size, -size), (size, -size), (size, size), (-size, size)], close=True)
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
