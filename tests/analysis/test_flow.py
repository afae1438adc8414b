"""Design flow: the figures of the reference, shares, rings, deep chains, and what is computed
anew after an edit.
"""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.amount import times
from tests.build import facts_of, grounded, road_project, with_pipe, with_structure
from zumbert.analysis import analyse
from zumbert.analysis.flow import RATIONAL
from zumbert.analysis.shares import shares_at
from zumbert.checks import check
from zumbert.demo.project import demo_project
from zumbert.edits.areas import add_area, change_area, set_inflow, set_share
from zumbert.edits.change import set_size
from zumbert.edits.join import deleted
from zumbert.edits.levels import set_invert
from zumbert.edits.rain import set_rain, set_travel
from zumbert.edits.roads import set_strip
from zumbert.errors import EditError
from zumbert.geometry.strip import StripAt
from zumbert.model.area import RoadSide
from zumbert.model.ids import PipeId, SizeKey, StructureId
from zumbert.model.rain import Rain, RainFormula, RainTable
from zumbert.model.road import Strip
from zumbert.model.structure import Anchored

RAIN = Rain(source=RainFormula(a=1200.0, b=10.0, c=0.8, m=0.0))
TABLE = RainTable(
    minutes=(5.0, 10.0, 30.0), rows=((2.0, (120.0, 90.0, 50.0)), (5.0, (150.0, 115.0, 66.0)))
)


def reference():
    """A to B to C to O of flow.md 3."""
    p = grounded([(-50, 60.0), (400, 60.0)])
    for label, x in (("A", 0.0), ("B", 60.0), ("C", 140.0)):
        p = with_structure(p, label, x)
    p = with_structure(p, "O", 190.0, kind="outfall")
    p = with_pipe(p, "A-B", "A", "B", 58.0, 57.4, "300")
    p = with_pipe(p, "B-C", "B", "C", 57.325, 56.685, "375")
    p = with_pipe(p, "C-O", "C", "O", 56.61, 56.31, "450")
    for structure, size, coefficient, entry in (
        ("A", 2000.0, 0.9, 5.0),
        ("B", 3000.0, 0.6, 7.0),
        ("C", 1500.0, 0.9, 5.0),
    ):
        p, _ = add_area(
            p,
            "roof",
            size=size,
            structure=StructureId(structure),
            coefficient=coefficient,
            entry=entry,
        )
    return set_rain(p, RAIN)


@pytest.mark.parametrize(
    ("pipe", "ca", "tc", "i", "flow", "full", "ratio", "velocity"),
    [
        ("A-B", 0.180, 5.0, 137.50, 68.75, 96.70, 0.6229, 1.485),
        ("B-C", 0.360, 7.0, 124.40, 124.40, 156.82, 0.6724, 1.575),
        ("C-O", 0.495, 7.847, 119.66, 164.53, 220.84, 0.6432, 1.522),
    ],
)
def test_the_example_of_the_reference(pipe, ca, tc, i, flow, full, ratio, velocity):
    f = analyse(reference()).pipe_flow[PipeId(pipe)]
    assert f.ca / 1e4 == approx(ca, abs=5e-7)
    assert f.tc == approx(tc, abs=5e-4)
    assert f.intensity == approx(i, abs=5e-3)
    assert f.flow * 1000 == approx(flow, abs=5e-3)
    assert f.capacity * 1000 == approx(full, abs=5e-3)
    assert f.depth_ratio == approx(ratio, abs=5e-5)
    assert f.velocity == approx(velocity, abs=5e-4)
    assert not f.part


@pytest.mark.parametrize(("minutes", "wanted"), [(5, 137.50), (10, 109.23), (30, 62.74)])
def test_intensities_of_the_reference(minutes, wanted):
    assert RAIN.intensity(minutes) == approx(wanted, abs=5e-3)


def test_the_formula_by_a_sum():
    # 10^0.8 = 6.3096: 1200 / (6.3096 + 10) = 73.576; of 5 years 5^0.2 = 1.37973 times as much
    form = RainFormula(a=1200.0, b=10.0, c=0.8, m=0.2, form="sum")
    assert Rain(source=form, years=1.0).intensity(10.0) == approx(73.576, abs=5e-3)
    assert Rain(source=form, years=5.0).intensity(10.0) == approx(73.576 * 1.37973, abs=5e-3)


