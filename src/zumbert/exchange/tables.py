"""Schedules as tables: written to spreadsheets and CSV alike."""

from collections import Counter
from collections.abc import Iterable
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.checks.finding import Finding
from zumbert.checks.sentences import object_label, sentence, source, verdict
from zumbert.edits.ground import own_origins
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, CellValue, Field
from zumbert.geometry.placing import Placing
from zumbert.model.display import CUBIC_YARD, FOOT, Units
from zumbert.model.library import FIELDS as LIBRARY
from zumbert.model.library import Shelf, ShelfField, ShelfValue, value_of
from zumbert.model.project import Project


class Column(Struct, frozen=True):
    """A column: its head, its unit ("" for none) and the decimals that it is shown with."""

    head: str
    unit: str = ""
    decimals: int = 0
    of: Literal["text", "number"] = "number"

    @property
    def title(self) -> str:
        """The head with its unit."""
        return f"{self.head} ({self.unit})" if self.unit else self.head


class Table(Struct, frozen=True, kw_only=True):
    """A table of a schedule; numbers are in the units of their heads and not rounded."""

    name: str
    columns: tuple[Column, ...]
    rows: tuple[tuple[CellValue, ...], ...]
    sums: tuple[int, ...] = ()  # columns that a spreadsheet adds up in a row of its own


class Formula(float):
    """A number that a spreadsheet works out again from other cells, by the formula that it carries."""

    text: str

    def __new__(cls, value: float, text: str) -> "Formula":
        """The number, and the formula without its equals sign."""
        made = super().__new__(cls, value)
        made.text = text
        return made


def text_column(head: str) -> Column:
    """A column of texts."""
    return Column(head, of="text")


def in_units(table: Table, units: Units) -> Table:
    """A table in SI as the project shows its values: feet, inches and cubic yards in US units."""
    if not units.us:
        return table
    parts = {"m": (FOOT, "ft"), "m/s": (FOOT, "ft/s"), "m²": (FOOT**2, "ft²"), "m³": (CUBIC_YARD, "yd³"), "mm": (25.4, "in")}
    by = [parts.get(c.unit, (1.0, c.unit)) for c in table.columns]
    columns = tuple(replace(c, unit=unit) for c, (_, unit) in zip(table.columns, by, strict=True))
    rows = tuple(tuple(_shown(v, one) for v, (one, _) in zip(row, by, strict=True)) for row in table.rows)
    return replace(table, columns=columns, rows=rows)


def _shown(value: CellValue, one: float) -> CellValue:
    if one == 1.0 or not isinstance(value, (int, float)):
        return value
    return Formula(value / one, value.text) if isinstance(value, Formula) else value / one


def _columns(facts: Facts, fields: list[Field]) -> tuple[Column, ...]:
    """The heads say which surfaces the levels come from."""
    return tuple(
        Column(f.title if f.head is None else f.head(facts), f.kind.unit, f.kind.decimals, "number" if f.kind.number else "text")
        for f in fields
    )


def columns_of(fields: dict[str, Field]) -> list[Field]:
    """The fields that have a column in schedules and tables."""
    return [f for f in fields.values() if f.column]


def structure_table(facts: Facts, source: str | None = None) -> Table:
    """One row a structure. With a source that was placed, x and y are those of its own origin, and their heads say so."""
    fields = columns_of(STRUCTURE_FIELDS)
    columns = _columns(facts, fields)
    rows = [tuple(f.cell(facts, s) for f in fields) for s in map(facts.structures.__getitem__, facts.project.structures)]
    if source is not None:
        back = own_origins(facts.project)[source].back
        at = [[f.key for f in fields].index(axis) for axis in "xy"]
        columns = tuple(replace(c, head=f"{c.head} in {source}") if i in at else c for i, c in enumerate(columns))
        rows = [_at_origin(row, at, back) for row in rows]
    return in_units(Table(name="Structures", columns=columns, rows=tuple(rows)), facts.units)


def _at_origin(row: tuple[CellValue, ...], at: list[int], back: Placing) -> tuple[CellValue, ...]:
    x, y = (row[i] for i in at)
    if not isinstance(x, float) or not isinstance(y, float):
        return row
    own = dict(zip(at, back.apply([(x, y)])[0].tolist(), strict=True))
    return tuple(own.get(i, v) for i, v in enumerate(row))


def pipe_table(facts: Facts) -> Table:
    """One row a pipe."""
    fields = columns_of(PIPE_FIELDS)
    rows = tuple(tuple(f.cell(facts, p) for f in fields) for p in map(facts.pipes.__getitem__, facts.project.pipes))
    return in_units(Table(name="Pipes", columns=_columns(facts, fields), rows=rows), facts.units)


def library_table(project: Project, shelf: Shelf) -> Table:
    """One row a structure type or pipe size, with how many are used; lengths in mm, in US units in inches."""
    fields = LIBRARY[shelf]
    units = {"mm": "mm", "m": "m", "dn": "mm"}
    of = (s.type for s in project.structures.values()) if shelf == "types" else (p.size for p in project.pipes.values())
    counts = Counter(map(str, of))
    records = getattr(project, shelf).values()
    cells = [[_shelf_cell(f, value_of(r, f)) for f in fields] for r in records]
    columns = [
        Column(f.head, units.get(f.of, ""), _decimals(f, column, project.units), "text" if f.of in _TEXTS else "number")
        for f, column in zip(fields, zip(*cells, strict=True), strict=True)
    ]
    rows = tuple((*row, counts[r.key]) for row, r in zip(cells, records, strict=True))
    return in_units(Table(name=shelf, columns=(*columns, Column("Used")), rows=rows), project.units)


_TEXTS = ("text", "yes", "choice")


def _decimals(f: ShelfField, cells: Iterable[CellValue], units: Units) -> int:
    """Decimals that show a column whole: none for whole millimetres."""
    if f.of == "mm":
        by = 25.4 if units.us else 1.0
        values = [v / by for v in cells if isinstance(v, (int, float))]
        return next((n for n in (0, 1, 2) if all(abs(v - round(v, n)) < 1e-6 for v in values)), 3)
    return {"m": 2, "number": 3}.get(f.of, 0)


def _shelf_cell(f: ShelfField, value: ShelfValue) -> CellValue:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return value * 1000 if f.of == "mm" and isinstance(value, (int, float)) else value


def finding_table(facts: Facts, findings: Iterable[Finding]) -> Table:
    """One row a finding; value and limit are SI, since their kind differs from rule to rule."""
    columns = (
        text_column("Severity"), text_column("Rule"), text_column("Object"), Column("Distance", "m", 2), Column("Chainage", "m", 2),
        Column("Value, SI", "", 4), Column("Limit, SI", "", 4), text_column("Message"),
        text_column("Limit from"), text_column("Decision"),
    )  # fmt: skip
    rows = tuple(
        (f.look, f.rule, object_label(facts, f), f.distance, f.chainage, f.value, f.limit, sentence(facts, f), source(facts, f),
         verdict(f)) for f in findings
    )  # fmt: skip
    return in_units(Table(name="Findings", columns=columns, rows=rows), facts.units)
