"""Edits of surfaces and drawings: roles, the profile in force, layers, spikes, placing."""

from math import tau
from typing import Any

from msgspec.structs import replace

from zumbert.edits.records import with_one
from zumbert.errors import EditError
from zumbert.geometry.placing import Placing
from zumbert.geometry.spikes import all_spikes
from zumbert.geometry.tin import Tin
from zumbert.geometry.triangulate import without
from zumbert.model.background import Background
from zumbert.model.ids import BackgroundId, RoadId, SurfaceId
from zumbert.model.project import Project
from zumbert.model.surface import Role, Surface


def set_role(project: Project, surface: SurfaceId, role: Role) -> Project:
    """The project with a surface in a role; a surface that had this role before has none then."""
    if project.surfaces[surface].role == role:
        return project
    surfaces = {
        k: replace(s, role="none") if s.role == role != "none" and k != surface else s
        for k, s in project.surfaces.items()
    }
    surfaces[surface] = replace(surfaces[surface], role=role)
    return replace(project, surfaces=surfaces)


def leave_out_spikes(project: Project, surface: SurfaceId, height: float) -> tuple[Project, int]:
    """The project with a surface without its spikes of more than a height (m), and how many
    went.
    """
    s = project.surfaces[surface]
    vertices, faces, count = without_spikes(Tin(s.vertices, s.faces), height)
    return (
        (with_surface(project, surface, vertices=vertices, faces=faces), count)
        if count
        else (project, 0)
    )


def without_spikes(tin: Tin, height: float, unit: float = 1.0) -> tuple[Any, Any, int]:
    """A surface, one of whose units is `unit` m, without its spikes of more than a height (m):
    vertices in m, faces, and how many went. Raises EditError if the height is not above 0.
    """
    if not height > 0:
        raise EditError("A spike is measured by a height above nothing.")
    found = all_spikes(tin, height, unit)
    vertices, faces = without(tin, found) if found else (tin.vertices, tin.faces)
    return vertices * unit, faces, len(found)


def with_surface(project: Project, surface: SurfaceId, **values: Any) -> Project:
    """The project with fields of a surface replaced."""
    return replace(
        project,
        surfaces=with_one(project.surfaces, surface, replace(project.surfaces[surface], **values)),
    )


def set_profile(project: Project, road: RoadId, index: int | None) -> Project:
    """The project with another of a road's profiles in force, or none. Raises EditError for a
    profile that is not there.
    """
    r = project.roads[road]
    if index is not None and r.profiles[index].kind != "design":
        raise EditError(
            f'"{r.profiles[index].name}" is existing ground: only a design profile can be in force.'
        )
    return (
        project
        if r.design == index
        else replace(project, roads=with_one(project.roads, road, replace(r, design=index)))
    )


def show_layers(project: Project, background: BackgroundId, off: frozenset[str]) -> Project:
    """The project with some layers of a drawing out of sight."""
    b = project.backgrounds[background]
    if b.off == off:
        return project
    return replace(
        project, backgrounds=with_one(project.backgrounds, background, replace(b, off=off))
    )


def read_again(project: Project, background: BackgroundId, fresh: Background) -> Project:
    """The project with a drawing as its file is now; layers that were off stay off, its place
    and strength too.
    """
    old = project.backgrounds[background]
    fresh = _placed(fresh, old.placing)
    kept = replace(
        fresh, id=old.id, off=old.off & set(fresh.layers), shown=old.shown, strength=old.strength
    )
    return replace(project, backgrounds=with_one(project.backgrounds, background, kept))


def in_units(project: Project, background: BackgroundId, metres: float) -> Project:
    """The project with one unit of a drawing taken as so many metres."""
    b = project.backgrounds[background]
    by = metres / b.metres
    if by == 1.0:
        return project
    scaled = replace(
        _placed(_placed(_placed(b, b.placing.back), Placing(by)), b.placing),
        placing=b.placing,
        metres=metres,
    )
    return replace(project, backgrounds=with_one(project.backgrounds, background, scaled))


def place_background(project: Project, background: BackgroundId, placing: Placing) -> Project:
    """The project with a drawing placed anew from where it is; its file, read again, is placed
    the same.
    """
    b = project.backgrounds[background]
    return replace(
        project, backgrounds=with_one(project.backgrounds, background, _placed(b, placing))
    )


def place_surface(project: Project, surface: SurfaceId, placing: Placing) -> Project:
    """The project with a surface placed anew from where it is; its levels stay."""
    s = project.surfaces[surface]
    vertices = s.vertices.copy()
    vertices[:, :2] = placing.apply(vertices[:, :2])
    return with_surface(project, surface, vertices=vertices, placing=placing.after(s.placing))


def own_origins(project: Project) -> dict[str, Placing]:
    """Sources that were placed, by name: from their own places (m) to those of the project."""
    out: dict[str, Placing] = {}
    sources: tuple[Background | Surface, ...] = (
        *project.backgrounds.values(),
        *project.surfaces.values(),
    )
    for s in (s for s in sources if s.placing != Placing()):
        # a drawing and a surface may have one name
        taken = out.setdefault(s.name, s.placing) != s.placing
        if taken:
            out[f"{s.name}, {s.id}"] = s.placing
    return out


def _placed(b: Background, p: Placing) -> Background:
    """A drawing with all that it holds placed."""

    def moved(things: tuple[Any, ...]) -> tuple[Any, ...]:
        xy = p.apply([(t.x, t.y) for t in things]).tolist() if things else []
        return tuple(
            replace(t.scaled(p.scale), x=x, y=y, turn=(t.turn - p.turn) % tau)
            for t, (x, y) in zip(things, xy, strict=True)
        )

    return replace(
        b,
        segments=p.apply(b.segments.reshape(-1, 2)).reshape(-1, 4),
        centres=None if b.centres is None else p.apply(b.centres),
        places=moved(b.places),
        texts=moved(b.texts),
        placing=p.after(b.placing),
    )
