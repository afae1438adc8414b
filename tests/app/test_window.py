import sys

import numpy as np
import openpyxl
import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainterPath
from PySide6.QtWidgets import QLabel, QMessageBox
from pytest import approx

from tests.app.ready import DEMO
from zumbert.app.actions import ACTIONS, Action, checked
from zumbert.app.panels.figures import FigureRow
from zumbert.app.stages.checks.rows import FindingRow
from zumbert.app.views.layered import Stretched
from zumbert.drawing.marks import Fill, Stroke
from zumbert.edits.ground import place_surface
from zumbert.edits.labels import rename
from zumbert.geometry.placing import Placing


def test_references_to_none_are_not_lost():
    # PySide6 6.12.0 on Python 3.11 loses one on each void call and aborts after some 5,000
    path = QPainterPath()
    before = sys.getrefcount(None)
    for i in range(1_000):
        path.moveTo(i, i)
    assert abs(sys.getrefcount(None) - before) < 50


def test_no_action_stands_twice():
    assert checked(ACTIONS) is ACTIONS
    double = Action(id="x", text="", keys=("Ctrl+S",), run=lambda w: None)
    with pytest.raises(ValueError, match="twice"):
        checked((*ACTIONS, double))


def test_the_head_tells_the_run_and_the_state(user):
    assert user.session.state.look.run.name == "S13 to HW1"
    assert user.window.head.state.parts()[0] == ("5 breaches", "breach")
    menu = user.window.head.picker.menu_of_runs()
    names = [a.text().split("\t")[0] for a in menu.actions() if a.text()]
    assert names == ["S13 to HW1", "S17 to HW1", "EX1 to EX2", "Quillerby Rise", "Tansymoor Lane"]
    menu.actions()[1].trigger()
    user.settle()
    assert user.session.state.look.run.name == "S17 to HW1"


def test_wheel_zooms_to_the_cursor_and_drag_pans(user):
    user.do("straighten")
    user.settle()
    before = user.plan.world(300, 120)
    scale = user.plan.map.scale
    user.wheel(user.plan, 300, 120, 2)
    assert user.plan.map.scale == approx(scale * 1.25**2)
    assert user.plan.world(300, 120) == approx(before)
    user.drag(user.plan, (700, 40), (640, 70))
    assert user.plan.world(240, 150) == approx(before, abs=0.5)
    user.do("fit")
    assert user.plan.map.scale == approx(scale)
    z = user.section.sight
    user.wheel(user.section, 400, 100, 1, Qt.KeyboardModifier.ControlModifier)
    assert (user.section.sight.sx, user.section.sight.sz) == (approx(z.sx * 1.25), z.sz)
    assert user.section.sight.s_at(400) == approx(z.s_at(400))


def test_straightened_the_plan_stands_over_the_section(user):
    assert user.session.state.look.straight
    user.wheel(user.section, 400, 100, 3)
    for key, at in user.session.state.look.run.structures:
        p = user.facts.places[key]
        drawn = user.plan.drawn(p.x, p.y)
        assert drawn[0] == approx(user.section.sight.x_of(at), abs=1e-6)
    user.window.chips.buttons["straight"].click()
    assert not user.session.state.look.straight


def test_selection_is_shared(user):
    user.settle()
    s6 = user.facts.places[user.structure("S6").id]
    s7 = user.facts.places[user.structure("S7").id]
    x, y = user.in_plan((s6.x + s7.x) / 2, (s6.y + s7.y) / 2)
    user.click(user.plan, x, y)
    pipe = user.pipe("S7", "S6")
    assert user.session.state.chosen.pipes == {pipe.id}
    halos = [m for m in _marks(user.section) if isinstance(m, (Stroke, Fill)) and m.role == "halo"]
    assert halos
    assert user.window.side.panel.title.text() == "Pipe S7 to S6"
    user.click(
        user.section,
        *user.along(user.pipe("S9", "S8").id, 0.5),
        Qt.KeyboardModifier.ControlModifier,
    )
    assert len(user.session.state.chosen.pipes) == 2
    assert user.window.side.panel.title.text() == "2 selected"
    user.key(user.section, Qt.Key.Key_Escape)
    assert user.session.state.chosen.pipes == frozenset()


