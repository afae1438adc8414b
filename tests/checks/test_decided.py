"""Decisions: a finding that somebody accepted, and when it opens again."""

import msgspec
import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, v_project, with_pipe, with_structure
from tests.checks.test_rules import with_standard
from zumbert.analysis import analyse
from zumbert.checks import check
from zumbert.checks.sentences import remark, verdict
from zumbert.edits.decisions import decide, reopen
from zumbert.edits.land import add_service
from zumbert.errors import EditError
from zumbert.exchange.reports import check_report
from zumbert.model.ids import PipeId
from zumbert.model.project import Project
from zumbert.model.structure import Free
from zumbert.store import load, save


def findings(project):
    return check(project, facts_of(project))


def accepted(project, rule="cover_min"):
    return decide(
        project, [f for f in findings(project) if f.rule == rule], "toe of the headwall", "AB"
    )


def lowered(project, by):
    p = project.pipes[PipeId("P1")]
    return replace(
        project,
        pipes={
            **project.pipes,
            p.id: replace(p, invert_up=p.invert_up - by, invert_down=p.invert_down - by),
        },
    )


def state(project, rule="cover_min"):
    return next(f for f in findings(project) if f.rule == rule)


def test_an_accepted_finding_stays_listed_and_counts_no_more():
    found = findings(accepted(v_project()))
    assert found.breaches == len(findings(v_project())) - 1
    assert found.decided == 1
    f = state(accepted(v_project()))
    assert f.decided
    assert (f.look, f.decision.reason, f.decision.by, f.decision.value) == (
        "decided",
        "toe of the headwall",
        "AB",
        approx(0.305),
    )
    assert verdict(f) == "accepted by AB: toe of the headwall"


@pytest.mark.parametrize(
    ("change", "why"),
    [
        (lambda p: lowered(p, 0.1), ""),  # better
        (lambda p: lowered(p, -1e-7), ""),  # no worse than a millionth
        (lambda p: lowered(p, -0.001), "worse"),
        (lambda p: with_standard(p, cover_min=1.0), "limit"),
        (lambda p: with_standard(p, cover_max=5.0), ""),
    ],
)
def test_it_opens_again_when_it_gets_worse_or_its_limit_changes(change, why):
    f = state(change(accepted(v_project())))
    assert f.reopened == why
    assert f.decided is not bool(why)
    assert bool(why) is ("open again" in remark(facts_of(v_project()), f))


def test_it_opens_again_when_its_place_moves_over_a_metre():
    p, _ = add_service(
        chain([(48.0, 47.5)]), "power", [(25.0, -10.0, 48.3), (25.0, 10.0, 48.3)], "E1", 0.1, 0.3
    )
    p = accepted(p, "clearance")
    key = next(iter(p.services))

    def moved(x):
        points = ((x, -10.0, 48.3), (x, 10.0, 48.3))
        return replace(p, services={key: replace(p.services[key], points=points)})

    assert state(moved(25.5), "clearance").reopened == ""
    assert state(moved(26.5), "clearance").reopened == "moved"
    assert state(moved(23.0), "clearance").reopened == "worse"  # nearer to the higher end


def test_levels_may_move_together_as_long_as_the_room_between_them_stays():
    p = chain([(48.0, 47.5), (47.6, 47.0)])  # the outlet over the inlet's invert
    p = accepted(p, "outlet_lowest")
    both = {
        k: replace(q, invert_up=q.invert_up - 0.2, invert_down=q.invert_down - 0.2)
        for k, q in p.pipes.items()
    }
    assert state(replace(p, pipes=both), "outlet_lowest").decided
    assert state(with_pipe(p, "P2", "S2", "S3", 47.65, 47.0), "outlet_lowest").reopened == "worse"


def test_it_is_reopened_by_hand_and_needs_a_reason_and_initials():
    p = accepted(v_project())
    assert findings(reopen(p, list(p.decisions))).decided == 0
    assert reopen(p, ["no such"]) is p
    found = list(findings(v_project()))
    for reason, by in (("", "AB"), ("  ", "AB"), ("agreed", ""), ("agreed", "too many letters")):
        with pytest.raises(EditError):
            decide(v_project(), found, reason, by)
    assert decide(p, [], "agreed", "AB") is p


def test_decisions_travel_in_the_file_and_in_reports(tmp_path):
    p = accepted(v_project())
    save(p, tmp_path / "a.zumbert")
    again = load(tmp_path / "a.zumbert")
    assert again.decisions == p.decisions
    facts = analyse(again)
    report = check_report(tmp_path / "a.zumbert", facts, check(again, facts))
    assert report["counts"]["decided"] == 1
    assert report["counts"]["breach"] == findings(v_project()).breaches - 1
    told = next(f for f in report["findings"] if f["rule"] == "cover_min")
    assert told["decision"] == {"reason": "toe of the headwall", "by": "AB", "value": approx(0.305)}
    open_ones = [f for f in report["findings"] if f["rule"] != "cover_min"]
    assert all(f["decision"] is None for f in open_ones)


def test_a_decision_about_what_is_gone_does_no_harm():
    p = accepted(v_project())
    bare = replace(p, pipes={})
    assert findings(bare).decided == 0
    assert msgspec.json.decode(msgspec.json.encode(bare), type=Project).decisions == p.decisions


def test_a_drag_that_makes_it_worse_opens_it_with_the_findings_kept():
    p = accepted(v_project())
    facts = analyse(p)
    kept = check(p, facts)
    worse = lowered(p, -0.05)
    after = check(worse, analyse(worse, facts), kept)
    assert next(f for f in after if f.rule == "cover_min").reopened == "worse"
    assert (after.breaches, after.decided) == (kept.breaches + 1, 0)
    moved = replace(
        worse,
        structures={**worse.structures, "A": replace(worse.structures["A"], place=Free(0.5, 0.0))},
    )
    assert check(moved, analyse(moved, analyse(worse, facts)), after) == check(
        moved, analyse(moved)
    )


def test_two_structures_of_one_rule_are_decided_one_by_one():
    p = with_structure(with_structure(v_project(), "C", 10, 10), "D", 20, 20)
    lone = [f for f in findings(p) if f.rule == "no_outfall"]
    assert len(lone) > 1
    one = decide(p, lone[:1], "agreed", "AB")
    assert [f.decided for f in findings(one) if f.rule == "no_outfall"].count(True) == 1
