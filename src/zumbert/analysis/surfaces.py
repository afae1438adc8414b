"""The surfaces of a project by role, ready to be asked for levels."""

import numpy as np
from msgspec import Struct
from numpy.typing import ArrayLike

from zumbert.geometry.elements import Array
from zumbert.geometry.tin import Tin
from zumbert.model.project import Project
from zumbert.model.surface import Role, Surface


class Surfaces(Struct, frozen=True, eq=False):
    """The surface in force for each role, None where there is none."""

    existing: Tin | None
    design: Tin | None
    formation: Tin | None
    made_from: tuple[Surface, ...]


def surfaces(project: Project, before: Surfaces | None) -> Surfaces:
    """The surfaces in force; the first of a role counts. Those of an unchanged project are kept."""
    records = tuple(project.surfaces.values())
    if before is not None and len(records) == len(before.made_from):
        if all(a is b for a, b in zip(records, before.made_from, strict=True)):
            return before
    kept = {}
    if before is not None:
        for record in before.made_from:
            kept[id(record.vertices), id(record.faces)] = _of_role(before, record.role)

    def tin(role: Role) -> Tin | None:
        record = next((r for r in records if r.role == role), None)
        if record is None:
            return None
        return kept.get((id(record.vertices), id(record.faces))) or Tin(record.vertices, record.faces)

    return Surfaces(existing=tin("existing"), design=tin("design"), formation=tin("formation"), made_from=records)


def _of_role(surfaces: Surfaces, role: str) -> Tin | None:
    return {"existing": surfaces.existing, "design": surfaces.design, "formation": surfaces.formation}.get(role)


def levels(tin: Tin | None, x: ArrayLike, y: ArrayLike) -> Array:
    """Levels (m) of a surface at points, NaN where there is none."""
    return np.full(np.shape(x), np.nan) if tin is None else tin.level(x, y)
