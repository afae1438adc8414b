"""The stage Flow through the real window: areas, rain, flows, sizes."""

import numpy as np
import pytest
from msgspec.structs import replace
from openpyxl import load_workbook
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QPushButton
from pytest import approx

from zumbert.analysis.runline import RunKey
from zumbert.app.panels.figures import FigureRow
from zumbert.demo.make import FILES
from zumbert.drawing.flowmarks import fullness, part_full_curve
from zumbert.drawing.longsection import section_marks
from zumbert.drawing.marks import Disc, Fill, Stroke
from zumbert.edits.areas import add_area
from zumbert.edits.grounditems import GroundItem
from zumbert.exchange.sizelog import size_text


@pytest.fixture
def flow(user):
    user.in_stage("flow")
    return user


def panel(user):
    return user.window.side.panel


def page(user, i):
    panel(user).show_page(i)
    user.settle()
    return panel(user).pages[i]


def button(user, name):
    return next(w for w in user.window.findChildren(QPushButton, name) if w.isVisible())


def figures(user):
    return {w.name: w.value for w in panel(user).pages[0].findChildren(FigureRow)}


def select(user, up, down):
    pipe = user.pipe(up, down)
    user.session.select(pipes=frozenset({pipe.id}))
    user.settle()
    return pipe


def test_the_stage_shows_water_tints_and_areas(flow):
    s = flow.session.state
    assert s.look.stage.id == "flow" and "flow" in s.picture.shows
    made = section_marks(s.picture, flow.section.sight)
    roles = {m.role for m in made.drawing if isinstance(m, Fill)}
    assert {"water", "water-over"} <= roles
    base = flow.plan._drawn_base(s, flow.plan.sight)
    assert {"area-1", "area-2"} <= {m.role for m in base if isinstance(m, Fill)}
    tints = flow.plan._tints(s, s.picture, flow.plan.sight)
    assert {"flow-half", "flow-most", "flow-over"} <= {
        m.role for m in tints if isinstance(m, Stroke)
    }
    flow.window.go_stage("levels")
    assert not flow.plan._tints(flow.session.state, flow.session.state.picture, flow.plan.sight)


def test_a_level_that_is_dragged_shows_its_flow_with_the_mouse_still_down(flow):
    pipe = flow.look_at("S2", "S1")
    before = flow.facts.pipe_flow[pipe.id]
    assert (
        figures(flow)["Design flow"] == "143.9 l/s"
        and figures(flow)["Flow over full bore"] == "1.10"
    )
    flow.drag_ring("up", 0.3, release=False)
    flow.settle()
    after = flow.session.state.shown.facts.pipe_flow[pipe.id]
    assert flow.session.state.previewing and after.capacity > before.capacity
    assert figures(flow)["Flow over full bore"] == flow.session.units.ratio(after.used)
    assert fullness(after).role != fullness(before).role
    x, y = flow.ring("up")
    flow.release(flow.section, x, y)
    assert flow.facts.pipe_flow[pipe.id].capacity == approx(after.capacity, rel=1e-3)
    flow.do("undo")
    assert flow.facts.pipe_flow[pipe.id] == before


def test_the_point_stands_on_the_part_full_curve(flow):
    pipe = select(flow, "S3", "S2")
    q = flow.facts.pipe_flow[pipe.id]
    marks = list(part_full_curve(q, flow.session.units, 286.0, 170.0))
    [dot] = [m for m in marks if isinstance(m, Disc)]
    curve = next(m for m in marks if isinstance(m, Stroke) and m.role == "storm")
    assert np.hypot(*(curve.xy - (dot.x, dot.y)).T).min() < 1.5


