"""All rules over all facts; only what changed since is judged anew."""

from bisect import bisect_left
from collections.abc import Mapping
from functools import cached_property
from itertools import chain
from typing import Any, TypeVar

from zumbert.analysis.changed import changed
from zumbert.analysis.facts import Facts
from zumbert.checks.chamber import CROWNS, DROP_MAX, DROP_MIN, OUTLET_LOWEST, SIZE_ORDER
from zumbert.checks.connectivity import NO_OUTFALL, UNATTACHED_END
from zumbert.checks.cover import COVER_MAX, COVER_MIN, OFF_SURFACE
from zumbert.checks.finding import FIRM, Finding, Rule
from zumbert.checks.land import LAND
from zumbert.checks.rim import CHAMBER_DEPTH, RIM_ABOVE_CROWNS, RIM_ON_SURFACE
from zumbert.checks.slope import ADVERSE_FALL, SLOPE_MAX, SLOPE_MIN
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.project import Project

RULES: dict[str, Rule] = {
    rule.name: rule
    for rule in (
        COVER_MIN, COVER_MAX, SLOPE_MIN, SLOPE_MAX, ADVERSE_FALL,
        DROP_MIN, DROP_MAX, CROWNS, OUTLET_LOWEST, SIZE_ORDER,
        CHAMBER_DEPTH, RIM_ON_SURFACE, RIM_ABOVE_CROWNS, LAND, NO_OUTFALL, UNATTACHED_END, OFF_SURFACE,
    )
}  # fmt: skip

K = TypeVar("K")
Found = dict[Any, tuple[Finding, ...]]
Place = tuple[int, int, str, str, str, float]


def rule_of(name: str) -> Rule:
    """The rule of a permanent name."""
    return RULES[name]


def giving_way() -> list[Rule]:
    """The rules that may be broken where no level keeps all, the one that gives way first before the others."""
    return sorted((r for r in RULES.values() if r.cost < FIRM), key=lambda r: r.cost)


class Findings(tuple[Finding, ...]):
    """Findings in the order of the rules, then of the pipes and structures as they were made; with what they were found from."""

    facts: Facts
    by_pipe: Found
    by_structure: Found
    places: list[Place]  # the sort keys of the findings, in their order

    @cached_property
    def breaches(self) -> int:
        """How many are breaches."""
        return sum(f.severity == "breach" for f in self)

    @property
    def cautions(self) -> int:
        """How many are cautions."""
        return len(self) - self.breaches


def check(project: Project, facts: Facts, previous: Findings | None = None) -> Findings:
    """What breaks the standard of each network. With earlier findings only what changed since is judged anew.

    A finding depends on the facts of its pipe or structure and on the limits; abandoned work is not judged.
    """
    if previous is None or not _same_limits(project, previous.facts.project):
        by_pipe = _judged(facts, facts.pipes, _of("pipe"))
        by_structure = _judged(facts, facts.structures, _of("structure"))
        found = sorted(chain.from_iterable([*by_pipe.values(), *by_structure.values()]), key=_place)
        return _findings(facts, by_pipe, by_structure, found, [_place(f) for f in found])
    pipes, structures = new_since(facts, previous.facts)
    by_pipe, lost, won = _rejudged(facts, facts.pipes, pipes, previous.by_pipe, _of("pipe"))
    by_structure, more_lost, more_won = _rejudged(
        facts, facts.structures, structures, previous.by_structure, _of("structure")
    )
    found, places = list(previous), previous.places.copy()
    for finding in chain(lost, more_lost):
        i = bisect_left(places, _place(finding))
        del found[i], places[i]
    for finding in chain(won, more_won):
        i = bisect_left(places, _place(finding))
        found.insert(i, finding)
        places.insert(i, _place(finding))
    out = _findings(facts, by_pipe, by_structure, found, places)
    out.breaches = previous.breaches + sum(f.severity == "breach" for f in chain(won, more_won))
    out.breaches -= sum(f.severity == "breach" for f in chain(lost, more_lost))
    return out


def _findings(facts: Facts, by_pipe: Found, by_structure: Found, found: list[Finding], places: list[Place]) -> Findings:
    out = Findings(found)
    out.facts, out.by_pipe, out.by_structure, out.places = facts, by_pipe, by_structure, places
    return out


def _of(what: str) -> tuple[Rule, ...]:
    return tuple(r for r in RULES.values() if r.of in (what, "either"))


def _place(f: Finding) -> Place:
    """Where a finding stands among all: no two have the same place."""
    _, about, inlet, outlet = f.key
    return list(RULES).index(f.rule), len(about), about, inlet, outlet, f.limit or 0.0


def new_since(facts: Facts, old: Facts) -> tuple[list[PipeId], list[StructureId]]:
    """The pipes and structures whose facts or findings may not be what they were, those gone included."""
    if facts.since.before is old.since.token:
        gone_pipes = [k for k in old.pipes if k not in facts.pipes] if len(old.pipes) != len(facts.pipes) else []
        same = len(old.structures) == len(facts.structures)
        gone = [] if same else [k for k in old.structures if k not in facts.structures]
        pipes, structures = [*facts.since.pipes, *gone_pipes], [*facts.since.structures, *gone]
    else:
        new, lost = changed(old.pipes, facts.pipes)
        pipes = [*new, *lost]
        fresh, gone = changed(old.structures, facts.structures)
        structures = [*fresh, *gone]
    if facts.stranded is not old.stranded:
        keys = facts.stranded.keys() | old.stranded.keys()
        structures += [k for k in keys if facts.stranded.get(k) != old.stranded.get(k) and k not in structures]
    return pipes, structures


def _same_limits(project: Project, before: Project) -> bool:
    return (
        project.land is before.land
        and project.standards == before.standards
        and project.networks == before.networks
        and project.types == before.types
    )


def _judged(facts: Facts, things: Mapping[K, Any], rules: tuple[Rule, ...]) -> Found:
    out: Found = {}
    for key, fact in things.items():
        found = _tested(facts, fact, rules)
        if found:
            out[key] = found
    return out


def _rejudged(
    facts: Facts, things: Mapping[K, Any], keys: list[K], before: Found, rules: tuple[Rule, ...]
) -> tuple[Found, list[Finding], list[Finding]]:
    """Findings by thing with some things judged anew, and the findings that went and came."""
    if not keys:
        return before, [], []
    out, lost, won = before.copy(), list[Finding](), list[Finding]()
    for key in keys:
        lost += out.pop(key, ())
        found = _tested(facts, things[key], rules) if key in things else ()
        if found:
            out[key] = found
            won += found
    return out, lost, won


def _tested(facts: Facts, fact: Any, rules: tuple[Rule, ...]) -> tuple[Finding, ...]:
    record = getattr(fact, "pipe", None) or fact.structure
    if record.status == "abandoned":
        return ()
    return tuple(finding for rule in rules for finding in rule.test(facts, fact))
