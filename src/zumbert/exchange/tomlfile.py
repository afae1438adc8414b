"""TOML files of limits and dimensions: their keys, numbers and tables read, each with a sentence
where it does not fit.
"""

from pathlib import Path
from typing import Any

import msgspec

from zumbert.errors import ReadError, known
from zumbert.exchange.rows import decoded
from zumbert.model.quantity import LENGTH, SMALL, Quantity
from zumbert.model.standard import Limit
from zumbert.model.unitsystem import UNIT_SYSTEMS


class TomlFile:
    """A file that is read. Raises ReadError where it is no TOML, and by each reader where
    something does not fit.
    """

    def __init__(self, path: str | Path) -> None:
        self.path = path
        try:
            self.data: dict[str, Any] = dict(msgspec.toml.decode(decoded(path)))
        except (ValueError, msgspec.MsgspecError) as e:
            raise ReadError(f"{path} is no TOML: {e}. Correct it there.") from e
        units = self.data.get("units", "metric")
        if units not in UNIT_SYSTEMS:
            raise ReadError(f'{path}: units is "{units}": it is {" or ".join(UNIT_SYSTEMS)}.')
        self.system: str = units

    @property
    def name(self) -> str:
        """The name of its record; the name of the file where it does not say."""
        return str(self.data.get("name") or Path(self.path).stem)

    @property
    def length(self) -> float:
        """The factor of its lengths, to m."""
        return size_of(LENGTH, self.system)

    @property
    def dn(self) -> float:
        """The factor of its pipe sizes, to mm."""
        return size_of(SMALL, self.system)

    def keys(self, data: dict[str, Any], keys: tuple[str, ...], where: str = "") -> None:
        """Refuses a key that is none of these."""
        for key in data:
            if key not in keys:
                raise ReadError(
                    f'{self.path}: "{where}{key}" means nothing here: {known(key, keys)}'
                )

    def number(self, where: str, value: Any) -> float:
        """A number that is 0 or more."""
        if isinstance(value, bool) or not isinstance(value, (int, float)) or not abs(value) < 1e6:
            raise ReadError(f'{self.path}: {where} is "{value}": it is a number.')
        if value < 0:
            raise ReadError(f"{self.path}: {where} is {value:g}: it is 0 or more.")
        return float(value)

    def word(self, where: str, value: Any, words: tuple[str, ...]) -> str:
        """One of some words."""
        word = f"{value:g}" if isinstance(value, float) else str(value)
        if word not in words:
            raise ReadError(f'{self.path}: {where} is "{word}": it is one of {", ".join(words)}.')
        return word

    def limit(self, where: str, value: Any, times: float, by: float | None) -> Limit:
        """A number, or a table "up to and including" whose keys are multiplied by `by`; None:
        there is no table of it.
        """
        if not isinstance(value, dict):
            return self.number(where, value) * times
        if not value:
            raise ReadError(f"{self.path}: {where} is an empty table: give at least one entry.")
        if by is None:
            raise ReadError(f"{self.path}: {where} is a table: it is one number.")
        rows = []
        for upto, one in _unquoted(value).items():
            try:
                rows.append((float(upto) * by, self.number(where, one) * times))
            except ValueError as e:
                raise ReadError(
                    f'{self.path}: {where} has the entry "{upto}", which is no number.'
                ) from e
        return tuple(sorted(rows))


def _unquoted(table: dict[str, Any]) -> dict[str, Any]:
    """A table whose keys are numbers, those with a point too: without quotes TOML reads 1.5 as 5
    within 1.
    """
    out: dict[str, Any] = {}
    for key, value in table.items():
        out |= (
            {f"{key}.{part}": v for part, v in value.items()}
            if isinstance(value, dict)
            else {key: value}
        )
    return out


def size_of(of: Quantity, system: str) -> float:
    """The factor from the numbers of a file in a system of units to those kept."""
    return UNIT_SYSTEMS[system].unit(of).size


def plain(value: float) -> float:
    """A number without the noise of a conversion."""
    return float(f"{value:.12g}")


def written(value: Limit, times: float, by: float) -> Any:
    """A limit as a file has it, in its units."""
    if not isinstance(value, tuple):
        return plain(value / times)
    return {repr(plain(k / by)).removesuffix(".0"): plain(v / times) for k, v in value}


def write_toml(data: dict[str, Any], path: str | Path) -> None:
    """Writes a file. Raises ReadError where it cannot be written."""
    try:
        Path(path).write_bytes(msgspec.toml.encode(data))
    except OSError as e:
        raise ReadError(
            f"{path} could not be written: {e.strerror or e}. Choose another folder."
        ) from e