def _marks(section):
    from zumbert.drawing.longsection import long_section

    return long_section(section.session.state.picture, section.sight).marks


def test_a_pipe_of_another_run_turns_the_section_to_it(user):
    user.do("straighten")
    s15 = user.facts.places[user.structure("S15").id]
    s16 = user.facts.places[user.structure("S16").id]
    user.click(user.plan, *user.in_plan((s15.x + s16.x) / 2, (s15.y + s16.y) / 2))
    assert user.session.state.look.run.name == "S17 to HW1"


def test_many_at_once_change_in_one_step(user):
    pipes = [user.pipe("S7", "S6").id, user.pipe("S8", "S7").id]
    user.session.select(pipes=frozenset(pipes))
    user.settle()
    box = user.window.side.panel.size_box
    assert "does not fit" in box.itemText(box.findData("375"))
    box.setCurrentIndex(box.findData("375"))
    box.activated.emit(box.currentIndex())
    assert [user.project.pipes[p].size for p in pipes] == ["375", "375"]
    assert len(user.session.history.undo_names) == 1


def test_the_foot_tells_the_place_under_the_cursor(user):
    s5 = user.facts.places[user.structure("S5").id]
    user.move(user.plan, *user.in_plan(s5.x, s5.y))
    foot = {n: w.text() for n, w in user.window.foot.values.items()}
    assert float(foot["x"]) == approx(s5.x, abs=0.5)
    assert foot["chainage"].startswith("0+13")
    assert float(foot["ground"]) == approx(s5.ground, abs=0.1)
    assert float(foot["design"]) == approx(s5.design, abs=0.1)
    run = user.session.state.look.run
    at = dict(run.structures)[user.structure("S5").id]
    assert user.session.state.at.cursor == approx(at, abs=1.0)
    user.move(user.section, user.section.sight.x_of(at), 50)
    assert (
        np.hypot(user.session.state.at.place[0] - s5.x, user.session.state.at.place[1] - s5.y) < 0.6
    )


def test_findings_are_told_with_todays_labels_everywhere(user):
    old = user.facts
    user.window.rail.buttons["checks"].click()
    s5 = user.structure("S5")
    user.session.edit("Rename", lambda p, f: rename(p, s5.id, "Top"))
    user.settle()
    rows = user.window.side.panel.findChildren(FindingRow)
    assert "Pipe Top to S4: cover 0.86 m" in rows[4].sentence.text()
    pipe = user.pipe("Top", "S4")
    user.window.go_stage("levels")
    user.session.select(frozenset({pipe.id}))
    user.settle()
    texts = [w.text() for w in user.window.side.panel.findChildren(QLabel)]
    assert any("Pipe Top to S4: cover" in t for t in texts)
    assert user.facts.pipes[pipe.id] is old.pipes[pipe.id]  # it was not even computed again
    user.do("undo")
    user.settle()
    texts = [w.text() for w in user.window.side.panel.findChildren(QLabel)]
    assert any("Pipe S5 to S4: cover" in t for t in texts) and not any("Top" in t for t in texts)


