"""The view in space, through the real window."""

import sys

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QInputDialog
from pytest import approx

from zumbert.analysis.runline import RunKey
from zumbert.app.views import spaceview
from zumbert.app.views.view import SETTLE
from zumbert.edits.notes import add_pin
from zumbert.space import context as contexts
from zumbert.space.over import cursor_place
from zumbert.space.scene import near_side


@pytest.fixture
def space(user):
    """The view in space in the plan's place, at rest."""
    user.do("space")
    rest(user)
    return user.window.centre.space


def rest(user):
    """Nothing moves any more, and what lies where can be asked."""
    space = user.window.centre.space
    space.settling.setInterval(SETTLE)
    if space.settling.isActive():
        space.settling.start()
    user.bot.waitUntil(lambda: not space.settling.isActive())
    space.grab()


def seen_at(space, kind, key):
    """A drawing place at which a part is seen."""
    pen = space._asked()
    y, x = np.nonzero(pen.numbers() == pen.register.numbers[kind, key])
    assert len(x), "not seen"
    i = np.argmin((x - np.median(x)) ** 2 + (y - np.median(y)) ** 2)
    return int(x[i]), int(y[i])


def near(user, label):
    """Looks at a structure from near by."""
    space = user.window.centre.space
    user.session.select(structures=frozenset([user.structure(label).id]))
    space.fit_selected()
    rest(user)
    return user.structure(label).id


def test_f3_shows_space_in_the_plans_place_then_beside_then_no_more(user):
    centre = user.window.centre
    assert not centre.space_seen
    user.key(user.plan, Qt.Key.Key_F3)
    assert centre.space.isVisible() and not user.plan.isVisible() and centre.space.hasFocus()
    wide = centre.space.width()
    user.key(centre.space, Qt.Key.Key_F3)
    assert centre.space.isVisible() and user.plan.isVisible()
    assert centre.space.width() < 0.7 * wide and user.plan.width() > 200
    user.key(centre.space, Qt.Key.Key_F3)
    assert not centre.space.isVisible() and user.plan.isVisible() and user.plan.hasFocus()
    assert not centre.space_seen


def test_the_chip_of_the_plan_shows_it_and_its_own_chip_brings_the_plan_beside(user):
    user.window.chips.buttons["space"].click()
    user.settle()
    centre = user.window.centre
    assert user.session.state.look.space_at == "place"
    chips = centre.chips.buttons
    assert all(b.isVisible() for b in chips.values())
    chips["beside"].click()
    user.settle()
    assert user.session.state.look.space_at == "beside" and user.plan.isVisible()
    assert chips["beside"].text() == "\u2713 Plan beside"
    edge = centre.space.width()
    boxes = [b.geometry() for b in chips.values()]
    assert all(b.right() < edge for b in boxes)  # in as many lines as they need
    assert not any(a.intersects(b) for i, a in enumerate(boxes) for b in boxes[:i])
    chips["beside"].click()
    user.settle()
    assert user.session.state.look.space_at == "place"


def test_the_whole_centre_and_back(user, space):
    centre = user.window.centre
    user.session.set(space_at="beside")
    space.setFocus()
    user.do("whole")
    assert space.isVisible() and not user.section.isVisible() and not user.plan.isVisible()
    user.do("whole")
    assert space.isVisible() and user.section.isVisible() and user.plan.isVisible()
    user.session.set(space_at="place")
    user.do("whole")
    assert space.isVisible() and not user.section.isVisible()
    user.do("whole")
    assert not user.plan.isVisible() and user.section.isVisible() and centre.space_seen


def test_a_click_in_space_selects_in_all_three_and_nothing_takes_it_away(user, space):
    key = near(user, "S4")
    user.session.select()
    rest(user)
    user.click(space, *seen_at(space, "structure", key))
    assert user.session.state.chosen.structures == {key}
    assert user.window.side.panel.structure == key
    rest(user)
    pipe = next(p for p in user.project.pipes.values() if p.down == key and p.label == "P5")
    user.click(space, *seen_at(space, "pipe", pipe.id), keys=Qt.KeyboardModifier.ControlModifier)
    assert user.session.state.chosen.structures == {key} and user.session.state.chosen.pipes == {
        pipe.id
    }
    empty = np.argwhere(space._asked().numbers() < 0)
    free = next((x, y) for y, x in empty[::97].tolist() if y > 80 and space.hit(x, y) is None)
    user.click(space, *free)
    assert not user.session.state.chosen.structures and not user.session.state.chosen.pipes


