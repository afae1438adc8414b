"""What is in sight: no tool moves it, going to a thing shows it in both drawings, and what is
shown is what a click takes.
"""

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from pytest import approx

from tests.build import chain
from zumbert.analysis.runline import RunKey
from zumbert.app.views.layered import Stretched
from zumbert.drawing.sight import MapSight, StraightSight
from zumbert.model.structure import Anchored


def looks(sight):
    if isinstance(sight, MapSight):
        return sight
    return (
        sight.line.point(np.array([20.0, 50.0])),
        sight.first,
        sight.scale,
        sight.middle,
        sight.left,
    )


@pytest.mark.parametrize(
    "tool", ["lay", "gullies", "line-pipes", "spot", "make-road", "measure", "probe", "regrade"]
)
@pytest.mark.parametrize("straight", [True, False])
def test_no_tool_moves_the_plan(user, tool, straight):
    user.session.set(straight=straight)
    user.section.zoomed(2.0, 400, 100, Qt.KeyboardModifier.NoModifier)
    user.settle()
    before = looks(user.plan.sight)
    user.do(tool)
    user.move(user.plan, 300, 100)
    user.move(user.plan, 420, 140)
    user.settle()
    assert isinstance(user.plan.sight, StraightSight if straight else MapSight)
    assert repr(looks(user.plan.sight)) == repr(before)
    user.key(user.plan, Qt.Key.Key_Escape)
    user.key(user.plan, Qt.Key.Key_Escape)
    assert repr(looks(user.plan.sight)) == repr(before)


def road_key(user):
    return RunKey("road", next(iter(user.project.roads)))


def test_a_run_is_laid_in_the_straightened_plan_over_the_road_s_section(user):
    user.session.show_run(road_key(user))
    user.settle()
    user.do("lay")
    before = looks(user.plan.sight)
    x = user.section.sight.x_of(351.5)
    y = user.plan.sight.middle - 9.0 * user.plan.sight.scale
    user.click(user.plan, x, y)
    user.move(user.plan, x + 60, y)
    user.settle()
    # it lies chainage for chainage over what is laid
    assert user.session.state.look.run_key == road_key(user)
    assert any(r.pipe in user.session.state.held.fresh for r in user.session.state.look.run.reaches)
    user.click(user.plan, x + 60, y)
    made = list(user.project.structures.values())[-2:]
    assert [s.place.chainage for s in made] == [
        approx(user.section.sight.s_at(round(v)), abs=0.26) for v in (x, x + 60)
    ]
    assert all(isinstance(s.place, Anchored) for s in made)
    assert repr(looks(user.plan.sight)) == repr(before)


def test_beyond_the_end_of_a_run_the_straightened_plan_goes_on(user):
    run = user.session.state.look.run
    user.section.zoomed(0.6, 400, 100, Qt.KeyboardModifier.NoModifier)
    user.settle()
    x = user.section.sight.x_of(run.start + run.length) + 40
    user.do("lay")
    before = looks(user.plan.sight)
    user.move(user.plan, x, user.plan.sight.middle)
    assert user.session.state.held.fresh
    user.click(user.plan, x, user.plan.sight.middle)
    user.click(user.plan, x - 30, user.plan.sight.middle + 50)
    assert repr(looks(user.plan.sight)) == repr(before)
    user.wheel(user.plan, x, 60, 1)  # zooms the plan alone: the section shows what is laid
    assert user.plan.sight.scale == approx(before[2] * 1.25)
    user.key(user.plan, Qt.Key.Key_Escape)
    user.key(user.plan, Qt.Key.Key_Escape)
    assert user.session.state.look.run_key == run.key


