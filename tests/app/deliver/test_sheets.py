"""Sheets are shown, turned over and edited."""

import numpy as np
from msgspec.structs import replace
from pypdf import PdfReader
from PySide6.QtCore import QPointF, Qt
from pytest import approx

from tests.app.deliver.hands import button, panel, pixel, to_page, view, words
from tests.delivery.places import window_on
from zumbert.app.stages.deliver import delivering as sending
from zumbert.drawing.sight import StraightSight


def test_from_the_finished_demo_to_a_pdf_in_three_clicks(user, tmp_path, monkeypatch):
    path = tmp_path / "drawings.pdf"
    monkeypatch.setattr(sending, "file_to_write", lambda *a: path)  # the third click: Save
    user.window.rail.buttons["deliver"].click()
    user.settle()
    panel(user).pdf.click()
    user.settle()
    assert len(PdfReader(path).pages) == view(user).list.count()
    assert f"Written: {path}." in user.window.foot.hint.text()


def test_the_usual_sheets_are_made_by_one_click_and_undone(user):
    user.session.edit("none", lambda p, f: replace(p, sheets={}))
    user.window.rail.buttons["deliver"].click()
    user.settle()
    assert view(user).sheet.page is None and "No sheets yet" in view(user).sheet.words
    button(user, "usual sheets").click()
    user.settle()
    assert {s.kind for s in user.project.sheets.values()} == {
        "plan",
        "plan-and-section",
        "sections",
        "chambers",
        "tables",
    }
    assert view(user).sheet.page is not None and not view(user).usual.isVisible()
    user.do("undo")
    assert not user.project.sheets and view(user).sheet.page is None


def test_the_sheets_stand_in_the_place_of_the_drawings_and_go_again(deliver):
    user = deliver
    assert view(user).isVisible() and not user.plan.isVisible() and not user.section.isVisible()
    assert view(user).sheet.hasFocus()
    user.do("whole")
    user.do("fit")
    assert view(user).isVisible()
    user.window.rail.buttons["levels"].click()
    user.settle()
    assert user.plan.isVisible() and user.section.isVisible() and not view(user).isVisible()
    user.window.rail.buttons["deliver"].click()
    user.settle()
    assert view(user).isVisible()


def test_pages_are_turned_over_by_keys_and_in_the_list(deliver):
    user = deliver
    many = view(user).list.count()
    assert view(user).list.item(0).text() == "Q-01  General plan"
    user.do("next-sheet")
    assert user.session.state.look.leaf == 2 and view(user).sheet.page.number == "Q-02"
    user.do("previous-sheet")
    user.do("previous-sheet")
    assert user.session.state.look.leaf == 1
    view(user).list.setCurrentRow(many - 1)
    user.settle()
    assert view(user).sheet.page.number == f"Q-{many:02}"
    user.do("next-sheet")
    assert user.session.state.look.leaf == many


def test_a_title_is_edited_and_undone(deliver):
    user = deliver
    user.fill(panel(user).pages[0].values["title"], 'Plan of "all"')
    assert next(iter(user.project.sheets.values())).title == 'Plan of "all"'
    assert 'Plan of "all"' in words(user) and view(user).list.item(0).text().endswith(
        'Plan of "all"'
    )
    user.do("undo")
    assert (
        "General plan" in words(user)
        and panel(user).pages[0].values["title"].text() == "General plan"
    )


def test_a_level_dragged_in_another_stage_shows_on_the_sheet(user):
    user.look_at("S4", "S3")
    user.window.rail.buttons["deliver"].click()
    to_page(user, "tables")
    before = words(user)
    pipe = user.pipe("S4", "S3")
    user.window.rail.buttons["levels"].click()
    user.settle()
    user.look_at("S4", "S3")
    user.drag_ring("down", -0.123)
    now = user.project.pipes[pipe.id].invert_down
    assert now < pipe.invert_down
    user.window.rail.buttons["deliver"].click()
    user.settle()
    made = view(user)._leaves(user.session.state).leaves
    user.session.set(leaf=next(x.place for x in made if x.title.endswith("Pipes")))
    user.settle()
    assert user.session.units.level(now) in words(user)
    assert user.session.units.level(now) not in before


