"""Every handle, snap and row of the long section, driven through the window and read back from
the project.
"""

from html import escape

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QEnterEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton
from pytest import approx

from zumbert.app.reading import changed
from zumbert.app.views.sectionview import MANY_HOT
from zumbert.checks.check import rule_of
from zumbert.checks.legal import cover_bound, rows
from zumbert.checks.sentences import brief
from zumbert.drawing.longsection import section_marks
from zumbert.drawing.marks import texts_in
from zumbert.drawing.picture import Part
from zumbert.drawing.plan import network
from zumbert.edits.change import move_structure, rim_on
from zumbert.edits.grounditems import set_view
from zumbert.edits.labels import rename
from zumbert.edits.levels import set_invert
from zumbert.edits.setup import with_settings
from zumbert.edits.snaps import snaps

ALT = Qt.KeyboardModifier.AltModifier


def now(user, pipe):
    p = user.project.pipes[pipe.id]
    return p.invert_up, p.invert_down


@pytest.mark.parametrize(
    ("ring", "up", "down"),
    [
        ("up", 0.3, 0.0),
        ("down", 0.0, 0.3),
        ("mid", 0.3, 0.3),
        ("beyond-up", None, 0.0),
        ("beyond-down", 0.0, None),
    ],
)
@pytest.mark.parametrize("basis", ["centres", "walls"])
def test_each_ring_moves_what_it_stands_for_on_either_basis(user, ring, up, down, basis):
    user.session.edit("x", lambda p, f: with_settings(p, replace(p.settings, invert_basis=basis)))
    pipe = user.look_at("S5", "S4")
    steps = len(user.session.history.undo_names)
    before, others = now(user, pipe), {k: p for k, p in user.project.pipes.items() if k != pipe.id}
    user.drag_ring(ring, 0.3, keys=ALT)
    for was, is_, by in zip(before, now(user, pipe), (up, down), strict=True):
        if by is None:  # the ring lies beyond the end: that follows, by less
            assert 0.05 < is_ - was < 0.3
        else:
            assert is_ - was == approx(by, abs=0.02 if by else 1e-12)
    assert {k: p for k, p in user.project.pipes.items() if k != pipe.id} == others
    assert len(user.session.history.undo_names) == steps + 1
    user.do("undo")
    assert now(user, pipe) == before


@pytest.mark.parametrize(("ring", "end"), [("up", "up"), ("down", "down"), ("mid", None)])
def test_each_snap_of_each_ring_holds_and_is_named(user, ring, end):
    pipe = user.look_at("S5", "S4")
    user.section.zoomed(4.0, *user.ring(ring), Qt.KeyboardModifier.NoModifier)
    user.settle()
    f = user.facts.pipes[pipe.id]
    level = f.pipe.invert_down if end == "down" else f.pipe.invert_up
    names = []
    for snap in snaps(user.facts, f, end):
        if not 0.02 < abs(snap.level - level) < 1.0:
            continue
        x, y = user.ring(ring)
        to = y - (snap.level - level) * user.section.sight.sz
        user.drag(user.section, (x, y), (x, to), release=False)
        assert user.session.state.chosen.hand.snap == snap.name
        user.release(user.section, x, to)
        moved = now(user, pipe)[1 if end == "down" else 0]
        assert moved == approx(snap.level, abs=1e-9)
        names.append(snap.name)
        user.do("undo")
    assert names


def test_crowns_inverts_and_least_drop_are_among_the_snaps(user):
    pipe = user.look_at("S5", "S4")
    of = {r.rule for r in rows(user.facts, user.facts.pipes[pipe.id])}
    named = {s.name for s in snaps(user.facts, user.facts.pipes[pipe.id], "down")}
    assert named >= {"Least cover 0.90"} and named & {rule_of(r).snap for r in of} - {""}
    larger = user.pipe("S4", "S3")  # DN 375 under DN 300: its crown governs
    assert user.facts.pipes[larger.id].inside > user.facts.pipes[pipe.id].inside
    assert "Crowns in line" in named


