"""How the long section is looked at: scales typed, their ratio kept or free, what is shown on
request.
"""

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QEnterEvent
from PySide6.QtWidgets import QApplication, QPushButton
from pytest import approx

from zumbert.analysis.runline import RunKey
from zumbert.app.tools.level import LevelDrag
from zumbert.app.tools.tool import MousePlace
from zumbert.drawing.longsection import section_marks
from zumbert.drawing.marks import Stroke, Target, texts_in
from zumbert.drawing.sectionprofile import profile_data
from zumbert.edits.land import add_service
from zumbert.model.ids import RoadId


def scale(user, axis, text):
    field = user.window.centre.head.fields[axis]
    field.selectAll()
    user.type(field, text)
    user.key(field, Qt.Key.Key_Return)
    user.settle()


def texts(user):
    return [
        t.text
        for t in texts_in(section_marks(user.session.state.picture, user.section.sight).drawing)
    ]


def test_scales_are_typed_and_their_ratio_is_kept_or_free(user):
    user.look_at("S5", "S4")
    assert user.section.scales() == (approx(500), approx(80))
    middle = user.section.sight.s_at((user.section.sight.left + user.section.width()) / 2)
    scale(user, "along", "1:250")
    assert user.section.scales() == (approx(250), approx(40))  # the other goes along
    assert user.section.sight.s_at((user.section.sight.left + user.section.width()) / 2) == approx(
        middle
    )
    user.window.centre.head.current.click()
    scale(user, "up", "100")
    assert user.section.scales() == (approx(250), approx(100))
    assert user.window.centre.head.scale.text() == "(×2.50)"
    for text in ("x", "0", "1:-5", "1e9"):
        scale(user, "up", text)
        assert (
            user.section.scales() == (approx(250), approx(100))
            and "is no scale" in user.refusals[-1]
        )


def test_zooming_keeps_the_ratio_or_changes_lengths_alone(user):
    user.look_at("S5", "S4")
    user.wheel(user.section, 500, 100, 1)
    h, v = user.section.scales()
    assert h / v == approx(6.25) and h < 500
    user.window.centre.head.current.click()
    user.wheel(user.section, 500, 100, 1)
    assert user.section.scales()[0] < h and user.section.scales()[1] == approx(v)
    user.wheel(user.section, 500, 100, 1, Qt.KeyboardModifier.ShiftModifier)
    assert user.section.scales()[1] < v


def test_scale_bars_tell_a_true_length_and_height(user):
    user.look_at("S5", "S4")
    made = section_marks(user.session.state.picture, user.section.sight).drawing
    bars = [m for m in made if getattr(m, "edge", None) == "ink-thin"]
    wide = sorted(m.xy[:, 0].max() - m.xy[:, 0].min() for m in bars)[-1]
    tall = sorted(m.xy[:, 1].max() - m.xy[:, 1].min() for m in bars)[-1]
    told = texts(user)
    assert "20 m" in told and wide == approx(10 * user.section.sight.sx)
    assert "1 m" in told and tall == approx(0.5 * user.section.sight.sz)


def test_the_roads_profile_is_told_on_request(user):
    user.look_at("S5", "S4")
    chip = user.window.findChild(QPushButton, "chip profile")
    assert not any("L 40.00 m" in t for t in texts(user))
    chip.click()
    user.settle()
    told = texts(user)
    road = user.facts.roads[user.structure("S5").place.road]
    assert "L 40.00 m" in told  # the lengths of its curves
    grades = [user.session.units.slope(g) for g in road.profile.grades]
    assert any(t.split("  ")[0] in grades for t in told)
    chip.click()
    assert not any("L 40.00 m" in t for t in texts(user))
    user.session.show_run(
        next(k for k in user.session.state.look.keys if k.kind == "road" and k.id == road.road.id)
    )
    chip.click()
    user.section.fit()
    user.settle()
    assert sum(t.startswith("L ") for t in texts(user)) >= 2


