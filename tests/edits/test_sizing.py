"""Sizing: the smallest that takes the flow, holds kept, and the same again."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from tests.amount import times
from tests.analysis.test_flow import RAIN, networks, reference
from tests.build import grounded, with_pipe, with_structure
from tests.checks.test_rules import with_standard
from zumbert.analysis import analyse
from zumbert.checks import check
from zumbert.edits.areas import add_area
from zumbert.edits.change import set_size
from zumbert.edits.fixes import fixes
from zumbert.edits.flowfixes import round_slope
from zumbert.edits.rain import set_rain
from zumbert.edits.records import with_pipe as pipe_with
from zumbert.edits.records import with_structure as structure_with
from zumbert.edits.sizing import HowToSize, candidates, fails, sized, stays, taken
from zumbert.errors import EditError
from zumbert.model.display import Units
from zumbert.model.ids import PipeId, SizeKey, StructureId
from zumbert.store import load, save


def all_at(project, size):
    return replace(
        project, pipes={k: replace(p, size=SizeKey(size)) for k, p in project.pipes.items()}
    )


def sizes(project):
    return {k: p.size for k, p in project.pipes.items()}


@pytest.mark.parametrize("start", ["225", "900"])
def test_the_reference_gets_its_own_sizes_from_wherever_it_starts(start):
    made = sized(all_at(reference(), start))
    assert sizes(made.project) == {"A-B": "300", "B-C": "375", "C-O": "450"}
    assert made.log.settled and made.log.rounds <= 4
    why = {line.object: line.why for line in made.log.lines if line.what == "size"}
    assert why["A-B"] == "capacity 44.9 l/s < 68.8 l/s"  # of DN 225
    assert why["B-C"] == "capacity 86.5 l/s < 124.4 l/s"  # of DN 300
    assert sized(made.project).project == made.project


def test_what_is_held_or_existing_stays_and_the_next_is_no_smaller():
    p = pipe_with(all_at(reference(), "225"), PipeId("A-B"), size=SizeKey("600"), hold_size=True)
    p = pipe_with(p, PipeId("C-O"), status="existing")
    made = sized(p)
    assert sizes(made.project) == {"A-B": "600", "B-C": "600", "C-O": "225"}
    why = {line.object: line.why for line in made.log.lines if line.what == "size"}
    assert why["A-B"] == "unchanged: held" and why["C-O"] == "unchanged: existing"
    assert why["B-C"] == "not smaller than A-B"
    free = sized(p, how=HowToSize(order=False)).project
    assert free.pipes[PipeId("B-C")].size == "375"


def test_sizes_that_are_ticked_and_bounds_are_kept():
    made = sized(reference(), how=HowToSize(sizes=frozenset({SizeKey("450"), SizeKey("600")})))
    assert set(sizes(made.project).values()) == {"450"}
    assert set(sizes(sized(reference(), how=HowToSize(least=525.0)).project).values()) == {"525"}
    small = sized(reference(), how=HowToSize(greatest=300.0))
    assert small.project.pipes[PipeId("B-C")].size == "375"  # none of the sizes takes it: it stays
    assert "none of the sizes takes it" in next(
        line.why for line in small.log.lines if line.object == "B-C"
    )
    only = sized(all_at(reference(), "225"), how=HowToSize(only=frozenset({PipeId("A-B")}))).project
    assert sizes(only) == {"A-B": "300", "B-C": "225", "C-O": "225"}


def test_a_limit_on_capacity_is_kept():
    # A-B: 68.75 l/s in DN 300, which takes 96.70: 71 %, so 70 % asks for the next size
    limited = with_standard(all_at(reference(), "225"), capacity_max=0.70)
    made = sized(limited)
    assert sizes(made.project)["A-B"] == "375"
    why = {line.object: line.why for line in made.log.lines if line.what == "size"}
    assert why["A-B"] == "capacity 67.7 l/s < 68.8 l/s"
    assert sizes(sized(with_standard(limited, capacity_max=0.72)).project)["A-B"] == "300"


def test_crowns_stay_where_that_is_asked_for():
    p = all_at(reference(), "225")
    made = sized(p, how=HowToSize(levels="crowns")).project
    for k, q in made.pipes.items():
        was = p.pipes[k]
        grown = made.sizes[q.size].inside - p.sizes[was.size].inside
        assert (q.invert_up, q.invert_down) == pytest.approx(
            (was.invert_up - grown, was.invert_down - grown)
        )
    assert sized(p).project.pipes[PipeId("A-B")].invert_up == p.pipes[PipeId("A-B")].invert_up


def test_levels_laid_anew_by_cover_go_with_their_sizes():
    made = sized(all_at(reference(), "225"), how=HowToSize(levels="cover"))
    facts = analyse(made.project)
    assert made.log.settled
    assert not [
        f
        for f in check(made.project, facts)
        if f.rule in ("cover_min", "capacity", "depth_ratio", "drop_min", "slope_min")
    ]
    assert facts.pipes[PipeId("A-B")].cover.least == pytest.approx(0.9, abs=2e-3)
    assert sized(made.project, how=HowToSize(levels="cover")).project == made.project


def test_chambers_follow_their_pipes():
    p = structure_with(all_at(reference(), "225"), StructureId("B"), type="manhole-1050")
    p = set_rain(add_area(p, "roof", size=10_000.0, structure=StructureId("B"))[0], RAIN)
    made = sized(p, how=HowToSize(greatest=600.0))
    b = made.project.types[made.project.structures[StructureId("B")].type]
    assert b.inside == 1.5  # DN 600 needs 1.50
    line = next(x for x in made.log.lines if x.object == "B")
    assert (line.what, line.old, line.new) == ("type", "Manhole 1050", "Manhole 1500")
    assert "Manhole 1200" in line.why
    held = sized(structure_with(p, StructureId("B"), hold_size=True)).project
    assert held.structures[StructureId("B")].type == "manhole-1050"


def test_unticked_lines_stay_and_the_log_stays_with_the_project(tmp_path):
    p = all_at(reference(), "225")
    made = sized(p)
    some = taken(p, made, frozenset({("B-C", "size")}))
    assert sizes(some) == {"A-B": "300", "B-C": "225", "C-O": "450"}
    assert "left as it was" in next(x.why for x in some.size_log.lines if x.object == "B-C")
    save(some, tmp_path / "a.zumbert")
    assert load(tmp_path / "a.zumbert").size_log == some.size_log


def test_without_flow_there_is_nothing_to_size():
    with pytest.raises(EditError, match="No flow reaches any pipe"):
        sized(set_rain(replace(reference(), areas={}), None))


@given(networks(), st.sampled_from(["inverts", "crowns"]), st.data())
@settings(max_examples=times(30, 600), deadline=None)
def test_every_size_is_the_smallest_that_passes_and_held_ones_stay(p, levels, data):
    if p.rain is None or analyse(p).flows is None:
        return
    held = {k for k in p.pipes if data.draw(st.integers(0, 3)) == 0}
    p = replace(p, pipes={k: replace(q, hold_size=k in held) for k, q in p.pipes.items()})
    how = HowToSize(levels=levels)
    made = sized(p, how=how)
    facts = analyse(made.project)
    for k in held:
        assert made.project.pipes[k] == p.pipes[k]
    if made.log.settled:
        assert (
            sized(made.project, how=HowToSize(levels="inverts")).project.pipes == made.project.pipes
        )
        for k, f in facts.pipes.items():
            line = next(x for x in made.log.lines if x.id == k and x.what == "size")
            offered = candidates(made.project, f, how)
            smaller = [s for s in offered if s.inside < f.inside - 1e-9]
            if (
                stays(p, f, how)
                or k not in facts.pipe_flow
                or "none of the sizes" in line.why
                or not smaller
            ):
                continue
            inlets = [facts.pipes[i].inside for i in facts.links.inlets.get(f.pipe.up, ())]
            short = fails(made.project, facts, f, facts.pipe_flow[k], smaller[-1]).words
            assert short or smaller[-1].inside < max(inlets, default=0.0) - 1e-9
            assert line.why.removeprefix("unchanged: ") != ""


# -- fixes -----------------------------------------------------------------------------------------


def loaded(area, fall=0.4, **limits):
    p = grounded([(-100, 50.0), (10_000, 50.0)])
    p = with_structure(with_structure(p, "S1", 0.0), "S2", 40.0, kind="outfall")
    p = with_pipe(p, "P1", "S1", "S2", 47.4 + fall, 47.4)
    p = add_area(p, "roof", size=area, structure=StructureId("S1"), coefficient=1.0)[0]
    return with_standard(set_rain(p, RAIN), **limits)


@pytest.mark.parametrize(
    ("rule", "area", "limits", "words"),
    [
        ("capacity", 3000.0, {}, ["Make it DN 375", "Steepen to 1:", "Steepen to 1:"]),
        ("depth_ratio", 2520.0, {}, ["Make it DN 375", "Steepen"]),
        ("flow_velocity_min", 100.0, {"flow_velocity_min": 0.9}, ["Steepen"]),
        ("flow_velocity_max", 2000.0, {"flow_velocity_max": 1.4}, ["Flatten"]),
    ],
)
def test_each_rule_of_flow_has_fixes_that_mend_it(rule, area, limits, words):
    p = loaded(area, **limits)
    facts = analyse(p)
    [finding] = [f for f in check(p, facts) if f.rule == rule]
    made = fixes(p, facts, finding)
    assert made
    for fix in made:
        after = analyse(fix.project)
        assert not [f for f in check(fix.project, after) if f.rule == rule], fix.text
    for start in words:
        assert any(fix.text.startswith(start) for fix in made), [fix.text for fix in made]


def test_a_size_that_is_held_is_not_offered():
    p = pipe_with(loaded(3000.0), PipeId("P1"), hold_size=True)
    facts = analyse(p)
    [finding] = [f for f in check(p, facts) if f.rule == "capacity"]
    assert not any(fix.text.startswith("Make it") for fix in fixes(p, facts, finding))
    with pytest.raises(EditError, match="keeps its size"):
        set_size(p, PipeId("P1"), SizeKey("375"))


def test_slopes_are_rounded_to_the_safe_side():
    percent, ratio = Units(), Units(slopes="ratio")
    assert round_slope(percent, 0.014041, True) == pytest.approx(0.0141)
    assert round_slope(percent, 0.014041, False) == pytest.approx(0.0140)
    assert round_slope(ratio, 1 / 118.4, True) == pytest.approx(1 / 118)
    assert round_slope(ratio, 1 / 118.4, False) == pytest.approx(1 / 119)
