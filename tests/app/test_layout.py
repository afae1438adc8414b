import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from pytest import approx
from shapely import Point, Polygon

from zumbert.analysis.runline import RunKey
from zumbert.app.stages.layout.lay import LayTool
from zumbert.app.tools.pick import PickTool, caught_by
from zumbert.drawing.longsection import section_marks
from zumbert.drawing.marks import texts_in
from zumbert.edits.grounditems import GroundItem
from zumbert.edits.lay import lay
from zumbert.edits.layoptions import LayOptions
from zumbert.model.structure import Anchored, Free


@pytest.fixture
def laying(user):
    user.session.set(straight=False)
    """The tool in hand, the upper part of the road in sight."""
    user.do("lay")
    user.plan.map = replace(user.plan.map, scale=4.0, x=1640.0, y=905.0)
    user.plan.update()
    user.settle()
    user.session.set(way=replace(user.window.toolbox.tool.way, up=True))
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


@pytest.fixture
def picking(user):
    """Stage Layout, straightened, the part about S4 in sight."""
    user.do("straighten")
    user.session.to_stage("layout")
    user.plan.map = replace(user.plan.map, scale=6.0, x=1500.0, y=868.0)
    user.plan.update()
    user.settle()
    return user


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


def middle_of(user, pipe):
    f = user.facts.pipes[pipe.id]
    return user.plan.drawn(*f.span.point(f.span.length / 2))


def test_a_bend_is_drawn_out_of_a_pipe_by_its_middle(picking):
    user = picking
    pipe = user.pipe("S5", "S4")
    before = user.project
    user.session.select(pipes=frozenset({pipe.id}))
    user.session.to_stage("layout")
    user.settle()
    straight = user.facts.pipes[pipe.id].span.length
    x, y = middle_of(user, pipe)
    user.drag(user.plan, (x, y), (x, y + 24), release=False)
    assert len(user.shown.structures) == len(before.structures) + 1
    user.key(user.plan, Qt.Key.Key_Escape)
    assert user.shown is user.project is before
    user.release(user.plan, x, y + 24)
    assert user.project is before
    user.drag(user.plan, (x, y), (x, y + 24))
    joint = next(s for k, s in user.project.structures.items() if k not in before.structures)
    assert user.project.types[joint.type].kind == "joint"
    assert user.project.pipes[pipe.id].invert_up == pipe.invert_up
    assert len(user.session.history.undo_names) == 1
    user.do("undo")
    user.session.select(pipes=frozenset({pipe.id}))
    user.session.to_stage("layout")
    user.settle()
    user.drag(user.plan, (x, y), (x, y + 24), keys=Qt.KeyboardModifier.ShiftModifier)
    curve = user.project.pipes[pipe.id]
    assert curve.through is not None
    assert len(user.project.structures) == len(before.structures)
    assert user.facts.pipes[pipe.id].span.length > straight
    user.click(user.window.side.panel.shared.buttons["straight"], 5, 5)
    assert user.project.pipes[pipe.id] == pipe


def test_a_lasso_catches_and_what_is_caught_changes_in_one_step(picking):
    user = picking
    ring = [on_road(user, *p) for p in ((90, -8), (138, -8), (138, 8), (90, 8))]
    shift = Qt.KeyboardModifier.ShiftModifier
    user.press(user.plan, *ring[0], shift)
    for x, y in ring[1:]:
        user.move(user.plan, x, y, True, shift)
    user.release(user.plan, *ring[3], shift)
    s = user.session.state
    labels = {user.project.structures[k].label for k in s.chosen.structures}
    assert {"S4", "S5"} <= labels
    assert "S3" not in labels
    assert user.pipe("S5", "S4").id in s.chosen.pipes
    assert user.pipe("S4", "S3").id not in s.chosen.pipes
    panel = user.window.side.panel
    before = user.project
    panel.shared.status.setCurrentText("Existing")
    panel.shared.status.activated.emit(panel.shared.status.currentIndex())
    assert {user.project.structures[k].status for k in s.chosen.structures} == {"existing"}
    assert len(user.session.history.undo_names) == 1
    user.do("undo")
    assert user.project is before


