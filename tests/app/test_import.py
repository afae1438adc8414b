from threading import Event

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt, QTimer, QUrl
from PySide6.QtGui import QDropEvent
from pytest import approx

from zumbert.analysis.runline import RunKey
from zumbert.app.importdialog import ImportDialog
from zumbert.demo.make import FILES
from zumbert.model.project import new_project
from zumbert.store import save

ALL = [
    FILES / n
    for n in ("quillerby.xml", "structures.csv", "pipes.csv", "standard.toml", "trench.toml")
]


@pytest.fixture
def empty(user):
    user.session.open(new_project("New"), None)
    return user


def dialog_of(user):
    user.settle()
    return [d for d in user.window.findChildren(ImportDialog) if d.isVisible()][-1]


def test_a_summary_opens_before_anything_is_taken(empty):
    user = empty
    assert user.window.exchange.import_paths(ALL)
    dialog = dialog_of(user)
    assert "2 roads, 2 surfaces" in dialog.says.text()
    assert "38 structures, 36 pipes" in dialog.says.text()
    assert "x 1335 to 1815" in dialog.extents.text()
    assert {n: b.currentData() for n, b in dialog.roles.items()} == {
        "Existing ground": "existing",
        "Road design": "design",
    }
    assert user.project.pipes == {}
    assert len(user.shown.pipes) == 36  # shown in the drawings while one looks
    dialog.accept()
    user.settle()
    assert len(user.project.pipes) == 36
    assert user.session.history.undo_names == ["Import files"]
    assert user.session.state.look.run.name == "S13 to HW1"
    user.do("undo")
    assert user.project.roads == {}


def test_roles_are_chosen_and_leaving_it_changes_nothing(empty):
    user = empty
    user.window.exchange.import_paths(ALL[:1])
    dialog = dialog_of(user)
    box = dialog.roles["Road design"]
    box.setCurrentIndex(box.findData("none"))
    box.activated.emit(box.currentIndex())
    assert [s.role for s in user.shown.surfaces.values()] == ["existing", "none"]
    before = user.project
    dialog.reject()
    assert user.project is before
    assert user.shown is before


