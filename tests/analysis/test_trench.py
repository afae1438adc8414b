import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, grounded, road_project, with_pipe, with_structure
from zumbert.analysis import analyse
from zumbert.analysis.estimate import estimate
from zumbert.analysis.quantities import quantities
from zumbert.analysis.trench import trenches
from zumbert.edits.setup import set_trench_type
from zumbert.edits.trenchtypes import add_trench_type, set_pipe_trench
from zumbert.model.structure import FixedRim
from zumbert.model.trench import TrenchSize, TrenchType


def kind(upper="existing", **values):
    return TrenchType(id="", name="t", sizes=(TrenchSize(**values),), upper=upper)


WORKED = kind(width=1.10, vertical_height=0.90, batter=0.25)


def between_outfalls(ground, up, down, trench):
    """One pipe of 50 m between structures without pits."""
    p = with_structure(
        with_structure(grounded(ground), "A", 0, kind="joint"), "B", 50, kind="outfall"
    )
    return set_trench_type(with_pipe(p, "P", "A", "B", up, down), trench)


def test_the_worked_volume():
    # W 1.10, h_v 0.90, m 0.25, H 1.5 to 2.5 over 50 m; the bottom lies 0.145 under the invert of
    # 48.0, at 47.855
    p = between_outfalls([(-50, 48.355), (100, 51.355)], 48.0, 48.0, WORKED)
    facts = facts_of(p)
    assert trenches(facts).pipes["P"].excavation == approx(126.1667, abs=5e-5)
    assert estimate(facts, facts.pipes["P"]) == approx(126.1667, abs=5e-5)


@given(
    st.lists(st.tuples(st.floats(0.5, 20), st.floats(47, 54)), min_size=2, max_size=6),
    st.floats(0.5, 2),
    st.floats(0, 1),
    st.floats(0, 3),
    st.floats(47, 49),
)
def test_level_across_the_volume_is_what_fine_sampling_tends_to(points, width, batter, upright, up):
    x = np.concatenate([[-60.0], np.cumsum([d for d, _ in points]) - 5, [120.0]])
    z = np.array([50.0, *(level for _, level in points), 50.0])
    p = between_outfalls(
        list(zip(x.tolist(), z.tolist(), strict=True)),
        up,
        up - 0.3,
        kind(width=width, batter=batter, vertical_height=upright),
    )
    facts = facts_of(p)
    at = np.linspace(0, 50, 40_001)
    h = np.maximum(np.interp(at, x, z) - (up - 0.006 * at - 0.145), 0)
    area = width * h + batter * np.maximum(h - upright, 0) ** 2
    sampled = ((area[1:] + area[:-1]) / 2 * np.diff(at)).sum()
    assert trenches(facts).pipes["P"].excavation == approx(sampled, rel=1e-5, abs=1e-4)
    assert estimate(facts, facts.pipes["P"]) == approx(sampled, rel=1e-5, abs=1e-4)


def test_trenches_end_at_pit_edges_and_pits_count_once():
    # two pipes of 50 m through S2; chambers 1.2 + 2 x 0.125 wide, working space 0.5: radius 1.225
    p = chain([(48.0, 47.5), (47.4, 46.9)])
    facts = facts_of(p)
    found = trenches(facts)
    assert found.pipes["P1"].length == approx(50 - 2 * 1.225)
    assert found.pipes["P2"].length == approx(50 - 1.225)  # the outfall has no pit
    assert set(found.pits) == {"S1", "S2"}
    # S2: ground 50.0, lowest invert 47.4, base 0.2: 2.8 m deep
    assert found.pits["S2"].excavation == approx(np.pi * 1.225**2 * 2.8)
    # P1: depth to bottom = 50 - (invert - 0.045 - 0.1): 2.145 at S1, 2.645 at S2, upright 1.0 wide
    mean = 2.145 + 0.01 * 25
    assert found.pipes["P1"].excavation == approx(mean * (50 - 2.45))
    q = quantities(found)
    total = q.totals["proposed"]
    assert total.pits == approx(sum(t.excavation for t in found.pits.values()))
    assert total.excavation == approx(total.pits + total.trenches)
    assert total.by_dn == {300.0: (100.0, approx(total.trenches))}


def test_depth_bands_add_up_to_the_whole():
    found = trenches(facts_of(chain([(48.0, 45.5)]))).pipes["P1"]
    assert sum(found.by_depth.values()) == approx(found.excavation)
    assert set(found.by_depth) == {"0-1.5", "1.5-2", "2-3", "3-4", "4-"}
    assert found.by_depth["0-1.5"] == approx(1.5 * found.length)


