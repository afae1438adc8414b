from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication
from pytest import approx

from zumbert.app.values import edit_field
from zumbert.drawing.handles import lit_place
from zumbert.drawing.plan import end_place


def cell(user, row, thing):
    user.settle()
    return next(c for c in user.section.cells if c.row == row and c.id == thing)


def open_cell(user, row, thing):
    c = cell(user, row, thing)
    user.click(user.section, c.box[0] + c.box[2] / 2, c.box[1] + c.box[3] / 2)
    assert user.section.cell_edit.isVisible()
    return user.section.cell_edit


def test_an_invert_is_edited_in_its_cell(user):
    pipe = user.look_at("S5", "S4")
    edit = open_cell(user, "Invert in", pipe.id)
    assert edit.text() == "40.639"
    user.type(edit, "40.5")
    user.key(edit, Qt.Key.Key_Return)
    assert user.project.pipes[pipe.id].invert_down == approx(40.5)
    assert not edit.isVisible()
    assert user.session.history.undo_name == "Set the invert at S4"


def test_arithmetic_and_slopes(user):
    pipe = user.look_at("S5", "S4")
    edit = open_cell(user, "Invert out", pipe.id)
    user.type(edit, "+0.05")
    user.key(edit, Qt.Key.Key_Return)
    assert user.project.pipes[pipe.id].invert_up == approx(pipe.invert_up + 0.05)
    edit = open_cell(user, "Slope", pipe.id)
    user.type(edit, "1:60")
    user.key(edit, Qt.Key.Key_Return)
    assert user.facts.pipes[pipe.id].slope == approx(1 / 60)
    edit = open_cell(user, "DN", pipe.id)
    user.type(edit, "375")
    user.key(edit, Qt.Key.Key_Return)
    assert user.project.pipes[pipe.id].size == "375"


def keep(user, thing, end):
    """Clicks the ring at one end of a slope cell."""
    user.settle()
    c = next(c for c in user.section.cells if c.id == thing and c.field == f"pivot {end}")
    user.click(user.section, c.box[0] + c.box[2] / 2, c.box[1] + c.box[3] / 2)


def test_the_end_that_a_slope_keeps_is_marked_and_switched_on_the_row(user):
    pipe, other = user.look_at("S5", "S4"), user.pipe("S6", "S5")
    keep(user, pipe.id, "down")
    assert user.session.state.chosen.hand.pivot == "down"
    edit = open_cell(user, "Slope", pipe.id)
    user.type(edit, "2%")
    user.key(edit, Qt.Key.Key_Return)
    now = user.project.pipes[pipe.id]
    assert now.invert_down == pipe.invert_down
    assert now.invert_up == approx(pipe.invert_down + 0.02 * user.facts.pipes[pipe.id].basis)
    edit = open_cell(user, "Slope", other.id)  # the next one keeps the same end
    user.type(edit, "3%")
    user.key(edit, Qt.Key.Key_Return)
    assert user.project.pipes[other.id].invert_down == other.invert_down
    user.do("other-end")
    assert user.session.state.chosen.hand.pivot == "up"
    edit = open_cell(user, "Slope", other.id)
    user.key(edit, Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier)  # S5 lies left of S6
    assert user.session.state.chosen.hand.pivot == "down" and edit.isVisible()


def test_tab_goes_along_the_row(user):
    pipe = user.look_at("S5", "S4")
    edit = open_cell(user, "Invert in", pipe.id)
    user.type(edit, "40.5")
    user.key(edit, Qt.Key.Key_Tab)
    assert edit.isVisible()
    assert edit.cell.id == user.pipe("S6", "S5").id
    assert user.project.pipes[pipe.id].invert_down == approx(40.5)
    user.key(edit, Qt.Key.Key_Backtab)
    assert edit.cell.id == pipe.id


def test_escape_and_nonsense_change_nothing(user):
    pipe = user.look_at("S5", "S4")
    edit = open_cell(user, "Invert in", pipe.id)
    user.type(edit, "41")
    user.key(edit, Qt.Key.Key_Escape)
    assert user.project.pipes[pipe.id] == pipe
    edit = open_cell(user, "DN", pipe.id)
    user.type(edit, "310")
    user.key(edit, Qt.Key.Key_Return)
    assert 'There is no pipe size "310"' in user.refusals[-1]
    assert edit.isVisible()
    assert user.project.pipes[pipe.id] == pipe


def test_a_chainage_moves_its_structure(user):
    user.look_at("S5", "S4")
    s4 = user.structure("S4")
    edit = open_cell(user, "Chainage", s4.id)
    user.type(edit, "0+098.50")
    user.key(edit, Qt.Key.Key_Return)
    assert user.project.structures[s4.id].place.chainage == approx(98.5)


def test_a_click_in_the_rows_selects(user):
    user.look_at("S5", "S4")
    other = user.pipe("S6", "S5")
    c = cell(user, "Length", other.id)
    user.click(user.section, c.box[0] + 10, c.box[1] + 5)
    assert user.session.state.chosen.pipes == {other.id}


def paste(user, edit, text):
    QApplication.clipboard().setText(text)
    user.key(edit, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)


def inverts(user):
    return [
        user.project.pipes[user.pipe(a, b).id].invert_down
        for a, b in (("S5", "S4"), ("S6", "S5"), ("S7", "S6"))
    ]