def test_without_a_named_snap_a_level_is_one_of_5_mm(user):
    pipe = user.look_at("S5", "S4")
    user.drag_ring("down", 0.337)
    level = now(user, pipe)[1]
    assert level / 0.005 == approx(round(level / 0.005), abs=1e-6)


@pytest.mark.parametrize(("slopes", "step"), [("percent", 0.0005), ("ratio", None)])
def test_the_rings_beyond_snap_to_round_slopes_as_the_project_writes_them(user, slopes, step):
    user.session.edit("x", lambda p, f: set_view(p, units=replace(p.units, slopes=slopes)))
    pipe = user.look_at("S5", "S4")
    user.drag_ring("beyond-down", -0.26)
    slope = user.facts.pipes[pipe.id].slope
    whole = slope / step if step else 1 / slope
    assert whole == approx(round(whole), abs=1e-6)


@pytest.mark.parametrize("end", ["up", "down"])
def test_shift_takes_all_beyond_an_end_along(user, end):
    pipe = user.look_at("S5", "S4")
    before = user.project.pipes
    user.drag_ring(end, -0.2, keys=Qt.KeyboardModifier.ShiftModifier)
    after = user.project.pipes
    moved = {k for k in after if after[k] != before[k]} - {pipe.id}
    beyond, behind = (user.pipe("S6", "S5"), user.pipe("S4", "S3"))
    if end == "down":
        beyond, behind = behind, beyond
    assert beyond.id in moved and behind.id not in moved
    by = now(user, pipe)[0 if end == "up" else 1] - getattr(pipe, f"invert_{end}")
    for key in moved:
        assert after[key].invert_up - before[key].invert_up == approx(by, abs=1e-9)
        assert after[key].invert_down - before[key].invert_down == approx(by, abs=1e-9)


ROWS = (
    "Chainage",
    "Rim",
    "Invert in",
    "Invert out",
    "Crown in",
    "Crown out",
    "Slope",
    "DN",
    "Least cover",
)


@pytest.mark.parametrize(
    ("row", "text", "check"),
    [
        ("Invert in", "=40.2+0.3", lambda u, p, f: p.invert_down == approx(40.5)),
        ("Invert out", "+0.05", lambda u, p, f: p.invert_up == approx(41.169 + 0.05, abs=1e-3)),
        ("Crown in", "40.8", lambda u, p, f: p.invert_down == approx(40.5)),
        ("Crown out", "41.5-0.1", lambda u, p, f: p.invert_up == approx(41.1)),
        ("Slope", "1:50", lambda u, p, f: f.slope == approx(0.02)),
        ("DN", "225", lambda u, p, f: p.size == "225"),
        ("Least cover", "1.1", lambda u, p, f: f.cover.least == approx(1.1, abs=1e-9)),
        ("Rim", "42.4", lambda u, p, f: u.structure("S5").rim.level == approx(42.4)),
        ("Chainage", "131.5", lambda u, p, f: u.structure("S5").place.chainage == approx(131.5)),
    ],
)
def test_each_row_is_edited_in_place(user, row, text, check):
    user.session.edit("x", lambda p, f: set_view(p, rows=ROWS))
    user.session.edit("x", lambda p, f: rim_on(p, f, user.structure("S5").id, "fixed"))
    user.section._refit()
    pipe = user.look_at("S5", "S4")
    steps = len(user.session.history.undo_names)
    thing = user.structure("S5").id if row in ("Rim", "Chainage") else pipe.id
    cell = next(c for c in user.section.cells if c.row == row and c.id == thing)
    user.click(user.section, cell.box[0] + cell.box[2] / 2, cell.box[1] + 8)
    user.type(user.section.cell_edit, text)
    user.key(user.section.cell_edit, Qt.Key.Key_Return)
    assert check(user, user.project.pipes[pipe.id], user.facts.pipes[pipe.id])
    assert len(user.session.history.undo_names) == steps + 1


