"""Laying a run: structures placed one after another, each joined to the last by a pipe with its
levels.
"""

from collections.abc import Sequence
from math import copysign
from typing import NamedTuple

from msgspec import Struct
from msgspec.structs import replace

from zumbert.analysis.facts import Facts, analyse
from zumbert.checks import check
from zumbert.checks.check import rule_of
from zumbert.checks.cover import OFF_SURFACE
from zumbert.checks.finding import Key
from zumbert.checks.legal import Constraint, rows, shallowest
from zumbert.edits.change import on_road
from zumbert.edits.join import placed, split
from zumbert.edits.labels import pipe_label
from zumbert.edits.laidlevels import laid_levels
from zumbert.edits.layoptions import LayOptions, known_way, pipe_fall
from zumbert.edits.levelling import levelled, with_levels
from zumbert.edits.records import with_one, with_pipe, with_structure
from zumbert.errors import EditError
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import End, Pipe
from zumbert.model.project import Project, with_id
from zumbert.model.structure import Anchored, Free

ALONG = 25.0  # m: within this of a road a place is a chainage and offset on it


class Laid(NamedTuple):
    """The project after one more place, with what was placed or joined there."""

    project: Project
    facts: Facts
    structure: StructureId
    pipe: PipeId | None


class Before(NamedTuple):
    """The pipe that a run laid last, and whether its lower level was given by hand."""

    pipe: PipeId
    given: bool


class OnPipe(Struct, frozen=True):
    """A place on a pipe: a structure is put in there, and the pipe split."""

    pipe: PipeId
    at: float  # m from its upstream reference point


LayTarget = Anchored | Free | StructureId | OnPipe


def lay(
    project: Project,
    facts: Facts,
    places: Sequence[LayTarget],
    way: LayOptions,
    begin: StructureId | None = None,
) -> list[Laid]:
    """Each state of the project as places are laid in turn, going on from `begin` where it is
    given.

    A place that is the id of a structure, or lies in its chamber, joins that structure.
    Raises EditError, and nothing is laid, for a place outside its road or a pipe without length.
    """
    out: list[Laid] = []
    last, before = begin, None
    given: Before | None = None  # the first pipe, where a level of it is given
    start = way.start is not None or way.level is not None
    for place in places:
        laid = lay_next(project, facts, last, place, way, before)
        project, facts, last = laid.project, laid.facts, laid.structure
        if laid.pipe is not None:
            if start and before is None:
                given = Before(laid.pipe, way.up == (way.start is not None))  # at its lower end
            before, way = (
                Before(laid.pipe, way.start is not None),
                replace(way, start=None, level=None),
            )
        out.append(laid)
    if len(out) > 1 and way.slope is None:
        out[-1] = _as_a_whole(out[-1], [o.pipe for o in out if o.pipe is not None], given)
    return out


def _as_a_whole(last: Laid, pipes: Sequence[PipeId], given: Before | None) -> Laid:
    """The last state with all pipes of the run levelled together, where one after another they
    break a rule that need not be broken.
    """
    project, facts = last.project, last.facts
    if not pipes or _broken(project, facts, pipes) == (0, 0):
        return last
    fixed: dict[Key, float] = {}
    if given is not None:
        end: End = "down" if given.given else "up"
        p = project.pipes[given.pipe]
        fixed = {(given.pipe, end): p.invert_down if end == "down" else p.invert_up}
    levels = levelled(project, facts, pipes, fixed=fixed)
    if levels is None:
        return last
    made = with_levels(project, levels)
    now = analyse(made, facts)
    return (
        last
        if _broken(made, now, pipes) >= _broken(project, facts, pipes)
        else Laid(made, now, *last[2:])
    )


def _broken(project: Project, facts: Facts, pipes: Sequence[PipeId]) -> tuple[int, int]:
    """How many breaches and how many cautions there are at some pipes and their structures, of
    those that levels can mend.
    """
    found = check(project, facts)
    places = {e for p in pipes for e in (project.pipes[p].up, project.pipes[p].down)}
    every = [f for p in pipes for f in found.by_pipe.get(p, ())]
    every += [f for at in places for f in found.by_structure.get(at, ())]
    graves = [f.severity == "breach" for f in every if f.rule != OFF_SURFACE.name]
    return sum(graves), len(graves) - sum(graves)


def lay_next(
    project: Project,
    facts: Facts,
    last: StructureId | None,
    place: LayTarget,
    way: LayOptions,
    before: Before | None = None,
    through: Anchored | Free | None = None,
) -> Laid:
    """Lays one more place: a new structure, or the one that is there, and a pipe from the last.
    Raises EditError for a place outside its road, or a pipe that cannot be.

    `before` is the pipe that this run laid last. Going up-slope by cover it may lie so shallow that
    the new pipe, which comes in above it by the least drop, would lack cover: its upper end is then
    lowered by what is needed. `through` makes the pipe an arc that passes a place.
    """
    known_way(project, way)
    project, facts, structure = _stand(project, facts, place, way)
    if last is None:
        return Laid(project, facts, structure, None)
    if last == structure:
        raise EditError(
            f"{project.structures[structure].label} is where the run already is: choose "
            "another place."
        )
    up, down = (structure, last) if way.up else (last, structure)
    joined = next((p for p in project.pipes.values() if {p.up, p.down} == {up, down}), None)
    if joined is not None:
        raise EditError(
            f'Pipe "{joined.label}" already joins these two structures: choose another place.'
        )
    project, pipe = _join(project, up, down, way, through)
    facts = analyse(project, facts)
    if before is not None and before.pipe in project.pipes and way.up and way.slope is None:
        project = _with_room(project, facts, before, pipe)
        facts = analyse(project, facts)
    project = laid_levels(project, facts, pipe, way)
    if project.structures[up].next_slope is not None:
        project = with_structure(project, up, next_slope=None)  # it is a pipe's slope now
    return Laid(project, analyse(project, facts), structure, pipe)


