"""The basis of inverts, centres or inner walls, for the project, a network or a pipe. No pipe
moves.
"""

from collections.abc import Iterable

from msgspec.structs import replace

from zumbert.analysis.facts import analyse
from zumbert.analysis.pipes import PipeFacts
from zumbert.edits.records import with_one
from zumbert.model.ids import NetworkId, PipeId
from zumbert.model.pipe import InvertBasis, Pipe
from zumbert.model.project import Project, invert_basis


def requoted(project: Project, made: Project) -> Project:
    """A project as edited, with its pipes where they lay before: those whose basis is another now
    quote the inverts that the same barrel has there. A pipe without a barrel keeps its numbers.
    """
    other = [k for k, p in made.pipes.items() if k in project.pipes and _differs(project, made, p)]
    if not other:
        return made
    facts = analyse(project)
    pipes = made.pipes.copy()
    for key in other:
        up, down = _inverts(facts.pipes[key], invert_basis(made, pipes[key]))
        pipes[key] = replace(pipes[key], invert_up=up, invert_down=down)
    return replace(made, pipes=pipes)


def _differs(project: Project, made: Project, pipe: Pipe) -> bool:
    return invert_basis(project, project.pipes[pipe.id]) != invert_basis(made, pipe)


def _inverts(f: PipeFacts, basis: InvertBasis) -> tuple[float, float]:
    """The inverts (m above datum) of a pipe at its reference points or at its inner walls."""
    ends = (
        (0.0, f.span.length)
        if basis == "centres"
        else (f.span.reach_up, f.span.length - f.span.reach_down)
    )
    if ends[1] - ends[0] <= 1e-9:
        return f.pipe.invert_up, f.pipe.invert_down
    return f.invert(ends[0]), f.invert(ends[1])


def set_basis(project: Project, pipes: Iterable[PipeId], basis: InvertBasis | None) -> Project:
    """The project with the inverts of some pipes quoted at centres or at inner walls, or (None)
    as their network has it.
    """
    wanted = set(pipes)
    if all(project.pipes[k].invert_basis == basis for k in wanted):
        return project
    records = {
        k: replace(p, invert_basis=basis) if k in wanted else p for k, p in project.pipes.items()
    }
    return requoted(project, replace(project, pipes=records))


def set_network_basis(project: Project, network: NetworkId, basis: InvertBasis | None) -> Project:
    """The same for the pipes of a network that have no basis of their own; None: as the project
    has it.
    """
    old = project.networks[network]
    if old.invert_basis == basis:
        return project
    changed = replace(old, invert_basis=basis)
    return requoted(
        project, replace(project, networks=with_one(project.networks, network, changed))
    )
