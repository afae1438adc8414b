"""Measuring, spot levels, land, services, files and drawings."""

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QLineEdit, QPushButton, QSlider
from pytest import approx

from tests.app.ground.hands import cell, choose, map_of, panel, road, write
from tests.build import drawn
from zumbert.app.panels.numbertable import NumberTable
from zumbert.edits.ground import in_units, read_again
from zumbert.edits.grounditems import GroundItem
from zumbert.edits.setup import add_background
from zumbert.model.background import DrawnText
from zumbert.store import load, save


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
