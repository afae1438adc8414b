"""One thing in space, as it is seen and picked. What it is made of is worked out when it is
first drawn.
"""

from collections.abc import Callable
from functools import cached_property
from typing import Literal

import numpy as np

from zumbert.geometry.elements import Array
from zumbert.geometry.mesh import Mesh

Kind = Literal[
    "pipe",
    "structure",
    "service",
    "ground",
    "design",
    "road",
    "land",
    "trench",
    "pit",
    "section",
    "former",
]
PICKED = ("pipe", "structure", "service", "road", "land")  # kinds that can be picked


Key = tuple[str, str]


class SpacePart:
    """A body or sheet of triangles, or lines (n, 2, 3) from place to place, m; each given, or
    told how it is made.
    """

    def __init__(
        self,
        kind: Kind,
        key: str,
        role: str,
        mesh: Mesh | Callable[[], Mesh | None] | None = None,
        lines: Array | Callable[[], Array] | None = None,
        side: str = "",
        thick: float = np.inf,
        box: Array | None = None,
    ) -> None:
        self.kind, self.id = kind, key
        self.role = role  # its colour; of lines their style
        self.side = side  # of the run, for the halves of the ground
        # m: how thick a body is, which is drawn as its axis where that is too thin to be seen
        self.thick = thick
        self.linear = mesh is None  # whether it is lines
        self._mesh, self._lines = mesh, lines
        self._box = box

    @cached_property
    def mesh(self) -> Mesh | None:
        """Its triangles; None of lines, and of what turns out to have none."""
        return self._mesh() if callable(self._mesh) else self._mesh

    @cached_property
    def lines(self) -> Array | None:
        """Its lines (n, 2, 3), m; None of a body."""
        return self._lines() if callable(self._lines) else self._lines

    @property
    def xyz(self) -> Array:
        """All its places (n, 3), m."""
        if self.linear:
            return np.zeros((0, 3)) if self.lines is None else self.lines.reshape(-1, 3)
        return np.zeros((0, 3)) if self.mesh is None else self.mesh.vertices

    @cached_property
    def box(self) -> Array:
        """Its lowest and highest coordinates (2, 3), m, or such about it."""
        if self._box is not None:
            return self._box
        xyz = self.xyz
        return np.stack([xyz.min(axis=0), xyz.max(axis=0)]) if len(xyz) else np.zeros((2, 3))


def solid_part(
    kind: Kind, key: str, role: str, mesh: Mesh | None, thick: float = np.inf
) -> SpacePart | None:
    """A part of a body; None where there is no body."""
    return (
        None
        if mesh is None or not len(mesh.faces)
        else SpacePart(kind, key, role, mesh, thick=thick)
    )


Maker = Callable[[], SpacePart | None]