def _with_room(project: Project, facts: Facts, before: Before, pipe: PipeId) -> Project:
    """The project with the upper end of a pipe lowered so that the next one up keeps cover and
    least drop above it.
    """
    f, new = facts.pipes[before.pipe], facts.pipes[pipe]
    if f.pipe.up != new.pipe.down:
        return project
    fall = pipe_fall(rows(facts, new))
    tops = [(r.c - r.a * fall) / (r.a + r.b) for r in rows(facts, new) if r.rule == "cover_min"]
    drop = next(
        (r for r in rows(facts, new) if r.b == -1.0 and r.a == 0.0 and rule_of(r.rule).drop), None
    )
    if not tops or drop is None:
        return project
    above = -drop.c - f.pipe.invert_up  # what the rules ask for between the two
    to = min(tops) - above
    if to >= f.pipe.invert_up - 1e-9:
        return project
    if to >= f.pipe.invert_down + pipe_fall(rows(facts, f)) - 1e-9:
        return with_pipe(project, before.pipe, invert_up=to)
    own = [
        r for r in rows(facts, f) if not (abs(r.a) == 1.0 and r.b == 0.0)
    ]  # the new pipe has no levels yet
    found = None if before.given else shallowest([*own, Constraint(1.0, 0.0, to, "next")])
    return (
        project
        if found is None
        else with_pipe(project, before.pipe, invert_up=found[0], invert_down=found[1])
    )


def joined(project: Project, facts: Facts, a: StructureId, b: StructureId, way: LayOptions) -> Laid:
    """The project with a pipe between two structures that are there, levelled as the way says; from
    a to b, or the other way round where it is laid up-slope. Raises EditError where one joins them
    already.
    """
    return lay_next(project, facts, a, b, way)


def _stand(
    project: Project, facts: Facts, place: LayTarget, way: LayOptions
) -> tuple[Project, Facts, StructureId]:
    if isinstance(place, str):
        return project, facts, place
    if isinstance(place, OnPipe):
        made = split(project, facts, place.pipe, place.at, way.type)
        return made.project, analyse(made.project, facts), made.structure
    if isinstance(place, Anchored):
        place = by_edge(project, place, way)
        on_road(facts, place)
    there = structure_at(facts, place)
    if there is not None:
        return project, facts, there
    made = placed(project, facts, way.type, place, way.network, way.service, way.status)
    return made.project, analyse(made.project, facts), made.structure


def by_edge(project: Project, place: Anchored, way: LayOptions) -> Anchored:
    """The place of the middle of a structure whose outer or inner edge stands at a place; on the
    centre line its right.
    """
    if way.edge == "middle":
        return place
    kind = project.types[way.type]
    half = (
        ((kind.across if kind.across is not None else kind.inside) / 2 + kind.wall)
        if kind.inside
        else 0.0
    )
    out = copysign(half, place.offset)
    return replace(place, offset=place.offset - out if way.edge == "outer" else place.offset + out)


def structure_at(facts: Facts, place: Anchored | Free) -> StructureId | None:
    """The structure whose chamber holds a place (within 0.1 m of one without a chamber), the
    nearest if several.
    """
    if isinstance(place, Anchored):
        px, py = (
            float(v) for v in facts.roads[place.road].alignment.point(place.chainage, place.offset)
        )
    else:
        px, py = place.x, place.y
    best: tuple[float, StructureId] | None = None
    for key, p in facts.places.items():
        if p.x is None or p.y is None or abs(p.x - px) > 5 or abs(p.y - py) > 5:
            continue
        far = ((p.x - px) ** 2 + (p.y - py) ** 2) ** 0.5
        if far <= max(0.1, facts.project.types[p.type].inside / 2) and (
            best is None or far < best[0]
        ):
            best = (far, key)
    return best[1] if best else None


def _join(
    project: Project,
    up: StructureId,
    down: StructureId,
    way: LayOptions,
    through: Anchored | Free | None,
) -> tuple[Project, PipeId]:
    project, key = with_id(project, "p")
    pipe = Pipe(
        id=PipeId(key),
        label=pipe_label(project, up, down),
        up=up,
        down=down,
        size=way.size,
        invert_up=0.0,
        invert_down=0.0,
        network=way.network,
        service=way.service,
        status=way.status,
        through=through,
    )
    return replace(project, pipes=with_one(project.pipes, pipe.id, pipe)), pipe.id
