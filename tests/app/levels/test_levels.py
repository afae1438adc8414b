import pytest
from PySide6.QtCore import Qt
from pytest import approx

from zumbert.checks.legal import cover_bound, end_range


def test_dragging_an_end_shows_what_follows_and_commits_one_step(user):
    before = user.look_at("S5", "S4")
    user.drag_ring("down", -0.35, release=False)
    shown = user.shown.pipes[before.id]
    assert user.project.pipes[before.id] == before  # nothing is committed while the mouse is down
    assert shown.invert_down == approx(before.invert_down - 0.35, abs=0.02)
    assert shown.invert_up == before.invert_up
    assert not any(f.rule == "cover_min" for f in user.session.state.shown.findings)
    assert user.section.entry.isVisible()
    preview = user.shown
    user.release(user.section, *user.ring("down"))
    assert user.project is preview  # the drag previews the very edit that the release commits
    assert user.session.history.undo_names == ["Set the invert at S4"]
    user.do("undo")
    assert user.project.pipes[before.id] == before
    user.do("redo")
    assert user.project is preview


def test_it_snaps_to_least_cover_and_says_so(user):
    pipe = user.look_at("S5", "S4")
    bound = cover_bound(user.facts, user.facts.pipes[pipe.id], "down", 0.9)
    user.drag_ring("down", bound - pipe.invert_down + 0.04, release=False)
    assert user.shown.pipes[pipe.id].invert_down == approx(bound, abs=1e-9)
    assert user.session.state.chosen.hand.snap == "Least cover 0.90"
    assert user.session.state.shown.facts.pipes[pipe.id].cover.least == approx(0.9)
    user.release(user.section, *user.ring("down"))
    assert user.project.pipes[pipe.id].invert_down == approx(bound, abs=1e-9)


def test_it_snaps_to_the_least_drop(user):
    pipe = user.look_at("S7", "S6")
    low = end_range(user.facts, user.facts.pipes[pipe.id], "down")
    assert low.low_rule == "drop_min"
    user.drag_ring("down", low.low - pipe.invert_down + 0.01)
    assert user.project.pipes[pipe.id].invert_down == approx(low.low, abs=1e-9)


def test_alt_turns_snaps_off_and_shift_takes_the_rest_along(user):
    pipe = user.look_at("S5", "S4")
    below = user.pipe("S4", "S3")
    user.drag_ring("down", -0.123, keys=Qt.KeyboardModifier.AltModifier)
    assert (user.project.pipes[pipe.id].invert_down * 1000) % 5 != approx(0, abs=1e-6)
    assert user.project.pipes[below.id] == below
    user.do("undo")
    user.drag_ring("down", -0.3, keys=Qt.KeyboardModifier.ShiftModifier)
    moved = user.project.pipes[pipe.id].invert_down - pipe.invert_down
    assert moved < -0.2
    assert user.project.pipes[below.id].invert_up == approx(below.invert_up + moved)
    assert user.project.pipes[user.pipe("S1", "HW1").id].invert_down == approx(38.016 + moved)
    assert user.session.history.undo_names == ["Shift P5 and all downstream"]


def test_the_middle_ring_moves_the_whole_pipe(user):
    pipe = user.look_at("S5", "S4")
    user.drag_ring("mid", -0.3)
    after = user.project.pipes[pipe.id]
    assert after.invert_up - after.invert_down == approx(pipe.invert_up - pipe.invert_down)
    assert after.invert_up == approx(pipe.invert_up - 0.3, abs=0.1)
    assert after.invert_up < pipe.invert_up


def test_the_ring_beyond_turns_the_slope_about_the_other_end_to_round_slopes(user):
    pipe = user.look_at("S5", "S4")
    user.drag_ring("beyond-down", -0.4)
    f = user.facts.pipes[pipe.id]
    assert f.pipe.invert_up == pipe.invert_up
    assert f.slope * 100 / 0.05 == approx(round(f.slope * 100 / 0.05), abs=1e-6)
    assert f.slope > 0.02


def test_what_is_held_can_not_be_dragged_and_says_so(user):
    pipe = user.look_at("S5", "S4")
    keeps = user.window.side.panel.shared.holds
    keeps["down"].click()
    held = user.project
    assert user.session.state.chosen.hand.pivot == "down"  # what is held is the fixed end
    user.drag_ring("down", 0.3)
    assert user.project is held and "keeps its invert at S4: let it go first" in user.refusals[-1]
    user.drag_ring("mid", 0.3)
    assert user.project is held and len(user.refusals) == 2
    keeps["down"].click()
    keeps["slope"].click()
    slope = user.facts.pipes[pipe.id].slope
    user.drag_ring("down", -0.3, keys=Qt.KeyboardModifier.AltModifier)
    now = user.project.pipes[pipe.id]
    assert now.invert_down < pipe.invert_down - 0.25
    assert user.facts.pipes[pipe.id].slope == approx(slope, abs=1e-12)
    user.drag_ring("beyond-down", -0.3)
    assert user.project.pipes[pipe.id] == now and "keeps its slope" in user.refusals[-1]


