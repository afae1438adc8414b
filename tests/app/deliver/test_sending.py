"""Paper, issues and files that are sent."""

import pytest
from pypdf import PdfReader
from PySide6.QtCore import Qt
from pytest import approx

from tests.app.deliver.hands import button, panel, to_page, view, words
from zumbert.app.stages.deliver import delivering as sending
from zumbert.app.window import Window
from zumbert.delivery.landxml import landxml
from zumbert.edits.sheets import set_delivery
from zumbert.store import load, save


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
    window.centre.of("deliver").usual.click()
    assert told == ["There is nothing to draw yet: lay a run or make a road first."]
    window.centre.of("deliver").add_kind("plan-and-section")
    assert window.centre.of("deliver").sheet.page is None
    assert "nothing on this sheet" in window.centre.of("deliver").sheet.words
    window.centre.of("deliver").add_kind("plan")
    assert window.centre.of("deliver").sheet.page is not None
