import time
from types import SimpleNamespace

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QPushButton
from pytest import approx

from zumbert.app.autosave import WAIT
from zumbert.app.files import Files
from zumbert.edits.levels import set_invert
from zumbert.store import FileLock, load, save
from zumbert.store.recovery import Recovery, left_behind


def lower(user, level="40.5"):
    user.look_at("S5", "S4")
    user.type(user.section, level)
    user.key(user.section.entry.field, Qt.Key.Key_Return)


def wait_for(user, true, seconds=10.0):
    begun = time.monotonic()
    while not true() and time.monotonic() - begun < seconds:
        user.bot.wait(50)
    return true()


def kept_file(user):
    recovery = user.window.autosave.recovery
    return recovery is not None and recovery.file.with_suffix(".json").exists()


def test_an_edit_is_kept_within_two_seconds_and_offered_after_a_crash(user):
    lower(user)
    assert WAIT <= 1000  # ms until the writing begins: the second second is for it
    assert wait_for(user, lambda: kept_file(user), 10.0)
    assert left_behind() == []  # this window is alive
    recovery = user.window.autosave.recovery
    recovery._lock.release()  # as the system does when a process is killed
    user.window.autosave.recovery = None
    user.session.open(user.session.state.current.project, None)
    user.window.files.show_welcome()
    take = next(
        b for b in user.window.files.welcome.findChildren(QPushButton) if b.text() == "Recover"
    )
    user.window.session.set(saved=True)  # what this window has is nothing to lose
    take.click()
    assert user.pipe("S5", "S4").invert_down == approx(40.5)
    assert not user.session.state.file.saved
    assert user.window.pages.currentIndex() == 0
    assert left_behind() == []


def test_saving_and_undoing_leave_nothing_to_recover(user, tmp_path):
    lower(user)
    assert wait_for(user, lambda: kept_file(user))
    assert user.window.files.save_to(tmp_path / "a.zumbert")
    assert wait_for(user, lambda: not kept_file(user))
    lower(user, "40.4")
    user.do("undo")
    assert user.session.state.file.saved
    user.bot.wait(1300)
    assert not kept_file(user)


def test_a_file_open_elsewhere_is_told_and_only_looked_at(user, tmp_path):
    path = tmp_path / "shared.zumbert"
    save(user.project, path)
    other = FileLock(path)
    assert other.take() is None
    assert user.window.files.open_file(path)
    assert "Open elsewhere by" in user.window.foot.hint.text()
    pipe = user.pipe("S5", "S4")
    lower(user)
    assert user.pipe("S5", "S4") == pipe
    assert "to look only" in user.refusals[-1]
    assert not user.window.files.save_to(path)
    looks = user.window.head.looks
    assert looks.isVisible() and looks.text() == "Look only"
    other.release()
    # older here than there: it never goes over the file that is looked at
    assert not user.window.files.save_to(path)
    user.window.files.look_whether_free()
    assert looks.text() == "Reload" and looks.isEnabled()
    assert other.take() is None
    user.window.files.look_whether_free()
    assert not looks.isEnabled()
    assert user.window.files.save_to(tmp_path / "mine.zumbert")
    assert looks.isHidden()
    lower(user)
    assert user.pipe("S5", "S4").invert_down == approx(40.5)
    other.release()
    assert user.window.files.save()
    # its own file again: its own lock
    assert user.window.files.open_file(tmp_path / "mine.zumbert")
    assert not user.session.state.file.look_only


def test_the_welcome_page_lists_recent_projects_and_begins_new_ones(user, tmp_path):
    user.window.files.save_to(tmp_path / "school road.zumbert")
    user.window.files.show_welcome()
    user.settle()
    texts = [b.text() for b in user.window.files.welcome.findChildren(QPushButton)]
    entry = next(
        b
        for b in user.window.files.welcome.findChildren(QPushButton)
        if b.text().startswith("school road")
    )
    assert "today" in entry.text()
    assert not entry.icon().isNull()
    assert {"New project", "Open …", "Open the demo"} <= set(texts)
    entry.click()
    assert user.session.state.file.path == tmp_path / "school road.zumbert"
    assert user.window.pages.currentIndex() == 0
    user.do("welcome")
    user.window.files.welcome.findChild(QPushButton, "welcome new").click()
    user.settle()
    user.window.findChild(QDialog, "project").accept()
    assert user.project.structures == {}
    (tmp_path / "school road.zumbert").unlink()
    user.window.files.show_welcome()
    assert not any(
        b.text().startswith("school road")
        for b in user.window.files.welcome.findChildren(QPushButton)
        if b.isVisible()
    )


def test_closing_lets_go_of_the_file(user, tmp_path):
    path = tmp_path / "a.zumbert"
    user.window.files.save_to(path)
    assert FileLock(path).take() is not None
    user.window.close()
    free = FileLock(path)
    assert free.take() is None
    free.release()
    assert load(path).name == "Quillerby School access"


