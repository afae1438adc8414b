"""Where pipes come near to services and to each other in space: the pairs with less room than is
asked for.
"""

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np
from msgspec import Struct

from zumbert.analysis.boxes import Axis, Boxes, all_points, wider
from zumbert.geometry.elements import Array
from zumbert.geometry.space import nearest
from zumbert.model.ids import PipeId
from zumbert.model.project import Project

if TYPE_CHECKING:
    from zumbert.analysis.stages import Derived

FEW = 64  # pipes: so many are tried one by one, more by a tree
SLACK = 1e-6  # m: room so near to what is asked for is looked at too


class Meeting(NamedTuple):
    """A service, or another pipe, that is nearer to a pipe than is asked for."""

    other: str  # its id
    service: bool
    clear: float  # m between both outsides over whole lengths; at most 0 where they touch
    at: float  # m along the pipe: where they are nearest


class Lines(Struct, frozen=True, eq=False):
    """The pieces of all services whose levels are known, with their boxes as far as room is
    asked for.
    """

    owner: list[str]
    pieces: Array  # (n, 2, 3)
    radius: Array
    need: Array  # m of clearance
    boxes: Array  # (n, 6)
    tree: Any  # of the boxes in plan


def lines(project: Project) -> Lines:
    """The pieces of the project's services whose levels are all known."""
    services = list(project.services.values())
    count = np.array([len(s.points) for s in services], np.int64)
    flat = all_points([s.points for s in services])
    of = np.repeat(np.arange(len(services)), count)
    good = np.bincount(of[np.isnan(flat).any(axis=1)], minlength=len(services)) == 0
    here = np.flatnonzero(of[:-1] == of[1:])
    here = here[good[of[here]]]
    start, end, owner = flat[here], flat[here + 1], of[here]
    r = np.array([s.size / 2 for s in services])[owner]
    n = np.array([s.clearance for s in services])[owner]
    wide = (r + n + SLACK)[:, None]
    boxes = np.hstack([np.minimum(start, end) - wide, np.maximum(start, end) + wide])
    return Lines(
        [services[i].id for i in owner.tolist()],
        np.stack([start, end], axis=1),
        r,
        n,
        boxes,
        _tree(_plan(boxes)) if len(boxes) else None,
    )


def beside(now: "Derived", before: "Derived", keys: Iterable[PipeId]) -> Iterable[PipeId]:
    """Pipes that changed, and those that came near to them, or come near now."""
    keys = list(keys)
    out = dict.fromkeys(keys)
    for k in keys:
        out |= dict.fromkeys(
            PipeId(m.other) for m in before["meetings"].get(k, ()) if not m.service
        )
    there: Boxes = now["boxes"]
    rows = np.array([there.row[k] for k in keys if k in there.row], np.int64)
    if rows.size > FEW:
        return there.keys
    _, found = _pairs(Some(there, rows, now["room"]))
    return out | dict.fromkeys(there.keys[j] for j in found.tolist())


def meetings(now: "Derived", keys: Sequence[PipeId]) -> list[tuple[Meeting, ...] | None]:
    """For each pipe what is nearer to it than is asked for, the nearest first; None for nothing."""
    there: Boxes = now["boxes"]
    mine = [k for k in keys if k in there.row]
    out: dict[PipeId, list[Meeting]] = {}
    if mine:
        whole = len(mine) == len(there.keys) and mine == there.keys
        rows = np.arange(len(mine)) if whole else np.array([there.row[k] for k in mine], np.int64)
        some = Some(there, rows, now["room"])
        _of_services(now["service_lines"], some, out)
        _of_pipes(some, out)
    return [
        tuple(sorted(out[k], key=lambda m: (m.clear, m.other))) if k in out else None for k in keys
    ]


def room(project: Project) -> float:
    """The most clearance (m) that a standard asks for between pipes, or a pipe for itself."""
    limits = [s.clearance_min for s in project.standards.values()]
    own = [
        o.value or 0.0 for p in project.pipes.values() for o in p.limits if o.rule == "clearance"
    ]
    return max(
        (max(v for _, v in x) if isinstance(x, tuple) else x for x in (*limits, *own)), default=0.0
    )


def plan_pairs(made: "Derived") -> list[tuple[PipeId, str, bool]]:
    """Pipes and the services or pipes whose boxes in plan meet theirs: id, id of the other, whether
    that is a service. Of two pipes the one that was made first comes first; those that a structure
    joins are left out.
    """
    there, room = made["boxes"], made["room"]
    if not there.keys:
        return []
    wide, out = _plan(wider(there.at, room + SLACK)), dict[tuple[PipeId, str, bool], None]()
    lines_of: Lines = made["service_lines"]
    if lines_of.tree is not None:
        for i, j in zip(*(v.tolist() for v in lines_of.tree.query(wide)), strict=True):
            out[there.keys[i], lines_of.owner[j], True] = None
    for i, j in zip(*(v.tolist() for v in _tree(_plan(there.at)).query(wide)), strict=True):
        a, b = there.keys[i], there.keys[j]
        if (len(a), a) < (len(b), b) and set(there.of(a).joins).isdisjoint(there.of(b).joins):
            out[a, b, False] = None
    return list(out)


class Some:
    """Some pipes: their boxes with the room about them, and in a plan, if they are many."""

    def __init__(self, boxes: Boxes, rows: Any, room: float) -> None:
        self.boxes, self.rows, self.room = boxes, rows, room
        self.wide = wider(boxes.at[rows], room + SLACK)
        self.plan = _plan(self.wide) if len(rows) > FEW else None


