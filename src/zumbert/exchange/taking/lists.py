"""Lists, standards and trench types into a project."""

from collections.abc import Callable, Collection, Mapping
from pathlib import Path
from typing import Any

from zumbert.analysis import analyse
from zumbert.edits.rain import set_rain
from zumbert.edits.setup import set_standard, set_trench_type
from zumbert.exchange.raintoml import read_rain
from zumbert.exchange.rows import MOST_TOLD
from zumbert.exchange.rows import told as told_rows
from zumbert.exchange.taking.choices import BadRows, Taking
from zumbert.exchange.toml import read_standard
from zumbert.exchange.trenchtoml import read_trench
from zumbert.model.display import counted
from zumbert.model.ids import StructureId
from zumbert.model.project import Project

FAR_OFF = 5.0  # m between a rim and its surface that is told
LISTED = (  # told together, where a file has them; the second always
    (("land", "area of land", "areas of land"), ("services", "service", None)),
    (("structures", "structure", None), ("pipes", "pipe", None)),
    (("areas", "area", None),),
)


def take_standard(taking: Taking, project: Project, path: Path, found: None) -> Project:
    """A design standard, taken by the networks that one chose."""
    standard = read_standard(path)
    project = set_standard(project, standard, taking.choices.taken_by)
    taking.notes.append(
        f'The standard "{standard.name}" is added to {_names(project.standards)}: '
        f"{_takers(taking, project)}."
    )
    return project


def take_trench(taking: Taking, project: Project, path: Path, found: None) -> Project:
    """A trench type, taken by the networks that one chose."""
    trench = read_trench(path)
    project = set_trench_type(project, trench, taking.choices.taken_by)
    taking.notes.append(
        f'The trench type "{trench.name}" is added to {_names(project.trench_types)}: '
        f"{_takers(taking, project)}."
    )
    return project


def take_rain(taking: Taking, project: Project, path: Path, found: None) -> Project:
    """The rain that the project is drained for."""
    rain = read_rain(path)
    taking.notes.append(f'The rain "{rain.name}" is taken, {rain.years:g} years.')
    return set_rain(project, rain)


def _takers(taking: Taking, project: Project) -> str:
    by = taking.choices.taken_by
    some = [n.name for k, n in project.networks.items() if by is None or k in by]
    return f"taken by {', '.join(some)}" if some else "taken by no network yet"


def _names(records: Mapping[Any, Any]) -> str:
    """The names of records, but for the last one."""
    return ", ".join([r.name for r in records.values()][:-1])


ListReader = Callable[[Project, Path, float, list[str], tuple[str, ...] | None], Project]


def take_list(read: ListReader) -> Callable[[Taking, Project, Path, None], Project]:
    """A function that takes a list with a reader, in the unit of its file, and collects bad
    rows.
    """

    def take(taking: Taking, project: Project, path: Path, found: None) -> Project:
        return read(
            project, path, taking.unit(project, path), taking.bad, taking.choices.tables.get(path)
        )

    return take


def lists_told(taking: Taking, before: Project, project: Project, names: Collection[str]) -> None:
    """Reports what is new, what was there before, and rows left out. Raises BadRows unless bad
    rows may be left out.
    """
    bad = taking.bad
    if bad and not taking.choices.leave_bad:
        raise BadRows(told_rows(bad))
    if bad:
        taking.notes += [f"Left out: {b}" for b in bad[:MOST_TOLD]]
        taking.notes += [f"and {len(bad) - MOST_TOLD} rows more."] if len(bad) > MOST_TOLD else []
    for i, kinds in enumerate(LISTED):
        new = [
            counted(len(getattr(project, k)) - len(getattr(before, k)), one, many)
            for k, one, many in kinds
        ]
        there = [
            counted(len(getattr(before, k)), one, many)
            for k, one, many in kinds
            if getattr(before, k)
        ]
        if i == 1 or any(k in names for k, _, _ in kinds):
            taking.notes.append(
                ", ".join(new) + (f" new; {', '.join(there)} there before." if there else ".")
            )
    if "structures" in names:
        taking.notes += off_ground(project, set(before.structures))


def off_ground(project: Project, before: set[StructureId]) -> list[str]:
    """New structures whose rims lie far off the ground: mostly a unit or a column is wrong."""
    facts, u = analyse(project), project.units
    off: list[tuple[float, str]] = []
    for k, p in facts.places.items():
        z = p.design if p.design is not None else p.ground
        if k not in before and p.rim is not None and z is not None and abs(p.rim - z) > FAR_OFF:
            off.append((abs(p.rim - z), f"{project.structures[k].label} by {u.deep(p.rim - z)}"))
    if not off:
        return []
    named = ", ".join(words for _, words in sorted(off, reverse=True)[:6]) + (
        " and more" if len(off) > 6 else ""
    )
    return [f"{counted(len(off), 'rim')} far off the ground: {named}. Check unit and columns."]
