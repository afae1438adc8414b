"""The stage Deliver through the real window: sheets listed, looked at, changed and sent."""

import numpy as np
import pytest
from msgspec.structs import replace
from pypdf import PdfReader
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QPushButton
from pytest import approx

from tests.delivery.places import window_on
from zumbert.app.stages.deliver import delivering as sending
from zumbert.app.window import Window
from zumbert.delivery.landxml import landxml
from zumbert.drawing.marks import texts_in
from zumbert.drawing.sight import StraightSight
from zumbert.edits.sheets import set_delivery
from zumbert.store import load, save


@pytest.fixture
def deliver(user):
    user.in_stage("deliver")
    return user


def view(user):
    return user.window.centre.deliver


def panel(user):
    return user.window.side.panel


def button(user, name):
    return next(w for w in user.window.findChildren(QPushButton, name) if w.isVisible())


def words(user):
    return [t.text for t in texts_in(view(user).sheet.page.marks)]


def to_page(user, kind):
    made = view(user)._leaves(user.session.state).leaves
    leaf = next(x for x in made if x.sheet.kind == kind)
    user.session.set(leaf=leaf.place)
    user.settle()
    return leaf


def pixel(user, x, y):
    """The pixel at which a place of the page is shown."""
    sheet = view(user).sheet
    p = sheet.origin + QPointF(x, y) * sheet.zoom
    return p.x(), p.y()


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


def test_paper_scale_and_what_is_on_a_sheet_are_changed(deliver):
    user = deliver
    leaf = to_page(user, "plan-and-section")
    page = panel(user).pages[0]
    user.fill(page.values["scale"], "500")
    assert user.project.sheets[leaf.sheet.id].scale == 500
    count = view(user).list.count()
    page.combos["paper"].setCurrentIndex(page.combos["paper"].findData("A3"))
    page.combos["paper"].activated.emit(page.combos["paper"].currentIndex())
    user.settle()
    assert user.project.sheets[leaf.sheet.id].paper == "A3" and view(user).list.count() > count
    ticks = page.lists["along"]
    ticks.item(0).setCheckState(Qt.CheckState.Unchecked)
    user.settle()
    assert len(user.project.sheets[leaf.sheet.id].along) == 2
    page.switches["legend"].click()
    user.settle()
    assert not user.project.sheets[leaf.sheet.id].legend
    user.fill(page.values["overlap"], "25")
    assert user.project.sheets[leaf.sheet.id].overlap == 25
    ticks = page.lists["rows"]
    for i in range(ticks.count()):
        if ticks.item(i).text() in ("Rim", "Slope"):
            ticks.item(i).setCheckState(Qt.CheckState.Checked)
    user.settle()
    assert set(user.project.sheets[leaf.sheet.id].rows) == {"Rim", "Slope"}
    assert "Rim" in words(user) and "Invert in" not in words(user)


@pytest.mark.parametrize(
    ("field", "text", "told"),
    [
        ("scale", "0", "no scale for a sheet"),
        ("scale", "abc", "abc"),
        ("overlap", "-3", "overlap"),
        ("title", "Chambers", 'already a sheet "Chambers"'),
        ("title", " ", "needs a title"),
        ("window", "1 2 3", "x, y"),
    ],
)
def test_what_no_sheet_can_have_is_refused_in_a_sentence(deliver, field, text, told):
    user = deliver
    before = user.project
    user.fill(panel(user).pages[0].values[field], text)
    assert user.project is before
    assert told in user.refusals[-1]


