"""A slope as people write it: 0.0125, 1.25% or 1:80."""

from math import isfinite

from zumbert.errors import TypedError


def parsed_slope(text: str) -> float:
    """The fraction that a text means. Raises TypedError with a sentence if it means none."""
    t = text.strip().replace("\u2212", "-").replace(" ", "")
    try:
        if ":" in t:
            one, n = t.split(":")
            sign = -1.0 if one.startswith("-") != n.startswith("-") else 1.0
            value = sign * abs(float(one)) / abs(float(n))
        elif t.endswith("%"):
            value = float(t[:-1]) / 100
        else:
            value = float(t)
    except (ValueError, ZeroDivisionError):
        value = float("nan")
    if not isfinite(value):
        raise TypedError(f'"{text}" is no slope: write it as 0.0125, 1.25% or 1:80.')
    return value