def test_escape_leaves_all_as_it_was(user):
    pipe = user.look_at("S5", "S4")
    user.drag_ring("down", -0.2, release=False)
    assert user.shown is not user.project
    user.key(user.section, Qt.Key.Key_Escape)
    assert user.shown is user.project
    assert user.project.pipes[pipe.id] == pipe
    assert user.session.history.undo_name is None
    assert not user.section.entry.isVisible()


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("40.5", lambda f: f.pipe.invert_down == approx(40.5)),
        ("-0.15", lambda f: f.pipe.invert_down == approx(40.639 - 0.15)),
        ("1:50", lambda f: f.slope == approx(0.02)),
        ("1.75%", lambda f: f.slope == approx(0.0175)),
        ("c0.9", lambda f: f.cover.least == approx(0.9)),
    ],
)
def test_typing_with_a_pipe_in_hand(user, text, expected):
    pipe = user.look_at("S5", "S4")
    user.type(user.section, text)
    assert user.section.entry.isVisible()
    assert user.section.entry.field.text() == text
    assert expected(user.session.state.shown.facts.pipes[pipe.id])  # shown before it is taken
    assert user.project.pipes[pipe.id] == pipe
    user.key(user.section.entry.field, Qt.Key.Key_Return)
    assert expected(user.facts.pipes[pipe.id])
    assert not user.section.entry.isVisible()
    assert len(user.session.history.undo_names) == 1


def test_typing_while_dragging_takes_over_from_the_mouse(user):
    pipe = user.look_at("S5", "S4")
    user.drag_ring("down", -0.3, release=False)
    user.type(user.section, "40.45")
    user.move(user.section, 500, 10, held=True)  # the mouse no longer has a say
    user.key(user.section.entry.field, Qt.Key.Key_Return)
    user.release(user.section, 500, 10)
    assert user.project.pipes[pipe.id].invert_down == approx(40.45)
    assert len(user.session.history.undo_names) == 1


def test_a_text_that_means_nothing_is_refused_in_a_sentence(user):
    pipe = user.look_at("S5", "S4")
    user.type(user.section, "4x")
    user.key(user.section.entry.field, Qt.Key.Key_Return)
    assert user.refusals == ['"4x" is no number: write it as 41.640.']
    assert user.window.foot.hint.text() == user.refusals[0]
    assert user.project.pipes[pipe.id] == pipe
    user.key(user.section.entry.field, Qt.Key.Key_Escape)
    assert user.shown is user.project


def test_the_panel_is_live_while_the_mouse_is_down(user):
    user.look_at("S5", "S4")
    panel = user.window.side.panel
    assert panel.rows["invert_down"].field.text() == "40.639"
    user.drag_ring("down", -0.2, release=False)
    assert (
        panel.rows["invert_down"].field.text() == f"{user.shown.pipes[panel.pipe].invert_down:.3f}"
    )
    assert panel.rows["invert_down"].under.text() == "was 40.639"
    assert panel.rows["invert_down"].bar.scale.in_range
    assert panel.rows["invert_up"].aside.text() == "stays, fixed end"
    assert panel.follow_title.isVisible()
    assert any(
        "Trench" in panel.follows.itemAt(i).widget().text() for i in range(panel.follows.count())
    )
    user.key(user.section, Qt.Key.Key_Escape)
    assert not panel.follow_title.isVisible()


def test_clicking_an_end_makes_the_other_end_the_fixed_one(user):
    user.look_at("S5", "S4")
    assert user.session.state.chosen.hand.pivot == "up"
    user.click(user.section, *user.ring("up"))
    assert user.session.state.chosen.hand.pivot == "down"
    assert user.session.history.undo_name is None  # a click alone changes nothing


def test_values_are_typed_in_the_panel(user):
    pipe = user.look_at("S5", "S4")
    field = user.window.side.panel.rows["slope"].field
    field.setFocus()
    field.selectAll()
    user.type(field, "1:45")
    user.key(field, Qt.Key.Key_Return)
    assert user.facts.pipes[pipe.id].slope == approx(1 / 45)
    field = user.window.side.panel.rows["cover"].field
    field.selectAll()
    user.type(field, "1.1")
    user.key(field, Qt.Key.Key_Return)
    assert user.facts.pipes[pipe.id].cover.least == approx(1.1, abs=0.2)
    field.selectAll()
    user.type(field, "deep")
    user.key(field, Qt.Key.Key_Return)
    assert "is no number" in user.refusals[-1]


def test_a_size_is_chosen_in_the_panel(user):
    pipe = user.look_at("S5", "S4")
    box = user.window.side.panel.size_box
    assert box.itemText(box.findData("375")) == "DN 375, does not fit"  # S5 takes DN 300 at most
    box.setCurrentIndex(box.findData("375"))
    box.activated.emit(box.currentIndex())
    user.settle()
    assert user.project.pipes[pipe.id].size == "375"
    assert user.session.history.undo_name == "Change the size of P5"


