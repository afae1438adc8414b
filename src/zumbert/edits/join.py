"""Inserts, joins, splits and merges structures and pipes. No edit leaves a loose end."""

from collections.abc import Iterable
from math import cos, sin
from typing import NamedTuple

from msgspec.structs import replace

from zumbert.analysis.facts import Facts, analyse
from zumbert.analysis.pipes import PipeFacts
from zumbert.edits.arealinks import without_structures
from zumbert.edits.change import on_road
from zumbert.edits.labels import next_label, pipe_label
from zumbert.edits.loose import TOO_NEAR, nearest_distance
from zumbert.edits.records import with_one
from zumbert.errors import EditError
from zumbert.model.ids import NetworkId, PipeId, RoadId, StructureId, TypeKey
from zumbert.model.pipe import Pipe
from zumbert.model.project import Project, invert_basis, with_id
from zumbert.model.structure import Anchored, Free, OnSurface, Service, Status, Structure


class Made(NamedTuple):
    """The project with a structure more."""

    project: Project
    structure: StructureId


def placed(
    project: Project,
    facts: Facts,
    kind: TypeKey,
    place: Anchored | Free,
    network: NetworkId,
    service: Service = "storm",
    status: Status = "proposed",
    label: str | None = None,
) -> Made:
    """The project with a structure that no pipe comes to yet. Raises EditError for a chainage
    beyond the road.
    """
    if isinstance(place, Anchored):
        on_road(facts, place)
    project, key = with_id(project, "s")
    structure = Structure(
        id=StructureId(key),
        label=label or next_label(project, kind, place),
        type=kind,
        place=place,
        network=network,
        rim=OnSurface(),
        service=service,
        status=status,
    )
    return Made(
        replace(project, structures=with_one(project.structures, structure.id, structure)),
        structure.id,
    )


def split(
    project: Project,
    facts: Facts,
    pipe: PipeId,
    at: float,
    kind: TypeKey,
    place: Anchored | Free | None = None,
) -> Made:
    """The project with a structure in a pipe, `at` m from its upstream reference point, or at a
    place of its own.

    The two pipes that it becomes lie where the one lay: their inverts at the structure are those of
    its line there. Raises EditError where a piece would have no length.
    """
    f, p = facts.pipes[pipe], project.pipes[pipe]
    if not TOO_NEAR < at < f.span.length - TOO_NEAR:
        raise EditError(
            f'Pipe "{p.label}" is split between its ends: choose a place farther from them.'
        )
    x, y = f.span.point(at)
    own = place
    place = place if place is not None else beside(facts, p, x, y)
    made = placed(project, facts, kind, place, p.network, p.service, p.status)
    project, key = made.project, made.structure
    project, new = with_id(project, "p")
    reach = project.types[kind].inside / 2 if invert_basis(project, p) == "walls" else 0.0
    first = replace(
        p,
        down=key,
        invert_down=f.invert(at - reach),
        hold_down=False,
        label_at=None,
        through=_half(f.span.arc is not None and own is None, f, 0.0, at),
    )
    second = replace(
        p,
        id=PipeId(new),
        label=pipe_label(project, key, p.down),
        up=key,
        label_at=None,
        invert_up=f.invert(at + reach),
        hold_up=False,
        through=_half(f.span.arc is not None and own is None, f, at, f.span.length),
    )
    pipes: dict[PipeId, Pipe] = {}
    for k, q in project.pipes.items():  # the new one beside the old
        pipes[k] = first if k == pipe else q
        if k == pipe:
            pipes[second.id] = second
    pins = {
        k: replace(n, pipe=second.id, at=n.at - at) if n.pipe == pipe and n.at > at else n
        for k, n in project.pins.items()
    }
    return Made(replace(project, pipes=pipes, pins=pins), key)


def _half(curved: bool, f: PipeFacts, a: float, b: float) -> Free | None:
    """The place that a piece of a curved pipe passes."""
    if not curved:
        return None
    x, y = f.span.point((a + b) / 2)
    return Free(x, y)


