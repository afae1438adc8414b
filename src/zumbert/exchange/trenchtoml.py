"""Trench types from and to TOML."""

from pathlib import Path
from typing import Any

from zumbert.errors import ReadError
from zumbert.exchange.reader import reader
from zumbert.exchange.tomlfile import TomlFile, plain, size_of, write_toml, written
from zumbert.model.ids import TrenchTypeId
from zumbert.model.quantity import LENGTH, SMALL
from zumbert.model.trench import (
    SIZE_FIELDS,
    TYPE_FIELDS,
    UPPERS,
    TrenchField,
    TrenchSize,
    TrenchType,
    misfit,
)


@reader
def read_trench(path: str | Path) -> TrenchType:
    """A trench type: `name`, what holds for all sizes, and the dimensions of its trench; or
    `[[sizes]]` with a table for each range of sizes and kind of ground. A missing key keeps its
    default. Raises ReadError.
    """
    file = TomlFile(path)
    rows = file.data.get("sizes")
    own = () if rows is not None else tuple(SIZE_FIELDS)
    file.keys(file.data, ("name", "units", "upper", "sizes", *TYPE_FIELDS, *own))
    values = {k: _value(file, k, file.data[k], f) for k, f in TYPE_FIELDS.items() if k in file.data}
    if "upper" in file.data:
        values["upper"] = file.word("upper", file.data["upper"], UPPERS)
    if rows is None:
        sizes: tuple[TrenchSize, ...] = (
            _size(file, {k: v for k, v in file.data.items() if k in SIZE_FIELDS}, ""),
        )
    else:
        if not isinstance(rows, list) or not rows or not all(isinstance(r, dict) for r in rows):
            raise ReadError(f"{path}: sizes is a list of trenches: write each as [[sizes]].")
        sizes = tuple(_size(file, r, f"sizes {i}: ") for i, r in enumerate(rows, 1))
    return TrenchType(id=TrenchTypeId(""), name=file.name, sizes=sizes, **values)


def _size(file: TomlFile, row: dict[str, Any], where: str) -> TrenchSize:
    file.keys(row, ("dn", "ground", *SIZE_FIELDS), where)
    values = {
        k: _value(file, k, v, SIZE_FIELDS[k], where) for k, v in row.items() if k in SIZE_FIELDS
    }
    if "dn" in row:
        values["dn"] = file.number(f"{where}dn", row["dn"]) * file.dn
    return TrenchSize(ground=str(row.get("ground", "")).strip(), **values)


def _value(file: TomlFile, key: str, value: Any, field: TrenchField, where: str = "") -> Any:
    times = file.length if field.of == "m" else 1.0
    found = file.limit(f"{where}{key}", value, times, file.length if field.table else None)
    words = misfit(field, found)
    if words:
        raise ReadError(f"{file.path}: {where}{key} is {value}: {words}.")
    return found


def write_trench(trench: TrenchType, path: str | Path, system: str = "metric") -> None:
    """Writes a trench type with everything that it holds, in a system of units. Raises ReadError
    where it cannot be written.
    """
    long, mm = size_of(LENGTH, system), size_of(SMALL, system)
    data: dict[str, Any] = {"name": trench.name, "units": system, "upper": trench.upper}
    data |= {k: plain(getattr(trench, k) / long) for k in TYPE_FIELDS}
    rows = []
    for size in trench.sizes:
        row: dict[str, Any] = {} if size.dn is None else {"dn": plain(size.dn / mm)}
        row |= {"ground": size.ground} if size.ground else {}
        for key, field in SIZE_FIELDS.items():
            value = getattr(size, key)
            if value is not None:
                row[key] = written(value, long if field.of == "m" else 1.0, long)
        rows.append(row)
    write_toml({**data, "sizes": rows}, path)


SHIPPED = Path(__file__).parent / "trenches"


def shipped_trenches() -> list[TrenchType]:
    """The made-up trench types that come with the program."""
    return [read_trench(p) for p in sorted(SHIPPED.glob("*.toml"))]