def test_a_pipe_that_is_too_small_is_found_sized_and_undone(flow):
    pipe = select(flow, "S2", "S1")
    text = next(
        w for w in flow.window.findChildren(QPushButton) if w.text().startswith("Make it DN 450")
    )
    assert text.isVisible()
    sizes = page(flow, 3)
    button(flow, "work out sizes").click()
    flow.settle()
    assert flow.session.state.previewing
    assert flow.shown.pipes[pipe.id].size == "450" and flow.project.pipes[pipe.id].size == "375"
    items = {
        sizes.list.item(i).text().split(":")[0]: sizes.list.item(i)
        for i in range(sizes.list.count())
    }
    assert "capacity 131.1 l/s <" in items["P2"].text()
    items["P13"].setCheckState(Qt.CheckState.Unchecked)  # that one is to stay
    flow.settle()
    assert flow.shown.pipes[flow.pipe("S13", "S12").id].size == "300"
    button(flow, "take sizes").click()
    flow.settle()
    assert (
        flow.project.pipes[pipe.id].size == "450"
        and flow.project.pipes[flow.pipe("S13", "S12").id].size == "300"
    )
    assert not [f for f in flow.session.state.current.findings if f.rule == "capacity"]
    log = flow.project.size_log
    assert {line.object for line in log.lines} >= {
        p.label for p in flow.project.pipes.values() if p.status == "proposed"
    }
    assert "P13: DN 300 (left as it was" in size_text(log)
    flow.do("undo")
    assert flow.project.pipes[pipe.id].size == "375" and flow.project.size_log is None


def test_sizes_are_left_as_they_were_when_they_are_discarded_or_something_changes(flow):
    page(flow, 3)
    button(flow, "work out sizes").click()
    button(flow, "discard sizes").click()
    flow.settle()
    assert not flow.session.state.previewing and flow.session.history.undo_name is None
    button(flow, "work out sizes").click()
    flow.window.go_stage("levels")
    flow.settle()
    assert not flow.session.state.previewing


def test_an_area_is_drawn_assigned_changed_and_deleted(flow):
    areas = page(flow, 1)
    flow.session.set(straight=False)
    flow.settle()
    flow.plan.fit()
    flow.settle()
    flow.session.set(area_kind="drive")
    button(flow, "draw area").click()
    for x, y in ((1700, 960), (1730, 960), (1730, 980)):
        flow.click(flow.plan, *flow.in_plan(x, y))
    flow.key(flow.plan, Qt.Key.Key_Return)
    made = list(flow.project.areas.values())[-1]
    assert made.kind == "drive" and made.structure is not None
    assert flow.facts.areas[made.id].size == approx(300.0, rel=0.1)
    assert areas.picked == made.id
    flow.window.toolbox.put_down()
    flow.fill(areas.coefficient, "0.5")
    flow.fill(areas.name, 'Yard "B"')
    assert (
        flow.project.areas[made.id].coefficient == 0.5
        and flow.project.areas[made.id].name == 'Yard "B"'
    )
    flow.fill(areas.coefficient, "7")
    assert "between 0 and 1" in flow.refusals[-1] and flow.project.areas[made.id].coefficient == 0.5
    button(flow, "assign area").click()
    s4 = flow.structure("S4")
    place = flow.facts.places[s4.id]
    flow.click(flow.plan, *flow.in_plan(place.x, place.y))
    assert flow.project.areas[made.id].structure == s4.id
    flow.window.toolbox.put_down()
    flow.session.pick(GroundItem("area", made.id))
    flow.key(flow.plan, Qt.Key.Key_Delete)
    assert made.id not in flow.project.areas
    flow.do("undo")
    assert made.id in flow.project.areas


def test_areas_come_from_the_layers_of_a_drawing(flow):
    assert flow.window.exchange.import_paths([FILES / "site.dxf"])
    dialog = QApplication.activeModalWidget()
    dialog.accept()
    flow.settle()
    page(flow, 1)
    count = len(flow.project.areas)
    button(flow, "areas of layers").click()
    dialog = next(
        w for w in QApplication.topLevelWidgets() if w.objectName() == "layers" and w.isVisible()
    )
    assert set(dialog.boxes) == {"SITE-ROOF", "SITE-DRIVE"}
    # by the names of the layers
    assert dialog.kinds == {"SITE-ROOF": "roof", "SITE-DRIVE": "drive"}
    dialog.accept()
    flow.settle()
    new = list(flow.project.areas.values())[count:]
    assert [a.kind for a in new] == ["roof", "roof", "drive"]
    labels = {flow.project.structures[a.structure].label for a in new}
    assert labels <= {"S13", "S12", "S17", "G11L", "G10L", "S11"}


