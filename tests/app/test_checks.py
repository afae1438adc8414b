"""The stage Checks through the real window: findings, fixes, decisions, standards, crossings;
and rules that hold.
"""

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QPushButton
from pytest import approx

from zumbert.app.main import application
from zumbert.app.panels.fixbuttons import TriedButton
from zumbert.app.stages.checks.rows import BarRow
from zumbert.checks import check
from zumbert.checks.legal import end_range
from zumbert.edits.decisions import decide
from zumbert.edits.land import add_service

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def checks(user):
    user.in_stage("checks")
    return user


def page(user):
    return user.window.side.panel.findings


def row(user, rule):
    return next(r for r in page(user).rows if r.finding.rule == rule)


def visible(user, kind, name):
    return next(w for w in user.window.side.panel.findChildren(kind, name) if w.isVisible())


def go(user, rule):
    """A click on a finding."""
    user.window.side.ensureWidgetVisible(row(user, rule))
    user.click(row(user, rule), 30, 20)
    user.settle()


def rules(user):
    return [r.finding.rule for r in page(user).rows]


def buttons(user):
    return [b for b in page(user).mending.findChildren(TriedButton) if b.isVisible()]


def hover(user, button):
    QTest.mouseMove(button, QPoint(5, 5))
    application().sendEvent(button, enter_event(button))
    user.settle()


def enter_event(button):
    from PySide6.QtCore import QPointF
    from PySide6.QtGui import QEnterEvent

    at = QPointF(5, 5)
    return QEnterEvent(at, at, QPointF(button.mapToGlobal(at)))


def leave(user, button):
    from PySide6.QtCore import QEvent

    application().sendEvent(button, QEvent(QEvent.Type.Leave))
    user.settle()


def test_from_a_finding_to_its_place_its_fix_and_back(checks):
    user = checks
    go(user, "cover_min")
    assert user.session.state.chosen.pipes == {user.pipe("S5", "S4").id}
    assert [b.text() for b in buttons(user)] == [
        "Lower S5 to 41.082",
        "Lower S4 to 40.544",
        "Lower the whole pipe, slope kept",
    ]
    says = [w.text() for w in page(user).mending.findChildren(QLabel)]
    assert "Limit: Estate roads" in says
    assert any(t.startswith("mends this, ") and t.endswith("more to dig") for t in says)
    before, listed = user.project, rules(user)
    hover(user, buttons(user)[1])
    assert user.shown.pipes[user.pipe("S5", "S4").id].invert_down == approx(40.5444, abs=1e-4)
    assert rules(user) == listed  # nothing moves under the pointer
    leave(user, buttons(user)[1])
    assert user.shown is before
    user.click(buttons(user)[1], 20, 10)
    assert "cover_min" not in rules(user)
    assert user.session.history.undo_name == "Lower S4 to 40.544"
    user.do("undo")
    assert user.project is before
    assert "cover_min" in rules(user)


def test_a_fix_that_raises_another_breach_says_so_before(checks):
    user = checks
    s6 = user.structure("S6")
    user.session.edit(
        "Narrow",
        lambda p, f: replace(p, structures={**p.structures, s6.id: replace(s6, type="gully-450")}),
    )
    user.settle()
    go(user, "size_order")
    before = {f.key for f in user.session.state.current.findings}
    for b in buttons(user):
        hover(user, b)
        new = {f.key for f in user.session.state.shown.findings} - before
        assert bool(new) is ("raises" in b.accessibleName()), b.accessibleName()
        leave(user, b)


def test_up_and_down_walk_through_the_findings(checks):
    user = checks
    go(user, rules(user)[0])
    assert page(user).rows[0].hasFocus()
    user.key(page(user).rows[0], Qt.Key.Key_Down)
    assert page(user).rows[1].hasFocus()
    assert user.session.state.chosen.visited.rule == rules(user)[1]
    user.key(page(user).rows[1], Qt.Key.Key_Up)
    user.key(page(user).rows[0], Qt.Key.Key_Up)  # no further
    assert user.session.state.chosen.visited.rule == rules(user)[0]
    user.key(page(user).rows[0], Qt.Key.Key_Escape)
    assert not page(user).rows[0].hasFocus()


