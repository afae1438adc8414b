"""Quantities in lines of text, for the command line and for the clipboard."""

from collections.abc import Iterable, Iterator
from html import escape

from zumbert.analysis.facts import Facts
from zumbert.analysis.quantities import Quantities, Total
from zumbert.analysis.takeoff import Item
from zumbert.exchange.tables import Column, Table, cell_text
from zumbert.fields import CellValue
from zumbert.model.digging import Digging
from zumbert.model.display import number
from zumbert.model.typed import MINUS


def quantity_lines(facts: Facts, q: Quantities, items: Iterable[Item]) -> Iterator[str]:
    """Totals by status with how they balance, and the takeoff."""
    u = facts.units

    def line(words: str, value: str, long: str = "") -> str:
        return f"  {words:<34} {long:>12} {value:>12}"

    for status, t in q.totals.items():
        yield f"{status}:"
        for dn, (long, dug) in t.by_dn.items():
            yield line(u.dn(dn), f"{u.volume(dug)} {u.m3}", f"{u.length(long)} {u.m}")
        if not t.excavation and not t.not_counted:
            yield "  nothing of it is dug"
            continue
        yield line("chamber pits", f"{u.volume(t.pits)} {u.m3}")
        yield line("excavation", f"{u.volume(t.excavation)} {u.m3}")
        for words, value in balance(t):
            yield line(words, f"{u.volume(value)} {u.m3}")
        if q.centres_add is not None:
            yield line(
                "trenches to centres add", f"{u.volume(q.centres_add.get(status, 0.0))} {u.m3}"
            )
        if t.by_sections is not None and t.trenches:
            off = number((t.by_sections / t.trenches - 1) * 100, 2, signed=True)
            yield line(f"trenches by sections ({off} %)", f"{u.volume(t.by_sections)} {u.m3}")
        for name, value in t.by_depth.items():
            yield line(
                f"{Digging.band_words(name, u.metres)} {u.m} deep", f"{u.volume(value)} {u.m3}"
            )
        for name, value in t.by_stratum.items():
            yield line(f"in {name}", f"{u.volume(value)} {u.m3}")
        if t.not_counted:
            yield "  incomplete, not counted: " + ", ".join(
                f"{k} ({why})" for k, why in t.not_counted.items()
            )
    for i in items:
        shown = (
            u.volume(i.quantity)
            if i.unit == "m³"
            else u.length(i.quantity)
            if i.unit == "m"
            else f"{i.quantity:.0f}"
        )
        unit = {"m³": u.m3, "m": u.m}.get(i.unit, i.unit)
        yield line(
            f"{i.group}: {i.name}, {i.status}" if i.group else f"{i.name}, {i.status}",
            f"{shown} {unit}".rstrip(),
        )


def balance(t: Total) -> list[tuple[str, float]]:
    """From the gross excavation to what is carted away, as it is told."""
    return [
        ("less shared space", -t.shared),
        ("net excavation", t.excavation_net),
        ("less bedding", -t.bedding),
        ("less surround", -t.surround),
        ("less pipes", -t.pipes),
        ("less chambers", -t.chambers),
        ("less reinstatement", -t.reinstatement),
        ("backfill", t.backfill),
        ("surplus, loose", t.surplus),
    ]


def as_text(table: Table) -> str:
    """A table as text with tabs between its cells, as word processors and spreadsheets paste it."""
    head = "\t".join(c.title for c in table.columns)
    rows = (
        "\t".join(_cell(c, v) for v, c in zip(row, table.columns, strict=True))
        for row in table.rows
    )
    return "\n".join([head, *rows]) + "\n"


def as_html(table: Table) -> str:
    """A table as HTML, which word processors paste as a table; numbers stand at the right."""

    def row(tag: str, cells: Iterable[str]) -> str:
        sides = ("left" if c.of is None else "right" for c in table.columns)
        cells = (
            f'<{tag} align="{side}">{escape(text)}</{tag}>'
            for text, side in zip(cells, sides, strict=True)
        )
        return f"<tr>{''.join(cells)}</tr>"

    rows = (
        row("td", (_cell(c, v) for v, c in zip(r, table.columns, strict=True))) for r in table.rows
    )
    return "\n".join(
        [
            '<table border="1" cellspacing="0">',
            row("th", (c.title for c in table.columns)),
            *rows,
            "</table>\n",
        ]
    )


def _cell(column: Column, value: CellValue) -> str:
    """With a hyphen for a minus, which a spreadsheet reads."""
    return (
        value.replace("\t", " ")
        if isinstance(value, str)
        else cell_text(column, value).replace(MINUS, "-")
    )
