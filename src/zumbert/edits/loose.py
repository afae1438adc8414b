"""Loose ends: the nearest structure to each, and all attached."""

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.analysis.spans import Span
from zumbert.checks.connectivity import loose_end
from zumbert.errors import EditError
from zumbert.model.ids import StructureId
from zumbert.model.project import Project

TOO_NEAR = 0.05  # m: a split leaves no shorter piece


def nearest_distance(span: Span, x: float, y: float) -> float:
    """The distance (m) along a span of the place on it that is nearest, a little inside its
    ends.
    """
    long, arc = span.length, span.arc
    if arc is not None:
        s = float(arc.project(np.array(x), np.array(y))[0])
    else:
        (x0, y0), (x1, y1) = span.point(0.0), span.point(long)
        s = ((x - x0) * (x1 - x0) + (y - y0) * (y1 - y0)) / long if long else 0.0
    return min(max(s, 2 * TOO_NEAR), long - 2 * TOO_NEAR)


def attached(project: Project, facts: Facts, loose: StructureId, to: StructureId) -> Project:
    """The project with what comes to one structure brought to another, the first one gone: a loose
    end pulled in.

    Raises EditError where a pipe would begin and end at one structure.
    """
    labels = project.structures[loose].label, project.structures[to].label
    if loose == to:
        raise EditError(f"{labels[0]} cannot be attached to itself.")
    pipes = {}
    for k, p in project.pipes.items():
        moved = (
            replace(p, up=to if p.up == loose else p.up, down=to if p.down == loose else p.down)
            if loose in (p.up, p.down)
            else p
        )
        if moved.up == moved.down:
            raise EditError(
                f'Pipe "{p.label}" joins {labels[0]} and {labels[1]} already: delete it instead.'
            )
        pipes[k] = moved
    left = {k: s for k, s in project.structures.items() if k != loose}
    return replace(project, structures=left, pipes=pipes)


def loose_ends(facts: Facts) -> list[StructureId]:
    """The joints at which a single pipe ends in the open."""
    return [k for k, f in facts.structures.items() if loose_end(facts, f)]


def nearest_structure(facts: Facts, loose: StructureId) -> tuple[StructureId, float] | None:
    """The structure nearest to a loose end (not at the other end of its pipe), and how far it
    is, m.
    """
    at = facts.places[loose]
    f = facts.structures[loose]
    own = {loose, *(e for g in (*f.pipes_in, *f.pipes_out) for e in (g.pipe.up, g.pipe.down))}
    keys = [k for k, p in facts.places.items() if k not in own and p.x is not None]
    if not keys or at.x is None or at.y is None:
        return None
    xy = np.array([(facts.places[k].x, facts.places[k].y) for k in keys], float)
    far = np.hypot(xy[:, 0] - at.x, xy[:, 1] - at.y)
    i = int(far.argmin())
    return keys[i], float(far[i])


def all_attached(project: Project, facts: Facts, within: float) -> Project:
    """The project with every loose end pulled in to its nearest structure within a distance (m);
    others stay.

    Raises EditError where no loose end has a structure so near.
    """
    left = project
    for loose in loose_ends(facts):
        found = nearest_structure(facts, loose)
        if found is not None and found[1] <= within and found[0] in left.structures:
            try:
                left = attached(left, facts, loose, found[0])
            except EditError:
                continue
    if left is project:
        raise EditError(f"No loose end has a structure within {project.units.long(within)}.")
    return left
