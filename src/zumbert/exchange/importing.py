"""Open-format files into a project: read first, then built with the roles, units and uses that one chooses."""

from collections.abc import Mapping
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from zumbert.analysis import analyse
from zumbert.analysis.roads import pieces
from zumbert.edits.ground import without_spikes
from zumbert.edits.land import add_land, add_service
from zumbert.edits.revision import revised
from zumbert.edits.setup import add_background, add_road, add_surface, set_standard, set_trench_type
from zumbert.errors import EditError, ReadError, known
from zumbert.exchange.dxf import Drawing, read_dxf, stamp_of, surface_of
from zumbert.exchange.found import Files, Found, Paths, Tell, read_files
from zumbert.exchange.land_csv import read_land, read_services
from zumbert.exchange.landxml import Source, SurfaceFound, told, triangulated
from zumbert.exchange.landxml_roads import RoadFound
from zumbert.exchange.network_csv import read_pipes, read_structures
from zumbert.exchange.points import PointText, What, points_of
from zumbert.exchange.rows import MOST_TOLD
from zumbert.exchange.rows import told as told_rows
from zumbert.exchange.sense import sound_faces
from zumbert.exchange.toml import read_standard, read_trench
from zumbert.geometry.alignment import Alignment
from zumbert.geometry.elements import Array
from zumbert.geometry.tin import Tin
from zumbert.model.background import UNITS, Background
from zumbert.model.display import Units, counted
from zumbert.model.ids import BackgroundId, NetworkId, StructureId
from zumbert.model.project import Project, Settings, new_project
from zumbert.model.surface import Role

LAYER_USES: tuple[tuple[str, str], ...] = (
    ("", "drawing alone"), ("land reserve", "road reserve"), ("land easement", "easement"), ("land property", "property"),
    ("service water", "water"), ("service gas", "gas"), ("service power", "power"), ("service telecom", "telecom"),
    ("service sewer", "sewer"), ("leave", "leave it out"),
)  # fmt: skip


FAR_OFF = 5.0  # m between a rim and its surface that is told


class BadRows(ReadError):
    """Rows of tables that cannot be taken, while the others can."""


class Imported(Struct, frozen=True, kw_only=True):
    """The project, and in sentences what was found, told and left out."""

    project: Project
    notes: tuple[str, ...]


class Choices(Struct, frozen=True, kw_only=True):
    """What one chooses in the summary. A surface without a role here is left out, a road not named here too."""

    roles: Mapping[str, Role]
    roads: frozenset[str] | None = None  # None: all
    same_roads: Mapping[
        str, str
    ] = {}  # how a road of a name that is there is taken: "replace", or the name that it gets
    taken_by: frozenset[NetworkId] | None = None  # networks that take an imported standard or trench type; None: all
    units: Mapping[Path, str] = {}  # of drawings, points, grids and tables
    layers: Mapping[tuple[Path, str], str] = {}  # uses of layers, of LAYER_USES
    columns: Mapping[Path, tuple[What, ...]] = {}  # of files of points
    spikes: float | None = None  # m: vertices farther off the plane of their neighbours are left out
    tables: Mapping[Path, tuple[str, ...]] = {}  # of tables whose heads are not ours: what each column is
    one_surface: bool = False  # points and lines with levels of several files make one surface, named as the first
    leave_bad: bool = False  # rows of tables that cannot be taken are left out and told
    leave_crossed: bool = False  # breaklines that cross an earlier one count as points only


def guessed_roles(project: Project, found: Found) -> dict[str, Role]:
    """Roles to begin with: a surface that calls itself design is that, the first other one is existing ground."""
    taken = {s.role for s in project.surfaces.values()}
    roles: dict[str, Role] = {}
    for name in found.surfaces:
        words = name.lower()
        role: Role = "existing"
        for wanted, signs in (
            ("design", ("design", "proposed", "finished")), ("formation", ("formation", "subgrade")), ("rock", ("rock",)),
        ):  # fmt: skip
            if any(w in words for w in signs):
                role = wanted  # type: ignore[assignment]
        roles[name] = "none" if role in taken else role
        taken.add(role)
    return roles


