"""The stage Ground, driven through the window."""

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QLineEdit, QPushButton, QSlider
from pytest import approx

from tests.build import drawn
from zumbert.app.panels.numbertable import NumberTable
from zumbert.app.tools.pick import PickTool
from zumbert.edits.ground import in_units, read_again, set_profile
from zumbert.edits.grounditems import GroundItem
from zumbert.edits.setup import add_background
from zumbert.model.background import DrawnText
from zumbert.store import load, save


def panel(user):
    user.window.rail.buttons["ground"].click()
    user.settle()
    return user.window.side.panel


def pick(user, kind, name):
    panel(user).findChild(QPushButton, f"{kind} {name}").click()
    user.settle()
    return user.window.side.panel


def find(user, kind, name):
    return user.window.side.panel.findChild(kind, name)


def choose(user, name, data):
    box = find(user, QComboBox, name)
    box.setCurrentIndex(box.findData(data))
    box.activated.emit(box.currentIndex())
    user.settle()


def write(user, name, text):
    field = find(user, QLineEdit, name)
    field.setFocus()
    field.selectAll()
    user.type(field, text) if text else user.key(field, Qt.Key.Key_Delete)
    user.key(field, Qt.Key.Key_Return)


def cell(user, table, row, column, text):
    t = find(user, NumberTable, f"table {table}")
    t.item(row, column).setText(text)
    user.settle()


def road(user, name="Quillerby Rise"):
    return next(r for r in user.project.roads.values() if r.name == name)


def map_of(user, *places):
    """Plan places of world places, the plan not straightened and fitted to them."""
    user.window.session.set(straight=False)
    user.window.plan.fit_map()
    user.settle()
    return [user.window.plan.drawn(*p) for p in places]


def test_the_role_of_a_surface_is_chosen(user):
    pick(user, "surface", "Road design")
    choose(user, "role Road design", "none")
    assert [s.role for s in user.project.surfaces.values()] == ["existing", "none"]
    assert user.facts.pipes[user.pipe("S5", "S4").id].span.sources == ("existing",)
    assert user.session.history.undo_name == "Change the role of Road design"


def test_name_start_and_profile_of_a_road(user):
    pick(user, "road", "Tansymoor Lane")
    write(user, "road name", 'Lane "North"')
    assert road(user, 'Lane "North"').name == 'Lane "North"'
    before = user.facts.places[
        next(k for k, s in user.project.structures.items() if s.label == "S14")
    ]
    write(user, "road start", "0+100")
    after = user.facts.places[before_key(user)]
    assert (after.chainage, after.x) == (approx(before.chainage + 100), approx(before.x))
    choose(user, "profile Tansymoor Lane", None)
    assert road(user, 'Lane "North"').design is None
    write(user, "road start", "far")
    assert "is no number" in user.refusals[-1]


def before_key(user):
    return next(k for k, s in user.project.structures.items() if s.label == "S14")


def test_a_road_in_use_stays_and_a_surface_goes_and_comes_back(user):
    pick(user, "road", "Quillerby Rise")
    find(user, QPushButton, "remove").click()
    assert "delete or move them first" in user.refusals[-1]
    pick(user, "surface", "Road design")
    user.key(user.plan, Qt.Key.Key_Delete)
    assert [s.name for s in user.project.surfaces.values()] == ["Existing ground"]
    user.do("undo")
    assert len(user.project.surfaces) == 2


def test_eye_strength_and_order(user):
    pick(user, "surface", "Existing ground")
    find(user, QPushButton, "eye Existing ground").click()
    user.settle()
    assert not next(iter(user.project.surfaces.values())).shown
    assert user.session.history.undo_name == "Hide Existing ground"
    find(user, QSlider, "strength").setValue(40)
    assert next(iter(user.project.surfaces.values())).strength == 0.4
    user.settle()
    find(user, QPushButton, "order 1").click()
    assert [s.name for s in user.project.surfaces.values()] == ["Road design", "Existing ground"]


