"""Water, sizes, areas and rain in the stage Flow."""

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QPushButton
from pytest import approx

from tests.app.flow.hands import button, figures, page, select
from zumbert.demo.make import FILES
from zumbert.drawing.flowmarks import fullness, part_full_curve
from zumbert.drawing.longsection import section_marks
from zumbert.drawing.marks import Disc, Fill, Stroke
from zumbert.edits.grounditems import GroundItem
from zumbert.exchange.sizelog import size_text
from zumbert.model.rain import FORMS


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
    assert rain.form.currentText() == FORMS["power"].words
    before = flow.session.state.current
    rain.form.activated.emit(0)  # the one that is there
    assert flow.session.state.current is before
    rain.form.setCurrentIndex(1)
    rain.form.activated.emit(1)
    assert flow.project.rain.source.form == "sum" and flow.project.rain.source.a == 1000.0
    flow.do("undo")
    assert rain.form.currentIndex() == 0
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
    # a table pasted after the atlas was used is no rain of the atlas
    QApplication.clipboard().setText("min\t2\n5\t120\n10\t90\n30\t50\n")
    rain.show_source(1)
    button(flow, "paste rain").click()
    assert (flow.project.rain.name, flow.project.rain.place) == ("Rain", None)
    flow.do("undo")
    flow.fill(rain.own["name"], 'Ashlar "B"')
    button(flow, "paste rain").click()
    assert (flow.project.rain.name, flow.project.rain.place) == ('Ashlar "B"', None)
    assert flow.project.rain.years == 2.0  # the only one of the table