def built(project: Project, found: Found, choices: Choices, tell: Tell = lambda share, words: None) -> Imported:
    """The project with all that was found and chosen; `tell` hears what comes next, and may raise Cancelled.

    Raises ReadError with a sentence for a bad row or table, EditError for a road that is there already.
    """
    notes: list[str] = []
    several = _sources(found, choices, project) if choices.one_surface else []
    joined = {name for name, _ in several} if len(several) > 1 else set()
    if joined:
        project = _as_one(project, several, choices, notes)
        choices = replace(choices, roles={n: r for n, r in choices.roles.items() if n not in joined})
    for path, xml in found.landxml:
        notes += [f"{path.name}: {note}" for note in xml.notes]
        notes.append(f"{path.name}: {counted(len(xml.roads), 'road')}, {counted(len(xml.surfaces), 'surface')}.")
        for road in xml.roads:
            notes.append(_summary(project.units, road))
            if choices.roads is None or road.name in choices.roads:
                project = _with_road(project, road, choices, notes)
            else:
                notes.append(f'The road "{road.name}" is left out.')
        for surface in xml.surfaces:
            tell(0.1, f'The surface "{surface.name}"')
            if surface.name not in joined:
                project = _with_surface(project, surface, choices, notes)
    for text in found.points:
        tell(0.4, text.path.name)
        if text.name not in joined:
            project = _with_points(project, text, choices, notes)
    for path, grid in found.grids:
        tell(0.6, path.name)
        by = _unit(project, path, choices, notes)
        project = _with_surface(project, _scaled(grid, by), choices, notes)
    for path, drawing in found.drawings:
        tell(0.8, path.name)
        unit = choices.units.get(path, drawing.unit)
        notes += [f"{path.name}: {note}" for note in drawing.notes]
        project = _with_drawing(project, path, drawing, unit, choices, notes)
    notes += _apart(project)
    tell(0.9, "Lists")
    return _with_tables(project, found.files, choices, notes)


def _with_road(project: Project, road: RoadFound, choices: Choices, notes: list[str]) -> Project:
    """A road more, or one that is there anew."""
    there = next((k for k, r in project.roads.items() if r.name == road.name), None)
    how = choices.same_roads.get(road.name) if there is not None else None
    if there is not None and how == "replace":
        project, told = revised(project, analyse(project), there, road.elements, road.start, road.profiles)
        notes += told
        return project
    return add_road(project, how or road.name, road.elements, road.start, road.profiles)


def _summary(u: Units, road: RoadFound) -> str:
    """A road in one sentence: length, chainages, pieces, where it lies, its profiles and what of it they cover."""
    line = Alignment(road.elements, road.start)
    x0, y0, x1, y1 = line.extents
    out = (
        f'The road "{road.name}": {u.long(line.length)}, {u.chainage(line.start)} to {u.chainage(line.end)}, '
        f"{counted(len(road.elements), 'element')}, x {u.coordinate(x0, 0)} to {u.coordinate(x1, 0)}, "
        f"y {u.coordinate(y0, 0)} to {u.coordinate(y1, 0)} {u.m}"
    )
    for p in road.profiles:
        a, b = p.pvis[0].chainage, p.pvis[-1].chainage
        bare = max(0.0, a - line.start) + max(0.0, line.end - b)
        cover = "all along it" if bare < 0.005 else f"{u.long(min(bare, line.length))} of the road without"
        out += f'; profile "{p.name}" ({p.kind}), {u.chainage(a)} to {u.chainage(b)}, {cover}'
    return out + ("." if road.profiles else "; no profile.")


def _with_surface(project: Project, surface: SurfaceFound, choices: Choices, notes: list[str]) -> Project:
    role = choices.roles.get(surface.name)
    if role is None:
        notes.append(f'The surface "{surface.name}" is left out.')
        return project
    if surface.source is not None and choices.leave_crossed:
        surface = _without_crossed(surface.name, surface.source, surface.unit)
    vertices, faces, odd = sound_faces(surface.name, surface.vertices, surface.faces)
    if not len(faces):
        raise ReadError(f'Nothing of the surface "{surface.name}" lies on land: check its unit and its levels.')
    notes += [*surface.notes, *odd]
    if choices.spikes is not None:
        vertices, faces, count = _spikes_out(surface, choices.spikes)
        if count:
            notes.append(f'{counted(count, "spike")} of "{surface.name}" left out.')
    project = add_surface(project, surface.name, role, vertices, faces)
    left = next(reversed(project.surfaces.values()))
    notes.append(f'The surface "{surface.name}" has {counted(len(left.faces), "face")}, role: {role}.')
    return project


