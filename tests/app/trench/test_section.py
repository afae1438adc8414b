"""The trench cross-section and the drawing of a trench type."""

from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel
from pytest import approx

from tests.app.trench.hands import (
    BY_NET,
    button,
    button_of,
    cross,
    drawn,
    figures,
    panel,
    point_at,
    texts,
    total,
    wait_for_net,
)
from zumbert.app.panels.figures import FigureRow
from zumbert.drawing.marks import Fill, Segments, Stroke


def test_the_cross_section_follows_the_cursor(trench):
    user = trench
    assert user.window.centre.upper_view is cross(user)
    first = point_at(user, "S4", "S3")
    assert cross(user).at.pipe == first.id
    one = cross(user).shown()[0].cut
    second = point_at(user, "S8", "S7")
    two = cross(user).shown()[0].cut
    assert (one.pipe, two.pipe) == (first.id, second.id)
    said = texts(drawn(user))
    for words in (
        "Bedding 0.10",
        "Surround, 0.15 over pipe",
        "DN 300, outside 0.390",
        "1.00",
        "Topsoil",
        "General",
    ):
        assert words in said
    marks = drawn(user)
    assert any(isinstance(m, Fill) and m.role == "stratum-rock" for m in marks)
    assert any(isinstance(m, Segments) and m.role == "hatch-general" and len(m.xy) for m in marks)
    assert any(isinstance(m, Stroke) and m.role == "trench-outline" for m in marks)
    labels = {w.text() for w in panel(user).findChildren(QLabel)}
    assert f"{two.trench.left:.2f} m" in labels
    assert f"{two.trench.area:.2f} m²" in labels
    user.section.leaveEvent(None)
    assert cross(user).at.pipe == second.id  # it stays where the cursor was last


def test_steps_by_key_and_pins_beside(trench):
    user = trench
    point_at(user, "S4", "S3")
    start = cross(user).at.run
    user.do("next-section")
    assert 0 < cross(user).at.run - start <= 2.5
    user.key(cross(user), Qt.Key.Key_Left)
    user.key(cross(user), Qt.Key.Key_Left)
    assert cross(user).at.run < start
    user.key(cross(user), Qt.Key.Key_Return)
    assert len(user.session.state.look.sections) == 1
    point_at(user, "S8", "S7")
    shown = cross(user).shown()
    assert [s.cut.pipe for s in shown] == [user.pipe("S8", "S7").id, user.pipe("S4", "S3").id]
    assert shown[1].box.left() == approx(cross(user).width() / 2)
    user.click(cross(user), 300, 150)  # a click pins too
    assert len(user.session.state.look.sections) == 2
    user.do("pin-section")  # once is enough
    assert len(user.session.state.look.sections) == 2
    user.do("next-section")
    user.do("pin-section")
    user.do("next-section")
    user.do("pin-section")
    assert len(user.session.state.look.sections) == 3
    assert "take one away" in user.refusals[-1]
    button(user, "chip unpin 1").click()
    assert len(user.session.state.look.sections) == 2
    pipe = user.pipe("S4", "S3").id
    user.session.edit(
        "gone", lambda p, f: replace(p, pipes={k: v for k, v in p.pipes.items() if k != pipe})
    )
    assert all(k != pipe for k, _ in user.session.state.look.sections)


def test_it_zooms_moves_and_draws_levels_larger(trench):
    user = trench
    point_at(user, "S4", "S3")
    ratio = cross(user).shown()[0].sight.ratios
    assert ratio[0] == approx(ratio[1])
    button(user, "chip cross stretch").click()
    h, v = cross(user).shown()[0].sight.ratios
    assert h == approx(2 * v)
    assert button(user, "chip cross stretch").text() == "Levels ×2"
    user.wheel(cross(user), 500, 100, 2)
    assert cross(user).shown()[0].sight.ratios[0] < h
    at = cross(user).shown()[0].sight.x_of(0.0)
    user.drag(cross(user), (500, 100), (560, 120))
    assert cross(user).shown()[0].sight.x_of(0.0) == approx(at + 60, abs=2)
    assert user.session.state.look.sections == ()  # a drag is no click
    button(user, "chip cross scale").click()
    assert cross(user).scale is None


def test_the_plan_in_its_place_has_outlines_and_shared_space(trench):
    user = trench
    net = wait_for_net(user)
    user.do("cross")
    assert user.window.centre.upper_view is user.plan
    user.settle()
    marks = user.plan._trenches(user.plan.sight)
    assert sum(isinstance(m, Stroke) and m.role == "trench-plan" for m in marks) > 20
    assert net.overlaps
    assert any(isinstance(m, Fill) and m.role == "overlap" for m in marks)
    button(user, "chip cross").click()
    assert user.window.centre.upper_view is cross(user)
    user.do("levels")
    assert user.window.centre.upper_view is user.plan


