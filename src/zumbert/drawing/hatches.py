"""Patterns of strata and of what lies round a pipe: each stratum is told by its pattern too, not
by its colour alone.
"""

from collections.abc import Callable
from typing import Literal

import numpy as np

from zumbert.drawing.marks import Segments
from zumbert.geometry.elements import Array

Pattern = Literal["topsoil", "general", "rock", "stones"]
# drawing units between the pieces of a pattern
STEP = {"topsoil": 16.0, "general": 24.0, "rock": 28.0, "stones": 6.0}
Inside = Callable[[Array, Array], np.ndarray]  # whether places (x, y) are in the area


def pattern_of(name: str, place: int) -> Pattern:
    """The pattern of a stratum, by its name, else by its place from the top."""
    word = name.casefold()
    if "topsoil" in word or "top soil" in word:
        return "topsoil"
    if "rock" in word or "stone" in word:
        return "rock"
    return "general" if place else "topsoil" if "soil" in word else "general"


def hatch(pattern: Pattern, box: tuple[float, float, float, float], inside: Inside) -> Segments:
    """The pieces of a pattern in a box (x0, y0, x1, y1) that lie wholly in an area; they stand
    still while the area moves.
    """
    step = STEP[pattern]
    x0, y0, x1, y1 = box
    rows = np.arange(np.floor(y0 / step), np.ceil(y1 / step) + 1)
    columns = np.arange(np.floor(x0 / step), np.ceil(x1 / step) + 1)
    gx, gy = np.meshgrid(columns, rows)
    x, y = (gx + 0.5 * (gy % 2)).ravel() * step, gy.ravel() * step
    made = {"topsoil": _upright, "general": _flat, "rock": _angles, "stones": _dots}[pattern](
        x, y, gx.ravel()
    )
    keep = inside(made[:, 0], made[:, 1]) & inside(made[:, 2], made[:, 3])
    return Segments(f"hatch-{pattern}", made[keep])


def _upright(x: Array, y: Array, n: Array) -> Array:
    """Upright dashes, as roots."""
    return np.column_stack([x, y - 2.5, x + 1.0, y + 2.5])


def _flat(x: Array, y: Array, n: Array) -> Array:
    """Flat dashes and dots by turns."""
    half = np.where(n % 2 == 0, 4.0, 0.6)
    return np.column_stack([x - half, y, x + half, y])


def _angles(x: Array, y: Array, n: Array) -> Array:
    """Broken angles: a long and a short stroke."""
    long = np.column_stack([x - 8.0, y + 4.0, x, y - 4.0])
    short = np.column_stack([x, y - 4.0, x + 6.0, y + 1.0])
    return np.concatenate([long, short])


def _dots(x: Array, y: Array, n: Array) -> Array:
    return np.column_stack([x - 0.7, y, x + 0.7, y])
