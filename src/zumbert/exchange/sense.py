"""Impossible values in files of surfaces: levels that no ground has, places that are nowhere.
They are left out and reported.
"""

from typing import Any

import numpy as np

from zumbert.geometry.elements import Array, Mask
from zumbert.model.display import counted
from zumbert.model.levels import HIGHEST, LOWEST

FARTHEST = 1e8  # m from the origin: no grid of coordinates reaches farther


def clean(text: str) -> str:
    """A text without bytes that stand for no letter, so that it can be written again, and
    without control characters.
    """
    plain = text.encode("utf-8", "replace").decode("utf-8")
    return "".join(c if c.isprintable() or c in "\n\t" else " " for c in plain)


def sound(xyz: Array) -> Mask:
    """Which places (n, 3; m) are numbers on land."""
    with np.errstate(invalid="ignore"):
        near = (np.abs(xyz[:, :2]) <= FARTHEST).all(axis=1)
        return np.asarray(near & (xyz[:, 2] >= LOWEST) & (xyz[:, 2] <= HIGHEST))


def told(name: str, xyz: Array, bad: Mask) -> list[str]:
    """The sentence about places that are left out, with the first of them."""
    if not bad.any():
        return []
    x, y, z = xyz[np.flatnonzero(bad)[0]].tolist()
    return [
        f'"{name}": {counted(int(bad.sum()), "place")} left out, since no ground lies there: the '
        f"first at x {x:.2f}, "
        f"y {y:.2f} has the level {z:g}."
    ]


def sound_faces(name: str, vertices: Array, faces: Any) -> tuple[Array, Any, list[str]]:
    """A surface without the vertices that make no sense and the faces at them, and what is told
    of it.
    """
    ok = sound(vertices)
    if ok.all():
        return vertices, faces, []
    number = np.where(ok, np.cumsum(ok) - 1, -1)
    kept = ok[faces].all(axis=1)
    notes = told(name, vertices, ~ok)
    gone = int((~kept).sum())
    if gone:
        notes.append(
            f'"{name}": {counted(gone, "face")} at them left out: there the surface has holes.'
        )
    return vertices[ok], number[faces[kept]], notes