def test_backfill_is_what_is_left():
    q = quantities(trenches(facts_of(chain([(48.0, 47.5)]))))
    [row] = q.pipes
    outside = np.pi * 0.39**2 / 4 * row.trench_length
    assert row.displacement == approx(outside)
    assert row.bedding == approx(0.1 * row.trench_length)
    assert row.backfill == approx(row.excavation - row.bedding - outside)


def test_statuses_are_never_added_up():
    p = chain([(48.0, 47.5), (47.4, 46.9)])
    p = replace(p, pipes={**p.pipes, "P2": replace(p.pipes["P2"], status="existing")})
    q = quantities(trenches(facts_of(p)))
    assert set(q.totals) == {"proposed", "existing"}
    assert q.totals["proposed"].length == q.totals["existing"].length == 50.0
    dropped = replace(p, pipes={**p.pipes, "P2": replace(p.pipes["P2"], status="abandoned")})
    assert set(quantities(trenches(facts_of(dropped))).totals) == {"proposed"}


@pytest.mark.parametrize(
    ("basis", "length"),
    [
        ("centre-plan", 50.0),
        ("wall-plan", 48.8),
        ("centre-slope", np.hypot(50, 0.5)),
        ("wall-slope", np.hypot(48.8, 0.5)),
    ],
)
def test_lengths_on_any_basis(basis, length):
    p = with_structure(with_structure(grounded([(-100, 50.0), (1000, 50.0)]), "A", 0), "B", 50)
    q = quantities(trenches(facts_of(with_pipe(p, "P", "A", "B", 48.0, 47.5))), basis)
    assert q.pipes[0].length == approx(length)


def test_without_ground_a_volume_is_named_not_taken_as_nothing():
    p = grounded([(-100, 50.0), (30, 50.0)])  # the ground ends under the pipe
    p = with_structure(with_structure(p, "A", 0, rim=50.0), "B", 50, rim=50.0)
    q = quantities(trenches(facts_of(with_pipe(p, "P", "A", "B", 48.0, 47.5))))
    assert q.pipes[0].excavation is None
    assert q.pipes[0].backfill is None
    assert tuple(q.totals["proposed"].not_counted) == ("P", "B")


def test_the_lower_of_ground_and_formation():
    p = grounded([(-100, 49.0), (1000, 49.0)], "formation", chain([(48.0, 47.5)]))
    upper = {
        u: trenches(facts_of(set_trench_type(p, kind(upper=u)))).pipes["P1"].excavation
        for u in ("existing", "formation", "lower")
    }
    assert upper["formation"] == approx(upper["existing"] - 1.0 * (50 - 1.225))
    assert upper["lower"] == approx(upper["formation"])
    assert (
        trenches(facts_of(set_trench_type(chain([(48.0, 47.5)]), kind(upper="formation"))))
        .pipes["P1"]
        .excavation
        is None
    )


def test_ground_under_the_trench_bottom_needs_fill_first():
    found = trenches(facts_of(chain([(49.0, 51.0)]))).pipes["P1"]  # rises out of the ground at 50
    # the outside crown, invert + 0.345, passes 50.0 where the invert is 49.655: at 16.375 m of 50;
    # the trench ends at 50
    assert found.fill_first == approx(50 - 16.375)
    # 1 m wide, up to the crown, 0 m there to 1.345 m at the end
    assert found.fill == approx(33.625 * 1.345 / 2)
    assert found.excavation > 0


def test_kept_where_nothing_changed():
    p = chain([(48.0, 47.5), (47.4, 46.9), (46.8, 46.3)])
    facts = facts_of(p)
    first = trenches(facts)
    moved = replace(
        p, structures={**p.structures, "S1": replace(p.structures["S1"], rim=FixedRim(50.2))}
    )
    again = trenches(analyse(moved, facts), first)
    assert again.pipes["P2"] is first.pipes["P2"]
    assert again.pits["S3"] is first.pits["S3"]
    assert again.pits["S1"] is not first.pits["S1"]


@given(st.floats(48.0, 51.0), st.floats(48.0, 51.0))
def test_the_table_adds_up_where_pipes_lie_in_fill(up, down):
    p = chain([(up, down), (down - 0.1, down - 0.6)])
    q = quantities(trenches(facts_of(p)))
    t = q.totals["proposed"]
    assert t.excavation - t.bedding - t.displacement == approx(t.backfill, abs=1e-9)
    for r in q.pipes:
        assert r.excavation - r.bedding - r.displacement == approx(r.backfill, abs=1e-9)
        assert r.backfill >= -1e-9 and r.bedding >= 0 and r.displacement >= 0


