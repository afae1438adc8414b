"""Sentences about things whose names look like places in braces."""

from msgspec.structs import replace

from tests.recorded.odd import odd
from zumbert.analysis import analyse
from zumbert.checks import check
from zumbert.checks.sentences import mark, sentence
from zumbert.edits.labels import rename


def test_names_in_braces_stay_as_they_are():
    project = odd(2)
    for key in project.structures:
        project = rename(project, key, f"{{{key}}}")
    project = replace(
        project, pipes={k: replace(p, label=f"{{{k}}}") for k, p in project.pipes.items()}
    )
    facts = analyse(project)
    findings = list(check(project, facts))
    said = [sentence(facts, f) + mark(facts, f) for f in findings]
    assert len({f.rule for f in findings}) > 8
    for f, text in zip(findings, said, strict=True):
        names = {facts.project.structures[f.structure].label} if f.structure else set()
        if f.pipe:
            p = project.pipes[f.pipe]
            names = {p.label, project.structures[p.up].label, project.structures[p.down].label}
        assert any(name in text for name in names), text
