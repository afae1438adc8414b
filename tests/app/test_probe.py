"""The levels at any point of a pipe, in both drawings, and pinned."""

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QPushButton
from pytest import approx

from tests.app.test_project import choose
from zumbert.app.tools.pick import PickTool
from zumbert.app.tools.tool import MousePlace
from zumbert.drawing.marks import Disc, Target
from zumbert.drawing.plan import halos
from zumbert.drawing.targets import Targets
from zumbert.edits.grounditems import GroundItem
from zumbert.edits.notes import add_pin


@pytest.fixture
def probing(user):
    """The tool in hand, P5 in sight in both drawings."""
    pipe = user.pipe("S5", "S4")
    user.session.set(stage=user.session.stages["levels"], straight=False)
    user.section.fit_pipe(pipe.id)
    x, y = user.facts.spans[pipe.id].point(17.6)
    user.plan.map = replace(user.plan.map, scale=8.0, x=x, y=y)
    user.plan.update()
    user.settle()
    user.do("probe")
    return user


def over(user, s):
    pipe = user.pipe("S5", "S4")
    return user.in_plan(*user.facts.spans[pipe.id].point(s))


def test_the_levels_follow_the_cursor_and_a_click_pins_them(probing):
    user = probing
    p5 = user.pipe("S5", "S4")
    user.move(user.plan, *over(user, 12.0))
    at = user.window.toolbox.tool.levels()
    f = user.facts.pipes[p5.id]
    assert at.pipe == p5.id and at.distance == approx(12.0, abs=0.1)
    assert at.invert == approx(f.invert(at.distance))
    texts = " ".join(w.text() for w in user.plan.entry.lines)
    assert f"invert <b>{at.invert:.3f}</b>" in texts and f"cover <b>{at.cover:.3f}</b>" in texts
    user.click(user.plan, *over(user, 12.0))
    [pin] = user.project.pins.values()
    assert (pin.pipe, pin.at) == (p5.id, approx(12.0, abs=0.1))
    assert user.session.history.undo_names == ["Pin a level on P5"]
    user.settle()
    note = f"invert {f.invert(pin.at):.3f}"
    assert note in {t.text for t in user.plan._still.marks if hasattr(t, "text")}
    assert note in {t.text for t in user.in_section() if hasattr(t, "text")}
    user.session.edit(
        "x",
        lambda p, _: replace(
            p, pipes={**p.pipes, p5.id: replace(p.pipes[p5.id], invert_up=p5.invert_up + 1)}
        ),
    )
    user.settle()
    after = user.facts.pipes[p5.id].invert(pin.at)
    # it follows
    assert f"invert {after:.3f}" in {t.text for t in user.plan._still.marks if hasattr(t, "text")}


def test_in_the_long_section_it_goes_along_the_run_and_stops_at_walls(probing):
    user = probing
    p5 = user.pipe("S5", "S4")
    reach = next(r for r in user.session.state.look.run.reaches if r.pipe == p5.id)
    f = user.facts.pipes[p5.id]

    def place(s):
        return user.section.sight.x_of(reach.at(s, f.span.length)), user.section.sight.y_of(
            f.invert(s)
        ) - 4

    user.move(user.section, *place(20.0))
    assert user.window.toolbox.tool.levels().distance == approx(20.0, abs=0.1)
    user.move(user.section, *place(0.1))
    assert user.window.toolbox.tool.levels().distance == approx(f.span.reach_up)
    assert user.section.entry.aside.text() == "wall of S5"
    user.click(user.section, *place(20.0))
    assert len(user.project.pins) == 1


def test_a_distance_is_typed_and_one_beyond_the_pipe_refused(probing):
    user = probing
    user.move(user.plan, *over(user, 12.0))
    user.type(user.plan, "7.25")
    user.key(user.plan.entry.field, Qt.Key.Key_Return)
    assert [p.at for p in user.project.pins.values()] == [7.25]
    user.move(user.plan, *over(user, 12.0))
    user.type(user.plan, "900")
    user.key(user.plan.entry.field, Qt.Key.Key_Return)
    assert "a pin stands between" in user.refusals[-1]
    user.key(user.plan.entry.field, Qt.Key.Key_Escape)
    user.window.escape()
    assert isinstance(user.window.toolbox.tool, PickTool)


