"""The edits that mend a finding, each with the words for its button and what would follow from
it.
"""

from collections.abc import Callable, Iterable
from typing import NamedTuple

from zumbert.analysis.facts import Facts, analyse
from zumbert.analysis.trench import Trenches, trenches
from zumbert.checks.check import Findings, check
from zumbert.checks.finding import Finding
from zumbert.edits.fix import Fix, Way
from zumbert.edits.flowfixes import FLOW_FIXES
from zumbert.edits.levelfixes import LEVEL_FIXES
from zumbert.edits.networkfixes import NETWORK_FIXES
from zumbert.errors import EditError
from zumbert.model.project import Project

_FIXES: dict[str, Way] = {**LEVEL_FIXES, **NETWORK_FIXES, **FLOW_FIXES}
_END, _OTHER_TYPE, _OTHER_SIZE, _TURNED, _MADE = (
    0.05,
    1.0,
    2.0,
    0.5,
    3.0,
)  # m of level that other changes count as


def fixes(project: Project, facts: Facts, finding: Finding) -> list[Fix]:
    """The fixes of a finding that can be done now; what changes least comes first. Two that do
    the same are one.
    """
    made: list[Fix] = []
    for name in finding.fixes:
        try:
            fix = _FIXES[name](project, facts, finding)
        except EditError:
            fix = None
        if (
            fix is not None
            and fix.project is not project
            and all(fix.project != f.project for f in made)
        ):
            made.append(fix)
    return sorted(made, key=lambda f: _changed(project, f.project))


def _changed(old: Project, new: Project) -> float:
    """How much an edit changes, in metres of level: moves of inverts and places, and what else
    is other.
    """
    much = 0.0
    for k, p in new.pipes.items():
        q = old.pipes.get(k)
        if q is p:
            continue
        if q is None:
            much += _MADE
            continue
        straight = abs(p.invert_up - q.invert_up) + abs(p.invert_down - q.invert_down)
        straight += _END * ((p.invert_up != q.invert_up) + (p.invert_down != q.invert_down))
        turned = _TURNED + abs(p.invert_up - q.invert_down) + abs(p.invert_down - q.invert_up)
        much += turned if p.up == q.down and p.up != q.up else straight
        much += _OTHER_SIZE * (p.size != q.size)
    much += _MADE * len(old.pipes.keys() - new.pipes.keys())
    for key, s in new.structures.items():
        t = old.structures.get(key)
        if t is not None and t is not s:
            much += (
                _OTHER_TYPE * (s.type != t.type)
                + _OTHER_SIZE * (s.outfall != t.outfall)
                + 0.1 * (s.place != t.place)
            )
    return much


class Outcome(NamedTuple):
    """The effect of an edit: findings that go, findings that come, and m³ more (or
    less) to dig of proposed work.
    """

    mends: tuple[Finding, ...]
    raises: tuple[Finding, ...]
    earth: float
    after: Facts


def outcome(facts: Facts, findings: Findings, dug: Trenches | None, made: Project) -> Outcome:
    """The effect of an edit of a project whose facts, findings and (for what is dug)
    trenches are known. Findings that are decided do not count, unless the edit opens them again.
    """
    after = analyse(made, facts)
    then = check(made, after, findings)
    before, now = ({f.key for f in found if not f.decided} for found in (findings, then))
    mends = tuple(f for f in findings if f.key in before and f.key not in now)
    raises = tuple(f for f in then if f.key in now and f.key not in before)
    return Outcome(
        mends,
        raises,
        0.0 if dug is None else _proposed(trenches(after, dug)) - _proposed(dug),
        after,
    )


def _proposed(dug: Trenches) -> float:
    """Excavation of proposed work, m³."""
    long = sum(t.excavation or 0.0 for t in dug.pipes.values() if t.pipe.pipe.status == "proposed")
    return long + sum(
        p.excavation or 0.0 for p in dug.pits.values() if p.structure.structure.status == "proposed"
    )


class Mended(NamedTuple):
    """Many findings mended in one step: the project after it, those that went, and those that no
    fix mends soundly.
    """

    project: Project
    gone: tuple[Finding, ...]
    left: tuple[Finding, ...]


def mended(
    project: Project,
    facts: Facts,
    chosen: Iterable[Finding],
    tell: Callable[[float, str], None] = lambda share, words: None,
) -> Mended:
    """The project with each of some findings mended by its first fix that raises no other; those
    that have none are left. `tell` hears how far it is, 0 to 1, and may end it by raising
    Cancelled.

    Each is mended on what those before it made: a finding that went with another needs no fix.
    """
    chosen = list(chosen)
    gone, left = list[Finding](), list[Finding]()
    findings = check(project, facts)
    for i, wanted in enumerate(chosen):
        tell(i / len(chosen), f"Mending {i + 1} of {len(chosen)}")
        now = next((f for f in findings if f.key == wanted.key), None)
        if now is None:
            gone.append(wanted)
            continue
        for fix in fixes(project, facts, now):
            after = analyse(fix.project, facts)
            then = check(fix.project, after, findings)
            keys = {f.key for f in findings}
            if all(f.key in keys for f in then if not f.decided) and all(
                f.key != now.key for f in then
            ):
                project, facts, findings = fix.project, after, then
                gone.append(wanted)
                break
        else:
            left.append(wanted)
    return Mended(project, tuple(gone), tuple(left))
