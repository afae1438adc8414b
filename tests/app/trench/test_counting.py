"""Trench types, what is counted, and the takeoff."""

import csv

import openpyxl
from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QTextDocument, QTextTable
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QCheckBox
from pytest import approx

from tests.app.trench.hands import (
    BY_NET,
    _cell_text,
    button,
    button_of,
    cross,
    figures,
    panel,
    total,
    wait_for_net,
)
from zumbert.analysis.union import union
from zumbert.app.main import application
from zumbert.model.display import Units


def test_while_a_dimension_is_typed_the_drawing_shows_it(trench):
    user = trench
    button_of(user, "Types").click()
    field = panel(user).pages[1].sketch.fields["batter"]
    field.setFocus()
    field.selectAll()
    user.type(field, "1")
    assert user.session.state.previewing
    wide = user.session.state.dug.trenches.pipes[user.pipe("S13", "S12").id].dig.size.batter
    assert wide == 1.0
    user.key(field, Qt.Key.Key_Escape)
    assert not user.session.state.previewing


def test_rows_and_types_come_and_go(trench):
    user = trench
    button_of(user, "Types").click()
    page = panel(user).pages[1]
    button(user, "add row").click()
    assert [r.dn for r in user.project.trench_types[page.key].sizes] == [300.0, 600.0, 750.0]
    user.fill(page.ground, "rock")
    assert user.project.trench_types[page.key].sizes[2].ground == "rock"
    button(user, "remove row").click()
    page.acts.add.setCurrentIndex(2)
    page.acts.add.activated.emit(2)
    assert user.project.trench_types[page.key].name == "Upright and supported"
    user.session.select(pipes=frozenset({user.pipe("S4", "S3").id}))
    user.settle()
    page.selected.setCurrentIndex(page.selected.findText("Upright and supported"))
    page.selected.activated.emit(page.selected.currentIndex())
    assert user.project.pipes[user.pipe("S4", "S3").id].trench == page.key
    button(user, "delete trench type").click()
    assert "is the trench of" in user.refusals[-1]


def test_what_is_counted(trench):
    user = trench
    button_of(user, "Counting").click()
    user.settle()
    page = panel(user).pages[2]
    dug = total(user)
    page.findChild(QCheckBox, "to centres").click()
    assert total(user) > dug
    page.findChild(QCheckBox, "existing dug").click()
    assert user.project.digging.statuses == {"proposed", "existing"}
    page.findChild(QCheckBox, "count Storm").click()
    assert sum(t.excavation for t in user.session.state.dug.trenches.pipes.values()) < dug / 2
    user.fill(page.bands, "0, 1, 2")
    assert user.project.digging.bands == (0.0, 1.0, 2.0)
    user.fill(page.bands, "1, 2")
    assert "begins at 0" in user.refusals[-1]
    user.fill(page.amounts["bulking"], "1.4")
    assert user.project.digging.bulking == 1.4
    page.strata.item(0, 1).setText("0.4")
    assert user.project.digging.strata[0].thickness == 0.4
    assert len(user.project.digging.strata[2].boreholes) == 10
    page.strata.item(2, 2).setText("nowhere")
    assert "no surface" in user.refusals[-1]
    row = next(
        i for i in range(page.rates.rowCount()) if page.rates.item(i, 0).text() == "Manhole 1200"
    )
    page.rates.item(row, 2).setText("950")
    assert [(r.item, r.rate) for r in user.project.digging.rates] == [("Manhole 1200", 950.0)]


