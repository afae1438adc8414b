"""All rules over all facts; only what changed since is judged anew."""

from bisect import bisect_left
from collections.abc import Callable, Iterable
from functools import cached_property
from itertools import chain
from typing import Any, Literal

from msgspec.structs import replace

from zumbert.analysis.facts import OF_PIPES, OF_STRUCTURES, Facts
from zumbert.analysis.stages import Derived, Read, Stage, derive
from zumbert.checks.capacity import CAPACITY, DEPTH_RATIO, FLOW_VELOCITY_MAX, FLOW_VELOCITY_MIN
from zumbert.checks.chamber import CROWNS, DROP_MAX, DROP_MIN, OUTLET_LOWEST, SIZE_ORDER
from zumbert.checks.clearance import CLASH, CLEARANCE
from zumbert.checks.connectivity import (
    CYCLE,
    DUPLICATE_LABEL,
    MANY_OUTLETS,
    NO_OUTFALL,
    UNATTACHED_END,
    ZERO_LENGTH,
)
from zumbert.checks.cover import COVER_MAX, COVER_MIN, OFF_SURFACE
from zumbert.checks.decided import with_decision
from zumbert.checks.finding import FIRM, Finding, Rule, record_of
from zumbert.checks.land import LAND
from zumbert.checks.limits import standard_of
from zumbert.checks.rim import CHAMBER_DEPTH, RIM_ABOVE_CROWNS, RIM_ON_SURFACE
from zumbert.checks.slope import ADVERSE_FALL, SLOPE_MAX, SLOPE_MIN
from zumbert.checks.spacing import DEFLECTION, SPACING
from zumbert.checks.velocity import VELOCITY_MAX, VELOCITY_MIN
from zumbert.checks.walls import CHAMBER_SIZE, LARGEST_PIPE, WALL_OPENINGS
from zumbert.model.project import Project

RULES: dict[str, Rule] = {
    rule.name: rule
    for rule in (
        COVER_MIN, COVER_MAX, SLOPE_MIN, SLOPE_MAX, ADVERSE_FALL, VELOCITY_MIN, VELOCITY_MAX,
        CAPACITY, DEPTH_RATIO, FLOW_VELOCITY_MIN, FLOW_VELOCITY_MAX,
        DROP_MIN, DROP_MAX, CROWNS, OUTLET_LOWEST, SIZE_ORDER, CHAMBER_SIZE, WALL_OPENINGS,
        LARGEST_PIPE,
        CHAMBER_DEPTH, SPACING, DEFLECTION, RIM_ON_SURFACE, RIM_ABOVE_CROWNS, LAND, CLASH,
        CLEARANCE,
        NO_OUTFALL, MANY_OUTLETS, CYCLE, UNATTACHED_END, ZERO_LENGTH, DUPLICATE_LABEL, OFF_SURFACE,
    )
}  # fmt: skip

ByThing = dict[Any, tuple[Finding, ...]]
SortKey = tuple[int, int, str, str, str, float]


def rule_of(name: str) -> Rule:
    """The rule of a permanent name."""
    return RULES[name]


def giving_way() -> list[Rule]:
    """The rules that may be broken where no level keeps all, the one that gives way first before
    the others.
    """
    return sorted((r for r in RULES.values() if r.cost < FIRM), key=lambda r: r.cost)


class Findings(tuple[Finding, ...]):
    """Findings in the order of the rules, then of the pipes and structures as they were made;
    with what they were found from.
    """

    facts: Facts
    made: Derived
    by_pipe: ByThing
    by_structure: ByThing
    places: list[SortKey]  # the sort keys of the findings, in their order

    @cached_property
    def breaches(self) -> int:
        """How many are breaches that nobody accepted."""
        return sum(_counts(f) for f in self)

    @cached_property
    def decided(self) -> int:
        """How many somebody accepted."""
        return sum(f.decided for f in self)

    @property
    def cautions(self) -> int:
        """How many are cautions that nobody accepted."""
        return len(self) - self.breaches - self.decided

    def of(self, key: str) -> tuple[Finding, ...]:
        """Those of a pipe or structure."""
        return self.by_pipe.get(key) or self.by_structure.get(key) or ()


def no_findings(facts: Facts) -> Findings:
    """None at all, for a drawing that shows none."""
    out = Findings()
    out.facts, out.by_pipe, out.by_structure, out.places = facts, {}, {}, []
    return out


