"""Rules hold: what is left of an edit while every rule that bounds levels has to be kept."""

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.amount import times
from tests.build import chain, facts_of, v_project
from tests.checks.test_rules import SOUND
from zumbert.analysis import analyse
from zumbert.checks import check
from zumbert.checks.legal import bounds, end_range, invert
from zumbert.demo.project import demo_project
from zumbert.edits.change import move_structure, set_size
from zumbert.edits.fixes import fixes, mended, outcome
from zumbert.edits.holding import held
from zumbert.edits.levels import set_invert, shift_pipe
from zumbert.edits.standards import set_weight
from zumbert.model.ids import PipeId, SizeKey, StructureId
from zumbert.model.structure import Free

P1, P2 = PipeId("P1"), PipeId("P2")
DEMO = demo_project()
DEMO_FACTS = facts_of(DEMO)


def stopped(project, made):
    return held(project, facts_of(project), made)


def test_a_level_stops_at_the_edge_of_its_band_and_the_rule_is_named():
    facts = facts_of(SOUND)
    r = end_range(facts, facts.pipes[P1], "down")
    low = stopped(SOUND, set_invert(SOUND, P1, "down", 40.0))
    assert low.project.pipes[P1].invert_down == approx(r.low, abs=1e-9)
    assert low.words == "stopped by least drop"
    high = stopped(SOUND, set_invert(SOUND, P1, "down", 49.9))
    assert high.project.pipes[P1].invert_down == approx(r.high, abs=1e-9)
    assert high.words == "stopped by least slope"


def test_within_the_band_nothing_is_changed():
    made = set_invert(SOUND, P1, "down", 47.49)
    assert stopped(SOUND, made) == (made, "")
    same = replace(SOUND, name="another")
    assert stopped(SOUND, same) == (same, "")


def test_what_is_broken_already_may_be_mended_but_gets_no_worse():
    p = v_project()  # the cover is broken
    up, down = (stopped(p, shift_pipe(p, P1, by)) for by in (0.1, -0.1))
    assert up.project.pipes[P1] == p.pipes[P1]
    assert up.words == "stopped by least cover"
    assert down.words == ""
    assert down.project.pipes[P1].invert_up == approx(28.4)


def test_a_pipe_that_moves_whole_keeps_its_slope():
    made = stopped(SOUND, shift_pipe(SOUND, P1, 5.0))
    a, b = SOUND.pipes[P1], made.project.pipes[P1]
    assert b.invert_up - a.invert_up == approx(b.invert_down - a.invert_down)
    assert made.words.startswith("stopped by")
    assert b.invert_up > a.invert_up


def test_a_rule_that_is_off_stops_nothing():
    p = set_weight(SOUND, next(iter(SOUND.standards)), "slope_min", "off")
    p = set_weight(p, next(iter(p.standards)), "velocity_min", "off")
    high = stopped(p, set_invert(p, P1, "down", 49.9))
    assert high.words not in ("", "stopped by least slope", "stopped by least velocity")


def test_what_is_resized_takes_the_nearest_legal_levels():
    p = chain([(48.6, 48.1), (48.05, 47.55)])
    made = stopped(p, set_size(p, P1, SizeKey("600")))
    facts = facts_of(made.project)
    assert "cover_min" not in {f.rule for f in check(made.project, facts)}
    assert made.words.startswith("levels moved by up to")
    assert "least cover" in made.words or "crowns" in made.words
    assert made.project.pipes[P2] == p.pipes[P2]  # only what was resized


def test_what_is_moved_takes_them_too_and_holds_stay():
    p = chain([(48.0, 47.7), (47.65, 47.15)])
    # the pipe gets too flat
    moved = move_structure(p, facts_of(p), StructureId("S1"), Free(-45.0, 0.0))
    made = stopped(p, moved)
    assert not check(made.project, facts_of(made.project))
    kept = replace(p, pipes={**p.pipes, P1: replace(p.pipes[P1], hold_up=True)})
    moved = move_structure(kept, facts_of(kept), StructureId("S1"), Free(-45.0, 0.0))
    made = stopped(kept, moved)
    assert made.project.pipes[P1].invert_up == 48.0
    assert made.words == "no levels here keep every rule"  # the lower end has no room for it
    assert made.project.pipes[P1] == moved.pipes[P1]


