"""Places by keys, edges, snaps and steps, and what is said while one lays."""

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from pytest import approx
from shapely import Point, Polygon

from tests.app.layout.hands import on_road
from zumbert.analysis.runline import RunKey
from zumbert.app.tools.pick import PickTool
from zumbert.edits.grounditems import GroundItem


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