def test_findings_are_grouped_searched_and_filtered(checks):
    user = checks
    p = page(user)
    bars = [b for b in p.findChildren(BarRow) if b.isVisible()]
    assert [b.bar.all for b in bars] == [1, 1, 1, 1, 1]
    bars[0].click()
    user.settle()
    assert len(rules(user)) == 1
    next(b for b in p.findChildren(BarRow) if b.isVisible() and b.isChecked()).click()
    user.settle()
    assert len(rules(user)) == 5
    p.grouping.setCurrentIndex(p.grouping.findData("object"))
    p.grouping.activated.emit(p.grouping.currentIndex())
    user.settle()
    assert "S6, 1" in [w.text() for w in p.findChildren(QLabel)]
    user.type(p.search, "outlet DN 225")
    user.settle()
    assert rules(user) == ["size_order"]
    p.search.clear()
    user.type(p.search, "no such words")
    user.settle()
    assert rules(user) == []
    assert any("No finding is asked for" in w.text() for w in p.findChildren(QLabel))


def accept(user, rule, reason="agreed with the school", by="QT"):
    go(user, rule)
    mending = page(user).mending
    mending.reason.setFocus()
    user.type(mending.reason, reason)
    user.type(mending.by, by)
    user.click(visible(user, QPushButton, "accept"), 10, 10)
    user.settle()


def test_a_decision_is_listed_drawn_faint_and_opens_again_after_a_drag(checks):
    user = checks
    accept(user, "cover_min")
    assert user.window.head.state.parts()[0][0] == "4 breaches"
    assert user.window.side.panel.count.text() == "4 breaches, 0 cautions, 1 decided"
    assert row(user, "cover_min").finding.decided
    assert "accepted by QT: agreed with the school" in row(user, "cover_min").sentence.text()
    assert user.session.state.picture.worst(user.pipe("S5", "S4").id) == "decided"
    user.window.go_stage("levels")
    pipe = user.look_at("S5", "S4")
    user.drag_ring("mid", 0.2)
    assert user.project.pipes[pipe.id].invert_up > pipe.invert_up
    user.window.rail.buttons["checks"].click()
    user.settle()
    assert row(user, "cover_min").finding.reopened == "worse"
    assert "open again: it got worse" in row(user, "cover_min").sentence.text()
    assert user.session.state.current.findings.decided == 0
    user.do("undo")
    assert row(user, "cover_min").finding.decided
    go(user, "cover_min")
    user.click(visible(user, QPushButton, "reopen"), 10, 5)
    assert not row(user, "cover_min").finding.decided
    assert user.project.decisions == {}


def test_an_edit_made_while_the_pointer_rests_on_a_fix_is_listed(checks):
    user = checks
    go(user, "cover_min")
    hover(user, buttons(user)[1])
    assert page(user).mending.trying
    key = row(user, "cover_min").finding.key
    user.session.edit(
        "Accept", lambda p, f: decide(p, [n for n in check(p, f) if n.key == key], "agreed", "QT")
    )
    user.settle()
    assert row(user, "cover_min").finding.decided


def test_a_decision_without_a_reason_is_refused_and_nothing_is_lost(checks):
    user = checks
    before = user.project
    accept(user, "cover_min", "  ", "QT")
    assert user.project is before
    assert "write it" in user.refusals[-1]
    page(user).mending.by.clear()
    accept(user, "cover_min", 'the "old" wall', "")
    assert "initials" in user.refusals[-1]


