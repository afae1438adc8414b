"""The session: what becomes of the history."""

import gc
import weakref

import pytest
from msgspec.structs import replace

from zumbert.analysis.runline import RunKey
from zumbert.app.session import Session
from zumbert.app.stages.table import STAGES
from zumbert.app.value import value
from zumbert.checks.legal import end_range
from zumbert.checks.sentences import sentence
from zumbert.demo.project import demo_project
from zumbert.drawing.longsection import section_marks
from zumbert.drawing.sight import SectionSight
from zumbert.edits.levels import set_invert
from zumbert.edits.runs import name_run
from zumbert.model.project import new_project

DEMO = demo_project()
PIPE = next(iter(DEMO.pipes))


@pytest.fixture
def session(qapp):
    return Session(DEMO)


def at_level(session, level):
    session.edit(f"to {level}", lambda p, f: set_invert(p, PIPE, "up", level))


def level(session):
    return session.state.current.project.pipes[PIPE].invert_up


def test_a_new_edit_empties_what_can_be_made_again(session):
    at_level(session, 41.1)
    at_level(session, 41.2)
    session.undo()
    assert session.history.redo_name == "to 41.2"
    at_level(session, 41.3)
    assert session.history.redo_name is None
    session.redo()
    assert level(session) == 41.3
    session.undo()
    assert level(session) == 41.1


def test_it_goes_back_to_an_earlier_value_only(session):
    at_level(session, 41.1)
    earlier = session.state.current
    at_level(session, 41.2)
    at_level(session, 41.3)
    assert session.back_to(earlier)
    assert session.state.current is earlier
    session.redo()
    session.redo()
    assert level(session) == 41.3  # nothing is lost
    assert not session.back_to(session.state.current)
    other = value(DEMO)
    assert not session.back_to(other)
    assert level(session) == 41.3


def test_what_is_tried_after_a_run_was_named_shows_the_run_from_before(session):
    """The pointer rests on a tick that would name the run, and a level is typed meanwhile."""
    before = session.state.look.run
    named, run = name_run(DEMO, session.state.look.run_key, "a name")
    session.preview(named, run_key=RunKey("named", run))
    assert session.state.look.run.name == "a name"
    session.preview(set_invert(DEMO, PIPE, "up", 41.1))
    assert session.state.look.run is not None
    assert session.state.look.run.key == before.key


def test_an_edit_that_fails_inside_leaves_history_and_value_alone(session):
    at_level(session, 41.1)
    before = session.state.current

    def fail(project, facts):
        raise KeyError("a fault of an edit")

    with pytest.raises(KeyError):
        session.edit("fails", fail)
    assert session.state.current is before
    assert session.history.undo_names == ["to 41.1"]


def test_what_one_action_does_is_one_change(user):
    """Going to a finding selects, turns to its run, moves the cursor and notes the visit."""
    seen = []
    user.session.changed.connect(lambda old, new: seen.append((old, new)))
    finding = next(f for f in user.session.state.current.findings if f.structure is not None)
    user.window.going.to_finding(finding)
    assert len(seen) == 1
    old, new = seen[0]
    assert old.chosen.visited is None and new.chosen.visited is finding
    user.do("lay")
    assert len([s for s in seen[1:] if s[0].look.stage != s[1].look.stage]) == 1


def test_a_fault_in_the_middle_of_an_action_shows_what_was_done(user):
    seen = []
    user.session.changed.connect(lambda old, new: seen.append(new))
    with pytest.raises(ZeroDivisionError), user.session.as_one():
        user.session.to_stage("trench")
        user.session.set(cursor=1 / 0)
    assert [s.look.stage.id for s in seen] == ["trench"]
    user.session.set(cursor=2.0)  # and the next change is seen at once
    assert seen[-1].at.cursor == 2.0


def test_a_project_that_is_closed_is_gone(qapp):
    """No cache of the core keeps its ground, whatever was worked out of it."""
    session = Session(replace(DEMO, name="Another"), stages=STAGES)
    session.to_stage("trench")
    s = session.state
    f = s.current.facts.pipes[PIPE]
    assert end_range(s.current.facts, f, "up").low < end_range(s.current.facts, f, "up").high
    assert [sentence(s.current.facts, n) for n in s.current.findings]
    shape = {"width": 900.0, "height": 480.0, "left": 84.0, "x": 0.0, "z": 30.0}
    sight = SectionSight(**shape, sx=4.0, sz=20.0)
    assert section_marks(s.section, sight, None).drawing
    gone = weakref.ref(s.current.facts.surfaces.existing)
    del s, f
    session.open(new_project("Empty"), None)
    gc.collect()
    assert gone() is None


def test_after_a_project_with_a_cross_section_an_empty_one_shows_none(user):
    user.window.go_stage("trench")
    assert user.window.centre.of("trench").places
    user.window.go_stage("levels")
    user.session.open(new_project("Empty"), None)
    user.window.go_stage("trench")
    user.settle()
    assert user.window.centre.of("trench").places == []
