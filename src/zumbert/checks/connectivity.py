"""Each structure drains to an outfall, and no pipe ends in the open."""

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


def _unattached(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    """A joint that a single pipe comes to: a pipe's end in the open, unless water is declared to leave there."""
    if loose_end(facts, f):
        pipe = (*f.pipes_in, *f.pipes_out)[0].pipe
        yield Finding(
            rule="unattached_end", severity="breach", structure=f.structure.id, label=f.structure.label,
            message=f"Pipe {pipe.label} ends in the open at {f.structure.label}: attach it to a structure.",
            fixes=("attach",), **stand(f),
        )  # fmt: skip


def loose_end(facts: Facts, f: StructureFacts) -> bool:
    """Whether a structure is nothing but the end of one pipe."""
    kind = facts.project.types[f.structure.type].kind
    return kind == "joint" and not f.structure.outfall and len(f.pipes_in) + len(f.pipes_out) == 1


UNATTACHED_END = Rule("unattached_end", "Unattached end", "structure", _unattached)
NO_OUTFALL = Rule("no_outfall", "No outfall", "structure", _no_outfall)
