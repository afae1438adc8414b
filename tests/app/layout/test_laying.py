"""Runs, gullies and structures are laid."""

from msgspec.structs import replace
from PySide6.QtCore import Qt
from pytest import approx

from tests.app.layout.hands import on_road
from zumbert.app.stages.layout.lay import LayTool
from zumbert.app.tools.pick import PickTool


def test_a_run_grows_click_by_click_and_the_long_section_with_it(laying):
    user = laying
    before = len(user.project.pipes)
    s9 = user.facts.places[user.structure("S9").id]
    user.click(user.plan, *user.in_plan(s9.x, s9.y))
    # it joins, nothing is placed
    assert user.window.toolbox.tool.placed[-1].structure == user.structure("S9").id
    assert user.session.history.undo_names == []
    user.move(user.plan, *on_road(user, 300, -9))
    assert len(user.shown.pipes) == before + 1  # shown before a click takes it
    assert len(user.project.pipes) == before
    fresh = user.session.state.held.fresh
    assert any(r.pipe in fresh for r in user.session.state.look.run.reaches)
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
    assert [user.project.structures[k].label for k, _ in user.session.state.look.run.structures][
        -3:
    ] == ["S9", "S18", "S19"]
    pipe = user.pipe("S19", "S18")
    assert user.facts.pipes[pipe.id].cover.least == approx(0.9, abs=0.03)
    assert user.session.history.undo_names == ["Lay a pipe to S19", "Lay a pipe to S18"]
    user.key(user.plan, Qt.Key.Key_Backspace)
    assert len(user.project.pipes) == before + 1
    user.key(user.plan, Qt.Key.Key_Escape)
    assert isinstance(user.window.toolbox.tool, LayTool)
    assert user.window.toolbox.tool.placed == []
    user.key(user.plan, Qt.Key.Key_Escape)
    assert isinstance(user.window.toolbox.tool, PickTool)
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
    user.session.set(way=replace(user.window.toolbox.tool.way, up=False))
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
    assert user.window.toolbox.tool.way.start is None  # it was for the first pipe alone


def test_undo_in_the_middle_of_a_run(laying):
    user = laying
    for ch in (230, 260, 290):
        user.click(user.plan, *on_road(user, ch, 9))
    user.do("undo")
    assert [
        user.project.structures[p.structure].label
        for p in user.window.toolbox.tool.placed
        if p.structure in user.project.structures
    ] == ["S18", "S19"]
    user.click(user.plan, *on_road(user, 280, 9))
    assert user.pipe("S20", "S19").down == user.structure("S19").id
    for _ in range(3):
        user.do("undo")
    assert user.window.toolbox.tool.last is None


def test_a_structure_is_dragged_along_and_across_its_road(user):
    user.do("straighten")
    user.session.to_stage("layout")
    user.plan.map = replace(user.plan.map, scale=6.0, x=1500.0, y=868.0)
    user.plan.update()
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
    assert user.session.history.undo_names == ["Move S4"]
    user.do("undo")
    assert user.project.structures[s4.id] == s4


def test_a_click_does_not_move(user):
    user.do("straighten")
    user.plan.map = replace(user.plan.map, scale=6.0, x=1500.0, y=868.0)
    user.plan.update()
    user.settle()
    user.click(user.plan, *on_road(user, 96, 1.1))
    assert user.session.state.chosen.structures == {user.structure("S4").id}
    assert user.session.history.undo_name is None


def test_delete_by_key_is_one_step(user):
    user.look_at("S5", "S4")
    user.do("delete")
    assert "P5" not in [p.label for p in user.project.pipes.values()]
    assert any(f.rule == "no_outfall" for f in user.session.state.current.findings)
    user.do("undo")
    assert user.pipe("S5", "S4").label == "P5"


