"""Sets a project up: roads, surfaces, drawings, standards, trench types, networks."""

from collections.abc import Collection
from typing import Any

from msgspec.structs import replace

from zumbert.edits.basis import requoted
from zumbert.errors import EditError
from zumbert.model.background import Background
from zumbert.model.ids import BackgroundId, NetworkId, RoadId, StandardId, SurfaceId, TrenchTypeId
from zumbert.model.network import Network
from zumbert.model.project import Project, Settings, with_id
from zumbert.model.road import Piece, Road, RoadProfile
from zumbert.model.standard import Standard
from zumbert.model.surface import Role, Surface
from zumbert.model.trench import TrenchType


def add_road(
    project: Project,
    name: str,
    elements: tuple[Piece, ...],
    start: float = 0.0,
    profiles: tuple[RoadProfile, ...] = (),
) -> Project:
    """The project with a new road; its first design profile is in force. Raises EditError for a
    name in use.
    """
    if any(r.name == name for r in project.roads.values()):
        raise EditError(f'There is already a road "{name}": give this one another name.')
    project, key = with_id(project, "r")
    design = next((i for i, p in enumerate(profiles) if p.kind == "design"), None)
    road = Road(
        id=RoadId(key), name=name, elements=elements, start=start, profiles=profiles, design=design
    )
    return replace(project, roads={**project.roads, road.id: road})


def add_surface(project: Project, name: str, role: Role, vertices: Any, faces: Any) -> Project:
    """The project with one surface more: vertices (n, 3) in m, faces (m, 3) of vertex numbers.

    Contours show for existing ground; those of other surfaces are switched on where they are
    wanted.
    """
    project, key = with_id(project, "g")
    surface = Surface(
        id=SurfaceId(key),
        name=name,
        role=role,
        shown=role == "existing",
        vertices=vertices,
        faces=faces,
    )
    return replace(project, surfaces={**project.surfaces, surface.id: surface})


def add_background(project: Project, background: Background) -> Project:
    """The project with a drawing under its plan; it gets an id of its own."""
    project, key = with_id(project, "b")
    background = replace(background, id=BackgroundId(key))
    return replace(project, backgrounds={**project.backgrounds, background.id: background})


def set_standard(
    project: Project, standard: Standard, taken_by: Collection[NetworkId] | None = None
) -> Project:
    """The project with a standard more, and the networks that take it (None: all)."""
    project, key = with_id(project, "d")
    standard = replace(standard, id=StandardId(key))
    some = project.networks if taken_by is None else taken_by
    networks = {
        k: replace(n, standard=standard.id) if k in some else n for k, n in project.networks.items()
    }
    return replace(
        project, standards={**project.standards, standard.id: standard}, networks=networks
    )


def set_trench_type(
    project: Project, trench: TrenchType, taken_by: Collection[NetworkId] | None = None
) -> Project:
    """The project with a trench type more, and the networks that take it (None: all)."""
    project, key = with_id(project, "t")
    trench = replace(trench, id=TrenchTypeId(key))
    some = project.networks if taken_by is None else taken_by
    networks = {
        k: replace(n, trench=trench.id) if k in some else n for k, n in project.networks.items()
    }
    return replace(
        project, trench_types={**project.trench_types, trench.id: trench}, networks=networks
    )


def network_named(project: Project, name: str) -> tuple[Project, NetworkId]:
    """The network of a name, made on the first network's standard and trench type where there is
    none yet.
    """
    first = next(iter(project.networks.values()))
    wanted = name.strip() or first.name
    for network in project.networks.values():
        if network.name.casefold() == wanted.casefold():
            return project, network.id
    project, key = with_id(project, "n")
    network = Network(id=NetworkId(key), name=wanted, standard=first.standard, trench=first.trench)
    return replace(project, networks={**project.networks, network.id: network}), network.id


def rename_project(project: Project, name: str) -> Project:
    """The project of another name."""
    return project if name == project.name else replace(project, name=name)


def with_settings(project: Project, settings: Settings) -> Project:
    """The project with other settings. A change of the invert basis moves no pipe: the quoted
    inverts change with it.
    """
    if settings == project.settings:
        return project
    return requoted(project, replace(project, settings=settings))
