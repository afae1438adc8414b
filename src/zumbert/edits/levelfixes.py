"""Findings mended by other levels."""

from math import ceil, floor

from zumbert.analysis.clearance import axis, moved
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.check import rule_of
from zumbert.checks.clearance import needed, outside_of
from zumbert.checks.finding import Finding
from zumbert.checks.legal import end_range, rule_bound
from zumbert.checks.sentences import object_label
from zumbert.edits.change import RimOn, rim_on, set_size, sizes_like
from zumbert.edits.fix import Fix, Way
from zumbert.edits.levels import set_invert, set_slope, shift_pipe
from zumbert.edits.records import with_pipe
from zumbert.geometry.space import between_pieces
from zumbert.model.pipe import End
from zumbert.model.project import Project

FARTHEST = 8.0  # m that a pipe is moved at most to be clear of something


def _cover_end(end: End, verb: str) -> Way:
    def fix(project: Project, facts: Facts, finding: Finding) -> Fix | None:
        u = project.units
        f = facts.pipes[finding.of_pipe]
        found = end_range(facts, f, end)
        to = found.high if verb == "Lower" else found.low
        if to is None or found.empty:
            to = rule_bound(facts, f, end, finding.rule)
        if to is None or (to < f.pipe.invert(end)) != (verb == "Lower"):
            return None
        label = project.structures[f.pipe.at(end)].label
        return Fix(
            f"{verb} {label} to {u.level(to)}",
            u.slope(_slope_at(f, end, to)),
            set_invert(project, f.pipe.id, end, to),
        )

    return fix


def _slope_at(f: PipeFacts, end: End, to: float) -> float:
    up = to if end == "up" else f.pipe.invert_up
    down = to if end == "down" else f.pipe.invert_down
    return float((up - down) / f.basis)


