"""Pairs of gullies, gullies along a road, and their leads."""

import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import facts_of, road_project, the_road
from zumbert.checks import check
from zumbert.demo.project import demo_project
from zumbert.edits.gullies import GullyWay, catch_spacing, pair, spaced
from zumbert.edits.labels import set_pattern
from zumbert.edits.lay import lay
from zumbert.edits.layoptions import first_way
from zumbert.edits.roads import set_strip
from zumbert.errors import EditError
from zumbert.geometry.strip import StripAt
from zumbert.model.road import Strip
from zumbert.model.structure import Anchored


def street():
    p = set_strip(
        road_project(),
        the_road(road_project()),
        Strip(sections=(StripAt(left=3.0, right=4.0, verge=1.0),)),
    )
    p = set_pattern(p, "gully", "G{n}{side}")
    p = lay(p, facts_of(p), [Anchored(the_road(p), ch, 0.0) for ch in (100.0, 40.0)], first_way(p))[
        -1
    ].project
    return p, GullyWay(type="gully-450", lead="150", way=first_way(p))


def test_a_pair_stands_flush_with_the_kerbs_and_joins_the_nearest_manhole():
    p, way = street()
    made = pair(p, facts_of(p), the_road(p), 103.0, way)
    labels = [made.project.structures[k].label for k in made.gullies]
    offsets = [made.project.structures[k].place.offset for k in made.gullies]
    assert labels == ["G1L", "G1R"]
    assert offsets == approx([-(3.0 - 0.275), 4.0 - 0.275])
    assert {made.project.pipes[k].down for k in made.pipes} == {
        next(k for k, s in p.structures.items() if s.label == "S1")
    }
    assert made.alone == ()
    facts = facts_of(made.project)
    assert all(facts.pipes[k].cover.least >= 0.9 - 1e-6 for k in made.pipes)


def test_a_lead_joins_a_pipe_with_a_joint_where_no_manhole_is_near():
    p, way = street()
    alone = pair(p, facts_of(p), the_road(p), 70.0, replace(way, reach=8.0))
    assert alone.alone == ("G1L", "G1R")
    made = pair(
        p, facts_of(p), the_road(p), 70.0, replace(way, reach=8.0, joint="joint", offset=2.5)
    )
    assert len(made.pipes) == 2
    # for both
    assert (
        sum(made.project.types[s.type].kind == "joint" for s in made.project.structures.values())
        == 1
    )
    facts = facts_of(made.project)
    joint = next(
        k for k, s in made.project.structures.items() if made.project.types[s.type].kind == "joint"
    )
    assert {made.project.pipes[k].down for k in made.pipes} == {joint}
    rules = {f.rule for f in check(made.project, facts).by_structure.get(joint, ())}
    assert not rules & {"drop_min", "crowns", "outlet_lowest"}


def test_gullies_along_a_road_pass_over_junctions():
    demo = demo_project()
    road = next(iter(demo.roads))
    way = GullyWay(type="gully-450", lead="150", way=first_way(demo), reach=25.0)
    made = spaced(demo, facts_of(demo), road, 60.0, 180.0, 20.0, way)
    places = [made.project.structures[k].place for k in made.gullies]
    left = sorted(p.chainage for p in places if p.offset < 0)
    right = sorted(p.chainage for p in places if p.offset > 0)
    assert right == approx([60, 80, 100, 120, 140, 160, 180])
    assert 100.0 not in left  # the mouth of Tansymoor Lane
    assert catch_spacing(8.0, 200.0) == 25.0
    with pytest.raises(EditError, match="1.00 m apart at least"):
        spaced(demo, facts_of(demo), road, 60.0, 180.0, 0.1, way)


def test_no_kerb_needs_an_offset():
    p = road_project()
    with pytest.raises(EditError, match="has no kerbs"):
        pair(
            p,
            facts_of(p),
            the_road(p),
            50.0,
            GullyWay(type="gully-450", lead="150", way=first_way(p)),
        )