def test_a_pipe_half_out_of_the_ground_counts_by_half():
    # level at 50 - 0.15 - 0.045 ... the axis in the ground's surface: invert 50 - 0.15, outside
    # radius 0.195
    found = trenches(facts_of(chain([(49.85, 49.85)]))).pipes["P1"]
    assert found.displacement == approx(np.pi * 0.195**2 / 2 * found.length)
    assert found.bedding == approx(0.1 * found.length)  # 1 m wide, all under the surface
    assert found.excavation == approx((0.1 + 0.195) * found.length)


def test_the_lower_surface_where_the_formation_covers_part_of_a_pipe():
    # level ground at 50.0; formation at 49.0 from 20 m to 30 m alone: 10 m are 1 m shallower
    p = grounded([(20.0, 49.0), (30.0, 49.0)], "formation", chain([(48.0, 48.0)]))
    kinds = {
        u: trenches(facts_of(set_trench_type(p, kind(upper=u)))).pipes["P1"]
        for u in ("existing", "lower")
    }
    assert kinds["lower"].excavation == approx(kinds["existing"].excavation - 1.0 * 1.0 * 10)
    # and where it lies higher than the ground, the ground counts
    high = grounded([(20.0, 51.0), (30.0, 51.0)], "formation", chain([(48.0, 48.0)]))
    same = trenches(facts_of(set_trench_type(high, kind(upper="lower")))).pipes["P1"]
    assert same.excavation == approx(kinds["existing"].excavation)


def test_the_pit_of_a_rectangular_chamber_is_a_rectangle():
    p = grounded([(-100, 50.0), (1000, 50.0)])
    p = with_structure(
        with_structure(p, "A", 0.0, kind="manhole-1500x1200"), "B", 50.0, kind="outfall"
    )
    p = with_pipe(p, "P", "A", "B", 48.0, 47.5)
    found = trenches(facts_of(p))
    # 1.5 x 1.2 inside, walls of 0.20, working space 0.5: 2.9 x 2.6; from 50.0 to the base's
    # underside at 47.8
    assert found.pits["A"].excavation == approx(2.9 * 2.6 * 2.2)
    rotation = facts_of(p).places["A"].bearing
    # the pipe leaves along the chamber, or across it
    along = abs(np.cos(np.pi / 2 - rotation)) > 0.5
    assert found.pipes["P"].begin == approx(1.45 if along else 1.3)


def test_a_proposed_pipe_begins_at_the_wall_of_a_chamber_that_is_there():
    p = chain([(48.0, 47.5), (47.4, 46.9)])
    old = replace(
        p, structures={**p.structures, "S2": replace(p.structures["S2"], status="existing")}
    )
    now = trenches(facts_of(old)).pipes["P1"]
    # 1.2 and two walls of 0.125, no working space: nobody digs a pit
    assert now.end == approx(50 - 0.725)
    assert trenches(facts_of(p)).pipes["P1"].end == approx(50 - 1.225)


def test_the_base_under_a_chamber_is_its_own_where_it_has_one():
    p = chain([(48.0, 47.5), (47.4, 46.9)])
    own = {**p.types, "manhole-1200": replace(p.types["manhole-1200"], base=0.35)}
    assert trenches(facts_of(p)).pits["S2"].bottom == approx(47.4 - 0.2)
    assert trenches(facts_of(replace(p, types=own))).pits["S2"].bottom == approx(47.4 - 0.35)


def test_a_pipe_to_beyond_its_road_is_named_and_one_without_length_is_nothing():
    p = with_structure(
        with_structure(road_project(), "A", 100.0, 1.0, road=True), "B", 9000.0, road=True
    )
    p = with_pipe(with_structure(p, "C", 100.0, 1.0, road=True), "P", "A", "B", 48.0, 47.5)
    found = trenches(facts_of(with_pipe(p, "Q", "A", "C", 48.0, 48.0))).pipes
    assert (found["P"].excavation, found["P"].misfit) == (None, "an end stands beyond its road")
    assert (found["Q"].excavation, found["Q"].misfit) == (0.0, "")


def test_a_pipe_has_a_trench_type_of_its_own():
    p = chain([(48.0, 47.5), (47.4, 46.9)])
    p, key = add_trench_type(p, kind(width=2.0))
    before = trenches(facts_of(p)).pipes
    after = trenches(facts_of(set_pipe_trench(p, ["P2"], key))).pipes
    assert after["P2"].excavation == approx(2 * before["P2"].excavation)
    assert after["P1"].excavation == approx(before["P1"].excavation)