def _with_points(project: Project, text: PointText, choices: Choices, notes: list[str]) -> Project:
    if choices.roles.get(text.name) is None:
        notes.append(f'The points of "{text.name}" are left out.')
        return project
    by = _unit(project, text.path, choices, notes)
    told_points, surface = _over(text, choices.columns.get(text.path), by)
    notes += told_points
    return _with_surface(project, surface, choices, notes)


def _sources(found: Found, choices: Choices, project: Project) -> list[tuple[str, Source]]:
    """Points, breaklines and boundaries (m) of the files that are taken, by the name of the surface that each would be."""
    out: list[tuple[str, Source]] = []
    for _, xml in found.landxml:
        out += [(s.name, s.source) for s in xml.surfaces if s.source is not None and choices.roles.get(s.name)]
    for text in found.points:
        if choices.roles.get(text.name) is not None:
            by = UNITS[choices.units.get(text.path, usual_unit(project))]
            out.append((text.name, Source(points_of(text, choices.columns.get(text.path)).xyz * by, [], [])))
    for path, d in found.drawings:
        if choices.roles.get(f"{d.name} levels") is not None and not len(d.faces):
            by = UNITS[choices.units.get(path, d.unit)] / UNITS[d.unit]
            out.append((f"{d.name} levels", Source(d.points * by, [line.xyz * by for line in d.deep_lines], [])))
    return out


def _as_one(project: Project, several: list[tuple[str, Source]], choices: Choices, notes: list[str]) -> Project:
    """One surface over the points and breaklines of several files, inside the boundaries of any, in the role of the first."""
    name = several[0][0]
    points = np.vstack([np.asarray(s.points, float).reshape(-1, 3) for _, s in several])
    notes.append(f'"{name}" is one surface of {", ".join(n for n, _ in several)}.')
    try:
        lines, rings = [b for _, s in several for b in s.breaklines], [b for _, s in several for b in s.boundaries]
        surface = triangulated(name, Source(points, lines, rings), choices.leave_crossed)
    except ValueError as e:
        raise ReadError(f"{', '.join(n for n, _ in several)} together: {e}.") from e
    return _with_surface(project, replace(surface, source=None), choices, notes)


@lru_cache(maxsize=8)
def _spikes_out(surface: SurfaceFound, height: float) -> tuple[Array, Any, int]:
    """A surface without its spikes, and how many went; kept while other things are chosen."""
    vertices, faces, odd = sound_faces(surface.name, surface.vertices, surface.faces)
    if odd or surface.tin is None:
        return without_spikes(Tin(vertices, faces), height)
    return without_spikes(surface.tin, height, surface.unit)


_points = lru_cache(maxsize=8)(points_of)


@lru_cache(maxsize=8)
def _over(text: PointText, columns: tuple[What, ...] | None, by: float) -> tuple[tuple[str, ...], SurfaceFound]:
    """The surface over a file of points, and what is told of them; kept while other things are chosen."""
    points = _points(text, columns)
    notes = tuple(f"{text.path.name}: {n}" for n in (f"{counted(len(points.xyz), 'point')}.", *points.notes))
    try:
        return notes, triangulated(text.name, Source(points.xyz, [], []), unit=by)
    except ValueError as e:
        raise ReadError(f"{text.path.name}: {e}.") from e


@lru_cache(maxsize=8)
def _without_crossed(name: str, source: Source, unit: float) -> SurfaceFound:
    """A surface anew, without breaklines that cross an earlier one."""
    return triangulated(name, source, True, unit)


@lru_cache(maxsize=8)
def _scaled(surface: SurfaceFound, by: float) -> SurfaceFound:
    return replace(surface, vertices=surface.vertices * by, tin=_tin(surface), unit=by)


