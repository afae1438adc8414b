"""What has to hold between the pipes at one structure: drops, crowns, lowest outlet and sizes."""

from collections.abc import Iterator

from zumbert.analysis.chambers import Drop, StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.finding import TOLERANCE, Finding, Rule, Severity
from zumbert.checks.limits import drop_limit, pipe_limit, standard_of
from zumbert.checks.where import stand
from zumbert.model.display import number


def _pairs(f: StructureFacts) -> Iterator[tuple[Drop, PipeFacts, PipeFacts]]:
    """Each drop with its inlet and outlet, in the order of the drops."""
    inlets, outlets = {g.pipe.id: g for g in f.pipes_in}, {g.pipe.id: g for g in f.pipes_out}
    for d in f.drops:
        yield d, inlets[d.inlet], outlets[d.outlet]


def _drop_min(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    u = facts.units
    for d, inlet, _ in _pairs(f):
        need = drop_limit(facts.project, f.structure, d.deflection)
        if d.drop < need - TOLERANCE:
            now, least = u.apart(u.deep, d.drop, need)
            words = f"drop from {_far(facts, inlet)} is {now}, needs {least}"
            bend = f" at a bend of {number(d.deflection, 0)}°."
            yield _finding(f, "drop_min", inlet, d.drop, need, words + bend, fixes=("raise_inlet", "lower_outlets"))


def _drop_max(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    u = facts.units
    backdrop = facts.project.types[f.structure.type].backdrop
    for d, inlet, _ in _pairs(f):
        most = pipe_limit(facts.project, inlet.pipe, inlet.dn, "drop_max")
        if d.drop > most + TOLERANCE:
            now, bound = u.apart(u.deep, d.drop, most)
            words = f"drop from {_far(facts, inlet)} is {now}, above {bound} it needs a backdrop"
            end = "." if backdrop else ", which this type cannot have."
            severity: Severity = "caution" if backdrop else "breach"
            yield _finding(f, "drop_max", inlet, d.drop, most, words + end, severity, ("lower_inlet",))


def _crowns(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    u = facts.units
    what = standard_of(facts.project, f.structure).crowns
    part = {"crowns": 1.0, "centres": 0.5, "0.8": 0.8}.get(what)
    if part is None:
        return
    word = {"crowns": "crown", "centres": "centre", "0.8": "0.8 D point"}[what]
    for _, inlet, outlet in _pairs(f):
        above = inlet.pipe.invert_down + part * inlet.inside
        below = outlet.pipe.invert_up + part * outlet.inside
        if above < below - TOLERANCE:
            one, other = u.apart(u.level, above, below)
            words = f"{word} of the pipe from {_far(facts, inlet)}, {one}, is under the outlet's, {other}."
            yield _finding(f, "crowns", inlet, above, below, words, fixes=("raise_inlet", "lower_outlets"))


def _outlet_lowest(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    u = facts.units
    for d, inlet, outlet in _pairs(f):
        if d.drop < -TOLERANCE:
            one, other = u.apart(u.level, outlet.pipe.invert_up, inlet.pipe.invert_down)
            words = f"outlet at {one} is above the invert from {_far(facts, inlet)}, {other}."
            yield _finding(
                f, "outlet_lowest", inlet, outlet.pipe.invert_up, inlet.pipe.invert_down, words,
                fixes=("raise_inlet", "lower_outlets"),
            )  # fmt: skip


def _size_order(facts: Facts, f: StructureFacts) -> Iterator[Finding]:
    for _, inlet, outlet in _pairs(f):
        if outlet.inside < inlet.inside - TOLERANCE:
            words = f"outlet DN {outlet.dn:g} is smaller than DN {inlet.dn:g} from {_far(facts, inlet)}."
            yield _finding(f, "size_order", outlet, outlet.inside, inlet.inside, words, fixes=("enlarge_outlet",))


def _far(facts: Facts, inlet: PipeFacts) -> str:
    return facts.project.structures[inlet.pipe.up].label


def _finding(
    f: StructureFacts, rule: str, partner: PipeFacts, value: float, limit: float, words: str,
    severity: Severity = "breach", fixes: tuple[str, ...] = (),
) -> Finding:  # fmt: skip
    return Finding(
        rule=rule, severity=severity, structure=f.structure.id, label=f.structure.label, value=value, limit=limit,
        message=f"At {f.structure.label} the {words}", partner=partner.pipe.id, fixes=fixes, **stand(f),
    )  # fmt: skip


DROP_MIN = Rule("drop_min", "Least drop", "structure", _drop_min)
DROP_MAX = Rule("drop_max", "Greatest drop", "structure", _drop_max)
CROWNS = Rule("crowns", "Crowns", "structure", _crowns)
OUTLET_LOWEST = Rule("outlet_lowest", "Outlet lowest", "structure", _outlet_lowest)
SIZE_ORDER = Rule("size_order", "Size order", "structure", _size_order)
