"""Surfaces, roads and drawings that are there: their roles, what is in force, what is shown, and taking them away."""

from msgspec.structs import replace

from zumbert.edits.records import with_one
from zumbert.errors import EditError
from zumbert.model.ids import BackgroundId, RoadId, SurfaceId
from zumbert.model.project import Project
from zumbert.model.structure import Anchored
from zumbert.model.surface import Role


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


def remove_surface(project: Project, surface: SurfaceId) -> Project:
    """The project without a surface."""
    return replace(project, surfaces={k: s for k, s in project.surfaces.items() if k != surface})


def set_profile(project: Project, road: RoadId, index: int | None) -> Project:
    """The project with another of a road's profiles in force, or none."""
    r = project.roads[road]
    if index is not None and r.profiles[index].kind != "design":
        raise EditError(f'"{r.profiles[index].name}" is existing ground: only a design profile can be in force.')
    return (
        project
        if r.design == index
        else replace(project, roads=with_one(project.roads, road, replace(r, design=index)))
    )


def remove_road(project: Project, road: RoadId) -> Project:
    """The project without a road. Raises EditError while structures are anchored to it."""
    on = [s.label for s in project.structures.values() if isinstance(s.place, Anchored) and s.place.road == road]
    if on:
        names = ", ".join(on[:3]) + (" and more" if len(on) > 3 else "")
        raise EditError(f'{names} stand on "{project.roads[road].name}": delete or move them first.')
    return replace(project, roads={k: r for k, r in project.roads.items() if k != road})


def show_layers(project: Project, background: BackgroundId, off: frozenset[str]) -> Project:
    """The project with some layers of a drawing out of sight."""
    b = project.backgrounds[background]
    if b.off == off:
        return project
    return replace(project, backgrounds=with_one(project.backgrounds, background, replace(b, off=off)))


def remove_background(project: Project, background: BackgroundId) -> Project:
    """The project without a drawing."""
    return replace(project, backgrounds={k: b for k, b in project.backgrounds.items() if k != background})
