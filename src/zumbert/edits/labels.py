"""Labels: given by a pattern for each kind, unique always, renumbered along a network."""

import re
from collections import deque
from collections.abc import Iterable, Mapping
from typing import Literal

from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.edits.records import free_name, with_pipe, with_structure
from zumbert.errors import EditError
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, Field, label_fields
from zumbert.model.catalogue import LABEL_LETTERS, PIPE_LETTER, StructureKind
from zumbert.model.ids import NetworkId, PipeId, StructureId, TypeKey
from zumbert.model.project import Project
from zumbert.model.structure import Anchored, Free

NUMBER, SIDE, UP, DOWN = "{n}", "{side}", "{up}", "{down}"
Labelled = StructureKind | Literal["pipe"]


def pattern_of(project: Project, kind: Labelled) -> str:
    """The pattern for a kind: letters round {n}, and {side} for L or R of the road; of pipes also
    {up}-{down}, the labels of their ends.
    """
    return (
        project.settings.labels.get(kind)
        or (PIPE_LETTER if kind == "pipe" else LABEL_LETTERS[kind]) + NUMBER
    )


def set_pattern(project: Project, kind: Labelled, pattern: str) -> Project:
    """The project with another pattern for a kind. Raises EditError for one without {n} (of
    pipes: or both ends).
    """
    pattern = pattern.strip()
    by_ends = kind == "pipe" and UP in pattern and DOWN in pattern
    if kind == "pipe" and not by_ends and pattern.count(NUMBER) != 1:
        raise EditError(
            f'Labels of pipes have {NUMBER} in them once, or both ends: "P{NUMBER}" or '
            f'"{UP}-{DOWN}".'
        )
    if kind != "pipe" and pattern.count(NUMBER) != 1:
        raise EditError(
            f'A pattern of labels has {NUMBER} in it once, such as "S{NUMBER}" or '
            f'"G{NUMBER}{SIDE}".'
        )
    if pattern == pattern_of(project, kind):
        return project
    labels = {**project.settings.labels, kind: pattern}
    return replace(project, settings=replace(project.settings, labels=labels))


def side_of(place: Anchored | Free | None) -> str:
    """L or R of the road, nothing for a place that is on none."""
    return "" if not isinstance(place, Anchored) else "L" if place.offset < 0 else "R"


def written(pattern: str, n: int, side: str) -> str:
    """A label of a pattern."""
    return pattern.replace(NUMBER, str(n)).replace(SIDE, side)


def numbers_in_use(project: Project, pattern: str) -> set[int]:
    """The numbers that labels of a pattern have now, on either side."""
    head, tail = pattern.split(NUMBER)
    tail = re.escape(tail).replace(re.escape(SIDE), "[LR]?")
    form = re.compile(re.escape(head).replace(re.escape(SIDE), "[LR]?") + r"(\d+)" + tail)
    found = (form.fullmatch(s.label) for s in project.structures.values())
    return {int(m.group(1)) for m in found if m is not None}


def pipe_label(project: Project, up: StructureId, down: StructureId) -> str:
    """The next free label of a pipe between two structures."""
    pattern = pattern_of(project, "pipe")
    return _pipe_labelled(
        project,
        pattern,
        up,
        down,
        {p.label for p in project.pipes.values()},
        len(project.pipes) + 1,
    )[0]


def _pipe_labelled(
    project: Project, pattern: str, up: StructureId, down: StructureId, taken: set[str], n: int
) -> tuple[str, int]:
    """A label that is not taken, by its number from n on, or by the labels of both ends; and the
    number after it.
    """
    text = pattern.replace(UP, project.structures[up].label).replace(
        DOWN, project.structures[down].label
    )
    if NUMBER not in text:
        out, i = text, 2
        while out in taken:
            out, i = f"{text} ({i})", i + 1
        return out, n
    while text.replace(NUMBER, str(n)) in taken:
        n += 1
    return text.replace(NUMBER, str(n)), n + 1


def next_label(
    project: Project, key: TypeKey, place: Anchored | Free | None = None, n: int | None = None
) -> str:
    """The next free label of a type: the number after the greatest in use, or a number that is
    asked for where free.
    """
    pattern = pattern_of(project, project.types[key].kind)
    taken = {s.label for s in project.structures.values()}
    if n is None:
        n = max(numbers_in_use(project, pattern), default=0) + 1
    while written(pattern, n, side_of(place)) in taken:
        n += 1
    return written(pattern, n, side_of(place))


def rename(project: Project, structure: StructureId, label: str) -> Project:
    """The project with a structure of another label. Raises EditError for no label, or one that
    is taken.
    """
    return with_structure(
        project,
        structure,
        label=free_name(project.structures, label, structure, "structure", "label"),
    )


def set_label_at(
    project: Project, key: StructureId | PipeId, at: tuple[float, float] | None
) -> Project:
    """The project with the label of a structure or pipe moved by hand (drawing units), or (None)
    where there is room.
    """
    if key in project.structures:
        return with_structure(project, StructureId(key), label_at=at)
    return with_pipe(project, PipeId(key), label_at=at)


def labels_put_back(project: Project) -> Project:
    """The project with every label where there is room for it."""
    structures = {
        k: replace(s, label_at=None) if s.label_at else s for k, s in project.structures.items()
    }
    pipes = {k: replace(p, label_at=None) if p.label_at else p for k, p in project.pipes.items()}
    return replace(project, structures=structures, pipes=pipes)


