"""Flows as tables with every figure that leads to them, for a check by hand, and as the document
of the command line.
"""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from msgspec import to_builtins

from zumbert.analysis.areas import AreaFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.flowfacts import PipeFlow
from zumbert.analysis.fullbore import roughness
from zumbert.analysis.pipes import PipeFacts
from zumbert.exchange.tables import Column, Table, in_units, text_column
from zumbert.fields import CellValue
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.quantity import (
    DN,
    FLOW,
    INTENSITY,
    LENGTH,
    LEVEL,
    MINUTES,
    PERCENT,
    RATIO,
    SPEED,
    SQUARE,
    WIDE,
)
from zumbert.model.rain import Rain

HA = 1e-4


def flow_tables(facts: Facts) -> list[Table]:
    """Flows of pipes, what comes together at structures, areas, and sums by kind and by outfall,
    in the units of the project.
    """
    return [
        in_units(t, facts.units)
        for t in (_pipes(facts), _structures(facts), area_table(facts), *area_totals(facts))
    ]


def _pipes(facts: Facts) -> Table:
    columns = (
        *map(text_column, ("Pipe", "From", "To")),
        Column("DN", DN),
        Column("Inside", LEVEL),
        Column("Length", LENGTH),
        Column("Slope", PERCENT, 1),
        Column("n", RATIO, 2),
        Column("ks", LEVEL, 2),
        Column("CA", WIDE, 1),
        Column("Time of concentration", MINUTES, 1),
        Column("Intensity", INTENSITY, 1),
        Column("Flow of rain", FLOW, 1),
        Column("Fixed inflow", FLOW, 1),
        Column("Share", RATIO, 1),
        Column("Design flow", FLOW, 1),
        Column("Full-bore velocity", SPEED, 1),
        Column("Full-bore flow", FLOW, 1),
        Column("Q / Qfull", RATIO, 1),
        Column("y / D", RATIO, 2),
        Column("Velocity", SPEED, 1),
        Column("Critical depth", LEVEL, 1),
        Column("Travel time", MINUTES, 1),
        text_column("Remark"),
    )
    return Table(
        name="Flow", columns=columns, rows=tuple(_pipe_row(facts, f) for f in _alive(facts))
    )


def _alive(facts: Facts) -> Iterator[PipeFacts]:
    return (f for f in facts.pipes.values() if f.pipe.status != "abandoned")


def _pipe_row(facts: Facts, f: PipeFacts) -> tuple[CellValue, ...]:
    names, rough = facts.project.structures, roughness(facts.project, f.pipe)
    head = (
        f.pipe.label,
        names[f.pipe.up].label,
        names[f.pipe.down].label,
        f.dn,
        f.inside,
        f.span.length,
        None if f.slope is None else f.slope * 100,
        rough.n,
        rough.ks,
    )
    q = facts.pipe_flow.get(f.pipe.id)
    if q is None:
        return (*head, *[None] * 14, remark(facts, f.pipe.id))
    return (
        *head,
        q.ca * HA,
        q.tc,
        q.intensity,
        q.rain * 1000,
        q.passed * 1000,
        q.share,
        q.flow * 1000,
        q.full_velocity,
        q.capacity * 1000,
        q.used,
        q.depth_ratio,
        q.velocity,
        q.critical_depth(f.inside),
        q.travel,
        remark(facts, f.pipe.id),
    )


def remark(facts: Facts, pipe: PipeId) -> str | None:
    """Remarks on the flow of a pipe, in words."""
    q, flows = facts.pipe_flow.get(pipe), facts.flows
    if q is None:
        return "in a ring, or down from one" if flows is not None and pipe in flows.looped else None
    said = []
    if q.part:
        said.append("a part of the system alone gives more than the whole")
    if q.share < 1 and len(facts.links.outlets.get(facts.project.pipes[pipe].up, ())) > 1:
        said.append(f"takes {q.share:.0%} of what leaves")
    if q.used is None and q.flow > 0:
        said.append("does not fall")
    elif q.depth_ratio >= 1:
        said.append("runs full")
    return "; ".join(said) or None


def _structures(facts: Facts) -> Table:
    columns = (
        text_column("Structure"),
        Column("Own CA", WIDE, 1),
        Column("Own inflow", FLOW, 1),
        Column("CA", WIDE, 1),
        Column("Time of concentration", MINUTES, 1),
        Column("Intensity", INTENSITY, 1),
        Column("Flow of rain", FLOW, 1),
        Column("Fixed inflow", FLOW, 1),
        Column("Outlets"),
    )
    rows = []
    for key, node in (facts.flows.nodes if facts.flows is not None else {}).items():
        own = facts.flows.catches.get(key) if facts.flows is not None else None
        rows.append(
            (
                facts.project.structures[key].label,
                (sum(ca for _, ca in own.own) if own else 0.0) * HA,
                (own.inflow if own else 0.0) * 1000,
                node.ca * HA,
                node.tc,
                node.intensity,
                node.rain * 1000,
                node.passed * 1000,
                len(facts.links.outlets.get(key, ())),
            )
        )
    return Table(name="Flow at structures", columns=columns, rows=tuple(rows))


