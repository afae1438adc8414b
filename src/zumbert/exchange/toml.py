"""Design standards from and to TOML."""

from pathlib import Path
from typing import Any

from zumbert.checks.check import RULES
from zumbert.errors import ReadError
from zumbert.exchange.reader import reader
from zumbert.exchange.tomlfile import TomlFile, size_of, write_toml, written
from zumbert.model.ids import StandardId
from zumbert.model.quantity import DN, LENGTH, RATIO, SPEED
from zumbert.model.standard import AGAINST, CROWNS, LIMITS, WEIGHTS, LimitField, Standard


@reader
def read_standard(path: str | Path) -> Standard:
    """A standard: `name`, `[pipes]` and `[structures]` with limits, each a number or a table "up to
    and including", and `[rules]` with what a rule weighs; a missing key keeps its default. Raises
    ReadError.
    """
    file = TomlFile(path)
    file.keys(file.data, ("name", "units", *TABLES, "rules"))
    values: dict[str, Any] = {}
    for table in TABLES:
        found = file.data.get(table, {})
        if not isinstance(found, dict):
            raise ReadError(f"{path}: {table} is a table of limits: write it as [{table}].")
        own = [k for k, f in LIMITS.items() if f.table == table]
        words = WORDS if table == "pipes" else {}
        file.keys(found, (*own, *words), f"{table}.")
        for key, value in found.items():
            where = f"{table}.{key}"
            if key in words:
                values[key] = file.word(where, value, words[key])
            else:
                times, by = _units(LIMITS[key], file.system)
                values[key] = file.limit(where, value, times, by if LIMITS[key].by else None)
    weights = file.data.get("rules", {})
    if not isinstance(weights, dict):
        raise ReadError(f"{path}: rules is a table: write it as [rules].")
    file.keys(weights, tuple(RULES), "rules.")
    values["weights"] = {k: file.word(f"rules.{k}", v, WEIGHTS) for k, v in weights.items()}
    return Standard(id=StandardId(""), name=file.name, **values)


def write_standard(standard: Standard, path: str | Path, system: str = "metric") -> None:
    """Writes a standard with everything that it holds, in a system of units. Raises ReadError
    where it cannot be written.
    """
    data: dict[str, Any] = {"name": standard.name, "units": system}
    for table in TABLES:
        data[table] = {}
        for key, field in LIMITS.items():
            value = getattr(standard, key)
            if field.table == table and value is not None:
                data[table][key] = written(value, *_units(field, system))
    data["pipes"] |= {k: getattr(standard, k) for k in WORDS}
    data["rules"] = dict(standard.weights)
    write_toml(data, path)


SHIPPED = Path(__file__).parent / "standards"


def shipped_standards() -> list[Standard]:
    """The made-up standards that come with the program."""
    return [read_standard(p) for p in sorted(SHIPPED.glob("*.toml"))]


TABLES = ("pipes", "structures")
WORDS: dict[str, tuple[str, ...]] = {"crowns": CROWNS, "cover_against": AGAINST}


def _units(field: LimitField, system: str) -> tuple[float, float]:
    """The factors of a limit and of the key of its table."""
    of = {"m": LENGTH, "m/s": SPEED}.get(field.of, RATIO)
    return size_of(of, system), size_of(DN if field.by == "dn" else RATIO, system)
