"""Sentences in another language, and values that look like places in braces."""

from types import SimpleNamespace

import zumbert.words
from tests.build import v_project
from zumbert.analysis import analyse
from zumbert.checks import check
from zumbert.checks.sentences import mark, sentence
from zumbert.edits.labels import rename
from zumbert.words import tr

GERMAN = {
    "Pipe {pipe}": "Leitung {pipe}", "cover {now} {where}, needs {bound}.": "Überdeckung {now} {where}, nötig {bound}.",
    "Cover {now}, needs {bound}": "Überdeckung {now}, nötig {bound}", "at {distance} from {label}": "bei {distance} ab {label}",
}  # fmt: skip


def shallow():
    """Two chambers over a dip of the ground, and what lacks cover there."""
    project = v_project()
    facts = analyse(project)
    return facts, next(f for f in check(project, facts) if f.rule == "cover_min")


def test_a_sentence_is_said_in_the_language_of_a_catalogue(monkeypatch):
    facts, finding = shallow()
    english = sentence(facts, finding)
    assert english.startswith("Pipe A to B: cover ") and ", needs " in english
    monkeypatch.setattr(zumbert.words, "_CATALOGUE", SimpleNamespace(gettext=lambda text: GERMAN.get(text, text)))
    project = rename(facts.project, finding.pipe and facts.project.pipes[finding.pipe].up, "A1")  # nothing remembers the words
    facts = analyse(project)
    finding = next(f for f in check(project, facts) if f.rule == "cover_min")
    said = sentence(facts, finding)
    assert said.startswith("Leitung A1 to B: Überdeckung ") and ", nötig " in said and " ab A1" in said
    assert mark(facts, finding).startswith("Überdeckung ")


def test_a_label_in_braces_stays_as_it_is():
    assert tr("{label} stands {far} outside the land.", label="{far}", far="2 m") == "{far} stands 2 m outside the land."
