"""The limits that hold for a pipe or a structure."""

from zumbert.analysis.chambers import Drop
from zumbert.analysis.facts import Facts
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import Pipe
from zumbert.model.project import Project
from zumbert.model.standard import Standard, limit_at
from zumbert.model.structure import Structure

BEND = 0.005  # degrees


def standard_of(project: Project, of: Pipe | Structure) -> Standard:
    """The standard of the network that a pipe or structure belongs to."""
    return project.standards[project.networks[of.network].standard]


def pipe_limit(project: Project, pipe: Pipe, dn: float, name: str) -> float:
    """A limit of a pipe by its DN (mm), in the unit of the limit."""
    return limit_at(getattr(standard_of(project, pipe), name), dn)


def governing_drop(facts: Facts, pipe: PipeId, at: StructureId) -> Drop | None:
    """The drop at a structure that leaves a pipe there the least room over its limit; None where nothing else is joined."""
    structure = facts.project.structures[at]
    mine = [d for d in facts.structures[at].drops if pipe in (d.inlet, d.outlet)]
    return min(mine, key=lambda d: d.drop - drop_limit(facts.project, structure, d.deflection), default=None)


def drop_limit(project: Project, structure: Structure, deflection: float) -> float:
    """The least drop (m) at a structure for a deflection (degrees); a joint without a chamber owes none.

    Places are known to a millimetre, and a bend to about a hundredth of a degree: one that is over the end of a class by
    less than BEND counts in that class.
    """
    if project.types[structure.type].kind == "joint":
        return 0.0
    return limit_at(standard_of(project, structure).drop_min, deflection - BEND)
