"""Quantities as tables: trenches, pits, totals that balance, depth bands, strata, overlaps and
the takeoff.
"""

from collections.abc import Iterable

from zumbert.analysis.facts import Facts
from zumbert.analysis.quantities import PipeRow, Quantities, Total
from zumbert.analysis.takeoff import Depth, Grouping, Item, priced, takeoff
from zumbert.exchange.tables import Column, Formula, Table, in_units, text_column
from zumbert.exchange.xlsx import column_letter
from zumbert.fields import CellValue
from zumbert.model.digging import Digging
from zumbert.model.display import Units
from zumbert.model.project import LENGTH_BASES
from zumbert.model.quantity import DN, LENGTH, LEVEL, NUMBER, RATIO, SQUARE, VOLUME

Row = tuple[CellValue, ...]


def quantity_tables(
    facts: Facts, q: Quantities, by: Grouping = "network", to: Depth = "invert"
) -> tuple[Table, ...]:
    """Trenches by pipe, pits by structure, totals, each split by status; and the takeoff."""
    how, items = facts.project.digging, takeoff(facts, q, by, to)
    names = list(dict.fromkeys(n for r in (*q.pipes, *q.structures) for n in r.by_stratum))
    u = facts.units
    trenches, pits = _trenches(q, how, names, u), _pits(q, how, names, u)
    tables = (
        trenches,
        pits,
        _by_size(facts, q),
        _balance(q, how),
        _by_depth(q, how, u),
        _by_stratum(q, names),
        _overlaps(facts, q),
        takeoff_table(facts, items),
        _bases(facts, items),
    )
    return tuple(in_units(t, facts.units) for t in tables)


def _parts(how: Digging, names: list[str], u: Units) -> list[Column]:
    bands = [
        Column(f"Dug {how.band_words(n, u.metres)} {u.m} deep", VOLUME) for n in how.band_names
    ]
    return bands + [Column(f"In {n}", VOLUME) for n in names]


def _trenches(q: Quantities, how: Digging, names: list[str], u: Units) -> Table:
    columns = (
        text_column("Pipe"),
        text_column("From"),
        text_column("To"),
        text_column("Network"),
        text_column("Status"),
        Column("DN", DN),
        Column(f"Length, {q.basis.replace('-', ' ')}", LENGTH),
        Column("Trench", LENGTH),
        Column("Excavation", VOLUME),
        Column("Bedding", VOLUME),
        Column("Pipe", VOLUME),
        Column("Backfill", VOLUME),
        Column("Fill first", LENGTH),
        Column("Fill", VOLUME),
        Column("Surround", VOLUME),
        Column("By sections", VOLUME),
        Column("Shared space", VOLUME),
        Column("Side support", SQUARE),
        *_parts(how, names, u),
        text_column("Not counted"),
    )
    rows = tuple(_trench(r, how, names) for r in q.pipes)
    numbers = tuple(i for i in range(6, len(columns) - 1) if i != 12)
    return Table(name="Trenches", columns=columns, rows=rows, sums=(*numbers[:6], 12, *numbers[6:]))


def _trench(r: PipeRow, how: Digging, names: list[str]) -> Row:
    none = r.excavation is None
    return (
        r.label,
        r.up,
        r.down,
        r.network,
        r.status,
        r.dn,
        r.length,
        r.trench_length,
        r.excavation,
        r.bedding,
        r.displacement,
        r.backfill,
        r.fill_first,
        r.fill,
        r.surround,
        r.by_sections,
        r.shared,
        r.support,
        *(None if none else r.by_depth.get(n, 0.0) for n in how.band_names),
        *(None if none else r.by_stratum.get(n, 0.0) for n in names),
        r.misfit or None,
    )


def _pits(q: Quantities, how: Digging, names: list[str], u: Units) -> Table:
    columns = (
        text_column("Structure"),
        text_column("Type"),
        text_column("Network"),
        text_column("Status"),
        Column("Depth", LEVEL),
        Column("Pit excavation", VOLUME),
        Column("Chamber", VOLUME),
        Column("Shared space", VOLUME),
        Column("Side support", SQUARE),
        *_parts(how, names, u),
        text_column("Not counted"),
    )
    rows = tuple(
        (
            r.label,
            r.type,
            r.network,
            r.status,
            r.depth,
            r.excavation,
            r.chamber,
            r.shared,
            r.support,
            *(None if r.excavation is None else r.by_depth.get(n, 0.0) for n in how.band_names),
            *(None if r.excavation is None else r.by_stratum.get(n, 0.0) for n in names),
            r.misfit or None,
        )
        for r in q.structures
    )
    return Table(name="Pits", columns=columns, rows=rows, sums=tuple(range(5, len(columns) - 1)))


