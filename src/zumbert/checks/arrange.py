"""Findings in the order and the groups in which a person goes through them."""

from collections import Counter
from collections.abc import Iterable
from typing import Literal, NamedTuple

from msgspec import Struct

from zumbert.analysis.facts import Facts
from zumbert.analysis.runlist import outline, run_keys, run_with
from zumbert.checks.check import RULES, rule_of
from zumbert.checks.decided import share
from zumbert.checks.finding import Finding
from zumbert.checks.sentences import object_label, remark
from zumbert.model.ids import PipeId

Grouping = Literal["worst", "rule", "run", "object"]
GROUPINGS: dict[Grouping, str] = {
    "worst": "Worst first",
    "rule": "By rule",
    "run": "By run",
    "object": "By object",
}
Which = Literal["open", "decided", "all"]
WHICH: dict[Which, str] = {"open": "Open", "decided": "Decided", "all": "All"}


class Wanted(Struct, frozen=True, kw_only=True):
    """Which findings are looked at."""

    which: Which = "all"
    rule: str = ""  # one rule alone
    text: str = ""  # words that the finding holds, in any order


class FindingGroup(NamedTuple):
    """Findings under one heading; of all together the heading is empty."""

    title: str
    findings: tuple[Finding, ...]


def wanted(facts: Facts, findings: Iterable[Finding], ask: Wanted) -> list[Finding]:
    """The findings that are asked for, in their order."""
    words = ask.text.casefold().split()
    out = []
    for f in findings:
        if (ask.which != "all" and f.decided != (ask.which == "decided")) or ask.rule not in (
            "",
            f.rule,
        ):
            continue
        said = (
            (
                f"{rule_of(f.rule).title} {f.severity} {object_label(facts, f)} {remark(facts, f)}"
            ).casefold()
            if words
            else ""
        )
        if all(w in said for w in words):
            out.append(f)
    return out


def arranged(facts: Facts, findings: Iterable[Finding], by: Grouping) -> list[FindingGroup]:
    """Findings in groups, in each the worst first: breaches before cautions, and by their share
    of the limit; decided ones last.
    """
    found = sorted(findings, key=_badness)
    if by == "worst":
        return [FindingGroup("", tuple(found))] if found else []
    titles: dict[str, list[Finding]] = {}
    names = _Runs(facts) if by == "run" else None
    for f in found:
        title = (
            rule_of(f.rule).title
            if by == "rule"
            else names.of(f)
            if names is not None
            else object_label(facts, f)
        )
        titles.setdefault(title, []).append(f)
    if by == "rule":
        order = [r.title for r in RULES.values()]
        return [FindingGroup(t, tuple(titles[t])) for t in sorted(titles, key=order.index)]
    return [FindingGroup(t, tuple(v)) for t, v in titles.items()]


def _badness(f: Finding) -> tuple[bool, bool, float]:
    return f.decided, f.severity != "breach", -share(f, rule_of(f.rule))


class _Runs:
    """The run that a finding lies on: that of its pipe, or of the first pipe at its structure."""

    def __init__(self, facts: Facts) -> None:
        self.facts, self.keys = facts, run_keys(facts.project, facts)
        self.known: dict[PipeId, str] = {}

    def of(self, f: Finding) -> str:
        pipe = (
            f.pipe
            or f.partner
            or (
                next(iter(self.facts.links.at(f.structure)), None)
                if f.structure is not None
                else None
            )
        )
        if pipe is None:
            return "On no run"
        if pipe not in self.known:
            found = outline(self.facts, run_with(self.facts.project, self.facts, self.keys, pipe))
            self.known[pipe] = "On no run" if found is None else found.name
        return self.known[pipe]


class Bar(NamedTuple):
    """How many findings of a rule there are."""

    rule: str
    breaches: int
    cautions: int
    decided: int

    @property
    def all(self) -> int:
        """All of them."""
        return self.breaches + self.cautions + self.decided


def bars(findings: Iterable[Finding]) -> list[Bar]:
    """The count of findings by rule, the most first."""
    counts = Counter((f.rule, f.look) for f in findings)
    rules = dict.fromkeys(rule for rule, _ in counts)
    made = [Bar(r, counts[r, "breach"], counts[r, "caution"], counts[r, "decided"]) for r in rules]
    return sorted(made, key=lambda b: -b.all)
