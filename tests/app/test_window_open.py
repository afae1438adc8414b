"""Projects in the window: saved, opened, broken, empty, very long."""

from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMessageBox
from pytest import approx

from zumbert.store import load, save


def test_save_open_and_the_question_about_unsaved_work(user, tmp_path, monkeypatch):
    path = tmp_path / "my job.zumbert"
    assert user.window.files.save_to(path)
    assert user.session.state.file.saved
    pipe = user.look_at("S5", "S4")
    user.type(user.section, "40.5")
    user.key(user.section.entry.field, Qt.Key.Key_Return)
    assert not user.session.state.file.saved
    assert user.window.isWindowModified()
    answers = []

    def answer(role):
        def run(box):
            answers.append(box.text())
            next(b for b in box.buttons() if box.buttonRole(b) == role).click()
            return 0

        monkeypatch.setattr(QMessageBox, "exec", run)

    answer(QMessageBox.ButtonRole.RejectRole)
    assert not user.window.files.may_leave()
    assert "has changes that are not saved" in answers[0]
    answer(QMessageBox.ButtonRole.DestructiveRole)
    assert user.window.files.may_leave()
    assert load(path).pipes[pipe.id].invert_down == pipe.invert_down
    answer(QMessageBox.ButtonRole.AcceptRole)
    assert user.window.files.may_leave()
    assert load(path).pipes[pipe.id].invert_down == 40.5
    user.do("undo")
    assert not user.session.state.file.saved
    user.do("redo")
    assert user.session.state.file.saved  # the value on disk again
    assert user.window.files.open_file(path)
    assert user.session.history.undo_name is None
    assert user.project.pipes[pipe.id].invert_down == 40.5


def test_a_broken_file_is_told_and_the_project_stays(user, tmp_path, monkeypatch):
    (tmp_path / "bad.zumbert").write_text("nonsense")
    before = user.project
    assert not user.window.files.open_file(tmp_path / "bad.zumbert")
    assert "is not a project of Zumbert" in user.refusals[-1]
    assert user.project is before
    asked = []
    monkeypatch.setattr(
        "zumbert.app.files.ask",
        lambda parent, name, title, text, choices, **k: asked.append(text) or 1,
    )
    assert not user.window.files.save_to(Path("/nowhere/at/all.zumbert"))
    assert user.project is before and "could not be written" in asked[0]


def test_an_empty_project_opens_and_says_how_to_begin(qtbot, errors):
    from zumbert.app.window import Window
    from zumbert.model.project import new_project

    window = Window(new_project("New"))
    qtbot.addWidget(window)
    window.show()
    for stage in ("layout", "levels", "checks", "trench"):
        window.go_stage(stage)
        window.grab()
    window.toolbox.take("lay")
    window.grab()
    assert window.session.state.look.run is None
    assert window.head.state.parts()[0] == ("Nothing to check yet", "ink-2")


def test_a_very_long_run_and_a_label_with_quotes(qtbot, errors, tmp_path):
    from tests.build import chain
    from zumbert.app.window import Window

    project = chain([(49.0 - i * 0.05, 48.97 - i * 0.05) for i in range(300)])
    name = 'S"1" <b>&'
    project = replace(
        project,
        structures={**project.structures, "S1": replace(project.structures["S1"], label=name)},
    )
    save(project, tmp_path / 'a "b".zumbert')
    window = Window(load(tmp_path / 'a "b".zumbert'), tmp_path / 'a "b".zumbert')
    qtbot.addWidget(window)
    window.show()
    window.session.select(structures=frozenset({"S1"}))
    window.grab()
    assert name in window.side.panel.title.text()
    assert window.session.state.look.run.length == approx(15_000)
    assert len(window.section.cells) > 20
