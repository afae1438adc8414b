"""A surface from an ESRI ASCII grid: rows of levels from the north, on square cells."""

from pathlib import Path
from typing import Any

import numpy as np

from zumbert.errors import ReadError
from zumbert.exchange.reader import reader
from zumbert.exchange.rows import decoded
from zumbert.geometry.elements import Array

MOST = 4_000_000  # cells
KEYS = (
    "ncols",
    "nrows",
    "xllcorner",
    "yllcorner",
    "xllcenter",
    "yllcenter",
    "cellsize",
    "nodata_value",
)


@reader
def read_grid(path: str | Path) -> tuple[Array, Any, tuple[str, ...]]:
    """Vertices (n, 3) at the middles of cells, faces (m, 3), and notes; cells without data leave
    holes.

    Each square of four known cells becomes two triangles. Raises ReadError with a sentence for
    anything else.
    """
    text = decoded(path)
    head, body = _head(path, text)
    columns, rows = int(head["ncols"]), int(head["nrows"])
    if not (columns > 1 and rows > 1 and columns * rows <= MOST):
        raise ReadError(
            f"{path} is a grid of {columns} by {rows} cells: it needs two each way, and {MOST} "
            "at most."
        )
    try:
        z = np.array(body.split(), float)
    except ValueError as e:
        raise ReadError(f"{path} holds a level that is no number: {e}.") from e
    if z.size != columns * rows:
        raise ReadError(
            f"{path} holds {z.size} levels, and its head says {columns * rows}: write it again."
        )
    size = head["cellsize"]
    if not size > 0:
        raise ReadError(f"{path}: its cellsize is {size:g}, and a cell is wider than nothing.")
    x0 = head["xllcenter"] if "xllcenter" in head else head.get("xllcorner", 0.0) + size / 2
    y0 = head["yllcenter"] if "yllcenter" in head else head.get("yllcorner", 0.0) + size / 2
    z = z.reshape(rows, columns)[::-1]
    nothing = head.get("nodata_value", -9999.0)
    # a level may be infinite; written with fewer digits no data is still none
    with np.errstate(invalid="ignore"):
        known = np.isfinite(z) & ~np.isclose(z, nothing, rtol=1e-5, atol=0.0)
    x, y = np.meshgrid(x0 + size * np.arange(columns), y0 + size * np.arange(rows))
    number = np.full(z.shape, -1)
    number[known] = np.arange(int(known.sum()))
    a, b, c, d = number[:-1, :-1], number[:-1, 1:], number[1:, 1:], number[1:, :-1]
    whole = (a >= 0) & (b >= 0) & (c >= 0) & (d >= 0)
    faces = np.vstack(
        [
            np.column_stack([a[whole], b[whole], c[whole]]),
            np.column_stack([a[whole], c[whole], d[whole]]),
        ]
    )
    if not len(faces):
        raise ReadError(
            f"{path} holds no four cells with data beside each other: there is no surface in it."
        )
    vertices = np.column_stack([x[known], y[known], z[known]])
    notes = [f"A grid of {columns} by {rows} cells of {size:g}."]
    if not known.all():
        notes.append(f"{int((~known).sum())} cells hold no data: there the surface has holes.")
    return vertices, faces, tuple(notes)


def _head(path: str | Path, text: str) -> tuple[dict[str, float], str]:
    """The head's values, and what follows it."""
    out: dict[str, float] = {}
    at = 0
    for line in text.splitlines(keepends=True):
        words = line.split()
        if len(words) != 2 or words[0].lower() not in KEYS:
            break
        try:
            out[words[0].lower()] = float(words[1])
        except ValueError as e:
            raise ReadError(f'{path}: {words[0]} is "{words[1]}", which is no number.') from e
        at += len(line)
    missing = [k for k in ("ncols", "nrows", "cellsize") if not np.isfinite(out.get(k, np.nan))]
    if missing:
        raise ReadError(f"{path} is no ASCII grid: its head has no {missing[0]}.")
    return out, text[at:]