def test_layers_of_a_drawing_are_switched(user):
    lines = np.array([[1400.0, 880.0, 1500.0, 880.0], [1400.0, 870.0, 1500.0, 870.0]])
    user.session.edit(
        "Add", lambda p, f: add_background(p, drawn("survey", ("FENCE", "TREES"), lines, [0, 1]))
    )
    pick(user, "background", "survey")
    find(user, QCheckBox, "layer TREES").click()
    assert next(iter(user.project.backgrounds.values())).off == {"TREES"}
    assert user.session.history.undo_name == "Hide layer TREES"
    user.settle()
    find(user, QCheckBox, "layer TREES").click()
    assert next(iter(user.project.backgrounds.values())).off == set()
    choose(user, "unit", 0.001)
    assert next(iter(user.project.backgrounds.values())).segments[0].tolist() == approx(
        [1.4, 0.88, 1.5, 0.88]
    )


def test_a_selected_pipe_is_shown_in_this_stage_too(user):
    panel(user)
    pipe = user.look_at("S5", "S4")
    assert user.window.side.panel.pipe == pipe.id
    user.key(user.section, Qt.Key.Key_Escape)
    assert find(user, QPushButton, "surface Road design")


def test_contours_and_shading(user):
    panel(user)
    write(user, "contours", "0.5")
    assert user.project.settings.contours == 0.5
    find(user, QCheckBox, "shading").click()
    assert user.project.settings.shading
    write(user, "contours", "")
    assert user.project.settings.contours is None


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


def ring_of(user, view, kind, i):
    user.settle()
    return next(t for t in view.targets if t.kind == kind and t.id == i).xy[0]


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


def test_measuring_changes_nothing(user):
    user.do("measure")
    a, b, c = map_of(user, (1450.0, 850.0), (1490.0, 850.0), (1490.0, 880.0))
    for p in (a, b, c):
        user.click(user.plan, *p)
    tool = user.window.toolbox.tool
    long, area = tool.totals()
    k = 1 / user.plan.sight.scale  # a click is a drawing unit at best
    assert long == approx(70.0, abs=4 * k)
    assert area == approx(600.0, abs=80 * k)
    assert "area" in tool.words().lines[1]
    user.key(user.plan, Qt.Key.Key_Return)
    assert tool.placed == []
    assert user.session.history.undo_names == []


def test_a_spot_level_follows_its_surface(user):
    user.do("spot")
    [p] = map_of(user, (1580.0, 830.0))
    user.click(user.plan, *p)
    [spot] = user.project.spots.values()
    assert spot.follows == "existing"
    user.key(user.plan, Qt.Key.Key_Return)
    assert user.window.toolbox.tool.follows == "design"
    user.key(user.plan, Qt.Key.Key_Escape)
    user.settle()
    user.click(user.plan, *user.plan.drawn(spot.x, spot.y))
    assert user.session.state.chosen.item == GroundItem("spot", spot.id)
    choose(user, "spot follows", "design")
    assert next(iter(user.project.spots.values())).follows == "design"
    user.do("delete")
    assert not user.project.spots


def test_land_and_services_are_drawn(user):
    user.window.toolbox.take("draw-land-reserve")
    for p in map_of(user, (1400.0, 850.0), (1500.0, 850.0), (1500.0, 950.0)):
        user.click(user.plan, *p)
    user.key(user.plan, Qt.Key.Key_Return)
    area = list(user.project.land.values())[-1]
    assert (area.name, len(area.ring)) == ("Road reserve", 3)
    write(user, "land name", "Reserve A")
    assert list(user.project.land.values())[-1].name == "Reserve A"
    user.window.toolbox.take("draw-service-water")
    user.settle()
    for text in ("1450,880,40.5", "1460,900,41"):
        user.type(user.plan, text)
        user.key(user.plan.entry.field, Qt.Key.Key_Return)
    user.key(user.plan, Qt.Key.Key_Return)
    line = list(user.project.services.values())[-1]
    assert line.points == ((1450.0, 880.0, 40.5), (1460.0, 900.0, 41.0))
    write(user, "service size", "0.2")
    assert list(user.project.services.values())[-1].size == 0.2
    write(user, "service size", "900")
    assert "at most 5.00 m wide" in user.refusals[-1]
    cell(user, "places", 1, 2, "")
    assert list(user.project.services.values())[-1].points[1][2] is None


