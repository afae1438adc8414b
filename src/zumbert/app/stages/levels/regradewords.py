"""The effect of a regrade, in a sentence."""

from collections.abc import Sequence

from zumbert.app.value import Value
from zumbert.checks.check import rule_of
from zumbert.checks.sentences import object_label
from zumbert.edits.regrade import Regrade, Regraded
from zumbert.model.display import counted


def regrade_words(
    current: Value, shown: Value, ask: Regrade, made: Regraded, words: bool, stopped: str
) -> str:
    """Breaches after and before, those that are new along the way, pipes that would rise. The ends
    are told where they were typed in words.
    """
    u, project = shown.facts.units, current.project
    parts = [f"{counted(shown.findings.breaches, 'breach', 'breaches')}"]
    parts[0] += f", {current.findings.breaches} before."
    new = _new_along(current, shown, ask, made)
    if new:
        parts.append(f"{'; '.join(new[:3])}{f' and {len(new) - 3} more' * (len(new) > 3)}.")
    rising = [project.pipes[k].label for k in made.against]
    if rising:
        verb = "rises" if len(rising) == 1 else "rise"
        parts.append(f"{', '.join(rising[:3])} {verb} in flow direction.")
    if abs(made.slope) < 1e-9:
        parts.append("It lies level.")
    if words:
        ends = made.lines[0].begin, made.lines[-1].end
        parts.append(f"From {u.level(ends[0])} to {u.level(ends[1])}.")
    if stopped:
        parts.append(f"Rules hold: {stopped}.")
    return " ".join(parts)


def _new_along(current: Value, shown: Value, ask: Regrade, made: Regraded) -> Sequence[str]:
    """Breaches that are new, of the pipes and structures on the way."""
    pipes = {line.step.pipe for line in made.lines}
    ends = {ask.a, ask.b, *(line.step.to for line in made.lines)}
    return [
        f"{rule_of(f.rule).title.lower()} at {object_label(shown.facts, f)}"
        for f in shown.findings
        if f.severity == "breach"
        and f not in current.findings
        and (f.pipe in pipes or f.structure in ends)
    ]
