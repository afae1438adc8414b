"""The surfaces of a project by role."""

from typing import Protocol

import numpy as np
from msgspec import Struct
from numpy.typing import ArrayLike

from zumbert.analysis.roads import RoadFacts
from zumbert.analysis.strips import Strips
from zumbert.geometry.elements import Array
from zumbert.geometry.strip import strip_tins
from zumbert.geometry.tin import Tin
from zumbert.model.ids import RoadId
from zumbert.model.project import Project
from zumbert.model.surface import Role, Surface


class Ground(Protocol):
    """Anything that has levels: a triangulated surface, or the strips of several roads."""

    def level(self, x: ArrayLike, y: ArrayLike) -> Array:
        """Levels (m) at points, NaN where there are none."""

    def section(self, xy: ArrayLike) -> tuple[Array, Array]:
        """Distances and levels (m) along a plan polyline."""

    def sections(self, start: ArrayLike, end: ArrayLike) -> tuple[np.ndarray, Array, Array]:
        """Offsets, distances and levels (m) along many straight lines."""


class Surfaces(Struct, frozen=True, eq=False):
    """The surface in force for each role, None where there is none, and what each is called."""

    existing: Tin | None
    design: Ground | None
    formation: Ground | None
    rock: Tin | None
    names: dict[str, str]  # by role
    made_from: tuple[object, ...]
    faults: dict[RoadId, str]  # roads whose strip can give no surface, and why

    def name(self, role: str | None) -> str:
        """The name of the surface of a role, which stands beside each of its levels."""
        return self.names.get(role or "", _WORDS.get(role or "", ""))


_WORDS = {
    "existing": "existing ground",
    "design": "design surface",
    "rims": "straight between the rims",
    "fixed": "fixed",
}


def surfaces(project: Project, roads: dict[RoadId, RoadFacts], before: Surfaces | None) -> Surfaces:
    """The surfaces in force; the first of a role counts. Those of an unchanged project are kept.

    The strips of roads give design surface and formation where no surface has that role.
    """
    records = tuple(project.surfaces.values())
    strips = tuple(r for r in roads.values() if r.road.strip is not None and r.road.strip.surface)
    made_from = (*records, *strips)
    if before is not None and len(made_from) == len(before.made_from):
        if all(a is b for a, b in zip(made_from, before.made_from, strict=True)):
            return before
    kept = _kept(before)
    found: dict[str, Tin | None] = {}
    names: dict[str, str] = {}
    for role in ("existing", "design", "formation", "rock"):
        record = next((r for r in records if r.role == role), None)
        found[role] = None if record is None else _tin(record, kept)
        if record is not None:
            names[role] = record.name
    design, formation, faults = _strips(
        strips, found["design"] is None, found["formation"] is None, names
    )
    return Surfaces(
        existing=found["existing"],
        design=found["design"] or design,
        formation=found["formation"] or formation,
        rock=found["rock"],
        names=names,
        made_from=made_from,
        faults=faults,
    )


def _tin(record: Surface, kept: dict[tuple[int, int], Tin]) -> Tin:
    return kept.get((id(record.vertices), id(record.faces))) or Tin(record.vertices, record.faces)


def _kept(before: Surfaces | None) -> dict[tuple[int, int], Tin]:
    """Surfaces that are built already, by their arrays."""
    out: dict[tuple[int, int], Tin] = {}
    by_role: dict[Role, object] = {}
    if before is not None:
        by_role = {
            "existing": before.existing,
            "design": before.design,
            "formation": before.formation,
            "rock": before.rock,
        }
        for record in before.made_from:
            tin = by_role.get(record.role) if isinstance(record, Surface) else None
            if isinstance(record, Surface) and isinstance(tin, Tin) and tin.is_of(record.vertices):
                out[id(record.vertices), id(record.faces)] = tin
    return out


def _strips(
    roads: tuple[RoadFacts, ...], design: bool, formation: bool, names: dict[str, str]
) -> tuple[Ground | None, Ground | None, dict[RoadId, str]]:
    """Design surface and formation of road strips, as far as they are wanted."""
    made, faults = [], {}
    for r in roads if design or formation else ():
        strip = r.road.strip
        if strip is None:
            continue
        if r.profile is None:
            faults[r.road.id] = "it has no design profile in force"
            continue
        try:
            made.append(
                (
                    r.alignment,
                    strip_tins(r.alignment, r.profile, strip.sections, strip.depth),
                    r.road.name,
                )
            )
        except ValueError as e:
            faults[r.road.id] = str(e)
    if not made:
        return None, None, faults
    lines = [a for a, _, _ in made]
    words = f"strip of {', '.join(name for _, _, name in made)}"
    out: list[Ground | None] = []
    for role, wanted in (("design", design), ("formation", formation)):
        tins = [getattr(t, role) for _, t, _ in made]
        if wanted:
            names[role] = words if role == "design" else f"formation of the {words}"
        out.append(None if not wanted else tins[0] if len(tins) == 1 else Strips(lines, tins))
    return out[0], out[1], faults


def levels(tin: Ground | None, x: ArrayLike, y: ArrayLike) -> Array:
    """Levels (m) of a surface at points, NaN where there is none."""
    return np.full(np.shape(x), np.nan) if tin is None else tin.level(x, y)