def test_what_is_in_this(trench):
    user = trench
    wait_for_net(user)
    row = figures(user)["DN 375"]
    user.window.side.ensureWidgetVisible(row)
    QTest.mouseClick(row, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(20, 8))
    user.settle()
    wanted = {
        k
        for k, p in user.project.pipes.items()
        if user.facts.pipes[k].dn == 375 and p.status == "proposed"
    }
    assert user.session.state.chosen.pipes == wanted
    figures(user)["Pits"].click()
    assert user.session.state.chosen.structures == set(user.session.state.dug.trenches.pits)
    figures(user)["Rock"].setFocus()
    user.key(figures(user)["Rock"], Qt.Key.Key_Space)
    rock = {k for k, t in user.session.state.dug.trenches.pipes.items() if "rock" in t.by_stratum}
    assert user.session.state.chosen.pipes == rock


def test_figures_that_are_made_anew_lose_no_press_and_no_focus(trench):
    user = trench
    wait_for_net(user)
    row, place = figures(user)["DN 375"], QPoint(20, 8)
    user.window.side.ensureWidgetVisible(row)
    QTest.mousePress(row, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, place)
    dug = user.session.state.dug.trenches
    user.session.set(sectioned=(dug, dict.fromkeys(dug.pipes, 1.0)))  # worked out meanwhile
    QTest.qWait(100)
    QTest.mouseRelease(row, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, place)
    assert user.session.state.chosen.pipes
    user.bot.waitUntil(lambda: figures(user)["DN 375"] is not row, timeout=10_000)
    figures(user)["Rock"].setFocus()
    user.session.set(sectioned=(dug, dict.fromkeys(dug.pipes, 2.0)))
    user.settle()
    assert figures(user)["Rock"].hasFocus()


def test_a_dragged_level_shows_what_follows_while_the_mouse_is_down(trench):
    user = trench
    wait_for_net(user)
    pipe = user.look_at("S4", "S3")
    wait_for_net(user)
    before = figures(user)["DN 375"].value
    x, y = user.ring("down")
    user.press(user.section, x, y)
    user.move(user.section, x, y + 0.3 * user.section.sight.sz, True)
    user.settle()
    assert user.session.state.previewing
    assert user.session.state.dug.trenches.facts is user.session.state.shown.facts
    assert figures(user)["DN 375"].value != before
    assert figures(user)["Net excavation"].value.startswith("≈")  # an estimate, until it rests
    assert {n: v for n in BY_NET if not (v := figures(user)[n].value).startswith("≈")} == {}
    user.release(user.section, x, y + 0.3 * user.section.sight.sz)
    net = wait_for_net(user)
    user.settle()
    assert not figures(user)["Net excavation"].value.startswith("≈")
    assert not any(figures(user)[n].value.startswith("≈") for n in BY_NET)
    assert user.project.pipes[pipe.id].invert_down < pipe.invert_down
    assert net.shared > 0
    changed = {w.name for w in panel(user).totals.findChildren(FigureRow)}
    assert "Excavation" in changed
    user.do("undo")
    wait_for_net(user)
    user.settle()
    assert figures(user)["DN 375"].value == before


def test_what_changed_since_the_last_save(trench):
    user = trench
    page = panel(user).totals
    assert page.since.currentText() == "since the last save"
    pipe = user.pipe("S4", "S3")
    lower = replace(pipe, invert_up=pipe.invert_up - 0.2, invert_down=pipe.invert_down - 0.2)
    user.session.edit("Lower", lambda p, f: replace(p, pipes={**p.pipes, pipe.id: lower}))
    wait_for_net(user)
    user.settle()
    rows = {
        page.changes.itemAt(i).widget().name: page.changes.itemAt(i).widget().value
        for i in range(page.changes.count())
    }
    assert float(rows["Excavation"].split()[0]) > 5
    assert [page.since.itemText(i) for i in range(page.since.count())] == [
        "since the last save",
        "since before: Lower",
    ]


def test_a_trench_type_is_edited_on_its_drawing(trench):
    user = trench
    button_of(user, "Types").click()
    page = panel(user).pages[1]
    fields = page.sketch.fields
    dug = total(user)
    page.rows.setCurrentIndex(0)
    page.rows.activated.emit(0)
    user.fill(fields["width"], "1.5: 1.0, 9: 1.4")
    key = page.key
    assert user.project.trench_types[key].sizes[0].width == ((1.5, 1.0), (9.0, 1.4))
    assert total(user) > dug
    user.fill(fields["surround"], "none")
    assert user.project.trench_types[key].sizes[0].surround is None
    user.fill(fields["width"], "0")
    assert "more than 0" in user.refusals[-1]
    user.key(fields["width"], Qt.Key.Key_Escape)
    user.fill(fields["bench_width"], "0.4")
    assert user.project.trench_types[key].sizes[0].bench_width == 0.4
    assert any(m.role == "trench-outline" for m in page.sketch.marks())
    for _ in range(3):
        user.do("undo")
    assert total(user) == approx(dug)
