"""Pieces of LandXML that roads and surfaces share: numbers of elements, and what is left out."""

from typing import Any

import numpy as np

LARGEST = 1e12  # in any unit


class LeftOut(Exception):
    """A part of a file that is not taken; the text says why."""


def numbers(text: str | None) -> list[float]:
    """The numbers of a text. Raises ValueError where one is none."""
    values = [float(v) for v in (text or "").split()]
    if not all(np.isfinite(values)):
        raise ValueError("a coordinate is no number")
    if values and max(map(abs, values)) > LARGEST:
        raise ValueError("a number is larger than any place or radius")
    return values


def need(element: Any, attribute: str) -> float:
    """The number of an attribute. Raises LeftOut where it is missing."""
    text = element.get(attribute)
    if text is None:
        raise LeftOut(f"line {element.sourceline} has no {attribute}")
    values = numbers(text)
    if not values:
        raise LeftOut(f"line {element.sourceline} has an empty {attribute}")
    return values[0]