def set_label_fields(
    project: Project, structures: Iterable[str] | None = None, pipes: Iterable[str] | None = None
) -> Project:
    """The project with other fields in the labels of the plan; they keep the order in which
    labels are written.
    """

    def ordered(fields: dict[str, Field], chosen: Iterable[str]) -> tuple[str, ...]:
        wanted = set(chosen)
        return tuple(f.key for f in label_fields(fields) if f.key in wanted)

    settings = project.settings
    if structures is not None:
        settings = replace(settings, structure_label=ordered(STRUCTURE_FIELDS, structures))
    if pipes is not None:
        settings = replace(settings, pipe_label=ordered(PIPE_FIELDS, pipes))
    return project if settings == project.settings else replace(project, settings=settings)


def renumbered(
    project: Project,
    facts: Facts,
    network: NetworkId,
    up: bool = True,
    first: int = 1,
    kinds: Iterable[StructureKind] | None = None,
) -> Project:
    """The project with the structures of a network numbered anew: from each outfall up its longest
    way and then its branches, or (up False) from the heads down; each kind by its pattern, and its
    pipes with it. Existing work keeps its labels.
    """
    wanted = None if kinds is None else set(kinds)
    order = [
        k
        for k in _order(project, facts, up)
        if project.structures[k].network == network
        and project.structures[k].status == "proposed"
        and (wanted is None or project.types[project.structures[k].type].kind in wanted)
    ]
    chosen = set(order)
    taken = {s.label for k, s in project.structures.items() if k not in chosen}
    counts: dict[str, int] = {}
    labels: dict[StructureId, str] = {}
    pairs: dict[tuple[str, object], int] = {}
    for key in order:
        s = project.structures[key]
        pattern = pattern_of(project, project.types[s.type].kind)
        side = side_of(s.place)
        n = counts.get(pattern, first)
        pair = (
            (pattern, (s.place.road, round(s.place.chainage, 2)))
            if isinstance(s.place, Anchored)
            else None
        )
        if SIDE in pattern and pair in pairs and written(pattern, pairs[pair], side) not in taken:
            n = pairs[pair]
        else:
            while written(pattern, n, side) in taken:
                n += 1
            counts[pattern] = n + 1
            if pair is not None:
                pairs[pair] = n
        labels[key] = written(pattern, n, side)
        taken.add(labels[key])
    return pipes_renumbered(with_labels(project, labels), facts, network, up, first)


def pipes_renumbered(
    project: Project, facts: Facts, network: NetworkId, up: bool = True, first: int = 1
) -> Project:
    """The project with the proposed pipes of a network labelled anew, in the order of the
    structures that they leave.
    """
    order = [
        p
        for k in _order(project, facts, up)
        for p in facts.links.outlets.get(k, ())
        if project.pipes[p].network == network and project.pipes[p].status == "proposed"
    ]
    chosen = set(order)
    taken = {p.label for k, p in project.pipes.items() if k not in chosen}
    pattern, n, labels = pattern_of(project, "pipe"), first, dict[PipeId, str]()
    for key in order:
        p = project.pipes[key]
        labels[key], n = _pipe_labelled(project, pattern, p.up, p.down, taken, n)
        taken.add(labels[key])
    pipes = {
        k: replace(p, label=labels[k]) if labels.get(k, p.label) != p.label else p
        for k, p in project.pipes.items()
    }
    return (
        project
        if all(pipes[k] is p for k, p in project.pipes.items())
        else replace(project, pipes=pipes)
    )


def with_labels(project: Project, labels: Mapping[StructureId, str]) -> Project:
    """The project with structures of other labels, all at once."""
    structures = {
        k: replace(s, label=labels[k]) if k in labels and labels[k] != s.label else s
        for k, s in project.structures.items()
    }
    same = all(structures[k] is s for k, s in project.structures.items())
    return project if same else replace(project, structures=structures)


def _order(project: Project, facts: Facts, up: bool) -> list[StructureId]:
    """All structures: from each end up, at a branching the way with the longest pipes behind it
    first.
    """
    far: dict[StructureId, float] = {}

    def behind(key: StructureId, path: frozenset[StructureId]) -> float:
        if key not in far:
            ways = [
                facts.spans[p].length + behind(project.pipes[p].up, path | {key})
                for p in facts.links.inlets.get(key, ())
                if project.pipes[p].up not in path
            ]
            far[key] = max(ways, default=0.0)
        return far[key]

    out: dict[StructureId, None] = {}

    def walk(key: StructureId, branches: deque[StructureId]) -> None:
        """Up the longest way; gullies follow what their leads come to, other branches wait for
        their turn.
        """
        at: StructureId | None = key
        while at is not None and at not in out:
            out[at] = None
            inlets = {project.pipes[p].up: None for p in facts.links.inlets.get(at, ())}
            new = [k for k in inlets if k not in out]
            leads = [k for k in new if _is_gully(project, k) and not facts.links.inlets.get(k)]
            for k in sorted(leads, key=lambda k: project.structures[k].label):
                out[k] = None
            here = frozenset({at})
            ways = sorted((k for k in new if k not in out), key=lambda k: -behind(k, here))
            branches.extend(ways[1:])
            at = ways[0] if ways else None

    for end in (
        *(k for k in project.structures if not facts.links.outlets.get(k)),
        *project.structures,
    ):
        waiting = deque([end])
        while waiting:
            walk(waiting.popleft(), waiting)
    return list(out) if up else list(out)[::-1]


def _is_gully(project: Project, key: StructureId) -> bool:
    return project.types[project.structures[key].type].kind == "gully"