@pytest.fixture
def surveyed(user):
    """A drawing with an L of two straights, a ring, and a crossing line."""
    lines = [
        [1440, 960, 1500, 960],
        [1500, 960, 1500, 930],
        [1560, 960, 1590, 960],
        [1590, 960, 1590, 930],
        [1590, 930, 1560, 960],
        [1450, 940, 1450, 980],
    ]
    user.session.edit(
        "Add", lambda p, f: add_background(p, drawn("survey", ("A",), lines, [0] * 6))
    )
    return user


def test_a_road_and_an_area_from_drawn_lines(surveyed):
    user = surveyed
    user.window.toolbox.take("road-from-line")
    [at] = map_of(user, (1480.0, 960.0))
    user.move(user.plan, *at)
    assert user.window.toolbox.tool.line.tolist() == [[1440, 960], [1500, 960], [1500, 930]]
    user.click(user.plan, *at)
    assert [(p.x, p.y) for p in road(user, "Road 1").points] == [
        (1440, 960),
        (1500, 960),
        (1500, 930),
    ]
    user.window.toolbox.take("land-from-line-property")
    [at] = map_of(user, (1590.0, 945.0))
    user.click(user.plan, *at)
    assert len(list(user.project.land.values())[-1].ring) == 3
    user.click(user.plan, at[0], at[1] + 60)
    assert "no line of a drawing here" in user.refusals[-1]


def test_pipes_from_a_drawn_line_show_their_flow_and_are_turned(surveyed):
    user = surveyed
    before = user.project
    user.do("line-pipes")
    [at] = map_of(user, (1470.0, 960.0))
    user.move(user.plan, *at)
    tool = user.window.toolbox.tool
    ends = [user.shown.structures[k].place for k in tool.made.structures]
    assert [(p.x, p.y) for p in ends] == [(1440, 960), (1500, 960), (1500, 930)]
    user.type(user.plan, "t")
    ends = [user.shown.structures[k].place for k in tool.made.structures]
    assert [(p.x, p.y) for p in ends] == [(1500, 930), (1500, 960), (1440, 960)]
    user.click(user.plan, *at)
    new = [p for k, p in user.project.pipes.items() if k not in before.pipes]
    assert len(new) == 2
    assert all(user.facts.pipes[p.id].slope > 0 for p in new)
    assert new[0].down == new[1].up
    assert len(user.session.history.undo_names) == 2  # the drawing, the pipes
    user.do("undo")
    assert user.project is before
    user.click(user.plan, at[0], at[1] + 60)
    assert "no line of a drawing here" in user.refusals[-1]


def test_the_cursor_is_drawn_to_ends_crossings_and_middles(surveyed):
    user = surveyed
    user.do("measure")
    end, crossing, middle = map_of(user, (1500.0, 930.0), (1450.0, 960.0), (1575.0, 960.0))
    for at, place, what in (
        (end, (1500, 930), "end"),
        (crossing, (1450, 960), "crossing"),
        (middle, (1575, 960), "middle"),
    ):
        user.move(user.plan, at[0] + 3, at[1] + 2)
        assert user.window.toolbox.tool.at == approx(place)
        assert user.window.toolbox.tool.snap.what == what
    user.move(user.plan, end[0] + 3, end[1] + 2, keys=Qt.KeyboardModifier.AltModifier)
    assert user.window.toolbox.tool.snap is None


