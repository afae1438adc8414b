"""After every edit: what is kept from the value before it, and after taking it back, equals what
is computed anew.
"""

import numpy as np
import pytest

from tests.analysis.test_incremental import anew, same
from tests.edits.made import BASE, EDITS, TRIES, Maker, arguments, project_of
from tests.edits.special import NO_CHANGE, SPECIAL
from zumbert.analysis import analyse
from zumbert.analysis.runline import RunKey
from zumbert.analysis.runs import run
from zumbert.analysis.trench import trenches
from zumbert.checks import check
from zumbert.errors import ZumbertError

ANEW = anew(BASE)  # nothing that is derived changes: the cases share it
ROAD = RunKey("road", next(iter(BASE.roads)))
SHOWN = run(ANEW.facts, ROAD)


def plain(run):
    """What a run tells, without the objects that it was made from."""
    if run is None:
        return None
    rest = [run.name, run.structures, run.reaches, run.length, run.fall, run.anchors]
    return rest, [(c.kind, c.id, c.at, c.clear) for c in run.crossings]


@pytest.mark.parametrize("name", sorted(EDITS))
def test_what_is_kept_equals_what_is_computed_anew(name):
    f, rng = EDITS[name], np.random.default_rng(sum(map(ord, name)))
    facts, findings, dug = ANEW
    for _ in range(TRIES):
        w = Maker(BASE, facts, rng)
        try:
            edited = project_of(f(**arguments(name, f, w)))
        except (ZumbertError, ValueError):
            continue
        if edited is not None and edited is not BASE:
            break
    else:
        assert name in NO_CHANGE, (
            f"{name} changed nothing in {TRIES} tries: tell its arguments in SPECIAL"
        )
        return
    now = analyse(edited, facts)
    found, holes, drawn = check(edited, now, findings), trenches(now, dug), run(now, ROAD, SHOWN)
    assert plain(drawn) == plain(run(same(edited, now, found, holes), ROAD))
    back = analyse(BASE, now)  # taken back
    same(BASE, back, check(BASE, back, found), trenches(back, holes), ANEW)
    assert plain(run(back, ROAD, drawn)) == plain(SHOWN)


def test_each_special_is_an_edit():
    assert SPECIAL.keys() | NO_CHANGE <= EDITS.keys()