@lru_cache(maxsize=8)
def _tin(surface: SurfaceFound) -> Tin:
    return Tin(surface.vertices, surface.faces)


def _with_drawing(
    project: Project, path: Path, drawing: Drawing, unit: str, choices: Choices, notes: list[str]
) -> Project:
    by = UNITS[unit] / UNITS[drawing.unit]
    use = {layer: choices.layers.get((path, layer), "") for layer in drawing.layers}
    kept = [layer for layer in drawing.layers if use[layer] != "leave"]
    if kept:
        project = add_background(project, _background(drawing, unit, set(kept)))
    for layer, how in use.items():
        if how.startswith(("land ", "service ")):
            project = _with_layer(project, drawing, layer, how, by, notes)
    name = f"{drawing.name} levels"
    if choices.roles.get(name) is not None:
        try:
            surface = _levels_of(drawing, name, by)
        except ValueError as e:
            raise ReadError(f"{path.name}: its lines and points with levels make no surface: {e}.") from e
        project = _with_surface(project, surface, choices, notes)
    return project


@lru_cache(maxsize=8)
def _levels_of(drawing: Drawing, name: str, by: float) -> SurfaceFound:
    """The surface of a drawing: its faces, else that over its lines with levels and its points. Its faults are told, as those
    of any other.
    """
    if not len(drawing.faces):
        return triangulated(name, Source(drawing.points, [line.xyz for line in drawing.deep_lines], []), unit=by)
    vertices, faces, _ = surface_of(drawing)
    vertices, faces, odd = sound_faces(name, vertices * by, faces)
    notes = (*odd, *told(name, Tin(vertices, faces)))
    return SurfaceFound(name=name, vertices=vertices, faces=faces, notes=notes)


def _background(drawing: Drawing, unit: str, kept: set[str]) -> Background:
    """A drawing as it lies under the plan, some of its layers left out."""
    by = UNITS[unit] / UNITS[drawing.unit]
    rows = np.array([layer in kept for layer in drawing.layers], bool)[drawing.layer]
    names = tuple(layer for layer in drawing.layers if layer in kept)
    number = np.array([names.index(layer) if layer in kept else -1 for layer in drawing.layers], np.int32)
    return Background(
        id=BackgroundId(""), name=drawing.name, layers=names, off=drawing.off & kept,
        segments=np.ascontiguousarray(drawing.segments[rows] * by), layer=number[drawing.layer[rows]],
        centres=drawing.centres * by, source=drawing.path, stamp=drawing.stamp, metres=UNITS[unit],
        places=tuple(p.scaled(by) for p in drawing.places if p.layer in kept),
        texts=tuple(t.scaled(by) for t in drawing.texts if t.layer in kept),
    )  # fmt: skip


def _with_layer(project: Project, drawing: Drawing, layer: str, how: str, by: float, notes: list[str]) -> Project:
    """The lines of a layer as areas of land (closed ones) or as services."""
    what, kind = how.split()
    taken = left = 0
    for line in drawing.lines:
        if line.layer != layer:
            continue
        xyz: Array = line.xyz * by
        places = [(float(x), float(y)) for x, y, _ in xyz]
        try:
            if what == "service":
                levels: list[Any] = xyz[:, 2].tolist() if line.deep else [None] * len(xyz)
                points = [(*p, z) for p, z in zip(places, levels, strict=True)]
                project, _ = add_service(project, kind, points)  # type: ignore[arg-type]
            elif len(xyz) > 3 and np.hypot(*(xyz[0] - xyz[-1])[:2]) < 0.01:
                project, _ = add_land(project, kind, places, _name_in(places, drawing, by))  # type: ignore[arg-type]
            else:
                left += 1
                continue
            taken += 1
        except EditError:
            left += 1
    found = counted(taken, "area of land", "areas of land") if what == "land" else counted(taken, "service")
    notes.append(f'Layer "{layer}": {found} ({kind})' + (f", {counted(left, 'line')} left out." if left else "."))
    return project


