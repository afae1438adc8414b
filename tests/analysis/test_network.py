from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, road_project, the_road, with_pipe, with_structure
from zumbert.analysis.runline import RunKey
from zumbert.analysis.runlist import run_keys, run_with
from zumbert.analysis.runs import run
from zumbert.demo.project import demo_project
from zumbert.model.structure import Free, OnSurface


def test_water_that_stops_short_is_told_where_it_stops():
    p = chain([(48.0, 47.5), (47.4, 46.9)])
    assert facts_of(p).stranded == {}
    cut = replace(p, pipes={"P1": p.pipes["P1"]})
    assert facts_of(cut).stranded == {"S2": 2}


def test_a_ring_without_a_way_out_is_told_once():
    p = chain([(48.0, 47.5)])
    for label, y in (("A", 30), ("B", 60), ("C", 90)):
        p = with_structure(p, label, 0, y)
    for name, up, down in (("a", "A", "B"), ("b", "B", "C"), ("c", "C", "A")):
        p = with_pipe(p, name, up, down, 48, 47)
    assert facts_of(p).stranded == {"A": 3}


def abandoned(p, *pipes):
    gone = {k: replace(p.pipes[k], status="abandoned") for k in pipes}
    return replace(p, pipes={**p.pipes, **gone})


def test_water_does_not_run_through_abandoned_work():
    p = abandoned(chain([(48.0, 47.5), (47.4, 46.9)]), "P2")
    assert facts_of(p).stranded == {"S2": 2}  # S3 is the outfall, nothing else leads there
    # nothing runs through a line that is abandoned from end to end: it is no finding
    assert facts_of(abandoned(p, "P1")).stranded == {}
    back = with_pipe(chain([(48.0, 47.5), (47.4, 46.9)]), "back", "S2", "S1", 47, 46)
    assert facts_of(back).rings == {"S1": 2}
    assert facts_of(abandoned(back, "back")).rings == {}
    assert facts_of(abandoned(back, "P1")).rings == {}


@given(st.data())
def test_what_is_abandoned_strands_as_what_is_not_there(data):
    """But for structures that all pipes have left, which carry no water."""
    labels = [f"S{i}" for i in range(1, 7)]
    p = chain([(48.0 - i, 47.5 - i) for i in range(2)])
    for i, label in enumerate(labels[3:]):
        p = with_structure(p, label, 30.0 * i, 60.0)
    ends = st.tuples(st.sampled_from(labels), st.sampled_from(labels))
    for i, (up, down) in enumerate(data.draw(st.lists(ends, max_size=9))):
        p = with_pipe(p, f"Q{i}", up, down, 45, 44)
    gone = data.draw(st.sets(st.sampled_from(list(p.pipes))))
    without = replace(p, pipes={k: v for k, v in p.pipes.items() if k not in gone})
    now, then = facts_of(abandoned(p, *gone)), facts_of(without)
    dry = {s for s in p.structures if now.links.at(s) and not now.live.at(s)}
    assert now.stranded == {k: n for k, n in then.stranded.items() if k not in dry}
    assert now.rings == then.rings


def test_depths_drops_and_sumps():
    p = chain([(48.0, 47.5), (47.4, 46.9)])
    s2 = facts_of(p).structures["S2"]
    assert (s2.lowest, s2.depth, s2.sump_level) == (47.4, approx(2.6), 47.4)
    [drop] = s2.drops
    assert (drop.drop, drop.deflection) == (approx(0.1), approx(0.0))
    fixed = replace(p, structures={**p.structures, "S2": replace(p.structures["S2"], sump=47.0)})
    assert facts_of(fixed).structures["S2"].sump_level == 47.0


def test_anchored_structures_stand_on_their_road_and_rims_follow():
    p = with_structure(road_project(), "M", 100.0, 3.0, road=True)
    place = facts_of(p).places["M"]
    assert (place.x, place.y) == (approx(100.0), approx(-3.0))
    assert place.rim == approx(52.0)  # 50 + 2 % of 100
    lower = replace(p.structures["M"], rim=OnSurface(adjustment=-0.02))
    assert facts_of(replace(p, structures={"M": lower})).places["M"].rim == approx(51.98)


def test_a_free_structure_tells_its_projected_chainage():
    p = with_structure(road_project(), "F", 120.0, 7.0)
    place = facts_of(p).places["F"]
    assert (place.road, place.chainage, place.offset) == (the_road(p), approx(120.0), approx(-7.0))
    away = replace(p.structures["F"], place=Free(-30.0, 0.0))
    assert facts_of(replace(p, structures={"F": away})).places["F"].chainage is None


def test_runs_go_from_the_outfall_up():
    demo = demo_project()
    facts = facts_of(demo)
    keys = run_keys(demo, facts)
    names = [run(facts, k).name for k in keys]
    assert names == ["S13 to HW1", "S17 to HW1", "EX1 to EX2", "Quillerby Rise", "Tansymoor Lane"]
    main = run(facts, keys[0])
    assert main.structures[0][1] == 0.0
    assert main.structures[-1][1] == approx(main.length)
    assert main.length == approx(sum(facts.spans[r.pipe].length for r in main.reaches))
    lead = next(p for p in demo.pipes.values() if demo.structures[p.up].label == "G3L")
    shown = run(facts, run_with(demo, facts, keys, lead.id))
    assert lead.id in [r.pipe for r in shown.reaches]
    assert run(facts, RunKey("run", "gone")) is None


def test_a_road_run_has_its_structures_at_their_chainages():
    demo = demo_project()
    facts = facts_of(demo)
    shown = run(facts, RunKey("road", next(iter(demo.roads))))
    at = {demo.structures[k].label: ch for k, ch in shown.structures}
    assert at["S5"] == 131.0
    assert "HW1" not in at
    assert "S17" not in at
