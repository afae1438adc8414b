"""Rules of the design flow: whether a pipe takes it, how full it runs, and how fast."""

from collections.abc import Callable, Iterator
from math import pi

from zumbert.analysis.facts import Facts
from zumbert.analysis.fullbore import roughness
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE, Finding, Rule
from zumbert.checks.limits import pipe_limit
from zumbert.checks.where import pipe_name, spot
from zumbert.hydraulics.resistance import slope_for

FIXES = ("next_size", "steepen_up", "steepen_down")


def _capacity(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    """Design flow over full-bore flow; of one that does not fall the rules of slope speak."""
    flow = facts.pipe_flow.get(f.pipe.id)
    used = None if flow is None else flow.used
    if (
        used is not None
        and used > pipe_limit(facts.project, f.pipe, f.dn, "capacity_max") + TOLERANCE
    ):
        yield _finding(
            facts,
            f,
            "capacity",
            used,
            pipe_limit(facts.project, f.pipe, f.dn, "capacity_max"),
            FIXES,
        )


def _depth(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    """How full it runs, where it has the capacity: one that has not runs full."""
    flow = facts.pipe_flow.get(f.pipe.id)
    most = pipe_limit(facts.project, f.pipe, f.dn, "depth_ratio_max")
    if (
        flow is not None
        and flow.used is not None
        and flow.used < 1
        and flow.depth_ratio > most + TOLERANCE
    ):
        yield _finding(facts, f, "depth_ratio", flow.depth_ratio, most, FIXES)


def _velocity(facts: Facts, f: PipeFacts, rule: str) -> Iterator[Finding]:
    flow = facts.pipe_flow.get(f.pipe.id)
    if flow is None or flow.flow <= 0 or flow.used is None:
        return
    limit = pipe_limit(facts.project, f.pipe, f.dn, rule)
    least = rule == "flow_velocity_min"
    if flow.velocity < limit - TOLERANCE if least else flow.velocity > limit + TOLERANCE:
        ways = ("steepen_up", "steepen_down") if least else ("flatten_up", "flatten_down")
        yield _finding(facts, f, rule, flow.velocity, limit, ways, least)


def _finding(
    facts: Facts,
    f: PipeFacts,
    rule: str,
    value: float,
    limit: float,
    ways: tuple[str, ...],
    least: bool = False,
) -> Finding:
    return Finding(
        rule=rule,
        severity="breach",
        pipe=f.pipe.id,
        value=value,
        limit=limit,
        worse="less" if least else "more",
        fixes=ways,
        **spot(facts, f, None),
    )


def _say_capacity(facts: Facts, n: Finding) -> str:
    f, u = facts.pipes[n.of_pipe], facts.units
    flow = facts.pipe_flow[f.pipe.id]
    most = (n.limit or 0.0) * flow.capacity
    now, bound = u.apart(u.flows, flow.flow, most)
    slope = slope_that_takes(facts, f, flow.flow, n.limit or 1.0)
    return (
        f"Pipe {pipe_name(facts, f)} gets {now}, takes {bound} at most: a slope of "
        f"{u.slope(slope)}."
    )


def slope_that_takes(facts: Facts, f: PipeFacts, flow: float, most: float) -> float:
    """The slope at which a flow (m³/s) is a share of the full-bore flow of a pipe."""
    full = flow / most / (pi * f.inside**2 / 4)
    return slope_for(
        facts.project.settings.formula, f.inside, full, *roughness(facts.project, f.pipe)
    )


def _say_depth(facts: Facts, n: Finding) -> str:
    f, u = facts.pipes[n.of_pipe], facts.units
    now, bound = u.apart(u.ratio, n.value, n.limit)
    return (
        f"Pipe {pipe_name(facts, f)} runs {now} of its diameter deep, at most {bound} is allowed."
    )


def _say_velocity(facts: Facts, n: Finding) -> str:
    f, u = facts.pipes[n.of_pipe], facts.units
    now, bound = u.apart(u.speed, n.value, n.limit)
    wanted = f"needs {bound}" if n.worse == "less" else f"at most {bound} is allowed"
    return f"Pipe {pipe_name(facts, f)} runs at {now}, {wanted}."


def _of(rule: str) -> Callable[[Facts, PipeFacts], Iterator[Finding]]:
    return lambda facts, f: _velocity(facts, f, rule)


CAPACITY = Rule(
    "capacity",
    "Capacity",
    "pipe",
    _capacity,
    _say_capacity,
    limit="capacity_max",
    cell="size",
    of_flow=True,
)
DEPTH_RATIO = Rule(
    "depth_ratio",
    "Depth of flow",
    "pipe",
    _depth,
    _say_depth,
    limit="depth_ratio_max",
    cell="size",
    of_flow=True,
)
FLOW_VELOCITY_MIN = Rule(
    "flow_velocity_min", "Least velocity of flow", "pipe", _of("flow_velocity_min"), _say_velocity,
    limit="flow_velocity_min",
    cell="slope", of_flow=True,
)  # fmt: skip
FLOW_VELOCITY_MAX = Rule(
    "flow_velocity_max", "Greatest velocity of flow", "pipe", _of("flow_velocity_max"),
    _say_velocity, limit="flow_velocity_max",
    cell="slope", of_flow=True,
)  # fmt: skip
