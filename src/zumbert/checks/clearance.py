"""Room in space between pipes and services, and between pipes that no structure joins."""

from collections.abc import Callable, Iterator

import numpy as np

from zumbert.analysis.clearance import axis, service_axis
from zumbert.analysis.facts import Facts
from zumbert.analysis.meetings import Meeting
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE, Finding, Rule
from zumbert.checks.limits import pipe_limit
from zumbert.checks.where import along, pipe_name, spot
from zumbert.geometry.elements import Array
from zumbert.geometry.space import between_pieces
from zumbert.model.ids import PipeId, ServiceId
from zumbert.model.standard import own_limit

HALVINGS = 60  # of a stretch: exact to rounding


def needed(facts: Facts, f: PipeFacts, m: Meeting) -> float:
    """The clearance (m) that a pipe has to keep there: of its own, else the service's; between
    two pipes the greater of both.
    """
    own = own_limit(f.pipe.limits, "clearance")
    if own is not None and own.value is not None:
        return own.value
    if m.service:
        return facts.project.services[ServiceId(m.other)].clearance
    g = facts.pipes[PipeId(m.other)]
    return max(pipe_limit(facts.project, h.pipe, h.dn, "clearance_min") for h in (f, g))


def _tells(facts: Facts, f: PipeFacts, m: Meeting) -> bool:
    """Whether a pair is told at this pipe: of two pipes at the proposed one, else at the one
    that was made first.
    """
    if m.service:
        return True
    rank = [
        (p.status != "proposed", len(p.id), p.id)
        for p in (f.pipe, facts.pipes[PipeId(m.other)].pipe)
    ]
    return rank[0] < rank[1]


def _clash(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    for m in facts.meetings.get(f.pipe.id, ()):
        if m.clear <= TOLERANCE and _tells(facts, f, m):
            yield _finding(facts, f, m, 0.0)


def _near(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    for m in facts.meetings.get(f.pipe.id, ()):
        if (
            m.clear > TOLERANCE
            and _tells(facts, f, m)
            and m.clear < (need := needed(facts, f, m)) - TOLERANCE
        ):
            yield _finding(facts, f, m, need)


FIXES = ("sink_down", "sink_up", "sink_pipe", "lift_down", "lift_up", "lift_pipe")


def _finding(facts: Facts, f: PipeFacts, m: Meeting, need: float) -> Finding:
    return Finding(
        rule="clearance" if need else "clash",
        severity="caution" if need else "breach",
        pipe=f.pipe.id,
        other=m.other,
        value=m.clear,
        limit=need,
        fixes=FIXES,
        stretches=_stretches(facts, f, m, need),
        **spot(facts, f, m.at),
    )


def outside_of(facts: Facts, other: str) -> tuple[Array, float]:
    """The axis (n, 2, 3) and the outside radius (m) of a service or pipe."""
    service = facts.project.services.get(ServiceId(other))
    if service is not None:
        return service_axis(service), service.size / 2
    g = facts.pipes[PipeId(other)]
    return axis(g), g.inside / 2 + g.wall


def _stretches(
    facts: Facts, f: PipeFacts, m: Meeting, need: float
) -> tuple[tuple[float, float], ...]:
    """Where along the pipe there is less room than is asked for, around the place where there is
    least.

    The distance to a straight piece rises to both sides of its least place along a straight pipe;
    the ends are found by halving.
    """
    pieces, radius = outside_of(facts, m.other)
    most = radius + f.inside / 2 + f.wall + need
    a, b = f.span.reach_up, f.span.length - f.span.reach_down

    def wrong(s: float) -> bool:
        place = np.array([[(*f.span.point(s), f.invert(s) + f.inside / 2)] * 2])
        return bool(between_pieces(place, pieces).min() <= most)

    return ((_edge(wrong, m.at, a), _edge(wrong, m.at, b)),)


def _edge(wrong: Callable[[float], bool], inside: float, end: float) -> float:
    if wrong(end):
        return end
    low, high = inside, end
    for _ in range(HALVINGS):
        mid = (low + high) / 2
        low, high = (mid, high) if wrong(mid) else (low, mid)
    return (low + high) / 2


def other_name(facts: Facts, other: str) -> str:
    """The service or pipe that a pipe comes near to, in words: "W1 water", "pipe P7"."""
    service = facts.project.services.get(ServiceId(other))
    if service is not None:
        return f"{service.label} {service.kind}"
    return f"pipe {facts.project.pipes[PipeId(other)].label}"


def _say_clash(facts: Facts, n: Finding) -> str:
    f = facts.pipes[n.of_pipe]
    by, other = -(n.value or 0.0), other_name(facts, n.other or "")
    pipe, where = pipe_name(facts, f), along(facts, f, n.distance or 0.0)
    if by < 0.0005:
        return f"Pipe {pipe} touches {other} {where}."
    return f"Pipe {pipe} runs into {other} by {facts.units.deep(by)}, {where}."


def _say_near(facts: Facts, n: Finding) -> str:
    f, u = facts.pipes[n.of_pipe], facts.units
    now, need = u.apart(u.deep, n.value, n.limit)
    other, where = other_name(facts, n.other or ""), along(facts, f, n.distance or 0.0)
    return f"Pipe {pipe_name(facts, f)} is {now} clear of {other} {where}, needs {need}."


def _mark_clash(facts: Facts, n: Finding) -> str:
    return f"Touches {other_name(facts, n.other or '')}"


def _mark_near(facts: Facts, n: Finding) -> str:
    u = facts.units
    now, need = u.apart(u.length, n.value, n.limit)
    return f"{now} to {other_name(facts, n.other or '')}, needs {need}"


CLASH = Rule("clash", "Touching", "pipe", _clash, _say_clash, mark=_mark_clash, at_once=True)
CLEARANCE = Rule(
    "clearance",
    "Near",
    "pipe",
    _near,
    _say_near,
    mark=_mark_near,
    at_once=True,
    limit="clearance_min",
)
