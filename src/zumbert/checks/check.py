"""All rules over all facts; only what changed since is judged anew."""

from collections.abc import Iterable, Mapping
from itertools import chain
from typing import Any, TypeVar

from zumbert.analysis.changed import changed
from zumbert.analysis.facts import Facts
from zumbert.checks.chamber import CROWNS, DROP_MAX, DROP_MIN, OUTLET_LOWEST, SIZE_ORDER
from zumbert.checks.connectivity import NO_OUTFALL
from zumbert.checks.cover import COVER_MAX, COVER_MIN, OFF_SURFACE
from zumbert.checks.finding import Finding, Rule
from zumbert.checks.slope import ADVERSE_FALL, SLOPE_MAX, SLOPE_MIN
from zumbert.model.project import Project

RULES: tuple[Rule, ...] = (
    COVER_MIN, COVER_MAX, SLOPE_MIN, SLOPE_MAX, ADVERSE_FALL,
    DROP_MIN, DROP_MAX, CROWNS, OUTLET_LOWEST, SIZE_ORDER, NO_OUTFALL, OFF_SURFACE,
)  # fmt: skip
_ORDER = {rule.name: i for i, rule in enumerate(RULES)}
_PIPE_RULES = tuple(r for r in RULES if r.of == "pipe")
_STRUCTURE_RULES = tuple(r for r in RULES if r.of == "structure")

K = TypeVar("K")
Found = dict[Any, tuple[Finding, ...]]


class Findings(tuple[Finding, ...]):
    """Findings in the order of the rules, then of labels; with what they were found from."""

    facts: Facts
    by_pipe: Found
    by_structure: Found

    @property
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
    if previous is not None and not _same_limits(project, previous.facts.project):
        previous = None
    old = previous.facts if previous else None
    by_pipe = _judged(
        facts,
        facts.pipes,
        old.pipes if old else None,
        previous.by_pipe if previous is not None else None,
        _PIPE_RULES,
        (),
    )
    moved = _restranded(facts, old)
    by_structure = _judged(
        facts, facts.structures, old.structures if old else None, previous.by_structure if previous is not None else None,
        _STRUCTURE_RULES, moved,
    )  # fmt: skip
    found = sorted(
        chain.from_iterable([*by_pipe.values(), *by_structure.values()]),
        key=lambda f: (_ORDER[f.rule], f.label, f.partner or ""),
    )
    out = Findings(found)
    out.facts, out.by_pipe, out.by_structure = facts, by_pipe, by_structure
    return out


def _same_limits(project: Project, before: Project) -> bool:
    return (
        project.standards == before.standards and project.networks == before.networks and project.types == before.types
    )


def _restranded(facts: Facts, old: Facts | None) -> Iterable[Any]:
    if old is None or facts.stranded is old.stranded:
        return ()
    keys = facts.stranded.keys() | old.stranded.keys()
    return [k for k in keys if facts.stranded.get(k) != old.stranded.get(k) and k in facts.structures]


def _judged(
    facts: Facts, new: Mapping[K, Any], old: Mapping[K, Any] | None, before: Found | None,
    rules: tuple[Rule, ...], also: Iterable[K],
) -> Found:  # fmt: skip
    if old is None or before is None:
        keys, gone, out = list(new), list[K](), dict[Any, tuple[Finding, ...]]()
    else:
        keys, gone = changed(old, new)
        out = before.copy() if keys or gone or also else before
    for key in chain(keys, also):
        found = _findings(facts, new[key], rules)
        if found:
            out[key] = found
        else:
            out.pop(key, None)
    for key in gone:
        out.pop(key, None)
    return out


def _findings(facts: Facts, fact: Any, rules: tuple[Rule, ...]) -> tuple[Finding, ...]:
    record = getattr(fact, "pipe", None) or fact.structure
    if record.status == "abandoned":
        return ()
    return tuple(finding for rule in rules for finding in rule.test(facts, fact))