def bar(user, name):
    return user.window.side.panel.rows[name].bar


def test_a_range_bar_is_dragged_to_set_its_value(user):
    pipe = user.look_at("S5", "S4")
    before = user.project
    high = bar(user, "invert_down").scale.high
    at = QPoint(round(bar(user, "invert_down").x_of(high - 0.1)), 12)
    QTest.mousePress(bar(user, "invert_down"), Qt.MouseButton.LeftButton, pos=at)
    assert user.project is before and user.shown.pipes[pipe.id].invert_down == approx(
        high - 0.1, abs=0.02
    )
    QTest.mouseRelease(bar(user, "invert_down"), Qt.MouseButton.LeftButton, pos=at)
    assert user.project.pipes[pipe.id].invert_down == approx(high - 0.1, abs=0.02)
    assert user.session.history.undo_names == ["Set the invert at S4"]
    now = user.project
    QTest.mousePress(bar(user, "slope"), Qt.MouseButton.LeftButton, pos=QPoint(60, 12))
    assert user.shown is not now
    QTest.keyClick(bar(user, "slope"), Qt.Key.Key_Escape)
    assert user.shown is now and user.project is now


def test_what_follows_is_said_while_the_mouse_is_down(user):
    pipe = user.look_at("S5", "S4")
    f = user.facts.pipes[pipe.id]
    bound = cover_bound(user.facts, f, "down", 0.9)
    user.drag_ring("down", bound - f.pipe.invert_down - 0.1, release=False)
    panel = user.window.side.panel
    said = [c.text() for c in panel._cells if c.isVisible()]
    assert "Drop at S4, S3" in said and any(t.startswith("Trench") for t in said)
    preview = set_invert(user.project, pipe.id, "down", user.shown.pipes[pipe.id].invert_down)
    assert user.shown.pipes[pipe.id] == preview.pipes[pipe.id]
    user.window.escape()


def test_a_label_with_tags_and_quotes_stays_as_it_was_typed(user):
    odd = 'S"4" & <b>x</b>'
    user.session.edit("x", lambda p, f: rename(p, user.structure("S4").id, odd))
    user.look_at("S5", odd)
    panel = user.window.side.panel
    assert (
        panel.title.text() == f"Pipe S5 to {odd}"
        and panel.title.textFormat() == Qt.TextFormat.PlainText
    )
    user.drag_ring("down", -0.8, keys=ALT, release=False)
    entry = user.section.entry
    assert (
        entry.head.text() == f"Invert at {odd}"
        and entry.head.textFormat() == Qt.TextFormat.PlainText
    )
    message = brief(user.session.state.shown.facts, user.window.toolbox.tool.drag._findings()[0])
    assert escape(message) in entry.lines[1].text()
    user.window.escape()


def test_what_stays_and_what_a_drag_changes_are_together_the_whole(user):
    pipe = user.look_at("S5", "S4")
    user.drag_ring("down", -0.2, release=False)
    user.settle()
    view, s = user.section, user.session.state
    rest = section_marks(s.resting, view.sight, s.chosen.hand, Part(view._hot(s), False))
    still, live = (
        rest,
        section_marks(s.picture, view.sight, s.chosen.hand, Part(view._hot(s), True), rest.labels),
    )
    whole = section_marks(s.picture, view.sight, s.chosen.hand)

    def rows(made):
        return {(t.text, round(t.x), round(t.y)) for t in texts_in(made.rows)}

    assert rows(still) | rows(live) == rows(whole)
    assert {(c.row, c.id, c.field, c.text) for c in view.cells} == {
        (c.row, c.id, c.field, c.text) for c in whole.cells
    }
    assert {(t.kind, t.id) for t in [*still.targets, *live.targets]} == {
        (t.kind, t.id) for t in whole.targets
    }
    assert len(still.targets) + len(live.targets) == len(whole.targets)
    named = {t.text for t in texts_in(whole.drawing)}
    assert {"S3", "S4", "S5", "S6", "legal"} <= {
        t.text for t in texts_in([*still.drawing, *live.drawing])
    } & named
    assert not any(t.id == pipe.id for t in still.targets) and any(
        t.id == pipe.id for t in live.targets
    )
    user.window.escape()
    user.settle()
    assert user.section._live == [] and {t.id for t in user.section.still.all} >= {pipe.id}