def test_the_road_gives_its_areas_anew_and_what_is_typed_has_a_size(flow):
    areas = page(flow, 1)
    before = [a for a in flow.project.areas.values() if a.along is not None]
    areas.verge.setChecked(True)
    button(flow, "areas of road").click()
    flow.settle()
    now = [a for a in flow.project.areas.values() if a.along is not None]
    assert len(now) == len(before) and all(a.along.verge for a in now)
    flow.session.select(structures=frozenset({flow.structure("S4").id}))
    button(flow, "area by size").click()
    flow.settle()
    made = list(flow.project.areas.values())[-1]
    assert (made.size, made.structure) == (100.0, flow.structure("S4").id)
    flow.fill(areas.extent, "0.042 ha")
    assert flow.project.areas[made.id].size == approx(420.0)


def test_kinds_are_renamed_and_one_in_use_stays(flow):
    areas = page(flow, 1)
    areas.kinds.item(0, 0).setText("slate roof")
    flow.settle()
    assert [a.kind for a in flow.project.areas.values() if a.name == "Hall"] == ["slate roof"]
    areas.kinds.item(0, 1).setText("1.4")
    assert "between 0 and 1" in flow.refusals[-1]
    assert flow.project.area_kinds[0].coefficient == 0.95
    button(flow, "add kind").click()
    assert flow.project.area_kinds[-1].name == "kind 1"


def test_rain_is_typed_pasted_and_taken_by_place(flow):
    rain = page(flow, 2)
    flow.fill(rain.own["years"], "5")
    assert flow.project.rain.years == 5.0
    flow.fill(rain.formula["a"], "1000")
    assert flow.project.rain.source.a == 1000.0
    flow.fill(rain.own["years"], "-4")
    assert "return period" in flow.refusals[-1] and flow.project.rain.years == 5.0
    QApplication.clipboard().setText("min\t2\t5\n5\t120\t150\n10\t90\t115\n30\t50\t66\n")
    rain.show_source(1)
    button(flow, "paste rain").click()
    flow.settle()
    assert flow.project.rain.source.rows[1] == (5.0, (150.0, 115.0, 66.0))
    QApplication.clipboard().setText("nothing")
    button(flow, "paste rain").click()
    assert "no table of rain" in flow.refusals[-1]
    rain.show_source(2)
    flow.settle()
    flow.click(rain.map, 100, 90)
    place = flow.project.rain.place
    assert place is not None and flow.project.rain.name.startswith("Rain atlas")
    flow.fill(rain.place, "12.5, 7.5")
    assert flow.project.rain.place == (12.5, 7.5)
    flow.fill(rain.place, "99, 7")
    assert "The rain atlas holds" in flow.refusals[-1]
    button(flow, "no rain").click()
    assert flow.project.rain is None
    flow.do("undo")
    assert flow.project.rain.place == (12.5, 7.5)


def test_the_way_of_water_follows_the_cursor_and_drains_an_area(flow):
    page(flow, 1)
    flow.session.set(straight=False)
    flow.settle()
    flow.plan.fit()
    flow.settle()
    hall = next(a for a in flow.project.areas.values() if a.name == "Hall")
    flow.session.pick(GroundItem("area", hall.id))
    button(flow, "drop path").click()
    tool = flow.window.toolbox.tool
    flow.move(flow.plan, *flow.in_plan(1700.0, 1000.0))
    first = tool.path.xyz
    assert len(first) > 5 and (np.diff(first[:, 2]) <= 1e-9).all()
    flow.move(flow.plan, *flow.in_plan(1600.0, 1000.0))
    assert not np.array_equal(first[:1], tool.path.xyz[:1])
    assert any(isinstance(m, Stroke) and m.role == "drop-path" for m in flow.plan.overlay())
    s8 = flow.facts.places[flow.structure("S8").id]
    flow.click(flow.plan, *flow.in_plan(s8.x - 2, s8.y + 2))
    to = flow.project.areas[hall.id].structure
    assert to is not None and to != hall.structure