def test_files_are_attached_noted_and_copied(user, tmp_path):
    panel(user)
    (tmp_path / "soil.txt").write_bytes(b"clay\x00")
    assert user.window.acts("ground").attach_file(tmp_path / "soil.txt", inside=True)
    assert user.window.acts("ground").attach_file(tmp_path / "soil.txt", inside=False)
    assert not user.window.acts("ground").attach_file(tmp_path / "none.txt", inside=True)
    assert "could not be read" in user.refusals[-1]
    inside, linked = user.project.attachments.values()
    assert (inside.data, linked.data, linked.path) == (
        b"clay\x00",
        None,
        str(tmp_path / "soil.txt"),
    )
    user.session.pick(GroundItem("attachment", inside.id))
    user.settle()
    write(user, "file note", "borehole 3")
    assert user.project.attachments[inside.id].note == "borehole 3"
    assert user.window.acts("ground").copy_file(inside.id, tmp_path / "copy.txt")
    assert (tmp_path / "copy.txt").read_bytes() == b"clay\x00"


def test_each_level_says_which_surface_gave_it(user):
    panel(user)
    foot = user.window.foot
    assert foot.heads["ground"].text() == "Existing ground"
    assert foot.heads["design"].text() == "Road design"
    assert not foot.heads["formation"].isVisible()
    user.move(user.section, 20, user.section.sight.height + 16.5 * 2 + 5)
    assert user.section.toolTip() == "Ground: Existing ground"
    user.window.go_stage("layout")
    user.session.select(structures=frozenset({user.structure("S9").id}))
    user.settle()
    rows = user.window.side.panel.rows
    assert (rows["ground"].aside.text(), rows["rim"].under.text()) == (
        "Existing ground",
        "follows Road design",
    )


def test_laying_is_drawn_to_what_is_drawn(surveyed):
    user = surveyed
    user.do("lay")
    [at] = map_of(user, (1560.0, 960.0))
    user.move(user.plan, at[0] + 3, at[1] - 2)
    user.press(user.plan, at[0] + 3, at[1] - 2)
    user.release(user.plan, at[0] + 3, at[1] - 2)
    placed = list(user.project.structures.values())[-1]
    f = user.facts.places[placed.id]
    assert (f.x, f.y) == (approx(1560.0), approx(960.0))


def test_a_long_group_folds_and_the_fields_of_what_is_selected_are_in_sight(user):
    from zumbert.edits.land import add_land

    project = user.project
    for i in range(150):
        x = 1400.0 + 3 * i
        project, key = add_land(project, "reserve", [(x, 900.0), (x + 2, 900.0), (x + 2, 902.0)])
    user.session.apply("Draw many", project)
    user.session.to_stage("ground")
    user.settle()
    panel, scroll = user.window.side.panel, user.window.side
    fold = panel.findChild(QPushButton, "fold land")
    assert fold.text() == f"Show all {len(project.land)}"
    user.session.pick(GroundItem("land", key))
    user.bot.wait(30)
    user.settle()
    top = panel.detail.mapTo(scroll.widget(), QPoint(0, 0)).y() - scroll.verticalScrollBar().value()
    assert 0 <= top < scroll.viewport().height() - 60
    before = scroll.verticalScrollBar().value()
    user.fill(user.window.findChild(QLineEdit, "land name"), "Mine")
    user.settle()
    assert user.project.land[key].name == "Mine"
    assert scroll.verticalScrollBar().value() == before
    slider = panel.findChild(QSlider)
    was = slider.value()
    user.wheel(slider, 5, 5, 1)
    assert slider.value() == was
    panel.findChild(QPushButton, "fold land").click()
    user.settle()
    assert panel.findChild(QPushButton, "fold land").text() == "Show fewer"


