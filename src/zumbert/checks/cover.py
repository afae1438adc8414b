"""Least and greatest cover, judged along the whole barrel."""

from collections.abc import Iterator

from zumbert.analysis.cover import stretches
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE, Finding, Rule
from zumbert.checks.limits import pipe_limit
from zumbert.checks.where import along, pipe_name, spot


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
    words = f"needs {bound}" if n.worse == "less" else f"at most {bound} is allowed"
    return f"Pipe {pipe_name(facts, f)}", f"cover {now} {along(facts, f, n.distance or 0.0)}, {words}."


def _mark(facts: Facts, n: Finding) -> str:
    now, bound = facts.units.apart(facts.units.length, n.value, n.limit)
    return f"Cover {now}, {'needs' if n.worse == 'less' else 'at most'} {bound}"


def _off_surface(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    on = f.span.barrel
    if f.span.wall <= 0 or (on is not None and on.solid and "rims" not in f.span.sources):
        return
    yield Finding(rule="off_surface", severity="caution", pipe=f.pipe.id, **spot(facts, f, None))


def _say_off_surface(facts: Facts, n: Finding) -> tuple[str, str]:
    f = facts.pipes[n.pipe]  # type: ignore[index]
    how = "cover is taken from the straight line between the rims" if "rims" in f.span.sources else "cover is not known"
    return f"Pipe {pipe_name(facts, f)} leaves the surfaces", f"there {how}."


COVER_MIN = Rule(
    "cover_min", "Least cover", "pipe", _least, _say, mark=_mark, unit="length", from_ground=True, cost=1e5
)
COVER_MAX = Rule(
    "cover_max", "Greatest cover", "pipe", _greatest, _say, mark=_mark, unit="length", from_ground=True, cost=1e4
)
OFF_SURFACE = Rule("off_surface", "Off the surfaces", "pipe", _off_surface, _say_off_surface)
