"""IFC files, validated and read back."""

import sys

import ifcopenshell
import ifcopenshell.util.element
import ifcopenshell.util.placement
import ifcopenshell.validate
import numpy as np
import pytest
from msgspec.structs import replace
from pytest import approx

from zumbert.delivery.ifc import ifc
from zumbert.delivery.job import Job
from zumbert.drawing.solids import solids
from zumbert.edits.sheets import set_delivery
from zumbert.errors import ReadError
from zumbert.model.project import new_project


@pytest.fixture(scope="module")
def file(job):
    return ifcopenshell.file.from_string(
        ifc(Job(set_delivery(job.project, epsg=25832), job.facts)).decode()
    )


def faults(file):
    log = ifcopenshell.validate.json_logger()
    ifcopenshell.validate.validate(file, log)
    return log.statements


def test_it_is_valid(file):
    assert file.schema == "IFC4"
    assert faults(file) == []


def test_every_object_is_there_at_true_coordinates(file, job):
    p = job.project
    pipes = [e for e in file.by_type("IfcPipeSegment") if e.PredefinedType == "RIGIDSEGMENT"]
    assert sorted(e.Name for e in pipes) == sorted(x.label for x in p.pipes.values())
    chambers = file.by_type("IfcDistributionChamberElement")
    assert sorted(e.Name for e in chambers) == sorted(s.label for s in p.structures.values())
    assert len(file.by_type("IfcGeographicElement")) == 2
    for solid in solids(job.facts):
        if solid.kind in ("pipe", "structure"):
            label = (p.pipes if solid.kind == "pipe" else p.structures)[solid.id].label
            [e] = [e for e in (*pipes, *chambers) if e.Name == label]
            at = ifcopenshell.util.placement.get_local_placement(e.ObjectPlacement)[:3, 3]
            [item] = e.Representation.Representations[0].Items
            xyz = np.array(item.Coordinates.CoordList) + at
            assert xyz == approx(solid.mesh.vertices, abs=1e-4)
            assert np.array(item.CoordIndex) - 1 == approx(solid.mesh.faces)
            assert item.Closed


def test_data_systems_and_materials(file, job):
    [pipe] = [e for e in file.by_type("IfcPipeSegment") if e.Name == "P4"]
    f = next(f for f in job.facts.pipes.values() if f.pipe.label == "P4")
    data = ifcopenshell.util.element.get_psets(pipe)["Zumbert"]
    assert (data["label"], data["invert_up"], data["slope"]) == (
        "P4",
        approx(f.pipe.invert_up),
        approx(f.slope),
    )
    assert ifcopenshell.util.element.get_material(pipe).Name == "concrete"
    assert {s.Name for s in file.by_type("IfcDistributionSystem")} == {
        n.name
        for k, n in job.project.networks.items()
        if any(s.network == k for s in job.project.structures.values())
    }
    [s5] = [e for e in file.by_type("IfcDistributionChamberElement") if e.Name == "S5"]
    assert s5.PredefinedType == "MANHOLE" and ifcopenshell.util.element.get_container(s5).is_a(
        "IfcSite"
    )
    assert ifcopenshell.util.element.get_psets(s5)["Zumbert"]["rim"] == approx(
        next(s.place.rim for s in job.facts.structures.values() if s.structure.label == "S5")
    )
    assert file.by_type("IfcProjectedCRS")[0].Name == "EPSG:25832"


def test_ids_stay_and_quotes_and_an_empty_project_are_valid(job):
    a, b = (ifcopenshell.file.from_string(ifc(job).decode()) for _ in range(2))
    assert [e.GlobalId for e in a.by_type("IfcRoot")] == [e.GlobalId for e in b.by_type("IfcRoot")]
    assert len({e.GlobalId for e in a.by_type("IfcRoot")}) == len(a.by_type("IfcRoot"))
    assert (
        faults(ifcopenshell.file.from_string(ifc(Job(new_project("a 'new' one"))).decode())) == []
    )
    key = next(iter(job.project.pipes))
    label = "P '1' \"ü\" \\ ;"
    named = replace(job.project, pipes={key: replace(job.project.pipes[key], label=label)})
    assert label in [
        e.Name
        for e in ifcopenshell.file.from_string(ifc(Job(named)).decode()).by_type("IfcPipeSegment")
    ]


def test_without_the_package_it_is_told(job, monkeypatch):
    monkeypatch.setitem(sys.modules, "ifcopenshell", None)
    with pytest.raises(ReadError, match="add it with pip install ifcopenshell"):
        ifc(job)
