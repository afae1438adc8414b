"""The JSON documents of the command line: SI units, slopes as fractions, null where a value does
not exist.
"""

from pathlib import Path
from typing import Any

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.checks.check import Findings
from zumbert.checks.finding import Finding
from zumbert.checks.sentences import object_label, sentence, source
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, Field


def check_report(
    path: str | Path, facts: Facts, findings: Findings, rules: tuple[str, ...] = ()
) -> dict[str, Any]:
    """The document of `check --json`; `rules` limits the findings to some."""
    shown = [f for f in findings if not rules or f.rule in rules]
    counted = [f for f in shown if not f.decided]
    breaches = sum(f.severity == "breach" for f in counted)
    return {
        "project": facts.project.name,
        "file": str(path),
        "counts": {
            "breach": breaches,
            "caution": len(counted) - breaches,
            "decided": len(shown) - len(counted),
        },
        "findings": [_finding(facts, f) for f in shown],
        "pipes": [_document(facts, facts.pipes[k], PIPE_FIELDS) for k in facts.project.pipes],
        "structures": [_structure(facts, facts.structures[k]) for k in facts.project.structures],
    }


def _finding(facts: Facts, f: Finding) -> dict[str, Any]:
    return {
        "rule": f.rule,
        "severity": f.severity,
        "object": object_label(facts, f),
        "at": {"distance": f.distance, "chainage": f.chainage, "x": f.x, "y": f.y},
        "value": f.value,
        "limit": f.limit,
        "message": sentence(facts, f),
        "fixes": list(f.fixes),
        "limit_from": source(facts, f),
        "decision": None
        if f.decision is None or not f.decided
        else {"reason": f.decision.reason, "by": f.decision.by, "value": f.decision.value},
        "reopened": f.reopened or None,
    }


def _document(
    facts: Facts, of: PipeFacts | StructureFacts, fields: dict[str, Field]
) -> dict[str, Any]:
    return {f.json: f.read(facts, of) for f in fields.values() if f.json}


def _structure(facts: Facts, f: StructureFacts) -> dict[str, Any]:
    pipes = facts.project.pipes
    drops = [
        {"in": pipes[d.inlet].label, "out": pipes[d.outlet].label, "drop": d.drop} for d in f.drops
    ]
    return {**_document(facts, f, STRUCTURE_FIELDS), "drops": drops}