def drawing_again(old: Background, tell: Tell | None = None) -> Background:
    """A drawing's file as it is now, in the unit that the drawing has. Raises ReadError."""
    if old.source is None:
        raise ReadError(f'It is not known which file "{old.name}" came from: import it again.')
    unit = min(UNITS, key=lambda u: abs(UNITS[u] - old.metres))
    found = read_dxf(old.source, unit, tell)
    return _background(found, unit, set(found.layers))


def is_stale(b: Background) -> bool:
    """Whether a drawing's file is another than the one that was read; one that is gone is not."""
    if b.source is None or b.stamp is None:
        return False
    now = stamp_of(b.source)
    return now is not None and now != b.stamp


def _name_in(ring: list[tuple[float, float]], drawing: Drawing, by: float) -> str | None:
    """The text that stands in a closed line, such as a lot's number: of several the highest letters; None without one."""
    import shapely

    if not drawing.texts:
        return None
    area = shapely.make_valid(shapely.Polygon(ring))
    inside = [t for t in drawing.texts if shapely.contains_xy(area, t.x * by, t.y * by)]
    return max(inside, key=lambda t: t.height).text if inside else None


def _names(records: Mapping[Any, Any], without: int) -> str:
    """The names of records, but for the last ones."""
    names = [r.name for r in records.values()]
    return ", ".join(names[: len(names) - without])


def usual_unit(project: Project) -> str:
    """The unit that a list without one is taken to be in: that of the project's lengths."""
    return "ft" if project.units.us else "m"


def _unit(project: Project, path: Path, choices: Choices, notes: list[str]) -> float:
    """Metres of one unit of a file that names none; which it was is told."""
    picked = choices.units.get(path)
    name = picked or usual_unit(project)
    notes.append(f"{path.name}: its lengths are in {name}, {'as picked' if picked else 'as those of the project'}.")
    return UNITS[name]


def _with_tables(project: Project, files: Files, choices: Choices, notes: list[str]) -> Imported:
    before = project
    taken_by = choices.taken_by
    some = [n.name for k, n in project.networks.items() if taken_by is None or k in taken_by]
    words = f"taken by {', '.join(some)}" if some else "taken by no network yet"
    if files.standard is not None:
        standard = read_standard(files.standard)
        project = set_standard(project, standard, taken_by)
        notes.append(f'The standard "{standard.name}" is added to {_names(project.standards, 1)}: {words}.')
    if files.trench is not None:
        trench = read_trench(files.trench)
        project = set_trench_type(project, trench, taken_by)
        notes.append(f'The trench type "{trench.name}" is added to {_names(project.trench_types, 1)}: {words}.')
    bad: list[str] = []
    readers: tuple[tuple[tuple[Path, ...], Any], ...] = (
        (files.land, read_land), (files.services, read_services), (files.structures, read_structures), (files.pipes, read_pipes),
    )  # fmt: skip
    for paths, read in readers:
        for path in paths:
            project = read(project, path, _unit(project, path, choices, notes), bad, choices.tables.get(path))
    if bad and not choices.leave_bad:
        raise BadRows(told_rows(bad))
    if bad:
        notes += [f"Left out: {b}" for b in bad[:MOST_TOLD]]
        notes += [f"and {len(bad) - MOST_TOLD} rows more."] if len(bad) > MOST_TOLD else []
    for kinds, asked in (
        (
            (("land", "area of land", "areas of land"), ("services", "service", None)),
            bool(files.land or files.services),
        ),
        ((("structures", "structure", None), ("pipes", "pipe", None)), True),
    ):
        new = [counted(len(getattr(project, k)) - len(getattr(before, k)), one, many) for k, one, many in kinds]
        there = [counted(len(getattr(before, k)), one, many) for k, one, many in kinds if getattr(before, k)]
        if asked:
            notes.append(", ".join(new) + (f" new; {', '.join(there)} there before." if there else "."))
    if files.structures:
        notes += _off_ground(project, set(before.structures))
    return Imported(project=project, notes=tuple(notes))