def test_a_file_dropped_on_the_window_does_the_same(empty, tmp_path):
    import ezdxf

    user = empty
    doc = ezdxf.new()
    doc.modelspace().add_line((1_400_000, 900_000), (1_500_000, 900_000))
    doc.saveas(tmp_path / "fence.dxf")
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(tmp_path / "fence.dxf"))])
    event = QDropEvent(
        QPointF(10, 10),
        Qt.DropAction.CopyAction,
        data,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    user.window.dropEvent(event)
    dialog = dialog_of(user)
    box = next(iter(dialog.units.values()))
    assert box.currentData() in ("m", "mm")
    box.setCurrentIndex(box.findData("mm"))
    box.activated.emit(box.currentIndex())
    dialog.accept()
    [b] = user.project.backgrounds.values()
    assert b.segments[0].tolist() == approx([1400.0, 900.0, 1500.0, 900.0])


def test_a_bad_file_is_told_and_the_project_stays(user, tmp_path):
    before = user.project
    (tmp_path / "bad.xml").write_text("<LandXML><Units>")
    assert not user.window.exchange.import_paths([tmp_path / "bad.xml"])
    assert "no sound XML" in user.window.foot.hint.text()
    (tmp_path / "what.doc").write_text("x")
    assert not user.window.exchange.import_paths([tmp_path / "what.doc"])
    (tmp_path / "p.csv").write_text(
        "label,from,to,size,invert_up,invert_down\nP1,S1,Nowhere,300,1,0\n"
    )
    assert user.window.exchange.import_paths([tmp_path / "p.csv"])
    dialog = dialog_of(user)
    assert (
        "row 2: there is already a pipe" in dialog.says.text()
        or "which is no structure here" in dialog.says.text()
    )
    assert not dialog.take.isEnabled()
    dialog.accept()
    assert user.project is before


def test_a_list_of_others_is_taken_for_what_it_is_with_its_columns_picked(empty, tmp_path):
    user = empty
    path = tmp_path / "chambers.csv"
    path.write_text(
        "Manhole,Easting,Northing,Cover Level,Old "
        "Level\nM1,10,20,50.5,49\nM1,11,21,50.4,48\nM2,40,20,50.1,47\n"
    )
    assert user.window.exchange.import_paths([path])
    dialog = dialog_of(user)
    assert [b.currentData() for b in dialog.tables[path]] == ["label", "x", "y", "rim", "-"]
    assert 'already a structure "M1"' in dialog.says.text() and not dialog.take.isEnabled()
    dialog.bad.click()  # it came up with the bad row
    assert dialog.take.isEnabled() and "Left out: " in dialog.says.text()
    assert sorted(s.label for s in user.shown.structures.values()) == ["M1", "M2"]
    box = dialog.tables[path][4]
    dialog.tables[path][3].setCurrentIndex(dialog.tables[path][3].findData("-"))
    box.setCurrentIndex(box.findData("rim"))
    box.activated.emit(box.currentIndex())
    assert {s.label: s.rim.level for s in user.shown.structures.values()} == {
        "M1": 49.0,
        "M2": 47.0,
    }
    kind = dialog.kinds[path]
    kind.setCurrentIndex(kind.findData("services"))
    kind.activated.emit(kind.currentIndex())
    assert dialog.tables[path][0].currentData() == "label"
    unit = dialog.units[path]
    unit.setCurrentIndex(unit.findData("ft"))
    unit.activated.emit(unit.currentIndex())
    dialog.reject()
    assert user.shown is user.project


def test_a_road_that_comes_again_replaces_or_stands_beside_and_a_standard_asks_for_its_networks(
    user, tmp_path
):
    text = (FILES / "quillerby.xml").read_text()
    path = tmp_path / "revision.xml"
    path.write_text(text[: text.index("<Surfaces")] + "</LandXML>")
    assert user.window.exchange.import_paths([path, FILES / "standard.toml"])
    dialog = dialog_of(user)
    before = user.project
    assert len(user.shown.roads) == 2 and len(user.shown.standards) == len(before.standards) + 1
    # the project is at work: nothing takes it unasked
    assert not any(box.isChecked() for box in dialog.taken_by.values())
    assert {n.standard for n in user.shown.networks.values()} == {
        n.standard for n in before.networks.values()
    }
    next(iter(dialog.taken_by.values())).click()
    assert "taken by Storm." in dialog.says.text()
    how = dialog.same["Quillerby Rise"]
    how.setCurrentIndex(how.findData("replace"))
    how.activated.emit(how.currentIndex())
    assert 'The road "Quillerby Rise" is replaced' in dialog.says.text()
    assert len(user.shown.roads) == 2
    how.setCurrentIndex(how.findData("beside"))
    how.activated.emit(how.currentIndex())
    assert (
        dialog.names["Quillerby Rise"].isVisible()
        and dialog.names["Quillerby Rise"].text() == "Quillerby Rise 2"
    )
    assert sorted(r.name for r in user.shown.roads.values())[1] == "Quillerby Rise 2"
    assert (
        'The road "Quillerby Rise": 420.00 m, 0+000.00 to 0+420.00, 5 elements'
        in dialog.says.text()
    )
    dialog.accept()
    assert len(user.project.roads) == 3


def test_a_choice_over_many_points_is_answered_from_what_was_made_before(
    empty, tmp_path, monkeypatch
):
    user = empty
    rng = np.random.default_rng(3)
    xyz = np.column_stack([rng.uniform(0, 400, (8000, 2)), rng.uniform(40, 41, 8000)])
    np.savetxt(tmp_path / "survey.xyz", xyz, fmt="%.3f")
    assert user.window.exchange.import_paths([tmp_path / "survey.xyz"])
    dialog = dialog_of(user)
    made = []
    monkeypatch.setattr(
        "zumbert.exchange.taking.surfaces.triangulated", lambda *a, **k: made.append(a)
    )
    box = dialog.roles["survey"]
    for role in ("none", "existing", "rock"):
        box.setCurrentIndex(box.findData(role))
        box.activated.emit(box.currentIndex())
        assert [s.role for s in user.shown.surfaces.values()] == [role]
    assert made == []  # no choice made the surface again
    dialog.reject()


def test_a_large_project_is_opened_with_progress_and_can_be_given_up(user, tmp_path, monkeypatch):
    save(user.project, tmp_path / "large.zumbert")
    monkeypatch.setattr("zumbert.app.files.LARGE", 10)
    assert (
        user.window.files.open_file(tmp_path / "large.zumbert")
        and user.session.state.file.path.name == "large.zumbert"
    )
    before = user.project

    def slow(path, tell):
        user.window.work.give_up()
        tell(0.5, "half")

    monkeypatch.setattr("zumbert.app.files._loaded", slow)
    assert not user.window.files.open_file(tmp_path / "large.zumbert")
    assert user.project is before and "cancelled" in user.window.foot.hint.text()


def test_a_long_choice_shows_how_far_it_is_and_can_be_stopped(empty, monkeypatch):
    from zumbert.app import importdialog, work

    user, real, going = empty, importdialog.built, Event()
    user.window.exchange.import_paths(ALL[:1])
    dialog = dialog_of(user)
    monkeypatch.setattr(work, "LATE", 0)

    def slow(*given):  # runs until it is stopped, as any step of it may be
        while not going.wait(0.01):
            given[3](0.5, "The surface")
        return real(*given)

    monkeypatch.setattr(importdialog, "built", slow)
    box = dialog.roles["Road design"]
    seen = []

    def stop():
        seen.append(
            (dialog.waiting.isVisible(), dialog.take.isEnabled(), dialog.waiting.words.text())
        )
        dialog.waiting.give_up.click()

    QTimer.singleShot(150, stop)
    box.setCurrentIndex(box.findData("none"))
    box.activated.emit(box.currentIndex())
    assert seen == [(True, False, "The surface")]
    assert dialog.says.text() == "Stopped. Choose again to continue."
    assert not dialog.take.isEnabled()
    assert not dialog.waiting.isVisible()

    def choose_again():  # while the first is under way: that one ends, this one is built
        box.setCurrentIndex(box.findData("design"))
        box.activated.emit(box.currentIndex())
        going.set()

    QTimer.singleShot(100, choose_again)
    box.setCurrentIndex(box.findData("leave"))
    box.activated.emit(box.currentIndex())
    assert [s.role for s in user.shown.surfaces.values()] == ["existing", "design"]
    assert dialog.take.isEnabled()

    going.clear()
    QTimer.singleShot(100, dialog.reject)  # left while it works: nothing is shown or done
    box.setCurrentIndex(box.findData("none"))
    box.activated.emit(box.currentIndex())
    assert not dialog.isVisible()
    assert user.shown.surfaces == user.project.surfaces == {}


def test_structures_alone_are_shown_before_they_are_taken_into_a_new_project(empty, tmp_path):
    user = empty
    path = tmp_path / "s.csv"
    path.write_text(
        "label,type,alignment,chainage,offset,rim\nA,manhole-1200,Quillerby "
        "Rise,40,0,60\nB,manhole-1200,Quillerby Rise,90,0,60\n"
    )
    assert user.window.exchange.import_paths([FILES / "quillerby.xml"])
    dialog_of(user).accept()
    user.settle()
    user.session.show_run(RunKey("road", next(iter(user.project.roads))))
    user.settle()
    assert user.window.exchange.import_paths([path])
    dialog = dialog_of(user)
    assert len(user.shown.structures) == 2 and not user.project.structures
    assert {t.kind for t in user.section.targets} >= {"structure"}
    dialog.reject()
    user.settle()
    assert not user.shown.structures