def test_several_are_chosen_and_mended_or_accepted_in_one_step(checks):
    user = checks
    go(user, "drop_min")
    user.click(row(user, "size_order"), 30, 20, CTRL)
    user.click(row(user, "cover_min"), 30, 20, CTRL)
    user.settle()
    assert sum(r.isChecked() for r in page(user).rows) == 3
    button = visible(user, TriedButton, "mend all")
    assert button.text() == "Mend all 3 like this"
    hover(user, button)
    said = page(user).mending.all.text()
    assert "go" in said
    leave(user, button)
    steps = len(user.session.history.undo_names)
    user.click(button, 20, 10)
    assert len(user.session.history.undo_names) == steps + 1
    assert len(rules(user)) == 5 - int(said.split()[0])


# -- standards -------------------------------------------------------------------------------------


@pytest.fixture
def sheet(checks):
    checks.window.side.panel.turn_to(2)
    checks.settle()
    return checks


def standards(user):
    return user.window.side.panel.standards


def test_a_limit_shows_what_comes_and_goes_before_it_is_taken(sheet):
    user = sheet
    field = standards(user).limits["cover_min"].field
    field.setFocus()
    field.selectAll()
    user.type(field, "0.8")
    user.settle()
    assert standards(user).says.text() == "1 finding goes"
    assert not any(f.rule == "cover_min" for f in user.session.state.shown.findings)
    assert any(f.rule == "cover_min" for f in user.session.state.current.findings)
    assert user.session.state.picture.pipes == {
        user.pipe("S5", "S4").id
    }  # it lights up in both drawings
    field.selectAll()
    user.type(field, "1.2")
    user.settle()
    assert "come" in standards(user).says.text()
    user.key(field, Qt.Key.Key_Escape)
    assert not user.session.state.previewing
    assert standards(user).says.text() == "Holds for Storm, Storm existing"
    user.fill(field, "300: 0.8, 900: 1.1")
    assert standards_of(user)["Estate roads"].cover_min == ((300.0, 0.8), (900.0, 1.1))
    user.do("undo")
    user.fill(field, "deep")
    assert '"deep"' in user.refusals[-1]
    assert standards_of(user)["Estate roads"].cover_min == 0.9


def standards_of(user):
    return {s.name: s for s in user.project.standards.values()}


def pick(user, box, data):
    box.setCurrentIndex(box.findData(data))
    box.activated.emit(box.currentIndex())
    user.settle()


def test_a_rule_is_switched_off_and_the_panel_says_that_it_is_not_looked_at(sheet):
    user = sheet
    pick(user, standards(user).weights["cover_min"], "off")
    assert standards_of(user)["Estate roads"].weights == {"cover_min": "off"}
    user.window.side.panel.turn_to(0)
    user.settle()
    assert "cover_min" not in rules(user)
    assert any("1 rule is off, not looked at" in w.text() for w in page(user).findChildren(QLabel))


def test_a_standard_goes_out_and_comes_in_again(sheet, tmp_path, monkeypatch):
    user, file = sheet, tmp_path / "standard.toml"
    wanted = user.project.standards[standards(user).key]
    monkeypatch.setattr("zumbert.app.panels.recordacts.file_to_write", lambda *a: file)
    monkeypatch.setattr("zumbert.app.panels.recordacts.file_to_read", lambda *a: file)
    standards(user).findChild(QPushButton, "export standard").click()
    before = set(user.project.standards)
    standards(user).findChild(QPushButton, "import standard").click()
    (new,) = set(user.project.standards) - before
    assert replace(user.project.standards[new], id=wanted.id, name=wanted.name) == wanted