def area_table(facts: Facts) -> Table:
    """All areas."""
    columns = (
        *map(text_column, ("Area", "Structure", "Kind")),
        Column("Size", SQUARE),
        Column("Coefficient", RATIO),
        Column("CA", WIDE, 1),
        Column("Entry", MINUTES, -1),
    )
    return Table(
        name="Areas", columns=columns, rows=tuple(_area_row(facts, f) for f in facts.areas.values())
    )


def entry_of(facts: Facts, f: AreaFacts) -> float:
    """The time of entry of an area, min: its own, or that of the rain."""
    return f.entry if f.entry is not None else (facts.project.rain or Rain()).entry


def _area_row(facts: Facts, f: AreaFacts) -> tuple[CellValue, ...]:
    to = facts.project.structures[f.area.structure].label if f.area.structure is not None else None
    return f.area.name, to, f.area.kind, f.size, f.coefficient, f.ca * HA, entry_of(facts, f)


Sums = dict[str, tuple[float, float, int]]  # size and CA in m², and how many, by name


def area_sums(facts: Facts) -> tuple[Sums, Sums]:
    """Sums of areas by kind, and by the outfall that they drain to; what drains nowhere stands
    last.
    """
    kinds: Sums = {}
    ends: Sums = {}
    for f in facts.areas.values():
        for sums, key in ((kinds, f.area.kind), (ends, outfall_of(facts, f.area.structure))):
            size, ca, n = sums.get(key, (0.0, 0.0, 0))
            sums[key] = size + f.size, ca + f.ca, n + 1
    return kinds, dict(sorted(ends.items(), key=lambda kv: kv[0] == NOWHERE))


def area_totals(facts: Facts) -> list[Table]:
    """The same as tables."""
    out = []
    for (name, head), sums in zip(
        (("Areas by kind", "Kind"), ("Areas by outfall", "Outfall")), area_sums(facts), strict=True
    ):
        columns = (
            text_column(head),
            Column("Areas"),
            Column("Size", SQUARE),
            Column("CA", WIDE, 1),
        )
        rows = tuple((k, n, size, ca * HA) for k, (size, ca, n) in sums.items())
        out.append(Table(name=name, columns=columns, rows=rows, sums=(1, 2, 3)))
    return out


NOWHERE = "nowhere"


def outfall_of(facts: Facts, structure: StructureId | None) -> str:
    """The label of where the water of a structure leaves, by the outlets that take most of it;
    "nowhere" for none.
    """
    seen = set()
    while structure is not None and structure not in seen:
        seen.add(structure)
        out = [
            k
            for k in facts.links.outlets.get(structure, ())
            if facts.project.pipes[k].status != "abandoned"
        ]
        if not out:
            return facts.project.structures[structure].label
        shares = facts.flows.shares if facts.flows is not None else {}
        structure = facts.project.pipes[max(out, key=lambda k: shares.get(k, 0.0))].down
    return NOWHERE


def unassigned(facts: Facts) -> list[str]:
    """The names of areas that drain nowhere."""
    return [f.area.name for f in facts.areas.values() if f.area.structure is None]


# -- the document of the command line --------------------------------------------------------------


def flow_report(file: Path, facts: Facts) -> dict[str, Any]:
    """Flows as plain values: m³/s, m², m, minutes, mm/h."""
    p = facts.project
    return {
        "project": str(file),
        "rain": to_builtins(p.rain),
        "areas": [
            {
                "name": f.area.name,
                "kind": f.area.kind,
                "area": f.size,
                "coefficient": f.coefficient,
                "entry_min": entry_of(facts, f),
                "structure": None
                if f.area.structure is None
                else p.structures[f.area.structure].label,
            }
            for f in facts.areas.values()
        ],
        "pipes": [_pipe_document(facts, f) for f in _alive(facts)],
        "structures": [
            {"label": p.structures[k].label, "ca": n.ca, "tc_min": n.tc, "flow": n.rain + n.passed}
            for k, n in (facts.flows.nodes if facts.flows is not None else {}).items()
        ],
        "unassigned": unassigned(facts),
    }


def _pipe_document(facts: Facts, f: PipeFacts) -> dict[str, Any]:
    q: PipeFlow | None = facts.pipe_flow.get(f.pipe.id)
    return {
        "label": f.pipe.label,
        "ca": q and q.ca,
        "tc_min": q and q.tc,
        "intensity_mm_h": q and q.intensity,
        "flow": q and q.flow,
        "capacity": q and q.capacity,
        "velocity": q and q.velocity,
        "velocity_full": q and q.full_velocity,
        "depth_ratio": q and q.depth_ratio,
        "critical_depth": q and q.critical_depth(f.inside),
        "remark": remark(facts, f.pipe.id),
    }
