"""Each structure drains to an outfall, and no pipe ends in the open."""

from collections.abc import Iterator

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.checks.finding import Finding, Rule
from zumbert.checks.where import stand
from zumbert.words import tr


def _no_outfall(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    """One finding at the structure where the water stops; its value is the number of structures that drain there."""
    count = facts.stranded.get(f.structure.id)
    if count is None:
        return
    yield Finding(rule="no_outfall", severity="breach", structure=f.structure.id, value=float(count), worse="more", **stand(f))


def _say_no_outfall(facts: Facts, n: Finding) -> str:
    count, label = round(n.value or 1.0), facts.structures[n.structure].structure.label  # type: ignore[index]
    alone = "{label} has no way to an outfall or headwall."
    several = "{label} has no way to an outfall or headwall, nor has the water of {more} more that drain to it."
    return tr(several if count > 1 else alone, label=label, more=count - 1)


def _unattached(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    """A joint with a single pipe, unless it is declared an outfall."""
    if loose_end(facts, f):
        yield Finding(rule="unattached_end", severity="breach", structure=f.structure.id, fixes=("attach",), **stand(f))


def _say_unattached(facts: Facts, n: Finding) -> str:
    f = facts.structures[n.structure]  # type: ignore[index]
    pipe = (*f.pipes_in, *f.pipes_out)[0].pipe
    text = "Pipe {pipe} ends in the open at {label}: attach it to a structure."
    return tr(text, pipe=pipe.label, label=f.structure.label)


def loose_end(facts: Facts, f: StructureFacts) -> bool:
    """Whether a structure is nothing but the end of one pipe."""
    kind = facts.project.types[f.structure.type].kind
    return kind == "joint" and not f.structure.outfall and len(f.pipes_in) + len(f.pipes_out) == 1


UNATTACHED_END = Rule("unattached_end", "Unattached end", "structure", _unattached, _say_unattached)
NO_OUTFALL = Rule("no_outfall", "No outfall", "structure", _no_outfall, _say_no_outfall)
