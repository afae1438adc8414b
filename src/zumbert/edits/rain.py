"""The rain that a project is drained for."""

from typing import Any

from msgspec.structs import replace

from zumbert.errors import EditError
from zumbert.model.project import Project, Travel
from zumbert.model.rain import Rain, atlas_name, rain_fault


def set_rain(project: Project, rain: Rain | None) -> Project:
    """The project with a rain, or without one. Raises EditError for one that cannot be."""
    if rain is not None and (fault := rain_fault(rain)) is not None:
        raise EditError(f"This rain cannot be: {fault}.")
    return project if rain == project.rain else replace(project, rain=rain)


def change_rain(project: Project, **values: Any) -> Project:
    """The project with fields of its rain replaced; a rain by formula where there was none. One
    from the atlas with another source is no longer of its place, nor called by it. Raises
    EditError.
    """
    old = project.rain or Rain()
    if old.place is not None and values.get("source", old.source) != old.source:
        named = {"name": Rain().name} if old.name == atlas_name(old.place) else {}
        values = {"place": None, **named, **values}
    return set_rain(project, replace(old, **values))


def set_travel(project: Project, travel: Travel) -> Project:
    """The project with the velocity that water travels with from structure to structure."""
    return replace(project, settings=replace(project.settings, travel=travel))
