"""The library through the window: edited in the tables, copied, unticked, read and written."""

import pytest
from PySide6.QtCore import QItemSelectionModel, Qt
from PySide6.QtWidgets import QPushButton

from tests.app.ready import DEMO
from zumbert.exchange.library import read_library


@pytest.fixture
def library(user):
    user.do("tables")
    user.window.centre.tables.show_kind("sizes")
    user.settle()
    return user


def cell(user, key, head):
    t = user.window.centre.tables.table
    row, column = t.records.ids.index(key), [c.head for c in t.records.table.columns].index(head)
    return t.proxy.mapFromSource(t.records.index(row, column))


def choose(user, key):
    index = cell(user, key, "Used")
    user.window.centre.tables.table.selectionModel().select(
        index, QItemSelectionModel.SelectionFlag.ClearAndSelect
    )


def press(user, name):
    user.window.centre.tables.table.bar.findChild(QPushButton, name).click()
    user.settle()


def write(user, key, head, text):
    t = user.window.centre.tables.table
    index = cell(user, key, head)
    t.proxy.setData(index, text, Qt.ItemDataRole.EditRole)
    user.settle()


def test_a_wall_is_typed_over_and_every_pipe_of_the_size_follows(library, monkeypatch):
    monkeypatch.setattr("zumbert.app.values.ask", lambda *a, **k: 0)
    user = library
    p5 = user.pipe("S5", "S4")
    before = user.facts.pipes[p5.id].cover.least
    write(user, "300", ["Wall", "mm)"][0], "95")
    assert user.project.sizes["300"].wall == 0.095
    assert user.facts.pipes[p5.id].cover.least == pytest.approx(before - 0.05)
    assert user.session.history.undo_name == "Change DN 300 concrete"
    write(user, "300", "Wall", "thin")
    assert 'Wall is "thin", which is no number' in user.refusals[-1]
    assert cell(user, "300", "Wall").data() == "95.0"


def test_what_is_used_is_counted_and_can_only_be_unticked(library):
    user = library
    used = int(cell(user, "300", "Used").data())
    assert used == sum(p.size == "300" for p in user.project.pipes.values()) > 0
    choose(user, "300")
    press(user, "take out record")
    assert f"is used by {used} pipes: untick it instead" in user.refusals[-1]
    write(user, "300", "Allowed", "no")
    assert not user.project.sizes["300"].allowed
    assert (
        "36 pipe sizes, 35 offered for new work" in user.window.centre.tables.table.bar.says.text()
    )
    user.do("lay")
    offered = [
        user.window.side.panel.size_box.itemData(i)
        for i in range(user.window.side.panel.size_box.count())
    ]
    assert "300" not in offered and "375" in offered


def test_a_row_is_copied_changed_and_taken_out_again(library):
    user = library
    user.window.centre.tables.show_kind("types")
    user.settle()
    press(user, "copy record")
    assert user.refusals[-1] == "Choose a row of the library first."
    choose(user, "manhole-1200")
    press(user, "copy record")
    write(user, "manhole-1200-2", "Name", "Deep manhole")
    write(user, "manhole-1200-2", "Depth to", "9")
    assert user.project.types["manhole-1200-2"].depth_max == 9.0
    choose(user, "manhole-1200-2")
    press(user, "take out record")
    assert "manhole-1200-2" not in user.project.types
    for _ in range(4):
        user.do("undo")
    assert user.project.types == DEMO.types
    assert user.session.history.undo_names == []


def test_it_is_written_changed_elsewhere_and_read_in_one_step(library, tmp_path):
    user = library
    acts = user.window.centre.tables.table.bar
    acts.write(tmp_path / "library.toml")
    acts.write(tmp_path / "sizes.csv")
    assert len(read_library(tmp_path / "library.toml").types) == len(user.project.types)
    text = (
        (tmp_path / "sizes.csv")
        .read_text()
        .replace("300,concrete,300,300,45,", "300,concrete,300,300,50,")
    )
    (tmp_path / "sizes.csv").write_text(text)
    acts.read(tmp_path / "sizes.csv")
    assert user.project.sizes["300"].wall == 0.05
    assert user.session.history.undo_names == ["Read the library sizes.csv"]
    (tmp_path / "bad.toml").write_text("sizes = 3")
    acts.read(tmp_path / "bad.toml")
    assert "sizes is a list of tables" in user.refusals[-1]
    acts.write(tmp_path / "none" / "l.toml")
    assert "could not be written" in user.refusals[-1]
    assert len(user.session.history.undo_names) == 1


def test_undoing_a_type_that_the_laying_tool_holds_leaves_the_tool_at_work(library):
    user = library
    user.window.centre.tables.show_kind("types")
    user.settle()
    choose(user, "manhole-1200")
    press(user, "copy record")
    user.do("lay")
    box = user.window.side.panel.type_box
    box.setCurrentIndex(box.findData("manhole-1200-2"))
    box.activated.emit(box.currentIndex())
    user.do("undo")
    assert user.window.toolbox.tool.way.type in user.project.types
    user.move(user.plan, 300, 100)
    user.settle()


def test_the_starter_set_fills_up_what_was_taken_out(library):
    user = library
    choose(user, "clay-600")
    press(user, "take out record")
    assert "clay-600" not in user.project.sizes
    press(user, "starter set")
    assert "clay-600" in user.project.sizes


def test_a_type_in_use_says_what_changes_with_it_and_offers_a_new_one(user, monkeypatch):
    from zumbert.app.values import edit_field

    asked, answers = [], [2, 1]
    monkeypatch.setattr(
        "zumbert.app.values.ask", lambda *a, **k: asked.append((a[3], a[4])) or answers.pop(0)
    )
    before = user.project
    key = user.structure("EX1").type
    mine = {k for k, s in before.structures.items() if s.type == key and s.status == "proposed"}
    old = {k for k, s in before.structures.items() if s.type == key and s.status == "existing"}
    assert mine and old
    assert not edit_field(user.session, key, "types.inside_mm", "1350")
    assert user.project is before
    name = before.types[key].name
    assert asked[0][0] == (
        f"{name} is in use by {len(mine)} proposed and {len(old)} existing structures: they "
        "change with it."
    )
    assert asked[0][1][1] == "New type for the proposed"
    assert edit_field(user.session, key, "types.inside_mm", "1350")
    new = {user.project.structures[k].type for k in mine}
    assert len(new) == 1 and new != {key}
    assert {user.project.structures[k].type for k in old} == {key}
    made = user.project.types[next(iter(new))]
    assert (made.inside, user.project.types[key].inside) == (1.35, before.types[key].inside)
    assert "1350" in made.name  # the name says the size
    assert len(user.session.history.undo_names) == 1