def _by_size(facts: Facts, q: Quantities) -> Table:
    columns = (
        text_column("Status"),
        text_column("What"),
        Column(f"Length, {q.basis.replace('-', ' ')}", LENGTH),
        Column("Excavation", VOLUME),
        text_column("Not counted"),
    )
    rows: list[Row] = []
    for status, t in q.totals.items():
        first = len(rows) + 2
        rows += [
            (status, facts.units.dn(dn), long, dug, None) for dn, (long, dug) in t.by_dn.items()
        ]
        rows.append((status, "Chamber pits", None, t.pits, None))
        last = len(rows) + 1
        missing = ", ".join(f"{label} ({why})" for label, why in t.not_counted.items())
        long_, dug_ = (
            Formula(v, f"SUM({c}{first}:{c}{last})")
            for v, c in ((t.length, "C"), (t.excavation, "D"))
        )
        rows.append((status, "Total", long_, dug_, missing or None))
    return Table(name="Totals by size", columns=columns, rows=tuple(rows))


def _sum_of(table: str, column: int, of: int, status: str, value: float) -> Formula:
    """The sum of a column of a table over the rows of a status."""
    a, b = column_letter(column), column_letter(of)
    return Formula(value, f"SUMIFS('{table}'!{a}:{a},'{table}'!{b}:{b},\"{status}\")")


def _balance(q: Quantities, how: Digging) -> Table:
    """From digging to filling: each line follows from those above, by a formula."""
    columns = (
        text_column("Status"),
        text_column("What"),
        Column("Volume", VOLUME, 1),
        text_column("How"),
    )
    rows: list[Row] = []
    for status, t in q.totals.items():
        rows += _balance_of(status, t, how, len(rows) + 2)
    return Table(name="From digging to filling", columns=columns, rows=tuple(rows))


def _balance_of(status: str, t: Total, how: Digging, top: int) -> list[Row]:
    def c(i: int) -> str:
        return f"C{top + i}"

    shared = (
        f"-{_sum_of('Trenches', 16, 4, status, 0).text}-{_sum_of('Pits', 7, 3, status, 0).text}"
    )
    lines: list[tuple[str, float, str]] = [
        ("Trenches", _sum_of("Trenches", 8, 4, status, t.trenches), "each as it stands"),
        ("Chamber pits", _sum_of("Pits", 5, 3, status, t.pits), "each once"),
        (
            "less shared space",
            Formula(-t.shared, shared),
            "what two digs or more have in common, counted once",
        ),
        (
            "Net excavation",
            Formula(t.excavation_net, f"SUM({c(0)}:{c(2)})"),
            "the union of all trenches and pits, within 0.01 %",
        ),
        (
            "less bedding",
            Formula(-t.bedding, "-" + _sum_of("Trenches", 9, 4, status, 0).text),
            "between trench bottom and pipe",
        ),
        (
            "less surround",
            Formula(-t.surround, "-" + _sum_of("Trenches", 14, 4, status, 0).text),
            "beside and over the pipe",
        ),
        (
            "less pipes",
            Formula(-t.pipes, "-" + _sum_of("Trenches", 10, 4, status, 0).text),
            "their outside",
        ),
        (
            "less chambers",
            Formula(-t.chambers, "-" + _sum_of("Pits", 6, 3, status, 0).text),
            "their outside, base and all",
        ),
        ("less reinstatement", -t.reinstatement, "the layers on top, by kind of ground"),
        ("Backfill", Formula(t.backfill, f"SUM({c(3)}:{c(8)})"), "what is left"),
        ("Reused", Formula(t.reused, f"{c(9)}*{how.reuse!r}"), f"{how.reuse:.0%} of the backfill"),
        (
            "Surplus, loose",
            Formula(t.surplus, f"({c(3)}-{c(10)})*{how.bulking!r}"),
            f"bulked by {how.bulking:g}",
        ),
    ]
    return [(status, what, value, words) for what, value, words in lines]


