"""What is dragged is set down under the pointer, however it came there: what the eye holds fast
stays for the whole gesture.
"""

import numpy as np
import pytest
from hypothesis import HealthCheck, Phase, assume, given, settings
from hypothesis import strategies as st
from PySide6.QtCore import Qt

from tests.amount import times
from zumbert.analysis.runline import RunKey
from zumbert.edits.change import set_rim
from zumbert.edits.grounditems import GroundItem
from zumbert.model.structure import FixedRim

ALT = Qt.KeyboardModifier.AltModifier
PATHS = st.lists(st.tuples(st.integers(-60, 60), st.integers(-50, 50)), min_size=1, max_size=5)
ENDS = st.tuples(st.integers(-60, 60), st.integers(-50, 50)).filter(
    lambda d: abs(d[0]) + abs(d[1]) > 8
)
NOTCHES = st.sampled_from((0, 0, 1, -1))
QUICK = settings(
    max_examples=times(3, 60),
    deadline=None,
    phases=(Phase.generate,),  # what fails once takes minutes to make smaller
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
EDGE = 66  # drawing units from the edge of the view that a path may need


def takeable(view, kind):
    """The targets of a kind that are not near an edge, and where a press takes them and nothing
    else.
    """
    out = []
    for t in view.targets:
        x, y = t.xy.mean(axis=0).tolist()
        inside = EDGE < x < view.width() - EDGE and EDGE - 14 < y < view.drawing_bottom - EDGE + 14
        hit = view.hit(x, y) if t.kind == kind and inside else None
        if hit is not None and (hit.kind, hit.id) == (t.kind, t.id):
            out.append((t.id, x, y))
    return out


def dragged(user, view, at, path, end, notch):
    """Drags from a place by a path to an end, with a notch of the wheel on the way. The sight as it
    was when the drag began, or after the notch, and the place of the release.
    """
    x, y = at
    user.move(view, x, y)
    user.settle()
    sight = view.sight
    user.press(view, x, y, ALT)
    for dx, dy in [*path, end]:
        told = len(user.refusals)
        user.move(view, x + dx, y + dy, True, ALT)
        user.settle()
    if notch:
        user.wheel(view, x + end[0], y + end[1], notch)
        sight = view.sight
        user.move(view, x + end[0], y + end[1], True, ALT)
    # else it stays where it was last possible, and is shown there
    assume(len(user.refusals) == told)
    shown = user.shown
    user.release(view, x + end[0], y + end[1], ALT)
    user.settle()
    assert user.project is shown
    return sight, (x + end[0], y + end[1])


def world(sight, at):
    return sight.to_world(np.array([at], float))[0]


def ready(user, stage, straight):
    """The demo again, at a working scale, in a stage."""
    user.window.escape()
    while user.session.history.undo_names:
        user.session.undo()
    user.session.pick(None)
    user.in_stage("levels")
    user.session.set(straight=straight)
    user.window.going.to_thing(user.pipe("S5", "S4").id)
    user.in_stage(stage)
    user.settle()


@pytest.mark.parametrize("straight", [False, True], ids=["map", "straightened"])
@QUICK
@given(path=PATHS, end=ENDS, notch=NOTCHES, nth=st.integers(0, 5))
def test_a_structure_in_plan(user, straight, path, end, notch, nth):
    ready(user, "layout", straight)
    found = takeable(user.plan, "structure")
    key, x, y = found[nth % len(found)]
    steps = len(user.session.history.undo_names)
    sight, at = dragged(user, user.plan, (x, y), path, end, notch)
    want, pixel = world(sight, at), 1 / sight.scale
    # else it was refused there: the road has no such place
    if len(user.session.history.undo_names) > steps:
        place = user.facts.places[key]
        assert np.hypot(*(np.array([place.x, place.y]) - want)) <= pixel + 0.01


@pytest.mark.parametrize("straight", [False, True], ids=["map", "straightened"])
@QUICK
@given(path=PATHS, end=ENDS, notch=NOTCHES)
def test_a_bend_in_plan(user, straight, path, end, notch):
    ready(user, "layout", straight)
    (_, x, y) = takeable(user.plan, "bend")[0]
    before = set(user.project.structures)
    sight, at = dragged(user, user.plan, (x, y), path, end, notch)
    made = set(user.project.structures) - before
    if made:
        place = user.facts.places[made.pop()]
        assert (
            np.hypot(*(np.array([place.x, place.y]) - world(sight, at))) <= 1 / sight.scale + 0.015
        )


@pytest.mark.parametrize("straight", [False, True], ids=["map", "straightened"])
@QUICK
@given(path=PATHS, end=ENDS, notch=NOTCHES, nth=st.integers(0, 5))
def test_a_point_of_a_road_in_plan(user, straight, path, end, notch, nth):
    ready(user, "ground", straight)
    road = next(iter(user.project.roads))
    user.session.pick(GroundItem("road", road))
    user.section.fit()
    user.plan.fit_map()
    user.settle()
    found = takeable(user.plan, "ip")
    key, x, y = found[nth % len(found)]
    steps = len(user.session.history.undo_names)
    sight, at = dragged(user, user.plan, (x, y), path, end, notch)
    if len(user.session.history.undo_names) > steps:
        p = user.project.roads[road].points[int(key)]
        assert np.hypot(*(np.array([p.x, p.y]) - world(sight, at))) <= 1 / sight.scale + 0.01


@QUICK
@given(path=PATHS, end=ENDS, notch=NOTCHES, ring=st.sampled_from(("up", "down", "mid")))
def test_a_level_in_the_long_section(user, path, end, notch, ring):
    ready(user, "levels", True)
    pipe = next(iter(user.session.state.chosen.pipes))
    x, y = next((x, y) for k, x, y in takeable(user.section, "ring") if k == ring)
    steps, was = len(user.session.history.undo_names), user.project.pipes[pipe]
    stood = user.section.sight.z_at(y)
    sight, at = dragged(user, user.section, (x, y), path, end, notch)
    if len(user.session.history.undo_names) == steps:
        assert round(end[1]) == 0  # it is where it was
        return
    p = user.project.pipes[pipe]
    level, before = (
        (q.invert_up + q.invert_down) / 2 if ring == "mid" else q.invert(ring) for q in (p, was)
    )
    assert abs(stood - before) <= 1 / sight.sz + 0.001
    assert abs(level - sight.z_at(at[1])) <= 1 / sight.sz + 0.001


@QUICK
@given(path=PATHS, end=ENDS, notch=NOTCHES)
def test_a_rim_in_the_long_section(user, path, end, notch):
    ready(user, "levels", True)
    key = user.structure("S4").id
    rim = user.facts.places[key].rim
    user.session.edit("Fix", lambda p, f: set_rim(p, key, FixedRim(rim)))
    user.settle()
    steps = len(user.session.history.undo_names)
    x, y = next((x, y) for k, x, y in takeable(user.section, "rim") if k == key)
    sight, at = dragged(user, user.section, (x, y), path, end, notch)
    if len(user.session.history.undo_names) > steps:
        assert abs(user.facts.places[key].rim - sight.z_at(at[1])) <= 1 / sight.sz + 0.001


@QUICK
@given(path=PATHS, end=ENDS, notch=NOTCHES, nth=st.integers(0, 5))
def test_a_vertical_point_of_a_road(user, path, end, notch, nth):
    ready(user, "ground", True)
    road = next(iter(user.project.roads))
    user.session.pick(GroundItem("road", road))
    user.section.fit()
    user.settle()
    assert user.session.state.look.run_key == RunKey("road", road)
    found = takeable(user.section, "pvi")
    key, x, y = found[nth % len(found)]
    steps = len(user.session.history.undo_names)
    # nearer than its neighbours
    sight, at = dragged(user, user.section, (x, y), path, (end[0] / 4, end[1] / 4), notch)
    if len(user.session.history.undo_names) > steps:
        r = user.project.roads[road]
        pvi = r.profiles[r.design].pvis[int(key)]
        assert abs(pvi.chainage - sight.s_at(at[0])) <= 1 / sight.sx + 0.01
        assert abs(pvi.level - sight.z_at(at[1])) <= 1 / sight.sz + 0.001
