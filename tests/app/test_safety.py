import time

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QPushButton
from pytest import approx

from zumbert.app.autosave import WAIT
from zumbert.store import FileLock, load, save
from zumbert.store.recovery import left_behind


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
    user.session.open(user.session.state.kept.project, None)
    user.window.show_welcome()
    take = next(b for b in user.window.welcome.findChildren(QPushButton) if b.text() == "Take it up again")
    take.click()
    assert user.pipe("S5", "S4").invert_down == approx(40.5)
    assert not user.session.state.saved
    assert user.window.pages.currentIndex() == 0
    assert left_behind() == []


def test_saving_and_undoing_leave_nothing_to_recover(user, tmp_path):
    lower(user)
    assert wait_for(user, lambda: kept_file(user))
    assert user.window.save_to(tmp_path / "a.zumbert")
    assert wait_for(user, lambda: not kept_file(user))
    lower(user, "40.4")
    user.do("undo")
    assert user.session.state.saved
    user.bot.wait(1300)
    assert not kept_file(user)


def test_a_file_open_elsewhere_is_told_and_only_looked_at(user, tmp_path):
    path = tmp_path / "shared.zumbert"
    save(user.project, path)
    other = FileLock(path)
    assert other.take() is None
    assert user.window.open_file(path)
    assert "Open elsewhere by" in user.window.foot.hint.text()
    pipe = user.pipe("S5", "S4")
    lower(user)
    assert user.pipe("S5", "S4") == pipe
    assert "to look only" in user.refusals[-1]
    assert not user.window.save_to(path)
    assert user.window.save_to(tmp_path / "mine.zumbert")
    lower(user)
    assert user.pipe("S5", "S4").invert_down == approx(40.5)
    other.release()
    assert user.window.open_file(tmp_path / "mine.zumbert")  # its own file again: its own lock
    assert not user.session.state.look_only


def test_the_welcome_page_lists_recent_projects_and_begins_new_ones(user, tmp_path):
    user.window.save_to(tmp_path / "school road.zumbert")
    user.window.show_welcome()
    user.settle()
    texts = [b.text() for b in user.window.welcome.findChildren(QPushButton)]
    entry = next(b for b in user.window.welcome.findChildren(QPushButton) if b.text().startswith("school road"))
    assert "today" in entry.text()
    assert not entry.icon().isNull()
    assert {"New project", "Open …", "Open the demo"} <= set(texts)
    entry.click()
    assert user.session.state.path == tmp_path / "school road.zumbert"
    assert user.window.pages.currentIndex() == 0
    user.do("welcome")
    user.window.welcome.findChild(QPushButton, "welcome new").click()
    user.settle()
    user.window.findChild(QDialog, "project").accept()
    assert user.project.structures == {}
    (tmp_path / "school road.zumbert").unlink()
    user.window.show_welcome()
    assert not any(
        b.text().startswith("school road") for b in user.window.welcome.findChildren(QPushButton) if b.isVisible()
    )


def test_closing_lets_go_of_the_file(user, tmp_path):
    path = tmp_path / "a.zumbert"
    user.window.save_to(path)
    assert FileLock(path).take() is not None
    user.window.close()
    free = FileLock(path)
    assert free.take() is None
    free.release()
    assert load(path).name == "Quillerby School access"
