"""A field that is made up here is seen and edited wherever fields are: a new one is one line in
its table.
"""

import csv

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel

from zumbert.app.panels.labelfields import LabelFields
from zumbert.app.tables.model import RecordModel
from zumbert.app.values import edit_field
from zumbert.drawing.levelrows import row_names
from zumbert.drawing.marks import texts_in
from zumbert.drawing.planlabels import pipe_text
from zumbert.edits.grounditems import set_view
from zumbert.edits.labels import set_label_fields
from zumbert.exchange.csv import write_csv
from zumbert.exchange.readback import read_back, taken
from zumbert.exchange.reports import check_report
from zumbert.exchange.tables import pipe_table
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, Field

FIELDS = {  # the service is stored in the record, and nothing else shows it
    "pipes": Field(key="service", title="Carries", read=lambda facts, f: f.pipe.service,
                   row="Carries", panel="Carries",
                   label=lambda units, v: f"carries {v}", json="service",
                   edit="Change what {} carries", stored=True,
                   choices=lambda project: ["storm", "foul"]),
    "structures": Field(key="service", title="Carries", read=lambda facts, f: f.structure.service,
                        row="Carries", panel="Carries",
                        label=lambda units, v: f"carries {v}", json="service",
                        edit="Change what {} carries", stored=True,
                        choices=lambda project: ["storm", "foul"]),
}  # fmt: skip


@pytest.fixture
def more(user, monkeypatch):
    monkeypatch.setitem(PIPE_FIELDS, "service", FIELDS["pipes"])
    monkeypatch.setitem(STRUCTURE_FIELDS, "service", FIELDS["structures"])
    # panels that were made before it know nothing of it
    monkeypatch.setattr(user.window.side, "_panels", {})
    user.session.open(user.project, None)
    user.settle()
    return user


def test_a_field_of_both_without_a_row_is_picked_for_several_at_once(user, monkeypatch):
    for name, table in (("pipes", PIPE_FIELDS), ("structures", STRUCTURE_FIELDS)):
        monkeypatch.setitem(table, "service", replace(FIELDS[name], panel=""))
    monkeypatch.setattr(user.window.side, "_panels", {})
    structure, pipe = user.structure("S5").id, user.pipe("S5", "S4").id
    user.session.select(structures=frozenset({structure}), pipes=frozenset({pipe}))
    user.settle()
    box = user.window.side.panel.shared.choices["service"]
    assert box.currentText() == "storm" and box.accessibleName() == "Service"
    box.setCurrentText("foul")
    box.activated.emit(box.currentIndex())
    p = user.project
    assert (p.structures[structure].service, p.pipes[pipe].service) == ("foul", "foul")
    assert user.session.history.undo_names == ["Change what 2 things carries"]


def test_a_field_more_is_seen_in_panel_table_rows_labels_and_report(more):
    user = more
    pipe = user.look_at("S5", "S4")
    row = user.window.side.panel.rows["service"]
    assert (row.name.text(), row.field.text()) == ("Carries", "storm")
    # typed in the panel; a word that it does not take is refused
    user.fill(row.field, "foul")
    assert user.project.pipes[pipe.id].service == "foul"
    assert user.session.history.undo_names[-1] == f"Change what {pipe.label} carries"
    assert not edit_field(user.session, pipe.id, "service", "milk")
    assert user.project.pipes[pipe.id].service == "foul"
    # a table column that offers its words
    model = RecordModel(user.session, user.window.pen, "pipes")
    model.show_state(user.session.state)
    column = [c.title for c in model.table.columns].index("Carries")
    index = model.index(model.ids.index(pipe.id), column)
    assert model.data(index) == "foul" and model.choices(column) == ["storm", "foul"]
    assert model.setData(index, "storm", Qt.ItemDataRole.EditRole)
    assert user.project.pipes[pipe.id].service == "storm"
    # a level row that is chosen, its cell typed over; structures have one too
    assert row_names().count("Carries") == 2
    user.session.edit("Rows", lambda p, f: set_view(p, rows=("Rim", "Carries")))
    user.settle()
    cell = next(c for c in user.section.cells if c.row == "Carries" and c.id == pipe.id)
    assert (cell.text, cell.field) == ("storm", "service")
    # labels in plan, and their tick
    user.session.edit("Labels", lambda p, f: set_label_fields(p, ["label", "service"], ["service"]))
    f = user.facts.pipes[pipe.id]
    assert pipe_text(f, user.facts) == "carries storm"
    user.settle()
    assert any(t.text == "carries storm" for t in texts_in(user.plan._still.marks))
    assert "service" in LabelFields(user.session).boxes["pipes"]
    # the command line's document
    report = check_report("x", user.facts, user.session.state.shown.findings)
    assert (
        {p["service"] for p in report["pipes"]}
        == {"storm"}
        == {s["service"] for s in report["structures"]}
    )
    # a structure's panel
    user.session.select(structures=frozenset({pipe.up}))
    user.settle()
    assert "Carries" in [w.text() for w in user.window.side.panel.findChildren(QLabel)]


def test_a_field_more_goes_out_and_comes_back(more, tmp_path):
    path = tmp_path / "pipes.csv"
    write_csv(path, pipe_table(more.facts))
    rows = list(csv.reader(path.read_text(encoding="utf-8-sig").splitlines()))
    column = rows[0].index("Carries")
    rows[1][column] = "foul"
    with path.open("w", newline="") as file:
        csv.writer(file).writerows(rows)
    [told] = read_back(more.project, more.facts, path).differences
    assert (told.title, told.now, told.file) == ("Carries", "storm", "foul")
    made = taken(more.project, more.facts, [told])
    assert made.pipes[told.thing].service == "foul"