def check(project: Project, facts: Facts, previous: Findings | None = None) -> Findings:
    """The findings by the standard of each network. With earlier findings only what changed since
    is judged anew.

    A finding depends on the facts of its pipe or structure and on the limits; abandoned work is not
    judged.
    """
    made = derive(_stages(facts), project, None if previous is None else previous.made, facts.made)
    out = _all(made) if previous is None else _some(made, previous)
    out.facts, out.made, out.by_pipe, out.by_structure = (
        facts,
        made,
        made["by_pipe"],
        made["by_structure"],
    )
    return out


def _counts(f: Finding) -> bool:
    return f.severity == "breach" and not f.decided


def _all(made: Derived) -> Findings:
    found = sorted(
        chain.from_iterable([*made["by_pipe"].values(), *made["by_structure"].values()]), key=_place
    )
    out = Findings(found)
    out.places = [_place(f) for f in found]
    return out


def _some(made: Derived, previous: Findings) -> Findings:
    """Earlier findings with those that went taken out and those that came put in where they
    stand.
    """
    lost, won = list[Finding](), list[Finding]()
    for name in ("by_pipe", "by_structure"):
        for key in chain(*made.changes(name, previous.made)):
            lost += previous.made[name].get(key, ())
            won += made[name].get(key, ())
    found, places = list(previous), previous.places.copy()
    for finding in lost:
        i = bisect_left(places, _place(finding))
        del found[i], places[i]
    for finding in won:
        i = bisect_left(places, _place(finding))
        found.insert(i, finding)
        places.insert(i, _place(finding))
    out = Findings(found)
    out.places = places
    out.breaches = previous.breaches + sum(map(_counts, won)) - sum(map(_counts, lost))
    out.decided = previous.decided + sum(f.decided for f in won) - sum(f.decided for f in lost)
    return out


LIMITS = (  # what every finding hangs on
    "project.land", "project.standards", "project.networks", "project.types", "project.services",
    "roads",
)  # fmt: skip


def _decided(now: Derived, before: Derived, keys: Iterable[Any]) -> Iterable[Any]:
    """The pipes or structures that decisions are about."""
    return [k.split("|")[1] for k in keys]


def _stages(facts: Facts) -> tuple[Stage, Stage]:
    """The findings of each pipe and of each structure."""
    decisions = Read("project.decisions", via=_decided)
    return (
        Stage(
            name="by_pipe",
            each="pipes",
            reads=(*map(Read, OF_PIPES), decisions),
            world=LIMITS,
            make=_judged(facts, "pipe"),
        ),
        Stage(
            name="by_structure",
            each="structures",
            reads=(*map(Read, OF_STRUCTURES), decisions),
            world=LIMITS,
            make=_judged(facts, "structure"),
        ),
    )


def _of(what: str) -> tuple[Rule, ...]:
    return tuple(r for r in RULES.values() if r.of in (what, "either"))


def _place(f: Finding) -> SortKey:
    """Where a finding stands among all: no two have the same place."""
    _, about, inlet, outlet = f.key
    return list(RULES).index(f.rule), len(about), about, inlet, outlet, f.limit or 0.0


def _judged(
    facts: Facts, what: Literal["pipe", "structure"]
) -> Callable[[Derived, list[Any]], list[Any]]:
    """The findings of each pipe or structure; None where there are none."""
    rules, things = _of(what), facts.pipes if what == "pipe" else facts.structures

    def make(now: Derived, keys: list[Any]) -> list[Any]:
        return [_tested(facts, things[k], rules) or None for k in keys]

    return make


def _tested(facts: Facts, fact: Any, rules: tuple[Rule, ...]) -> tuple[Finding, ...]:
    """The findings of one pipe or structure, as its standard weighs them, with what was decided
    about it.
    """
    record, project = record_of(fact), facts.project
    if record.status == "abandoned":
        return ()
    weights, out = standard_of(project, record).weights, list[Finding]()
    told = record.status == "existing" and project.networks[record.network].existing_told
    waived = {own.rule for own in record.limits if own.value is None}
    for rule in rules:
        if weights.get(rule.name) == "off" or rule.name in waived:
            continue
        for found in rule.test(facts, fact):
            weight = weights.get(rule.name, found.severity) if weights else found.severity
            severity = "caution" if told or weight == "caution" else "breach"
            if severity != found.severity:
                found = replace(found, severity=severity)
            out.append(with_decision(project, found, rule) if project.decisions else found)
    return tuple(out)
