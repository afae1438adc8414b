"""Surfaces, points and grids into a project."""

from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from msgspec.structs import replace

from zumbert.edits.ground import without_spikes
from zumbert.edits.setup import add_surface
from zumbert.errors import ReadError
from zumbert.exchange.landxml import Source, SurfaceFound, triangulated
from zumbert.exchange.points import PointColumn, PointText, points_of
from zumbert.exchange.sense import sound_faces
from zumbert.exchange.taking.choices import Taking
from zumbert.geometry.elements import Array
from zumbert.geometry.kept import kept
from zumbert.geometry.tin import Tin
from zumbert.model.display import counted
from zumbert.model.project import Project


def with_surface(project: Project, surface: SurfaceFound, taking: Taking) -> Project:
    """The project with a surface in its role, as one chose; without a role it is left out.
    Raises ReadError.
    """
    if surface.name in taking.joined:
        return project
    role = taking.choices.roles.get(surface.name)
    if role is None:
        taking.notes.append(f'The surface "{surface.name}" is left out.')
        return project
    if surface.source is not None and taking.choices.leave_crossed:
        surface = _without_crossed(surface.name, surface.source, surface.unit)
    vertices, faces, odd = sound_faces(surface.name, surface.vertices, surface.faces)
    if not len(faces):
        raise ReadError(
            f'Nothing of the surface "{surface.name}" lies on land: check its unit and its levels.'
        )
    taking.notes += [*surface.notes, *odd]
    if taking.choices.spikes is not None:
        vertices, faces, count = _spikes_out(surface, taking.choices.spikes)
        if count:
            taking.notes.append(f'{counted(count, "spike")} of "{surface.name}" left out.')
    project = add_surface(project, surface.name, role, vertices, faces)
    left = next(reversed(project.surfaces.values()))
    taking.notes.append(
        f'The surface "{surface.name}" has {counted(len(left.faces), "face")}, role: {role}.'
    )
    return project


def take_points(taking: Taking, project: Project, path: Path, text: PointText) -> Project:
    """The surface over a file of points."""
    if text.name in taking.joined:
        return project
    if taking.choices.roles.get(text.name) is None:
        taking.notes.append(f'The points of "{text.name}" are left out.')
        return project
    by = taking.unit(project, text.path)
    told_points, surface = _over(text, taking.choices.columns.get(text.path), by)
    taking.notes += told_points
    return with_surface(project, surface, taking)


def take_grid(taking: Taking, project: Project, path: Path, grid: SurfaceFound) -> Project:
    """The surface of a grid."""
    return with_surface(project, _scaled(grid, taking.unit(project, path)), taking)


def as_one(project: Project, several: list[tuple[str, Source]], taking: Taking) -> Project:
    """One surface over the points and breaklines of several files, inside the boundaries of any,
    in the role of the first.
    """
    name = several[0][0]
    points = np.vstack([np.asarray(s.points, float).reshape(-1, 3) for _, s in several])
    taking.notes.append(f'"{name}" is one surface of {", ".join(n for n, _ in several)}.')
    try:
        lines, rings = (
            [b for _, s in several for b in s.breaklines],
            [b for _, s in several for b in s.boundaries],
        )
        surface = triangulated(name, Source(points, lines, rings), taking.choices.leave_crossed)
    except ValueError as e:
        raise ReadError(f"{', '.join(n for n, _ in several)} together: {e}.") from e
    return with_surface(project, replace(surface, source=None), taking)


@kept(2)
def _spikes_out(surface: SurfaceFound, height: float) -> tuple[Array, Any, int]:
    """A surface without its spikes, and how many went; kept while other things are chosen."""
    vertices, faces, odd = sound_faces(surface.name, surface.vertices, surface.faces)
    if odd or surface.tin is None:
        return without_spikes(Tin(vertices, faces), height)
    return without_spikes(surface.tin, height, surface.unit)


_points = kept(8)(points_of)


@kept(2)
def _over(
    text: PointText, columns: tuple[PointColumn, ...] | None, by: float
) -> tuple[tuple[str, ...], SurfaceFound]:
    """The surface over a file of points, and what is told of them; kept while other things are
    chosen.
    """
    points = _points(text, columns)
    notes = tuple(
        f"{text.path.name}: {n}" for n in (f"{counted(len(points.xyz), 'point')}.", *points.notes)
    )
    try:
        return notes, triangulated(text.name, Source(points.xyz, [], []), unit=by)
    except ValueError as e:
        raise ReadError(f"{text.path.name}: {e}.") from e


@lru_cache(maxsize=8)
def _without_crossed(name: str, source: Source, unit: float) -> SurfaceFound:
    """A surface anew, without breaklines that cross an earlier one."""
    return triangulated(name, source, True, unit)


@kept(2)
def _scaled(surface: SurfaceFound, by: float) -> SurfaceFound:
    return replace(surface, vertices=surface.vertices * by, tin=_tin(surface), unit=by)


@kept(1)
def _tin(surface: SurfaceFound) -> Tin:
    return Tin(surface.vertices, surface.faces)
