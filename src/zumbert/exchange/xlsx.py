"""Tables to a spreadsheet: one sheet a table, numbers as numbers, units in the heads."""

from collections.abc import Sequence
from pathlib import Path

from zumbert.errors import ReadError
from zumbert.exchange.tables import Column, Table
from zumbert.fields import CellValue


def write_xlsx(path: str | Path, tables: Sequence[Table]) -> None:
    """Tables to one workbook. Texts stay texts, whatever they begin with. Raises ReadError if it cannot be written."""
    import xlsxwriter
    from xlsxwriter.exceptions import XlsxWriterException

    options = {"strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False}
    try:
        with xlsxwriter.Workbook(str(path), options) as book:
            head = book.add_format({"bold": True, "bottom": 1, "text_wrap": True, "valign": "top"})
            for table in tables:
                sheet = book.add_worksheet(table.name)
                sheet.freeze_panes(1, 1)
                for i, column in enumerate(table.columns):
                    sheet.write_string(0, i, column.title, head)
                    sheet.set_column(i, i, _width(table, i), _format(book, column))
                    for j, row in enumerate(table.rows, 1):
                        _write(sheet, j, i, row[i])
    except (OSError, XlsxWriterException) as e:
        raise ReadError(f"{path} could not be written: {e}. Close it elsewhere, or choose another folder.") from e


def _format(book: object, column: Column) -> object:
    if column.of == "text":
        return None
    zeros = "0." + "0" * column.decimals if column.decimals else "0"
    return book.add_format({"num_format": zeros})  # type: ignore[attr-defined]


def _write(sheet: object, row: int, column: int, value: CellValue) -> None:
    if isinstance(value, str):
        sheet.write_string(row, column, value)  # type: ignore[attr-defined]
    elif value is not None:
        sheet.write_number(row, column, value)  # type: ignore[attr-defined]


def _width(table: Table, i: int) -> float:
    texts = [row[i] for row in table.rows if isinstance(row[i], str)]
    longest = max((len(t) for t in texts if isinstance(t, str)), default=0)
    return min(60, max(11, longest + 2, len(table.columns[i].title) * 0.7))
