"""Findings of design flow mended by a size or a slope."""

from collections.abc import Callable
from math import ceil, floor, pi

from zumbert.analysis.facts import Facts, analyse
from zumbert.analysis.fullbore import roughness
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.check import rule_of
from zumbert.checks.finding import Finding
from zumbert.checks.limits import judged, pipe_limit
from zumbert.edits.change import set_size, sizes_like
from zumbert.edits.fix import Fix, Way
from zumbert.edits.levels import set_slope
from zumbert.hydraulics.depths import RoundFlow, round_flow
from zumbert.hydraulics.resistance import full_velocity
from zumbert.model.display import Units, ratio
from zumbert.model.pipe import End
from zumbert.model.project import Project

STEEPEST = 0.5  # slope: a fix goes no farther


def _next_size(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    """The next larger size of its material with which the rule is kept."""
    f = facts.pipes[finding.of_pipe]
    if not isinstance(f.pipe.size, str):
        return None
    for key in sizes_like(project, f.pipe.size):
        if project.sizes[key].inside <= f.inside:
            continue
        made = set_size(project, f.pipe.id, key)
        after = analyse(made, facts)
        then = after.pipes[f.pipe.id]
        asked = {finding.rule, *(r for r in ("capacity", "depth_ratio") if judged(made, f.pipe, r))}
        if not any(any(rule_of(r).test(after, then)) for r in asked):
            flow = after.pipe_flow[f.pipe.id]
            u = project.units
            return Fix(
                f"Make it {u.dn(project.sizes[key].dn)}", f"takes {u.flows(flow.capacity)}", made
            )
    return None


def _other_slope(pivot: End, steeper: bool) -> Way:
    """The slope next to today's with which the rule is kept, one end as it is."""

    def fix(project: Project, facts: Facts, finding: Finding) -> Fix | None:
        f = facts.pipes[finding.of_pipe]
        limit = finding.limit or 0.0
        slope = _slope_where(project, facts, f, _kept(finding, limit, facts, f), steeper)
        if slope is None:
            return None
        slope = round_slope(project.units, slope, steeper)
        made = set_slope(project, facts, f.pipe.id, slope, pivot)
        other = project.structures[f.pipe.down if pivot == "up" else f.pipe.up].label
        words = project.units.slope(slope) if project.units.slopes != "percent" else ratio(slope)
        verb = "Steepen" if steeper else "Flatten"
        return Fix(f"{verb} to {words}, {other} moves", project.units.slope(slope), made)

    return fix


def _kept(
    finding: Finding, limit: float, facts: Facts, f: PipeFacts
) -> Callable[[RoundFlow, float], bool]:
    """Whether the rule is kept by how the flow runs, and by the full-bore flow (m³/s) of the
    slope.
    """
    flow = facts.pipe_flow[f.pipe.id].flow
    share, deep = (
        pipe_limit(facts.project, f.pipe, f.dn, n) for n in ("capacity_max", "depth_ratio_max")
    )
    if not judged(facts.project, f.pipe, "depth_ratio"):
        deep = 1.0
    return {
        "capacity": lambda r, full: flow <= min(limit, share) * full and r.depth_ratio <= deep,
        "depth_ratio": lambda r, full: flow < full and r.depth_ratio <= limit,
        "flow_velocity_min": lambda r, full: r.velocity >= limit,
        "flow_velocity_max": lambda r, full: r.velocity <= limit,
    }[finding.rule]


def _slope_where(
    project: Project,
    facts: Facts,
    f: PipeFacts,
    kept: Callable[[RoundFlow, float], bool],
    steeper: bool,
) -> float | None:
    """The slope nearest to today's from which on a rule is kept: its own design flow does not go
    by it.
    """
    flow, now = facts.pipe_flow[f.pipe.id].flow, f.slope
    formula, rough = project.settings.formula, roughness(project, f.pipe)

    def fine(slope: float) -> bool:
        full = full_velocity(formula, f.inside, slope, *rough)
        return kept(
            round_flow(formula, f.inside, slope, rough, flow, full), full * pi * f.inside**2 / 4
        )

    near, far = (now or 0.0), STEEPEST if steeper else 1e-5
    if not fine(far):
        return None
    for _ in range(60):
        mid = (near + far) / 2
        near, far = (near, mid) if fine(mid) else (mid, far)
    return far


def round_slope(u: Units, slope: float, steeper: bool) -> float:
    """A slope as one writes it, no flatter (or steeper) than it has to be: 1:118, or a hundredth
    of a per cent.
    """
    if u.slopes == "ratio" and slope < 0.1:
        return 1 / (floor(1 / slope + 1e-9) if steeper else ceil(1 / slope - 1e-9))
    return (ceil(slope * 1e4 - 1e-9) if steeper else floor(slope * 1e4 + 1e-9)) / 1e4


FLOW_FIXES: dict[str, Way] = {
    "next_size": _next_size,
    "steepen_up": _other_slope("up", True),
    "steepen_down": _other_slope("down", True),
    "flatten_up": _other_slope("up", False),
    "flatten_down": _other_slope("down", False),
}