def test_held_ones_are_counted_before_and_left_alone(picking):
    user = picking
    ours = [user.pipe(a, b).id for a, b in (("S5", "S4"), ("S6", "S5"), ("S7", "S6"))]
    user.session.select(pipes=frozenset(ours[:1]))
    user.session.to_stage("layout")
    user.settle()
    user.window.side.panel.shared.holds["size"].click()
    assert user.project.pipes[ours[0]].hold_size
    user.session.select(pipes=frozenset(ours))
    user.settle()
    panel = user.window.side.panel
    box = panel.size_box
    i = box.findData("450")
    box.highlighted.emit(i)
    assert panel.says.text() == "2 will change, 1 is held"
    assert user.project.pipes[ours[1]].size != "450"
    box.setCurrentIndex(i)
    box.activated.emit(i)
    assert [user.project.pipes[p].size == "450" for p in ours] == [False, True, True]
    assert panel.shared.holds["size"].checkState() == Qt.CheckState.PartiallyChecked
    assert user.session.history.undo_names[0] == "Change the size of 2"


def test_selected_ones_are_dragged_together_and_moved_by_numbers(picking):
    user = picking
    ids = [user.structure(n).id for n in ("S4", "S5")]
    user.session.select(structures=frozenset(ids))
    user.settle()
    old = [user.project.structures[k].place for k in ids]
    user.drag(user.plan, on_road(user, 96, 1.1), on_road(user, 99, 0.1))
    new = [user.project.structures[k].place for k in ids]
    assert new[0].chainage - old[0].chainage == approx(3, abs=0.3)
    assert new[1].chainage - old[1].chainage == approx(new[0].chainage - old[0].chainage)
    assert new[1].offset - old[1].offset == approx(new[0].offset - old[0].offset)
    assert user.session.history.undo_names == ["Move S4 and 1 more"]
    panel = user.window.side.panel
    user.type(panel.by["along"], "-1.5")
    user.key(panel.by["along"], Qt.Key.Key_Return)
    assert user.project.structures[ids[1]].place.chainage == approx(new[1].chainage - 1.5)
    user.click(
        user.plan, *on_road(user, user.project.structures[ids[0]].place.chainage, new[0].offset)
    )
    assert user.session.state.chosen.structures == {ids[0]}  # a mere click picks the one


def test_selecting_more_from_one(picking):
    user = picking
    user.session.select(structures=frozenset({user.structure("S4").id}))
    user.do("select-upstream")
    s = user.session.state
    labels = {user.project.structures[k].label for k in s.chosen.structures}
    assert {"S4", "S13", "S15", "G3L"} <= labels
    assert not {"S3", "HW1", "EX1"} & labels
    user.do("select-inverse")
    labels = {user.project.structures[k].label for k in user.session.state.chosen.structures}
    assert {"S3", "HW1", "EX1"} <= labels
    assert "S4" not in labels
    user.do("select-all")
    assert len(user.session.state.chosen.structures) == len(user.project.structures)


def test_a_structure_is_renamed_freed_turned_and_declared_an_outfall(picking):
    user = picking
    s4 = user.structure("S4").id
    user.session.select(structures=frozenset({s4}))
    user.settle()
    panel = user.window.side.panel
    panel.name.selectAll()
    user.type(panel.name, 'S4 "low"')
    user.key(panel.name, Qt.Key.Key_Return)
    assert user.project.structures[s4].label == 'S4 "low"'
    panel.name.selectAll()
    user.type(panel.name, "S5")
    user.key(panel.name, Qt.Key.Key_Return)
    assert "already" in user.refusals[-1]
    assert user.project.structures[s4].label == 'S4 "low"'
    before = user.facts.places[s4]
    panel.shared.bearing.selectAll()
    user.type(panel.shared.bearing, "45")
    user.key(panel.shared.bearing, Qt.Key.Key_Return)
    assert user.facts.places[s4].bearing == approx(0.7853982)
    panel.shared.outfall.click()
    assert user.project.structures[s4].outfall
    road = panel.shared.road
    road.setCurrentIndex(road.findText("no road: free"))
    road.activated.emit(road.currentIndex())
    user.settle()
    place = user.project.structures[s4].place
    assert (place.x, place.y) == (approx(before.x), approx(before.y))
    assert len(user.session.history.undo_names) == 4
    for _ in range(4):
        user.do("undo")
    assert user.structure("S4").id == s4
    assert user.facts.places[s4] == before


def test_loose_ends_are_told_before_a_structure_is_deleted(picking):
    user = picking
    user.session.select(structures=frozenset({user.structure("S4").id}))
    before = user.project
    user.do("delete")
    assert user.project is before
    assert "lose" in user.refusals[-1]
    assert "Del again" in user.refusals[-1]
    user.do("delete")
    assert "S4" not in {s.label for s in user.project.structures.values()}
    user.do("undo")
    count = len(user.project.pipes)
    user.session.select(structures=frozenset({user.structure("S2").id}))
    kinds = [p for p in user.project.pipes.values() if user.structure("S2").id in (p.up, p.down)]
    user.do("delete")
    if len(kinds) == 2:  # two pipes become one: nothing is loose, nothing is asked
        assert len(user.project.pipes) == count - 1


