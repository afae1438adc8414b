"""Fixes of the rules of chambers, clearance, connectivity and labels: each clears its finding."""

import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, with_pipe, with_structure
from tests.checks.test_more_rules import AXIS, crossed, meeting, of, two_systems
from tests.checks.test_rules import SOUND
from zumbert.analysis import analyse
from zumbert.checks import check
from zumbert.edits.fixes import fixes, outcome
from zumbert.edits.land import add_land
from zumbert.model.ids import PipeId, StructureId


def offered(project, rule):
    facts = facts_of(project)
    return fixes(project, facts, of(project, rule)[0])


@pytest.mark.parametrize(
    ("project", "rule", "texts"),
    [
        (
            with_structure(
                chain([(47.0, 46.5), (46.4, 45.9)], size="450"), "S2", 50, kind="manhole-1050"
            ),
            "chamber_size",
            ["Make it Manhole 1200"],
        ),
        (
            with_structure(
                chain([(48.0, 47.5), (47.4, 46.9)], size="375"), "S2", 50, kind="manhole-1050"
            ),
            "largest_pipe",
            ["Make it Manhole 1200"],
        ),
        (meeting(42.0), "wall_openings", ["Make it Manhole 1500"]),
        (
            with_structure(SOUND, "S1", 0, rim=54.5, kind="manhole-1200"),
            "chamber_depth",
            ["Make it Manhole 1500"],
        ),
        (crossed(AXIS + 0.4), "clearance", ["Lower S2 to 47.199"]),
        (chain([(48.0, 46.5)], 150.0), "spacing", ["Split it with a manhole 1200"]),
        (with_structure(SOUND, "S2", 1.2), "zero_length", ["Delete pipe P1"]),
        (
            replace(
                SOUND, pipes={**SOUND.pipes, "P2": replace(SOUND.pipes[PipeId("P2")], label="P1")}
            ),
            "duplicate_label",
            ["Call it P3"],
        ),
        (
            replace(
                SOUND,
                structures={
                    **SOUND.structures,
                    "S2": replace(SOUND.structures[StructureId("S2")], label="S1"),
                },
            ),
            "duplicate_label",
            ["Call it S4"],
        ),
    ],
)
def test_a_fix_clears_what_it_is_for(project, rule, texts):
    made = offered(project, rule)
    assert [f.text for f in made[: len(texts)]] == texts or {f.text for f in made} >= set(texts)
    before = {f.key for f in of(project, rule)}
    for fix in made:
        assert len({f.key for f in of(fix.project, rule)}) < len(before), fix.text


def test_clearance_is_gained_to_the_millimetre_over_or_under():
    p = crossed(AXIS + 0.4)
    for fix in offered(p, "clearance"):
        assert not of(fix.project, "clearance")
        [m] = [m for near in analyse(fix.project).meetings.values() for m in near] or [None]
        assert m is None or m.clear < 0.3 + 0.0015


def test_a_pipe_that_cuts_another_goes_over_or_under_it():
    p = two_systems(AXIS)
    texts = [f.text for f in offered(p, "clash")]
    assert any(t.startswith("Raise") for t in texts)
    assert any(t.startswith("Lower") for t in texts)
    assert all(not of(f.project, "clash") for f in offered(p, "clash"))


def test_a_ring_is_broken_and_an_outlet_turned():
    p = with_structure(SOUND, "X", 25, 30)
    p = with_pipe(with_pipe(p, "PX", "S2", "X", 47.4, 47.0), "PY", "X", "S1", 47.0, 47.5)
    [fix] = offered(p, "cycle")
    assert fix.text == "Turn the flow of PY"
    assert not of(fix.project, "cycle")
    p = with_pipe(with_structure(SOUND, "X", 50, 30), "PX", "S2", "X", 47.45, 47.9)
    [fix] = offered(p, "many_outlets")
    assert fix.text == "Turn the flow of PX"
    assert not of(fix.project, "many_outlets")


def test_where_water_stops_a_pipe_laid_the_wrong_way_is_turned_or_an_outfall_declared():
    p = chain([(48.0, 47.5), (47.45, 46.95)])
    wrong = with_pipe(p, "P2", "S3", "S2", 46.95, 47.45)
    texts = [f.text for f in offered(wrong, "no_outfall")]
    assert texts == ["Turn the flow of P2", "Declare S2 an outfall"]
    assert all(not of(f.project, "no_outfall") for f in offered(wrong, "no_outfall"))


def test_a_structure_outside_the_land_is_shifted_into_it():
    p, _ = add_land(SOUND, "reserve", [(-5, -5), (200, -5), (200, 5), (-5, 5)], None)
    p = with_structure(p, "S2", 50, 5.4)
    made = [
        f
        for f in fixes(p, facts_of(p), next(f for f in of(p, "land") if f.structure))
        if "Shift" in f.text
    ]
    assert [(f.text, f.figure) for f in made] == [("Shift S2 into the land", "0.41 m")]
    assert not [f for f in of(made[0].project, "land") if f.structure]


def test_a_long_pipe_is_split_where_it_lies():
    [fix] = offered(chain([(48.0, 45.5)], 250.0), "spacing")
    assert fix.text == "Split it with 2 × manhole 1200"
    assert len(fix.project.pipes) == 3
    assert [f.span.length for f in facts_of(fix.project).pipes.values()] == approx([250 / 3] * 3)
    assert fix.project.pipes[PipeId("P1")].invert_up == 48.0


def test_what_follows_is_told_with_what_there_is_to_dig():
    from zumbert.analysis.trench import trenches
    from zumbert.checks import check

    p = crossed(AXIS + 0.4)
    facts = facts_of(p)
    findings = check(p, facts)
    [fix, *_] = [f for f in offered(p, "clearance") if f.text.startswith("Lower the whole")]
    o = outcome(facts, findings, trenches(facts), fix.project)
    assert {f.rule for f in o.mends} == {"clearance"}
    assert {f.structure for f in o.raises} == {"S2"}  # it comes in too low now
    assert o.earth > 0


def test_a_loose_end_is_attached_to_the_nearest_structure():
    p = with_structure(SOUND, "L", 52.0, 1.5, kind="joint", rim=None)
    p = with_structure(p, "H", 60.0, 20.0)
    p = with_pipe(p, "PL", "H", "L", 48.6, 48.5)
    facts = facts_of(p)
    finding = next(
        f
        for f in check(p, facts)
        if f.structure == "L" and any(x.startswith("Attach") for x in texts_of(p, f))
    )
    fix = next(f for f in fixes(p, facts, finding) if f.text.startswith("Attach"))
    assert fix.text == "Attach it to S2"
    assert fix.project.pipes["PL"].down == "S2"


def texts_of(project, finding):
    return [f.text for f in fixes(project, facts_of(project), finding)]
