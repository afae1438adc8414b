"""The words of findings in the long section stand clear of what else is written there."""

from itertools import product

import pytest
from msgspec.structs import replace

from tests.app.ready import DEMO
from zumbert.analysis import analyse
from zumbert.analysis.facts import new_since
from zumbert.analysis.runlist import run_with
from zumbert.analysis.runs import run
from zumbert.checks import check
from zumbert.drawing.labels import text_box
from zumbert.drawing.longsection import section_marks
from zumbert.drawing.marks import texts_in
from zumbert.drawing.picture import Part, Picture
from zumbert.drawing.sight import SectionSight
from zumbert.edits.levels import set_invert

# 1:500, levels 1:80
SIGHT = SectionSight(width=888.0, height=270.0, left=84.0, x=0.0, z=38.77, sx=7.56, sz=47.24)
NAMES = {s.label: k for k, s in DEMO.structures.items()}
BEFORE = analyse(DEMO)
PIPE = next(p for p in DEMO.pipes.values() if p.up == NAMES["S5"])


def apart(a, b):
    return a[2] <= b[0] or b[2] <= a[0] or a[3] <= b[1] or b[3] <= a[1]


@pytest.mark.parametrize("up", [0.5, 0.6, 0.7])
@pytest.mark.parametrize("tried", [False, True], ids=["made", "tried"])
def test_both_lines_keep_off_the_names_of_structures(up, tried):
    project = set_invert(DEMO, PIPE.id, "up", PIPE.invert_up + up)
    facts = analyse(project, BEFORE)
    findings = check(project, facts)
    shown = run(facts, run_with(project, facts, [], PIPE.id))
    reach = next(r for r in shown.reaches if r.pipe == PIPE.id)
    sight = replace(SIGHT, x=reach.down - 35.5)
    now = Picture(facts=facts, findings=findings, run=shown, pipes=frozenset({PIPE.id}))
    pipes, structures = new_since(facts, BEFORE)
    hot = frozenset([*pipes, *structures])
    rest = section_marks(
        replace(now, facts=BEFORE, findings=check(DEMO, BEFORE)), sight, None, Part(hot, False)
    )
    made = (
        section_marks(now, sight, None, Part(hot, True), rest.labels)
        if tried
        else section_marks(now, sight)
    )
    texts = list(texts_in(made.drawing))
    words = [t for t in texts if t.role in ("breach", "breach-small")]
    names = [t for t in texts if t.role == "section-label"]
    assert {t.role for t in words} == {"breach", "breach-small"} and len(names) >= 2
    for a, b in product(words, names):
        assert apart(text_box(a), text_box(b)), (a.text, b.text)
