"""Roads are made, dragged and typed."""

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QPushButton
from pytest import approx

from tests.app.ground.hands import before_key, cell, find, map_of, pick, ring_of, road, write
from zumbert.app.panels.numbertable import NumberTable
from zumbert.app.tools.pick import PickTool
from zumbert.edits.ground import set_profile
from zumbert.edits.grounditems import GroundItem


def test_a_road_is_made_by_clicks_and_typed_places(user):
    user.window.toolbox.take("make-road")
    a, b = map_of(user, (1450.0, 960.0), (1540.0, 960.0))
    user.click(user.plan, *a)
    user.click(user.plan, *b)
    user.type(user.plan, "r25 10")
    user.key(user.window.plan.entry.field, Qt.Key.Key_Return)
    user.type(user.plan, "d60 b180")
    user.key(user.window.plan.entry.field, Qt.Key.Key_Return)
    user.move(user.plan, b[0] + 5, b[1] + 20)
    assert len(user.shown.roads) == 3  # live, before it is taken
    user.key(user.plan, Qt.Key.Key_Return)
    made = road(user, "Road 1")
    assert [(p.radius, p.clothoid_in, p.clothoid_out) for p in made.points] == [
        (0, 0, 0),
        (25, 10, 10),
        (0, 0, 0),
    ]
    assert (made.points[2].x, made.points[2].y) == (
        approx(made.points[1].x),
        approx(made.points[1].y - 60),
    )
    assert user.session.history.undo_names == ["Make Road 1"]
    assert user.session.state.chosen.item == GroundItem("road", made.id)
    assert user.session.state.look.run.name == "Road 1"
    user.key(user.plan, Qt.Key.Key_Escape)
    assert isinstance(user.window.toolbox.tool, PickTool)


def test_points_that_do_not_fit_are_told_and_kept_in_hand(user):
    user.window.toolbox.take("make-road")
    a, b = map_of(user, (1450.0, 960.0), (1540.0, 960.0))
    user.click(user.plan, *a)
    user.click(user.plan, *b)
    user.type(user.plan, "r400")
    user.key(user.window.plan.entry.field, Qt.Key.Key_Return)
    user.type(user.plan, "d30 b180")
    user.key(user.window.plan.entry.field, Qt.Key.Key_Return)
    user.key(user.plan, Qt.Key.Key_Return)
    assert "more between them" in user.refusals[-1]
    assert len(user.window.toolbox.tool.placed) == 3
    user.key(user.plan, Qt.Key.Key_Backspace)
    assert len(user.window.toolbox.tool.placed) == 2
    user.key(user.plan, Qt.Key.Key_Escape)
    assert user.project is user.session.state.current.project
    assert len(user.project.roads) == 2


def test_a_point_of_a_road_is_dragged_with_what_stands_on_it(user):
    user.window.session.set(straight=False)
    pick(user, "road", "Tansymoor Lane")
    user.window.plan.fit_map()
    x, y = ring_of(user, user.plan, "ip", 1)
    before = user.facts.places[before_key(user)]
    user.press(user.plan, x, y)
    user.move(user.plan, x + 6, y + 4, True)
    shown = user.session.state.shown.facts.places[before_key(user)]
    assert (shown.x, shown.y) != (before.x, before.y)  # live, the button still down
    assert (shown.chainage, shown.offset) == (before.chainage, before.offset)
    user.release(user.plan, x + 6, y + 4)
    assert user.session.history.undo_name == "Move point 2 of Tansymoor Lane"
    assert road(user, "Tansymoor Lane").points
    user.do("undo")
    assert road(user, "Tansymoor Lane").elements


def test_a_radius_is_dragged_and_typed(user):
    user.window.session.set(straight=False)
    pick(user, "road", "Quillerby Rise")
    user.window.plan.fit_map()
    x, y = ring_of(user, user.plan, "radius", 1)
    px, py = ring_of(user, user.plan, "ip", 1)
    user.drag(user.plan, (x, y), (x + (px - x) * 0.2, y + (py - y) * 0.2))
    dragged = road(user).points[1].radius
    assert user.session.history.undo_name == "Change the radius at point 2 of Quillerby Rise"
    user.click(user.plan, *ring_of(user, user.plan, "ip", 1))
    assert user.session.state.chosen.part == ("ip", 1)
    user.type(user.plan, "r55")
    user.key(user.plan.entry.field, Qt.Key.Key_Return)
    assert road(user).points[1].radius == 55.0 != dragged
    p = road(user).points[1]
    user.window.plan.map = replace(user.window.plan.map, x=p.x, y=p.y, scale=5.0)
    user.window.plan.update()
    x, y = ring_of(user, user.plan, "radius", 1)
    user.press(user.plan, x, y)
    user.move(user.plan, x + 3, y, True)
    user.key(user.plan, Qt.Key.Key_Escape)
    assert road(user).points[1].radius == 55.0