def test_checks_are_live_and_a_click_goes_there_in_both_drawings(user):
    user.window.rail.buttons["checks"].click()
    user.settle()
    rows = user.window.side.panel.findChildren(FindingRow)
    # worst first
    assert [r.finding.rule for r in rows] == [
        "adverse_fall",
        "drop_min",
        "size_order",
        "capacity",
        "cover_min",
    ]
    assert "cover 0.86 m" in rows[4].sentence.text()
    user.click(rows[0], 30, 20)
    lead = next(p for p in user.project.pipes.values() if p.label == "P25")
    assert user.session.state.chosen.pipes == {lead.id}
    assert lead.id in [r.pipe for r in user.session.state.look.run.reaches]
    target = next(t for t in user.section.targets if t.id == lead.id)
    assert 0 < target.xy[:, 0].mean() < user.section.width()
    at = user.plan.drawn(rows[0].finding.x, rows[0].finding.y)
    assert 0 < at[0] < user.plan.width()
    assert 0 < at[1] < user.plan.height()
    user.settle()
    user.click(rows[1], 30, 20)
    assert user.session.state.chosen.structures == {user.structure("S6").id}
    pipe = user.look_at("S5", "S4")
    user.type(user.section, "40.5")  # no levels stage: a typed text has no ring here
    assert user.project.pipes[pipe.id] == pipe
    user.session.edit(
        "Lower",
        lambda p, f: replace(p, pipes={**p.pipes, pipe.id: replace(pipe, invert_down=40.5)}),
    )
    user.settle()
    assert [r.finding.rule for r in user.window.side.panel.findings.rows] == [
        "adverse_fall",
        "drop_min",
        "size_order",
        "capacity",
    ]
    assert user.window.head.state.parts()[0][0] == "4 breaches"


def test_the_trench_stage_shows_volumes_and_bottom(user, tmp_path):
    user.window.rail.buttons["trench"].click()
    user.settle()
    texts = [w.text() for w in user.window.side.panel.findChildren(type(user.window.foot.hint))]
    assert "Excavation, proposed" in texts
    figures = {w.name: w.value for w in user.window.side.panel.findChildren(FigureRow)}
    dug = user.session.state.dug.trenches.pipes.values()
    assert figures["DN 375"] == f"{sum(t.excavation for t in dug if t.pipe.dn == 375):.1f}"
    assert any(m.role == "trench-bottom" for m in _marks(user.section))
    assert any(c.row == "Excavation" and c.text.endswith("m³") for c in user.section.cells)
    assert user.window.exchange.export_to(tmp_path / "q.xlsx")
    assert "Trenches" in openpyxl.load_workbook(tmp_path / "q.xlsx").sheetnames
    assert not user.window.exchange.export_to(tmp_path / "no" / "q.xlsx")
    user.do("levels")
    assert user.session.state.dug.trenches is None


def test_what_was_placed_can_lend_its_origin_to_the_schedule_of_structures(
    user, tmp_path, monkeypatch
):
    asked, written = [], tmp_path / "q.xlsx"
    monkeypatch.setattr("zumbert.app.exchanging.file_to_write", lambda *a: written)

    def pressed(word):
        def run(box):
            asked.append([b.text() for b in box.buttons()])
            next(b for b in box.buttons() if b.text() == word).click()
            return 0

        monkeypatch.setattr(QMessageBox, "exec", run)

    def head():
        return openpyxl.load_workbook(written)["Structures"]["F1"].value

    user.window.exchange.export()  # nothing was placed: nothing is asked
    assert head() == "x (m)"
    ground = next(iter(user.project.surfaces))
    user.session.edit(
        "Place the ground", lambda p, f: place_surface(p, ground, Placing(1.0, 0.0, 5.0, 0.0))
    )
    pressed("As in Existing ground")
    user.window.exchange.export()
    assert head() == "x in Existing ground (m)" and "As in the project" in asked[0]
    written.unlink()
    pressed("Cancel")
    user.window.exchange.export()
    assert not written.exists()


def test_undo_names_each_step_in_words(user):
    pipe = user.look_at("S5", "S4")
    for level in (40.6, 40.55, 40.5):
        user.type(user.section, f"{level}")
        user.key(user.section.entry.field, Qt.Key.Key_Return)
    assert user.session.history.undo_names == ["Set the levels of P5"] * 3
    entries = [
        a.text() for m in user.window.menu_of_actions().actions() for a in m.menu().actions()
    ]
    assert any(t.startswith("Undo: Set the levels of P5") for t in entries)
    user.window._undo_times(2)
    assert user.project.pipes[pipe.id].invert_down == approx(40.6)
    assert user.session.history.redo_name == "Set the levels of P5"
    user.do("redo")
    assert user.project.pipes[pipe.id].invert_down == approx(40.55)