def test_a_fix_is_one_click(user):
    from zumbert.app.panels.rows import FixButton

    user.look_at("S5", "S4")
    buttons = user.window.side.panel.findChildren(FixButton)
    # what changes least first
    assert [b.text() for b in buttons][:2] == ["Lower S5 to 41.082", "Lower S4 to 40.544"]
    user.click(buttons[1], 20, 10)
    assert not any(f.rule == "cover_min" for f in user.session.state.current.findings)
    assert user.session.history.undo_name == "Lower S4 to 40.544"


def test_levels_of_many_are_shown_while_typed_and_taken_in_one_step(user):
    from PySide6.QtCore import QEvent
    from PySide6.QtGui import QFocusEvent
    from PySide6.QtWidgets import QPushButton

    from zumbert.app.main import application

    ids = [user.pipe(a, b).id for a, b in (("S16", "S15"), ("S15", "S14"), ("S17", "S16"))]
    user.session.select(pipes=frozenset(ids))
    user.session.to_stage("levels")
    user.settle()
    panel, before = user.window.side.panel.levels, user.project
    field = panel.values["slope"]
    field.setFocus()
    user.type(field, "3%")
    assert panel.says.text() == "3 will change"
    assert user.shown is not before and user.project is before
    user.key(field, Qt.Key.Key_Return)
    assert [user.facts.pipes[p].slope for p in ids] == approx([0.03] * 3)
    assert user.session.history.undo_names == ["Slope of all: 3 pipes"]
    shift = panel.values["shift"]
    shift.setFocus()
    user.type(shift, "-0.1")
    assert user.shown is not user.project
    # left without Enter: given up
    application().sendEvent(shift, QFocusEvent(QEvent.Type.FocusOut))
    assert user.shown is user.project
    button = panel.findChild(QPushButton, "all cover")
    button._tell(True)
    # at 3 % they lie shallower than they may
    assert panel.says.text() == "none will change, 3 cannot be raised"
    button._tell(False)
    user.do("undo")
    button._tell(True)
    assert panel.says.text() == "3 will change" and user.shown is not user.project
    button.click()
    assert user.session.history.undo_name == "Up to cover: 3 pipes"
    least = [user.facts.pipes[p].cover.least for p in ids]
    assert min(least) == approx(0.9, abs=1e-6)
    user.do("undo")
    assert user.project is before


def test_a_drop_is_typed_and_dragged_like_any_value(user):
    pipe = user.look_at("S5", "S4")
    panel = user.window.side.panel
    before = user.project
    out = next(p for p in user.project.pipes.values() if p.up == pipe.down)
    user.fill(panel.rows["drop_down"].field, "0.100")
    assert user.project.pipes[pipe.id].invert_down == approx(out.invert_up + 0.1, abs=1e-12)
    assert user.session.history.undo_name == "Set the drop at S4"
    bar = user.window.side.panel.rows["drop_down"].bar
    bar.dragged(0.2, False)
    assert user.shown.pipes[pipe.id].invert_down == approx(out.invert_up + 0.2, abs=1e-9)
    bar.dragged(0.2, True)
    user.do("undo")
    user.do("undo")
    assert user.project is before
    # the outlet goes down by as much
    user.fill(user.window.side.panel.rows["drop_up"].field, "+0.05")
    assert user.project.pipes[pipe.id].invert_up == approx(pipe.invert_up - 0.05, abs=1e-12)


def test_the_pipes_of_a_structure_are_picked_and_edited_in_its_list(user):
    s9 = user.structure("S9")
    user.session.select(structures=frozenset({s9.id}))
    user.settle()
    panel = user.window.side.panel
    names = [row[0].text() for row in panel.cells]
    i = names.index("from S10")
    pipe = user.pipe("S10", "S9")
    out = next(p for p in user.project.pipes.values() if p.up == s9.id)
    assert panel.cells[i][5].text() == f"{pipe.invert_down - out.invert_up:.3f}"
    user.fill(panel.cells[i][5], "0.2")
    assert user.project.pipes[pipe.id].invert_down == approx(out.invert_up + 0.2, abs=1e-12)
    user.fill(panel.cells[names.index("to S8")][3], "46.0")
    assert user.project.pipes[out.id].invert_up == 46.0
    panel.cells[i][0].click()
    assert user.session.state.chosen.pipes == {pipe.id}


def test_a_size_that_is_typed_is_looked_for_in_the_list_and_taken_with_enter(user):
    pipe = user.look_at("S5", "S4")
    box = user.window.side.panel.size_box
    box.setFocus()
    for key in "225":
        user.type(box.view() if box.view().isVisible() else box, key)
    assert box.view().isVisible()
    assert user.project.pipes[pipe.id].size == pipe.size  # a key takes nothing
    user.key(box.view(), Qt.Key.Key_Return)
    assert user.project.pipes[pipe.id].size == "225"
    assert len(user.session.history.undo_names) == 1