def test_a_run_is_copied_to_another_offset(picking):
    from PySide6.QtWidgets import QPushButton

    user = picking
    ours = [user.pipe(a, b) for a, b in (("S6", "S5"), ("S5", "S4"))]
    user.session.select(pipes=frozenset(p.id for p in ours))
    user.session.to_stage("layout")
    user.settle()
    before = user.project
    panel = user.window.side.panel
    user.click(panel.findChild(QPushButton, "copy run"), 5, 5)
    assert user.project is before
    assert "needs another road, or an offset" in user.refusals[-1]
    user.type(panel.copy_by, "-2.5")
    user.key(panel.copy_by, Qt.Key.Key_Return)
    s = user.session.state
    assert (len(s.chosen.pipes), len(s.chosen.structures)) == (2, 3)
    offsets = sorted(user.project.structures[k].place.offset for k in s.chosen.structures)
    old = sorted(before.structures[k].place.offset - 2.5 for p in ours for k in (p.up, p.down))
    assert offsets[0] == approx(old[0])
    assert user.session.history.undo_names == ["Copy a run of 2 pipes"]
    user.do("undo")
    assert user.project is before


@pytest.fixture
def resting(user):
    """Nothing selected, stage Layout."""
    user.session.select()
    user.session.to_stage("layout")
    user.settle()
    return user


def test_networks_are_made_named_given_and_removed(resting):
    from PySide6.QtWidgets import QPushButton

    from zumbert.app.panels.fields import ValueField

    user = resting

    def section():
        return user.window.side.panel.networks

    user.click(section().findChild(QPushButton, "add network"), 5, 5)
    name = f"Network {len(user.project.networks)}"
    field = section().findChild(ValueField, f"value network {name}")
    field.selectAll()
    user.type(field, 'Storm "B"')
    user.key(field, Qt.Key.Key_Return)
    assert list(user.project.networks.values())[-1].name == 'Storm "B"'
    s4 = user.structure("S4")
    user.session.select(structures=frozenset({s4.id}))
    user.settle()
    box = user.window.side.panel.shared.network
    box.setCurrentText('Storm "B"')
    box.activated.emit(box.currentIndex())
    assert user.project.networks[user.structure("S4").network].name == 'Storm "B"'
    user.session.select()
    user.settle()
    assert section().findChild(QPushButton, 'remove network Storm "B"') is None  # it has a member
    user.do("undo")
    user.settle()
    user.click(section().findChild(QPushButton, 'remove network Storm "B"'), 5, 5)
    assert 'Storm "B"' not in [n.name for n in user.project.networks.values()]


def test_labels_follow_a_pattern_and_are_numbered_anew(resting):
    from PySide6.QtWidgets import QPushButton

    user = resting
    section = user.window.side.panel.networks
    field = section.patterns["manhole"]
    field.selectAll()
    user.type(field, "MH")
    user.key(field, Qt.Key.Key_Return)
    assert "{n}" in user.refusals[-1]
    field.selectAll()
    user.type(field, "M{n}{side}")
    user.key(field, Qt.Key.Key_Return)
    s4 = user.structure("S4").id
    section.first.selectAll()
    user.type(section.first, "101")
    user.click(section.findChild(QPushButton, "renumber"), 5, 5)
    labels = {k: s.label for k, s in user.project.structures.items()}
    assert labels[s4].startswith("M10")
    assert labels[s4].endswith("R")
    assert len(set(labels.values())) == len(labels)
    assert user.structure("EX1")  # existing work keeps its label
    user.do("undo")
    assert user.structure("S4").id == s4
    section.first.selectAll()
    user.type(section.first, "x")
    user.click(section.findChild(QPushButton, "renumber"), 5, 5)
    assert "no number to begin with" in user.refusals[-1]


