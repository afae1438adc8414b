"""Least and greatest cover, judged along the whole barrel."""

from collections.abc import Iterator

import numpy as np

from zumbert.analysis.cover import covers, stretches
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE, Bound, Finding, Rule
from zumbert.checks.reference import Reference, references
from zumbert.checks.where import along, pipe_name, pipe_named, spot
from zumbert.geometry.elements import Array
from zumbert.geometry.line import Line


def _least(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    yield from _judged(facts, f, "cover_min")


def _greatest(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    yield from _judged(facts, f, "cover_max")


def _judged(facts: Facts, f: PipeFacts, rule: str) -> Iterator[Finding]:
    """One finding at the place where a limit is missed by most, of all that the standard asks
    for.
    """
    if f.cover is None:
        return
    under = rule == "cover_min"
    worst: tuple[float, Reference, float, float] | None = None
    wrong: list[tuple[float, float]] = []
    for r in references(facts, f, rule):
        cover = f.cover if r.line is f.span.barrel else covers([r.line], [f.top])[0]
        if cover is None:
            continue
        value, at = (cover.least, cover.least_at) if under else (cover.greatest, cover.greatest_at)
        by = r.limit - value if under else value - r.limit
        if by > TOLERANCE:
            wrong += stretches(r.line, f.top, r.limit, under)
            if worst is None or by > worst[0]:
                worst = by, r, value, at
    if worst is None:
        return
    _, r, value, at = worst
    yield Finding(
        rule=rule,
        severity="breach",
        pipe=f.pipe.id,
        value=value,
        limit=r.limit,
        worse="less" if under else "more",
        fixes=("lower_down", "lower_up", "lower_pipe")
        if under
        else ("raise_down", "raise_up", "raise_pipe"),
        stretches=_joined(wrong),
        under=r.kind,
        surface=r.surface,
        **spot(facts, f, at),
    )


def _joined(stretches: list[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    """Stretches in order, those that touch as one."""
    out: list[tuple[float, float]] = []
    for a, b in sorted(stretches):
        if out and a <= out[-1][1] + 1e-9:
            out[-1] = out[-1][0], max(b, out[-1][1])
        else:
            out.append((a, b))
    return tuple(out)


UNDER = {
    "carriageway": "under the carriageway",
    "verge": "under the verge",
    "field": "beside the road",
}


def _say(facts: Facts, n: Finding) -> tuple[str, str]:
    f = facts.pipes[n.of_pipe]
    now, bound = facts.units.apart(facts.units.long, n.value, n.limit)
    text = (
        "cover {now} {where}, needs {bound}."
        if n.worse == "less"
        else "cover {now} {where}, at most {bound} is allowed."
    )
    where = along(facts, f, n.distance or 0.0)
    if n.under:
        where = f"{where} {UNDER[n.under]}"
    if n.surface:
        where = f"{where} from {facts.surfaces.name(n.surface)}"
    return pipe_named(facts, f), text.format(now=now, bound=bound, where=where)


def _mark(facts: Facts, n: Finding) -> str:
    now, bound = facts.units.apart(facts.units.length, n.value, n.limit)
    return (
        "Cover {now}, needs {bound}" if n.worse == "less" else "Cover {now}, at most {bound}"
    ).format(now=now, bound=bound)


def _off_surface(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    on = f.span.barrel
    if f.span.wall <= 0 or (on is not None and on.solid and "rims" not in f.span.sources):
        return
    yield Finding(rule="off_surface", severity="caution", pipe=f.pipe.id, **spot(facts, f, None))


def _say_off_surface(facts: Facts, n: Finding) -> tuple[str, str]:
    f = facts.pipes[n.of_pipe]
    rims = "there cover is taken from the straight line between the rims."
    unknown = "there cover is not known."
    name = f"Pipe {pipe_name(facts, f)} leaves the surfaces"
    return name, (rims if "rims" in f.span.sources else unknown)


def _least_bounds(facts: Facts, f: PipeFacts) -> list[Bound]:
    return [
        b
        for r in references(facts, f, "cover_min")
        for b in _lines_at(f, r.line, r.limit, "cover_min", 1.0)
    ]


def _greatest_bounds(facts: Facts, f: PipeFacts) -> list[Bound]:
    return [
        b
        for r in references(facts, f, "cover_max")
        for b in _lines_at(f, r.line, r.limit, "cover_max", -1.0)
    ]


def lines_at(f: PipeFacts, cover: float) -> list[Bound]:
    """The bound that one least cover (m) sets along the whole barrel."""
    return [] if f.span.barrel is None else _lines_at(f, f.span.barrel, cover, "cover_min", 1.0)


def _lines_at(f: PipeFacts, ground: Line, cover: float, rule: str, sign: float) -> list[Bound]:
    """invert(s) <= ground(s) - cover - outside height at each point that can bind (sign -1: >=)."""
    if f.basis <= 1e-9:
        return []
    known = ~np.isnan(ground.z)
    t = (ground.s[known] - f.quoted_from) / f.basis
    z = sign * (ground.z[known] - cover - f.outside_height)
    keep = _lower_hull(t, z)
    up, down = (f.pipe.id, "up"), (f.pipe.id, "down")
    return [
        Bound({up: sign * (1 - t), down: sign * t}, z, rule)  # type: ignore[dict-item]
        for t, z in zip(t[keep].tolist(), z[keep].tolist(), strict=True)
    ]


def _lower_hull(t: Array, z: Array) -> list[int]:
    """Indices of the lower hull: a straight line under all points is under all of them if it is
    under these.
    """
    hull: list[int] = []
    x, y = t.tolist(), z.tolist()
    for i in range(len(x)):
        if hull and x[i] - x[hull[-1]] <= 1e-12:
            if y[i] >= y[hull[-1]]:
                continue
            hull.pop()
        while len(hull) > 1 and _over(x, y, hull[-2], hull[-1], i):
            hull.pop()
        hull.append(i)
    return hull


def _over(x: list[float], y: list[float], a: int, b: int, c: int) -> bool:
    return (y[b] - y[a]) * (x[c] - x[a]) >= (y[c] - y[a]) * (x[b] - x[a])


COVER_MIN = Rule(
    "cover_min",
    "Least cover",
    "pipe",
    _least,
    _say,
    _least_bounds,
    mark=_mark,
    limit="cover_min",
    from_ground=True,
    cost=1e5,
)
COVER_MAX = Rule(
    "cover_max",
    "Greatest cover",
    "pipe",
    _greatest,
    _say,
    _greatest_bounds,
    mark=_mark,
    limit="cover_max",
    from_ground=True,
    cost=1e4,
)
OFF_SURFACE = Rule("off_surface", "Off the surfaces", "pipe", _off_surface, _say_off_surface)
