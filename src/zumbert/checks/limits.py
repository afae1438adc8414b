"""The limits that hold for a pipe or a structure, and where they come from."""

from zumbert.analysis.chambers import Drop
from zumbert.analysis.facts import Facts
from zumbert.checks.finding import Finding
from zumbert.model.display import Units
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import Pipe
from zumbert.model.project import Project
from zumbert.model.standard import LIMITS, Standard, limit_at, own_limit
from zumbert.model.structure import Structure

BEND = 0.005  # degrees


def standard_of(project: Project, of: Pipe | Structure) -> Standard:
    """The standard of the network that a pipe or structure belongs to; for existing work that
    for it, where there is one.
    """
    network = project.networks[of.network]
    existing = network.existing_standard if of.status == "existing" else None
    return project.standards[existing or network.standard]


def name_of_standard(facts: Facts, finding: Finding) -> str:
    """The name of the standard that the structure of a finding is judged by."""
    return standard_of(facts.project, facts.project.structures[finding.of_structure]).name


def name_of_type(facts: Facts, finding: Finding) -> str:
    """The name of the type of the structure of a finding."""
    return facts.project.types[facts.project.structures[finding.of_structure].type].name


def limit_of(project: Project, of: Pipe | Structure, name: str, key: float = 0.0) -> float:
    """A limit of a pipe or structure, in its unit: its own, else that of its standard at a DN
    (mm) or an angle (degrees).
    """
    if of.limits:
        own = own_limit(of.limits, LIMITS[name].rule)
        if own is not None and own.value is not None:
            return own.value
    return limit_at(getattr(standard_of(project, of), name), key)


def pipe_limit(project: Project, pipe: Pipe, dn: float, name: str) -> float:
    """A limit of a pipe by its DN (mm), in the unit of the limit."""
    return limit_of(project, pipe, name, dn)


def judged(project: Project, of: Pipe | Structure, rule: str) -> bool:
    """Whether a rule is asked of a pipe or structure: its standard has it on, and it is not
    waived there.
    """
    if of.limits and (own := own_limit(of.limits, rule)) is not None and own.value is None:
        return False
    weights = standard_of(project, of).weights
    return not weights or weights.get(rule) != "off"


def written(u: Units, name: str, value: float) -> str:
    """A limit of a standard with its unit, as sentences and labels have it."""
    show = {"slope": u.slope, "degrees": u.angle, "m/s": u.speed, "m": u.long, "ratio": u.ratio}[
        LIMITS[name].of
    ]
    return show(value)


def governing_drop(facts: Facts, pipe: PipeId, at: StructureId) -> Drop | None:
    """The drop at a structure that leaves a pipe there the least room over its limit; None where
    nothing else is joined.
    """
    structure = facts.project.structures[at]
    mine = [d for d in facts.structures[at].drops if pipe in (d.inlet, d.outlet)]
    return min(
        mine,
        key=lambda d: d.drop - drop_limit(facts.project, structure, d.deflection),
        default=None,
    )


def drop_limit(project: Project, structure: Structure, deflection: float) -> float:
    """The least drop (m) at a structure for a deflection (degrees); a joint without a chamber owes
    none.

    Places are known to a millimetre, and a bend to about a hundredth of a degree: one that is over
    the end of a class by less than BEND counts in that class.
    """
    if project.types[structure.type].kind == "joint":
        return 0.0
    return limit_of(project, structure, "drop_min", deflection - BEND)