def test_what_is_pointed_at_in_one_drawing_is_lit_in_the_others(user, space):
    user.session.set(space_at="beside")
    key = near(user, "S4")
    user.session.select()
    rest(user)
    user.settle()
    assert user.plan.pointed_marks() == [] == user.section.pointed_marks()
    user.move(space, *seen_at(space, "structure", key))
    assert user.session.state.at.pointed == key
    user.settle()
    assert user.plan.pointed_marks() and user.section.pointed_marks()
    lit = space._space.looked
    space.leaveEvent(None)
    assert user.session.state.at.pointed is None and user.plan.pointed_marks() == []
    pipe = user.pipe("S5", "S4")
    user.section.fit_pipe(pipe.id)
    user.settle()
    user.move(user.section, *user.along(pipe.id, 0.5))
    assert user.session.state.at.pointed == pipe.id
    space.grab()
    assert space._space.looked != lit  # its outline


def test_it_is_drawn_again_only_where_something_is_another(user, space, monkeypatch):
    key = near(user, "S4")
    user.session.select()
    rest(user)
    x, y = seen_at(space, "structure", key)
    # it goes on moving, however slow the machine is, until it is told to rest
    space.settling.setInterval(3_600_000)
    drawn, draw = [], space._space.draw
    monkeypatch.setattr(
        space._space,
        "draw",
        lambda eye, size, *more: drawn.append((size, more)) or draw(eye, size, *more),
    )
    places = np.argwhere(space._asked().numbers() < 0)[::3001].tolist()
    empty = [(a, b) for b, a in places if space.hit(a, b) is None][:6]
    drawn.clear()
    composed = []
    for name in ("scene", "over"):  # nor is anything composed again
        monkeypatch.setattr(
            spaceview,
            name,
            lambda *a, f=getattr(spaceview, name), **k: composed.append(1) or f(*a, **k),
        )
    for a, b in empty:
        user.move(space, a, b)
        space.grab()
    assert drawn == [] == composed  # the pointer over nothing
    whole = (space.width(), space.height())
    user.move(space, x, y)
    space.grab()
    assert [size for size, _ in drawn] == [whole]  # its outline, at once and not half as fine
    rest(user)
    assert drawn[-1][1][-1] is True  # and then with smooth edges
    drawn.clear()
    space.settling.setInterval(3_600_000)
    user.wheel(space, x, y, 1)
    assert drawn[-1][0] == (round(whole[0] / 2), round(whole[1] / 2))
    rest(user)
    assert drawn[-1][0] == whole


def test_a_drag_turns_about_what_is_under_the_pointer(user, space):
    key = near(user, "S4")
    x, y = seen_at(space, "structure", key)
    about = space.place_under(x, y)
    before = space.eye
    user.press(space, x, y)
    for i in range(1, 30):
        user.move(space, x + i, y + i / 3, True)
    assert space.settling.isActive()  # half as fine while it moves
    assert space.eye.drawn(space.eye.true(about))[0, :2] == approx([x, y], abs=0.1)
    user.release(space, x + 29, y + 10)
    assert space.eye.bearing != before.bearing and space.eye.tilt > before.tilt
    assert user.session.state.chosen.structures == {key}  # a drag is no click


def test_shift_moves_and_the_wheel_leads_to_the_pointer(user, space, monkeypatch):
    key = near(user, "S4")
    x, y = seen_at(space, "structure", key)
    held = space.place_under(x, y)
    monkeypatch.setattr(
        "PySide6.QtWidgets.QApplication.keyboardModifiers",
        lambda: Qt.KeyboardModifier.ShiftModifier,
    )
    user.drag(space, (x, y), (x + 60, y - 25), Qt.KeyboardModifier.ShiftModifier)
    monkeypatch.undo()
    assert space.eye.drawn(space.eye.true(held))[0, :2] == approx([x + 60, y - 25], abs=0.5)
    rest(user)
    to, far = space.place_under(x + 60, y - 25), space.eye.distance
    user.wheel(space, x + 60, y - 25, 2)
    user.wheel(space, x + 60, y - 25, 1)
    assert space.eye.distance == approx(far / 1.25**3)
    assert space.eye.drawn(space.eye.true(to))[0, :2] == approx([x + 60, y - 25], abs=0.5)


