"""What comes from elsewhere: a network read back, and structures from a drawing, through their
dialogs.
"""

import ezdxf
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QPushButton

from zumbert.app.readbackdialog import ReadbackDialog
from zumbert.app.stages.ground.placesdialog import PlacesDialog
from zumbert.exchange.csv import write_csv
from zumbert.exchange.tables import pipe_table


@pytest.fixture
def schedule(user, tmp_path):
    """The pipes as they were sent away, come back with P5 and P6 changed."""
    path = tmp_path / "pipes.csv"
    write_csv(path, pipe_table(user.facts))
    lines = path.read_text(encoding="utf-8").splitlines()
    out = []
    for line in lines:
        cells = line.split(",")
        if cells[0] == "P5":
            cells[3], cells[5] = "375", "41.069"
        if cells[0] == "P6":
            cells[6] = f"{float(cells[6]) - 0.05:.3f}"
        out.append(",".join(cells))
    path.write_text("\n".join(out), encoding="utf-8")
    return path


def dialog_of(user, kind):
    return next(w for w in user.window.findChildren(kind) if w.isVisible())


def test_differences_are_shown_chosen_and_taken_in_one_step(user, schedule):
    before = user.project
    assert user.window.exchange.read_back(schedule)
    dialog = dialog_of(user, ReadbackDialog)
    rows = [
        (dialog.table.item(i, 0).text(), dialog.table.item(i, 1).text())
        for i in range(dialog.table.rowCount())
    ]
    assert rows == [("P5", "DN"), ("P5", "Invert up"), ("P6", "Invert down")]
    p5, p6 = user.pipe("S5", "S4"), user.pipe("S6", "S5")
    assert user.shown.pipes[p5.id].size == "375"  # seen before it is taken
    assert user.project is before
    dialog.table.item(0, 0).setCheckState(Qt.CheckState.Unchecked)
    user.settle()
    assert user.shown.pipes[p5.id].size == "300"
    assert dialog.says.text() == "2 of 3 will be taken"
    dialog.accept()
    user.settle()
    assert user.session.history.undo_names == ["Read back 2 values from pipes.csv"]
    assert (user.project.pipes[p5.id].invert_up, user.project.pipes[p5.id].size) == (41.069, "300")
    assert user.project.pipes[p6.id].invert_down == pytest.approx(p6.invert_down - 0.05)
    changed = [k for k, p in user.project.pipes.items() if p is not before.pipes[k]]
    assert changed == [p5.id, p6.id]
    user.do("undo")
    assert user.project is before


def test_left_alone_it_changes_nothing_and_a_bad_file_is_told(user, schedule, tmp_path):
    before = user.project
    user.window.exchange.read_back(schedule)
    dialog = dialog_of(user, ReadbackDialog)
    dialog.findChild(QPushButton, "tick none").click()
    assert not dialog.take.isEnabled()
    dialog.findChild(QPushButton, "tick all").click()
    assert dialog.take.isEnabled()
    dialog.reject()
    user.settle()
    assert user.shown is user.project is before
    (tmp_path / "bad.csv").write_text("a,b\n1,2\n")
    assert not user.window.exchange.read_back(tmp_path / "bad.csv")
    assert "no heads of a schedule" in user.refusals[-1]


def test_structures_come_from_circles_of_a_drawing_previewed(user, tmp_path):
    doc = ezdxf.new()
    doc.header["$INSUNITS"] = 6
    at = user.facts.places[user.structure("S4").id]
    for dx in (0.0, 200.0, 260.0):  # the first where S4 stands
        doc.modelspace().add_circle(
            (at.x + dx, at.y - 120.0 if dx else at.y), 0.6, dxfattribs={"layer": "CHAMBERS"}
        )
    doc.saveas(tmp_path / "others.dxf")
    user.window.exchange.import_paths([tmp_path / "others.dxf"])
    from zumbert.app.importdialog import ImportDialog

    dialog_of(user, ImportDialog).accept()
    user.settle()
    before = user.project
    user.do("structures-from")
    dialog = dialog_of(user, PlacesDialog)
    tick = dialog.findChild(QCheckBox, "take 0")
    assert (tick.text(), tick.isChecked()) == ("3 circles of 1.20 m on CHAMBERS", True)
    assert len(user.shown.structures) == len(before.structures) + 2
    assert dialog.says.text() == "2 structures, 1 stand there already."
    tick.click()
    assert user.shown is before and not dialog.take.isEnabled()
    tick.click()
    dialog.accept()
    user.settle()
    assert user.session.history.undo_name == "Create 2 structures of others"
    assert len(user.session.state.chosen.structures) == 2
    user.do("undo")
    assert user.project is before


def test_without_a_drawing_that_has_places_it_says_so(user):
    user.do("structures-from")
    assert "No drawing here has circles, points or blocks" in user.refusals[-1]