def beside(facts: Facts, pipe: Pipe, x: float, y: float) -> Anchored | Free:
    """A place as its pipe's ends are: anchored to the road that both are on, else free."""
    roads = {getattr(facts.project.structures[e].place, "road", None) for e in (pipe.up, pipe.down)}
    road = next(iter(roads)) if len(roads) == 1 else None
    if road is None:
        return Free(x, y)
    ch, off = (float(v) for v in facts.roads[road].alignment.project(x, y))
    return Free(x, y) if ch != ch else Anchored(road, ch, off)


def bent(
    project: Project, facts: Facts, pipe: PipeId, place: Anchored | Free, kind: TypeKey
) -> Made:
    """The project with a bend drawn out of a pipe: a joint or chamber at a place of its own, both
    halves going to it.

    Levels: the slopes follow from the pipe's ends and its level where it is split.
    """
    f = facts.pipes[pipe]
    if isinstance(place, Anchored):
        on_road(facts, place)
        x, y = (
            float(v) for v in facts.roads[place.road].alignment.point(place.chainage, place.offset)
        )
    else:
        x, y = place.x, place.y
    return split(project, facts, pipe, nearest_distance(f.span, x, y), kind, place)


class Loss(NamedTuple):
    """The things that a deletion takes with it."""

    pipes: int
    merged: int
    loose: tuple[str, ...]  # labels of structures that lose a pipe

    @property
    def words(self) -> str:
        """A sentence that says so; empty where nothing else goes."""
        parts = []
        if self.pipes:
            parts.append(f"{self.pipes} pipe{'s go' if self.pipes > 1 else ' goes'} with it")
        if self.merged:
            parts.append(f"{self.merged} time{'s' if self.merged > 1 else ''} two pipes become one")
        if self.loose:
            shown = ", ".join(self.loose[:4]) + (" and more" if len(self.loose) > 4 else "")
            parts.append(f"{shown} lose{'s' if len(self.loose) == 1 else ''} a pipe")
        return "; ".join(parts)


def deleted(
    project: Project,
    facts: Facts,
    structures: frozenset[StructureId],
    pipes: frozenset[PipeId],
    merge: bool = True,
) -> tuple[Project, Loss]:
    """The project without some structures and pipes, and what goes with them.

    A structure between two pipes of one size, network, service and status gives one pipe from end
    to end in their place (levels at the ends kept); other pipes at a deleted structure go.
    """
    out = {k: p for k, p in project.pipes.items() if k not in pipes}
    merged = gone = 0
    loose: dict[str, None] = {}
    for structure in structures:
        at = [p for p in out.values() if structure in (p.up, p.down)]
        pair = _pair(at, structure) if merge else None
        if pair is not None and pair[0].up != pair[1].down:
            first, second = pair
            del out[second.id]
            out[first.id] = replace(
                first,
                down=second.down,
                invert_down=second.invert_down,
                hold_down=second.hold_down,
                hold_slope=False,
                through=None,
            )
            merged += 1
            continue
        for p in at:
            del out[p.id]
            gone += 1
            other = p.down if p.up == structure else p.up
            if other not in structures:
                loose[project.structures[other].label] = None
    left = {k: s for k, s in project.structures.items() if k not in structures}
    kept = {k: out[k] for k in project.pipes if k in out}
    pins = {k: p for k, p in project.pins.items() if p.pipe in kept}
    areas = {k: without_structures(facts.areas[k], structures) for k in project.areas}
    return replace(project, structures=left, pipes=kept, pins=pins, areas=areas), Loss(
        gone, merged, tuple(loose)
    )


def _pair(at: list[Pipe], key: StructureId) -> tuple[Pipe, Pipe] | None:
    """The inlet and outlet that can become one pipe: the only two there, alike in all but their
    levels.
    """
    if len(at) != 2:
        return None
    first, second = at if at[0].down == key else at[::-1]
    if first.down != key or second.up != key:
        return None
    same = all(
        getattr(first, n) == getattr(second, n)
        for n in ("size", "network", "service", "status", "invert_basis")
    )
    return (first, second) if same else None