def _by_depth(q: Quantities, how: Digging, u: Units) -> Table:
    columns = (
        text_column("Status"),
        text_column(f"Depth, {u.m}"),
        Column("Dug so deep", VOLUME),
        Column("Trench so deep", LENGTH),
    )
    rows = [
        (
            status,
            how.band_words(name, u.metres),
            t.by_depth.get(name, 0.0),
            t.length_by_depth.get(name, 0.0),
        )
        for status, t in q.totals.items()
        for name in how.band_names
    ]
    return Table(
        name="By depth",
        columns=columns,
        rows=tuple(rows),
        sums=(2, 3) if len(q.totals) == 1 else (),
    )


def _by_stratum(q: Quantities, names: list[str]) -> Table:
    columns = (text_column("Status"), text_column("Stratum"), Column("Excavation", VOLUME))
    rows = [(status, n, t.by_stratum.get(n, 0.0)) for status, t in q.totals.items() for n in names]
    return Table(
        name="By stratum",
        columns=columns,
        rows=tuple(rows),
        sums=(2,) if len(q.totals) == 1 else (),
    )


OVERLAP_WORDS = {
    "meet": "meet at a structure",
    "cross": "cross",
    "beside": "run beside each other",
    "pit": "trench and pit",
}


def _overlaps(facts: Facts, q: Quantities) -> Table:
    columns = (
        text_column("First"),
        text_column("Second"),
        text_column("How"),
        Column("Shared space", VOLUME, 1),
    )
    labels: dict[str, str] = {k: p.label for k, p in facts.project.pipes.items()}
    labels |= {k: s.label for k, s in facts.project.structures.items()}
    rows = [(labels[o.a], labels[o.b], OVERLAP_WORDS[o.kind], o.volume) for o in q.overlaps]
    return Table(name="Overlaps", columns=columns, rows=tuple(rows))


def takeoff_table(facts: Facts, items: Iterable[Item], rates: bool | None = None) -> Table:
    """One row an item, with its depth bands; rate and sum where rates are given, or (`rates`)
    are asked for.
    """
    how, u = facts.project.digging, facts.units
    priced_too = bool(how.rates) if rates is None else rates
    columns = [
        text_column("Group"),
        text_column("Status"),
        text_column("Item"),
        text_column("Unit"),
        Column("Quantity", RATIO),
        *(Column(f"{how.band_words(n, u.metres)} {u.m} deep", RATIO) for n in how.band_names),
        Column("No depth", RATIO),
    ]
    if priced_too:
        columns += [Column("Rate", RATIO), Column("Sum", RATIO)]
    rows: list[Row] = []
    for p in priced(items, how.rates):
        i, unit, times = p.item, *_unit(facts, p.item.unit)
        bands = [i.by_band.get(n) for n in (*how.band_names, "no depth")]
        row: list[CellValue] = [
            i.group,
            i.status,
            i.name,
            unit,
            i.quantity / times,
            *(None if v is None else v / times for v in bands),
        ]
        if priced_too:
            at = len(rows) + 2
            rate = column_letter(len(columns) - 2)
            row += [
                None if p.rate is None else p.rate * times,
                None if p.sum is None else Formula(p.sum, f"E{at}*{rate}{at}"),
            ]
        rows.append(tuple(row))
    return Table(
        name="Takeoff",
        columns=tuple(columns),
        rows=tuple(rows),
        sums=(len(columns) - 1,) if priced_too else (),
    )


_KINDS = {"m": LENGTH, "m²": SQUARE, "m³": VOLUME}


def _unit(facts: Facts, unit: str) -> tuple[str, float]:
    """A unit as the project shows it, and how many of the SI unit it has."""
    found = facts.units.measures.unit(_KINDS[unit]) if unit else NUMBER.metric
    return found.name, found.size


def _bases(facts: Facts, items: Iterable[Item]) -> Table:
    """Lengths of pipes on all four bases side by side."""
    columns = (
        text_column("Group"),
        text_column("Status"),
        text_column("Item"),
        *(Column(f"Length, {b.replace('-', ' ')}", LENGTH) for b in LENGTH_BASES),
    )
    rows: tuple[Row, ...] = tuple(
        (i.group, i.status, i.name, *i.lengths) for i in items if i.lengths
    )
    return Table(name="Lengths on four bases", columns=columns, rows=rows)
