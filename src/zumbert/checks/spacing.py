"""Greatest spacing of structures, and the greatest turn of the flow in one."""

from collections.abc import Iterator

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE, Finding, Rule
from zumbert.checks.limits import limit_of, pipe_limit
from zumbert.checks.where import pipe_name, spot, stand


def _spacing(facts: Facts, f: PipeFacts) -> Iterator[Finding]:
    """The length in plan between the centres at both ends."""
    most = pipe_limit(facts.project, f.pipe, f.dn, "spacing_max")
    if f.span.length > most + TOLERANCE:
        yield Finding(
            rule="spacing",
            severity="breach",
            pipe=f.pipe.id,
            value=f.span.length,
            limit=most,
            worse="more",
            fixes=("split",),
            **spot(facts, f, None),
        )


def _say_spacing(facts: Facts, n: Finding) -> str:
    now, bound = facts.units.apart(facts.units.long, n.value, n.limit)
    text = "Pipe {pipe} is {now} long between centres, at most {bound} is allowed."
    return text.format(pipe=pipe_name(facts, facts.pipes[n.of_pipe]), now=now, bound=bound)


def _deflection(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    """The angle between the flow of each inlet and each outlet; the limit is the inlet's."""
    inlets = {g.pipe.id: g for g in f.pipes_in}
    for d in f.drops:
        inlet = inlets[d.inlet]
        most = limit_of(facts.project, f.structure, "deflection_max", inlet.dn)
        if d.deflection > most + TOLERANCE:
            yield Finding(
                rule="deflection",
                severity="breach",
                structure=f.structure.id,
                inlet=d.inlet,
                outlet=d.outlet,
                partner=d.inlet,
                value=d.deflection,
                limit=most,
                worse="more",
                **stand(f),
            )


def _say_deflection(facts: Facts, n: Finding) -> str:
    names, pipes = facts.project.structures, facts.project.pipes
    now, bound = facts.units.apart(facts.units.angle, n.value, n.limit)
    here, far, to = n.of_structure, pipes[n.of_inlet].up, pipes[n.of_outlet].down
    way = f"from {names[far].label} to {names[to].label}"
    return f"At {names[here].label} the flow {way} turns by {now}, at most {bound} is allowed."


SPACING = Rule(
    "spacing", "Spacing", "pipe", _spacing, _say_spacing, at_once=True, limit="spacing_max"
)
DEFLECTION = Rule(
    "deflection", "Deflection", "structure", _deflection, _say_deflection, limit="deflection_max"
)