def test_pipes_are_made_along_a_road_and_turned_before_they_are_taken(resting):
    from PySide6.QtWidgets import QPushButton

    user = resting
    user.do("line-pipes")
    before = user.project
    user.type(user.plan, "20 120 -5")
    user.key(user.plan.entry.field, Qt.Key.Key_Return)
    tool, panel = user.window.toolbox.tool, user.window.side.panel
    assert user.project is before  # shown, not taken
    new = [user.shown.pipes[p] for p in tool.made.pipes]
    places = user.session.state.shown.facts.places
    assert [places[new[0].up].chainage, places[new[-1].down].chainage] == [
        approx(20, abs=1e-6),
        approx(120, abs=1e-6),
    ]
    user.click(panel.findChild(QPushButton, "turn line"), 5, 5)
    places = user.session.state.shown.facts.places
    new = [user.shown.pipes[p] for p in tool.made.pipes]
    assert places[new[0].up].chainage == approx(120, abs=1e-6)
    kinds = {
        user.shown.types[user.shown.structures[k].type].kind for k in tool.made.structures[1:-1]
    }
    assert kinds == {"joint"}
    user.type(panel.spacing, "30")
    user.key(panel.spacing, Qt.Key.Key_Return)
    facts = user.session.state.shown.facts
    assert max(facts.pipes[p].span.length for p in tool.made.pipes) <= 30.5
    road = next(iter(user.facts.roads.values())).alignment
    assert any(facts.pipes[p].span.arc is not None for p in tool.made.pipes) == any(
        type(e).__name__ == "Arc" for e in road.elements
    )
    user.click(panel.findChild(QPushButton, "take line"), 5, 5)
    assert user.project is not before
    assert user.session.history.undo_names[0].startswith("Make ")
    user.do("undo")
    assert user.project is before
    user.type(user.plan, "20 9000")
    user.key(user.plan.entry.field, Qt.Key.Key_Return)
    assert "choose a stretch" in user.refusals[-1]
    user.window.escape()
    user.window.escape()
    assert isinstance(user.window.toolbox.tool, PickTool)
    assert user.shown is user.project


def test_type_size_joint_and_mode_by_key_and_places_by_distance_or_same_offset(laying):
    user = laying
    tool = user.window.toolbox.tool
    size = user.session.state.held.way.size
    user.type(user.plan, "]")
    assert user.session.state.held.way.size != size
    user.type(user.plan, "[")
    assert user.session.state.held.way.size == size
    kind = user.session.state.held.way.type
    user.type(user.plan, "b")
    assert user.project.types[user.session.state.held.way.type].kind == "joint"
    user.type(user.plan, "b")
    assert user.session.state.held.way.type == kind
    user.type(user.plan, "t")
    assert user.session.state.held.way.type != kind
    user.type(user.plan, "a")
    assert tool.mode == "alone"
    user.type(user.plan, "a")
    assert tool.mode == "run"
    places = []
    for text in ("230 6.5", "262.5 =", "= 9", "d20 b90"):
        user.type(user.plan, text)
        user.key(user.plan.entry.field, Qt.Key.Key_Return)
        places.append(user.facts.places[tool.last])
    assert (places[1].chainage, places[1].offset) == (approx(262.5), approx(6.5))
    assert (places[2].chainage, places[2].offset) == (approx(262.5), approx(9.0))
    assert (places[3].x, places[3].y) == (
        approx(places[2].x + 20, abs=1e-6),
        approx(places[2].y, abs=1e-6),
    )
    user.type(user.plan, "d x")
    user.key(user.plan.entry.field, Qt.Key.Key_Return)
    assert user.refusals


def test_the_network_service_and_status_of_what_is_laid_are_chosen(laying):
    user = laying
    panel = user.window.side.panel
    for box, text in (
        (panel.network, "Storm existing"),
        (panel.service, "Foul"),
        (panel.status, "Existing"),
    ):
        box.setCurrentText(text)
        box.activated.emit(box.currentIndex())
    user.click(user.plan, *on_road(user, 240, 8))
    user.click(user.plan, *on_road(user, 270, 8))
    pipe = list(user.project.pipes.values())[-1]
    assert (pipe.service, pipe.status, user.project.networks[pipe.network].name) == (
        "foul",
        "existing",
        "Storm existing",
    )


def test_a_chamber_between_two_like_pipes_leaves_one(laying):
    user = laying
    for ch in (230, 260, 290):
        user.click(user.plan, *on_road(user, ch, 9))
    count = len(user.project.pipes)
    user.window.escape()
    user.window.escape()
    first, last = user.structure("S18").id, user.structure("S20").id
    user.session.select(structures=frozenset({user.structure("S19").id}))
    user.do("delete")  # nothing is loose: nothing is asked
    assert len(user.project.pipes) == count - 1
    assert {first, last} == {
        e for p in list(user.project.pipes.values())[-1:] for e in (p.up, p.down)
    }


# -- by level, by an edge, snaps, land -------------------------------------------------------------


