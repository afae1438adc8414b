import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.amount import times
from tests.analysis.test_trench_proof import kind
from tests.build import chain, facts_of, grounded, with_pipe, with_structure
from zumbert.analysis.quantities import full_quantities, quantities
from zumbert.analysis.takeoff import NO_DEPTH, SHARED, priced, takeoff
from zumbert.analysis.trench import trenches
from zumbert.analysis.union import union
from zumbert.demo.project import demo_project
from zumbert.edits.digging import set_network_counted
from zumbert.edits.networks import add_network, set_network
from zumbert.edits.setup import set_trench_type
from zumbert.model.digging import Digging, Rate
from zumbert.model.ids import SizeKey

DEMO = demo_project()


def counted(project, **more):
    return quantities(trenches(facts_of(project)), **more)


def balanced(t):
    parts = t.bedding + t.surround + t.pipes + t.chambers + t.reinstatement + t.backfill
    assert t.excavation_net == approx(parts, abs=1e-6)
    assert t.excavation - t.shared == approx(t.excavation_net, abs=1e-9)
    assert sum(t.by_depth.values()) == approx(t.excavation, abs=1e-6)
    assert sum(t.by_stratum.values()) == approx(t.excavation, abs=1e-6)
    assert sum(t.length_by_depth.values()) == approx(t.trench_length, abs=1e-6)
    assert t.surplus == approx((t.excavation_net - t.reused) * 1.25)


def test_the_books_of_the_demo_balance():
    how = replace(DEMO.digging, carriageway=0.35, verge=0.15, field=0.15, reuse=0.8)
    found = counted(replace(DEMO, digging=how))
    t = found.totals["proposed"]
    balanced(t)
    thick = {"carriageway": 0.35, "verge": 0.15, "field": 0.15}
    for row in (*found.pipes, *found.structures):
        assert row.reinstatement == approx(
            sum(thick[kind] * area for kind, area in row.areas.items())
        )
    assert t.reinstatement == approx(
        sum(r.reinstatement for r in (*found.pipes, *found.structures))
    )
    assert t.reinstatement == approx(
        0.35 * t.areas["carriageway"] + 0.15 * (t.areas["verge"] + t.areas["field"])
    )
    assert t.reused == approx(0.8 * t.backfill)
    assert t.not_counted == {}


@settings(max_examples=times(15), deadline=None)
@given(
    st.lists(st.tuples(st.floats(46.0, 49.5), st.floats(46.0, 49.5)), min_size=1, max_size=3),
    st.floats(0, 1),
    st.booleans(),
)
def test_the_books_balance_whatever_is_dug(levels, batter, centres):
    p = set_trench_type(
        chain(levels, spacing=12.0),
        kind(width=1.0, vertical_height=0.3, batter=batter, surround=0.1),
    )
    p = replace(p, digging=Digging(to_centres=centres, field=0.1))
    balanced(counted(p).totals["proposed"])


def test_existing_work_costs_no_digging_unless_told():
    p = chain([(48.0, 47.5), (47.4, 46.9)])
    old = replace(p.pipes["P2"], status="existing")
    p = replace(
        p,
        pipes={**p.pipes, "P2": old},
        structures={**p.structures, "S3": replace(p.structures["S3"], status="existing")},
    )
    q = counted(p)
    assert q.totals["existing"].excavation == 0.0
    assert q.totals["existing"].length == 50.0
    told = counted(replace(p, digging=Digging(statuses=frozenset({"proposed", "existing"}))))
    assert told.totals["existing"].excavation > 50
    assert told.totals["proposed"].excavation == approx(q.totals["proposed"].excavation)


def test_a_network_is_left_out():
    p = chain([(48.0, 47.5), (47.4, 46.9)])
    p, other = add_network(p, "Other", next(iter(p.networks)))
    p = set_network(p, other, [], ["P2"])
    whole = counted(p).totals["proposed"]
    less = counted(set_network_counted(p, other, False)).totals["proposed"]
    assert whole.trenches - less.trenches == approx(trenches(facts_of(p)).pipes["P2"].excavation)
    assert (
        set_network_counted(set_network_counted(p, other, False), other, True).digging == p.digging
    )


def test_trenches_to_centres_tell_what_that_adds():
    p = chain([(48.0, 47.5), (47.4, 46.9)])
    edges = counted(p)
    assert edges.centres_add is None
    q = counted(replace(p, digging=Digging(to_centres=True)))
    # S1 and S2 are 1.2 with walls of 0.125 and 0.5 of working space: 1.225 each way, 1.0 wide, as
    # deep as the trench is there
    added = sum(
        1.225 * (50 - z + 0.145)
        for z in (48.0 - 0.01 * 0.6125, 47.5 + 0.01 * 0.6125, 47.4 - 0.01 * 0.6125)
    )
    assert q.centres_add["proposed"] == approx(added)
    assert q.totals["proposed"].trenches - edges.totals["proposed"].trenches == approx(added)
    # what it adds lies in the pits
    assert q.totals["proposed"].excavation_net < q.totals["proposed"].excavation


def test_both_methods_are_told():
    p = chain([(48.0, 46.0)])
    t = full_quantities(trenches(facts_of(p))).totals["proposed"]
    assert t.by_sections == approx(t.trenches)  # upright on level ground: no difference
    assert counted(p).totals["proposed"].by_sections is None