def test_a_paste_fills_cells_along_the_row_in_one_step(user):
    pipe = user.look_at("S5", "S4")
    before = user.project
    edit = open_cell(user, "Invert in", pipe.id)
    paste(user, edit, "40.5\t+0.01\t42.75")
    assert inverts(user) == approx([40.5, 41.194 + 0.01, 42.75], abs=1e-3)
    assert user.session.history.undo_name == "Paste 3 values into the rows" and not edit.isVisible()
    user.do("undo")
    assert user.project is before
    edit = open_cell(user, "Invert in", pipe.id)
    paste(user, edit, "40.5\n\n42.75\n")  # a column goes along the row; what is empty stays
    assert inverts(user) == approx(
        [40.5, before.pipes[user.pipe("S6", "S5").id].invert_down, 42.75]
    )


def test_a_block_fills_rows_under_one_another(user):
    pipe = user.look_at("S5", "S4")
    edit = open_cell(user, "Slope", pipe.id)
    paste(user, edit, "2%\t1:30\n375\t375")
    one, two = user.pipe("S5", "S4"), user.pipe("S6", "S5")
    assert [user.facts.pipes[p.id].slope for p in (one, two)] == approx([0.02, 1 / 30])
    assert (one.size, two.size) == ("375", "375")


def test_a_paste_that_does_not_fit_changes_nothing(user):
    pipe = user.look_at("S5", "S4")
    before = user.project
    edit = open_cell(user, "Invert in", pipe.id)
    for text, why in (
        ("1\t" * 60 + "1", "61 values for"),
        ("40.5\tx", 'Invert in at S5: "x" is no number'),
        ("40\t40\n40\t40\n1\t1", "Depth at S4 is not edited here"),
    ):
        paste(user, edit, text)
        assert why in user.refusals[-1] and user.project is before and edit.isVisible()
    user.key(edit, Qt.Key.Key_Escape)
    edit = open_cell(user, "Invert out", pipe.id)
    paste(user, edit, "41.1\n")  # one value is typed as any other
    assert edit.text() == "41.1"


def test_tab_follows_the_run_beyond_what_is_in_sight(user):
    pipe = user.look_at("S5", "S4")
    user.section.zoomed(6.0, 500, 100, Qt.KeyboardModifier.NoModifier)
    user.section.show_distance(
        next(r for r in user.session.state.look.run.reaches if r.pipe == pipe.id).down
    )
    user.settle()
    edit = open_cell(user, "Invert in", pipe.id)
    seen = user.section.sight.x
    user.key(edit, Qt.Key.Key_Tab)
    assert edit.isVisible() and edit.cell.id == user.pipe("S6", "S5").id
    assert user.section.sight.x > seen


def test_a_cell_of_what_was_deleted_meanwhile_is_closed(user):
    pipe = user.look_at("S5", "S4")
    edit = open_cell(user, "DN", pipe.id)
    user.type(edit, "375")
    user.do("delete")
    user.do("delete")  # loose ends are told first
    assert pipe.id not in user.project.pipes
    gone = user.project
    user.click(user.section, 300, 40)
    assert user.project is gone and not edit.isVisible()
    assert (
        not edit_field(user.session, pipe.id, "size", "375")
        and "no longer there" in user.refusals[-1]
    )


def test_arrows_up_and_down_go_to_the_nearest_cell_that_can_be_edited_and_lose_no_text(user):
    pipe = user.look_at("S5", "S4")
    edit = open_cell(user, "Invert in", pipe.id)  # at S4
    user.type(edit, "40.5")
    user.key(edit, Qt.Key.Key_Down)
    assert user.project.pipes[pipe.id].invert_down == approx(40.5)
    assert (edit.cell.row, edit.cell.id) == ("Invert out", user.pipe("S4", "S3").id)  # at S4 still
    user.key(edit, Qt.Key.Key_Down)  # depths are not edited: the slope is next
    assert edit.cell.row == "Slope" and edit.isVisible()
    user.key(edit, Qt.Key.Key_Up)
    user.key(edit, Qt.Key.Key_Up)
    assert edit.cell.row == "Invert in"
    user.type(edit, "nonsense")
    user.key(edit, Qt.Key.Key_Up)
    assert edit.isVisible() and edit.cell.row == "Invert in" and edit.text() == "nonsense"


def test_the_end_whose_cell_is_edited_comes_into_sight_in_both_drawings(user):
    pipe = user.look_at("S5", "S4")
    user.session.set(straight=False)
    user.plan.panned(3000.0, 0.0)
    user.section.panned(0.0, 4000.0)
    user.settle()
    edit = open_cell(user, "Invert in", pipe.id)
    user.settle()
    s = user.session.state
    x, y = lit_place(s.picture, s.at.lit, user.section.sight)
    assert user.section.sight.left < x < user.section.width() and 0 < y < user.section.sight.height
    x, y = end_place(s.shown.facts, s.at.lit, user.plan.sight)
    assert 0 < x < user.plan.width() and 0 < y < user.plan.height()
    user.key(edit, Qt.Key.Key_Tab)
    user.settle()
    s = user.session.state
    assert s.at.lit[0] == user.pipe("S6", "S5").id
    x, y = lit_place(s.picture, s.at.lit, user.section.sight)
    assert user.section.sight.left < x < user.section.width() and 0 < y < user.section.sight.height
