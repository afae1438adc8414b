"""The part of a project that a plan shows: most levels that are tried change nothing in it."""

from zumbert.analysis.facts import Facts, new_since
from zumbert.checks.check import Findings
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, label_fields
from zumbert.model.project import Settings

LEVELS = frozenset({"invert_up", "invert_down"})  # fields of a pipe that no plan draws


def seen_in_plan(facts: Facts, findings: Findings, before: Facts | None) -> tuple[object, ...]:
    """All that a plan is drawn from: where the parts are the same, so is the plan.

    While an edit of what was `before` is tried that moves nothing in plan, these are the records
    without their levels, and what of the findings shows.
    """
    if before is None or facts.spans is not before.spans or facts.places is not before.places:
        return facts, findings
    p = facts.project
    pipes, structures = new_since(facts, before)
    if _labels_say_levels(p.settings) or any(pin.pipe in pipes for pin in p.pins.values()):
        return facts, findings
    others = [getattr(p, n) for n in p.__struct_fields__ if n not in ("pipes", "structures")]
    records = [p.pipes[k] for k in pipes] + [p.structures[k] for k in structures]
    fields = [getattr(r, n) for r in records for n in r.__struct_fields__ if n not in LEVELS]
    told = [_told(findings, k) for k in (*pipes, *structures)]
    return (
        before,
        facts.spans,
        facts.places,
        facts.roads,
        facts.surfaces,
        facts.areas,
        *others,
        *fields,
        *told,
    )


def _labels_say_levels(settings: Settings) -> bool:
    """Whether a label shows a value that changes with levels."""
    both = ((STRUCTURE_FIELDS, settings.structure_label), (PIPE_FIELDS, settings.pipe_label))
    return any(
        f.kind.with_levels
        for fields, chosen in both
        for f in label_fields(fields)
        if f.key in chosen
    )


def _told(findings: Findings, key: str) -> tuple[object, ...]:
    """The parts of the findings of a pipe or structure that show in plan."""
    return tuple((f.rule, f.look, f.distance, f.stretches, f.partner) for f in findings.of(key))
