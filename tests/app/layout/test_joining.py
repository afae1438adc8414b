"""Loose ends, joins, typed places, and what many are asked."""

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import Qt
from pytest import approx

from tests.app.layout.hands import on_road
from zumbert.app.tools.pick import PickTool, caught_by
from zumbert.drawing.longsection import section_marks
from zumbert.drawing.marks import texts_in
from zumbert.edits.lay import lay
from zumbert.edits.layoptions import LayOptions
from zumbert.model.structure import Anchored, Free


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
    panel.shared.choices["status"].showPopup()
    panel.shared.choices["status"].highlighted.emit(
        panel.shared.choices["status"].findData("existing")
    )
    assert {user.shown.pipes[p].status for p in pipes} == {"existing"}
    panel.shared.choices["status"].hidePopup()
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
