"""Design standards and trench types from TOML."""

from pathlib import Path
from typing import Any

import msgspec

from zumbert.checks.check import RULES
from zumbert.errors import ReadError, known
from zumbert.exchange.rows import decoded
from zumbert.model.display import FOOT
from zumbert.model.ids import StandardId, TrenchTypeId
from zumbert.model.standard import AGAINST, CROWNS, LIMITS, WEIGHTS, Limit, LimitField, Standard
from zumbert.model.trench import TrenchType

_TRENCH = ("bedding", "width", "vertical_height", "batter", "working_space", "base_thickness", "spacing")


def read_standard(path: str | Path) -> Standard:
    """A standard: `name`, `[pipes]` and `[structures]` with limits, each a number or a table "up to and including", and `[rules]`
    with what a rule weighs; a missing key keeps its default. Raises ReadError.
    """
    data = _data(path)
    _keys(path, data, ("name", "units", *TABLES, "rules"), "")
    us = _us(path, data)
    values: dict[str, Any] = {}
    for table in TABLES:
        found = data.get(table, {})
        if not isinstance(found, dict):
            raise ReadError(f"{path}: {table} is a table of limits: write it as [{table}].")
        own = [k for k, f in LIMITS.items() if f.table == table]
        words = WORDS if table == "pipes" else {}
        _keys(path, found, (*own, *words), f"{table}.")
        for key, value in found.items():
            where = f"{table}.{key}"
            values[key] = _word(path, where, value, words[key]) if key in words else _limit(path, key, where, value, us)
    weights = data.get("rules", {})
    if not isinstance(weights, dict):
        raise ReadError(f"{path}: rules is a table: write it as [rules].")
    _keys(path, weights, tuple(RULES), "rules.")
    values["weights"] = {k: _word(path, f"rules.{k}", v, WEIGHTS) for k, v in weights.items()}
    return Standard(id=StandardId(""), name=_name(path, data), **values)


def write_standard(standard: Standard, path: str | Path, us: bool = False) -> None:
    """Writes a standard with everything that it holds, in metres or in feet. Raises ReadError where it cannot be written."""
    data: dict[str, Any] = {"name": standard.name, "units": "us" if us else "metric"}
    for table in TABLES:
        data[table] = {}
        for key, field in LIMITS.items():
            value = getattr(standard, key)
            if field.table == table and value is not None:
                data[table][key] = _out(field, value, us)
    data["pipes"] |= {k: getattr(standard, k) for k in WORDS}
    data["rules"] = dict(standard.weights)
    try:
        Path(path).write_bytes(msgspec.toml.encode(data))
    except OSError as e:
        raise ReadError(f"{path} could not be written: {e.strerror or e}. Choose another folder.") from e


SHIPPED = Path(__file__).parent / "standards"


def shipped_standards() -> list[Standard]:
    """The made-up standards that come with the program."""
    return [read_standard(p) for p in sorted(SHIPPED.glob("*.toml"))]


TABLES = ("pipes", "structures")
WORDS: dict[str, tuple[str, ...]] = {"crowns": CROWNS, "cover_against": AGAINST}


def _out(field: LimitField, value: Limit, us: bool) -> Any:
    """A limit as a file has it."""
    length, key = _units(field, us)
    if not isinstance(value, tuple):
        return _plain(value / length)
    return {repr(_plain(k / key)).removesuffix(".0"): _plain(v / length) for k, v in value}


def _plain(value: float) -> float:
    """A number without the noise of a conversion."""
    return float(f"{value:.12g}")


def _units(field: LimitField, us: bool) -> tuple[float, float]:
    """What a limit and the key of its table have to be multiplied by."""
    return FOOT if us and field.of in ("m", "m/s") else 1.0, 25.4 if us and field.by == "dn" else 1.0


def _word(path: str | Path, where: str, value: Any, words: tuple[str, ...]) -> str:
    word = f"{value:g}" if isinstance(value, float) else str(value)
    if word not in words:
        raise ReadError(f'{path}: {where} is "{word}": it is one of {", ".join(words)}.')
    return word


def read_trench(path: str | Path) -> TrenchType:
    """A trench type; a missing key keeps its default. Raises ReadError."""
    data = _data(path)
    _keys(path, data, ("name", "units", "upper", *_TRENCH), "")
    us = _us(path, data)
    values: dict[str, Any] = {}
    for key in _TRENCH:
        if key in data:
            values[key] = _number(path, key, data[key]) * (FOOT if us and key != "batter" else 1.0)
            if values[key] < 0 or (key in ("width", "spacing") and values[key] == 0):
                raise ReadError(f"{path}: {key} is {values[key]:g}: it is metres, more than nothing.")
    if "upper" in data:
        if data["upper"] not in ("existing", "formation", "lower"):
            raise ReadError(f'{path}: upper is "{data["upper"]}": it is one of existing, formation, lower.')
        values["upper"] = data["upper"]
    return TrenchType(id=TrenchTypeId(""), name=_name(path, data), **values)


def _data(path: str | Path) -> dict[str, Any]:
    try:
        data = msgspec.toml.decode(decoded(path))
    except (ValueError, msgspec.MsgspecError) as e:
        raise ReadError(f"{path} is no TOML: {e}. Correct it there.") from e
    return dict(data)


def _us(path: str | Path, data: dict[str, Any]) -> bool:
    """Whether the file's lengths are feet and its pipe sizes inches."""
    units = data.get("units", "metric")
    if units not in ("metric", "us"):
        raise ReadError(f'{path}: units is "{units}": it is metric or us.')
    return bool(units == "us")


def _name(path: str | Path, data: dict[str, Any]) -> str:
    return str(data.get("name") or Path(path).stem)


def _keys(path: str | Path, data: dict[str, Any], keys: tuple[str, ...], where: str) -> None:
    for key in data:
        if key not in keys:
            raise ReadError(f'{path}: "{where}{key}" means nothing here: {known(key, keys)}')


def _number(path: str | Path, key: str, value: Any) -> float:
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not abs(value) < 1e6:
        raise ReadError(f'{path}: {key} is "{value}": it is a number.')
    return float(value)


def _limit(path: str | Path, key: str, where: str, value: Any, us: bool) -> Limit:
    field = LIMITS[key]
    length, each = _units(field, us)
    if not isinstance(value, dict):
        return _not_under_0(path, where, _number(path, where, value)) * length
    if not value:
        raise ReadError(f"{path}: {where} is an empty table: give at least one entry.")
    if not field.by:
        raise ReadError(f"{path}: {where} is a table: it is one number.")
    rows = []
    for upto, limit in value.items():
        try:
            rows.append((float(upto) * each, _not_under_0(path, where, _number(path, where, limit)) * length))
        except ValueError as e:
            raise ReadError(f'{path}: {where} has the entry "{upto}", which is no number.') from e
    return tuple(sorted(rows))


def _not_under_0(path: str | Path, where: str, value: float) -> float:
    if value < 0:
        raise ReadError(f"{path}: {where} is {value:g}: it is 0 or more.")
    return value
