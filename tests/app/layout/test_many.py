"""Many are caught, changed, copied, named and numbered."""

from PySide6.QtCore import Qt
from pytest import approx

from tests.app.layout.hands import middle_of, on_road
from zumbert.app.tools.pick import PickTool


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
    panel.shared.choices["status"].setCurrentText("existing")
    panel.shared.choices["status"].activated.emit(panel.shared.choices["status"].currentIndex())
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
    box = user.window.side.panel.shared.choices["network"]
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
