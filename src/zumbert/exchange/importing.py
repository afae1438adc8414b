"""Open-format files into a project: read first, then built with the roles and units that one chooses."""

from collections.abc import Mapping, Sequence
from pathlib import Path

import numpy as np
from msgspec import Struct

from zumbert.analysis.roads import pieces
from zumbert.edits.setup import add_background, add_road, add_surface, set_standard, set_trench_type
from zumbert.errors import ReadError, known
from zumbert.exchange.dxf import UNITS, Drawing, read_dxf
from zumbert.exchange.landxml import LandXml, read_landxml
from zumbert.exchange.network_csv import read_pipes, read_structures
from zumbert.exchange.rows import decoded
from zumbert.exchange.toml import read_standard, read_trench
from zumbert.model.project import Project, new_project
from zumbert.model.surface import Role

Paths = Sequence[str | Path]


class Imported(Struct, frozen=True, kw_only=True):
    """The project, and in sentences what was found, told and left out."""

    project: Project
    notes: tuple[str, ...]


class Files(Struct, frozen=True, kw_only=True):
    """Files by what they hold."""

    landxml: tuple[Path, ...] = ()
    dxf: tuple[Path, ...] = ()
    structures: tuple[Path, ...] = ()
    pipes: tuple[Path, ...] = ()
    standard: Path | None = None
    trench: Path | None = None


class Found(Struct, frozen=True, kw_only=True):
    """What the large files hold, read once."""

    files: Files
    landxml: tuple[tuple[Path, LandXml], ...]
    drawings: tuple[tuple[Path, Drawing], ...]

    @property
    def surfaces(self) -> list[str]:
        """The names of all surfaces found."""
        return [s.name for _, found in self.landxml for s in found.surfaces]


def sorted_out(paths: Paths) -> Files:
    """Files told apart by their endings, CSV and TOML by what they hold. Raises ReadError for another kind."""
    kinds: dict[str, list[Path]] = {k: [] for k in ("landxml", "dxf", "structures", "pipes", "standard", "trench")}
    for path in map(Path, paths):
        ending = path.suffix.lower()
        if ending in (".xml", ".landxml"):
            kinds["landxml"].append(path)
        elif ending == ".dxf":
            kinds["dxf"].append(path)
        elif ending in (".csv", ".txt"):
            kinds["pipes" if "invert_up" in decoded(path)[:2000].lower() else "structures"].append(path)
        elif ending == ".toml":
            kinds["standard" if "[pipes" in decoded(path) else "trench"].append(path)
        else:
            raise ReadError(f"{path} is of no kind that is read here: LandXML, DXF, CSV or TOML.")
    one = {k: kinds[k][-1] if kinds[k] else None for k in ("standard", "trench")}
    many = {k: tuple(kinds[k]) for k in ("landxml", "dxf", "structures", "pipes")}
    return Files(**many, **one)  # type: ignore[arg-type]


def read_files(files: Files) -> Found:
    """Reads what takes long. Raises ReadError."""
    return Found(
        files=files,
        landxml=tuple((p, read_landxml(p)) for p in files.landxml),
        drawings=tuple((p, read_dxf(p)) for p in files.dxf),
    )


def guessed_roles(project: Project, found: Found) -> dict[str, Role]:
    """Roles to begin with: a surface that calls itself design is that, the first other one is existing ground."""
    taken = {s.role for s in project.surfaces.values()}
    roles: dict[str, Role] = {}
    for name in found.surfaces:
        role: Role = "design" if any(w in name.lower() for w in ("design", "proposed", "finished")) else "existing"
        roles[name] = "none" if role in taken else role
        taken.add(role)
    return roles