def test_pins_are_listed_and_what_they_say_is_chosen(probing):
    user = probing
    user.click(user.plan, *over(user, 12.0))
    user.window.escape()
    user.session.select()
    user.session.to_stage("layout")
    user.settle()
    section = user.window.side.panel.pins
    assert section.which.currentText().startswith("P5 at ")
    section.findChild(QCheckBox, "pin says crown").click()
    assert next(iter(user.project.pins.values())).fields == ("invert", "crown", "cover")
    for field, text in ((section.words, "invert=IL"), (section.decimals, "2")):
        field.setFocus()
        field.selectAll()
        user.type(field, text)
        user.key(field, Qt.Key.Key_Return)
    pin = next(iter(user.project.pins.values()))
    assert (pin.words, pin.decimals) == ({"invert": "IL"}, 2)
    user.settle()
    level = user.facts.pipes[pin.pipe].invert(pin.at)
    assert f"IL {level:.2f}" in {t.text for t in user.plan._still.marks if hasattr(t, "text")}
    section.words.selectAll()
    user.type(section.words, "depth=x")
    user.key(section.words, Qt.Key.Key_Return)
    assert "names no value of a pin" in user.refusals[-1]
    section.findChild(QPushButton, "drop pin").click()
    assert user.project.pins == {}
    user.settle()
    assert user.session.state.chosen.item is None


def test_a_pin_is_picked_by_a_click_in_either_drawing_changed_and_deleted(probing):
    user = probing
    user.click(user.plan, *over(user, 8.0))
    user.click(user.plan, *over(user, 20.0))
    user.window.escape()
    user.session.select()
    user.settle()
    first, second = user.project.pins
    user.click(user.plan, *over(user, 20.0))
    assert user.session.state.chosen.item == GroundItem("pin", second)
    x, y = over(user, 20.0)
    lit = [m for m in halos(user.session.state.picture, user.plan.sight) if isinstance(m, Disc)]
    assert [abs(m.x - x) < 2 and abs(m.y - y) < 2 for m in lit] == [True]
    section = user.window.side.panel.section
    assert section.which.currentData() == second
    choose(section.outer, True)
    choose(section.cover_from, "existing")
    pin = user.project.pins[second]
    assert (pin.outer, pin.cover_from) == (True, "existing")
    assert user.project.pins[first].outer is False
    user.settle()
    under = user.facts.pipes[pin.pipe].invert(pin.at) - user.facts.pipes[pin.pipe].wall
    assert f"underside {under:.3f}" in {t.text for t in user.in_section() if hasattr(t, "text")}
    target = next(t for t in user.section.targets if t.kind == "pin" and t.id == first)
    user.click(user.section, *target.xy[0])
    assert user.session.state.chosen.item == GroundItem("pin", first)
    user.do("delete")
    assert list(user.project.pins) == [second]
    user.do("undo")
    assert list(user.project.pins) == [first, second]


def test_cover_is_told_from_a_surface_that_is_chosen_by_key(probing):
    user = probing
    user.move(user.plan, *over(user, 12.0))
    usual = user.window.toolbox.tool.levels().cover
    user.type(user.plan, "u")
    user.settle()
    at = user.window.toolbox.tool.levels()
    assert at.cover == approx(at.ground - at.top) and at.cover != approx(usual)
    assert user.plan.entry.aside.text() == "cover from Existing ground"
    user.click(user.plan, *over(user, 12.0))
    assert next(iter(user.project.pins.values())).cover_from == "existing"


def test_in_the_stage_ground_a_pin_is_not_picked(probing):
    user = probing
    user.click(user.plan, *over(user, 12.0))
    user.window.escape()
    user.session.to_stage("ground")
    user.session.select()
    user.settle()
    user.click(user.plan, *over(user, 12.0))
    assert (
        user.session.state.chosen.structures == frozenset()
        and user.session.state.chosen.item is None
    )


def test_what_only_a_preview_showed_is_not_picked(probing):
    user = probing
    user.window.escape()
    tool = user.window.toolbox.tool
    gone = Target("structure", "s-gone", np.array([over(user, 12.0)]), 9.0)
    user.plan.still = Targets([gone])
    assert not tool.plan_press(user.plan, MousePlace(*over(user, 12.0)))
    assert user.session.state.chosen.structures == frozenset() and tool.drag is None


def test_a_pin_is_picked_by_its_words_in_both_drawings(user):
    from zumbert.drawing.labels import text_box
    from zumbert.drawing.marks import texts_in
    from zumbert.drawing.pins import pin_lines

    pipe = user.look_at("S5", "S4")
    user.session.edit("Pin", lambda p, f: add_pin(p, f, pipe.id, 12.0, None, "reference"))
    pin = next(iter(user.project.pins))
    user.settle()
    shown = [t.text for t in texts_in(user.plan._still.marks)]
    first = next(
        t for t in pin_lines(user.facts.pipes[pipe.id], user.facts, user.project.pins[pin])
    )[1]
    assert first in shown
    t = next(t for t in texts_in(user.in_section()) if t.text == first)
    x0, y0, x1, y1 = text_box(t)
    assert user.section.hit((x0 + x1) / 2, (y0 + y1) / 2).id == pin
    plan = next(t for t in texts_in(user.plan._still.marks) if t.text == first)
    x0, y0, x1, y1 = text_box(plan)
    dx, dy = user.plan.shift
    assert user.plan.hit((x0 + x1) / 2 + dx, (y0 + y1) / 2 + dy).id == pin
