"""A report on pages of A4 across: a title with its contents, then its parts, each heading on a
page of its own.
"""

from collections.abc import Iterator
from typing import NamedTuple

from zumbert.delivery.paper import Box, Page, large, line
from zumbert.delivery.report.content import Figure, Report, ReportPart
from zumbert.delivery.tablesheets import TITLE, Block, blocks, table_height, table_marks
from zumbert.drawing.marks import Inset, Mark, Stroke, Text, points
from zumbert.model.ids import SheetId
from zumbert.model.sheet import Delivery

WIDTH, HEIGHT, EDGE = 297.0, 210.0, 15.0  # mm
ROW, NAMES = 17.0, 260.0  # units: a value, and the column of its name


class _Sheet(NamedTuple):
    """The marks of one page under its heading, and the heading that it belongs to."""

    title: str
    marks: list[Mark]


def report_pages(made: Report, delivery: Delivery, unit: float) -> list[Page]:
    """All pages; the first has the title and the contents with page numbers."""
    box = Box(EDGE / unit, EDGE / unit, (WIDTH - 2 * EDGE) / unit, (HEIGHT - 2 * EDGE) / unit)
    inner = box.inside(0, 56.0, 0, 30.0)
    sheets = [s for part in made.parts for s in _part(part, inner)]
    first: dict[str, int] = {}
    for i, s in enumerate(sheets):
        first.setdefault(s.title, i + 2)
    whole = [_Sheet("", _title_page(made, delivery, box, first)), *sheets]
    out = []
    for i, s in enumerate(whole):
        marks: list[Mark] = list(s.marks)
        if i:
            marks.append(large(delivery, s.title, box.x, box.y + 22.0, box.width))
            marks.append(
                Stroke("sheet-line", points((box.x, box.y + 34.0), (box.right, box.y + 34.0)))
            )
        marks.append(line("sheet-name", made.title, box.x, box.bottom, box.width - 200.0))
        words = f"Page {i + 1} of {len(whole)}"
        marks.append(Text("sheet-name", words, box.right, box.bottom, "right"))
        out.append(
            Page(SheetId(""), s.title or made.title, str(i + 1), WIDTH, HEIGHT, unit, tuple(marks))
        )
    return out


def _title_page(made: Report, delivery: Delivery, box: Box, first: dict[str, int]) -> list[Mark]:
    """Title, dates and who, and the contents."""
    marks: list[Mark] = [
        large(delivery, made.title, box.x, box.y + 60.0, box.width, 2.0),
        large(delivery, "Storm drainage: report", box.x, box.y + 96.0, box.width),
    ]
    told = (
        ("Date", made.date),
        ("Revision", made.revision),
        ("Drawn", made.drawn),
        ("Checked", made.checked),
    )
    y = box.y + 140.0
    for name, value in told:
        if value:
            marks += [
                line("sheet-name", name, box.x, y, 120.0),
                line("sheet-strong", value, box.x + 130.0, y, 400.0),
            ]
            y += ROW
    y += 20.0
    marks.append(large(delivery, "Contents", box.x, y, box.width))
    for title, n in first.items():
        y += ROW
        marks += [
            line("sheet", title, box.x, y, 400.0),
            Text("sheet", str(n), box.x + 440.0, y, "right"),
        ]
    return marks


def _part(part: ReportPart, box: Box) -> Iterator[_Sheet]:
    """The pages of one heading: values and words, then tables, then pictures."""
    marks: list[Mark] = []
    y = box.y
    if part.words:
        marks.append(line("sheet", part.words, box.x, y + 14.0, box.width))
        y += 30.0
    for name, value in part.values:
        if y + ROW > box.bottom:
            yield _Sheet(part.title, marks)
            marks, y = [], box.y
        marks.append(line("sheet-name", name, box.x, y + 13.0, NAMES - 10.0))
        marks.append(line("sheet", value, box.x + NAMES, y + 13.0, box.width - NAMES))
        y += ROW
    for table in part.tables:
        for block in blocks(table, box.width, box.height):
            need = TITLE + table_height(block)
            if marks and y + need > box.bottom:
                yield _Sheet(part.title, marks)
                marks, y = [], box.y
            marks += _table(block, box, y)
            y += need + 24.0
    for figure in part.figures:
        scale = min(1.0, box.width / figure.width, (box.height - 24.0) / figure.height)
        need = figure.height * scale + 24.0
        if marks and y + need > box.bottom:
            yield _Sheet(part.title, marks)
            marks, y = [], box.y
        marks += _figure(figure, box.x, y, scale)
        y += need + 16.0
    yield _Sheet(part.title, marks)


def _table(block: Block, box: Box, y: float) -> list[Mark]:
    title = block.table.name
    if block.parts > 1:
        title = f"{title}, part {block.part} of {block.parts}"
    return [
        line("sheet-strong", title, box.x, y + 18.0, box.width),
        *table_marks(block, box.x, y + TITLE),
    ]


def _figure(figure: Figure, x: float, y: float, scale: float) -> list[Mark]:
    tall = figure.height * scale
    picture = Inset(figure.marks, x, y, figure.width * scale, tall, scale)
    return [picture, line("sheet-name", figure.words, x, y + tall + 16.0, 800.0)]