def test_gullies_are_set_in_pairs_by_a_click_and_by_a_typed_line(laying):
    user = laying
    user.do("gullies")
    before = user.project
    user.move(user.plan, *on_road(user, 281, 3))
    shown = [k for k in user.shown.structures if k not in before.structures]
    assert len(shown) >= 2  # a pair, and joints where leads meet a pipe
    assert user.project is before  # shown before a click takes it
    user.click(user.plan, *on_road(user, 281, 3))
    gullies = [
        s
        for k, s in user.project.structures.items()
        if k not in before.structures and s.type.startswith("gully")
    ]
    assert sorted(s.place.offset < 0 for s in gullies) == [False, True]
    assert [s.place.chainage for s in gullies] == [281.0, 281.0]
    downs = {p.up: p for p in user.project.pipes.values()}
    assert all(g.id in downs for g in gullies)
    assert all(user.facts.pipes[downs[g.id].id].slope > 0 for g in gullies)
    assert len(user.session.history.undo_names) == 1
    user.type(user.plan, "l")  # the left side only
    user.type(user.plan, "300 2.6")
    user.key(user.plan.entry.field, Qt.Key.Key_Return)
    new = [
        s for k, s in user.project.structures.items() if getattr(s.place, "chainage", 0) == 300.0
    ]
    assert [s.place.offset for s in new if s.type.startswith("gully")] == [-2.6]
    user.do("undo")
    user.do("undo")
    assert user.project is before
    user.key(user.plan, Qt.Key.Key_Escape)
    assert isinstance(user.window.toolbox.tool, PickTool)


def test_gullies_along_the_road_are_one_step(laying):
    from PySide6.QtWidgets import QLineEdit, QPushButton

    user = laying
    user.do("gullies")
    before = user.project
    panel = user.window.side.panel
    for name, text in (("from", "300"), ("to", "360"), ("each", "20")):
        user.type(panel.findChild(QLineEdit, f"gullies {name}"), text)
    assert user.project is before
    assert len(panel.made.gullies) == 8  # seen before it is taken
    assert all(k in user.shown.structures for k in panel.made.gullies)
    assert "gullies and" in panel.found.text()
    user.move(user.plan, 200, 60)  # over the drawing meanwhile
    user.click(panel.findChild(QPushButton, "set gullies"), 10, 10)
    new = [
        s
        for k, s in user.project.structures.items()
        if k not in before.structures and s.type.startswith("gully")
    ]
    assert {round(s.place.chainage) for s in new} >= {300, 320, 340, 360}
    assert user.session.history.undo_names[0].startswith(f"Set {len(new)} gullies along")
    user.do("undo")
    assert user.project is before
    user.type(panel.findChild(QLineEdit, "gullies each"), "x")
    assert not panel.findChild(QPushButton, "set gullies").isEnabled()
    assert '"20x"' in panel.found.text()
    assert user.shown is before


def test_laying_on_a_pipe_splits_it_levels_kept(laying):
    user = laying
    user.session.set(way=replace(user.window.toolbox.tool.way, up=False))
    pipe, before = user.pipe("S10", "S9"), user.project
    f = user.facts.pipes[pipe.id]
    x, y = f.span.point(f.span.length / 2)
    user.move(user.plan, *user.in_plan(x, y))
    user.click(user.plan, *user.in_plan(x, y))
    assert len(user.project.pipes) == len(before.pipes) + 1
    lower = next(p for p in user.project.pipes.values() if p.id not in before.pipes)
    assert lower.invert_down == pipe.invert_down
    new = lower.up
    middle = user.facts.pipes[lower.id].invert(0.0)
    assert middle == approx(
        f.invert(f.span.length - user.facts.pipes[lower.id].span.length), abs=1e-6
    )
    assert user.window.toolbox.tool.last == new  # the run goes on from there


def test_structures_alone_then_joined_in_any_order(laying):
    user = laying
    panel = user.window.side.panel
    before = user.project
    user.click(panel.mode.buttons[1], 10, 10)
    for ch in (290, 320):
        user.click(user.plan, *on_road(user, ch, -9))
    assert len(user.project.structures) == len(before.structures) + 2
    assert user.project.pipes is before.pipes
    s18, s19 = user.structure("S18"), user.structure("S19")
    user.click(panel.mode.buttons[2], 10, 10)
    user.session.set(way=replace(user.window.toolbox.tool.way, up=False))
    for s in (s19, s18):
        at = user.facts.places[s.id]
        user.click(user.plan, *user.in_plan(at.x, at.y))
    assert user.pipe("S19", "S18")
    count = len(user.project.structures)
    user.click(user.plan, *on_road(user, 335, -9))  # nothing stands here: nothing is made
    assert len(user.project.structures) == count
