"""GlTF files, read back by another library."""

import io

import msgspec
import numpy as np
import trimesh
from msgspec.structs import replace
from pytest import approx

from tests.build import v_project
from zumbert.delivery.gltf import gltf, up_is_y
from zumbert.delivery.job import Job
from zumbert.drawing.solids import solids
from zumbert.edits.sheets import set_delivery
from zumbert.model.project import new_project
from zumbert.model.structure import FixedRim, Free


def header(data):
    """The JSON of a binary glTF."""
    long = int.from_bytes(data[12:16], "little")
    return msgspec.json.decode(data[20 : 20 + long])


def test_every_object_is_a_node_with_its_label_at_its_place(job):
    data = gltf(job)
    scene = trimesh.load(io.BytesIO(data), file_type="glb")
    found = list(solids(job.facts))
    origin = np.array(header(data)["scenes"][0]["extras"]["origin"])
    assert len(scene.graph.nodes_geometry) == len(found)
    every = np.concatenate([s.mesh.vertices for s in found])
    bounds = up_is_y(np.array([every.min(axis=0), every.max(axis=0)]) - origin)
    assert scene.bounds == approx(np.array([bounds.min(axis=0), bounds.max(axis=0)]), abs=1e-4)
    names = {
        s.label
        for s in (
            *job.project.structures.values(),
            *job.project.pipes.values(),
            *job.project.services.values(),
        )
    }
    assert set(scene.graph.nodes_geometry) == names | {
        job.facts.surfaces.name("existing"),
        job.facts.surfaces.name("design"),
    }
    by_id = {s.id: s for s in found}
    for node in header(data)["nodes"]:
        solid = by_id[node["extras"]["id"]]
        place, geometry = scene.graph[node["name"]]
        body = scene.geometry[geometry].copy().apply_transform(place)
        want = up_is_y(solid.mesh.vertices - origin)
        assert body.bounds == approx(np.array([want.min(axis=0), want.max(axis=0)]), abs=1e-4)
        if solid.kind != "surface":
            assert body.volume == approx(solid.mesh.volume, rel=1e-4) and body.is_watertight


def test_nodes_have_their_key_data_and_looks(job):
    document = header(gltf(Job(set_delivery(job.project, epsg=25832), job.facts)))
    assert document["scenes"][0]["extras"] | {"origin": 0} == {
        "origin": 0,
        "unit": "m",
        "epsg": 25832,
    }
    pipe = next(n for n in document["nodes"] if n["name"] == "P4")
    f = next(f for f in job.facts.pipes.values() if f.pipe.label == "P4")
    assert pipe["extras"]["kind"] == "pipe" and pipe["extras"]["invert_up"] == approx(
        f.pipe.invert_up
    )
    assert pipe["extras"]["slope"] == approx(f.slope)
    materials = {
        m["name"]: m["pbrMetallicRoughness"]["baseColorFactor"] for m in document["materials"]
    }
    assert {"storm", "chamber-wall", "ground", "design", "service", "ink-2"} == set(materials)
    assert all(0 <= v <= 1 for colour in materials.values() for v in colour)


def test_nothing_is_lost_at_national_coordinates():
    p = v_project()
    p = replace(p, structures={k: replace(s, rim=FixedRim(30.0)) for k, s in p.structures.items()})
    far = {
        k: replace(s, place=Free(s.place.x + 3_512_345.678, s.place.y + 5_412_345.678))
        for k, s in p.structures.items()
    }
    here, there = Job(replace(p, surfaces={})), Job(replace(p, surfaces={}, structures=far))
    for job in (here, there):
        assert {n["name"] for n in header(gltf(job))["nodes"]} == {"A", "B", "P1"}
    sizes = [
        sorted(
            tuple(np.round(m.extents, 4))
            for m in trimesh.load(io.BytesIO(gltf(j)), file_type="glb").geometry.values()
        )
        for j in (here, there)
    ]
    assert np.array(sizes[0]) == approx(np.array(sizes[1]), abs=2e-4)


def test_an_empty_project_and_quotes_in_names_are_files_too(job):
    empty = header(gltf(Job(new_project('a "new" one'))))
    assert empty["scenes"][0]["name"] == 'a "new" one' and not empty.get("nodes")
    key = next(iter(job.project.pipes))
    named = replace(job.project, pipes={key: replace(job.project.pipes[key], label='P "1" <&> ü')})
    assert any(n["name"] == 'P "1" <&> ü' for n in header(gltf(Job(named)))["nodes"])