def test_a_table_goes_log_log_in_duration_and_period():
    by = Rain(source=TABLE, years=2.0, climate=1.2).intensity
    # under the first duration that one holds
    assert by(5.0) == approx(144.0) and by(1.0) == approx(144.0)
    assert by(np.sqrt(50.0)) == approx(1.2 * np.sqrt(120.0 * 90.0))
    # the line of the last two, once more as long
    assert by(90.0) == approx(1.2 * 50.0 * (50.0 / 90.0))
    middle = Rain(source=TABLE, years=float(np.sqrt(10.0))).intensity
    assert middle(10.0) == approx(np.sqrt(90.0 * 115.0))
    with pytest.raises(EditError, match="return periods of 2 to 5 years, not 10"):
        set_rain(reference(), Rain(source=TABLE, years=10.0))
    with pytest.raises(EditError, match="rise"):
        set_rain(reference(), Rain(source=replace(TABLE, minutes=(5.0, 5.0, 9.0))))
    with pytest.raises(EditError, match="for each duration"):
        set_rain(reference(), Rain(source=replace(TABLE, rows=((2.0, (1.0, 2.0)),))))


def test_fixed_inflows_go_down_undiminished():
    p = set_inflow(reference(), StructureId("B"), 0.012)
    flow = analyse(p).pipe_flow
    before = analyse(reference()).pipe_flow
    assert flow[PipeId("A-B")] == before[PipeId("A-B")]
    for key in (PipeId("B-C"), PipeId("C-O")):
        assert flow[key].passed == approx(0.012)
    assert flow[PipeId("B-C")].flow == approx(before[PipeId("B-C")].flow + 0.012)
    dry = set_rain(p, None)
    assert analyse(dry).pipe_flow[PipeId("C-O")].flow == approx(0.012)


def test_a_part_that_gives_more_than_the_whole_counts():
    p, _ = add_area(reference(), "field", size=500.0, structure=StructureId("A"), entry=60.0)
    f = analyse(p).pipe_flow[PipeId("A-B")]
    assert f.tc == 60.0 and f.part
    assert f.flow == approx(0.06875, abs=1e-5)  # what the roof alone gives by its five minutes


def test_what_runs_full_travels_at_the_velocity_of_its_flow_or_at_full_bore_where_asked_for():
    p = set_size(reference(), PipeId("A-B"), SizeKey("225"))
    f = analyse(p).pipe_flow[PipeId("A-B")]
    assert f.depth_ratio == 1.0 and f.used > 1
    assert f.velocity == approx(f.flow / (np.pi * 0.225**2 / 4))
    assert f.travel == approx(60.0 / f.velocity / 60)
    g = analyse(set_travel(p, "full")).pipe_flow[PipeId("A-B")]
    assert g.travel == approx(60.0 / g.full_velocity / 60)


def forked():
    p = reference()
    p = with_structure(p, "P", 140.0, 60.0, kind="outfall")
    return with_pipe(p, "B-P", "B", "P", 57.5, 57.0, "300")


def test_two_outlets_share_as_they_say_else_the_lowest_takes_all():
    p = forked()
    facts = analyse(p)
    assert shares_at(p, facts.links, StructureId("B")) == {"B-C": 1.0, "B-P": 0.0}
    assert facts.pipe_flow[PipeId("B-P")].flow == 0.0
    half = analyse(set_share(p, PipeId("B-P"), 0.25)).pipe_flow
    whole = facts.pipe_flow[PipeId("B-C")].flow
    assert half[PipeId("B-P")].flow == approx(0.25 * whole) and half[PipeId("B-C")].flow == approx(
        0.75 * whole
    )
    both = set_share(set_share(p, PipeId("B-P"), 0.6), PipeId("B-C"), 0.9)  # more than the whole
    assert shares_at(both, facts.links, StructureId("B")) == {
        "B-C": approx(0.6),
        "B-P": approx(0.4),
    }
    with pytest.raises(EditError, match="between 0 and 1"):
        set_share(p, PipeId("B-P"), 1.2)


def test_shares_that_leave_something_over_give_it_to_who_says_nothing_or_are_scaled():
    p, b = set_share(forked(), PipeId("B-C"), 0.3), StructureId("B")
    assert shares_at(p, analyse(p).links, b) == {"B-C": approx(0.3), "B-P": approx(0.7)}
    both = set_share(p, PipeId("B-P"), 0.2)  # 0.5 in all
    facts = analyse(both)
    assert shares_at(both, facts.links, b) == {"B-C": approx(0.6), "B-P": approx(0.4)}
    whole = analyse(reference()).pipe_flow[PipeId("B-C")].flow
    assert facts.pipe_flow[PipeId("B-C")].flow + facts.pipe_flow[PipeId("B-P")].flow == approx(
        whole
    )
    none = set_share(set_share(p, PipeId("B-P"), 0.0), PipeId("B-C"), 0.0)  # that is the lowest
    assert shares_at(none, facts.links, b) == {"B-C": 1.0, "B-P": 0.0}