def test_a_drag_that_moves_many_is_drawn_whole_and_where_things_move_in_plan_too(user):
    user.look_at("S5", "S4")
    user.section.fit()
    user.settle()
    user.drag_ring("down", -0.2, keys=Qt.KeyboardModifier.ShiftModifier, release=False)
    assert user.section._hot(user.session.state)  # a few pipes below it
    user.window.escape()
    user.settle()
    user.drag_ring("up", 0.2, keys=Qt.KeyboardModifier.ShiftModifier, release=False)
    in_sight = {r.pipe for r in user.session.state.look.run.reaches}
    moved = {k for k, p in user.shown.pipes.items() if p != user.project.pipes[k]} & in_sight
    flows = user.session.state.shown.facts.flows.pipes
    moved |= {k for k, f in user.facts.flows.pipes.items() if flows[k] != f} & in_sight
    assert bool(user.section._hot(user.session.state)) == (len(moved) <= MANY_HOT)
    user.window.escape()
    user.settle()
    key = user.structure("S5").id
    place = user.structure("S5").place
    user.session.preview(
        move_structure(user.project, user.facts, key, replace(place, offset=place.offset + 1.0))
    )
    assert user.section._hot(user.session.state) == frozenset()
    user.session.preview(None)


def told(marks):
    return [
        (
            type(m).__name__,
            m.role,
            getattr(m, "text", ""),
            np.round(m.xy, 3).tolist() if hasattr(m, "xy") else 0,
        )
        for m in marks
    ]


def test_while_an_end_is_dragged_the_plan_is_painted_only_where_something_shows_in_it(user):
    user.look_at("S5", "S4")
    seen = []

    def compare(old, new):
        same = not changed({"in_plan": old.in_plan}, new)
        seen.append(same)
        if same:
            hot = frozenset(new.shown.facts.project.pipes) | frozenset(
                new.shown.facts.project.structures
            )
            a, b = (network(s.picture, user.plan.sight, (), hot).marks for s in (old, new))
            assert told(a) == told(b)

    user.session.changed.connect(compare)
    x, y = user.ring("down")
    user.press(user.section, x, y)
    # down to where nothing is broken, and up into the breach
    for by in (2, 4, 6, 40, 41, 42, 43, -20, -24):
        user.move(user.section, x, y + by, True, ALT)
        user.settle()
    user.window.escape()
    assert True in seen and False in seen


def test_a_tick_or_button_of_many_shows_what_it_would_do_before_it_is_clicked(user):
    pipes = [user.pipe("S5", "S4"), user.pipe("S6", "S5")]
    user.do("layout")
    user.session.select(frozenset(p.id for p in pipes), follow=False)
    user.settle()
    before = user.project
    button = user.window.side.findChild(QPushButton, "turn")
    QApplication.sendEvent(button, QEnterEvent(QPointF(5, 5), QPointF(5, 5), QPointF(5, 5)))
    user.bot.waitUntil(lambda: user.session.state.previewing)
    assert user.shown.pipes[pipes[0].id].up == pipes[0].down and user.project is before
    QApplication.sendEvent(button, QEvent(QEvent.Type.Leave))
    assert user.shown is before
    QApplication.sendEvent(button, QEnterEvent(QPointF(5, 5), QPointF(5, 5), QPointF(5, 5)))
    user.bot.waitUntil(lambda: user.session.state.previewing)
    user.bot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert user.project.pipes[pipes[0].id].up == pipes[0].down
    assert len(user.session.history.undo_names) == 1 and not user.session.state.previewing