def test_levels_by_level_from_the_panel_and_typed_after_the_place(laying):
    user = laying
    user.session.set(way=replace(user.window.toolbox.tool.way, up=False))
    user.enter("300 7")
    panel = user.window.side.panel
    user.click(panel.levels.buttons[2], 5, 5)
    assert panel.level.isVisible() and not panel.slope.isVisible()
    user.fill(panel.level, "45.6")
    user.enter("270 7")
    assert user.pipe("S18", "S19").invert_down == approx(45.6)
    assert panel.level.text() == ""  # a level is for one pipe
    user.enter("240 7 z44.2")
    assert user.refusals == []
    assert user.pipe("S19", "S20").invert_down == approx(44.2)
    user.enter("210 7 zdeep")
    assert "deep" in user.refusals[-1]
    assert len(user.session.history.undo_names) == 3


def test_a_structure_is_placed_by_an_edge_from_the_panel_and_by_key(laying):
    user = laying
    panel = user.window.side.panel
    user.click(panel.edge.buttons[1], 5, 5)
    user.enter("300 3")
    # flush with the kerb from inside
    assert user.structure("S18").place.offset == approx(3 - 0.725)
    user.key(user.plan, Qt.Key.Key_Escape)
    user.key(user.plan, Qt.Key.Key_E)
    user.enter("340 -3")
    assert user.structure("S19").place.offset == approx(-3 - 0.725)  # behind it
    user.key(user.plan, Qt.Key.Key_Escape)
    user.key(user.plan, Qt.Key.Key_E)
    assert user.window.toolbox.tool.way.edge == "middle"


def test_snaps_are_named_and_exact(laying):
    user = laying
    user.plan.map = replace(user.plan.map, scale=8.0)
    user.plan.update()
    user.settle()
    user.enter("307 -9")
    for (ch, off), name, place in (
        ((307.2, 11.3), "Square across from S18", (307.0, None)),
        ((330.0, -2.9), "Left kerb", (None, -3.0)),
        ((330.0, 0.2), "Centre line", (None, 0.0)),
        ((340.0, -9.3), "Same offset as S18", (None, -9.0)),
    ):
        user.move(user.plan, *on_road(user, ch, off))
        assert user.plan.entry.aside.text() == name
        at = user.window.toolbox.tool._next[0]
        assert [
            at.chainage if place[0] is not None else None,
            at.offset if place[1] is not None else None,
        ] == list(place)
    area = next(a for a in user.project.land.values() if "Rise" in a.name)
    limit = Polygon(area.ring).exterior
    x, y = (
        float(v)
        for v in user.facts.roads[user.structure("S18").place.road].alignment.point(335.0, 9.0)
    )
    near = limit.interpolate(limit.project(Point(x, y)))
    px, py = user.in_plan(near.x, near.y)
    user.move(user.plan, px + 1, py + 2)
    assert user.plan.entry.aside.text() == "Limit of land"
    at = user.window.toolbox.tool._next[0]
    x, y = (float(v) for v in user.facts.roads[at.road].alignment.point(at.chainage, at.offset))
    assert limit.distance(Point(x, y)) < 1e-6


def test_a_pipe_is_met_square_from_the_last_structure(laying):
    user = laying
    p5 = user.pipe("S10", "S9")
    span = user.facts.spans[p5.id]
    mid = span.point(span.length / 2)
    across = (mid[0] + 6 * np.cos(span.bearing), mid[1] - 6 * np.sin(span.bearing))
    user.session.set(way=replace(user.window.toolbox.tool.way, up=False))
    user.enter(f"{across[0]:.4f},{across[1]:.4f}")
    user.plan.map = replace(user.plan.map, scale=8.0, x=mid[0], y=mid[1])
    user.plan.update()
    user.settle()
    user.move(user.plan, *user.in_plan(*span.point(span.length / 2 + 0.5)))
    assert user.plan.entry.aside.text() == f"Square onto {p5.label}"
    user.click(user.plan, *user.in_plan(*span.point(span.length / 2 + 0.5)))
    placed = user.window.toolbox.tool.placed[-1].structure
    at = user.facts.places[placed]
    assert (at.x, at.y) == (approx(mid[0], abs=1e-3), approx(mid[1], abs=1e-3))


def test_a_pipe_outside_the_land_tells_the_stretch_and_its_length_while_it_is_laid(laying):
    user = laying
    user.enter("300 1.1")
    user.move(user.plan, *on_road(user, 300, 20))
    line = next(w.text() for w in user.plan.entry.lines if "outside the land" in w.text())
    pipe = next(p for p in user.session.state.held.fresh if p in user.shown.pipes)
    [finding] = [
        f for f in user.session.state.shown.findings if f.rule == "land" and f.pipe == pipe
    ]
    assert f"{finding.value:.2f} m outside the land" in line
    assert finding.stretches[0][1] - finding.stretches[0][0] == approx(finding.value)
    user.settle()
    assert user.project.pipes.keys() != user.shown.pipes.keys()
    user.key(user.plan, Qt.Key.Key_Escape)
    assert all(f.rule != "land" for f in user.session.state.shown.findings)


