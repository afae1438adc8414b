import pytest
from pytest import approx

from tests.build import chain, facts_of, road_project, said, the_road, v_project, with_structure
from zumbert.checks import check
from zumbert.demo.project import demo_project
from zumbert.edits.change import move_structure, set_cover, set_size, set_type
from zumbert.edits.fixes import fixes
from zumbert.edits.join import deleted, turned
from zumbert.edits.records import pipe_labelled, structure_labelled
from zumbert.errors import EditError
from zumbert.model.structure import Anchored, Free

RUN = chain([(48.0, 47.5), (47.45, 46.95), (46.9, 46.4)])


def test_a_structure_slides_along_and_across_its_road():
    p = with_structure(road_project(), "M", 100.0, 1.0, road=True)
    moved = move_structure(p, facts_of(p), "M", Anchored(the_road(p), 120.0, -2.0))
    place = facts_of(moved).places["M"]
    assert (place.x, place.y, place.rim) == (approx(120.0), approx(2.0), approx(52.4))
    with pytest.raises(EditError, match="Chainage 0\\+500.10 is outside"):
        move_structure(p, facts_of(p), "M", Anchored(the_road(p), 500.1, 0.0))
    with pytest.raises(EditError, match="needs x and y"):
        move_structure(p, facts_of(p), "M", Free(float("nan"), 0.0))


def test_neighbours_stay_attached():
    moved = move_structure(RUN, facts_of(RUN), "S2", Free(60.0, 0.0))
    facts = facts_of(moved)
    assert (facts.pipes["P1"].span.length, facts.pipes["P2"].span.length) == (
        approx(60),
        approx(40),
    )
    assert moved.pipes is RUN.pipes


def test_sizes_and_types():
    assert facts_of(set_size(RUN, "P1", "375")).pipes["P1"].inside == 0.375
    grown = facts_of(set_type(RUN, "S1", "manhole-1800"))
    assert grown.pipes["P1"].length("wall-plan") == approx(50 - 0.9 - 0.6)
    with pytest.raises(EditError, match='no pipe size "310"'):
        set_size(RUN, "P1", "310")
    with pytest.raises(EditError, match="no structure type"):
        set_type(RUN, "S1", "tower")


def test_deleting_a_structure_takes_its_pipes():
    left, _ = deleted(RUN, facts_of(RUN), frozenset({"S2"}), frozenset(), merge=False)
    assert set(left.pipes) == {"P3"}
    assert set(left.structures) == {"S1", "S3", "S4"}
    assert set(deleted(RUN, facts_of(RUN), frozenset(), frozenset({"P1"}))[0].pipes) == {"P2", "P3"}


def test_a_turned_pipe_lies_where_it_lay():
    before, after = (
        facts_of(RUN).pipes["P1"],
        facts_of(turned(RUN, facts_of(RUN), ["P1"])).pipes["P1"],
    )
    assert after.pipe.up == "S2"
    assert after.invert(10.0) == approx(before.invert(40.0))


def test_labels_are_found_or_the_nearest_is_offered():
    assert structure_labelled(RUN, "S2").id == "S2"
    with pytest.raises(EditError, match='There is no structure "S22": did you mean "S2"'):
        structure_labelled(RUN, "S22")
    with pytest.raises(EditError, match="no pipe"):
        pipe_labelled(RUN, "nothing like it")


def test_each_fix_of_the_demo_mends_what_it_is_for():
    demo = demo_project()
    facts = facts_of(demo)
    findings = check(demo, facts)
    mended = 0
    for finding in findings:
        offered = fixes(demo, facts, finding)
        assert offered, said(demo, finding)
        for fix in offered:
            left = check(fix.project, facts_of(fix.project))
            still = [f for f in left if f.key == finding.key]
            assert not still, f"{fix.text}: {said(demo, finding)}"
            mended += 1
    assert mended >= 7


def test_the_cover_fix_says_what_it_does():
    p = v_project()
    facts = facts_of(p)
    finding = next(f for f in check(p, facts) if f.rule == "cover_min")
    texts = [f.text for f in fixes(p, facts, finding)]
    assert texts[0] == "Lower B to 27.010"
    assert texts[-1] == "Lower the whole pipe, slope kept"


def test_a_round_cover_stays_over_its_round_chamber():
    p = chain([(48.0, 47.5)])  # 1200 inside, a frame of 600
    half = p.types["manhole-1200"].frame / 2
    room = 0.6 - half
    assert set_cover(p, "S1", (0.6 * room, 0.8 * room)).structures["S1"].cover == (
        0.6 * room,
        0.8 * room,
    )
    for at in ((0.9 * room, 0.9 * room), (0.0, 1.01 * room), (-1.01 * room, 0.0)):
        with pytest.raises(EditError, match="cover"):
            set_cover(p, "S1", at)