def test_the_takeoff_lights_up_what_is_in_a_row_and_takes_a_rate(trench):
    user = trench
    user.do("tables")
    drawer = user.window.centre.tables
    drawer.show_kind("quantities")
    user.settle()
    table, model = drawer.table, drawer.table.records
    row = next(i for i, item in enumerate(model.items) if item.name == "Gully 450")
    table.selectRow(row)
    assert user.session.state.chosen.structures == set(model.items[row].structures)
    rate = [c.head for c in model.table.columns].index("Rate")
    assert model.setData(model.index(row, rate), "180")
    assert user.project.digging.rates[0].rate == 180.0
    assert model.table.rows[row][rate + 1] == approx(22 * 180.0)
    assert (model.texts[row][4], model.texts[row][rate]) == ("22", "180.00")
    assert not model.setData(model.index(row, 0), "x")
    table.bar.by.setCurrentIndex(table.bar.by.findData("road"))
    table.bar.by.activated.emit(0)
    assert {i.group for i in model.items} >= {"Quillerby Rise", "Tansymoor Lane"}
    user.session.edit(
        "feet", lambda p, f: replace(p, settings=replace(p.settings, units=Units(system="us")))
    )
    user.settle()
    assert any(r[3] == "yd³" for r in model.table.rows)


def test_export_and_copy(trench, tmp_path):
    user = trench
    assert user.window.exchange.export_to(tmp_path / "q.xlsx")
    book = openpyxl.load_workbook(tmp_path / "q.xlsx")
    assert {"Takeoff", "From digging to filling", "Overlaps", "By depth", "By stratum"} <= set(
        book.sheetnames
    )
    assert user.window.exchange.export_to(tmp_path / "q.csv")  # a file a table
    assert {f.name for f in tmp_path.glob("*.csv")} == {
        f"q {name.lower()}.csv" for name in book.sheetnames
    }
    with open(tmp_path / "q takeoff.csv", newline="", encoding="utf-8") as f:
        written = list(csv.reader(f))
    assert written[0] == [c.value for c in book["Takeoff"][1]]
    button(user, "copy quantities").click()
    both = QApplication.clipboard().mimeData()
    assert [line.split("\t") for line in both.text().splitlines()] == written
    page = QTextDocument()
    page.setHtml(both.html())  # as a word processor takes it: one table with a cell for each
    (table,) = (f for f in page.rootFrame().childFrames() if isinstance(f, QTextTable))
    assert (table.rows(), table.columns()) == (len(written), len(written[0]))
    assert _cell_text(table, 1, 2) == written[1][2]


def test_files_beside_the_chosen_name_are_replaced_only_when_told(trench, tmp_path, monkeypatch):
    user, old, asked = trench, tmp_path / "q takeoff.csv", []
    old.write_text("mine")

    def answer(button):
        return lambda *a: asked.append(a[3]) or button

    monkeypatch.setattr("zumbert.app.exchanging.ask", answer(1))
    assert not user.window.exchange.export_to(tmp_path / "q.csv")
    assert old.read_text() == "mine" and asked == ["q takeoff.csv will be replaced."]
    assert [f.name for f in tmp_path.iterdir()] == [old.name]
    monkeypatch.setattr("zumbert.app.exchanging.ask", answer(0))
    assert user.window.exchange.export_to(tmp_path / "q.csv")
    assert old.read_text() != "mine"


def test_a_trench_type_goes_out_and_comes_in_again(trench, tmp_path, monkeypatch):
    user, file = trench, tmp_path / "type.toml"
    button_of(user, "Types").click()
    page = panel(user).pages[1]
    wanted, starts = user.project.trench_types[page.key], []
    monkeypatch.setattr(
        "zumbert.app.panels.recordacts.file_to_write", lambda *a: starts.append(a[3]) or file
    )
    monkeypatch.setattr("zumbert.app.panels.recordacts.file_to_read", lambda *a: file)
    button(user, "export trench type").click()
    assert starts[0].endswith(".toml")
    before = set(user.project.trench_types)
    button(user, "import trench type").click()
    (new,) = set(user.project.trench_types) - before
    assert replace(user.project.trench_types[new], id=wanted.id, name=wanted.name) == wanted
    file.write_text("width = [")
    button(user, "import trench type").click()
    assert len(user.project.trench_types) == len(before) + 1 and "type.toml" in user.refusals[-1]


