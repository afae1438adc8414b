"""How all hangs together: each structure drains to an outfall, once and not round in a ring; pipes
have two ends, a length and a label of their own.
"""

from collections.abc import Iterator

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE, Finding, Rule
from zumbert.checks.where import pipe_name, spot, stand
from zumbert.model.display import counted


def _no_outfall(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    """One finding at the structure where the water stops; its value is the number of structures
    that drain there.
    """
    count = facts.stranded.get(f.structure.id)
    if count is None:
        return
    yield Finding(
        rule="no_outfall",
        severity="breach",
        structure=f.structure.id,
        value=float(count),
        worse="more",
        fixes=("turn_to_outfall", "declare_outfall"),
        **stand(f),
    )


def _say_no_outfall(facts: Facts, n: Finding) -> str:
    more, label = round(n.value or 1.0) - 1, facts.structures[n.of_structure].structure.label
    verbs = ("has", "drains") if more == 1 else ("have", "drain")
    text = f"{label} has no way to an outfall or headwall"
    if more > 0:
        text += f", nor {verbs[0]} {counted(more, 'structure')} that {verbs[1]} to it"
    text += "."
    gone = [facts.pipes[k] for k in facts.links.outlets.get(n.of_structure, ())]
    if not gone or facts.live.outlets.get(n.of_structure):
        return text
    names = " and ".join(pipe_name(facts, f) for f in gone)
    pipes, verb = ("Pipe", "is") if len(gone) == 1 else ("Pipes", "are")
    return f"{text} {pipes} {names} on from it {verb} abandoned."


def _unattached(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    """A joint with a single pipe, unless it is declared an outfall."""
    if loose_end(facts, f):
        yield Finding(
            rule="unattached_end",
            severity="breach",
            structure=f.structure.id,
            fixes=("attach",),
            **stand(f),
        )


def _say_unattached(facts: Facts, n: Finding) -> str:
    f = facts.structures[n.of_structure]
    pipe = (*f.pipes_in, *f.pipes_out)[0].pipe
    text = "Pipe {pipe} ends in the open at {label}: attach it to a structure."
    return text.format(pipe=pipe.label, label=f.structure.label)


def _outlets(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    out = facts.live.outlets.get(f.structure.id, ())
    if len(out) > 1:
        yield Finding(
            rule="many_outlets",
            severity="caution",
            structure=f.structure.id,
            value=float(len(out)),
            limit=1.0,
            worse="more",
            fixes=("turn_an_outlet",),
            **stand(f),
        )


def _say_outlets(facts: Facts, n: Finding) -> str:
    f = facts.structures[n.of_structure]
    downs = (facts.project.pipes[k].down for k in facts.live.outlets.get(n.of_structure, ()))
    names = ", ".join(facts.project.structures[k].label for k in downs)
    text = "{label} has {count} outlets, to {names}: its water parts there."
    return text.format(label=f.structure.label, count=round(n.value or 0.0), names=names)


def _cycle(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    count = facts.rings.get(f.structure.id)
    if count is not None:
        yield Finding(
            rule="cycle",
            severity="breach",
            structure=f.structure.id,
            value=float(count),
            worse="more",
            fixes=("turn_in_ring",),
            **stand(f),
        )


def _say_cycle(facts: Facts, n: Finding) -> str:
    count, label = round(n.value or 1.0), facts.structures[n.of_structure].structure.label
    alone, several = (
        "A pipe leads from {label} back to it.",
        "Water from {label} comes round to it again, through {count} structures.",
    )
    return (several if count > 1 else alone).format(label=label, count=count)


def _no_length(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    if f.span.wall <= TOLERANCE:
        yield Finding(
            rule="zero_length",
            severity="breach",
            pipe=f.pipe.id,
            value=f.span.wall,
            limit=0.0,
            fixes=("remove",),
            **spot(facts, f, f.span.length / 2),
        )


def _say_no_length(facts: Facts, n: Finding) -> str:
    f = facts.pipes[n.of_pipe]
    none, meet = (
        "Pipe {pipe} has no length.",
        "Pipe {pipe} has no length: the chambers at its ends meet.",
    )
    return (none if f.span.length <= TOLERANCE else meet).format(pipe=pipe_name(facts, f))


def _same_label(facts: Facts, f: PipeFacts | StructureFacts) -> Iterator[Finding]:
    """One finding at each that took a label which another had before it."""
    if isinstance(f, PipeFacts):
        if f.pipe.id in facts.same_pipe:
            yield Finding(
                rule="duplicate_label",
                severity="breach",
                pipe=f.pipe.id,
                fixes=("fresh_label",),
                **spot(facts, f, None),
            )
    elif f.structure.id in facts.same_structure:
        yield Finding(
            rule="duplicate_label",
            severity="breach",
            structure=f.structure.id,
            fixes=("fresh_label",),
            **stand(f),
        )


def _say_same_label(facts: Facts, n: Finding) -> str:
    u = facts.units
    if n.pipe is not None:
        f, first = facts.pipes[n.pipe], facts.pipes[facts.same_pipe[n.pipe]]
        text = "Pipe {pipe} is called {label}, as pipe {other} is."
        return text.format(
            pipe=pipe_name(facts, f), label=f.pipe.label, other=pipe_name(facts, first)
        )
    here, there = (
        facts.structures[n.of_structure],
        facts.structures[facts.same_structure[n.of_structure]],
    )
    text = "The structure at {place} is called {label}, as the one at {other} is."
    at, other = (u.chainage(g.place.chainage, 1) for g in (here, there))
    return text.format(place=at, label=here.structure.label, other=other)


def loose_end(facts: Facts, f: StructureFacts) -> bool:
    """Whether a structure is nothing but the end of one pipe."""
    kind = facts.project.types[f.structure.type].kind
    return kind == "joint" and not f.structure.outfall and len(f.pipes_in) + len(f.pipes_out) == 1


UNATTACHED_END = Rule("unattached_end", "Unattached end", "structure", _unattached, _say_unattached)
MANY_OUTLETS = Rule("many_outlets", "Several outlets", "structure", _outlets, _say_outlets)
CYCLE = Rule("cycle", "Round in a ring", "structure", _cycle, _say_cycle)
ZERO_LENGTH = Rule("zero_length", "No length", "pipe", _no_length, _say_no_length)
DUPLICATE_LABEL = Rule(
    "duplicate_label", "Label used twice", "either", _same_label, _say_same_label
)
NO_OUTFALL = Rule("no_outfall", "No outfall", "structure", _no_outfall, _say_no_outfall)
