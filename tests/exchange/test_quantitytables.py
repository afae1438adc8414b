"""Quantities in tables, and a spreadsheet that works its totals out again."""

import re
import shutil
import subprocess

import openpyxl
import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, with_pipe, with_structure
from zumbert.analysis.quantities import full_quantities
from zumbert.analysis.takeoff import takeoff
from zumbert.analysis.trench import trenches
from zumbert.demo.project import demo_project
from zumbert.exchange.quantitytables import quantity_tables, takeoff_table
from zumbert.exchange.quantitytext import as_text, quantity_lines
from zumbert.exchange.xlsx import column_letter, write_xlsx
from zumbert.model.digging import Rate
from zumbert.model.display import Units

DEMO = demo_project()
PRICED = replace(DEMO, digging=replace(DEMO.digging, carriageway=0.35, rates=(
    Rate(item="Excavation", unit="m³", rate=14.5), Rate(item="Gully 450", unit="", rate=180.0),
)))  # fmt: skip


def tables(project):
    facts = facts_of(project)
    return facts, full_quantities(trenches(facts))


@pytest.fixture(scope="module")
def written(tmp_path_factory):
    path = tmp_path_factory.mktemp("q") / "q.xlsx"
    facts, q = tables(PRICED)
    write_xlsx(path, quantity_tables(facts, q))
    return path, q


class Sheet:
    """Works formulas out as a spreadsheet does: sums, sums by status, products and differences."""

    def __init__(self, book, values):
        self.book, self.values = book, values

    def cell(self, sheet, name):
        value = self.book[sheet][name].value
        return (
            self.work(sheet, value[1:])
            if isinstance(value, str) and value.startswith("=")
            else value or 0.0
        )

    def column(self, sheet, letter):
        return [self.cell(sheet, f"{letter}{i}") for i in range(1, self.book[sheet].max_row + 1)]

    def work(self, sheet, text):
        def ifs(m):
            of, by, word = m.group(1), m.group(2), m.group(3)
            other, a = re.match(r"'(.+)'!(\w+):", of).groups()
            b = re.match(r"'.+'!(\w+):", by).group(1)
            rows = zip(self.column(other, a), self.column(other, b), strict=True)
            return repr(float(sum(v for v, k in rows if k == word and isinstance(v, (int, float)))))

        text = re.sub(r"SUMIFS\(('[^']+'!\w+:\w+),('[^']+'!\w+:\w+),\"(\w+)\"\)", ifs, text)

        def total(m):
            column, first, last = m.group(1), int(m.group(2)), int(m.group(3))
            return repr(
                float(sum(self.cell(sheet, f"{column}{i}") for i in range(first, last + 1)))
            )

        text = re.sub(r"SUM\(([A-Z]+)(\d+):[A-Z]+(\d+)\)", total, text)
        text = re.sub(
            r"\b([A-Z]{1,2}\d+)\b", lambda m: repr(float(self.cell(sheet, m.group(1)))), text
        )
        assert re.fullmatch(r"[\d.e+*() -]+", text), text
        return eval(text)


def formulas(path):
    """Each formula of a workbook, with the value that was written beside it."""
    book, values = openpyxl.load_workbook(path), openpyxl.load_workbook(path, data_only=True)
    for sheet in book:
        for row in sheet.iter_rows():
            for c in row:
                if isinstance(c.value, str) and c.value.startswith("="):
                    yield (
                        sheet.title,
                        c.coordinate,
                        c.value,
                        values[sheet.title][c.coordinate].value,
                        Sheet(book, values),
                    )


def test_every_formula_gives_the_total_that_stands_there(written):
    path, _ = written
    found = list(formulas(path))
    assert len(found) > 40
    for sheet, at, text, value, reader in found:
        assert reader.work(sheet, text[1:]) == approx(value, abs=1e-6), (sheet, at, text)


