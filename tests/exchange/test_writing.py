import csv
from xml.etree import ElementTree

import openpyxl
import pytest
from msgspec.structs import replace

from tests.build import chain, facts_of
from zumbert.analysis.quantities import quantities
from zumbert.analysis.trench import trenches
from zumbert.checks import check
from zumbert.errors import ReadError
from zumbert.exchange.csv import write_csv
from zumbert.exchange.quantitytables import quantity_tables
from zumbert.exchange.svg import write_svg
from zumbert.exchange.tables import finding_table, pipe_table, structure_table
from zumbert.exchange.xlsx import write_xlsx

RUN = chain([(48.0, 47.5), (47.49, 46.9)])


def tables(project):
    facts = facts_of(project)
    q = quantities(trenches(facts))
    return (
        structure_table(facts),
        pipe_table(facts),
        finding_table(facts, check(project, facts)),
        *quantity_tables(facts, q),
    )


def test_one_sheet_a_table_numbers_as_numbers_units_in_the_heads(tmp_path):
    write_xlsx(tmp_path / "a.xlsx", tables(RUN))
    book = openpyxl.load_workbook(tmp_path / "a.xlsx")
    assert book.sheetnames == [
        "Structures",
        "Pipes",
        "Findings",
        "Trenches",
        "Pits",
        "Totals by size",
        "From digging to filling",
        "By depth",
        "By stratum",
        "Overlaps",
        "Takeoff",
        "Lengths on four bases",
    ]
    sheet = book["Pipes"]
    heads = [c.value for c in sheet[1]]
    row = dict(zip(heads, [c.value for c in sheet[2]], strict=True))
    assert row["Invert up (m)"] == 48.0
    assert row["Slope (%)"] == pytest.approx(1.0)
    assert isinstance(row["Wall plan (m)"], float)
    assert sheet.cell(2, heads.index("Invert up (m)") + 1).number_format == "0.000"
    dug = book["Trenches"]
    column = [c.value for c in dug[1]].index("Excavation (m³)") + 1
    facts = facts_of(RUN)
    assert dug.cell(2, column).value == pytest.approx(trenches(facts).pipes["P1"].excavation)
    totals = [[c.value for c in r] for r in book["Totals by size"].iter_rows(min_row=2)]
    assert [t[1] for t in totals] == ["DN 300", "Chamber pits", "Total"]


@pytest.mark.parametrize("label", ["=1+1", "+SUM(A1)", "-x", "@y"])
def test_a_label_is_never_a_formula(tmp_path, label):
    p = replace(
        RUN, structures={**RUN.structures, "S1": replace(RUN.structures["S1"], label=label)}
    )
    write_xlsx(tmp_path / "a.xlsx", tables(p))
    cell = openpyxl.load_workbook(tmp_path / "a.xlsx")["Structures"].cell(2, 1)
    assert (cell.value, cell.data_type) == (label, "s")
    write_csv(tmp_path / "a.csv", structure_table(facts_of(p)))
    with open(tmp_path / "a.csv", encoding="utf-8") as f:
        assert list(csv.reader(f))[1][0] == "'" + label


def test_csv_is_rounded_to_what_is_shown(tmp_path):
    write_csv(tmp_path / "p.csv", pipe_table(facts_of(RUN)))
    with open(tmp_path / "p.csv", encoding="utf-8") as f:
        head, row, *_ = csv.reader(f)
    assert row[head.index("Invert up (m)")] == "48.000"
    assert row[head.index("DN (mm)")] == "300"


def test_a_folder_that_is_not_there_is_said(tmp_path):
    for write in (
        lambda p: write_csv(p, pipe_table(facts_of(RUN))),
        lambda p: write_xlsx(p, tables(RUN)),
        lambda p: write_svg(p, [], 1, 1),
    ):
        with pytest.raises(ReadError, match="could not be written"):
            write(tmp_path / "no" / "where")


def test_the_svg_holds_every_mark(tmp_path):
    from zumbert.demo.example import draw_section
    from zumbert.demo.project import demo_project

    draw_section(demo_project(), tmp_path / "s.svg")
    root = ElementTree.parse(tmp_path / "s.svg").getroot()
    texts = {t.text for t in root.iter("{http://www.w3.org/2000/svg}text")}
    assert {"S5", "HW1", "Invert out", "Existing ground"} <= texts
    assert any("Cover 0.86" in (t or "") for t in texts)
