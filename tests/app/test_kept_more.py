"""The foot, the tables, the cross-section, the sheet and the scene in space, after edits, are what
ones made from nothing would be.
"""

import numpy as np
import pytest
import shiboken6

from tests.amount import times
from tests.app.test_kept_views import BASE, NAMES, QUIET, ROUNDED, Looking, drawn, edited, told
from zumbert.app.bars.foot import Foot
from zumbert.app.main import application
from zumbert.app.stages.trench.crossview import CrossView
from zumbert.app.tables.drawer import TablesDrawer
from zumbert.delivery.job import Job
from zumbert.delivery.pages import leaves, page
from zumbert.space.scene import scene


def after_edits(user, name, at, differences, begin=lambda project: None):
    """The differences while an edit is tried, when it is made and when it is taken back; `begin`
    brings into sight what it will change.
    """
    session, wrong = user.session, []
    session.open((BASE, QUIET)[at % 2], None)
    project = edited(session, name, np.random.default_rng(sum(map(ord, name))))
    if project is None:
        return []
    begin(project)

    def look(when):
        application().processEvents()
        wrong.extend(f"{when}: {d}" for d in differences())

    look("before")
    session.preview(project, told=True)
    look("tried")
    session.apply(name, project, told=True)
    look("made")
    session.undo()
    look("taken back")
    session.redo()
    look("made again")
    return wrong


def both(kept, new):
    a, b = told(kept), told(new)
    return [*(f"shows {x}" for x in a - b), *(f"lacks {x}" for x in b - a)]


@pytest.mark.parametrize("name", NAMES)
def test_the_foot(user, name):
    user.in_stage("levels")
    x, y = 1500.0, 1000.0

    def differences():
        new = Foot(Looking(user.session), user.window.foot._hint)
        try:
            return both(user.window.foot, new)
        finally:
            shiboken6.delete(new)

    user.session.point_at((x, y), 20.0)
    assert after_edits(user, name, 0, differences) == []


@pytest.mark.parametrize("name", NAMES)
def test_the_tables(user, name):
    place = NAMES.index(name)
    user.in_stage("layout")
    user.do("tables")
    drawer = user.window.centre.tables

    def differences():
        out = []
        for kind in drawer.kinds[place % 3 :: 3]:
            drawer.show_kind(kind)
            new = TablesDrawer(Looking(user.session), user.window.pen, lambda: None)
            try:
                new.resize(drawer.size())
                new.show_kind(kind)
                out += [f"{kind} {d}" for d in both(drawer, new)]
            finally:
                shiboken6.delete(new)
        return out

    try:
        assert after_edits(user, name, place, differences) == []
    finally:
        user.do("tables")


@pytest.mark.parametrize("name", NAMES)
def test_the_cross_section(user, name):
    user.in_stage("trench")
    kept = user.window.centre.of("trench")

    def differences():
        new = CrossView(Looking(user.session), user.window.pen)
        new.resize(kept.size())
        new.at, new.scale, new.stretch, new.moved = kept.at, kept.scale, kept.stretch, kept.moved
        try:
            a, b = drawn(kept), drawn(new)
            other = a.shape != b.shape or np.abs(a - b).max() > ROUNDED
            return ["it is painted otherwise"] if other else []
        finally:
            shiboken6.delete(new)

    def pinned(project):
        """Pins sections of pipes that are about to change, else of the first ones."""
        spans, was = user.facts.spans, user.project.pipes
        here = [p for p in was if p in project.pipes]
        there = [p for p in here if project.pipes[p] != was[p]] or here
        user.session.set(sections=tuple((p, spans[p].length / 2) for p in there[:3]))

    assert after_edits(user, name, NAMES.index(name), differences, pinned) == []


@pytest.mark.parametrize("name", NAMES[:: times(3, 1)])
def test_the_sheet(user, name):
    user.in_stage("deliver")
    view = user.window.centre.of("deliver")

    def differences():
        v = user.session.state.shown
        job = Job(v.project, v.facts, v.findings)
        every = leaves(job)
        shown = view.picked
        numbers = [leaf.number for leaf in view._leaves(user.session.state).leaves]
        if numbers != [leaf.number for leaf in every]:
            return [f"it lists {numbers}"]
        if shown is None:
            return []
        new = page(job, every[shown.place - 1], every)
        return [] if repr(view.sheet.page) == repr(new) else ["the sheet is another"]

    assert after_edits(user, name, NAMES.index(name), differences) == []


@pytest.mark.parametrize("name", NAMES)
def test_the_scene_in_space(user, name):
    user.in_stage("levels")
    user.do("space")
    view = user.window.centre.space

    def differences():
        view.compose()
        s = user.session.state
        new = scene(view._pictured(s), s.look.space)
        if view.scene.parts.keys() != new.parts.keys():
            return [f"other parts: {view.scene.parts.keys() ^ new.parts.keys()}"]
        out = []
        for key, part in new.parts.items():
            had = view.scene.parts[key]
            if had.role != part.role or not np.array_equal(had.box, part.box, equal_nan=True):
                out.append(f"{key} is another")
        return out

    try:
        assert after_edits(user, name, NAMES.index(name), differences) == []
    finally:
        user.session.set(space_at="")
