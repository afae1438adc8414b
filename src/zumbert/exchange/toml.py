"""Design standards and trench types from TOML."""

from pathlib import Path
from typing import Any

import msgspec

from zumbert.errors import ReadError, known
from zumbert.exchange.rows import decoded
from zumbert.model.display import FOOT
from zumbert.model.ids import StandardId, TrenchTypeId
from zumbert.model.standard import CROWNS, LIMITS, Limit, Standard
from zumbert.model.trench import TrenchType

_TRENCH = ("bedding", "width", "vertical_height", "batter", "working_space", "base_thickness", "spacing")


def read_standard(path: str | Path) -> Standard:
    """A standard: `name`, `[pipes]` with limits, each a number or a table "up to and including", and
    `[structures]` with `rim_tolerance`; a missing key keeps its default. Raises ReadError.
    """
    data = _data(path)
    _keys(path, data, ("name", "units", "pipes", "structures"), "")
    pipes = data.get("pipes", {})
    if not isinstance(pipes, dict):
        raise ReadError(f"{path}: pipes is a table of limits: write it as [pipes].")
    _keys(path, pipes, (*LIMITS, "crowns"), "pipes.")
    us = _us(path, data)
    values: dict[str, Any] = {k: _in_metres(k, _limit(path, k, v), us) for k, v in pipes.items() if k != "crowns"}
    if "crowns" in pipes:
        crowns = str(pipes["crowns"])
        if crowns not in CROWNS:
            raise ReadError(f'{path}: pipes.crowns is "{crowns}": it is one of {", ".join(CROWNS)}.')
        values["crowns"] = crowns
    structures = data.get("structures", {})
    if not isinstance(structures, dict):
        raise ReadError(f"{path}: structures is a table of limits: write it as [structures].")
    _keys(path, structures, ("rim_tolerance",), "structures.")
    if "rim_tolerance" in structures:
        tolerance = _number(path, "structures.rim_tolerance", structures["rim_tolerance"]) * (FOOT if us else 1.0)
        if tolerance < 0:
            raise ReadError(f"{path}: structures.rim_tolerance is {tolerance:g}: it is 0 or more.")
        values["rim_tolerance"] = tolerance
    return Standard(id=StandardId(""), name=_name(path, data), **values)


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


def _in_metres(key: str, limit: Limit, us: bool) -> Limit:
    """A limit in metres and by DN in mm; slopes and angles have no unit."""
    factor = 1.0 if not us or key in ("slope_min", "slope_max", "deflection_max") else FOOT
    if not isinstance(limit, tuple):
        return limit * factor
    sizes = 25.4 if us and key != "drop_min" else 1.0  # the least drop goes by degrees
    return tuple((upto * sizes, value * factor) for upto, value in limit)


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


def _limit(path: str | Path, key: str, value: Any) -> Limit:
    if not isinstance(value, dict):
        return _number(path, f"pipes.{key}", value)
    if not value:
        raise ReadError(f"{path}: pipes.{key} is an empty table: give at least one entry.")
    rows = []
    for upto, limit in value.items():
        try:
            rows.append((float(upto), _number(path, f"pipes.{key}", limit)))
        except ValueError as e:
            raise ReadError(f'{path}: pipes.{key} has the entry "{upto}", which is no number.') from e
    return tuple(sorted(rows))
