"""Space is shown, looked at and worked in."""

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from pytest import approx

from tests.app.space.hands import near, rest, seen_at
from zumbert.app.views import spaceview


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