def test_vertical_points_are_dragged_typed_added_and_taken_out(user):
    pick(user, "road", "Quillerby Rise")
    user.window.section.fit()
    profile = road(user).profiles[0]
    x, y = ring_of(user, user.section, "pvi", 1)
    user.drag(user.section, (x, y), (x, y - 0.5 * user.section.sight.sz))
    moved = road(user).profiles[0].pvis[1]
    assert moved.level == approx(
        profile.pvis[1].level + 0.5, abs=1.0 / user.section.sight.sz + 0.005
    )
    assert user.session.history.undo_name == "Move vertical point 2 of Quillerby Rise"
    user.click(user.section, *ring_of(user, user.section, "pvi", 1))
    user.type(user.section, "+0.25")
    user.key(user.section.entry.field, Qt.Key.Key_Return)
    assert road(user).profiles[0].pvis[1].level == approx(moved.level + 0.25)
    user.click(user.section, *ring_of(user, user.section, "pvi", 1))
    user.type(user.section, "l30")
    user.key(user.section.entry.field, Qt.Key.Key_Return)
    assert road(user).profiles[0].pvis[1].length == 30.0
    x, y = ring_of(user, user.section, "curve", 1)
    px, _ = ring_of(user, user.section, "pvi", 1)
    user.drag(user.section, (x, y), (x + (1 if x > px else -1) * 5 * user.section.sight.sx, y))
    assert road(user).profiles[0].pvis[1].length == approx(40.0, abs=1.0)
    count = len(road(user).profiles[0].pvis)
    user.window.toolbox.take("road-points")
    user.type(user.section, "220 45.2 20")
    user.key(user.section.entry.field, Qt.Key.Key_Return)
    assert len(road(user).profiles[0].pvis) == count + 1
    user.key(user.section, Qt.Key.Key_Escape)
    at = [p.chainage for p in road(user).profiles[0].pvis].index(220.0)
    user.click(user.section, *ring_of(user, user.section, "pvi", at))
    user.do("delete")
    assert len(road(user).profiles[0].pvis) == count
    assert user.session.history.undo_name == f"Take out vertical point {at + 1} of Quillerby Rise"


def test_a_drag_moves_the_drawing_while_points_are_added(user):
    pick(user, "road", "Quillerby Rise")
    user.window.section.fit()
    user.window.toolbox.take("road-points")
    before, left, x = road(user), user.section.sight.x, user.section.width() / 2
    user.drag(user.section, (x, 60), (x - 50, 60))
    assert user.section.sight.x > left
    assert road(user) is before
    user.click(user.section, x, 60)
    assert len(road(user).profiles[0].pvis) == len(before.profiles[0].pvis) + 1


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("1,2,3", 'Type "x,y" for a point'),
        ("100 4x", '"4x" is no number'),
        ("1 2 3 4", 'Type "x,y" for a point'),
    ],
)
def test_a_typed_point_that_means_nothing_is_refused(user, text, says):
    pick(user, "road", "Quillerby Rise")
    before = user.project
    user.window.toolbox.take("road-points")
    user.type(user.section, text)
    user.key(user.section.entry.field, Qt.Key.Key_Return)
    assert says in user.refusals[-1]
    assert user.project is before
    assert user.section.entry.field.text() == text


def test_points_are_changed_in_their_tables(user):
    pick(user, "road", "Quillerby Rise")
    cell(user, "points", 1, 2, "65")
    assert road(user).points[1].radius == 65.0
    assert user.session.history.undo_name == "Change the points of Quillerby Rise"
    cell(user, "points", 1, 2, "900")
    assert "more between them" in user.refusals[-1]
    assert find(user, NumberTable, "table points").item(1, 2).text() == "65"
    z = road(user).profiles[0].pvis[0].level
    cell(user, "vertical points", 0, 1, f"{z + 0.1:.3f}")
    assert road(user).profiles[0].pvis[0].level == approx(z + 0.1, abs=1e-3)


def test_a_strip_gives_the_design_surface(user):
    pick(user, "surface", "Road design")
    user.do("delete")
    pick(user, "road", "Quillerby Rise")
    find(user, QCheckBox, "strip surface").click()
    user.settle()
    assert user.facts.surfaces.name("design") == "strip of Quillerby Rise"
    rim = user.facts.places[user.structure("S9").id].rim
    cell(user, "strip", 0, 3, "-5")
    cell(user, "strip", 0, 4, "-5")
    assert user.facts.places[user.structure("S9").id].rim < rim
    find(user, QPushButton, "add section").click()
    user.settle()
    assert len(road(user).strip.sections) == 2
    cell(user, "strip", 1, 1, "-3")
    assert "a width of the strip" in user.refusals[-1]
    write(user, "strip depth", "0.55")
    assert road(user).strip.depth == 0.55


def test_a_new_profile_is_a_copy_that_is_not_in_force_and_the_first_begins_on_the_ground(user):
    pick(user, "road", "Tansymoor Lane")
    find(user, QPushButton, "new profile").click()
    lane = road(user, "Tansymoor Lane")
    assert (lane.design, len(lane.profiles)) == (0, 2)
    assert (
        lane.profiles[1].name == lane.profiles[0].name + " 2"
        and lane.profiles[1].pvis == lane.profiles[0].pvis
    )
    user.do("undo")
    user.session.edit("None", lambda p, f: set_profile(p, lane.id, None))
    find(user, QPushButton, "new profile").click()
    lane = road(user, "Tansymoor Lane")
    assert (lane.design, len(lane.profiles[1].pvis)) == (1, 2)
    r = user.facts.roads[lane.id]
    ground = user.facts.surfaces.existing.level(*r.alignment.point(np.array([r.alignment.start])))
    assert lane.profiles[1].pvis[0].level == approx(float(ground[0]), abs=1e-3)
    find(user, QPushButton, "remove profile").click()
    assert len(road(user, "Tansymoor Lane").profiles) == 1