def test_a_label_is_moved_on_a_sheet_and_back(deliver):
    user = deliver
    leaf = to_page(user, "plan-and-section")
    sheet = view(user).sheet
    s4 = user.structure("S4").id
    target = next(t for t in sheet.page.targets if t.id == s4)
    x, y = pixel(user, *target.xy.mean(axis=0).tolist())
    user.drag(sheet, (x, y), (x + 40, y - 30))
    moved = user.project.sheets[leaf.sheet.id].labels[s4]
    plan, sight = window_on(sheet.page, StraightSight)
    again = next(t for t in sheet.page.targets if t.id == s4)
    assert (again.xy - target.xy) * sheet.zoom == approx(np.array([[40, -30], [40, -30]]), abs=1.0)
    p = user.facts.places[s4]
    [[bx, by]] = sight.to_drawing(np.array([[p.x, p.y]])).tolist()
    [text] = [t for t in plan.marks if getattr(t, "text", "") == "S4"]
    assert (text.x - bx, text.y - by) == approx(moved, abs=0.06)
    assert user.project.structures[s4].label_at is None  # on this sheet alone
    user.do("undo")
    assert user.project.sheets[leaf.sheet.id].labels == {}


def test_esc_and_a_small_stray_leave_a_label_where_it_is(deliver):
    user = deliver
    to_page(user, "plan-and-section")
    sheet = view(user).sheet
    target = sheet.page.targets[0]
    x, y = pixel(user, *target.xy.mean(axis=0).tolist())
    before = user.project
    user.drag(sheet, (x, y), (x + 40, y), release=False)
    user.key(sheet, Qt.Key.Key_Escape)
    user.release(sheet, x + 40, y)
    user.click(sheet, x, y)
    assert user.project is before


def test_a_label_that_comes_under_a_still_pointer_is_pointed_at(deliver):
    user = deliver
    to_page(user, "plan-and-section")
    sheet, key = view(user).sheet, user.structure("S5").id
    sheet.setAttribute(Qt.WidgetAttribute.WA_UnderMouse)
    target = next(t for t in sheet.page.targets if t.id == key and t.kind == "label")
    at = pixel(user, *target.xy.mean(axis=0).tolist())
    user.move(sheet, *at)
    assert sheet._hover.id == key
    user.key(sheet, Qt.Key.Key_PageUp)
    assert sheet._hover is None
    user.key(sheet, Qt.Key.Key_PageDown)
    assert sheet._hover.id == key


def test_the_sheet_is_moved_and_zoomed_and_shown_at_its_size(deliver):
    user = deliver
    sheet = view(user).sheet
    assert sheet.zoom * sheet.page.units[0] <= sheet.width()
    at = (300.0, 300.0)
    place = sheet.place(QPointF(*at))
    user.wheel(sheet, *at, 3)
    assert sheet.place(QPointF(*at)) == approx(place)
    before = QPointF(sheet.origin)
    user.drag(sheet, (20, 20), (60, 45))
    assert (sheet.origin - before).toTuple() == approx((40, 25), abs=1.0)
    button(user, "sheet one").click()
    assert sheet.zoom * sheet.page.units[0] == approx(sheet.page.width * 96 / 25.4)
    user.key(sheet, Qt.Key.Key_Minus)
    user.key(sheet, Qt.Key.Key_Left)
    button(user, "sheet fit").click()
    assert sheet.zoom * sheet.page.units[0] <= sheet.width()

    def tones():
        picture = sheet.grab().toImage()
        return len({picture.pixel(x, y) for x in range(40, 600, 7) for y in range(150, 560, 9)})

    user.bot.waitUntil(lambda: tones() > 20)