def test_the_catchment_of_a_structure_becomes_an_area(flow):
    page(flow, 1)
    flow.session.set(straight=False)
    flow.settle()
    flow.plan.fit()
    flow.settle()
    button(flow, "catchment").click()
    g8 = flow.structure("G8L")
    place = flow.facts.places[g8.id]
    flow.move(flow.plan, *flow.in_plan(place.x, place.y))
    flow.window.toolbox.tool.inlet = g8.id
    assert flow.window.toolbox.tool.clicked()
    made = list(flow.project.areas.values())[-1]
    assert made.structure == g8.id and flow.facts.areas[made.id].size > 1.0


def test_flows_go_out_as_a_spreadsheet_and_without_rain_it_says_how_to_begin(flow, tmp_path):
    assert flow.window.acts("flow").export_flows_to(tmp_path / "flows.xlsx")
    book = load_workbook(tmp_path / "flows.xlsx")
    assert book.sheetnames == [
        "Flow",
        "Flow at structures",
        "Areas",
        "Areas by kind",
        "Areas by outfall",
    ]
    assert flow.window.acts("flow").export_flows_to(tmp_path / "flows.csv")
    assert (tmp_path / "flows.csv").read_text(encoding="utf-8-sig").startswith("Pipe,From,To")
    flow.session.edit(
        "Nothing drains",
        lambda p, f: type(p)(**{n: getattr(p, n) for n in p.__struct_fields__} | {"areas": {}}),
    )
    flow.session.select()
    flow.settle()
    assert "No flow yet" in panel(flow).pages[0].words.text()
    page(flow, 3)
    button(flow, "work out sizes").click()
    assert "No flow reaches any pipe" in flow.refusals[-1]


def test_an_inflow_at_a_structure_and_a_share_are_typed(flow):
    s9 = flow.structure("S9")
    flow.session.select(structures=frozenset({s9.id}))
    flow.settle()
    first = panel(flow).pages[0]
    before = flow.facts.pipe_flow[flow.pipe("S9", "S8").id].flow
    flow.fill(first.inflow, "12")
    assert flow.project.structures[s9.id].inflow == approx(0.012)
    assert flow.facts.pipe_flow[flow.pipe("S9", "S8").id].flow == approx(before + 0.012, rel=2e-2)
    project, _ = add_area(flow.project, "roof", size=50.0, name="Loose")
    flow.session.apply("Add", project)
    flow.session.select()
    flow.settle()
    assert "1 area drains nowhere: Loose." in first.remark.text()


def test_areas_have_a_table_that_is_typed_pasted_and_picks(flow):
    flow.do("tables")
    drawer = flow.window.centre.tables
    drawer.show_kind("areas")
    flow.settle()
    table = drawer.table
    assert [c.head for c in table.records.table.columns] == [
        "Area",
        "Structure",
        "Kind",
        "Size",
        "Coefficient",
        "CA",
        "Entry",
    ]
    row = next(i for i, t in enumerate(table.records.texts) if t[0] == "Hall")
    key = table.records.ids[row]

    def at(column):
        return table.proxy.mapFromSource(table.records.index(row, column))

    table.setCurrentIndex(at(0))
    flow.settle()
    assert flow.session.state.chosen.item == GroundItem("area", key)
    assert table.records.setData(table.records.index(row, 1), "S12")
    assert flow.project.areas[key].structure == flow.structure("S12").id
    assert not table.records.setData(table.records.index(row, 1), "Q9")
    assert 'no structure "Q9"' in flow.refusals[-1]
    # its ring gives both
    assert not table.records.editable(row, 3) and not table.records.editable(row, 5)
    assert table.records.choices(2)[0] == "roof" and "S4" in table.records.choices(1)
    table.setCurrentIndex(at(2))
    QApplication.clipboard().setText("drive")
    table.paste()
    assert flow.project.areas[key].kind == "drive"
    flow.do("undo")
    assert flow.project.areas[key].kind == "roof"