def test_while_laying_the_section_shows_what_is_laid_at_a_useful_scale(user):
    user.session.set(straight=False)
    user.plan.map = replace(user.plan.map, scale=4.0, x=1640.0, y=905.0)
    user.plan.update()
    user.do("lay")
    user.settle()
    user.click(user.plan, 300, 60)
    assert user.session.state.look.run is not None
    assert 100 <= user.section.scales()[0] <= 3000
    for x in (340, 420, 500):
        user.move(user.plan, x, 90)
        user.settle()
        s = user.session.state
        reach = next(r for r in s.look.run.reaches if r.pipe in s.held.fresh)
        ends = sorted(user.section.sight.x_of(v) for v in (reach.up, reach.down))
        assert user.section.sight.left <= ends[0]
        assert ends[1] <= user.section.width()
        assert ends[1] - ends[0] >= 60
        user.click(user.plan, x, 90)


def test_while_joining_the_section_shows_the_pipe_to_come(user):
    user.session.set(straight=False)
    user.plan.fit_map()
    user.do("lay")
    user.window.toolbox.tool.set_mode("join")
    user.settle()
    for label in ("S14", "S10"):
        s = user.structure(label)
        p = user.facts.places[s.id]
        user.move(user.plan, *user.in_plan(p.x, p.y))
        if label == "S14":
            user.click(user.plan, *user.in_plan(p.x, p.y))
    s = user.session.state
    assert any(r.pipe in s.held.fresh for r in s.look.run.reaches)


def test_after_a_wheel_what_is_shown_is_what_a_click_takes(user):
    user.session.set(straight=False)
    user.plan.map = replace(user.plan.map, scale=1.2, x=1640.0, y=905.0)
    user.plan.update()
    user.do("lay")
    user.settle()
    user.move(user.plan, 300, 60)
    for steps in (2, 3, -1, 4):
        user.wheel(user.plan, 300, 60, steps)
        shown = user.window.toolbox.tool._next[0]
        assert user.window.chips.buttons["scale"].text() == f"Plan 1:{user.plan.scale_ratio():.0f}"
    user.click(user.plan, 300, 60)
    assert list(user.project.structures.values())[-1].place == shown


def test_a_drag_with_the_lay_tool_moves_the_drawing_and_places_nothing(user):
    user.session.set(straight=False)
    user.do("lay")
    user.settle()
    before, at = user.project, user.plan.map
    user.drag(user.plan, (300, 100), (380, 130))
    assert user.project is before
    assert (user.plan.map.x, user.plan.map.scale) == (approx(at.x - 80 / at.scale), at.scale)
    user.click(user.plan, 300, 100)
    assert user.project is not before


def test_a_double_click_brings_a_pipe_to_a_working_scale_in_both_drawings(user):
    user.session.set(straight=False)
    user.plan.fit_map()
    user.settle()
    pipe = user.pipe("S10", "S9")
    target = next(t for t in user.plan.targets if t.id == pipe.id)
    x, y = target.xy.mean(axis=0)
    user.click(user.plan, x, y)
    user.bot.mouseDClick(
        user.plan, Qt.MouseButton.LeftButton, pos=user.plan.rect().topLeft() + _point(x, y)
    )
    user.settle()
    assert user.session.state.chosen.pipes == {pipe.id}
    assert 100 <= user.plan.scale_ratio() <= 600
    span = user.facts.spans[pipe.id]
    at = user.in_plan(*span.point(span.length / 2))
    assert 40 < at[0] < user.plan.width() - 40
    reach = next(r for r in user.session.state.look.run.reaches if r.pipe == pipe.id)
    assert user.section.sight.left < user.section.sight.x_of(min(reach.up, reach.down))


def _point(x, y):
    from PySide6.QtCore import QPoint

    return QPoint(round(x), round(y))


def test_going_to_a_thing_shows_it_in_both_drawings(user):
    user.session.set(straight=False)
    user.plan.fit_map()
    for label in ("S17", "S3", "G2L"):
        user.window.finder.setText(label)
        user.window.finder.take(label)
        user.settle()
        s = user.structure(label)
        p = user.facts.places[s.id]
        x, y = user.in_plan(p.x, p.y)
        assert 0 < x < user.plan.width() and 0 < y < user.plan.height()
        assert 100 <= user.plan.scale_ratio() <= 600
        at = next(at for k, at in user.session.state.look.run.structures if k == s.id)
        assert user.section.sight.left < user.section.sight.x_of(at) < user.section.width()