def test_a_ring_is_told_and_has_no_flow():
    p = with_pipe(reference(), "C-A", "C", "A", 56.0, 55.9)
    facts = analyse(p)
    assert facts.flows.looped == {"A-B", "B-C", "C-O", "C-A"}
    assert not facts.pipe_flow
    assert any(f.rule == "cycle" for f in check(p, facts))


def test_a_chain_of_ten_thousand_pipes_needs_no_recursion():
    n = 10_000
    p = with_structure(grounded([(-50, 600.0), (20 * n + 50, 600.0)]), "S0", 0.0)
    one = p.structures[StructureId("S0")]
    structures = {
        f"S{i}": replace(one, id=f"S{i}", label=f"S{i}", place=replace(one.place, x=20.0 * i))
        for i in range(n + 1)
    }
    p = replace(p, structures=structures)
    first = with_pipe(p, "P0", "S0", "S1", 500.0, 499.9).pipes[PipeId("P0")]
    pipes = {
        f"P{i}": replace(
            first,
            id=f"P{i}",
            label=f"P{i}",
            up=f"S{i}",
            down=f"S{i + 1}",
            invert_up=590 - 0.05 * i,
            invert_down=590 - 0.05 * (i + 1),
        )
        for i in range(n)
    }
    p, _ = add_area(
        set_rain(replace(p, pipes=pipes), RAIN), "roof", size=900.0, structure=StructureId("S0")
    )
    flow = analyse(p).pipe_flow
    assert len(flow) == n
    # the greatest part counts all the way down
    assert flow[PipeId(f"P{n - 1}")].flow == approx(flow[PipeId("P0")].flow)
    assert flow[PipeId(f"P{n - 1}")].part


@pytest.mark.parametrize("label", ["S5", "HW1", "G6R", "S13", "S17"])
def test_a_structure_beyond_its_road_leaves_flows_with_numbers(label):
    demo = demo_project()
    facts = facts_of(demo)
    findings = check(demo, facts)
    key, lost = next((k, s) for k, s in demo.structures.items() if s.label == label)
    p = replace(
        demo,
        structures={
            **demo.structures,
            key: replace(lost, place=Anchored(next(iter(demo.roads)), 9999.0, 0.0)),
        },
    )
    now = analyse(p, facts)
    assert now.pipe_flow == analyse(p).pipe_flow  # no NaN: it would differ from itself
    assert all(f.ca == f.ca for f in now.areas.values())
    assert [f.key for f in check(p, now, findings)] == [f.key for f in check(p, analyse(p))]


def test_what_a_deleted_gully_leaves():
    p = reference()
    facts = analyse(p)
    made, _ = deleted(p, facts, frozenset({StructureId("B")}), frozenset())
    assert [a.structure for a in made.areas.values()] == ["A", None, "C"]
    assert sum(f.area.structure is None for f in analyse(made).areas.values()) == 1


def test_a_stretch_of_a_road_follows_its_gullies():
    p = road_project()
    road = next(iter(p.roads))
    p = set_strip(p, road, Strip(sections=(StripAt(left=3.0, right=3.5, verge=1.0),)))
    p = with_structure(p, "G1", 100.0, 3.4, kind="gully-450", road=True)
    p = with_structure(p, "G2", 140.0, 3.4, kind="gully-450", road=True)
    along = RoadSide(road=road, side="right", first=StructureId("G1"), last=StructureId("G2"))
    p, key = add_area(p, "carriageway", along=along, structure=StructureId("G1"))
    facts = analyse(p)
    assert facts.areas[key].size == approx(40 * 3.5, rel=1e-9)
    p = change_area(p, key, along=replace(along, verge=True, whole=True))
    assert analyse(p, facts).areas[key].size == approx(40 * (3.0 + 3.5 + 1.0), rel=1e-9)
    g2 = p.structures[StructureId("G2")]
    moved = replace(
        p, structures={**p.structures, g2.id: replace(g2, place=replace(g2.place, chainage=160.0))}
    )
    assert analyse(moved, analyse(p)).areas[key].size == approx(60 * 7.5, rel=1e-9)
    gone, _ = deleted(moved, analyse(moved), frozenset({StructureId("G2")}), frozenset())
    assert gone.areas[key].along is None
    assert analyse(gone).areas[key].size == approx(60 * 7.5, rel=1e-9)


def test_structures_without_pipes_come_and_go():
    p = with_structure(reference(), "X", 500.0, kind="manhole-1200")
    facts = analyse(reference())
    came = analyse(p, facts)
    assert came.flows.nodes.keys() == analyse(p).flows.nodes.keys() and "X" in came.flows.nodes
    gone = analyse(reference(), came)
    assert gone.flows.nodes == analyse(reference()).flows.nodes and "X" not in gone.flows.nodes
    fed = set_inflow(p, StructureId("X"), 0.003)
    assert analyse(fed, facts).flows.nodes == analyse(fed).flows.nodes
    assert analyse(fed, facts).flows.nodes[StructureId("X")].passed == 0.003