def test_an_export_that_takes_long_is_cancelled(trench, tmp_path, monkeypatch):
    user, work = trench, trench.window.exchange.work

    def long(dug, tell):
        work.give_up()
        tell(0.5)

    monkeypatch.setattr("zumbert.analysis.quantities.full_quantities", long)
    assert not user.window.exchange.export_to(tmp_path / "q.xlsx")
    assert not (tmp_path / "q.xlsx").exists()
    assert "cancelled" in user.window.foot.hint.text()


def test_an_export_cancelled_while_it_writes_leaves_no_file(trench, tmp_path, monkeypatch):
    user, work = trench, trench.window.exchange.work
    monkeypatch.setattr(
        "zumbert.exchange.csv.csv.writer", lambda f: work.give_up() or csv.DictWriter(f, []).writer
    )
    assert not user.window.exchange.export_to(tmp_path / "q.csv")
    assert not list(tmp_path.iterdir())


def test_bands_and_trench_bottom_are_switched(trench):
    user = trench
    user.settle()
    roles = {m.role for m in user.in_section() if hasattr(m, "role")}
    assert {"trench-bottom", "depth-band", "stratum", "rock-section"} <= roles
    button(user, "chip bands").click()
    assert "depth-band" not in {m.role for m in user.in_section() if hasattr(m, "role")}
    button(user, "chip trench").click()
    roles = {m.role for m in user.in_section() if hasattr(m, "role")}
    assert not roles & {"trench-bottom", "stratum"}


def test_a_project_without_pipes_has_an_empty_cross_section(trench):
    user = trench
    user.session.edit(
        "nothing", lambda p, f: replace(p, pipes={}, structures={}, pins={}, runs={}, decisions={})
    )
    user.settle()
    application().processEvents()
    cross(user).grab()
    assert cross(user).shown() == []


def test_many_trenches_are_worked_out_with_progress_and_can_be_cancelled(user, monkeypatch):
    monkeypatch.setattr("zumbert.app.frame.AT_ONCE", 0)

    def slow(facts, tell):
        for i in range(2000):
            tell(i / 2000)
            QTest.qSleep(5)

    whole = user.session.dug
    monkeypatch.setattr(user.session, "dug", slow)
    QTimer.singleShot(700, user.window.foot.give_up.click)
    user.do("trench")
    assert user.session.state.look.stage.id == "levels"
    assert user.window.foot.hint.text() == "Trenches: cancelled, nothing was changed."
    monkeypatch.setattr(user.session, "dug", whole)
    user.do("trench")
    assert user.session.state.look.stage.id == "trench"
    assert len(user.session.state.dug.trenches.pipes) == len(user.project.pipes)


def test_the_net_volume_is_given_up_and_begun_again_by_the_next_change(trench, monkeypatch):
    user = trench
    wait_for_net(user)

    def slow(dug, tell):
        for i in range(2000):
            tell(i / 2000)
            QTest.qSleep(5)

    monkeypatch.setattr("zumbert.app.netwatch.union", slow)
    pipe = user.pipe("S4", "S3")

    def lower(by):
        lower = replace(pipe, invert_down=pipe.invert_down - by)
        user.session.edit("Lower", lambda p, f: replace(p, pipes={**p.pipes, pipe.id: lower}))

    lower(0.05)
    for _ in range(100):
        QTest.qWait(20)
        if user.window.foot.give_up.isVisible():
            break
    assert "Net volumes" in user.window.foot.hint.text()
    user.window.foot.give_up.click()
    user.settle()
    assert not user.window.foot.give_up.isVisible()
    assert figures(user)["Net excavation"].value.startswith("≈")
    monkeypatch.setattr("zumbert.app.netwatch.union", union)
    lower(0.06)
    wait_for_net(user)
    assert not figures(user)["Net excavation"].value.startswith("≈")
    assert not any(figures(user)[n].value.startswith("≈") for n in BY_NET)
