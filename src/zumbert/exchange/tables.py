"""Schedules as tables: written to spreadsheets and CSV alike."""

from collections import Counter
from collections.abc import Iterable

from msgspec import Struct
from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.checks.finding import Finding
from zumbert.checks.sentences import object_label, sentence, source, verdict
from zumbert.edits.ground import own_origins
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, CellValue, Field
from zumbert.geometry.placing import Placing
from zumbert.model.display import Units, number
from zumbert.model.library import FIELDS as LIBRARY
from zumbert.model.library import Shelf, ShelfField, ShelfValue, value_of
from zumbert.model.project import Project
from zumbert.model.quantity import (
    DN,
    FRACTION,
    LENGTH,
    NUMBER,
    ONE_IN,
    PERCENT,
    RATIO,
    SMALL,
    Quantity,
)
from zumbert.model.unitsystem import UNIT_SYSTEMS


class Column(Struct, frozen=True):
    """A column: its head, what kind of number it holds (None: texts) and how many decimals more
    than usual it shows.
    """

    head: str
    of: Quantity | None = NUMBER
    more: int = 0
    system: str = "metric"  # of UNIT_SYSTEMS

    @property
    def unit(self) -> str:
        """The unit of its numbers; "" for none."""
        return "" if self.of is None else UNIT_SYSTEMS[self.system].unit(self.of).name

    @property
    def decimals(self) -> int:
        """The decimals that it is shown with."""
        return (
            0 if self.of is None else UNIT_SYSTEMS[self.system].unit(self.of).decimals + self.more
        )

    @property
    def exact(self) -> int:
        """The decimals of its numbers in files, which are read back: never fewer than in metric
        units.
        """
        return 0 if self.of is None else max(self.decimals, self.of.metric.decimals + self.more)

    @property
    def title(self) -> str:
        """The head with its unit."""
        return f"{self.head} ({self.unit})" if self.unit else self.head


class Table(Struct, frozen=True, kw_only=True):
    """A table of a schedule; numbers are in the units of their heads and not rounded. It is made
    in metric units.
    """

    name: str
    columns: tuple[Column, ...]
    rows: tuple[tuple[CellValue, ...], ...]
    sums: tuple[int, ...] = ()  # columns that a spreadsheet adds up in a row of its own


class Formula(float):
    """A number that a spreadsheet works out again from other cells, by the formula that it
    carries.
    """

    text: str

    def __new__(cls, value: float, text: str) -> "Formula":
        """The number, and the formula without its equals sign."""
        made = super().__new__(cls, value)
        made.text = text
        return made


def text_column(head: str) -> Column:
    """A column of texts."""
    return Column(head, None)


def in_units(table: Table, units: Units) -> Table:
    """A table in metric units as the project shows its values: in feet and cubic yards, slopes
    in its notation.
    """
    made = [
        _in_units(c, [row[i] for row in table.rows], units) for i, c in enumerate(table.columns)
    ]
    rows = tuple(zip(*(cells for _, cells in made), strict=True))
    return replace(table, columns=tuple(column for column, _ in made), rows=rows)


def _in_units(
    column: Column, cells: list[CellValue], units: Units
) -> tuple[Column, list[CellValue]]:
    if column.of is None:
        return column, cells
    if column.of is PERCENT and units.slopes == "fraction":
        return replace(column, of=FRACTION), [_shown(v, 100.0) for v in cells]
    if column.of is PERCENT and units.slopes == "ratio":
        return replace(column, of=ONE_IN, more=0), [
            100.0 / v if isinstance(v, float) and v else None for v in cells
        ]
    by = units.measures.unit(column.of).size / UNIT_SYSTEMS[column.system].unit(column.of).size
    return replace(column, system=units.system), [_shown(v, by) for v in cells]


def cell_text(column: Column, value: CellValue) -> str:
    """A value as people read it in its column."""
    if value is None:
        return ""
    if isinstance(value, str):
        return value
    return written(column, value, column.decimals)


def written(column: Column, value: float, decimals: int) -> str:
    """A number with so many decimals; a pipe size without zeros at its end."""
    text = number(value, decimals)
    return text.rstrip("0").rstrip(".") if column.of is DN else text