def _of_services(there: Lines, some: Some, out: dict[PipeId, list[Meeting]]) -> None:
    if there.tree is None:
        return
    if some.plan is not None:
        i, j = there.tree.query(some.plan)
        keep = _touch(some.wide[i], there.boxes[j])
        i, j = i[keep], j[keep]
    else:
        i, j = _near(some.wide, there.boxes)
    if not len(i):
        return
    mine, i = np.unique(i, return_inverse=True)
    keys, of = some.boxes.take(some.rows[mine])
    pieces, first, count = _pieces(of)
    a, pair = _spread(first[i], count[i])
    b = j[pair]
    found = nearest(pieces[a], there.pieces[b])
    radius = np.array([a.radius for a in of])
    clear = found.far - radius[i[pair]] - there.radius[b]
    near = np.flatnonzero(clear <= np.maximum(there.need[b], some.room) + SLACK)
    told: dict[tuple[int, str], Meeting] = {}
    for n in near.tolist():
        k, other = int(i[pair[n]]), there.owner[b[n]]
        if (k, other) not in told or clear[n] < told[k, other].clear:
            at = _along(of[k], int(a[n] - first[k]), found.s[n])
            told[k, other] = Meeting(other, True, float(clear[n]), at)
    for (k, _), m in told.items():
        out.setdefault(keys[k], []).append(m)


def _of_pipes(some: Some, out: dict[PipeId, list[Meeting]]) -> None:
    boxes = some.boxes
    i, j = _pairs(some)
    if not len(i):
        return
    ends = {k: boxes.of(k).joins for k in {boxes.keys[n] for n in np.concatenate([i, j]).tolist()}}
    apart = [
        set(ends[boxes.keys[m]]).isdisjoint(ends[boxes.keys[n]])
        for m, n in zip(i.tolist(), j.tolist(), strict=True)
    ]
    i, j = i[apart], j[apart]
    if not len(i):
        return
    told: dict[tuple[int, int], Meeting] = {}
    both = np.unique(np.concatenate([i, j]))
    keys, of = boxes.take(both)
    pieces, first, count = _pieces(of)
    p, q = np.searchsorted(both, i), np.searchsorted(both, j)
    a, pair = _spread(first[p], count[p])
    b, more = _spread(first[q][pair], count[q][pair])
    a, pair = a[more], pair[more]
    found = nearest(pieces[a], pieces[b])
    radius = np.array([a.radius for a in of])
    clear = found.far - radius[p[pair]] - radius[q[pair]]
    for n in np.flatnonzero(clear <= some.room + SLACK).tolist():
        k, other = int(p[pair[n]]), int(q[pair[n]])
        if (k, other) not in told or clear[n] < told[k, other].clear:
            at = _along(of[k], int(a[n] - first[k]), found.s[n])
            told[k, other] = Meeting(keys[other], False, float(clear[n]), at)
    for (k, _), m in told.items():
        out.setdefault(keys[k], []).append(m)


def _pairs(some: Some) -> tuple[Any, Any]:
    """Rows whose boxes come within the room of those of some rows, each pair with the row asked
    for first.
    """
    at, rows = some.boxes.at, some.rows
    if some.plan is None:
        i, j = _near(some.wide, at)
    else:
        every = len(rows) == len(at)
        i, j = _tree(some.plan if every else _plan(at)).query(some.plan)
        j = rows[j] if every else j
        keep = _touch(some.wide[i], at[j])
        i, j = i[keep], j[keep]
    other = rows[i] != j
    return rows[i[other]], j[other]


def _near(few: Array, many: Array) -> tuple[Any, Any]:
    """Pairs of boxes that meet; a few against many. Those beside all of the few together are
    left out first, an axis at a time.
    """
    if not len(few):
        return np.zeros(0, np.int64), np.zeros(0, np.int64)
    low, high = few[:, :3].min(axis=0), few[:, 3:].max(axis=0)
    left = np.flatnonzero((many[:, 0] <= high[0]) & (many[:, 3] >= low[0]))
    left = left[(many[left, 1] <= high[1]) & (many[left, 4] >= low[1])]
    i, j = np.nonzero(_touch(few[:, None], many[left][None]))
    return i, left[j]


def _touch(a: Array, b: Array) -> Any:
    """Whether boxes meet, paired as numpy pairs arrays."""
    return ((a[..., :3] <= b[..., 3:]) & (a[..., 3:] >= b[..., :3])).all(axis=-1)


def _pieces(of: Sequence[Axis]) -> tuple[Array, Any, Any]:
    """All pieces of some axes, with the first of each and how many it has."""
    found = [a.pieces for a in of]
    count = np.array([len(p) for p in found])
    return np.concatenate(found), np.cumsum(count) - count, count


def _spread(first: Any, count: Any) -> tuple[Any, Any]:
    """The numbers from each first on, so many as are counted, and which of the rows each comes
    from.
    """
    row = np.repeat(np.arange(len(count)), count)
    return np.arange(len(row)) - np.repeat(np.cumsum(count) - count, count) + first[row], row


def _along(axis: Axis, piece: int, share: float) -> float:
    a, b = axis.along[piece], axis.along[piece + 1]
    return float(a + share * (b - a))


def _tree(plan: Any) -> Any:
    import shapely

    return shapely.STRtree(plan)


def _plan(boxes: Array) -> Any:
    """Boxes in plan."""
    import shapely

    return shapely.box(boxes[:, 0], boxes[:, 1], boxes[:, 3], boxes[:, 4])