def _cover_whole(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    f = facts.pipes[finding.of_pipe]
    by = rule_bound(facts, f, None, finding.rule)
    return None if by is None else _shifted(project, f, by)


def _shifted(project: Project, f: PipeFacts, by: float) -> Fix:
    word = "Lower" if by < 0 else "Raise"
    return Fix(
        f"{word} the whole pipe, slope kept",
        project.units.step(by),
        shift_pipe(project, f.pipe.id, by),
    )


def _slope(pivot: End) -> Way:
    """Another level at one end: where a rule is kept that all others allow, else where it alone
    is.
    """

    def fix(project: Project, facts: Facts, finding: Finding) -> Fix | None:
        u = project.units
        f = facts.pipes[finding.of_pipe]
        other: End = "down" if pivot == "up" else "up"
        found, now = end_range(facts, f, other), f.pipe.invert(other)
        to: float | None
        if found.empty or found.low is None or found.high is None:
            to = rule_bound(facts, f, other, rule_of(finding.rule).mended_by or finding.rule)
        else:
            to = found.low if abs(found.low - now) < abs(found.high - now) else found.high
        if to is None:
            return None
        slope = _slope_at(f, other, to)
        made = set_slope(project, facts, f.pipe.id, slope, pivot)
        word = "Lower" if to < now else "Raise"
        return Fix(
            f"{word} {project.structures[f.pipe.at(other)].label} to {u.level(to)}",
            u.slope(slope),
            made,
        )

    return fix


def _raise_inlet(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    u = project.units
    f = facts.pipes[finding.of_partner]
    found = end_range(facts, f, "down")
    need = found.low
    if need is None or need <= f.pipe.invert_down:
        return None
    far = project.structures[f.pipe.up].label
    match = rule_of(found.low_rule).match if found.low_rule else ""
    text = f"{match or 'Raise'} the pipe from {far} to {u.level(need)}"
    return Fix(
        text, u.step(need - f.pipe.invert_down), set_invert(project, f.pipe.id, "down", need)
    )


def _lower_inlet(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    u = project.units
    f = facts.pipes[finding.of_partner]
    by = (finding.limit or 0.0) - (finding.value or 0.0)
    to = f.pipe.invert_down + by
    text = f"Lower the pipe from {project.structures[f.pipe.up].label} to {u.level(to)}"
    return Fix(text, project.units.step(by), set_invert(project, f.pipe.id, "down", to))


def _lower_outlets(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    u = project.units
    made, lowest = project, None
    for f in facts.structures[finding.of_structure].pipes_out:
        bound = end_range(facts, f, "up").high
        if bound is not None and bound < f.pipe.invert_up:
            made, lowest = set_invert(made, f.pipe.id, "up", bound), bound
    if lowest is None:
        return None
    return Fix(f"Lower the outlet of {object_label(facts, finding)} to {u.level(lowest)}", "", made)


def _under_rim(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    """The end of the pipe whose crown is over the rim, lowered under it."""
    key = finding.inlet or finding.outlet
    if key is None:
        return None
    f = facts.pipes[key]
    end: End = "down" if finding.inlet is not None else "up"
    to = rule_bound(facts, f, end, finding.rule)
    if to is None or to >= f.pipe.invert(end):
        return None
    far = project.structures[f.pipe.at("up" if end == "down" else "down")].label
    text = f"Lower the pipe {'from' if end == 'down' else 'to'} {far} to {project.units.level(to)}"
    return Fix(text, project.units.step(to - f.pipe.invert(end)), set_invert(project, key, end, to))


def _enlarge_outlet(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    f = facts.pipes[finding.of_partner]
    need = finding.limit or 0.0
    own = f.pipe.size if isinstance(f.pipe.size, str) else next(iter(project.sizes))
    larger = (project.sizes[k] for k in sizes_like(project, own))
    size = next((s for s in larger if s.inside >= need - 1e-6), None)
    if size is None:
        return None
    crown = f.inside - size.inside  # the outlet grows downwards: its crown stays
    made = set_size(project, f.pipe.id, size.key)
    made = with_pipe(
        made, f.pipe.id, invert_up=f.pipe.invert_up + crown, invert_down=f.pipe.invert_down + crown
    )
    return Fix(
        f"Make the outlet {project.units.dn(size.dn)}, crown kept", project.units.step(crown), made
    )


def _rim_on_surface(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    key = finding.structure
    if key is None:
        return None
    p = facts.places[key]
    on: RimOn = "design" if p.design is not None else "existing"
    to = p.design if on == "design" else p.ground
    if to is None or p.rim is None or p.rim_from != "fixed":
        return None
    made = rim_on(project, facts, key, on)
    return Fix(f"Put the rim on {facts.surfaces.name(on)}", project.units.step(to - p.rim), made)


def _clear(end: End | None, sign: float) -> Way:
    """An end, or the whole pipe, raised or lowered until it is as clear as it has to be, to the
    next millimetre.
    """

    def fix(project: Project, facts: Facts, finding: Finding) -> Fix | None:
        f = facts.pipes[finding.of_pipe]
        by = _room_at(facts, f, finding, end, sign)
        if by is None:
            return None
        if end is None:
            return _shifted(project, f, by)
        to, u = f.pipe.invert(end) + by, project.units
        text = (
            f"{'Lower' if sign < 0 else 'Raise'} {project.structures[f.pipe.at(end)].label} to "
            f"{u.level(to)}"
        )
        return Fix(text, u.slope(_slope_at(f, end, to)), set_invert(project, f.pipe.id, end, to))

    return fix


def _room_at(
    facts: Facts, f: PipeFacts, finding: Finding, end: End | None, sign: float
) -> float | None:
    """The least move (m) that gives the room that is asked for; None where no move up to FARTHEST
    does.

    The room is looked at in steps of a decimetre and the step halved: what comes nearer first, and
    goes clear then, is found.
    """
    m = next((m for m in facts.meetings.get(f.pipe.id, ()) if m.other == finding.other), None)
    if m is None:
        return None
    pieces, radius = outside_of(facts, m.other)
    need = needed(facts, f, m) + radius + f.inside / 2 + f.wall

    def clear(by: float) -> bool:
        there = moved(f, by if end != "down" else 0.0, by if end != "up" else 0.0)
        return float(between_pieces(axis(there), pieces).min()) >= need

    steps = [sign * 0.1 * i for i in range(1, round(FARTHEST / 0.1) + 1)]
    far = next((by for by in steps if clear(by)), None)
    if far is None:
        return None
    near = far - sign * 0.1
    for _ in range(40):
        mid = (near + far) / 2
        near, far = (near, mid) if clear(mid) else (mid, far)
    whole = ceil if sign > 0 else floor
    return whole(far * 1000 - sign * 1e-6) / 1000


LEVEL_FIXES: dict[str, Way] = {
    "lower_down": _cover_end("down", "Lower"),
    "lower_up": _cover_end("up", "Lower"),
    "lower_pipe": _cover_whole,
    "raise_down": _cover_end("down", "Raise"),
    "raise_up": _cover_end("up", "Raise"),
    "raise_pipe": _cover_whole,
    "slope_from_up": _slope("up"),
    "slope_from_down": _slope("down"),
    "raise_inlet": _raise_inlet,
    "lower_inlet": _lower_inlet,
    "lower_outlets": _lower_outlets,
    "under_rim": _under_rim,
    "enlarge_outlet": _enlarge_outlet,
    "rim_on_surface": _rim_on_surface,
    "sink_down": _clear("down", -1.0),
    "sink_up": _clear("up", -1.0),
    "sink_pipe": _clear(None, -1.0),
    "lift_down": _clear("down", 1.0),
    "lift_up": _clear("up", 1.0),
    "lift_pipe": _clear(None, 1.0),
}