# -- any network, any edit -------------------------------------------------------------------------


@st.composite
def networks(draw):
    """A tree of up to 14 pipes with areas and inflows; some structures have two outlets, one may
    be abandoned.
    """
    n = draw(st.integers(2, 14))
    p = grounded([(-500, 90.0), (3000, 90.0)])
    for i in range(n + 1):
        p = with_structure(
            p,
            f"S{i}",
            40.0 * i,
            draw(st.floats(-20, 20)),
            kind="outfall" if i == n else "manhole-1200",
        )
    for i in range(n):
        to = draw(st.integers(i + 1, n))
        p = with_pipe(
            p,
            f"P{i}",
            f"S{i}",
            f"S{to}",
            80.0 - i,
            79.7 - i,
            draw(st.sampled_from(["225", "300", "450"])),
        )
        if draw(st.booleans()) and i + 2 <= n:
            p = with_pipe(
                p, f"Q{i}", f"S{i}", f"S{draw(st.integers(i + 1, n))}", 80.1 - i, 79.8 - i
            )
            p = set_share(p, PipeId(f"Q{i}"), draw(st.sampled_from([None, 0.3, 0.9])))
        if draw(st.booleans()):
            entry = draw(st.sampled_from([None, 3.0, 12.0, 40.0]))
            p, _ = add_area(
                p,
                "roof",
                size=draw(st.floats(10, 5000)),
                structure=StructureId(f"S{i}"),
                entry=entry,
            )
        if draw(st.integers(0, 4)) == 0:
            p = set_inflow(p, StructureId(f"S{i}"), 0.004)
    return set_rain(p, draw(st.sampled_from([RAIN, Rain(source=TABLE, years=3.0), None])))


def edited(draw, p):
    keys, areas = list(p.pipes), list(p.areas)
    what = draw(st.integers(0, 7))
    key = draw(st.sampled_from(keys)) if keys else None
    if what == 0 and key:
        return set_invert(p, key, "down", p.pipes[key].invert_down - draw(st.floats(-0.2, 0.5)))
    if what == 1 and key:
        return set_size(p, key, SizeKey(draw(st.sampled_from(["225", "300", "600"]))))
    if what == 2 and areas:
        return change_area(p, draw(st.sampled_from(areas)), coefficient=draw(st.floats(0, 1)))
    if what == 3:
        return set_inflow(
            p, draw(st.sampled_from(list(p.structures))), draw(st.sampled_from([0.0, 0.01]))
        )
    if what == 4 and key:
        return set_share(p, key, draw(st.sampled_from([None, 0.2, 0.5])))
    if what == 5:
        return deleted(
            p, analyse(p), frozenset({draw(st.sampled_from(list(p.structures)))}), frozenset()
        )[0]
    if what == 6 and key:
        return replace(p, pipes={**p.pipes, key: replace(p.pipes[key], status="abandoned")})
    return set_rain(p, draw(st.sampled_from([RAIN, None])))


@given(st.data())
@settings(max_examples=times(60, 1200), deadline=None)
def test_incremental_flows_are_those_of_a_whole_pass(data):
    p = data.draw(networks())
    facts = analyse(p)
    for _ in range(4):
        p = edited(data.draw, p)
        if not p.structures:
            return
        facts = analyse(p, facts)
        fresh = analyse(p)
        assert facts.pipe_flow == fresh.pipe_flow
        if fresh.flows is not None:
            assert (facts.flows.nodes, facts.flows.looped) == (
                fresh.flows.nodes,
                fresh.flows.looped,
            )


@given(networks())
@settings(max_examples=times(40, 800), deadline=None)
def test_a_pipe_never_has_less_than_its_parts_give(p):
    facts = analyse(p)
    by = p.rain.intensity if p.rain is not None else None
    for s, node in (facts.flows.nodes if facts.flows is not None else {}).items():
        inlets = [facts.pipe_flow[k] for k in facts.links.inlets.get(s, ()) if k in facts.pipe_flow]
        for f in inlets:
            assert node.rain >= f.rain * (1 - 1e-12)
        own = facts.flows.catches.get(s)
        if by is not None and own is not None:
            for entry, ca in own.own:
                assert node.rain >= by(entry) * ca / RATIONAL * (1 - 1e-12)
        out = [facts.pipe_flow[k] for k in facts.links.outlets.get(s, ()) if k in facts.pipe_flow]
        if out:
            assert sum(f.flow for f in out) == approx(node.rain + node.passed, rel=1e-12)