def test_the_balance_stands_in_the_spreadsheet(written):
    path, q = written
    rows = {
        (r[0].value, r[1].value): r[2].value
        for r in openpyxl.load_workbook(path, data_only=True)["From digging to filling"]
    }
    t = q.totals["proposed"]
    assert rows["proposed", "Net excavation"] == approx(t.excavation_net)
    assert rows["proposed", "Backfill"] == approx(t.backfill)
    assert rows["proposed", "Surplus, loose"] == approx(t.surplus)


@pytest.mark.skipif(shutil.which("soffice") is None, reason="no office program here")
def test_an_office_program_works_out_the_same(written, tmp_path):
    path, _ = written
    run = [
        "soffice",
        "--headless",
        f"-env:UserInstallation=file://{tmp_path}/profile",
        "--convert-to",
        "xlsx:Calc MS Excel 2007 XML",
        "--outdir",
        str(tmp_path),
        str(path),
    ]
    subprocess.run(run, check=True, capture_output=True, timeout=180)
    again = openpyxl.load_workbook(tmp_path / "q.xlsx", data_only=True)
    for sheet, at, text, value, _ in formulas(path):
        assert again[sheet][at].value == approx(value, abs=1e-6), (sheet, at, text)


def test_numbers_are_numbers_and_totals_stand_under_their_columns(written):
    path, q = written
    sheet = openpyxl.load_workbook(path)["Trenches"]
    heads = [c.value for c in sheet[1]]
    column = heads.index("Excavation (m³)") + 1
    assert isinstance(sheet.cell(2, column).value, float)
    assert sheet.cell(sheet.max_row, 1).value == "Total"
    letter = column_letter(column - 1)
    assert sheet.cell(sheet.max_row, column).value == f"=SUM({letter}2:{letter}{len(q.pipes) + 1})"


def test_letters_of_columns():
    assert [column_letter(i) for i in (0, 25, 26, 51, 52, 701, 702)] == [
        "A",
        "Z",
        "AA",
        "AZ",
        "BA",
        "ZZ",
        "AAA",
    ]


def test_the_takeoff_as_text_for_a_word_processor():
    facts, q = tables(PRICED)
    text = as_text(takeoff_table(facts, takeoff(facts, q)))
    head, *lines = text.rstrip("\n").split("\n")
    assert head.split("\t")[:5] == ["Group", "Status", "Item", "Unit", "Quantity"]
    assert all(line.count("\t") == head.count("\t") for line in lines)
    [gully] = [line.split("\t") for line in lines if "Gully 450" in line]
    assert gully[4] == "22.00"
    assert gully[-2:] == ["180.00", "3960.00"]


def test_in_us_units_a_rate_is_for_a_cubic_yard():
    us = replace(PRICED, settings=replace(PRICED.settings, units=Units(system="us")))
    table = quantity_tables(*tables(us))[-2]
    heads = [c.head for c in table.columns]
    row = next(r for r in table.rows if r[2] == "Excavation")
    assert row[3] == "yd³"
    metric = next(r for r in quantity_tables(*tables(PRICED))[-2].rows if r[2] == "Excavation")
    assert row[4] == approx(metric[4] / 0.764554857984)
    assert row[heads.index("Sum")] == approx(metric[heads.index("Sum")])
    assert row[heads.index("Rate")] * row[4] == approx(row[heads.index("Sum")])


def test_the_lines_of_the_command_line():
    facts, q = tables(DEMO)
    lines = list(quantity_lines(facts, q, takeoff(facts, q)))
    assert any("trenches by sections (" in line for line in lines)
    assert lines[0] == "proposed:"
    assert any("net excavation" in line and "1317.1 m³" in line for line in lines)
    assert "  nothing of it is dug" in lines
    assert any(line.strip().startswith("Storm: Gully 450, proposed") for line in lines)


def test_a_pipe_that_is_not_counted_says_why():
    p = with_structure(chain([(48.0, 47.5)]), "S9", 20_000.0)  # beyond the ground
    facts, q = tables(with_pipe(p, "P9", "S9", "S2", 48.0, 47.0))
    [trench] = [t for t in quantity_tables(facts, q) if t.name == "Trenches"]
    told = {row[0]: row[-1] for row in trench.rows}
    assert told["P1"] is None and told["P9"]