def _shown(value: CellValue, one: float) -> CellValue:
    if one == 1.0 or not isinstance(value, (int, float)):
        return value
    return Formula(value / one, value.text) if isinstance(value, Formula) else value / one


def _columns(facts: Facts, fields: list[Field]) -> tuple[Column, ...]:
    """The heads say which surfaces the levels come from."""
    return tuple(
        Column(f.title if f.head is None else f.head(facts), f.kind.of, f.kind.more) for f in fields
    )


def columns_of(fields: dict[str, Field]) -> list[Field]:
    """The fields that have a column in schedules and tables."""
    return [f for f in fields.values() if f.column]


def structure_table(facts: Facts, source: str | None = None) -> Table:
    """One row a structure. With a source that was placed, x and y are those of its own origin,
    and their heads say so.
    """
    fields = columns_of(STRUCTURE_FIELDS)
    columns = _columns(facts, fields)
    rows = [
        tuple(f.cell(facts, s) for f in fields)
        for s in map(facts.structures.__getitem__, facts.project.structures)
    ]
    if source is not None:
        back = own_origins(facts.project)[source].back
        at = [[f.key for f in fields].index(axis) for axis in "xy"]
        columns = tuple(
            replace(c, head=f"{c.head} in {source}") if i in at else c
            for i, c in enumerate(columns)
        )
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
    rows = tuple(
        tuple(f.cell(facts, p) for f in fields)
        for p in map(facts.pipes.__getitem__, facts.project.pipes)
    )
    return in_units(Table(name="Pipes", columns=_columns(facts, fields), rows=rows), facts.units)


def library_table(project: Project, shelf: Shelf) -> Table:
    """One row a structure type or pipe size, with how many are used; lengths in mm, in US units
    in inches.
    """
    fields = LIBRARY[shelf]
    of = (
        (s.type for s in project.structures.values())
        if shelf == "types"
        else (p.size for p in project.pipes.values())
    )
    counts = Counter(map(str, of))
    records = getattr(project, shelf).values()
    cells = [[_shelf_cell(f, value_of(r, f)) for f in fields] for r in records]
    columns = [
        Column(f.head, _SHELF[f.of], _more(f, column, project.units))
        for f, column in zip(fields, zip(*cells, strict=True), strict=True)
    ]
    rows = tuple((*row, counts[r.key]) for row, r in zip(cells, records, strict=True))
    return in_units(Table(name=shelf, columns=(*columns, Column("Used")), rows=rows), project.units)


_SHELF: dict[str, Quantity | None] = {
    "text": None, "yes": None, "choice": None, "mm": SMALL, "dn": DN, "m": LENGTH, "number": RATIO,
}  # fmt: skip


def _more(f: ShelfField, cells: Iterable[CellValue], units: Units) -> int:
    """Decimals more than usual: as many as show a column of millimetres whole, up to three."""
    if f.of != "mm":
        return 1 if f.of == "number" else 0
    values = [v / units.mm for v in cells if isinstance(v, (int, float))]
    return next((n for n in range(3) if all(abs(v - round(v, n)) < 1e-6 for v in values)), 3)


def _shelf_cell(f: ShelfField, value: ShelfValue) -> CellValue:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return value * 1000 if f.of == "mm" and isinstance(value, (int, float)) else value


def finding_table(facts: Facts, findings: Iterable[Finding]) -> Table:
    """One row a finding; value and limit are SI, since their kind differs from rule to rule."""
    columns = (
        text_column("Severity"),
        text_column("Rule"),
        text_column("Object"),
        Column("Distance", LENGTH),
        Column("Chainage", LENGTH),
        Column("Value, SI", RATIO, 2),
        Column("Limit, SI", RATIO, 2),
        text_column("Message"),
        text_column("Limit from"),
        text_column("Decision"),
    )
    rows = tuple(
        (
            f.look,
            f.rule,
            object_label(facts, f),
            f.distance,
            f.chainage,
            f.value,
            f.limit,
            sentence(facts, f),
            source(facts, f),
            verdict(f),
        )
        for f in findings
    )
    return in_units(Table(name="Findings", columns=columns, rows=rows), facts.units)
