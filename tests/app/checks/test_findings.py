"""Findings, their fixes and decisions."""

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QPushButton
from pytest import approx

from tests.app.checks.hands import (
    CTRL,
    accept,
    buttons,
    go,
    hover,
    leave,
    page,
    row,
    rules,
    visible,
)
from zumbert.app.panels.fixbuttons import TriedButton
from zumbert.app.stages.checks.rows import BarRow
from zumbert.checks import check
from zumbert.edits.decisions import decide


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
