import numpy as np
import pytest
from msgspec.structs import replace
from pytest import approx

from tests.delivery.places import texts_on, window_on
from zumbert.delivery.job import Job
from zumbert.delivery.pages import leaves, page
from zumbert.delivery.revisions import changed_things, differences, issued, last_issue, next_name
from zumbert.delivery.schedules import schedules
from zumbert.drawing.marks import Inset, Stroke
from zumbert.drawing.sight import MapSight
from zumbert.edits.join import deleted
from zumbert.edits.levels import set_invert
from zumbert.edits.records import structure_labelled
from zumbert.errors import EditError
from zumbert.model.sheet import Issue


def after_issue(job):
    project = issued(job.project, job.facts, "A", "2026-11-27", "for tender")
    p5 = next(k for k, p in project.pipes.items() if p.label == "P5")
    return set_invert(project, p5, "up", project.pipes[p5].invert_up - 0.05), p5


def test_nothing_differs_from_what_was_issued_just_now(job):
    project = issued(job.project, job.facts, "A", "2026-11-27", "for tender")
    issue = last_issue(project)
    assert (issue.name, issue.date, issue.words) == ("A", "2026-11-27", "for tender")
    assert differences(Job(project).facts, issue) == ()


def test_a_level_that_changed_is_told_by_field_with_what_follows(job):
    project, p5 = after_issue(job)
    found = differences(Job(project).facts, last_issue(project))
    mine = {d.field.key: (d.old, d.new) for d in found if d.id == p5}
    assert mine["invert_up"] == (
        approx(job.project.pipes[p5].invert_up),
        approx(job.project.pipes[p5].invert_up - 0.05),
    )
    assert {"slope", "cover"} <= mine.keys() and "invert_down" not in mine and "label" not in mine
    assert all(
        job.units.length(a) != job.units.length(b)
        for k, (a, b) in mine.items()
        if k.startswith("length")
    )  # none as written
    structures, pipes = changed_things(Job(project).facts, last_issue(project))
    assert p5 in pipes
    assert "S5" in [project.structures[k].label for k in structures]


def test_what_came_and_went_is_told(job):
    project = issued(job.project, job.facts, "A", "2026-11-27", "")
    s17 = structure_labelled(project, "S17").id
    gone = deleted(project, job.facts, frozenset({s17}), frozenset())[0]
    found = differences(Job(gone).facts, last_issue(project))
    away = [d for d in found if d.field is None and d.new is None]
    assert "S17" in {d.label for d in away}


def test_schedules_show_old_and_new_and_a_list_goes_out(job):
    project, _ = after_issue(job)
    there = Job(project)
    pipes, changes = schedules(there, ("pipes", "differences"))
    assert pipes.columns[-1].head == "Changed since A"
    cells = {row[0]: row[-1] for row in pipes.rows}
    assert "→" in cells["P5"] and "Invert up" in cells["P5"] and cells["P1"] is None
    rows = [r for r in changes.rows if r[1] == "P5" and r[2] == "Invert up"]
    assert len(rows) == 1 and rows[0][3] != rows[0][4]
    assert schedules(job, ("differences",)) == []
    assert schedules(job, ("pipes",))[0].columns[-1].head != "Changed since A"


def test_sheets_mark_the_place_with_a_cloud_and_the_next_revision(job):
    project, p5 = after_issue(job)
    there = Job(project)
    made = leaves(there)
    plan = next(leaf for leaf in made if leaf.sheet.kind == "plan")
    drawn = page(there, plan, made)
    marks = [
        m
        for i in drawn.marks
        if isinstance(i, Inset)
        for m in i.marks
        if isinstance(m, Stroke) and m.role == "revision"
    ]
    assert len(marks) >= 2
    _, window = window_on(drawn, MapSight)
    span = there.facts.spans[p5]
    [[x, y]] = window.to_drawing(np.array([span.point(span.length / 2)])).tolist()
    boxes = [(*m.xy.min(axis=0), *m.xy.max(axis=0)) for m in marks if len(m.xy) > 10]
    assert any(a <= x <= c and b <= y <= d for a, b, c, d in boxes)
    words = {t.text for t, *_ in texts_on(drawn.marks)}
    assert "B" in words and "for tender" in words  # the triangle, and the list of revisions
    section = next(leaf for leaf in made if leaf.sheet.kind == "plan-and-section")
    assert any(
        isinstance(m, Stroke) and m.role == "revision"
        for i in page(there, section, made).marks
        if isinstance(i, Inset)
        for m in i.marks
    )
    clean = [m for i in page(job, plan, made).marks if isinstance(i, Inset) for m in i.marks]
    assert not any(isinstance(m, Stroke) and m.role == "revision" for m in clean)


@pytest.mark.parametrize(
    ("name", "words"), [("A", 'already a revision "A"'), (" ", "needs a name")]
)
def test_a_revision_is_issued_once(job, name, words):
    project = issued(job.project, job.facts, "A", "2026-11-27", "")
    with pytest.raises(EditError, match=words):
        issued(project, job.facts, name, "2026-11-28", "")


def test_revisions_go_on_by_letters():
    from zumbert.model.project import new_project

    project = new_project("x")
    assert next_name(project) == "A"
    issues = {f"i{n}": Issue(id=f"i{n}", name=chr(ord("A") + n), date="") for n in range(26)}
    assert next_name(replace(project, issues=issues)) == "AA"
    assert next_name(replace(project, issues={"i1": Issue(id="i1", name="P1", date="")})) == "B"
