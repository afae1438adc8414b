"""The lines of a sizing, one a pipe or chamber, and how some of them are taken."""

from collections.abc import Iterator, Mapping
from typing import NamedTuple

from zumbert.analysis.facts import Facts
from zumbert.model.ids import PipeId, SizeKey, StructureId
from zumbert.model.project import Project
from zumbert.model.sizing import SizeLine, SizeLog


class Sized(NamedTuple):
    """The project after sizing, and what is said of each pipe and chamber."""

    project: Project
    log: SizeLog


def size_lines(
    project: Project,
    made: Project,
    before: Facts,
    reasons: Mapping[PipeId, str],
    chambers: Mapping[StructureId, str],
) -> Iterator[SizeLine]:
    """The line of each pipe and chamber: what it was, what it is, and why."""
    u = project.units
    for k, p in project.pipes.items():
        q, why = made.pipes[k], reasons.get(k, "no flow reaches it")
        old, new = (_size_words(project, x.size) for x in (p, q))
        yield SizeLine(
            id=k,
            object=p.label,
            what="size",
            old=old,
            new=new,
            why=why if old != new else f"unchanged: {why}",
        )
        if (p.invert_up, p.invert_down) != (q.invert_up, q.invert_down):
            levels = [f"{u.level(x.invert_up)} to {u.level(x.invert_down)}" for x in (p, q)]
            yield SizeLine(
                id=k,
                object=p.label,
                what="levels",
                old=levels[0],
                new=levels[1],
                why="with its size",
            )
    for s in project.structures:
        if not project.types[project.structures[s].type].inside:
            continue
        why = chambers.get(s, "its pipes are as they were")
        a, b = project.structures[s], made.structures[s]
        names = [project.types[x.type].name for x in (a, b)]
        yield SizeLine(
            id=s,
            object=a.label,
            what="type",
            old=names[0],
            new=names[1],
            why=why if a.type != b.type else f"unchanged: {why}",
        )


def _size_words(project: Project, size: object) -> str:
    u = project.units
    return (
        u.dn(project.sizes[SizeKey(size)].dn)
        if isinstance(size, str)
        else u.dn(round(getattr(size, "inside", 0.0) * 1000, 3))
    )