def test_two_gullies_and_their_leads_take_one_click(laying):
    user = laying
    user.do("gullies")
    before = user.project
    user.click(user.plan, *on_road(user, 290, 3))
    new = [
        s
        for k, s in user.project.structures.items()
        if k not in before.structures and s.type == "gully-450"
    ]
    leads = [p for p in user.project.pipes.values() if p.up in {s.id for s in new}]
    assert (len(new), len(leads)) == (2, 2)


def test_gullies_stand_by_the_area_that_each_catches(laying):
    from PySide6.QtWidgets import QLineEdit

    user = laying
    user.do("gullies")
    panel = user.window.side.panel
    for name, text in (("area", "120"), ("width", "3")):
        user.fill(panel.findChild(QLineEdit, f"gullies catch {name}"), text)
    assert panel.fields["each"].text() == "40"
    user.fill(panel.findChild(QLineEdit, "gullies catch width"), "0")
    assert "more than nothing" in user.refusals[-1]


def test_a_structure_near_two_roads_is_in_both_long_sections(user):
    rise = next(r for r in user.project.roads.values() if r.name == "Quillerby Rise")
    s14 = user.structure("S14").id  # on Tansymoor Lane, 20 m from its beginning

    def shown():
        user.session.show_run(RunKey("road", rise.id))
        return {k for k, _ in user.session.state.look.run.structures}

    assert s14 not in shown()
    user.session.to_stage("ground")
    user.session.pick(GroundItem("road", rise.id))
    user.settle()
    user.fill(user.window.side.panel.detail.near, "21")
    assert user.project.roads[rise.id].near == 21.0
    assert s14 in shown()
    assert user.project.structures[s14].place.road != rise.id  # it stays on its own road
    user.settle()
    user.session.show_run(RunKey("road", user.project.structures[s14].place.road))
    assert s14 in {k for k, _ in user.session.state.look.run.structures}
    user.fill(user.window.side.panel.detail.near, "-3")
    assert "0 to 1000" in user.refusals[-1]


def test_a_whole_run_is_selected_from_one_pipe(picking):
    user = picking
    user.session.select(pipes=frozenset({user.pipe("S5", "S4").id}))
    user.do("select-run")
    labels = {user.project.structures[k].label for k in user.session.state.chosen.structures}
    assert labels == {"HW1", *(f"S{i}" for i in range(1, 14))}
    assert len(user.session.state.chosen.pipes) == 13


@pytest.mark.parametrize("action", ["lay", "gullies", "line-pipes", "measure", "spot", "make-road"])
def test_escape_puts_every_tool_down_and_leaves_all_as_it_was(user, action):
    before = user.project
    user.do(action)
    user.move(user.plan, 300, 120)
    user.move(user.plan, 340, 130)
    user.window.escape()
    user.window.escape()
    user.window.escape()
    assert isinstance(user.window.toolbox.tool, PickTool)
    assert user.project is before and user.shown is before
    assert user.session.history.undo_names == []


def test_a_place_is_typed_like_that_of_another_structure(laying):
    user = laying
    user.enter("=S9 7")
    at, s9 = user.structure("S18").place, user.structure("S9").place
    assert (at.chainage, at.offset) == (approx(s9.chainage), 7.0)
    user.enter("300 =G9L")
    assert user.structure("S19").place.offset == approx(-2.8)
    for text, says in (
        ("=S99 7", 'There is no structure "s99" here'),
        ("= 7 9", "Type chainage and offset"),
    ):
        user.enter(text)
        assert says in user.refusals[-1]
        user.key(user.plan.entry.field, Qt.Key.Key_Escape)