def test_arrow_keys_turn_and_with_shift_move(user, space):
    before = space.eye
    user.key(space, Qt.Key.Key_Right)
    assert space.eye.bearing != before.bearing and (space.eye.x, space.eye.y) == approx(
        (before.x, before.y)
    )
    turned = space.eye
    user.key(space, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert space.eye.bearing == turned.bearing and space.eye.y != turned.y


def test_six_views_and_fit_by_keys(user, space):
    for i, tilt in enumerate((89.9, -89.9, 0, 0, 0, 0)):
        user.key(space, Qt.Key(Qt.Key.Key_1 + i), Qt.KeyboardModifier.ControlModifier)
        assert np.degrees(space.eye.tilt) == approx(tilt)
    key = user.structure("S4").id
    user.session.select(structures=frozenset([key]))
    far = space.eye.distance
    space.setFocus()
    user.do("fit")
    assert space.eye.distance < 0.3 * far  # what is selected
    user.do("fit")
    assert space.eye.distance == approx(far, rel=0.3)  # then all


def test_a_level_dragged_in_the_section_moves_in_space_in_the_same_frame(user, space):
    pipe = user.look_at("S5", "S4")
    space.grab()
    sent = space._space.sent
    before = space.scene.parts["pipe", pipe.id]
    user.drag_ring("down", -0.4, release=False)
    space.grab()
    assert user.session.state.previewing
    tried = space.scene.parts["pipe", pipe.id]
    assert tried is not before
    by = user.shown.pipes[pipe.id].invert_down - pipe.invert_down
    assert by < -0.3
    assert tried.mesh.vertices[:, 2].min() == approx(
        before.mesh.vertices[:, 2].min() + by, abs=0.02
    )
    # where it lay
    assert [p.id for p in space.scene.parts.values() if p.kind == "former"] == [pipe.id]
    assert space._space.sent - sent < 0.1 * sent
    user.window.escape()
    space.grab()
    assert "former" not in {k for k, _ in space.scene.parts}
    after = space.scene.parts["pipe", pipe.id].mesh.vertices
    assert np.array_equal(after, before.mesh.vertices)


def test_a_level_typed_over_space_changes_the_pipe_in_hand(user, space):
    pipe = user.look_at("S5", "S4")
    space.setFocus()
    user.type(space, "40.2")
    assert space.entry.isVisible()
    user.key(space.entry.field, Qt.Key.Key_Return)
    assert user.project.pipes[pipe.id].invert_down == approx(40.2) or user.project.pipes[
        pipe.id
    ].invert_up == approx(40.2)
    user.do("undo")


def test_deleting_and_undoing_from_space(user, space):
    key = near(user, "S4")
    pipe = next(p for p in user.project.pipes.values() if p.down == key and p.label == "P5")
    user.click(space, *seen_at(space, "pipe", pipe.id))
    user.do("delete")
    assert pipe.id not in user.project.pipes
    space.grab()
    assert ("pipe", pipe.id) not in space.scene.parts
    user.do("undo")
    space.grab()
    assert ("pipe", pipe.id) in space.scene.parts


def test_a_right_click_offers_what_can_be_done_and_a_right_drag_moves(user, space):
    key = near(user, "S4")
    x, y = seen_at(space, "structure", key)
    menu = user.window.menu_at(space, x, y)
    texts = [a.text() for a in menu.actions()]
    assert texts[0] == "S4" and "Delete" in texts
    held = space.place_under(x, y)
    QTest.mousePress(space, Qt.MouseButton.RightButton, pos=QPointF(x, y).toPoint())
    space.panned(0, 0)
    at = space.eye
    space.panned(30, 10)
    assert space.eye.bearing == at.bearing
    assert space.eye.drawn(space.eye.true(held))[0, :2] == approx([x + 30, y + 10], abs=1.0)
    QTest.mouseRelease(space, Qt.MouseButton.RightButton, pos=QPointF(x, y).toPoint())


def test_a_double_click_shows_the_thing_in_all_drawings(user, space):
    user.session.set(space_at="beside")
    key = near(user, "S4")
    user.session.select()
    rest(user)
    x, y = seen_at(space, "structure", key)
    QTest.mouseDClick(space, Qt.MouseButton.LeftButton, pos=QPointF(x, y).toPoint())
    assert user.session.state.chosen.structures == {key}
    user.settle()
    assert space.eye.distance < 40
    pipe = user.pipe("S9", "S8")
    user.window.going.to_thing(pipe.id)  # as from a list, or a double click in another drawing
    x, y = user.facts.places[pipe.up].x, user.facts.places[pipe.up].y
    assert abs(space.eye.x - x) < 60 and abs(space.eye.y - y) < 60
    user.window.going.to_thing(key)
    at = user.in_plan(user.facts.places[key].x, user.facts.places[key].y)
    assert 0 < at[0] < user.plan.width() and 0 < at[1] < user.plan.height()


def test_the_chips_choose_what_is_seen(user, space):
    chips = user.window.centre.chips.buttons
    for name in ("cut", "section", "dug"):
        chips[name].click()
    space.grab()
    kinds = {k for k, _ in space.scene.parts}
    assert {"section", "trench", "pit"} <= kinds and ("ground", "left") in space.scene.parts
    chips["only"].click()
    space.grab()
    assert {k for n, k in space.scene.parts if n == "pipe"} == {
        r.pipe for r in user.session.state.look.run.reaches
    }
    chips["only"].click()
    space.grab()
    assert "pipe" not in {k for k, _ in space.scene.parts}
    chips["only"].click()
    assert chips["only"].text() == "Everything"
    texts = []
    for _ in range(5):
        chips["strength"].click()
        texts.append(chips["strength"].text())
    assert texts == [f"Ground {n} %" for n in (70, 100, 0, 20, 40)]
    chips["stretch"].click()
    assert chips["stretch"].text() == "Heights \u00d72" and space.eye.stretch == 2.0
    space.grab()
    assert user.session.history.undo_name is None  # none of it is an edit


def test_the_side_of_the_eye_is_cut_away(user, space):
    user.session.set(space=replace(user.session.state.look.space, cut=True))
    space.grab()
    sides = []
    for view in ("look-north", "look-south"):
        user.do(view)
        space.grab()
        sides.append(near_side(space.scene, space.eye.place))
    assert set(sides) == {"left", "right"}


def test_the_wheel_leads_along_the_run_and_the_sections_cursor_goes_along(user, space):
    user.session.set(cursor=100.0)
    user.do("along")
    assert space.along and user.window.centre.chips.buttons["along"].isChecked()
    s = user.session.state
    x, y, axis, _ = cursor_place(s.look.run, s.shown.facts, 100.0)
    assert (space.eye.x, space.eye.y, space.eye.z) == approx((x, y, axis))
    user.wheel(space, 300, 100, 3)
    assert user.session.state.at.cursor == approx(106.0)
    user.wheel(space, 300, 100, -1, Qt.KeyboardModifier.ShiftModifier)
    assert user.session.state.at.cursor == approx(105.8)
    user.move(space, 200, 150)
    assert user.session.state.at.cursor == approx(105.8)  # the pointer does not take it away
    for _ in range(3):
        user.wheel(space, 300, 100, -40)
    assert user.session.state.at.cursor == approx(s.look.run.start)
    for _ in range(6):
        user.wheel(space, 300, 100, 60)
    assert user.session.state.at.cursor == approx(s.look.run.start + s.look.run.length)
    x_drawn = user.section.sight.x_of(user.session.state.at.cursor)
    assert 0 < x_drawn < user.section.width()
    user.do("along")
    assert not space.along
    user.do("along")
    user.do("look-above")
    assert not space.along


def test_along_a_road_and_with_no_run_at_all(user, space):
    user.session.show_run(RunKey("road", next(iter(user.project.roads))))
    user.do("along")
    user.wheel(space, 300, 100, 5)
    assert user.session.state.at.cursor is not None
    user.do("along")
    none = {k: {} for k in ("structures", "pipes", "roads", "areas", "sheets", "runs", "pins")}
    user.session.apply("Delete all", replace(user.project, **none))
    user.settle()
    user.do("along")
    user.wheel(space, 300, 100, 5)
    user.do("along")
    user.do("fit")
    space.grab()


def test_findings_pins_and_labels_lie_over_it(user, space):
    pipe = user.pipe("S5", "S4")
    user.session.edit("Pin", lambda p, f: add_pin(p, f, pipe.id, 10.0))
    marks = space.overlay()
    texts = {m.text for m in marks if hasattr(m, "text")}
    assert {"S4", "S5", "HW1"} <= texts and any(t.startswith("invert ") for t in texts)
    roles = {getattr(m, "role", "") for m in marks}
    assert {"breach", "breach-plan", "breach-bar"} <= roles


def test_another_project_is_fitted_anew(user, space):
    user.session.to_stage("layout")
    user.session.open(replace(user.project, surfaces={}, land={}, services={}), None)
    user.settle()
    space.grab()
    assert space.scene.parts and "ground" not in {k for k, _ in space.scene.parts}
    rest(user)


def test_a_picture_of_it_at_any_width(user, space, tmp_path, monkeypatch):
    file = tmp_path / "space.png"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(file), ""))
    monkeypatch.setattr(QInputDialog, "getInt", lambda *a, **k: (1500, True))
    space.setFocus()
    user.do("picture")
    image = QImage(str(file))
    assert image.width() == 1500 and image.height() == approx(
        1500 * space.height() / space.width(), abs=1
    )
    assert (
        len({image.pixel(x, y) for x in range(0, 1500, 7) for y in range(0, image.height(), 7)})
        > 50
    )