def test_crossings_are_shown_or_not_and_other_roads_always(user):
    pipe = user.look_at("S5", "S4")
    x, y = user.facts.spans[pipe.id].point(15.0)
    points = [(x - 8, y - 8, 42.0), (x + 8, y + 8, 42.0)]
    user.session.edit("Add", lambda p, f: add_service(p, "water", points, size=0.1)[0])
    user.settle()
    told = [t for t in texts(user) if "water" in t]
    assert len(told) == 1
    user.window.findChild(QPushButton, "chip services").click()
    assert not any("water" in t for t in texts(user))
    lane = next(r for r in user.project.roads.values() if r.name == "Tansymoor Lane")
    main = next(k for k in user.session.state.look.keys if k.kind == "road" and k.id != lane.id)
    user.session.show_run(main)
    user.section.fit()
    user.settle()
    met = [c for c in user.session.state.look.run.crossings if c.kind == "road"]
    assert [c.id for c in met] == [RoadId(lane.id)]
    posts = [
        m
        for m in section_marks(user.session.state.picture, user.section.sight).drawing
        if isinstance(m, Stroke) and m.role == "design-post"
    ]
    assert len(posts) == len(met)


def test_hovering_along_a_pipe_tells_its_levels_there_in_both_drawings(user):
    pipe = user.look_at("S5", "S4")
    user.session.select()
    user.settle()
    user.move(user.section, *user.along(pipe.id, 0.5))
    f = user.facts.pipes[pipe.id]
    assert user.section.toolTip().startswith("P5\n")
    # to the pixel under the cursor
    assert f"invert {f.invert(f.span.length / 2):.2f}" in user.section.toolTip()
    x, y = user.facts.spans[pipe.id].point(10.0)
    user.session.set(straight=False)
    user.plan.map = replace(user.plan.map, scale=8.0, x=x, y=y)
    user.plan.update()
    user.settle()
    user.move(user.plan, *user.in_plan(x, y))
    for word in ("P5", "at 10", "invert ", "outside top ", "cover ", "ground "):
        assert word in user.plan.toolTip()
    user.move(user.plan, 5, user.plan.height() - 5)
    assert user.plan.toolTip() == ""


def test_a_gully_that_hides_its_pair_is_left_out_of_a_roads_section(user):
    road = next(
        k
        for k in user.session.state.look.keys
        if k.kind == "road" and "Quillerby" in user.project.roads[k.id].name
    )
    user.session.show_run(road)
    key = user.structure("G5L").id
    assert key in {k for k, _ in user.session.state.look.run.structures}
    user.session.select(structures=frozenset({key}))
    user.settle()
    tick = user.window.side.panel.shared.left_out
    tick.click()
    assert key not in {k for k, _ in user.session.state.look.run.structures}
    assert user.structure("G5R").id in {k for k, _ in user.session.state.look.run.structures}
    assert (
        key in user.project.structures
        and user.session.history.undo_name == "Leave G5L out of the road"
    )
    tick.click()
    assert key in {k for k, _ in user.session.state.look.run.structures}


def test_leaving_out_of_a_run_that_is_not_kept_keeps_it(user):
    user.look_at("S5", "S4")
    key = user.structure("S7").id
    name = user.session.state.look.run.name
    user.session.select(structures=frozenset({key}))
    user.settle()
    user.window.side.panel.shared.left_out.click()
    [kept] = user.project.runs.values()
    assert (kept.name, kept.without) == (name, {key})
    assert user.session.state.look.run_key == ("named", kept.id)
    assert key not in {k for k, _ in user.session.state.look.run.structures}
    user.do("undo")
    assert user.project.runs == {}


def test_the_panel_tells_the_room_to_what_crosses_a_pipe_live(user):
    pipe = user.look_at("S5", "S4")
    row = user.window.side.panel.rows["clear 1"]
    assert not row.isVisible()
    f = user.facts.pipes[pipe.id]
    x, y = f.span.point(17.6)
    level = f.invert(17.6) + f.inside / 2 - 0.6
    user.session.edit(
        "Add",
        lambda p, g: add_service(
            p, "gas", [(x - 9, y - 9, level), (x + 9, y + 9, level)], size=0.1, clearance=0.3
        )[0],
    )
    user.settle()
    assert (
        row.isVisible()
        and row.name.text() == "Clear of GAS1"
        and row.under.text() == "under, upright 0.36"
    )
    clear = row.bar.scale.now
    assert clear == approx(0.6 - 0.05 - 0.195, abs=0.002) and row.bar.scale.low == 0.3
    user.drag_ring("mid", -0.2, keys=Qt.KeyboardModifier.AltModifier, release=False)
    assert row.bar.scale.now == approx(clear - 0.2, abs=0.02)
    assert row.field.property("bad") is True
    user.window.escape()


