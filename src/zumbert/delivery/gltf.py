"""glTF 2.0 as one binary file: everything in space, a node an object, for viewers in space.
Metres, y up, x east, -z north.
"""

from typing import Any

import msgspec
import numpy as np

from zumbert.delivery.geojson import values_of
from zumbert.delivery.job import Job, Tell, quiet
from zumbert.drawing.solids import Solid, solids
from zumbert.drawing.style import colour
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS
from zumbert.geometry.elements import Array
from zumbert.model.ids import PipeId, ServiceId, StructureId

ALIGNED = 4  # bytes: where parts of the binary chunk begin


def gltf(job: Job, tell: Tell = quiet) -> bytes:
    """The network, the services and the surfaces in force. The scene's extras name the `origin`
    (east, north, level, in the project's coordinates) that everything is counted from; each node
    stands at its own middle, so that float32 keeps 0.1 mm.
    """
    import pygltflib as g  # here, so that a start does not wait for it

    found = list(solids(job.facts))
    origin = origin_of(found)
    roles = list(dict.fromkeys(s.role for s in found))
    document = g.GLTF2(
        asset=g.Asset(version="2.0", generator="Zumbert"),
        scene=0,
        scenes=[
            g.Scene(
                name=job.project.name,
                nodes=list(range(len(found))),
                extras=_scene_extras(job, origin),
            )
        ],
        materials=[_material(g, role) for role in roles],
    )
    blob: list[bytes] = []
    at = 0
    for i, solid in enumerate(found):
        tell(i / len(found), "Writing glTF")
        middle = solid.mesh.vertices.mean(axis=0)
        xyz = up_is_y(solid.mesh.vertices - middle).astype(np.float32)
        faces = solid.mesh.faces.astype(np.uint32)
        n = len(document.accessors)
        for data, target in ((xyz, g.ARRAY_BUFFER), (faces, g.ELEMENT_ARRAY_BUFFER)):
            raw = data.tobytes()
            document.bufferViews.append(
                g.BufferView(buffer=0, byteOffset=at, byteLength=len(raw), target=target)
            )
            blob.append(raw + bytes(-len(raw) % ALIGNED))
            at += len(blob[-1])
        low, high = (f(axis=0).tolist() for f in (xyz.min, xyz.max))
        document.accessors += [
            g.Accessor(
                bufferView=n, componentType=g.FLOAT, count=len(xyz), type=g.VEC3, min=low, max=high
            ),
            g.Accessor(
                bufferView=n + 1, componentType=g.UNSIGNED_INT, count=faces.size, type=g.SCALAR
            ),
        ]
        part = g.Primitive(
            attributes=g.Attributes(POSITION=n), indices=n + 1, material=roles.index(solid.role)
        )
        name, extras = told(job, solid)
        document.meshes.append(g.Mesh(name=name, primitives=[part]))
        place = up_is_y((middle - origin)[None])[0].tolist()
        # no number: null
        said = msgspec.json.decode(
            msgspec.json.encode({"kind": solid.kind, "id": solid.id, **extras})
        )
        document.nodes.append(g.Node(name=name, mesh=i, translation=place, extras=said))
    if at:
        document.buffers = [g.Buffer(byteLength=at)]
        document.set_binary_blob(b"".join(blob))
    return b"".join(document.save_to_bytes())


def up_is_y(xyz: Array) -> Array:
    """Coordinates (n, 3) with y up and -z north from such with z up and y north."""
    return np.column_stack([xyz[:, 0], xyz[:, 2], -xyz[:, 1]])


def origin_of(found: list[Solid]) -> Array:
    """A whole metre near the middle of the network; of everything where there is none."""
    own = [s for s in found if s.kind in ("structure", "pipe")] or found
    if not own:
        return np.zeros(3)
    return np.asarray(np.round(np.mean([s.mesh.vertices.mean(axis=0) for s in own], axis=0)), float)


def _scene_extras(job: Job, origin: Array) -> dict[str, Any]:
    epsg = job.project.delivery.epsg
    return {"origin": origin.tolist(), "unit": "m", **({} if epsg is None else {"epsg": epsg})}


def told(job: Job, solid: Solid) -> tuple[str, dict[str, Any]]:
    """The name of a node and its key data, by the names that the command line uses, in SI."""
    facts, p = job.facts, job.project
    if solid.kind == "structure":
        structure = StructureId(solid.id)
        return p.structures[structure].label, values_of(
            job, facts.structures[structure], STRUCTURE_FIELDS
        )
    if solid.kind == "pipe":
        pipe = PipeId(solid.id)
        return p.pipes[pipe].label, values_of(job, facts.pipes[pipe], PIPE_FIELDS)
    if solid.kind == "service":
        service = p.services[ServiceId(solid.id)]
        return service.label, {"service": service.kind, "size": service.size}
    return facts.surfaces.name(solid.id), {}


def _material(g: Any, role: str) -> Any:
    """How a role looks in the light theme; matt. Surfaces are seen from below too."""
    code = colour(role, "colour")
    srgb = np.array([int(code[i : i + 2], 16) for i in (1, 3, 5)]) / 255
    # IEC 61966-2-1
    linear = np.where(srgb <= 0.04045, srgb / 12.92, ((srgb + 0.055) / 1.055) ** 2.4)
    look = g.PbrMetallicRoughness(
        baseColorFactor=[*linear.round(5).tolist(), 1.0], metallicFactor=0.0, roughnessFactor=0.9
    )
    return g.Material(
        name=role, pbrMetallicRoughness=look, doubleSided=role in ("ground", "design")
    )