def test_without_a_driver_it_is_told_and_all_else_works(user, monkeypatch):
    monkeypatch.setattr(contexts, "_THREAD", type(contexts._THREAD)())
    monkeypatch.setitem(sys.modules, "moderngl", None)
    user.do("space")
    space = user.window.centre.space
    space.grab()
    assert "install Mesa's" in space.trouble
    assert "install Mesa's" in " ".join(
        m.text for layer in space.layers() for m in layer if hasattr(m, "text")
    )
    user.move(space, 100, 100)
    user.click(space, 100, 100)
    user.drag(space, (100, 100), (150, 120))
    user.wheel(space, 100, 100, 2)
    user.do("look-above")
    user.do("along")
    user.do("fit")
    user.do("space")
    pipe = user.look_at("S5", "S4")
    assert user.session.state.chosen.pipes == {pipe.id}


def test_a_tool_that_takes_places_of_the_plan_brings_it_beside(user, space):
    user.do("measure")
    assert (
        user.session.state.look.space_at == "beside" and user.plan.isVisible() and space.isVisible()
    )
    user.window.escape()
    user.session.set(space_at="place")
    user.do("lay")
    assert user.plan.isVisible()
    before = user.project
    user.click(space, 200, 100)  # it takes no place of space
    assert user.project is before and not user.session.state.previewing
    user.window.escape()