def test_a_loose_end_is_attached_by_its_button_or_all_by_the_menu(user):
    from zumbert.app.panels.rows import FixButton

    s9 = user.facts.places[user.structure("S9").id]
    road = user.structure("S9").place.road

    def loosened(p, f):
        way = LayOptions(network=user.structure("S9").network, type="joint")
        places = [Anchored(road, 300.0, 8.0), Free(s9.x + 0.7, s9.y)]
        return lay(p, f, places, way)[-1].project

    user.session.edit("Lay a loose end", loosened)
    user.do("undo")
    user.do("redo")
    loose = next(k for k, s in user.project.structures.items() if s.place == Free(s9.x + 0.7, s9.y))
    assert "unattached_end" in {
        f.rule for f in user.session.state.current.findings if f.structure == loose
    }
    user.session.select(structures=frozenset({loose}))
    user.settle()
    button = next(
        b for b in user.window.side.panel.findChildren(FixButton) if b.text() == "Attach it to S9"
    )
    assert button.figure == "0.70 m away"
    user.do("attach")
    assert loose not in user.project.structures
    assert user.session.history.undo_name == "Attach loose ends"
    user.do("undo")
    user.session.select(structures=frozenset({loose}))
    user.settle()
    next(
        b for b in user.window.side.panel.findChildren(FixButton) if b.text() == "Attach it to S9"
    ).click()
    assert loose not in user.project.structures
    user.do("undo")
    user.do("undo")
    user.do("attach")
    assert "No loose end has a structure within 1.00 m" in user.refusals[-1]


def test_the_slope_of_the_next_pipe_is_set_at_its_chamber_and_seen_before_it_is_laid(laying):
    user = laying
    user.session.set(way=replace(user.window.toolbox.tool.way, up=False))
    user.enter("340 7")
    user.enter("300 7")
    user.window.toolbox.hold(PickTool(user.session))
    low = user.structure("S19")
    user.session.select(pipes=frozenset({user.pipe("S18", "S19").id}))
    user.session.select(structures=frozenset({low.id}))
    user.session.to_stage("levels")
    user.settle()
    field = user.window.side.panel.rows["next_slope"].field
    user.fill(field, "3.1%")
    assert user.project.structures[low.id].next_slope == approx(0.031)
    assert user.session.history.undo_name == f"Set the slope of the next pipe from {low.label}"
    user.section.fit()
    user.settle()
    marks = section_marks(user.session.state.picture, user.section.sight).drawing
    assert any(t.text == "next 3.10 %" for t in texts_in(marks))
    user.do("lay")
    user.enter("300 7")  # where it stands: the run goes on from it
    user.enter("260 7")
    assert user.facts.pipes[list(user.project.pipes)[-1]].slope == approx(0.031, abs=1e-12)
    assert user.project.structures[low.id].next_slope is None


def test_a_typed_pair_is_seen_before_it_is_taken_and_no_kerb_is_told_before_the_click(laying):
    user = laying
    user.do("gullies")
    before = user.project
    user.type(user.plan, "300 2.6")
    new = [s for k, s in user.shown.structures.items() if k not in before.structures]
    assert [abs(s.place.offset) for s in new if s.type.startswith("gully")] == [2.6, 2.6]
    assert user.project is before
    user.key(user.plan.entry.field, Qt.Key.Key_Escape)
    road = next(iter(before.roads))
    roads = {**before.roads, road: replace(before.roads[road], strip=None)}
    user.session.apply("Take the strip away", replace(before, roads=roads))
    user.move(user.plan, *on_road(user, 300, 2))
    assert "has no kerbs" in user.plan.entry.lines[0].text()
    assert not user.session.state.previewing


def test_joining_gives_the_same_flow_in_either_order_and_says_why(laying):
    user = laying
    tool = user.window.toolbox.tool
    user.plan.map = replace(user.plan.map, scale=2.0)
    user.plan.update()
    user.enter("330 -14")  # a head with no outlet
    head = tool.last
    user.key(user.plan, Qt.Key.Key_Escape)
    tool.set_mode("join")
    into = user.structure("S13")
    for first, second in ((head, into.id), (into.id, head)):
        a, b = (user.facts.places[k] for k in (first, second))
        user.settle()
        user.click(user.plan, *user.in_plan(a.x, a.y))
        user.move(user.plan, *user.in_plan(b.x, b.y))
        label = user.project.structures[head].label
        assert f"Flows from {label} to S13" in user.plan.entry.lines[1].text()
        assert "has no outlet yet" in user.plan.entry.lines[1].text()
        user.click(user.plan, *user.in_plan(b.x, b.y))
        made = list(user.project.pipes.values())[-1]
        assert (made.up, made.down) == (head, into.id)
        user.do("undo")
        user.key(user.plan, Qt.Key.Key_Escape)