def test_of_a_run_along_two_roads_each_tells_its_profile_over_its_own_part(user):
    user.session.show_run(RunKey("run", user.structure("S17").id))
    user.session.set(shows=user.session.state.look.shows | {"profile"})
    user.section.fit()
    user.settle()
    sight, at = user.section.sight, dict(user.session.state.look.run.structures)
    drawn = [
        m
        for m in profile_data(user.session.state.picture, sight)
        if isinstance(m, Stroke) and m.role == "design"
    ]
    spans = sorted((m.xy[:, 0].min(), m.xy[:, 0].max()) for m in drawn)
    # none over another
    assert all(a[1] <= b[0] + 0.01 for a, b in zip(spans, spans[1:], strict=False))
    ends = [sight.x_of(at[user.structure(k).id]) for k in ("S1", "S4", "S14", "S17")]
    assert spans[0][0] == approx(ends[0], abs=3) and spans[-1][1] == approx(ends[3], abs=3)
    between = [s for s in spans if s[1] > ends[1] + 1 and s[0] < ends[2] - 1]
    assert between == []  # from one road to the other no profile holds


def test_all_structures_left_out_and_another_run_shown_leave_nothing_to_stumble_over(user):
    user.look_at("S5", "S4")
    keys = frozenset(k for k, _ in user.session.state.look.run.structures)
    user.session.select(structures=keys)
    user.settle()
    user.window.side.panel.shared.left_out.click()
    user.settle()
    assert user.session.state.look.run.structures == ()
    assert user.window.centre.head.what.text() == "all structures left out"
    user.do("undo")
    pipe = user.look_at("S5", "S4")
    assert user.session.state.look.run.structures and not user.session.state.previewing
    cells = {c.id: c for c in user.section.cells if c.row == "Invert in"}
    assert pipe.id in cells, (user.section.sight, user.section.cells, user.section.zooming)
    cell, ring = cells[pipe.id], user.ring("down")
    user.click(user.section, cell.box[0] + 20, cell.box[1] + 8)
    user.session.show_run(RunKey("run", user.structure("S17").id))  # before it is painted
    assert (
        not user.section.cell_edit.isVisible()
        and user.section.cells == []
        and user.section.targets == []
    )
    gone = Target("ring", "down", np.array([ring]), 9.0)
    # that ring is of the run before
    assert LevelDrag.press(user.session, user.section, gone, MousePlace(*ring)) is None


def test_another_selection_while_a_button_shows_its_edit_ends_what_it_shows(user):
    pipe = user.look_at("S5", "S4")
    user.session.select(structures=frozenset(k for k, _ in user.session.state.look.run.structures))
    user.settle()
    run = user.session.state.look.run_key
    tick = user.window.side.panel.shared.left_out
    middle = QPointF(5, 5)
    QApplication.sendEvent(
        tick, QEnterEvent(middle, middle, QPointF(tick.mapToGlobal(middle.toPoint())))
    )
    user.bot.waitUntil(lambda: user.session.state.previewing)
    user.session.select(pipes=frozenset({pipe.id}))  # by a key: the pointer stays
    user.settle()
    assert not user.session.state.previewing
    # the run that got a name is gone again
    assert user.session.state.look.run_key == run and user.session.state.look.run is not None
    assert user.window.side.panel.pipe == pipe.id


def test_what_the_panel_says_of_the_run_follows_the_run_shown(user):
    user.session.to_stage("layout")
    user.session.select()
    user.session.show_run(RunKey("run", user.structure("S1").id))
    user.settle()
    name = user.window.findChild(QPushButton, "name run")
    assert name.isEnabled()
    user.session.show_run(RunKey("road", next(iter(user.project.roads))))
    assert not name.isEnabled()  # a road has its name