def test_standards_are_added_copied_compared_and_given_to_networks(sheet):
    user = sheet
    s = standards(user)
    s.acts.add.setCurrentIndex(s.acts.add.findText("Trunk roads"))
    s.acts.add.activated.emit(s.acts.add.currentIndex())
    user.settle()
    assert "Trunk roads" in standards_of(user)
    assert s.name.text() == "Trunk roads"
    estate = standards_of(user)["Estate roads"].id
    pick(user, s.compared, estate)
    assert s.limits["cover_max"].other.text() == "Estate roads: 3.00"
    assert s.limits["cover_min"].other.isHidden()  # the same in both
    assert s.theirs["cover_against"].text() == "Estate roads: Design, else ground"
    plots = s.acts.add.findText("Plots and yards")
    s.acts.add.setCurrentIndex(plots)
    s.acts.add.activated.emit(plots)
    user.settle()
    pick(user, s.compared, estate)
    assert s.theirs["spacing"].text() == "as usual"
    assert s.theirs["cover_max"].isHidden()
    user.do("undo")
    pick(user, s.which, standards_of(user)["Trunk roads"].id)
    trunk = standards_of(user)["Trunk roads"].id
    network = next(n for n in user.project.networks.values() if n.name == "Storm")
    box = next(b for b in s.findChildren(type(s.which)) if b.objectName() == "sheet standard Storm")
    pick(user, box, trunk)
    assert user.project.networks[network.id].standard == trunk
    user.click(visible(user, QPushButton, "delete standard"), 10, 5)
    assert "give another standard there first" in user.refusals[-1]
    user.click(visible(user, QPushButton, "copy standard"), 10, 5)
    user.settle()
    assert s.name.text() == "Trunk roads, copy"
    user.fill(s.name, 'Our "own" roads')
    assert 'Our "own" roads' in standards_of(user)


def test_a_limit_of_one_pipe_is_set_in_its_panel_and_listed_in_the_sheet(user):
    pipe = user.look_at("S5", "S4")
    own = user.window.side.panel.own
    pick(user, own.rule, "cover_min")
    own.value.setFocus()
    user.type(own.value, "0.8")
    user.fill(own.reason, "toe of the headwall")
    assert [(o.rule, o.value, o.reason) for o in user.project.pipes[pipe.id].limits] == [
        ("cover_min", 0.8, "toe of the headwall")
    ]
    assert any(
        "Least cover 0.80: toe of the headwall" in w.text()
        for w in user.window.side.panel.findChildren(QLabel)
    )
    assert not any(f.rule == "cover_min" for f in user.session.state.current.findings)
    user.window.rail.buttons["checks"].click()
    user.window.side.panel.turn_to(2)
    user.settle()
    assert any(
        "P5: least cover 0.80, toe of the headwall" in w.text()
        for w in standards(user).findChildren(QLabel)
    )
    visible(user, QPushButton, "own P5 cover_min").click()
    assert user.project.pipes[pipe.id].limits == ()


# -- crossings -------------------------------------------------------------------------------------


def test_crossings_are_listed_drawn_across_and_jumped_to(checks):
    user = checks
    pipe = user.pipe("S5", "S4")
    span, level = user.facts.spans[pipe.id], user.facts.pipes[pipe.id].invert(18.0)
    x, y = span.point(18.0)
    user.session.edit(
        "Add",
        lambda p, f: add_service(
            p, "gas", [(x - 4, y - 9, level + 0.55), (x + 4, y + 9, level + 0.6)], "G1", 0.16, 0.3
        )[0],
    )
    user.window.side.panel.turn_to(1)
    user.settle()
    rooms = user.window.side.panel.rooms
    assert rooms.says.text() == "2 crossings, 1 with too little room"
    assert (
        rooms.rows[0]
        .accessibleName()
        .startswith("P5 and G1 gas: 0.15 m clear, needs 0.30; upright 0.15, above")
    )
    user.click(rooms.rows[0], 20, 10)
    assert user.session.state.chosen.pipes == {pipe.id}
    assert rooms.across.isVisible()
    assert rooms.graph.labels == {"up": "S5", "down": "S4"}
    # raising it takes the room
    assert rooms.graph.curves["down"][0] > rooms.graph.curves["down"][-1]
    user.key(rooms.rows[0], Qt.Key.Key_Down)
    assert rooms.picked[0] == user.pipe("S9", "S8").id


