import ezdxf
import numpy as np
import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import facts_of, road_project
from zumbert.edits.fromplaces import Group, from_places, groups, likely_type
from zumbert.edits.ground import in_units, show_layers
from zumbert.edits.layoptions import first_way
from zumbert.errors import EditError
from zumbert.exchange.found import ImportFiles, read_files
from zumbert.exchange.importing import built
from zumbert.exchange.taking.choices import Choices
from zumbert.model.structure import Anchored, Free
from zumbert.store import load, save


@pytest.fixture
def imported(tmp_path):
    """A road along x, and a drawing in millimetres with chambers as circles (inner and outer),
    points and blocks.
    """
    doc = ezdxf.new()
    doc.header["$INSUNITS"] = 4
    msp = doc.modelspace()
    doc.blocks.new("GATE").add_line((0, 0), (100, 0))
    for x in (20_000, 60_000):
        msp.add_circle((x, -2_000), 600, dxfattribs={"layer": "MH"})
        msp.add_circle((x, -2_000), 725, dxfattribs={"layer": "MH"})
    msp.add_circle((100_000, 90_000), 225, dxfattribs={"layer": "GULLY"})
    msp.add_point((140_000, 3_000), dxfattribs={"layer": "PTS"})
    msp.add_blockref("GATE", (30_000, 200_000), dxfattribs={"layer": "PTS", "rotation": 30})
    path = tmp_path / "others.dxf"
    doc.saveas(path)
    project = road_project()
    made = built(
        project,
        read_files(ImportFiles.of(dxf=(path,))),
        Choices(roles={}, roads=frozenset(), units={path: "mm"}, layers={}, columns={}),
    )
    return made.project


def test_circles_points_and_blocks_are_counted_by_what_they_look_like(imported):
    [b] = imported.backgrounds.values()
    assert groups(b) == {
        Group("block", "PTS", "GATE", 0.0): 1,
        Group("circle", "MH", "", 0.6): 2,
        Group("circle", "MH", "", 0.725): 2,
        Group("circle", "GULLY", "", 0.225): 1,
        Group("point", "PTS", "", 0.0): 1,
    }
    off = show_layers(imported, b.id, frozenset({"MH"})).backgrounds[b.id]
    assert all(g.layer != "MH" for g in groups(off))


def test_circles_tell_the_type_that_they_most_likely_are(imported):
    kinds = {0.6: "manhole-1200", 0.725: "manhole-1500", 0.225: "gully-450", 5.0: None}
    # 1.45 m is the outside of a 1200 and near the inside of a 1500: the nearer holds
    kinds[0.725] = "manhole-1200"
    assert {r: likely_type(imported, Group("circle", "MH", "", r)) for r in kinds} == kinds
    assert likely_type(imported, Group("point", "MH", "", 0.0)) is None


def test_they_become_structures_once_on_the_road_or_free(imported):
    [b] = imported.backgrounds.values()
    types = {
        Group("circle", "MH", "", 0.6): "manhole-1200",
        Group("circle", "MH", "", 0.725): "manhole-1200",
        Group("circle", "GULLY", "", 0.225): "gully-450",
        Group("block", "PTS", "GATE", 0.0): "headwall",
    }
    made = from_places(imported, facts_of(imported), b, types, first_way(imported))
    found = {s.label: s for s in made.project.structures.values()}
    assert made.there == 2  # the outer circles stand where the inner ones do
    assert [type(found[k].place) for k in ("S1", "S2", "G1", "HW1")] == [
        Anchored,
        Anchored,
        Free,
        Free,
    ]
    assert (found["S2"].place.chainage, found["S2"].place.offset) == (60.0, 2.0)
    assert (found["G1"].place.x, found["G1"].place.y) == (approx(100.0), approx(90.0))
    # the block is turned 30° anticlockwise
    assert np.degrees(found["HW1"].rotation) == approx(330.0)
    free = from_places(imported, facts_of(imported), b, types, first_way(imported), on_roads=False)
    assert all(isinstance(s.place, Free) for s in free.project.structures.values())
    with pytest.raises(EditError, match="stand at all these places already"):
        from_places(made.project, facts_of(made.project), b, types, first_way(imported))
    with pytest.raises(EditError, match="Choose what becomes structures"):
        from_places(imported, facts_of(imported), b, {}, first_way(imported))


def test_the_places_are_saved_and_follow_the_unit(imported, tmp_path):
    save(imported, tmp_path / "p.zumbert")
    [b] = load(tmp_path / "p.zumbert").backgrounds.values()
    assert b.places == next(iter(imported.backgrounds.values())).places
    [scaled] = in_units(imported, b.id, 1.0).backgrounds.values()
    assert scaled.places[-1] == replace(
        b.places[-1], x=b.places[-1].x * 1000, y=b.places[-1].y * 1000
    )
