"""Imports open-format files: reads them, then builds the project with the chosen roles, units
and uses.
"""

from pathlib import Path

import numpy as np

from zumbert.analysis.roads import pieces
from zumbert.errors import ReadError, known
from zumbert.exchange.formats import FORMATS, LAST_SOURCE
from zumbert.exchange.found import Found, ImportFiles, Paths, Tell, read_files
from zumbert.exchange.landxml import Source
from zumbert.exchange.points import points_of
from zumbert.exchange.taking.choices import Choices, Imported, Taking
from zumbert.exchange.taking.lists import lists_told
from zumbert.exchange.taking.surfaces import as_one
from zumbert.geometry.elements import Array
from zumbert.model.background import UNITS
from zumbert.model.project import Project, Settings, new_project
from zumbert.model.surface import Role


def guessed_roles(project: Project, found: Found) -> dict[str, Role]:
    """Roles to begin with: a surface that calls itself design is that, the first other one is
    existing ground.
    """
    taken = {s.role for s in project.surfaces.values()}
    roles: dict[str, Role] = {}
    for name in found.surfaces:
        words = name.lower()
        role: Role = "existing"
        for wanted, signs in (
            ("design", ("design", "proposed", "finished")),
            ("formation", ("formation", "subgrade")),
            ("rock", ("rock",)),
        ):
            if any(w in words for w in signs):
                role = wanted  # type: ignore[assignment]
        roles[name] = "none" if role in taken else role
        taken.add(role)
    return roles


def built(
    project: Project, found: Found, choices: Choices, tell: Tell = lambda share, words: None
) -> Imported:
    """The project with all that was found and chosen; `tell` hears what comes next, and may raise
    Cancelled.

    Raises ReadError with a sentence for a bad row or table, EditError for a road that is there
    already.
    """
    taking, before = Taking(choices), project
    several = _sources(found, choices, project) if choices.one_surface else []
    if len(several) > 1:
        project = as_one(project, several, taking)
        taking.joined = frozenset(name for name, _ in several)
    for i, (name, f) in enumerate(FORMATS.items()):
        for path, held in found.of(name):
            tell(i / len(FORMATS), path.name)
            project = f.take(taking, project, path, held)
        if name == LAST_SOURCE:
            taking.notes += _apart(project)
    lists_told(taking, before, project, [n for n in FORMATS if found.files[n]])
    return Imported(project=project, notes=tuple(taking.notes))


def _sources(found: Found, choices: Choices, project: Project) -> list[tuple[str, Source]]:
    """Points, breaklines and boundaries (m) of the files that are taken, by the name of the
    surface that each would be.
    """
    out: list[tuple[str, Source]] = []
    for _, xml in found.landxml:
        out += [
            (s.name, s.source)
            for s in xml.surfaces
            if s.source is not None and choices.roles.get(s.name)
        ]
    for text in found.points:
        if choices.roles.get(text.name) is not None:
            by = UNITS.get(choices.units.get(text.path, ""), project.units.metres)
            out.append(
                (
                    text.name,
                    Source(points_of(text, choices.columns.get(text.path)).xyz * by, [], []),
                )
            )
    for path, d in found.drawings:
        if choices.roles.get(f"{d.name} levels") is not None and not len(d.faces):
            by = UNITS[choices.units.get(path, d.unit)] / UNITS[d.unit]
            out.append(
                (
                    f"{d.name} levels",
                    Source(d.points * by, [line.xyz * by for line in d.deep_lines], []),
                )
            )
    return out


def import_files(
    name: str,
    *,
    ground: str | None = None,
    design: str | None = None,
    settings: Settings | None = None,
    unit: str | None = None,
    leave_bad: bool = False,
    **files: str | Path | Paths | None,
) -> Imported:
    """A project from files by format: `landxml=[...], pipes=[...]`. `unit` is that of lists, points
    and grids, and of drawings whose header names none. Without `ground` a sole surface is existing
    ground; a design only by its name.

    Raises ReadError with a sentence, and there is no project, for anything that cannot be read.
    """
    found = read_files(ImportFiles.of(**files))
    named = [n for n in found.surfaces if not n.endswith(" levels") or n in (ground, design)]
    if unit is not None and unit not in UNITS:
        raise ReadError(f'The unit "{unit}" is not known: {", ".join(UNITS)}.')
    asked = (
        [*(d for d, drawing in found.drawings if not drawing.unit_told), *found.files.lists]
        if unit
        else []
    )
    choices = Choices(
        roles=_roles(named, found.surfaces, ground, design),
        units={p: unit for p in asked if unit},
        leave_bad=leave_bad,
    )
    return built(new_project(name, settings), found, choices)


def _roles(
    names: list[str], known_names: list[str], ground: str | None, design: str | None
) -> dict[str, Role]:
    for option, wanted in (("--ground", ground), ("--design", design)):
        if wanted is not None and wanted not in known_names:
            raise ReadError(
                f'{option} "{wanted}" is no surface of these files: {known(wanted, known_names)}'
            )
    rest = [n for n in names if n != design]
    if ground is None and len(rest) > 1:
        raise ReadError(
            f"There are {len(rest)} surfaces ({', '.join(rest)}): say which is the ground "
            "with --ground NAME."
        )
    ground = ground or (rest[0] if rest else None)
    return {n: "existing" if n == ground else "design" if n == design else "none" for n in names}


def _apart(project: Project) -> list[str]:
    """Reports roads, surfaces and drawings that lie apart from the rest: usually a unit or
    origin is wrong.
    """
    boxes: list[tuple[str, Array]] = [
        (f'The surface "{s.name}"', np.asarray(s.vertices)[:, :2])
        for s in project.surfaces.values()
        if len(s.vertices)
    ]
    boxes += [
        (
            f'The road "{r.name}"',
            np.array([p for e in pieces(r) for p in ((e.x0, e.y0), (e.x1, e.y1))]),
        )
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


def _meet(a: Array, b: Array) -> bool:
    return not ((a.min(axis=0) > b.max(axis=0)).any() or (a.max(axis=0) < b.min(axis=0)).any())
