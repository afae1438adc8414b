"""A rule that is made up here is seen wherever rules are: a new one is its own file and a line
in `RULES`.
"""

from importlib import import_module

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel

from zumbert.app.stages.checks.rows import FindingRow
from zumbert.app.tables.model import table_of
from zumbert.checks import check as judge
from zumbert.checks.check import RULES
from zumbert.checks.finding import Bound, Finding, Rule
from zumbert.checks.legal import end_range
from zumbert.checks.where import pipe_name, spot
from zumbert.drawing.longsection import section_marks
from zumbert.drawing.marks import texts_in
from zumbert.exchange.reports import check_report
from zumbert.exchange.tables import finding_table

LEAST = 41.5  # m above datum: nothing in this made-up valley may lie deeper


def _test(facts, f):
    if f.pipe.invert_up < LEAST - 1e-6:
        half = ((0.0, f.span.length / 2),)
        yield Finding(
            rule="flood",
            severity="breach",
            pipe=f.pipe.id,
            value=f.pipe.invert_up,
            limit=LEAST,
            stretches=half,
            **spot(facts, f, 0.0),
        )


def _say(facts, n):
    name = pipe_name(facts, facts.pipes[n.pipe])
    return f"Pipe {name}", f"its head at {facts.units.level(n.value)} lies under the flood."


def _bounds(facts, f):
    yield Bound({(f.pipe.id, "up"): -1.0}, -LEAST, "flood")


FLOOD = Rule("flood", "Under the flood", "pipe", _test, _say, _bounds)


@pytest.fixture
def flooded(user, monkeypatch):
    for module in ("zumbert.checks.check", "zumbert.checks.legal"):
        monkeypatch.setattr(import_module(module), "RULES", {**RULES, FLOOD.name: FLOOD})
    # no flow, so that no more than this is wrong
    user.session.open(replace(user.project, areas={}), None)
    user.settle()
    return user


def test_a_rule_more_is_seen_in_list_drawing_band_panel_table_and_report(flooded):
    user = flooded
    pipe = user.look_at("S5", "S4")
    sentence = f"Pipe S5 to S4: its head at {pipe.invert_up:.3f} lies under the flood."
    assert pipe.invert_up < LEAST
    # the panel of the pipe, and its notch in the long section with the rule's title
    assert sentence in [w.text() for w in user.window.side.panel.findChildren(QLabel)]
    marks = section_marks(user.session.state.picture, user.section.sight)
    assert any(t.text == "Under the flood" for t in texts_in(marks.drawing))
    # the band, and its words while an end is dragged
    facts = user.facts
    r = end_range(facts, facts.pipes[pipe.id], "up")
    assert (r.low, r.low_rule) == (LEAST, "flood")
    user.drag_ring("up", -0.2, keys=Qt.KeyboardModifier.AltModifier, release=False)
    user.settle()
    assert "lies under the flood" in user.section.entry.lines[1].text()
    user.window.escape()
    # the list of the stage Checks
    user.window.rail.buttons["checks"].click()
    user.settle()
    rows = [r for r in user.window.side.panel.findChildren(FindingRow) if r.finding.rule == "flood"]
    assert sentence in [r.sentence.text() for r in rows] and rows[0].finding.key[0] == "flood"
    # tables and report
    assert any(sentence in row[1] for row in table_of(user.session.state, "pipes").rows)
    found = judge(user.project, facts)
    assert any(
        row[1:3] == ("flood", "P5") and row[7] == sentence
        for row in finding_table(facts, found).rows
    )
    report = check_report("x", facts, found, ("flood",))
    assert {f["rule"] for f in report["findings"]} == {"flood"} and report["findings"][0][
        "message"
    ].endswith("flood.")
