"""Standards, limits, crossings, and rules that hold."""

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QPushButton
from pytest import approx

from tests.app.checks.hands import (
    CTRL,
    go,
    hold,
    hover,
    page,
    pick,
    rules,
    standards,
    standards_of,
    visible,
)
from zumbert.app.panels.fixbuttons import TriedButton
from zumbert.checks.legal import end_range
from zumbert.edits.land import add_service


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
