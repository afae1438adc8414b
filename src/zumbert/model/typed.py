"""Numbers as people type them: with either minus, as sums, with units, slopes in three
notations.
"""

import re
from math import fsum, isfinite

from zumbert.errors import TypedError
from zumbert.model.quantity import ACRE, FOOT, HECTARE, INCH, Quantity, Unit

MINUS = "\u2212"

_LENGTHS = {"m": 1.0, "mm": 1e-3, "cm": 1e-2, "km": 1e3, "ft": FOOT, "in": INCH / 1e3}
_AREAS = {
    "m²": 1.0, "m2": 1.0, "ha": HECTARE, "ft²": FOOT**2, "ft2": FOOT**2, "ac": ACRE, "acres": ACRE,
}  # fmt: skip
_IN_MM = {word: size * 1e3 for word, size in _LENGTHS.items()}
_UNITS: dict[str, dict[str, float]] = {
    "level": _LENGTHS, "length": _LENGTHS, "position": _LENGTHS, "small length": _IN_MM,
    "pipe size": _IN_MM, "area": _AREAS, "wide area": _AREAS,
    "velocity": {"m/s": 1.0, "ft/s": FOOT},
    "flow": {"l/s": 1e-3, "m³/s": 1.0, "m3/s": 1.0, "cfs": FOOT**3},
    "intensity": {"mm/h": 1.0, "in/h": INCH},
    "time": {"min": 1.0, "s": 1 / 60, "h": 60.0},
    "angle": {"°": 1.0},
}  # fmt: skip

_TERM = re.compile(r"[+-]?\s*(?:\d+\.?\d*|\.\d+)")
_SUM = re.compile(r"\s*[+-]?\s*(?:\d+\.?\d*|\.\d+)(?:\s*[+-]\s*(?:\d+\.?\d*|\.\d+))+\s*")
_WITH_UNIT = re.compile(r"(.*[\d.])\s*([a-z°][a-z²³/23]*)", re.DOTALL)


def typed_number(text: str, whole: str = "") -> float:
    """The number that a text is, with either minus, or numbers added and taken away: "42.1-0.3".

    Raises TypedError for anything else, which quotes `whole` if the text is a part of that.
    """
    value = _number(text)
    if not isfinite(value):
        raise TypedError(f'"{whole or text}" is no number: write it as 41.640.')
    return value


def typed_quantity(of: Quantity, unit: Unit, text: str, whole: str = "") -> float:
    """A typed number of a kind as it is stored: "0.9", or with any unit of its kind, "900 mm".
    A bare one is in `unit`. Raises TypedError.
    """
    found = _WITH_UNIT.fullmatch(text.strip().lower())
    words = {unit.name: unit.size, **_UNITS.get(of.name, {})}
    size = None if found is None else words.get(found.group(2))
    value = float("nan") if found is None else _number(found.group(1))
    if size is None or not isfinite(value):  # no unit of its kind: "1e3" is a number too
        return typed_number(text, whole) * unit.size
    return value * size


def typed_fraction(text: str) -> float:
    """The slope that a text means, as a fraction: 0.0125, 1.25% or 1:80. Raises TypedError if it
    means none.
    """
    t = text.strip().replace(MINUS, "-").replace(" ", "")
    try:
        if ":" in t:
            one, n = t.split(":")
            sign = -1.0 if one.startswith("-") != n.startswith("-") else 1.0
            value = sign * abs(float(one)) / abs(float(n))
        else:
            value = float(t[:-1]) / 100 if t.endswith("%") else float(t)
    except (ValueError, ZeroDivisionError):
        value = float("nan")
    if not isfinite(value):
        raise TypedError(f'"{text}" is no slope: write it as 0.0125, 1.25% or 1:80.')
    return value


def _number(text: str) -> float:
    """A number or a sum of numbers; NaN for anything else."""
    t = text.strip().replace(MINUS, "-")
    try:
        return (
            fsum(float(v.replace(" ", "")) for v in _TERM.findall(t))
            if _SUM.fullmatch(t)
            else float(t)
        )
    except ValueError:
        return float("nan")
