"""How values are written for people; rounding happens here and nowhere before."""

from math import copysign

MINUS = "\u2212"
NONE = "\u2013"  # an en dash where a value does not exist


def number(value: float | None, decimals: int, signed: bool = False) -> str:
    """A number with a true minus; "\u2013" for None. A value that rounds to nothing has no sign."""
    if value is None:
        return NONE
    value += copysign(1e-9, value)  # 0.305 kept as 0.30499… is shown as 0.31
    text = f"{value:{'+' if signed else ''}.{decimals}f}"
    if float(text) == 0:
        text = text.replace("-", "+" if signed else "")
    return text.replace("-", MINUS)


def level(value: float | None) -> str:
    """A level, m, 3 decimals."""
    return number(value, 3)


def length(value: float | None) -> str:
    """A length, m, 2 decimals."""
    return number(value, 2)


def volume(value: float | None) -> str:
    """A volume, m³, 1 decimal."""
    return number(value, 1)


def chainage(value: float | None, decimals: int = 2) -> str:
    """A chainage as 0+123.45."""
    if value is None:
        return NONE
    rounded = round(abs(value), decimals)
    km, rest = divmod(rounded, 1000)
    width = 4 + decimals if decimals else 3
    sign = MINUS if value < 0 and rounded else ""
    return f"{sign}{int(km)}+{rest:0{width}.{decimals}f}"


def percent(slope: float | None) -> str:
    """A slope as 1.25 %."""
    return NONE if slope is None else number(slope * 100, 2) + " %"


def ratio(slope: float | None) -> str:
    """A slope as 1:80; level where it is none."""
    if slope is None:
        return NONE
    if abs(slope) < 1e-9:
        return "level"
    n = 1 / abs(slope)
    text = f"1:{n:.1f}" if n < 99.95 else f"1:{n:.0f}"
    return (MINUS if slope < 0 else "") + text.removesuffix(".0")
