"""The things that are seen in space."""

import sys

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFileDialog, QInputDialog
from pytest import approx

from tests.app.space.hands import rest, seen_at
from zumbert.analysis.runline import RunKey
from zumbert.edits.notes import add_pin
from zumbert.space import context as contexts
from zumbert.space.over import cursor_place
from zumbert.space.scene import near_side


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