def turned(project: Project, facts: Facts, pipes: Iterable[PipeId]) -> Project:
    """The project with the flow of pipes turned round; they stay where they lie, with what is
    held and pinned on them.
    """
    wanted = set(pipes)
    if not wanted:
        return project
    out = project.pipes.copy()
    for k in wanted:
        p = out[k]
        out[k] = replace(
            p,
            up=p.down,
            down=p.up,
            invert_up=p.invert_down,
            invert_down=p.invert_up,
            hold_up=p.hold_down,
            hold_down=p.hold_up,
        )
    pins = {
        k: replace(n, at=facts.spans[n.pipe].length - n.at) if n.pipe in wanted else n
        for k, n in project.pins.items()
    }
    return replace(project, pipes=out, pins=pins)


def copied(
    project: Project,
    facts: Facts,
    pipes: Iterable[PipeId],
    road: RoadId | None = None,
    by: float = 0.0,
) -> tuple[Project, frozenset[StructureId]]:
    """The project with a run once more: each anchored structure at its offset and `by` m more, on
    the same road or (by id) on another at the same chainages; free ones `by` m to the right of
    their road. Levels are kept.

    Raises EditError where a chainage is beyond the other road.
    """
    wanted = [project.pipes[k] for k in pipes]
    if not wanted:
        raise EditError("Select the pipes of the run to copy first.")
    if road is None and not by:
        raise EditError("A copy needs another road, or an offset that is not nothing.")
    new: dict[StructureId, StructureId] = {}
    for key in dict.fromkeys(e for p in wanted for e in (p.up, p.down)):
        s = project.structures[key]
        place = s.place
        if isinstance(place, Anchored):
            place = Anchored(road or place.road, place.chainage, place.offset + by)
            on_road(facts, place)
        else:
            b = facts.places[key].bearing
            place = Free(place.x + by * cos(b), place.y - by * sin(b))
        project, ident = with_id(project, "s")
        new[key] = StructureId(ident)
        fresh = replace(
            s,
            id=new[key],
            label=next_label(project, s.type, place),
            place=place,
            status="proposed",
            label_at=None,
        )
        project = replace(project, structures=with_one(project.structures, fresh.id, fresh))
    for p in wanted:
        project, ident = with_id(project, "p")
        fresh_pipe = replace(
            p,
            id=PipeId(ident),
            label=pipe_label(project, new[p.up], new[p.down]),
            up=new[p.up],
            down=new[p.down],
            status="proposed",
            through=None,
            hold_size=False,
            hold_up=False,
            hold_down=False,
            hold_slope=False,
            label_at=None,
        )
        project = replace(project, pipes=with_one(project.pipes, fresh_pipe.id, fresh_pipe))
    return project, frozenset(new.values())


def curved(
    project: Project, facts: Facts, pipe: PipeId, through: Anchored | Free | None
) -> Project:
    """The project with a pipe as the arc that passes a place, or (None) straight. Its inverts stay.

    Raises EditError for a place so near to an end, or so far off, that the arc would turn by more
    than half a circle.
    """
    p = project.pipes[pipe]
    if p.through == through:
        return project
    if isinstance(through, Anchored):
        on_road(facts, through)
    out = replace(project, pipes=with_one(project.pipes, pipe, replace(p, through=through)))
    if through is not None:
        f = analyse(out, facts).pipes[pipe]
        if f.span.arc is not None and f.span.arc.sweep > 3.15:
            raise EditError(
                f'Pipe "{p.label}" would turn by more than half a circle: choose a place '
                "nearer to it."
            )
        if f.span.wall <= 0:
            raise EditError(f'Pipe "{p.label}" would have no length between its walls.')
    return out


def along_road(project: Project, facts: Facts, pipe: PipeId) -> Project:
    """The project with a pipe that follows its road's own curve: the arc through the road's middle
    between its ends.

    Raises EditError unless both ends are anchored to one road.
    """
    p = project.pipes[pipe]
    a, b = (project.structures[e].place for e in (p.up, p.down))
    if not isinstance(a, Anchored) or not isinstance(b, Anchored) or a.road != b.road:
        raise EditError(
            f'Pipe "{p.label}" follows a road only where both its ends are anchored to it.'
        )
    middle = Anchored(a.road, (a.chainage + b.chainage) / 2, (a.offset + b.offset) / 2)
    return curved(project, facts, pipe, middle)