# -- rules that hold -------------------------------------------------------------------------------


def hold(user):
    # no key is held, whatever the test before held
    QTest.mouseClick(user.window.centre.head.holds, Qt.MouseButton.LeftButton)
    user.settle()
    assert user.session.state.held.holds


def test_a_drag_stops_at_the_edge_of_the_band_and_ctrl_passes(user):
    pipe = user.look_at("S7", "S6")
    hold(user)
    band = end_range(user.facts, user.facts.pipes[pipe.id], "down")
    user.drag_ring("down", 0.6, release=False, keys=Qt.KeyboardModifier.AltModifier)
    assert user.shown.pipes[pipe.id].invert_down == approx(band.high, abs=1e-9)
    assert user.session.state.held.stopped.startswith("stopped by ")
    assert user.session.state.held.stopped in user.section.tool.words().lines[-1]
    shown = user.shown.pipes[pipe.id]
    user.release(user.section, *user.ring("down"))
    assert user.project.pipes[pipe.id] == shown  # what was shown is what is taken
    user.do("undo")
    user.look_at("S7", "S6")
    # as the window asks it of the keyboard; tests/desk holds the key
    user.session.passes = lambda: True
    user.drag_ring("down", 0.6, keys=Qt.KeyboardModifier.AltModifier | CTRL)
    assert user.project.pipes[pipe.id].invert_down > band.high + 0.2


def test_a_typed_level_stops_too_and_says_by_which_rule(user):
    pipe = user.look_at("S7", "S6")
    hold(user)
    band = end_range(user.facts, user.facts.pipes[pipe.id], "down")
    user.fill(user.window.side.panel.rows["invert_down"].field, "44")
    assert user.project.pipes[pipe.id].invert_down == approx(band.high, abs=1e-9)
    assert "stopped by" in user.refusals[-1]
    user.do("undo")
    user.window.centre.head.holds.click()
    user.fill(user.window.side.panel.rows["invert_down"].field, "43.2")
    assert user.project.pipes[pipe.id].invert_down == 43.2  # all is allowed, and told


def test_what_is_moved_takes_the_nearest_legal_levels_and_says_what_they_cost(user):
    hold(user)
    s12 = user.structure("S12")
    user.session.edit(
        "Move",
        lambda p, f: replace(
            p,
            structures={
                **p.structures,
                s12.id: replace(s12, place=replace(s12.place, chainage=374.0)),
            },
        ),
    )
    assert "levels moved by up to" in user.refusals[-1]
    at = {p.id for p in user.project.pipes.values() if s12.id in (p.up, p.down)}
    assert not any(f.pipe in at for f in user.session.state.current.findings)


def test_without_the_switch_nothing_is_held(user):
    pipe = user.look_at("S7", "S6")
    user.drag_ring("down", 0.9, keys=Qt.KeyboardModifier.AltModifier)
    assert user.project.pipes[pipe.id].invert_down > pipe.invert_down + 0.5


def test_many_are_worked_out_by_a_click_and_taken_by_another(checks):
    user = checks
    high = {
        k: replace(q, invert_up=q.invert_up + 0.5, invert_down=q.invert_down + 0.5)
        for k, q in user.project.pipes.items()
    }
    user.session.edit("Raise", lambda p, f: replace(p, pipes=high))
    user.settle()
    found = page(user)
    assert len(found.rows) > 12
    go(user, found.rows[0].finding.rule)
    found.chosen = [r.finding for r in found.rows[:16]]
    found.refresh(user.session.state)
    user.settle()
    button = next(b for b in found.mending.findChildren(TriedButton, "mend all"))
    hover(user, button)
    assert "another takes it" in found.mending.all.text()
    before = user.project
    button.click()
    user.settle()
    assert user.project is before
    assert "go" in found.mending.all.text()
    button.click()
    user.settle()
    assert user.project is not before
    assert user.session.history.undo_name.startswith("Mend ")
