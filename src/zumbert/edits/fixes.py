"""The edits that mend a finding, each with the words for its button."""

from collections.abc import Callable
from typing import NamedTuple

from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import Finding
from zumbert.checks.legal import cover_bound, end_range
from zumbert.checks.sentences import object_label
from zumbert.edits.change import RimOn, rim_on, set_size, sizes_like
from zumbert.edits.join import attached, nearest_structure, turned
from zumbert.edits.levels import set_invert, set_slope, shift_pipe
from zumbert.edits.records import with_pipe
from zumbert.errors import EditError
from zumbert.model.ids import PipeId
from zumbert.model.pipe import End
from zumbert.model.project import Project


class Fix(NamedTuple):
    """One way to mend a finding: what the button says, a short figure beside it, and the project after it."""

    text: str
    figure: str
    project: Project


def fixes(project: Project, facts: Facts, finding: Finding) -> list[Fix]:
    """The fixes of a finding that can be done now, in the order of the finding."""
    made = []
    for name in finding.fixes:
        try:
            fix = _FIXES[name](project, facts, finding)
        except EditError:
            fix = None
        if fix is not None and fix.project is not project:
            made.append(fix)
    return made


def _cover_end(end: End, verb: str) -> Callable[[Project, Facts, Finding], Fix | None]:
    def fix(project: Project, facts: Facts, finding: Finding) -> Fix | None:
        u = project.units
        f = facts.pipes[_pipe(finding)]
        found = end_range(facts, f, end)
        to = found.high if verb == "Lower" else found.low
        if to is None or found.empty:
            return None
        label = project.structures[f.pipe.at(end)].label
        return Fix(f"{verb} {label} to {u.level(to)}", u.slope(_slope_at(f, end, to)), set_invert(project, f.pipe.id, end, to))

    return fix


def _slope_at(f: PipeFacts, end: End, to: float) -> float:
    up = to if end == "up" else f.pipe.invert_up
    down = to if end == "down" else f.pipe.invert_down
    return float((up - down) / f.basis)


def _cover_whole(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    f = facts.pipes[_pipe(finding)]
    if finding.rule == "cover_min":
        by = cover_bound(facts, f, None, finding.limit or 0.0)
    else:
        by = (finding.value or 0.0) - (finding.limit or 0.0)
    if by is None:
        return None
    word = "Lower" if by < 0 else "Raise"
    return Fix(f"{word} the whole pipe, slope kept", project.units.step(by), shift_pipe(project, f.pipe.id, by))


def _slope(pivot: End) -> Callable[[Project, Facts, Finding], Fix | None]:
    def fix(project: Project, facts: Facts, finding: Finding) -> Fix | None:
        u = project.units
        f = facts.pipes[_pipe(finding)]
        other: End = "down" if pivot == "up" else "up"
        found = end_range(facts, f, other)
        if found.empty or found.low is None or found.high is None:
            return None
        now = f.pipe.invert_down if other == "down" else f.pipe.invert_up
        to = found.low if abs(found.low - now) < abs(found.high - now) else found.high
        made = set_slope(project, facts, f.pipe.id, _slope_at(f, other, to), pivot)
        word = "Lower" if to < now else "Raise"
        return Fix(
            f"{word} {project.structures[getattr(f.pipe, other)].label} to {u.level(to)}", u.slope(_slope_at(f, other, to)), made
        )

    return fix


def _turn(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    """A pipe that falls the wrong way, its flow turned round."""
    f = facts.pipes[_pipe(finding)]
    if f.slope is None or f.slope >= 0:
        return None
    return Fix("Turn the flow", project.units.slope(-f.slope), turned(project, facts, [f.pipe.id]))


def _raise_inlet(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    u = project.units
    f = facts.pipes[_partner(finding)]
    need = end_range(facts, f, "down").low
    if need is None or need <= f.pipe.invert_down:
        return None
    text = f"Raise the pipe from {project.structures[f.pipe.up].label} to {u.level(need)}"
    return Fix(text, u.step(need - f.pipe.invert_down), set_invert(project, f.pipe.id, "down", need))


def _lower_inlet(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    u = project.units
    f = facts.pipes[_partner(finding)]
    by = (finding.limit or 0.0) - (finding.value or 0.0)
    to = f.pipe.invert_down + by
    text = f"Lower the pipe from {project.structures[f.pipe.up].label} to {u.level(to)}"
    return Fix(text, project.units.step(by), set_invert(project, f.pipe.id, "down", to))


def _lower_outlets(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    u = project.units
    assert finding.structure is not None  # noqa: S101 - a rule of structures
    made, lowest = project, None
    for f in facts.structures[finding.structure].pipes_out:
        bound = end_range(facts, f, "up").high
        if bound is not None and bound < f.pipe.invert_up:
            made, lowest = set_invert(made, f.pipe.id, "up", bound), bound
    if lowest is None:
        return None
    return Fix(f"Lower the outlet of {object_label(facts, finding)} to {u.level(lowest)}", "", made)


def _enlarge_outlet(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    f = facts.pipes[_partner(finding)]
    need = finding.limit or 0.0
    own = f.pipe.size if isinstance(f.pipe.size, str) else next(iter(project.sizes))
    larger = (project.sizes[k] for k in sizes_like(project, own))
    size = next((s for s in larger if s.inside >= need - 1e-6), None)
    if size is None:
        return None
    crown = f.inside - size.inside  # the outlet grows downwards: its crown stays
    made = set_size(project, f.pipe.id, size.key)
    made = with_pipe(made, f.pipe.id, invert_up=f.pipe.invert_up + crown, invert_down=f.pipe.invert_down + crown)
    return Fix(f"Make the outlet {project.units.dn(size.dn)}, crown kept", project.units.step(crown), made)


def _pipe(finding: Finding) -> PipeId:
    assert finding.pipe is not None  # noqa: S101 - a rule of pipes
    return finding.pipe


def _partner(finding: Finding) -> PipeId:
    assert finding.partner is not None  # noqa: S101 - a rule of pairs
    return finding.partner


def _attach(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    loose = finding.structure
    found = None if loose is None else nearest_structure(facts, loose)
    if loose is None or found is None:
        return None
    label, far = project.structures[found[0]].label, project.units.long(found[1])
    return Fix(f"Attach it to {label}", f"{far} away", attached(project, facts, loose, found[0]))


def _rim_on_surface(project: Project, facts: Facts, finding: Finding) -> Fix | None:
    key = finding.structure
    if key is None:
        return None
    p = facts.places[key]
    on: RimOn = "design" if p.design is not None else "existing"
    to = p.design if on == "design" else p.ground
    if to is None or p.rim is None:
        return None
    made = rim_on(project, facts, key, on)
    return Fix(f"Put the rim on {facts.surfaces.name(on)}", project.units.step(to - p.rim), made)


_FIXES: dict[str, Callable[[Project, Facts, Finding], Fix | None]] = {
    "lower_down": _cover_end("down", "Lower"),
    "lower_up": _cover_end("up", "Lower"),
    "lower_pipe": _cover_whole,
    "raise_down": _cover_end("down", "Raise"),
    "raise_up": _cover_end("up", "Raise"),
    "raise_pipe": _cover_whole,
    "slope_from_up": _slope("up"),
    "slope_from_down": _slope("down"),
    "turn": _turn,
    "raise_inlet": _raise_inlet,
    "lower_inlet": _lower_inlet,
    "lower_outlets": _lower_outlets,
    "enlarge_outlet": _enlarge_outlet,
    "attach": _attach,
    "rim_on_surface": _rim_on_surface,
}
