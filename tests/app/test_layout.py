import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from pytest import approx

from zumbert.app.tools.lay import LayTool
from zumbert.app.tools.pick import PickTool


@pytest.fixture
def laying(user):
    """The tool in hand, the upper part of the road in sight."""
    user.do("lay")
    user.plan.map = replace(user.plan.map, scale=4.0, x=1640.0, y=905.0)
    user.settle()
    user.session.set(way=replace(user.window.tool.way, up=True))
    return user


def on_road(user, ch, off):
    road = next(iter(user.facts.roads.values()))
    x, y = road.alignment.point(ch, off)
    return user.in_plan(float(x), float(y))


def test_a_run_grows_click_by_click_and_the_long_section_with_it(laying):
    user = laying
    before = len(user.project.pipes)
    s9 = user.facts.places[user.structure("S9").id]
    user.click(user.plan, *user.in_plan(s9.x, s9.y))
    assert user.window.tool.placed[-1].structure == user.structure("S9").id  # it joins, nothing is placed
    assert user.session.undo_names == []
    user.move(user.plan, *on_road(user, 300, -9))
    assert len(user.shown.pipes) == before + 1  # shown before a click takes it
    assert len(user.project.pipes) == before
    fresh = user.session.state.fresh
    assert any(r.pipe in fresh for r in user.session.state.run.reaches)
    assert user.plan.entry.isVisible()
    user.click(user.plan, *on_road(user, 300, -9))
    assert len(user.project.pipes) == before + 1
    user.move(user.plan, *on_road(user, 330, -9.2))
    assert user.plan.entry.aside.text() == "Same offset as S18"
    user.click(user.plan, *on_road(user, 330, -9.2))
    assert len(user.project.pipes) == before + 2
    s18, s19 = user.structure("S18"), user.structure("S19")
    assert s18.place.chainage == approx(300, abs=0.5)
    assert s19.place.offset == s18.place.offset
    assert [user.project.structures[k].label for k, _ in user.session.state.run.structures][-3:] == ["S9", "S18", "S19"]
    pipe = user.pipe("S19", "S18")
    assert user.facts.pipes[pipe.id].cover.least == approx(0.9, abs=0.03)
    assert user.session.undo_names == ["Lay a pipe to S19", "Lay a pipe to S18"]
    user.key(user.plan, Qt.Key.Key_Backspace)
    assert len(user.project.pipes) == before + 1
    user.key(user.plan, Qt.Key.Key_Escape)
    assert isinstance(user.window.tool, LayTool)
    assert user.window.tool.placed == []
    user.key(user.plan, Qt.Key.Key_Escape)
    assert isinstance(user.window.tool, PickTool)
    assert len(user.project.pipes) == before + 1  # the run stays


def test_places_are_typed(laying):
    user = laying
    user.type(user.plan, "230 6.5")
    assert user.plan.entry.field.text() == "230 6.5"
    user.key(user.plan.entry.field, Qt.Key.Key_Return)
    user.type(user.plan, "262.5 6.5")
    assert len(user.shown.pipes) == len(user.project.pipes) + 1
    user.key(user.plan.entry.field, Qt.Key.Key_Return)
    s18, s19 = user.structure("S18"), user.structure("S19")
    assert (s18.place.chainage, s18.place.offset) == (230.0, 6.5)
    assert (s19.place.chainage, s19.place.offset) == (262.5, 6.5)
    assert user.pipe("S19", "S18").invert_up > user.pipe("S19", "S18").invert_down
    user.type(user.plan, "900 1")
    user.key(user.plan.entry.field, Qt.Key.Key_Return)
    assert "outside the road" in user.refusals[-1]
    user.type(user.plan.entry.field, "x")
    user.key(user.plan.entry.field, Qt.Key.Key_Escape)
    assert user.shown is user.project


def test_placing_on_an_existing_structure_joins_it(laying):
    user = laying
    count = len(user.project.structures)
    user.click(user.plan, *on_road(user, 300, -9))
    s10 = user.facts.places[user.structure("S10").id]
    user.session.set(way=replace(user.window.tool.way, up=False))
    user.click(user.plan, *user.in_plan(s10.x, s10.y))
    assert len(user.project.structures) == count + 1
    assert user.pipe("S18", "S10").up == user.structure("S18").id


