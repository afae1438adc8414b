"""Tables set out on paper: as wide as their words, as many columns as fit, over as many pages as
they need.
"""

from collections.abc import Iterator
from typing import NamedTuple

from zumbert.delivery.job import Job
from zumbert.delivery.paper import Box, large, line, shortened
from zumbert.delivery.schedules import schedules
from zumbert.drawing.marks import Fill, Inset, Mark, Segments, Stroke, Target, Text, points
from zumbert.drawing.style import text_width
from zumbert.exchange.tables import Column, Table, cell_text
from zumbert.model.sheet import Sheet

ROW, TITLE = 17.0, 34.0  # units
PAD = 6.0
WIDEST = 330.0  # units of a column; longer texts go over several lines
SMALLEST = 0.62  # no table is drawn smaller to fit
FAR = 1e5
PLACED = 0.5  # share of a drawing's width that a table on it may take
USUAL = ("structures", "pipes")


class Block(NamedTuple):
    """Rows of a table that stand on one page under each other, and from which column on."""

    table: Table
    rows: tuple[tuple[str, ...], ...]
    columns: tuple[int, ...]
    widths: tuple[float, ...]
    part: int
    parts: int
    scale: float = 1.0  # that it is drawn at


def blocks(table: Table, width: float, height: float) -> list[Block]:
    """A table in pages of a size (units). One that is a little too wide is drawn smaller; of wider
    ones the columns that do not fit beside the first go on to pages of their own.
    """
    texts = [
        tuple(cell_text(c, v) for c, v in zip(table.columns, row, strict=True))
        for row in table.rows
    ]
    wide = [_width(c, [t[i] for t in texts]) for i, c in enumerate(table.columns)]
    scale = min(1.0, width / max(sum(wide), 1.0))
    scale = 1.0 if scale < SMALLEST else scale
    width, height = width / scale + 1e-6, height - TITLE
    groups: list[list[int]] = [[]]
    left = width
    for i, w in enumerate(wide):
        if groups[-1] and left < w:
            groups.append([0])
            left = width - wide[0]
        groups[-1].append(i)
        left -= w
    head = _head_lines(table, wide) * 13.0 + 10.0
    many = max(1, int((height / scale - head) // ROW))
    pages = [texts[i : i + many] for i in range(0, max(1, len(texts)), many)]
    made = [(tuple(rows), tuple(group)) for group in groups for rows in pages]
    return [
        Block(table, rows, group, tuple(wide[i] for i in group), i + 1, len(made), scale)
        for i, (rows, group) in enumerate(made)
    ]


def _width(column: Column, texts: list[str]) -> float:
    head = max((text_width(w, "sheet-strong") for w in column.title.split()), default=0.0)
    body = max((text_width(t, "sheet") for t in texts), default=0.0)
    return min(WIDEST, max(head, body, 24.0)) + 2 * PAD


def _wrapped(title: str, width: float) -> list[str]:
    """A head in lines of a width."""
    lines: list[str] = []
    for word in title.split():
        if lines and text_width(f"{lines[-1]} {word}", "sheet-strong") <= width:
            lines[-1] += f" {word}"
        else:
            lines.append(word)
    return lines


def _head_lines(table: Table, wide: list[float]) -> int:
    return max(
        (len(_wrapped(c.title, w - 2 * PAD)) for c, w in zip(table.columns, wide, strict=True)),
        default=1,
    )


def tables_of(job: Job, sheet: Sheet) -> list[Table]:
    """The tables of a sheet, unknown names left out."""
    return schedules(job, sheet.tables or USUAL)


def pages(job: Job, sheet: Sheet, box: Box) -> list[Block]:
    """Blocks of all tables of a sheet, each on a page."""
    inner = box.inside(10, 10, 10, 10)
    return [b for t in tables_of(job, sheet) for b in blocks(t, inner.width, inner.height)]


def placed(job: Job, sheet: Sheet, room: Box) -> list[Mark]:
    """The tables that stand on a drawing, in its lower right corner, the first lowest; as much
    of each as there is room for.
    """
    out: list[Mark] = []
    bottom = room.bottom - 10.0
    for table in schedules(job, sheet.tables):
        block = blocks(table, PLACED * room.width, bottom - room.y - 20.0)[0]
        wide, tall = sum(block.widths) * block.scale, table_height(block)
        box = Box(room.right - wide - 10.0, bottom - tall, wide, tall)
        if box.y < room.y + TITLE:
            break
        more = len(table.rows) - len(block.rows)
        words = table.name + (f", {more} rows more elsewhere" if more else "")
        under = box.inside(-4.0, -20.0, -4.0, -4.0)
        out += [
            Fill("paper", under.xy, "sheet-line"),
            line("sheet-strong", words, box.x + 2, box.y - 6.0, wide),
        ]
        out += table_marks(block, box.x, box.y)
        bottom = under.y - 8.0
    return out


def compose(job: Job, block: Block, box: Box) -> tuple[list[Mark], list[Target]]:
    """The marks of one page."""
    inner = box.inside(10, 10, 10, 10)
    title = block.table.name
    if block.parts > 1:
        title = f"{title}, part {block.part} of {block.parts}"
    marks: list[Mark] = [large(job.project.delivery, title, inner.x, inner.y + 18.0, inner.width)]
    marks += table_marks(block, inner.x, inner.y + TITLE)
    return marks, []


def table_height(block: Block) -> float:
    """Height of heads and rows, units."""
    return (_head_height(block) + ROW * len(block.rows)) * block.scale


def _head_height(block: Block) -> float:
    return (
        _head_lines(block.table, [_full(block, i) for i in range(len(block.table.columns))]) * 13.0
        + 10.0
    )


def table_marks(block: Block, x: float, y: float) -> list[Mark]:
    """Heads and rows from a place on."""
    marks = _set_out(block, x / block.scale, y / block.scale)
    if block.scale == 1.0:
        return list(marks)
    return [
        Inset(
            (Inset(tuple(marks), -x / block.scale, -y / block.scale, FAR, FAR),),
            x,
            y,
            FAR,
            FAR,
            block.scale,
        )
    ]


def _set_out(block: Block, x: float, y: float) -> Iterator[Mark]:
    columns = [block.table.columns[i] for i in block.columns]
    wide = list(block.widths)
    total = sum(wide)
    lines = [_wrapped(c.title, w - 2 * PAD) for c, w in zip(columns, wide, strict=True)]
    head = _head_height(block)
    yield Fill("chrome", points((x, y), (x + total, y), (x + total, y + head), (x, y + head)))
    at = x
    for column, w, words in zip(columns, wide, lines, strict=True):
        for j, word in enumerate(words):
            yield _placed("sheet-strong", word, column, at, w, y + 14.0 + 13.0 * j)
        at += w
    bottom = y + head + ROW * len(block.rows)
    for k, row in enumerate(block.rows):
        base = y + head + ROW * k
        at = x
        for i, column, w in zip(block.columns, columns, wide, strict=True):
            if row[i]:
                yield _placed("sheet", row[i], column, at, w, base + 12.5)
            at += w
    ys = [y + head + ROW * k for k in range(len(block.rows) + 1)]
    yield Segments(
        "sheet-rule", points(*((a, v) for v in ys for a in (x, x + total))).reshape(-1, 4)
    )
    yield Stroke(
        "sheet-line", points((x, y), (x + total, y), (x + total, bottom), (x, bottom)), closed=True
    )


def _full(block: Block, i: int) -> float:
    """The width of a column of the whole table; of those on other pages that of the widest word
    is enough.
    """
    if i in block.columns:
        return block.widths[block.columns.index(i)]
    return _width(block.table.columns[i], [])


def _placed(role: str, text: str, column: Column, x: float, width: float, y: float) -> Mark:
    """A text in its column: numbers to the right, texts to the left."""
    shown, squeeze = shortened(text, role, width - 2 * PAD)
    if column.of is not None:
        return Text(role, shown, x + width - PAD, y, "right", squeeze=squeeze)
    return Text(role, shown, x + PAD, y, squeeze=squeeze)