@pytest.fixture
def answers(monkeypatch):
    """Questions are answered by these numbers in turn; what was asked is kept."""
    given, asked = [], []

    def ask(parent, name, title, text, choices, drops=None):
        asked.append(name)
        return given.pop(0)

    monkeypatch.setattr("zumbert.app.files.ask", ask)
    given_and_asked = SimpleNamespace(given=given, asked=asked)
    yield given_and_asked
    assert not given


def test_a_file_is_read_anew_once_the_other_has_closed(user, tmp_path):
    path = tmp_path / "shared.zumbert"
    save(user.project, path)
    other = FileLock(path)
    assert other.take() is None
    assert user.window.files.open_file(path)
    pipe = user.pipe("S5", "S4").id
    save(set_invert(user.project, pipe, "down", 40.9), path)  # the other saves, and closes
    other.release()
    user.window.files.look_whether_free()
    user.window.head.looks.click()
    assert user.project.pipes[pipe].invert_down == 40.9
    assert not user.session.state.file.look_only
    assert FileLock(path).take() is not None


def test_unsaved_work_is_asked_about_on_every_way_out(user, tmp_path, answers):
    path = tmp_path / "a.zumbert"
    save(user.project, path)
    lower(user)
    now = user.project
    user.window.files.may_leave = Files.may_leave.__get__(user.window.files)
    for leave in (
        lambda: user.window.files.open_file(path),
        user.window.files.open_demo,
        user.window.files.new_project,
        lambda: user.window.files.recover(None),
        user.window.close,
    ):
        answers.given.append(2)  # Cancel
        leave()
        assert user.project is now
    assert answers.asked == ["unsaved"] * 5
    answers.given.append(1)  # Don't save
    assert user.window.files.open_file(path)


def left(path, project):
    """Work of a window that was killed."""
    r = Recovery()
    r.keep(project, path)
    r._lock.release()


def test_recovery_is_offered_when_its_file_is_opened_and_asked_about_before_it_is_dropped(
    user, tmp_path, answers, monkeypatch
):
    path = tmp_path / "a.zumbert"
    save(user.project, path)
    pipe = user.pipe("S5", "S4").id
    monkeypatch.chdir(tmp_path)
    # opened by a path that begins here
    left("a.zumbert", set_invert(user.project, pipe, "down", 40.7))
    monkeypatch.chdir("/")
    answers.given += [2, 1]
    assert not user.window.files.open_file(path)
    assert user.window.files.open_file(path)  # the saved file: what was kept stays
    assert user.project.pipes[pipe].invert_down != 40.7
    assert len(left_behind()) == 1
    answers.given += [1, 0]
    user.window.files.show_welcome()
    drop = next(
        b for b in user.window.files.welcome.findChildren(QPushButton) if b.text() == "Delete …"
    )
    drop.click()
    assert len(left_behind()) == 1
    assert user.window.files.open_file(path)
    assert user.project.pipes[pipe].invert_down == 40.7
    assert user.session.state.file.path == path
    assert not user.session.state.file.saved
    assert left_behind() == []
    left(path, user.project)
    answers.given.append(0)
    user.window.files.show_welcome()
    next(
        b for b in user.window.files.welcome.findChildren(QPushButton) if b.text() == "Delete …"
    ).click()
    assert left_behind() == []
    assert answers.asked == ["recover", "recover", "drop", "recover", "drop"]


def test_a_file_that_was_changed_on_disk_is_not_saved_over_unasked(user, tmp_path, answers):
    path = tmp_path / "a.zumbert"
    assert user.window.files.save_to(path)
    lower(user)
    assert user.window.files.save_to(path)
    theirs = set_invert(user.project, user.pipe("S5", "S4").id, "down", 40.9)
    save(theirs, path)
    lower(user, "40.4")
    answers.given += [2, 1]
    assert not user.window.files.save_to(path)
    assert load(path).pipes == theirs.pipes
    assert user.window.files.save_to(path)
    assert load(path).pipes == user.project.pipes
    assert user.window.files.save_to(path)
    assert answers.asked == ["changed"] * 2


def test_a_save_that_fails_asks_for_another_place_and_autosave_tells_that_it_fails(
    user, tmp_path, monkeypatch
):
    asked = []
    monkeypatch.setattr(
        "zumbert.app.files.ask", lambda parent, name, *a, **k: asked.append(name) or 1
    )
    assert not user.window.files.save_to(tmp_path / "no folder" / "p.zumbert")
    assert asked == ["not saved"]
    monkeypatch.setattr("zumbert.app.files.ask", lambda *a, **k: 0)
    monkeypatch.setattr(user.window.files, "save_as", lambda: asked.append("elsewhere") or True)
    assert (
        user.window.files.save_to(tmp_path / "no folder" / "p.zumbert") and asked[-1] == "elsewhere"
    )
    monkeypatch.setattr(user.window.session, "sure", lambda q: True)
    user.session.edit("Rename", lambda p, f: replace(p, name="stray \udcff byte"))
    user.bot.waitUntil(lambda: any("cannot be kept against a crash" in r for r in user.refusals))
    assert user.window.autosave.recovery is not None
