"""The document of `quantities --json`: m, m², m³; null where a value is not known."""

from pathlib import Path
from typing import Any

from zumbert.analysis.facts import Facts
from zumbert.analysis.quantities import DugRow, Quantities, Total
from zumbert.analysis.takeoff import Depth, Grouping, priced, takeoff
from zumbert.model.project import LENGTH_BASES


def quantities_report(
    path: str | Path, facts: Facts, q: Quantities, by: Grouping = "network", to: Depth = "invert"
) -> dict[str, Any]:
    """Rows by pipe and by structure, totals by status, overlaps and the takeoff."""
    labels: dict[str, str] = {k: p.label for k, p in facts.project.pipes.items()}
    labels |= {k: s.label for k, s in facts.project.structures.items()}
    items = priced(takeoff(facts, q, by, to), facts.project.digging.rates)
    return {
        "project": facts.project.name,
        "file": str(path),
        "basis": q.basis,
        "to_centres": q.to_centres,
        "pipes": [
            {
                "label": r.label,
                "from": r.up,
                "to": r.down,
                "network": r.network,
                "status": r.status,
                "dn": r.dn,
                "length": r.length,
                "trench_length": r.trench_length,
                "excavation": r.excavation,
                "by_sections": r.by_sections,
                "bedding": r.bedding,
                "surround": r.surround,
                "displacement": r.displacement,
                "backfill": r.backfill,
                "fill_first": r.fill_first,
                "fill": r.fill,
                "length_by_depth": r.length_by_depth,
                **_dug(r),
            }
            for r in q.pipes
        ],
        "structures": [
            {
                "label": r.label,
                "type": r.type,
                "network": r.network,
                "status": r.status,
                "depth": r.depth,
                "excavation": r.excavation,
                "chamber": r.chamber,
                **_dug(r),
            }
            for r in q.structures
        ],
        "totals": {status: _total(t, q, status) for status, t in q.totals.items()},
        "overlaps": [
            {"first": labels[o.a], "second": labels[o.b], "how": o.kind, "volume": o.volume}
            for o in q.overlaps
        ],
        "takeoff": [
            {
                "group": p.item.group,
                "status": p.item.status,
                "item": p.item.name,
                "unit": p.item.unit,
                "quantity": p.item.quantity,
                "by_depth": p.item.by_band,
                "lengths": dict(zip(LENGTH_BASES, p.item.lengths, strict=True))
                if p.item.lengths
                else {},
                "pipes": [labels[k] for k in p.item.pipes],
                "structures": [labels[k] for k in p.item.structures],
                "rate": p.rate,
                "sum": p.sum,
            }
            for p in items
        ],
    }


def _dug(r: DugRow) -> dict[str, Any]:
    return {
        "by_depth": r.by_depth,
        "by_stratum": r.by_stratum,
        "reinstatement": r.areas,
        "support": r.support,
        "shared": r.shared,
        "not_counted": r.misfit or None,
    }


def _total(t: Total, q: Quantities, status: str) -> dict[str, Any]:
    return {
        "length": t.length,
        "trench_length": t.trench_length,
        "excavation": t.excavation,
        "excavation_net": t.excavation_net,
        "shared": t.shared,
        "trenches": t.trenches,
        "trenches_by_sections": t.by_sections,
        "sections_difference": None if t.by_sections is None else t.by_sections - t.trenches,
        "pits": t.pits,
        "centres_add": None if q.centres_add is None else q.centres_add.get(status, 0.0),
        "bedding": t.bedding,
        "surround": t.surround,
        "pipes": t.pipes,
        "chambers": t.chambers,
        "displacement": t.displacement,
        "reinstatement_volume": t.reinstatement,
        "reinstatement": t.areas,
        "backfill": t.backfill,
        "reused": t.reused,
        "surplus": t.surplus,
        "fill": t.fill,
        "support": t.support,
        "by_depth": t.by_depth,
        "by_stratum": t.by_stratum,
        "length_by_depth": t.length_by_depth,
        "by_dn": {f"{dn:g}": {"length": a, "excavation": b} for dn, (a, b) in t.by_dn.items()},
        "complete": not t.not_counted,
        "not_counted": list(t.not_counted),
        "not_counted_why": t.not_counted,
    }
