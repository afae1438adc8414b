"""The rules between the pipes at one structure: drops, crowns, lowest outlet and sizes."""

from collections.abc import Iterator
from typing import Literal

from msgspec.structs import replace

from zumbert.analysis.chambers import Drop, StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE, Bound, Finding, Rule, Severity
from zumbert.checks.limits import drop_limit, limit_of, name_of_standard, standard_of
from zumbert.checks.where import stand
from zumbert.model.display import number


def _pairs(f: StructureFacts) -> Iterator[tuple[Drop, PipeFacts, PipeFacts]]:
    """Each drop with its inlet and outlet, in the order of the drops."""
    inlets, outlets = {g.pipe.id: g for g in f.pipes_in}, {g.pipe.id: g for g in f.pipes_out}
    for d in f.drops:
        yield d, inlets[d.inlet], outlets[d.outlet]


def _drop_min(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    for d, inlet, outlet in _pairs(f):
        need = drop_limit(facts.project, f.structure, d.deflection)
        if d.drop < need - TOLERANCE:
            yield _finding(
                f, "drop_min", inlet, outlet, d.drop, need, fixes=("raise_inlet", "lower_outlets")
            )


def _say_drop_min(facts: Facts, n: Finding) -> str:
    now, least = facts.units.apart(facts.units.deep, n.value, n.limit)
    bend = next(
        d.deflection for d in _at(facts, n).drops if (d.inlet, d.outlet) == (n.inlet, n.outlet)
    )
    words = "At {here} the drop from {far} is {now}, needs {least} at a bend of {bend}°."
    return words.format(**_ends(facts, n), now=now, least=least, bend=number(bend, 0))


def _drop_max(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    severity: Severity = "caution" if facts.project.types[f.structure.type].backdrop else "breach"
    for d, inlet, outlet in _pairs(f):
        most = limit_of(facts.project, f.structure, "drop_max", inlet.dn)
        if d.drop > most + TOLERANCE:
            yield _finding(
                f, "drop_max", inlet, outlet, d.drop, most, severity, ("lower_inlet",), "more"
            )


def _say_drop_max(facts: Facts, n: Finding) -> str:
    now, bound = facts.units.apart(facts.units.deep, n.value, n.limit)
    text = "At {here} the drop from {far} is {now}, above {bound} it needs a backdrop."
    never = (
        "At {here} the drop from {far} is {now}, above {bound} it needs a backdrop, which this "
        "type cannot have."
    )
    return (text if n.severity == "caution" else never).format(
        **_ends(facts, n), now=now, bound=bound
    )


PARTS = {"crowns": (1.0, "crown"), "centres": (0.5, "centre"), "0.8": (0.8, "0.8 D point")}


def _crowns(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    part, _ = PARTS.get(standard_of(facts.project, f.structure).crowns, (None, ""))
    if part is None:
        return
    for _, inlet, outlet in _pairs(f):
        above = inlet.pipe.invert_down + part * inlet.inside
        below = outlet.pipe.invert_up + part * outlet.inside
        if above < below - TOLERANCE:
            yield _finding(
                f, "crowns", inlet, outlet, above, below, fixes=("raise_inlet", "lower_outlets")
            )


def _say_crowns(facts: Facts, n: Finding) -> str:
    one, other = facts.units.apart(facts.units.level, n.value, n.limit)
    _, word = PARTS[standard_of(facts.project, _at(facts, n).structure).crowns]
    text = "At {here} the {word} of the pipe from {far}, {one}, is under the outlet's, {other}."
    return text.format(**_ends(facts, n), word=word, one=one, other=other)


def _outlet_lowest(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    for d, inlet, outlet in _pairs(f):
        if d.drop < -TOLERANCE:
            high, low = outlet.pipe.invert_up, inlet.pipe.invert_down
            fixes = ("raise_inlet", "lower_outlets")
            yield _finding(f, "outlet_lowest", inlet, outlet, high, low, fixes=fixes, worse="more")


def _say_outlet_lowest(facts: Facts, n: Finding) -> str:
    one, other = facts.units.apart(facts.units.level, n.value, n.limit)
    text = "At {here} the outlet at {one} is above the invert from {far}, {other}."
    return text.format(**_ends(facts, n), one=one, other=other)


def _size_order(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    for _, inlet, outlet in _pairs(f):
        if outlet.inside < inlet.inside - TOLERANCE:
            found = _finding(
                f,
                "size_order",
                inlet,
                outlet,
                outlet.inside,
                inlet.inside,
                fixes=("enlarge_outlet",),
            )
            yield replace(found, partner=outlet.pipe.id)


def _say_size_order(facts: Facts, n: Finding) -> str:
    pipes = {
        g.pipe.id: facts.units.dn(g.dn) for g in (*_at(facts, n).pipes_in, *_at(facts, n).pipes_out)
    }
    text = "At {here} the outlet {small} is smaller than {large} from {far}."
    return text.format(**_ends(facts, n), small=pipes[n.of_outlet], large=pipes[n.of_inlet])


def _at(facts: Facts, n: Finding) -> StructureFacts:
    return facts.structures[n.of_structure]


def _ends(facts: Facts, n: Finding) -> dict[str, str]:
    """The labels of the structure, and of the one that the inlet comes from."""
    project = facts.project
    far = project.structures[project.pipes[n.of_inlet].up].label
    return {"here": _at(facts, n).structure.label, "far": far}


def _finding(
    f: StructureFacts,
    rule: str,
    inlet: PipeFacts,
    outlet: PipeFacts,
    value: float,
    limit: float,
    severity: Severity = "breach",
    fixes: tuple[str, ...] = (),
    worse: Literal["less", "more"] = "less",
) -> Finding:
    return Finding(
        rule=rule,
        severity=severity,
        structure=f.structure.id,
        inlet=inlet.pipe.id,
        outlet=outlet.pipe.id,
        partner=inlet.pipe.id,
        value=value,
        limit=limit,
        worse=worse,
        fixes=fixes,
        **stand(f),
    )


def _drop_min_bounds(facts: Facts, f: StructureFacts) -> Iterator[Bound]:
    for d in f.drops:
        yield _apart(d, drop_limit(facts.project, f.structure, d.deflection), "drop_min")


def _drop_max_bounds(facts: Facts, f: StructureFacts) -> Iterator[Bound]:
    for d, inlet, _ in _pairs(f):
        most = limit_of(facts.project, f.structure, "drop_max", inlet.dn)
        yield Bound({(d.inlet, "down"): 1.0, (d.outlet, "up"): -1.0}, most, "drop_max")


def _crowns_bounds(facts: Facts, f: StructureFacts) -> Iterator[Bound]:
    part, _ = PARTS.get(standard_of(facts.project, f.structure).crowns, (None, ""))
    if part is not None:
        for d, inlet, outlet in _pairs(f):
            yield _apart(d, part * (outlet.inside - inlet.inside), "crowns")


def _outlet_lowest_bounds(facts: Facts, f: StructureFacts) -> Iterator[Bound]:
    return (_apart(d, 0.0, "outlet_lowest") for d in f.drops)


def _apart(d: Drop, least: float, rule: str) -> Bound:
    """The inlet by so much (m) over the outlet."""
    return Bound({(d.inlet, "down"): -1.0, (d.outlet, "up"): 1.0}, -least, rule)


DROP_MIN = Rule(
    "drop_min",
    "Least drop",
    "structure",
    _drop_min,
    _say_drop_min,
    _drop_min_bounds,
    cell="invert_down",
    drop=True,
    snap="Least drop",
    limit="drop_min",
)
DROP_MAX = Rule(
    "drop_max",
    "Greatest drop",
    "structure",
    _drop_max,
    _say_drop_max,
    _drop_max_bounds,
    limit="drop_max",
    cell="invert_down",
    cost=1e3,
)
CROWNS = Rule(
    "crowns",
    "Crowns",
    "structure",
    _crowns,
    _say_crowns,
    _crowns_bounds,
    levels=True,
    cell="invert_down",
    drop=True,
    snap="Crowns in line",
    match="Match crowns: raise",
    source=name_of_standard,
)
OUTLET_LOWEST = Rule(
    "outlet_lowest", "Outlet lowest", "structure", _outlet_lowest, _say_outlet_lowest,
    _outlet_lowest_bounds,
    levels=True, cell="invert_down", drop=True, snap="Inverts in line",
)  # fmt: skip
SIZE_ORDER = Rule(
    "size_order", "Size order", "structure", _size_order, _say_size_order, cell="size"
)
