"""Edits of many structures and pipes at once. Held ones stay; the counts are known before the
edit.
"""

from collections.abc import Iterable
from math import cos, sin
from typing import Any, NamedTuple

from msgspec.structs import replace

from zumbert.analysis.facts import Facts, analyse
from zumbert.edits.change import move_structure
from zumbert.errors import EditError, known
from zumbert.model.ids import PipeId, SizeKey, StructureId, TypeKey
from zumbert.model.project import Project
from zumbert.model.structure import Anchored, Free, Status


class HowMany(NamedTuple):
    """How many an edit changes, and how many it passes over because they are held."""

    change: int
    held: int

    @property
    def words(self) -> str:
        """The sentence that is shown before the edit is done."""
        held = "" if not self.held else f", {self.held} {'is' if self.held == 1 else 'are'} held"
        return f"{self.change or 'none'} will change{held}"


class Several(NamedTuple):
    """The project as an edit of many makes it."""

    project: Project
    reach: HowMany
    stay: int = 0  # that no rule lets move

    @property
    def words(self) -> str:
        """The sentence that is shown before the edit is done."""
        return self.reach.words + (f", {self.stay} cannot be raised" if self.stay else "")


def set_sizes(project: Project, pipes: Iterable[PipeId], size: SizeKey) -> Several:
    """Pipes of another size; those whose size is held stay. Raises EditError for an unknown
    size.
    """
    if size not in project.sizes:
        raise EditError(f'There is no pipe size "{size}": {known(size, project.sizes)}')
    return _unless_held(project, "pipes", pipes, "size", size)


def set_types(project: Project, structures: Iterable[StructureId], key: TypeKey) -> Several:
    """Structures of another type; those whose type is held stay. Raises EditError for an unknown
    type.
    """
    if key not in project.types:
        raise EditError(f'There is no structure type "{key}": {known(key, project.types)}')
    return _unless_held(project, "structures", structures, "type", key)


def _unless_held(
    project: Project, table: str, keys: Iterable[Any], field: str, value: Any
) -> Several:
    """Sets a field of many records where it differs; those whose size is held stay."""
    records = getattr(project, table)
    others = [records[k] for k in keys if getattr(records[k], field) != value]
    change = {r.id for r in others if not r.hold_size}
    return Several(
        _with(project, table, change, **{field: value}),
        HowMany(len(change), len(others) - len(change)),
    )


def set_status(
    project: Project, structures: Iterable[StructureId], pipes: Iterable[PipeId], status: Status
) -> Project:
    """The project with structures and pipes proposed, existing or abandoned."""
    project = _with(project, "structures", set(structures), status=status)
    return _with(project, "pipes", set(pipes), status=status)


def hold(
    project: Project,
    structures: Iterable[StructureId],
    pipes: Iterable[PipeId],
    what: str,
    kept: bool,
) -> Project:
    """The project with something held, or let go: of both the size, of pipes the invert at an end
    or the slope (what: "size", "up", "down", "slope").
    """
    if what == "size":
        project = _with(project, "structures", set(structures), hold_size=kept)
        return _with(project, "pipes", set(pipes), hold_size=kept)
    return _with(project, "pipes", set(pipes), **{f"hold_{what}": kept})


def moved(
    project: Project, facts: Facts, structures: Iterable[StructureId], along: float, across: float
) -> Project:
    """The project with structures moved (m) along and to the right of their road; free ones as the
    road nearest to them runs, or north and east where there is none. Pipes follow, their inverts
    stay.

    Raises EditError, and moves none, where one would leave its road.
    """
    for key in structures:
        place = project.structures[key].place
        to: Anchored | Free
        if isinstance(place, Anchored):
            to = replace(place, chainage=place.chainage + along, offset=place.offset + across)
        else:
            b = _bearing(facts, key)
            to = Free(
                place.x + along * sin(b) + across * cos(b),
                place.y + along * cos(b) - across * sin(b),
            )
        project = move_structure(project, facts, key, to)
    return project


def _bearing(facts: Facts, key: StructureId) -> float:
    """The bearing (radians) of the road nearest to a structure, 0 where there is none."""
    p = facts.places[key]
    if p.road is None or p.chainage is None:
        return 0.0
    return float(facts.roads[p.road].alignment.bearing(p.chainage))


def moved_with(
    project: Project,
    facts: Facts,
    one: StructureId,
    to: Anchored | Free,
    others: Iterable[StructureId],
) -> Project:
    """The project with a structure at another place, and others that go with it: those on its road
    by as much along and across, all else by as much in x and y. Raises EditError, and moves none,
    where one would leave its road.
    """
    now = project.structures[one].place
    if isinstance(now, Anchored) and isinstance(to, Anchored) and now.road == to.road:
        with_it = [
            k for k in others if getattr(project.structures[k].place, "road", None) == now.road
        ]
        project = moved(project, facts, with_it, to.chainage - now.chainage, to.offset - now.offset)
        rest = [k for k in others if k not in set(with_it)]
    else:
        rest = list(others)
    project = move_structure(project, facts, one, to)
    if not rest:
        return project
    a, b = facts.places[one], analyse(project, facts).places[one]
    if a.x is None or a.y is None or b.x is None or b.y is None:
        raise EditError(
            f"{project.structures[one].label} stands beyond the end of its road: give it a "
            "chainage first."
        )
    for key in rest:
        p, place = facts.places[key], project.structures[key].place
        if p.x is None or p.y is None:
            continue
        x, y = p.x + b.x - a.x, p.y + b.y - a.y
        if isinstance(place, Anchored):
            ch, off = (float(v) for v in facts.roads[place.road].alignment.project(x, y))
            if ch != ch:
                raise EditError(f"{project.structures[key].label} would leave its road.")
            project = move_structure(project, facts, key, replace(place, chainage=ch, offset=off))
        else:
            project = move_structure(project, facts, key, Free(x, y))
    return project


def _with(project: Project, table: str, keys: set[Any], **values: Any) -> Project:
    """The project with fields of many records replaced; the same project where nothing differs."""
    old = getattr(project, table)
    out = {
        k: replace(r, **values)
        if k in keys and any(getattr(r, n) != v for n, v in values.items())
        else r
        for k, r in old.items()
    }
    same = all(out[k] is r for k, r in old.items())
    return project if same else replace(project, **{table: out})
