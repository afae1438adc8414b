"""Ways of water, catchments, and the tables of flows and areas."""

import numpy as np
from msgspec.structs import replace
from openpyxl import load_workbook
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QPushButton
from pytest import approx

from tests.app.flow.hands import button, page, panel
from zumbert.analysis.runline import RunKey
from zumbert.demo.make import FILES
from zumbert.drawing.marks import Stroke
from zumbert.edits.areas import add_area
from zumbert.edits.grounditems import GroundItem


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