def test_a_place_that_can_hardly_be_meant_is_questioned_and_cancel_leaves_all_as_it_was(
    user, monkeypatch
):
    asked, answers = [], [False, True]
    monkeypatch.setattr(
        user.session, "sure", lambda question: asked.append(question) or answers.pop(0)
    )
    user.do("ground")
    key = next(iter(user.project.land))
    user.session.pick(GroundItem("land", key))
    user.settle()
    table = user.window.side.findChild(NumberTable, "table corners")
    before, project = table.item(0, 0).text(), user.project
    table.item(0, 0).setText("9" + before)  # a digit too many
    assert user.project is project and table.item(0, 0).text() == before
    assert asked[0].startswith("With this the work reaches over ") and asked[0].endswith(
        "Is a place mistyped?"
    )
    assert " km, where it now reaches over 0.6 km." in asked[0]
    table.item(0, 0).setText("9" + before)
    assert user.project is not project
    user.do("undo")
    table.item(0, 0).setText(before[:-1])  # as it is meant: no question
    assert len(asked) == 2


def test_a_field_tells_what_it_belongs_to(user):
    user.do("ground")
    key = next(iter(user.project.roads))
    user.session.pick(GroundItem("road", key))
    user.settle()
    start = user.window.side.findChild(QLineEdit, "road start")
    assert start.toolTip() == "Starts at, m: Quillerby Rise"
    name = user.window.side.findChild(QLineEdit, "road name") or user.window.side.findChild(
        QLineEdit
    )
    name.selectAll()
    user.type(name, "Quillerby Hill")
    user.key(name, Qt.Key.Key_Return)
    assert start.toolTip() == "Starts at, m: Quillerby Hill"
    assert (
        user.window.side.findChild(QLineEdit, "road near")
        .toolTip()
        .startswith("Structures of other roads")
    )


def test_a_drawing_at_its_own_origin_is_placed_by_two_pairs_clicked_or_typed(user, tmp_path):
    text = DrawnText("A", "gate", 5.0, 0.0, 1.0)
    b = drawn("site", ("A",), [(0, 0, 10, 0)], [0], texts=(text,))
    user.session.edit("Import", lambda p, f: add_background(p, b))
    key = next(reversed(user.project.backgrounds))
    before = user.project
    user.do("ground")
    user.session.pick(GroundItem("background", key))
    user.do("place")
    tool = user.window.toolbox.tool
    user.move(user.plan, 300, 100)
    assert tool.words().head == "A point of it"
    for typed in ("0,0", "1450,900", "10,0"):
        assert tool.entry(typed)
    # the first pair shifts it
    assert user.shown.backgrounds[key].segments.tolist() == [[1450.0, 900.0, 1460.0, 900.0]]
    assert tool.entry("1450,920")
    made = user.project.backgrounds[key]
    assert made.segments[0].tolist() == approx([1450, 900, 1450, 920])
    assert (made.texts[0].x, made.texts[0].y, made.texts[0].height) == (
        approx(1450),
        approx(910),
        approx(2.0),
    )
    assert made.texts[0].turn == approx(3 * np.pi / 2)  # a quarter to the left
    assert user.session.history.undo_name == "Place site" and user.window.toolbox.tool.placed == []
    save(user.project, tmp_path / "p.zumbert")
    assert load(tmp_path / "p.zumbert").backgrounds[key].placing == made.placing
    fresh = read_again(user.project, key, replace(b, id=key)).backgrounds[key]
    # its file, read again, lies there too
    assert fresh.segments[0].tolist() == approx([1450, 900, 1450, 920])
    half = in_units(user.project, key, 0.5).backgrounds[key]
    assert half.segments[0].tolist() == approx([1450, 900, 1450, 910])
    user.do("undo")
    assert user.project is before
    surface = next(iter(user.project.surfaces))
    z = user.project.surfaces[surface].vertices[:, 2]
    user.session.pick(GroundItem("surface", surface))
    user.do("place")
    for typed in ("0,0", "5,-3"):
        assert user.window.toolbox.tool.entry(typed)
    user.key(user.plan, Qt.Key.Key_Return)
    moved = user.project.surfaces[surface]
    assert (moved.vertices[:, :2] - before.surfaces[surface].vertices[:, :2]).tolist()[0] == approx(
        [5.0, -3.0]
    )
    assert (moved.vertices[:, 2] == z).all() and moved.placing.x == 5.0