def test_f_fits_what_is_selected_then_all_in_the_drawing_under_the_pointer(user, monkeypatch):
    user.session.set(straight=False)
    user.plan.fit_map()
    user.settle()
    whole, all_of_it = user.plan.map, user.section.sight
    user.session.select(pipes=frozenset({user.pipe("S5", "S4").id}), follow=False)
    monkeypatch.setattr(type(user.plan), "underMouse", lambda self: self is user.plan)
    user.do("fit")
    assert user.plan.map.scale > whole.scale
    assert user.section.sight == all_of_it
    user.do("fit")
    assert user.plan.map == whole
    monkeypatch.setattr(type(user.plan), "underMouse", lambda self: self is not user.plan)
    monkeypatch.setattr(type(user.section), "underMouse", lambda self: True)
    user.do("fit")
    assert user.section.sight.sx > all_of_it.sx
    user.do("fit")
    assert user.section.sight.sx == all_of_it.sx


def test_the_state_line_counts_no_preview_of_what_is_not_placed(user):
    before = user.window.head.state.parts()[:2]
    user.do("lay")
    user.settle()
    for x in range(200, 700, 60):
        user.move(user.plan, x, 40)
        assert user.window.head.state.parts()[:2] == before
        if x == 260:
            user.click(user.plan, x, 40)
            before = user.window.head.state.parts()[:2]


def test_a_section_is_made_sharp_in_slices_and_a_notch_waits_for_none_of_it(user):
    user.session.open(chain([(49.0 - i * 0.05, 48.97 - i * 0.05) for i in range(200)]), None)
    user.settle()
    view = user.section
    view.repaint()
    user.wheel(view, 400, 120, 1)
    view.settling.timeout.emit()
    view._making._go_on()
    assert view._making.active and view.zooming  # it goes on between events
    sight = view.sight
    user.wheel(view, 400, 120, 1)
    # the notch was taken at once, and what was made is dropped
    assert not view._making.active and view.sight != sight
    assert any(isinstance(layer, Stretched) for layer in view.layers())
    user.bot.waitUntil(lambda: not view.zooming)
    slices = view.layers()[0][0].toImage()
    view._kept.clear()
    assert view.layers()[0][0].toImage() == slices  # drawn in slices or in one: the same
    near = next(t for t in view.targets if t.kind == "structure" and 200 < t.xy[0][0] < 500)
    assert view.hit(*near.xy.mean(axis=0)).id == near.id


def test_what_changes_while_a_section_is_made_sharp_is_drawn_as_it_is_now(user):
    view = user.section
    user.wheel(view, 400, 120, 1)
    view.settling.timeout.emit()
    user.session.select(frozenset({user.pipe("S5", "S4").id}))
    user.bot.waitUntil(lambda: not view.zooming)
    drawn = view.layers()[0][0].toImage()
    view._kept.clear()
    assert view.layers()[0][0].toImage() == drawn


@pytest.mark.parametrize("way", [(60, -25), (-45, 30), (8, 60)])
def test_what_is_dragged_in_a_straightened_plan_lies_under_the_pointer(user, way):
    s15 = user.structure("S15").id
    # its line goes through what is dragged
    user.session.show_run(RunKey("run", user.structure("S17").id))
    user.settle()
    sight = user.plan.sight
    at = next(t for t in user.plan.targets if t.id == s15 and t.kind == "structure").xy.mean(axis=0)
    a = (float(at[0]), float(at[1]))
    b = (round(a[0]) + way[0], round(a[1]) + way[1])
    user.press(user.plan, *a)
    for share in (0.3, 0.7, 1.0):
        user.move(
            user.plan,
            round(a[0] + (b[0] - a[0]) * share),
            round(a[1] + (b[1] - a[1]) * share),
            True,
        )
        user.settle()
        assert repr(looks(user.plan.sight)) == repr(looks(sight))
    user.release(user.plan, *b)
    place = user.facts.places[s15]
    assert np.hypot(*(sight.to_drawing(np.array([[place.x, place.y]]))[0] - b)) < 1.0
    assert user.plan.sight.line is not sight.line  # then the plan follows the run