def import_files(
    name: str, landxml: Paths = (), structures: Paths = (), pipes: Paths = (),
    standard: str | Path | None = None, trench: str | Path | None = None,
    ground: str | None = None, design: str | None = None, dxf: Paths = (),
    points: Paths = (), grids: Paths = (), land: Paths = (), services: Paths = (), settings: Settings | None = None,
    unit: str | None = None, leave_bad: bool = False,
) -> Imported:  # fmt: skip
    """A project from files. `unit` is that of lists, points and grids, and of drawings whose header names
    none. Without `ground` a sole surface is existing ground; a design only by its name.

    Raises ReadError with a sentence, and there is no project, for anything that cannot be read.
    """
    files = Files(
        landxml=tuple(map(Path, landxml)), dxf=tuple(map(Path, dxf)), structures=tuple(map(Path, structures)),
        pipes=tuple(map(Path, pipes)), standard=None if standard is None else Path(standard),
        trench=None if trench is None else Path(trench), points=tuple(map(Path, points)), grids=tuple(map(Path, grids)),
        land=tuple(map(Path, land)), services=tuple(map(Path, services)),
    )  # fmt: skip
    found = read_files(files)
    named = [n for n in found.surfaces if not n.endswith(" levels") or n in (ground, design)]
    if unit is not None and unit not in UNITS:
        raise ReadError(f'The unit "{unit}" is not known: {", ".join(UNITS)}.')
    asked = [*(d for d, drawing in found.drawings if not drawing.unit_told), *files.lists] if unit else []
    choices = Choices(
        roles=_roles(named, found.surfaces, ground, design), units={p: unit for p in asked if unit}, leave_bad=leave_bad
    )
    return built(new_project(name, settings), found, choices)


def _roles(names: list[str], known_names: list[str], ground: str | None, design: str | None) -> dict[str, Role]:
    for option, wanted in (("--ground", ground), ("--design", design)):
        if wanted is not None and wanted not in known_names:
            raise ReadError(f'{option} "{wanted}" is no surface of these files: {known(wanted, known_names)}')
    rest = [n for n in names if n != design]
    if ground is None and len(rest) > 1:
        raise ReadError(
            f"There are {len(rest)} surfaces ({', '.join(rest)}): say which is the ground with --ground NAME."
        )
    ground = ground or (rest[0] if rest else None)
    return {n: "existing" if n == ground else "design" if n == design else "none" for n in names}


def _apart(project: Project) -> list[str]:
    """What of the extents does not meet: drawings, land and surfaces, since mostly a unit or origin is off."""
    boxes: list[tuple[str, Array]] = [
        (f'The surface "{s.name}"', np.asarray(s.vertices)[:, :2]) for s in project.surfaces.values() if len(s.vertices)
    ]
    boxes += [
        (f'The road "{r.name}"', np.array([p for e in pieces(r) for p in ((e.x0, e.y0), (e.x1, e.y1))]))
        for r in project.roads.values()
    ]
    fixed = len(boxes)
    drawings = (b for b in project.backgrounds.values() if len(b.segments))
    boxes += [(f'The drawing "{b.name}"', b.segments.reshape(-1, 2)) for b in drawings]
    out = []
    for i, (name, xy) in enumerate(boxes):
        others = [o for j, (_, o) in enumerate(boxes) if j != i and (j < fixed or i < fixed)]
        if others and not any(_meet(xy, o) for o in others):
            out.append(f"{name} does not meet the roads and surfaces: check its unit and origin.")
    return out


def _off_ground(project: Project, before: set[StructureId]) -> list[str]:
    """New structures whose rims lie far off the ground: mostly a unit or a column is wrong."""
    facts, u = analyse(project), project.units
    off: list[tuple[float, str]] = []
    for k, p in facts.places.items():
        z = p.design if p.design is not None else p.ground
        if k not in before and p.rim is not None and z is not None and abs(p.rim - z) > FAR_OFF:
            off.append((abs(p.rim - z), f"{project.structures[k].label} by {u.deep(p.rim - z)}"))
    if not off:
        return []
    named = ", ".join(words for _, words in sorted(off, reverse=True)[:6]) + (" and more" if len(off) > 6 else "")
    return [f"{counted(len(off), 'rim')} far off the ground: {named}. Check unit and columns."]


def _meet(a: Array, b: Array) -> bool:
    return not ((a.min(axis=0) > b.max(axis=0)).any() or (a.max(axis=0) < b.min(axis=0)).any())