def test_a_typed_place_names_its_road_and_says_which_it_means(laying):
    user = laying
    names = {r.name: k for k, r in user.project.roads.items()}
    user.session.set(place=None)
    user.enter("27 -6 tansymoor")
    assert user.project.structures[user.window.toolbox.tool.last].place == Anchored(
        names["Tansymoor Lane"], 27.0, -6.0
    )
    user.key(user.plan, Qt.Key.Key_Escape)
    user.move(user.plan, *on_road(user, 300, 3))  # the one pointed at comes first
    user.type(user.plan, "310 -6.5 z44")
    assert user.plan.entry.aside.text() == "on Quillerby Rise"
    user.key(user.plan.entry.field, Qt.Key.Key_Return)
    assert (
        user.project.structures[user.window.toolbox.tool.last].place.road == names["Quillerby Rise"]
    )
    user.type(user.plan, "30 2 nowhere")
    user.key(user.plan.entry.field, Qt.Key.Key_Return)
    assert (
        user.refusals[-1] == '"nowhere" is no road here: known are Quillerby Rise, Tansymoor Lane.'
    )


def test_a_straight_drag_catches_by_its_rectangle_and_a_curved_one_by_its_ring(user):
    user.session.set(straight=False)
    user.plan.fit_map()
    user.settle()
    places = {k: user.in_plan(p.x, p.y) for k, p in user.facts.places.items()}
    a, b = (250.0, 60.0), (560.0, 190.0)
    user.drag(user.plan, a, b, Qt.KeyboardModifier.ShiftModifier)
    wanted = {k for k, (x, y) in places.items() if a[0] < x < b[0] and a[1] < y < b[1]}
    assert wanted
    assert user.session.state.chosen.structures == wanted
    c, d = (560.0, 60.0), (800.0, 190.0)
    both = Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier
    user.drag(user.plan, c, d, both)  # with Ctrl it adds
    more = {k for k, (x, y) in places.items() if c[0] < x < d[0] and c[1] < y < d[1]}
    assert more - wanted
    assert user.session.state.chosen.structures == wanted | more
    half = [(400 + 150 * np.cos(t), 130 + 90 * np.sin(t)) for t in np.linspace(0, np.pi, 12)]
    assert len(caught_by(half)) == 12
    assert caught_by([(0, 0), (50, 31), (100, 60)]).tolist() == [
        [0, 0],
        [100, 0],
        [100, 60],
        [0, 60],
    ]


def test_what_a_preview_alone_shows_is_selected_but_not_deleted(user):
    pipe = user.pipe("S5", "S4")
    user.session.set(pipes=frozenset({"a pipe of a preview"}))
    before = user.project
    user.do("delete")
    assert user.project is before
    user.session.set(pipes=frozenset({"a pipe of a preview", pipe.id}))
    user.do("delete")
    user.do("delete")  # the loose ends have been told
    assert pipe.id not in user.project.pipes


def test_many_are_deleted_only_when_asked_for_by_their_number(user, monkeypatch):
    asked = []
    monkeypatch.setattr(
        "zumbert.app.values.ask", lambda *a, **k: asked.append(a[3]) or len(asked) == 1
    )
    user.do("select-all")
    before = user.project
    user.do("delete")
    assert user.project is before
    assert asked[0].startswith(
        f"Delete {len(before.structures)} structures and {len(before.pipes)} pipes?"
    )
    user.do("delete")
    assert not user.project.structures
    assert user.session.history.undo_names[0].startswith("Delete ")


def test_an_edit_of_many_is_seen_before_it_is_taken(user):
    user.session.to_stage("layout")
    pipes = frozenset(list(user.project.pipes)[:4])
    user.session.select(pipes=pipes)
    user.settle()
    panel = user.window.side.panel
    before = user.project
    box = panel.size_box
    box.showPopup()
    i = box.findData("600")
    box.highlighted.emit(i)
    assert {user.shown.pipes[p].size for p in pipes} == {"600"}
    assert "will change" in panel.says.text()
    assert user.project is before
    box.hidePopup()
    user.settle()
    assert user.shown is before
    panel.shared.status.showPopup()
    panel.shared.status.highlighted.emit(panel.shared.status.findData("existing"))
    assert {user.shown.pipes[p].status for p in pipes} == {"existing"}
    panel.shared.status.hidePopup()
    user.settle()
    assert user.shown is before
    user.session.select(structures=frozenset(list(before.structures)[:3]))
    user.settle()
    field = user.window.side.panel.by["along"]
    user.type(field, "2")
    assert user.shown is not before
    assert user.project is before
    field.clear()
    depth = user.window.side.panel.shared.sump_depth
    depth.selectAll()
    user.type(depth, "0.5")
    assert {user.shown.structures[k].sump_depth for k in user.session.state.chosen.structures} == {
        0.5
    }
    user.key(depth, Qt.Key.Key_Escape)
    assert user.shown is before
    assert not user.refusals