def test_sheets_are_added_moved_and_deleted(deliver):
    user = deliver
    view(user).add_kind("chambers")
    user.settle()
    assert list(user.project.sheets.values())[-1].title == "Chambers 2"
    assert view(user).picked.sheet.title == "Chambers 2"
    number = view(user).picked.number
    button(user, "sheet up").click()
    user.settle()
    assert view(user).picked.sheet.title == "Chambers 2" and view(user).picked.number < number
    user.key(view(user).list, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    user.key(view(user).list, Qt.Key.Key_Delete)
    assert "Chambers 2" not in {s.title for s in user.project.sheets.values()}
    user.do("undo")
    assert "Chambers 2" in {s.title for s in user.project.sheets.values()}


def test_del_takes_the_sheet_not_what_is_selected_in_the_drawings(user):
    user.look_at("S4", "S3")
    user.window.rail.buttons["deliver"].click()
    user.settle()
    pipes = dict(user.project.pipes)
    user.do("delete")
    assert user.project.pipes == pipes and "General plan" not in {
        s.title for s in user.project.sheets.values()
    }


@pytest.mark.parametrize("action", ["lay", "tables", "straighten", "probe"])
def test_what_works_in_a_drawing_leaves_the_sheets(deliver, action):
    user = deliver
    user.do(action)
    assert user.session.state.look.stage.id != "deliver" and not view(user).isVisible()
    assert user.plan.isVisible()


def test_what_holds_for_all_sheets_is_changed(deliver):
    user = deliver
    panel(user).show_page(1)
    page = panel(user).pages[1]
    user.fill(page.values["drawn"], "Zed")
    assert "Zed" in words(user)
    user.fill(page.values["numbers"], "P-{n:03}")
    assert view(user).list.item(0).text().startswith("P-001")
    unit = view(user).sheet.page.unit
    user.fill(page.values["small"], "5")
    assert view(user).sheet.page.unit == approx(2 * unit)
    page.capitals.click()
    user.settle()
    assert "GENERAL PLAN" in words(user)
    page.values["layers"].setFocus()
    page.values["layers"].selectAll()
    user.type(page.values["layers"], "D-{role}")
    assert page.example.text() == "such as D-pipe"
    user.key(page.values["layers"], Qt.Key.Key_Return)
    assert user.project.delivery.layers == "D-{role}"
    user.fill(page.values["layers"], "{kind}")
    assert "no pattern of layers" in user.refusals[-1]
    page.printed.setCurrentIndex(page.printed.findData("grey"))
    page.printed.activated.emit(page.printed.currentIndex())
    user.settle()
    assert view(user).sheet.inks.theme == "grey"
    user.fill(page.values["epsg"], "25832")
    assert user.project.delivery.epsg == 25832


def test_one_s_own_frame_is_taken_and_left_again(deliver, tmp_path, monkeypatch):
    from zumbert.app.stages.deliver import allpage

    user = deliver
    panel(user).show_page(1)
    page = panel(user).pages[1]
    frame = tmp_path / "f.svg"
    frame.write_text(
        "<svg xmlns='http://www.w3.org/2000/svg'><rect width='831' height='584'/><text x='9' "
        "y='9'>Of {project}</text></svg>"
    )
    monkeypatch.setattr(allpage, "file_to_read", lambda *a: frame)
    button(user, "own frame").click()
    user.settle()
    assert "Of Quillerby School access" in words(user) and page.frame.text() == "Frame of f.svg."
    frame.write_text("<svg")
    button(user, "own frame").click()
    assert "could not be read as SVG" in user.refusals[-1]
    button(user, "usual frame").click()
    user.settle()
    assert user.project.delivery.frame is None


def test_an_issue_is_kept_and_the_next_change_is_marked(deliver, monkeypatch):
    user = deliver
    monkeypatch.setattr(sending, "ask", lambda *a, **k: 0)
    panel(user).show_page(2)
    button(user, "issue").click()
    user.settle()
    page = panel(user).pages[2]
    assert page.told.text() == "As issued with A" and page.issues.text().startswith("A, 2")
    p5 = next(k for k, p in user.project.pipes.items() if p.label == "P5")
    from zumbert.edits.levels import set_invert

    user.session.edit("lower", lambda p, f: set_invert(p, p5, "up", p.pipes[p5].invert_up - 0.02))
    user.settle()
    assert "differences from A" in page.told.text()
    assert "B" in words(user)  # the triangle of the revision that is being made
    user.do("undo")
    assert page.told.text() == "As issued with A"


@pytest.mark.parametrize("key", [*sending.OUT, "docx own"])
def test_each_kind_of_file_is_sent(deliver, tmp_path, monkeypatch, key):
    user = deliver
    out = sending.OUT[key.split()[0]]
    path = tmp_path / "out" if not out.kinds else tmp_path / f"file{out.name[-5:].lstrip()}"
    monkeypatch.setattr(sending, "file_to_write", lambda *a: path)
    monkeypatch.setattr(sending, "folder_to_write", lambda *a: path)
    from zumbert.delivery.report.template import TEMPLATE

    monkeypatch.setattr(sending, "file_to_read", lambda *a: TEMPLATE)
    panel(user).show_page(3)
    panel(user).pages[3].only.setChecked(True)
    button(user, f"send {key}").click()
    user.settle()
    assert path.exists() and user.refusals == []
    assert "Written:" in user.window.foot.hint.text()
    if path.is_dir():
        assert list(path.iterdir())
    if key == "pdf":
        assert len(PdfReader(path).pages) == 1


def test_a_folder_that_takes_no_files_is_told(deliver, tmp_path, monkeypatch):
    user = deliver
    monkeypatch.setattr(sending, "file_to_write", lambda *a: tmp_path / "no" / "a.pdf")
    panel(user).pdf.click()
    user.settle()
    assert "There is no folder" in user.refusals[-1]


def test_sending_is_given_up_and_leaves_the_file_as_it_was(deliver, tmp_path, monkeypatch):
    user = deliver
    path = tmp_path / "a.pdf"
    path.write_bytes(b"before")
    monkeypatch.setattr(sending, "file_to_write", lambda *a: path)
    run = user.window.work.run

    def stopped(words, work):
        def told(tell):
            def stop(share, text):
                user.window.work.give_up()
                tell(share, text)

            return work(stop)

        return run(words, told)

    monkeypatch.setattr(user.window.work, "run", stopped)
    panel(user).pdf.click()
    user.settle()
    assert path.read_bytes() == b"before" and "cancelled" in user.window.foot.hint.text()
    assert [p.name for p in tmp_path.iterdir()] == ["a.pdf"]


@pytest.mark.parametrize("stage", ["levels", "trench", "deliver"])
def test_any_view_goes_out_as_a_picture(user, tmp_path, monkeypatch, stage):
    from PySide6.QtGui import QImage

    asked = []
    monkeypatch.setattr(
        sending,
        "file_to_write",
        lambda w, title, folder, name, kinds: asked.append(name) or tmp_path / "a.png",
    )
    user.window.rail.buttons[stage].click()
    user.settle()
    if stage == "trench":
        user.window.centre.drawing = user.plan
    user.do("picture")
    image = QImage(str(tmp_path / "a.png"))
    if stage == "deliver":
        assert (image.width(), image.height()) == approx(
            (841 / 25.4 * 150, 594 / 25.4 * 150), abs=1
        )
    else:
        shown = user.section if stage == "levels" else user.window.centre.upper_view
        assert (image.width(), image.height()) == (2 * shown.width(), 2 * shown.height())
    assert (
        len(
            {
                image.pixel(x, y)
                for x in range(0, image.width(), 11)
                for y in range(0, image.height(), 13)
            }
        )
        > 20
    )
    assert asked[0].endswith(".png") and [p.name for p in tmp_path.iterdir()] == ["a.png"]


def test_a_picture_that_cannot_be_written_is_told(user, tmp_path):
    assert not user.window.acts("deliver").write_picture(user.section, tmp_path / "no" / "a.png")
    assert "could not be written" in user.refusals[-1]


def test_sheets_are_saved_with_the_project(deliver, tmp_path):
    user = deliver
    user.session.edit("way", lambda p, f: set_delivery(p, drawn='"Q" & Co', capitals=True))
    save(user.project, tmp_path / "a.zumbert")
    back = load(tmp_path / "a.zumbert")
    assert (back.sheets, back.delivery) == (user.project.sheets, user.project.delivery)


def test_pipe_networks_of_a_file_are_offered(qtbot, errors, tmp_path, user):
    from zumbert.app.importdialog import ImportDialog
    from zumbert.delivery.job import Job
    from zumbert.exchange.found import read_files, sorted_out
    from zumbert.model.project import new_project

    path = tmp_path / "n.xml"
    path.write_text(landxml(Job(user.project)).text, encoding="utf-8")
    window = Window(new_project("empty"))
    qtbot.addWidget(window, before_close_func=lambda w: setattr(w.files, "may_leave", lambda: True))
    dialog = ImportDialog(window, window.session, window.pen, read_files(sorted_out([path])))
    qtbot.addWidget(dialog)
    assert dialog.pipe_networks.text() == "Pipe networks: Storm, Storm existing"
    dialog.pipe_networks.click()
    assert (
        "pipe network" not in dialog.says.text()
        and not window.session.state.shown.project.structures
    )
    dialog.pipe_networks.click()
    dialog.accept()
    assert len(window.session.state.current.project.structures) == len(user.project.structures)


def test_an_empty_project_has_a_stage_that_says_what_to_do(qtbot, errors):
    from zumbert.model.project import new_project

    window = Window(new_project("empty"))
    qtbot.addWidget(window, before_close_func=lambda w: setattr(w.files, "may_leave", lambda: True))
    window.show()
    told = []
    window.session.refused.connect(told.append)
    window.go_stage("deliver")
    window.centre.deliver.usual.click()
    assert told == ["There is nothing to draw yet: lay a run or make a road first."]
    window.centre.deliver.add_kind("plan-and-section")
    assert window.centre.deliver.sheet.page is None
    assert "nothing on this sheet" in window.centre.deliver.sheet.words
    window.centre.deliver.add_kind("plan")
    assert window.centre.deliver.sheet.page is not None