def test_the_finder_goes_to_things_chainages_and_commands(user):
    finder = user.window.finder
    for text, check in (
        ("S9", lambda: user.session.state.chosen.structures == {user.structure("S9").id}),
        ("P12", lambda: user.session.state.chosen.pipes == {user.pipe("S12", "S11").id}),
        ("Stage Trench", lambda: user.session.state.look.stage.id == "trench"),
        ("0+300", lambda: user.session.state.at.cursor == approx(324, abs=15)),
    ):
        finder.setFocus()
        user.type(finder, text)
        user.key(finder, Qt.Key.Key_Return)
        assert check(), text
    user.type(finder, "nothing like it")
    user.key(finder, Qt.Key.Key_Return)
    assert "Nothing here is called" in user.refusals[-1]


def test_full_keyboard_use(user):
    user.plan.setFocus()
    seen = set()
    for _ in range(5):
        user.do("zones")
        seen.add(
            user.window.focusWidget().accessibleName() or user.window.focusWidget().objectName()
        )
    assert {
        "Plan",
        "Long section with level rows",
        "Run shown in the long section",
        "Stage Levels",
    } <= seen
    x = user.section.sight.x
    user.key(user.section, Qt.Key.Key_Right)
    assert user.section.sight.x > x
    user.plan.setFocus()
    user.do("whole")
    assert not user.window.centre.lower_half.isVisible()
    user.do("whole")
    assert user.window.centre.lower_half.isVisible()


def test_dark_theme_has_the_same_roles(user):
    light = user.plan.grab().toImage().pixelColor(300, 10).lightness()
    user.do("theme")
    dark = user.plan.grab().toImage().pixelColor(300, 10).lightness()
    assert light > 200 > 80 > dark
    user.do("theme")


def test_what_the_demo_shows_is_the_demo(user):
    assert user.project is DEMO


@pytest.mark.parametrize("straight", [True, False], ids=["straightened", "map"])
def test_while_one_zooms_the_drawings_are_stretched_in_place_then_made_anew(user, straight):
    user.session.set(straight=straight)
    user.settle()
    s4 = user.facts.places[user.structure("S4").id]
    view = user.plan
    was = view.sight
    [[x0, y0]] = was.to_drawing(np.array([[s4.x, s4.y]])).tolist()
    offset = view._offset
    timers = view.settling, user.section.settling
    for timer in timers:
        # the zoom goes on until it is ended here, however slow the machine
        timer.setInterval(60_000)
    user.wheel(view, 400, 120, 2)
    [[x1, y1]] = view.sight.to_drawing(np.array([[s4.x, s4.y]])).tolist()
    assert (x0, y0) != approx((x1, y1), abs=1.0)
    for timer in timers:
        timer.start()
    _, base, network = view.layers()[:3]
    for layer in (base, network):
        assert isinstance(layer, Stretched)
        px, py = x0 - offset[0], y0 - offset[1]  # the place in the pixmap
        assert (layer.x + layer.kx * px, layer.y + layer.ky * py) == approx((x1, y1), abs=1.0)
    for timer in timers:
        timer.setInterval(0)
    user.bot.waitUntil(lambda: not user.section.zooming and not view.zooming)
    assert not any(isinstance(layer, Stretched) for layer in view.layers())


def test_a_drag_of_a_level_draws_the_straightened_plan_but_once(user, monkeypatch):
    user.look_at("S5", "S4")
    drawn = []
    real = user.plan._drawn_base
    monkeypatch.setattr(user.plan, "_drawn_base", lambda *a: drawn.append(1) or real(*a))
    user.drag_ring("down", 0.2, release=False)
    user.settle()
    assert user.session.state.previewing
    assert drawn == []  # nothing has moved in plan
    user.key(user.section, Qt.Key.Key_Escape)
