"""Least and greatest cover, judged along the whole barrel."""

from collections.abc import Iterator

import numpy as np

from zumbert.analysis.cover import stretches
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE, Bound, Finding, Rule
from zumbert.checks.limits import pipe_limit
from zumbert.checks.where import along, pipe_name, pipe_named, spot
from zumbert.geometry.elements import Array
from zumbert.words import tr


def _least(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    if f.cover is None:
        return
    need = pipe_limit(facts.project, f.pipe, f.dn, "cover_min")
    if f.cover.least < need - TOLERANCE:
        yield _finding(facts, f, "cover_min", need, f.cover.least, f.cover.least_at)


def _greatest(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    if f.cover is None:
        return
    most = pipe_limit(facts.project, f.pipe, f.dn, "cover_max")
    if f.cover.greatest > most + TOLERANCE:
        yield _finding(facts, f, "cover_max", most, f.cover.greatest, f.cover.greatest_at)


def _finding(facts: Facts, f: PipeFacts, rule: str, limit: float, value: float, at: float) -> Finding:
    under = rule == "cover_min"
    assert f.span.barrel is not None  # noqa: S101 - there is cover, so there is a barrel
    return Finding(
        rule=rule, severity="breach", pipe=f.pipe.id, value=value, limit=limit, worse="less" if under else "more",
        fixes=("lower_down", "lower_up", "lower_pipe") if under else ("raise_down", "raise_up", "raise_pipe"),
        stretches=tuple(stretches(f.span.barrel, f.top, limit, under)), **spot(facts, f, at),
    )  # fmt: skip


def _say(facts: Facts, n: Finding) -> tuple[str, str]:
    f = facts.pipes[n.pipe]  # type: ignore[index]
    now, bound = facts.units.apart(facts.units.long, n.value, n.limit)
    text = "cover {now} {where}, needs {bound}." if n.worse == "less" else "cover {now} {where}, at most {bound} is allowed."
    return pipe_named(facts, f), tr(text, now=now, bound=bound, where=along(facts, f, n.distance or 0.0))


def _mark(facts: Facts, n: Finding) -> str:
    now, bound = facts.units.apart(facts.units.length, n.value, n.limit)
    return tr("Cover {now}, needs {bound}" if n.worse == "less" else "Cover {now}, at most {bound}", now=now, bound=bound)


def _off_surface(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    on = f.span.barrel
    if f.span.wall <= 0 or (on is not None and on.solid and "rims" not in f.span.sources):
        return
    yield Finding(rule="off_surface", severity="caution", pipe=f.pipe.id, **spot(facts, f, None))


def _say_off_surface(facts: Facts, n: Finding) -> tuple[str, str]:
    f = facts.pipes[n.pipe]  # type: ignore[index]
    rims = "there cover is taken from the straight line between the rims."
    unknown = "there cover is not known."
    name = tr("Pipe {pipe} leaves the surfaces", pipe=pipe_name(facts, f))
    return name, tr(rims if "rims" in f.span.sources else unknown)


def _least_bounds(facts: Facts, f: PipeFacts) -> list[Bound]:
    return lines_at(f, pipe_limit(facts.project, f.pipe, f.dn, "cover_min"), "cover_min", 1.0)


def _greatest_bounds(facts: Facts, f: PipeFacts) -> list[Bound]:
    return lines_at(f, pipe_limit(facts.project, f.pipe, f.dn, "cover_max"), "cover_max", -1.0)


def lines_at(f: PipeFacts, cover: float, rule: str, sign: float) -> list[Bound]:
    """invert(s) <= ground(s) - cover - outside height at each point that can bind (sign -1: >=)."""
    if f.span.barrel is None or f.basis <= 1e-9:
        return []
    known = ~np.isnan(f.span.barrel.z)
    t = (f.span.barrel.s[known] - f.quoted_from) / f.basis
    z = sign * (f.span.barrel.z[known] - cover - f.outside_height)
    keep = _lower_hull(t, z)
    up, down = (f.pipe.id, "up"), (f.pipe.id, "down")
    return [
        Bound({up: sign * (1 - t), down: sign * t}, z, rule)  # type: ignore[dict-item]
        for t, z in zip(t[keep].tolist(), z[keep].tolist(), strict=True)
    ]


def _lower_hull(t: Array, z: Array) -> list[int]:
    """Indices of the lower hull: a straight line under all points is under all of them if it is under these."""
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
    "cover_min", "Least cover", "pipe", _least, _say, _least_bounds, mark=_mark, unit="length", from_ground=True, cost=1e5
)
COVER_MAX = Rule(
    "cover_max", "Greatest cover", "pipe", _greatest, _say, _greatest_bounds, mark=_mark, unit="length", from_ground=True, cost=1e4
)
OFF_SURFACE = Rule("off_surface", "Off the surfaces", "pipe", _off_surface, _say_off_surface)
