"""The JSON documents of the command line: SI units, slopes as fractions, null where a value does not exist."""

from pathlib import Path
from typing import Any

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.quantities import Quantities, Total
from zumbert.checks.check import Findings
from zumbert.checks.finding import Finding
from zumbert.checks.sentences import object_label, sentence, source
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, Field


def check_report(path: str | Path, facts: Facts, findings: Findings, rules: tuple[str, ...] = ()) -> dict[str, Any]:
    """The document of `check --json`; `rules` limits the findings to some."""
    shown = [f for f in findings if not rules or f.rule in rules]
    counted = [f for f in shown if not f.decided]
    breaches = sum(f.severity == "breach" for f in counted)
    return {
        "project": facts.project.name,
        "file": str(path),
        "counts": {"breach": breaches, "caution": len(counted) - breaches, "decided": len(shown) - len(counted)},
        "findings": [_finding(facts, f) for f in shown],
        "pipes": [_document(facts, facts.pipes[k], PIPE_FIELDS) for k in facts.project.pipes],
        "structures": [_structure(facts, facts.structures[k]) for k in facts.project.structures],
    }


def _finding(facts: Facts, f: Finding) -> dict[str, Any]:
    return {
        "rule": f.rule, "severity": f.severity, "object": object_label(facts, f),
        "at": {"distance": f.distance, "chainage": f.chainage, "x": f.x, "y": f.y},
        "value": f.value, "limit": f.limit, "message": sentence(facts, f), "fixes": list(f.fixes),
        "limit_from": source(facts, f),
        "decision": None if f.decision is None or not f.decided else
                    {"reason": f.decision.reason, "by": f.decision.by, "value": f.decision.value},
        "reopened": f.reopened or None,
    }  # fmt: skip


def _document(facts: Facts, of: PipeFacts | StructureFacts, fields: dict[str, Field]) -> dict[str, Any]:
    return {f.json: f.read(facts, of) for f in fields.values() if f.json}


def _structure(facts: Facts, f: StructureFacts) -> dict[str, Any]:
    pipes = facts.project.pipes
    drops = [{"in": pipes[d.inlet].label, "out": pipes[d.outlet].label, "drop": d.drop} for d in f.drops]
    return {**_document(facts, f, STRUCTURE_FIELDS), "drops": drops}


def quantities_report(path: str | Path, name: str, q: Quantities) -> dict[str, Any]:
    """The document of `quantities --json`: m, m², m³. A net volume is null until unions are computed."""
    return {
        "project": name,
        "file": str(path),
        "basis": q.basis,
        "pipes": [
            {
                "label": r.label, "from": r.up, "to": r.down, "network": r.network, "status": r.status, "dn": r.dn,
                "length": r.length, "trench_length": r.trench_length, "excavation": r.excavation,
                "bedding": r.bedding, "surround": 0.0, "displacement": r.displacement, "backfill": r.backfill,
                "fill_first": r.fill_first, "fill": r.fill, "by_depth": r.by_depth,
                "by_stratum": {} if r.excavation is None else {"general": r.excavation},
            }
            for r in q.pipes
        ],
        "structures": [
            {
                "label": r.label, "type": r.type, "network": r.network, "status": r.status, "depth": r.depth,
                "excavation": r.excavation,
            }
            for r in q.structures
        ],
        "totals": {status: _total(t) for status, t in q.totals.items()},
    }  # fmt: skip


def _total(t: Total) -> dict[str, Any]:
    return {
        "length": t.length, "excavation": t.excavation, "excavation_net": None, "trenches": t.trenches,
        "pits": t.pits, "bedding": t.bedding, "displacement": t.displacement, "backfill": t.backfill, "fill": t.fill,
        "by_dn": {f"{dn:g}": {"length": a, "excavation": b} for dn, (a, b) in t.by_dn.items()},
        "not_counted": list(t.not_counted),
    }  # fmt: skip