def test_type_size_and_levels_of_the_next_are_chosen_in_the_panel(laying):
    user = laying
    panel = user.window.side.panel
    for box, text in ((panel.type_box, "Manhole 1500"), (panel.size_box, "DN 225")):
        box.setCurrentText(text)
        box.activated.emit(box.currentIndex())
    user.click(panel.levels.buttons[1], 10, 10)
    panel.slope.selectAll()
    user.type(panel.slope, "2%")
    user.key(panel.slope, Qt.Key.Key_Return)
    panel.start.setFocus()
    user.type(panel.start, "45.5")
    user.key(panel.start, Qt.Key.Key_Return)
    user.click(user.plan, *on_road(user, 240, 8))
    user.click(user.plan, *on_road(user, 270, 8))
    pipe = user.pipe("S19", "S18")
    assert (pipe.size, user.structure("S18").type) == ("225", "manhole-1500")
    assert pipe.invert_down == approx(45.5)
    assert user.facts.pipes[pipe.id].slope == approx(0.02)
    assert user.window.tool.way.start is None  # it was for the first pipe alone


def test_undo_in_the_middle_of_a_run(laying):
    user = laying
    for ch in (230, 260, 290):
        user.click(user.plan, *on_road(user, ch, 9))
    user.do("undo")
    assert [
        user.project.structures[p.structure].label
        for p in user.window.tool.placed
        if p.structure in user.project.structures
    ] == ["S18", "S19"]
    user.click(user.plan, *on_road(user, 280, 9))
    assert user.pipe("S20", "S19").down == user.structure("S19").id
    for _ in range(3):
        user.do("undo")
    assert user.window.tool.last is None


def test_a_structure_is_dragged_along_and_across_its_road(user):
    user.do("straighten")
    user.session.set(stage="layout")
    user.plan.map = replace(user.plan.map, scale=6.0, x=1500.0, y=868.0)
    user.settle()
    s4 = user.structure("S4")
    pipes = user.project.pipes
    user.drag(user.plan, on_road(user, 96, 1.1), on_road(user, 101, -0.4), release=False)
    assert user.shown.structures[s4.id].place.chainage == approx(101, abs=0.3)
    assert user.plan.entry.isVisible()
    user.release(user.plan, *on_road(user, 101, -0.4))
    place = user.project.structures[s4.id].place
    assert (place.chainage, place.offset) == (approx(101, abs=0.3), approx(-0.4, abs=0.3))
    assert user.project.pipes is pipes  # neighbours stay attached, levels stay
    assert user.session.undo_names == ["Move S4"]
    user.do("undo")
    assert user.project.structures[s4.id] == s4


def test_a_click_does_not_move(user):
    user.do("straighten")
    user.plan.map = replace(user.plan.map, scale=6.0, x=1500.0, y=868.0)
    user.settle()
    user.click(user.plan, *on_road(user, 96, 1.1))
    assert user.session.state.structures == {user.structure("S4").id}
    assert user.session.undo_name is None


def test_delete_by_key_is_one_step(user):
    user.look_at("S5", "S4")
    user.do("delete")
    assert "P5" not in [p.label for p in user.project.pipes.values()]
    assert any(f.rule == "no_outfall" for f in user.session.state.kept.findings)
    user.do("undo")
    assert user.pipe("S5", "S4").label == "P5"


def test_regrade_between_two_structures(user):
    from PySide6.QtWidgets import QLineEdit

    from zumbert.app.regradedialog import RegradeDialog

    a, b = user.structure("S14"), user.structure("S17")
    user.session.select(structures=frozenset({a.id, b.id}))
    user.do("regrade")
    dialog = user.window.findChild(RegradeDialog)
    before = user.project
    dialog.accept()  # Enter at once changes nothing
    assert user.project is before
    user.do("regrade")
    dialog = [d for d in user.window.findChildren(RegradeDialog) if d.isVisible()][-1]
    slope = dialog.findChild(QLineEdit, "regrade slope")
    slope.selectAll()
    user.type(slope, "-2.5%")
    assert user.shown is not before
    assert "m at 2.50 %" in dialog.sum.text()
    dialog.accept()
    assert user.facts.pipes[user.pipe("S16", "S15").id].slope == approx(0.025)
    assert user.session.undo_names == ["Regrade S14 to S17"]