def built(
    project: Project, found: Found, roles: Mapping[str, Role], units: Mapping[Path, str] | None = None
) -> Imported:
    """The project with all that was found, the surfaces in their roles and the drawings in their units.

    Raises ReadError with a sentence for a bad row or table, EditError for a road that is there already.
    """
    notes: list[str] = []
    for path, xml in found.landxml:
        notes += [f"{path.name}: {note}" for note in xml.notes]
        notes.append(f"{path.name}: {len(xml.roads)} road(s), {len(xml.surfaces)} surface(s).")
        for road in xml.roads:
            project = add_road(project, road.name, road.elements, road.start, road.profiles)
        for surface in xml.surfaces:
            role = roles.get(surface.name, "none")
            project = add_surface(project, surface.name, role, surface.vertices, surface.faces)
            notes.append(f'The surface "{surface.name}" has {len(surface.faces)} faces, role: {role}.')
    for path, drawing in found.drawings:
        unit = (units or {}).get(path, drawing.unit)
        project = _with_drawing(project, drawing, unit)
        notes += [f"{path.name}: {note}" for note in drawing.notes]
    notes += _apart(project)
    return _with_tables(project, found.files, notes)


def _with_drawing(project: Project, drawing: Drawing, unit: str) -> Project:
    segments = drawing.segments * (UNITS[unit] / UNITS[drawing.unit])
    return add_background(
        project, drawing.name, drawing.layers, segments, drawing.layer, drawing.off, metres=UNITS[unit]
    )


def _with_tables(project: Project, files: Files, notes: list[str]) -> Imported:
    if files.standard is not None:
        project = set_standard(project, read_standard(files.standard))
    if files.trench is not None:
        project = set_trench_type(project, read_trench(files.trench))
    for path in files.structures:
        project = read_structures(project, path)
    for path in files.pipes:
        project = read_pipes(project, path)
    notes.append(f"{len(project.structures)} structure(s), {len(project.pipes)} pipe(s).")
    return Imported(project=project, notes=tuple(notes))


def import_files(
    name: str, landxml: Paths = (), structures: Paths = (), pipes: Paths = (),
    standard: str | Path | None = None, trench: str | Path | None = None,
    ground: str | None = None, design: str | None = None, dxf: Paths = (),
) -> Imported:  # fmt: skip
    """A project from files. Without `ground` a sole surface is existing ground; a design only by its name.

    Raises ReadError with a sentence, and there is no project, for anything that cannot be read.
    """
    files = Files(
        landxml=tuple(map(Path, landxml)), dxf=tuple(map(Path, dxf)), structures=tuple(map(Path, structures)),
        pipes=tuple(map(Path, pipes)), standard=None if standard is None else Path(standard),
        trench=None if trench is None else Path(trench),
    )  # fmt: skip
    found = read_files(files)
    return built(new_project(name), found, _roles(found.surfaces, ground, design))


def _roles(names: list[str], ground: str | None, design: str | None) -> dict[str, Role]:
    for option, wanted in (("--ground", ground), ("--design", design)):
        if wanted is not None and wanted not in names:
            raise ReadError(f'{option} "{wanted}" is no surface of these files: {known(wanted, names)}')
    rest = [n for n in names if n != design]
    if ground is None and len(rest) > 1:
        raise ReadError(
            f"There are {len(rest)} surfaces ({', '.join(rest)}): say which is the ground with --ground NAME."
        )
    ground = ground or (rest[0] if rest else None)
    return {n: "existing" if n == ground else "design" if n == design else "none" for n in names}


def _apart(project: Project) -> list[str]:
    """Drawings whose extents do not meet those of the surfaces and roads: told, since mostly a unit or origin is off."""
    known_places = [np.asarray(s.vertices)[:, :2] for s in project.surfaces.values()]
    known_places += [np.array([(e.x0, e.y0), (e.x1, e.y1)]) for r in project.roads.values() for e in pieces(r)]
    if not known_places:
        return []
    low, high = np.vstack(known_places).min(axis=0), np.vstack(known_places).max(axis=0)
    out = []
    for b in project.backgrounds.values():
        p = b.segments.reshape(-1, 2)
        if (p.min(axis=0) > high).any() or (p.max(axis=0) < low).any():
            out.append(f'The drawing "{b.name}" does not meet the roads and surfaces: check its unit and origin.')
    return out