def test_a_size_without_a_trench_makes_the_total_incomplete():
    p = chain([(48.0, 47.5), (47.4, 46.9)])
    p = set_trench_type(
        p, replace(kind(), name="Small", sizes=(replace(kind().sizes[0], dn=300.0),))
    )
    p = replace(p, pipes={**p.pipes, "P2": replace(p.pipes["P2"], size=SizeKey("450"))})
    t = counted(p).totals["proposed"]
    assert t.not_counted == {"P2": "Small has no trench for DN 450"}
    assert t.trenches == approx(trenches(facts_of(p)).pipes["P1"].excavation)


# -- takeoff ---------------------------------------------------------------------------------------


def items(project, by="network", to="invert", basis=None):
    facts = facts_of(project)
    return takeoff(facts, quantities(trenches(facts), basis), by, to)


def test_the_takeoff_of_the_demo_adds_up():
    facts = facts_of(DEMO)
    dug = trenches(facts)
    q = quantities(dug)
    found = takeoff(facts, q)
    long = sum(
        i.quantity for i in found if i.family in ("pipes", "leads") and i.status == "proposed"
    )
    assert long == approx(q.totals["proposed"].length)
    assert sum(i.quantity for i in found if i.name == "Excavation") == approx(
        q.totals["proposed"].excavation
    )
    assert sum(i.quantity for i in found if i.name == SHARED) == approx(-union(dug).shared)
    assert sum(i.quantity for i in found if i.name == "Backfill") == approx(
        q.totals["proposed"].backfill
    )
    assert sum(i.quantity for i in found if i.name.startswith("Surplus")) == approx(
        q.totals["proposed"].surplus
    )
    structures = sum(
        i.quantity for i in found if i.family in ("structures", "gullies", "headwalls", "joints")
    )
    assert structures == len(DEMO.structures)
    assert {k for i in found for k in i.pipes} == set(DEMO.pipes)
    assert sum(i.quantity for i in found if i.family == "gullies") == 22
    leads = [i for i in found if i.family == "leads"]
    assert [len(i.pipes) for i in leads] == [22]


@pytest.mark.parametrize("by", ["network", "run", "road", "status", "description"])
def test_every_grouping_holds_everything(by):
    found = items(DEMO, by)
    assert sum(i.quantity for i in found if i.unit == "m") == approx(
        sum(i.quantity for i in items(DEMO) if i.unit == "m")
    )
    assert len({i.key for i in found}) == len(found)
    groups = {i.group for i in found}
    assert (
        groups
        >= {
            "network": {"Storm"},
            "run": {"S13 to HW1"},
            "road": {"Quillerby Rise", "Tansymoor Lane"},
            "status": {"Proposed", "Existing"},
            "description": {""},
        }[by]
    )


def test_lengths_on_all_four_bases_and_by_depth_to_invert():
    # ground 50; invert 48.6 at A and 47.8 at B, 50 m apart: 1.4 to 2.2 deep, 0.016 a metre
    p = with_structure(with_structure(grounded([(-90, 50.0), (90, 50.0)]), "A", 0), "B", 50)
    p = with_pipe(p, "P", "A", "B", 48.6, 47.8)
    [pipe] = [i for i in items(p) if i.unit == "m"]
    assert pipe.name == "Pipe DN 300 concrete"
    assert pipe.lengths == (
        50.0,
        approx(48.8),
        approx(np.hypot(50, 0.8)),
        approx(np.hypot(48.8, 0.8)),
    )
    assert pipe.by_band == {
        "0-1.5": approx(0.1 / 0.016),
        "1.5-2": approx(0.5 / 0.016),
        "2-3": approx(0.2 / 0.016),
    }
    [slope] = [i for i in items(p, basis="centre-slope") if i.unit == "m"]
    assert sum(slope.by_band.values()) == approx(slope.quantity) == approx(np.hypot(50, 0.8))


def test_structures_to_invert_or_to_sump():
    # rim 50.0, lowest invert 48.1: 1.9; a catch pit's sump lies 0.45 lower, 2.35
    p = with_structure(
        with_structure(grounded([(-90, 50.0), (90, 50.0)]), "A", 0, kind="catchpit-1200"), "B", 50
    )
    p = with_pipe(p, "P", "A", "B", 48.1, 47.8)
    for to, band in (("invert", "1.5-2"), ("sump", "2-3")):
        [pit] = [i for i in items(p, to=to) if i.name == "Catch pit 1200"]
        assert pit.by_band == {band: 1.0}


def test_bends_by_angle_and_what_has_no_depth():
    p = grounded([(-90, 50.0), (30, 50.0)])
    p = with_structure(p, "A", 0.0)
    p = with_structure(
        with_structure(p, "J", 40.0, 0.0, kind="joint"), "O", 70.0, 30.0, kind="outfall"
    )
    p = with_pipe(with_pipe(p, "P", "A", "J", 48.5, 48.2), "Q", "J", "O", 48.2, 48.0)
    found = {i.name: i for i in items(p)}
    assert found["Bend 30 to 45°"].structures == ("J",)
    assert found["Joint"].by_band == {NO_DEPTH: 1.0}  # the ground ends before it
    assert found["Pipe DN 300 concrete"].by_band[NO_DEPTH] > 0


def test_rates_make_sums():
    p = replace(
        DEMO, digging=replace(DEMO.digging, rates=(Rate(item="Gully 450", unit="", rate=180.0),))
    )
    lines = priced(items(p), p.digging.rates)
    assert [line.sum for line in lines if line.rate is not None] == [approx(22 * 180.0)]
    assert all(line.sum is None for line in lines if line.item.name != "Gully 450")
