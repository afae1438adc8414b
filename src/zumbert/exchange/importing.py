"""A project from open-format files."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np
from msgspec import Struct

from zumbert.edits.setup import add_background, add_road, add_surface, set_standard, set_trench_type
from zumbert.errors import ReadError, known
from zumbert.exchange.dxf import UNITS, read_dxf
from zumbert.exchange.landxml import SurfaceFound, read_landxml
from zumbert.exchange.network_csv import read_pipes, read_structures
from zumbert.exchange.toml import read_standard, read_trench
from zumbert.model.project import Project, new_project
from zumbert.model.surface import Role

Paths = Sequence[str | Path]


class Imported(Struct, frozen=True, kw_only=True):
    """The project, and in sentences what was found, told and left out."""

    project: Project
    notes: tuple[str, ...]


def import_files(
    name: str, landxml: Paths = (), structures: Paths = (), pipes: Paths = (),
    standard: str | Path | None = None, trench: str | Path | None = None,
    ground: str | None = None, design: str | None = None, dxf: Paths = (),
) -> Imported:  # fmt: skip
    """A project from files. Without `ground` a sole surface is existing ground; a design only by its name.

    Raises ReadError with a sentence, and there is no project, for anything that cannot be read.
    """
    project, notes = new_project(name), list[str]()
    surfaces: list[SurfaceFound] = []
    for path in landxml:
        found = read_landxml(path)
        notes += [f"{Path(path).name}: {note}" for note in found.notes]
        notes.append(f"{Path(path).name}: {len(found.roads)} road(s), {len(found.surfaces)} surface(s).")
        for road in found.roads:
            project = add_road(project, road.name, road.elements, road.start, road.profiles)
        surfaces += found.surfaces
    project = _with_surfaces(project, surfaces, ground, design, notes)
    for path in dxf:
        drawing = read_dxf(path)
        notes += [f"{Path(path).name}: {note}" for note in drawing.notes]
        project = add_background(
            project, drawing.name, drawing.layers, drawing.segments, drawing.layer, drawing.off, UNITS[drawing.unit]
        )
    notes += _apart(project)
    if standard is not None:
        project = set_standard(project, read_standard(standard))
    if trench is not None:
        project = set_trench_type(project, read_trench(trench))
    for path in structures:
        project = read_structures(project, path)
    for path in pipes:
        project = read_pipes(project, path)
    notes.append(f"{len(project.structures)} structure(s), {len(project.pipes)} pipe(s).")
    return Imported(project=project, notes=tuple(notes))


def _apart(project: Project) -> list[str]:
    """Drawings whose extents do not meet those of the surfaces and roads: told, since mostly a unit or origin is off."""
    known = [np.asarray(s.vertices)[:, :2] for s in project.surfaces.values()]
    known += [np.array([(e.x0, e.y0), (e.x1, e.y1)]) for r in project.roads.values() for e in r.elements]
    if not known:
        return []
    low, high = np.vstack(known).min(axis=0), np.vstack(known).max(axis=0)
    out = []
    for b in project.backgrounds.values():
        p = b.segments.reshape(-1, 2)
        if (p.min(axis=0) > high).any() or (p.max(axis=0) < low).any():
            out.append(f'The drawing "{b.name}" does not meet the roads and surfaces: check its unit and origin.')
    return out


def _with_surfaces(
    project: Project, found: list[SurfaceFound], ground: str | None, design: str | None, notes: list[str]
) -> Project:
    names = [s.name for s in found]
    for option, wanted in (("--ground", ground), ("--design", design)):
        if wanted is not None and wanted not in names:
            raise ReadError(f'{option} "{wanted}" is no surface of these files: {known(wanted, names)}')
    rest = [n for n in names if n != design]
    if ground is None and len(rest) > 1:
        raise ReadError(
            f"There are {len(rest)} surfaces ({', '.join(rest)}): say which is the ground with --ground NAME."
        )
    ground = ground or (rest[0] if rest else None)
    for surface in found:
        role: Role = "existing" if surface.name == ground else "design" if surface.name == design else "none"
        project = add_surface(project, surface.name, role, surface.vertices, surface.faces)
        notes.append(f'The surface "{surface.name}" has {len(surface.faces)} faces, role: {role}.')
    return project
