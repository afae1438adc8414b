"""Menus, help and the keyboard's way round the window."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QFocusEvent, QMouseEvent
from PySide6.QtWidgets import QApplication
from pytest import approx

from zumbert.app.actions import ACTIONS, MENUS, keys_page
from zumbert.app.help import page
from zumbert.app.session import Session
from zumbert.drawing.longsection import section_marks
from zumbert.drawing.marks import texts_in


def entries(menu):
    return {a.text().split("\t")[0]: a for a in menu.actions() if a.text()}


def test_the_menu_is_grouped_and_holds_each_action_once(user):
    menu = user.window.menu_of_actions()
    assert [a.text() for a in menu.actions()] == list(MENUS)
    shown = [t for a in menu.actions() for t in entries(a.menu())]
    assert len(shown) == len(set(shown))
    assert {a.text for a in ACTIONS if a.menu and a.words is None} <= set(shown)
    assert not entries(menu.actions()[4].menu())["Stage Levels"].icon().isNull()


def at_structure(user, label):
    p = user.facts.places[user.structure(label).id]
    return user.in_plan(p.x, p.y)


def test_a_right_click_offers_what_can_be_done_with_what_is_there(user):
    user.session.set(straight=False)
    user.plan.fit_map()
    user.settle()
    found = entries(user.window.menu_at(user.plan, *at_structure(user, "S10")))
    assert {
        "S10",
        "Show in both drawings",
        "Lay a run from here",
        "Select all upstream",
        "Delete",
    } <= set(found)
    assert user.session.state.chosen.structures == {user.structure("S10").id}
    found["Select all upstream"].trigger()
    assert len(user.session.state.chosen.structures) > 3
    pipe = user.pipe("S10", "S9")
    user.window.going.to_thing(pipe.id)
    user.settle()
    span = user.facts.spans[pipe.id]
    place = user.in_plan(*span.point(span.length * 0.4))
    found = entries(user.window.menu_at(user.plan, *place))
    found["Split with a chamber here"].trigger()
    made = list(user.project.pipes.values())
    assert len(made) == len(user.session.history.past[-1].value.project.pipes) + 1
    lower = next(p for p in made if p.down == pipe.down and p.id != pipe.id and p.size == pipe.size)
    assert user.facts.spans[lower.id].length == approx(span.length * 0.6, abs=0.5)
    assert "Fit the selection, then all" in entries(user.window.menu_at(user.plan, 5, 60))


def test_a_right_click_asks_and_a_right_drag_moves(user):
    user.session.set(straight=False)
    user.settle()
    asked, right = [], Qt.MouseButton.RightButton
    user.plan.asked.disconnect()  # no menu opens in a test without an event loop
    user.plan.asked.connect(lambda x, y: asked.append((x, y)))
    user.bot.mouseClick(user.plan, right, pos=QPoint(400, 100))
    assert asked == [(400.0, 100.0)]
    before = user.plan.map
    user.bot.mousePress(user.plan, right, pos=QPoint(400, 100))
    at = QPointF(440.0, 120.0)
    none = Qt.MouseButton.NoButton
    moved = QMouseEvent(
        QEvent.Type.MouseMove,
        at,
        user.plan.mapToGlobal(at),
        none,
        right,
        Qt.KeyboardModifier.NoModifier,
    )
    QApplication.sendEvent(user.plan, moved)
    user.bot.mouseRelease(user.plan, right, pos=QPoint(440, 120))
    assert len(asked) == 1
    assert user.plan.map.x == approx(before.x - 40 / before.scale)


def test_each_stage_has_a_page_of_help_and_all_keys_are_listed(user):
    for name in (*user.session.stages, "space", "about"):
        assert page(name).startswith("# ")
    assert "| Lay a run | L |" in keys_page(user.window.table)
    user.window.go_stage("levels")
    user.do("help")
    dialog = user.window.findChild(object, "help")
    assert "How deep the pipes lie" in dialog.text.toPlainText()
    dialog.reject()


def test_the_zone_that_f6_reaches_is_seen(user):
    before = user.plan.grab().toImage()
    user.plan.focusInEvent(QFocusEvent(QFocusEvent.Type.FocusIn, Qt.FocusReason.TabFocusReason))
    assert user.plan.ringed
    assert user.plan.grab().toImage() != before
    user.click(user.plan, 200, 100)
    assert not user.plan.ringed


def test_a_finding_out_of_sight_is_an_arrow_at_the_edge_with_its_distance(user):
    pipe = user.look_at("S5", "S4")
    user.section._look(user.section.sight.panned(-900.0, 0.0))
    user.settle()
    s = user.session.state
    texts = [
        t
        for t in texts_in(section_marks(s.picture, user.section.sight).drawing)
        if t.role.startswith("breach")
    ]
    assert [t.text.split(", ")[0] for t in texts] == [f"{pipe.label}: least cover"]
    reach = next(r for r in s.look.run.reaches if r.pipe == pipe.id)
    at = next(f for f in s.current.findings.by_pipe[pipe.id] if f.rule == "cover_min").distance
    far = user.section.sight.s_at(user.section.sight.left) - reach.at(
        at, s.current.facts.pipes[pipe.id].span.length
    )
    assert f"{far:.2f} m on" in texts[0].text
    assert not any(t.text.startswith("Cover 0.86") for t in texts)


def test_adverse_fall_is_mended_by_turning_the_flow(user):
    finding = next(f for f in user.session.state.current.findings if f.rule == "adverse_fall")
    user.window.going.to_finding(finding)
    user.settle()
    from zumbert.edits.fixes import fixes

    made = next(f for f in fixes(user.project, user.facts, finding) if f.text == "Turn the flow")
    assert made.project.pipes[finding.pipe].up == user.project.pipes[finding.pipe].down


def test_text_in_a_cell_is_taken_by_a_stage_and_kept_by_the_wheel(user):
    pipe = user.look_at("S5", "S4")
    cell = next(c for c in user.section.cells if c.field == "invert_down" and c.id == pipe.id)
    x, y, wide, tall = cell.box
    user.click(user.section, x + wide / 2, y + tall / 2)
    edit = user.section.cell_edit
    edit.setText("40.45")
    user.wheel(user.section, 500, 100, 1)
    assert edit.isVisible() and edit.text() == "40.45"
    now = next(c for c in user.section.cells if c.field == "invert_down" and c.id == pipe.id)
    assert edit.geometry().center().x() == approx(now.box[0] + now.box[2] / 2, abs=2)
    edit.setText("abc")
    user.window.go_stage("checks")
    assert user.session.state.look.stage.id == "levels"  # refused: the text is there to be mended
    assert edit.text() == "abc"
    edit.setText("40.45")
    user.window.go_stage("checks")
    assert user.session.state.look.stage.id == "checks"
    assert user.project.pipes[pipe.id].invert_down == 40.45


def test_what_a_slope_is_taken_for_stands_beside_the_field(user):
    pipe = user.look_at("S5", "S4")
    field = user.window.side.panel.rows["slope"].field
    field.setFocus()
    field.selectAll()
    user.type(field, "1.25")
    aside = next(w for w in user.window.findChildren(object, "aside") if w.isVisible())
    assert aside.text() == "= 1.25 %, 1:80"
    user.key(field, Qt.Key.Key_Return)
    assert not aside.isVisible()
    assert user.facts.pipes[pipe.id].slope == approx(0.0125, abs=1e-12)


@pytest.mark.usefixtures("qapp")
def test_a_run_goes_from_manhole_to_outfall():
    from zumbert.demo.project import demo_project

    session = Session(demo_project())
    names = [session.state.look.run.name]
    labels = {s.label: s for s in session.state.current.project.structures.values()}
    kinds = session.state.current.project.types
    for key in session.state.look.keys:
        if key.kind == "run":
            session.show_run(key)
            names.append(session.state.look.run.name)
    assert names[0] == "S13 to HW1"
    assert all(kinds[labels[n.split(" to ")[0]].type].kind != "gully" for n in names)


def test_rows_that_say_nothing_stay_away():
    from zumbert.analysis import analyse
    from zumbert.drawing.levelrows import rows_shown
    from zumbert.edits.lay import lay
    from zumbert.edits.layoptions import LayOptions
    from zumbert.model.project import new_project
    from zumbert.model.structure import Free

    p = new_project("New")
    way = LayOptions(network=next(iter(p.networks)), slope=0.01, start=40.0, up=True)
    made = lay(p, analyse(p), [Free(0.0, 0.0), Free(40.0, 0.0)], way)[-1].project
    session = Session(made)
    assert [r[0] for r in rows_shown(session.state.picture)][:2] == ["Run length", "Rim"]


def test_a_selection_of_a_thousand_answers_with_few_marks(user):
    from benchmarks.networks import network

    user.session.open(network(600), None)
    user.session.set(straight=False)
    user.plan.fit_map()
    user.do("select-all")
    user.settle()
    from zumbert.drawing.plan import halos, lifted

    picture, sight = user.session.state.picture, user.plan.sight
    assert len(halos(picture, sight)) == 1
    assert lifted(picture, sight, None, frozenset()) == []
    assert user.window.side.panel.found.count() <= 26
    words = [
        t
        for t in texts_in(section_marks(picture, user.section.sight).drawing)
        if t.role == "breach"
    ]
    assert len(words) <= 8
    assert np.isfinite(halos(picture, sight)[0].xy).all()