def test_a_click_inside_an_area_picks_it_and_beside_it_lets_it_go(flow):
    flow.session.set(straight=False)
    flow.settle()
    flow.plan.fit()
    flow.settle()
    hall = next(a for a in flow.project.areas.values() if a.name == "Hall")
    x, y = np.mean(flow.facts.areas[hall.id].ring, axis=0)
    flow.click(flow.plan, *flow.in_plan(x + 9, y + 5))
    assert flow.session.state.chosen.item == GroundItem("area", hall.id)
    flow.click(flow.plan, *flow.in_plan(1640.0, 1010.0))
    assert flow.session.state.chosen.item is None


def test_the_place_of_the_project_gives_its_rain(flow):
    rain = page(flow, 2)
    rain.show_source(2)
    flow.settle()
    button(flow, "rain of the project").click()
    x, y = flow.project.rain.place
    assert (x, y) == (approx(1.57, abs=0.1), approx(0.91, abs=0.05))


def test_areas_and_rain_are_imported_through_the_summary(flow, tmp_path):
    path = tmp_path / "more.csv"
    path.write_text('name,structure,kind,area_m2\n"Shed ""2""",S4,roof,120\n', encoding="utf-8")
    assert flow.window.exchange.import_paths([path, FILES / "rain.toml"])
    QApplication.activeModalWidget().accept()
    flow.settle()
    made = list(flow.project.areas.values())[-1]
    assert (made.name, made.size, made.structure) == ('Shed "2"', 120.0, flow.structure("S4").id)


def test_the_long_section_shows_the_flow_of_now(flow):
    flow.session.show_run(RunKey.path(flow.structure("S14").id, flow.structure("S17").id))
    flow.settle()
    before = flow.section.grab().toImage()
    pipe, found = (
        flow.session.state.look.run.reaches[-1].pipe,
        flow.session.state.current.findings.by_pipe,
    )
    was = flow.facts.pipe_flow[pipe].flow
    flow.session.edit(
        "Rain", lambda p, f: replace(p, rain=replace(p.rain, climate=p.rain.climate * 0.98))
    )
    assert flow.facts.pipe_flow[pipe].flow < was
    assert all(
        found.get(r.pipe) == flow.session.state.current.findings.by_pipe.get(r.pipe)
        for r in flow.session.state.look.run.reaches
    )
    flow.settle()
    kept = flow.section.grab().toImage()
    flow.section._kept.clear()
    assert kept == flow.section.grab().toImage()
    assert kept != before


def test_an_area_that_is_selected_leaves_the_stage_ground_whole(flow):
    flow.session.pick(GroundItem("area", next(iter(flow.project.areas))))
    flow.window.rail.buttons["ground"].click()
    flow.settle()
    assert type(panel(flow).detail).__name__ == "ViewDetail"
    assert any(
        w.isVisible() and w.objectName().startswith("road ")
        for w in panel(flow).findChildren(QPushButton)
    )


def test_differences_are_those_of_the_settings_above_them(flow):
    sizes = page(flow, 3)
    button(flow, "work out sizes").click()
    flow.settle()
    assert sizes.take_them.isVisible() and flow.session.state.previewing
    sizes.levels.setCurrentIndex(2)
    sizes.levels.activated.emit(2)
    flow.settle()
    assert not sizes.take_them.isVisible() and not flow.session.state.previewing
    button(flow, "work out sizes").click()
    flow.settle()
    sizes.order.click()
    assert not sizes.take_them.isVisible()


def test_what_is_unticked_stays_so_when_more_is_listed(flow):
    sizes = page(flow, 3)
    button(flow, "work out sizes").click()
    flow.settle()
    sizes.list.item(0).setCheckState(Qt.CheckState.Unchecked)
    off, few = sizes.without, sizes.list.count()
    assert len(off) == 1
    sizes.all.click()
    assert sizes.list.count() > few and sizes.without == off
    sizes.all.click()
    assert sizes.list.count() == few and sizes.without == off
    button(flow, "discard sizes").click()
    button(flow, "work out sizes").click()
    assert sizes.without == frozenset()  # worked out anew
