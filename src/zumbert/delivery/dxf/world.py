"""From the project's places to those of a file: the units and origin of the project, or of the
drawing under its plan.
"""

from typing import Any, NamedTuple

import numpy as np

from zumbert.geometry.elements import Array
from zumbert.geometry.placing import Placing
from zumbert.model.background import UNITS
from zumbert.model.project import Project

INSUNITS = {
    "m": 6,
    "mm": 4,
    "ft": 2,
    "US survey ft": 21,
    "cm": 5,
    "in": 1,
    "dm": 14,
    "km": 7,
    "yd": 10,
    "mi": 3,
}


class FileWorld(NamedTuple):
    """The placing back to a drawing's own origin, and how many metres one of its units is."""

    back: Placing
    metres: float

    @property
    def k(self) -> float:
        """Units of the file for one metre of the project."""
        return self.back.scale / self.metres

    @property
    def units(self) -> int:
        """The number that a DXF header has for its unit."""
        name = min(UNITS, key=lambda n: abs(UNITS[n] - self.metres))
        return INSUNITS.get(name, 0) if abs(UNITS[name] - self.metres) < 1e-9 * self.metres else 0

    def xy(self, places: Any) -> Array:
        """Places (n, 2) in units of the file."""
        return self.back.apply(np.asarray(places, float)) / self.metres

    def xyz(self, places: Any) -> Array:
        """Places with levels (n, 3) in units of the file."""
        p = np.asarray(places, float).reshape(-1, 3)
        return np.column_stack([self.xy(p[:, :2]), p[:, 2] / self.metres])


def world_of(project: Project) -> FileWorld:
    """Where files are written: as the drawing that was chosen for it has it, else as the project
    has it.
    """
    drawing = (
        None
        if project.delivery.origin is None
        else project.backgrounds.get(project.delivery.origin)
    )
    if drawing is not None:
        return FileWorld(drawing.placing.back, drawing.metres)
    return FileWorld(Placing(), project.units.metres)