def test_space_goes_along_through_stages_tables_and_themes(user, space):
    centre = user.window.centre
    for stage in ("trench", "deliver", "levels"):
        user.window.go_stage(stage)
        user.settle()
        assert centre.space_seen is (stage != "deliver")
    user.do("tables")
    assert centre.space_seen and not user.section.isVisible()
    user.do("tables")
    light = space.grab().toImage().pixel(5, space.height() - 5)
    user.window.toggle_theme()
    rest(user)
    assert space.grab().toImage().pixel(5, space.height() - 5) != light
    user.window.toggle_theme()


def test_in_the_stage_ground_services_and_land_are_picked(user, space):
    user.session.to_stage("ground")
    service = next(iter(user.project.services))
    space.look(space.eye.fitted(space.scene.parts["service", service].xyz))
    user.session.set(space=replace(user.session.state.look.space, strength=0.0))
    rest(user)
    user.click(space, *seen_at(space, "service", service))
    assert (
        user.session.state.chosen.item is not None and user.session.state.chosen.item.id == service
    )


def test_nothing_is_drawn_while_it_is_not_seen(user, space):
    user.do("space")
    user.do("space")
    sent = space._space.sent
    pipe = user.look_at("S5", "S4")
    user.drag_ring("down", -0.2)
    assert space._space.sent == sent and user.project.pipes[pipe.id].invert_down != pipe.invert_down
    user.do("space")
    space.grab()
    assert space._space.sent > sent
