"""Each structure drains to an outfall."""

from collections.abc import Iterator

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.checks.finding import Finding, Rule
from zumbert.checks.where import stand


def _no_outfall(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    """Told once, at the structure where the water stops; the message counts those that drain there."""
    count = facts.stranded.get(f.structure.id)
    if count is None:
        return
    others = f", nor has the water of {count - 1} more that drain to it" if count > 1 else ""
    yield Finding(
        rule="no_outfall", severity="breach", structure=f.structure.id, label=f.structure.label, value=float(count),
        message=f"{f.structure.label} has no way to an outfall or headwall{others}.", **stand(f),
    )  # fmt: skip


NO_OUTFALL = Rule("no_outfall", "No outfall", "structure", _no_outfall)
