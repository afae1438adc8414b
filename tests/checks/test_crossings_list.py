"""The list of crossings with their room, and what moving an end would do."""

import numpy as np
import pytest
from pytest import approx

from tests.analysis.test_meetings import tangle
from tests.build import facts_of
from tests.checks.test_more_rules import AXIS, crossed, two_systems
from tests.checks.test_rules import SOUND
from zumbert.analysis import analyse
from zumbert.analysis.clearance import axis, service_axis
from zumbert.checks.arrange import Wanted, arranged, bars, wanted
from zumbert.checks.check import check
from zumbert.checks.crossings import room_when_moved, rooms
from zumbert.demo.project import demo_project
from zumbert.edits.decisions import decide
from zumbert.edits.land import add_service
from zumbert.edits.levels import set_invert
from zumbert.geometry.space import between_pieces
from zumbert.model.ids import PipeId

P1 = PipeId("P1")


def test_a_crossing_tells_its_room_true_and_upright_and_what_is_above():
    [r] = rooms(facts_of(crossed(AXIS + 0.4)))
    assert (r.pipe, r.service, r.above, r.need) == ("P1", True, True, 0.3)
    assert r.upright == approx(0.4 - 0.195 - 0.055)
    assert r.clear <= r.upright
    assert (r.x, r.y) == (approx(25.0, abs=0.01), approx(0.0))
    [r] = rooms(facts_of(crossed(AXIS - 1.0)))
    assert not r.above


def test_far_crossings_are_listed_and_the_tightest_comes_first():
    p = crossed(AXIS - 3.0)
    p, _ = add_service(p, "gas", [(75.0, -10.0, 47.8), (75.0, 10.0, 47.8)], "G1", 0.1, 0.3)
    found = rooms(facts_of(p))
    assert [r.pipe for r in found] == ["P2", "P1"]
    assert found[1].clear > 2


def test_a_near_parallel_is_listed_and_crosses_nothing():
    p, _ = add_service(SOUND, "water", [(0.0, 0.4, AXIS), (50.0, 0.4, AXIS)], "W1", 0.1, 0.3)
    [r] = rooms(facts_of(p))
    assert r.upright is None
    assert r.clear < r.need
    p, _ = add_service(SOUND, "water", [(0.0, 4.0, AXIS), (50.0, 4.0, AXIS)], "W1", 0.1, 0.3)
    assert rooms(facts_of(p)) == []


def test_two_pipes_are_listed_once_and_joined_ones_never():
    [r] = rooms(facts_of(two_systems(AXIS - 1.0)))
    assert {r.pipe, r.other} == {"P1", "PX"}
    assert rooms(facts_of(SOUND)) == []


@pytest.mark.parametrize("seed", [1, 2])
def test_the_room_is_that_of_brute_force(seed):
    p = tangle(seed, 25, 15)
    facts = analyse(p)
    found = rooms(facts)
    assert len(found) > 20
    for r in found:
        f = facts.pipes[r.pipe]
        g = None if r.service else facts.pipes[r.other]
        other, size = (
            (service_axis(p.services[r.other]), p.services[r.other].size / 2)
            if g is None
            else (axis(g), g.inside / 2 + g.wall)
        )
        assert r.clear == approx(
            between_pieces(axis(f), other).min() - f.inside / 2 - f.wall - size, abs=1e-9
        )


def test_what_moving_an_end_does_is_what_the_moved_pipe_has():
    p = crossed(AXIS + 0.4)
    facts = facts_of(p)
    f = facts.pipes[P1]
    other = next(iter(p.services))
    for end in ("up", "down"):
        for by in (-0.3, 0.0, 0.2):
            moved = facts_of(set_invert(p, P1, end, f.pipe.invert(end) + by))
            [r] = rooms(moved)
            assert room_when_moved(facts, f, other, end, np.array([by]))[0] == approx(
                r.clear, abs=1e-9
            )


# -- in which order findings are gone through ------------------------------------------------------


DEMO = demo_project()
FACTS = facts_of(DEMO)
FOUND = check(DEMO, FACTS)


def test_findings_are_arranged_and_the_worst_comes_first():
    [group] = arranged(FACTS, FOUND, "worst")
    assert [f.rule for f in group.findings] == [
        "adverse_fall",
        "drop_min",
        "size_order",
        "capacity",
        "cover_min",
    ]
    by_rule = arranged(FACTS, FOUND, "rule")
    assert [g.title for g in by_rule] == [
        "Least cover",
        "Adverse fall",
        "Capacity",
        "Least drop",
        "Size order",
    ]
    assert {g.title for g in arranged(FACTS, FOUND, "object")} == {"P2", "P5", "P25", "S6", "S9"}
    assert {g.title for g in arranged(FACTS, FOUND, "run")} == {"S13 to HW1", "G6R to HW1"}
    assert arranged(FACTS, [], "worst") == []


def test_decided_findings_come_last_and_can_be_shown_alone():
    p = decide(DEMO, [f for f in FOUND if f.rule == "adverse_fall"], "agreed", "AB")
    found = check(p, analyse(p))
    assert [f.rule for f in arranged(FACTS, found, "worst")[0].findings][-1] == "adverse_fall"
    assert [f.rule for f in wanted(FACTS, found, Wanted(which="decided"))] == ["adverse_fall"]
    assert len(wanted(FACTS, found, Wanted(which="open"))) == 4
    assert {b.rule: (b.breaches, b.cautions, b.decided) for b in bars(found)}["adverse_fall"] == (
        0,
        0,
        1,
    )


def test_findings_are_searched_by_their_words_and_by_rule():
    assert [f.rule for f in wanted(FACTS, FOUND, Wanted(text="s6 drop"))] == ["drop_min"]
    assert [f.rule for f in wanted(FACTS, FOUND, Wanted(rule="cover_min"))] == ["cover_min"]
    assert wanted(FACTS, FOUND, Wanted(text="nothing of the kind")) == []
    assert len(wanted(FACTS, FOUND, Wanted())) == len(FOUND)