def test_moves_are_the_least_that_keep_the_rules():
    p = chain([(48.9, 48.4), (48.35, 47.85)])
    made = stopped(p, set_size(p, P1, SizeKey("375")))
    moves = [made.project.pipes[P1].invert_up - 48.9, made.project.pipes[P1].invert_down - 48.4]
    assert facts_of(made.project).pipes[P1].cover.least == approx(0.9, abs=1e-6)
    assert moves[0] < -0.1
    assert moves[1] == approx(0.0, abs=1e-6)  # the lower end is deep enough


@settings(max_examples=times(30, 600))
@given(
    pipe=st.sampled_from(sorted(DEMO.pipes)),
    end=st.sampled_from(["up", "down", None]),
    by=st.floats(-2.0, 2.0),
)
@example(pipe="p75", end="up", by=1e-13)  # no move, and so none of what else breaks a rule
def test_no_bound_that_was_kept_is_broken_and_none_that_was_broken_gets_worse(pipe, end, by):
    made = (
        shift_pipe(DEMO, pipe, by)
        if end is None
        else set_invert(DEMO, pipe, end, DEMO.pipes[pipe].invert(end) + by)
    )
    left = held(DEMO, DEMO_FACTS, made).project
    for b in bounds(DEMO_FACTS, {pipe}):
        before, after = (
            b.most - sum(a * invert(p, k) for k, a in b.factors.items()) for p in (DEMO, left)
        )
        assert after >= min(before, 0.0) - 2e-6, b.rule
    moved = [left.pipes[pipe].invert(e) - DEMO.pipes[pipe].invert(e) for e in ("up", "down")]
    asked = [made.pipes[pipe].invert(e) - DEMO.pipes[pipe].invert(e) for e in ("up", "down")]
    assert all(
        0 <= m / a <= 1 + 1e-9 if abs(a) > 1e-9 else abs(m) < 1e-9
        for m, a in zip(moved, asked, strict=True)
    )


# -- fixes -----------------------------------------------------------------------------------------


def broken_network(seed):
    """Two runs that cross, with levels, sizes and types thrown in."""
    rng = np.random.default_rng(seed)
    levels, z = [], 48.6
    for _ in range(5):
        fall = rng.uniform(-0.1, 1.2)
        levels.append((z, z - fall))
        z -= fall + rng.uniform(-0.1, 0.2)
    p = chain(levels, float(rng.uniform(30, 110)))
    for k in p.pipes:
        p = set_size(p, k, SizeKey(str(rng.choice(["225", "300", "450", "600"]))))
    kinds = {
        k: str(rng.choice(["manhole-1050", "manhole-1200", "gully-450"]))
        for k in p.structures
        if k != "S6"
    }
    return replace(
        p, structures={k: replace(s, type=kinds.get(k, s.type)) for k, s in p.structures.items()}
    )


@pytest.mark.parametrize("seed", range(40))
def test_each_fix_raises_only_what_its_preview_names_and_most_clear_their_finding(seed):
    p = broken_network(seed)
    facts = analyse(p)
    findings = check(p, facts)
    tried = cleared = 0
    for finding in findings:
        for fix in fixes(p, facts, finding):
            told = outcome(facts, findings, None, fix.project)
            anew = check(fix.project, analyse(fix.project))
            before, now = {f.key for f in findings}, {f.key for f in anew}
            assert {f.key for f in told.raises} == now - before
            assert {f.key for f in told.mends} == before - now
            tried += 1
            cleared += finding.key not in now
            assert finding.key not in now, (fix.text, finding)
    assert tried == 0 or cleared / tried > 0.8


@pytest.mark.parametrize("seed", range(6))
def test_mending_many_raises_nothing_and_counts_what_stays(seed):
    p = broken_network(seed)
    facts = analyse(p)
    findings = check(p, facts)
    made = mended(p, facts, findings)
    after = check(made.project, analyse(made.project))
    keys = {f.key for f in findings}
    assert {f.key for f in after} <= keys
    assert {f.key for f in made.gone} | {f.key for f in made.left} == keys
    assert {f.key for f in after} == {f.key for f in made.left}
