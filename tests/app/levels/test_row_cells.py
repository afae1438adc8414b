"""Level rows: chosen, moved, switched; arithmetic in them."""

from PySide6.QtCore import Qt
from pytest import approx

from zumbert.drawing.levelrows import ROW, pipe_rows, rows_shown


def test_arithmetic_in_a_row(user):
    pipe = user.look_at("S5", "S4")
    user.settle()
    cell = next(c for c in user.section.cells if c.row == "Invert in" and c.id == pipe.id)
    user.click(user.section, cell.box[0] + cell.box[2] / 2, cell.box[1] + 8)
    edit = user.section.cell_edit
    edit.selectAll()
    user.type(edit, "=42.1-1.5")
    user.key(edit, Qt.Key.Key_Return)
    assert user.pipe("S5", "S4").invert_down == approx(40.6)


def test_rows_are_chosen_moved_and_their_crowns_edited(user):
    pipe = user.look_at("S5", "S4")

    def act(text, row=None):
        names = [
            r[0]
            for r in (
                *rows_shown(user.session.state.picture),
                *pipe_rows(user.session.state.picture),
            )
        ]
        y = user.section.sight.height + ROW * (names.index(row) + 0.5 if row else 0.5)
        next(a for a in user.section.rows_menu(y).actions() if a.text() == text).trigger()
        user.settle()
        return [
            r[0]
            for r in (
                *rows_shown(user.session.state.picture),
                *pipe_rows(user.session.state.picture),
            )
        ]

    assert "Crown in" in act("Crown in")
    assert act("Ground").count("Ground") == 0
    names = act("Move Rim up", "Rim")
    assert names.index("Rim") == names.index("Design") - 1
    cell = next(c for c in user.section.cells if c.row == "Crown in" and c.id == pipe.id)
    assert cell.text == f"{pipe.invert_down + 0.3:.3f}"
    user.click(user.section, cell.box[0] + cell.box[2] / 2, cell.box[1] + 8)
    edit = user.section.cell_edit
    edit.selectAll()
    user.type(edit, "+0.05")
    user.key(edit, Qt.Key.Key_Return)
    assert user.pipe("S5", "S4").invert_down == approx(pipe.invert_down + 0.05)
    assert user.session.history.undo_name == "Set the crown at S4"
    assert act("The usual rows")[:3] == ["Run length", "Chainage", "Ground"]


def test_rims_and_sumps_are_switched_for_one_or_many(user):
    ids = [user.structure(n).id for n in ("S4", "S5")]
    user.session.select(structures=frozenset(ids))
    user.session.to_stage("layout")
    user.settle()
    shared = user.window.side.panel.shared
    design = [user.facts.places[k].rim for k in ids]

    def fill(field, text):
        field.setFocus()
        field.selectAll()
        user.type(field, text)
        user.key(field, Qt.Key.Key_Return)

    fill(shared.adjust, "-0.02")
    assert [user.facts.places[k].rim for k in ids] == approx([z - 0.02 for z in design])
    shared.rim.setCurrentIndex(shared.rim.findData("existing"))
    shared.rim.activated.emit(shared.rim.currentIndex())
    assert [user.facts.places[k].rim for k in ids] == approx(
        [user.facts.places[k].ground - 0.02 for k in ids]
    )
    shared.rim.setCurrentIndex(shared.rim.findData("fixed"))
    shared.rim.activated.emit(shared.rim.currentIndex())
    assert {user.facts.places[k].rim_from for k in ids} == {"fixed"}
    assert not shared.adjust.isEnabled()
    fill(shared.sump_depth, "0.45")
    lowest = [user.facts.structures[k].lowest for k in ids]
    assert [user.facts.structures[k].sump_level for k in ids] == approx([z - 0.45 for z in lowest])
    fill(shared.sump, "38.5")
    assert {user.facts.structures[k].sump_level for k in ids} == {38.5}
    fill(shared.sump, "derived")
    fill(shared.sump_depth, "by type")
    assert [user.facts.structures[k].sump_level for k in ids] == approx(lowest)
    fill(shared.sump_depth, "-1")
    assert "0 to 10.00 m below the lowest invert" in user.refusals[-1]
    user.session.select(structures=frozenset(ids[:1]))
    user.settle()
    off = user.facts.places[ids[0]].rim - user.facts.places[ids[0]].design
    assert (
        user.window.side.panel.rows["rim"].under.text()
        == f"fixed, {user.session.units.step(off)} off"
    )
