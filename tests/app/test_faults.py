"""Faults of the program in the window: logged, reported in a sentence, and nothing of the work
is lost.
"""

import sys
import threading

import pytest
from PySide6.QtCore import QTimer
from PySide6.QtGui import QGuiApplication

from zumbert.app import netwatch
from zumbert.app.faults import LOGGED, WHOLE, FaultDialog, Faults, sentence
from zumbert.app.logdialog import LogDialog
from zumbert.edits.levels import set_invert
from zumbert.log import log_text
from zumbert.store import load
from zumbert.store.recovery import folder


@pytest.fixture
def faults(user, monkeypatch):
    """The window with its faults caught, as users start it."""
    monkeypatch.setattr(sys, "excepthook", lambda *e: None)
    monkeypatch.setattr(threading, "excepthook", lambda *e: None)
    made = Faults(user.window)
    made.begin()
    yield made
    made.end()
    user.window.autosave.end()


def failing(*_):
    raise KeyError("put here by a test")


def dialog(user):
    """The sentence about the last fault, once it shows."""
    user.bot.waitUntil(lambda: any(d.isVisible() for d in user.window.findChildren(FaultDialog)))
    return next(d for d in user.window.findChildren(FaultDialog) if d.isVisible())


def raised(user, level):
    """A pipe whose upper invert was set, as one step."""
    pipe = user.pipe("S5", "S4")
    user.session.edit("Set the invert", lambda p, f: set_invert(p, pipe.id, "up", level))
    return pipe.id


def test_a_fault_in_a_slot_is_told_logged_and_copied(user, faults, monkeypatch):
    monkeypatch.setattr(user.window.centre, "fit", failing)
    user.do("fit")
    shown = dialog(user)
    assert shown.text.text() == (
        'Zumbert failed at "Fit the selection, then all": the project is as it was before; '
        "your work is saved."
    )
    assert "put here by a test" in log_text()
    assert "Fit the selection, then all" in log_text()
    shown.copy.click()
    assert "put here by a test" in QGuiApplication.clipboard().text()
    assert shown.isVisible()
    shown.go_on.click()
    assert not shown.isVisible()


def test_a_drawing_that_cannot_be_painted_is_told_once_and_leaves_the_window_usable(
    user, faults, monkeypatch
):
    with monkeypatch.context() as broken:
        broken.setattr(user.plan, "overlay", failing)
        user.plan.repaint()
        dialog(user).go_on.click()
        for _ in range(3 * LOGGED):
            user.plan.repaint()
        user.bot.waitUntil(lambda: bool(user.refusals))
        assert log_text().count("put here by a test") < 3 * LOGGED  # nor does it fill the log
        assert "failed again" in user.refusals[-1]
        assert not any(d.isVisible() for d in user.window.findChildren(FaultDialog))
    raised(user, 41.9)
    user.settle()
    assert user.pipe("S5", "S4").invert_up == 41.9


def test_a_fault_in_a_timer_is_told(user, faults):
    QTimer.singleShot(0, failing)
    dialog(user).go_on.click()
    assert "KeyError" in log_text()


def test_a_fault_in_a_thread_is_told_and_the_work_there_ends(user, faults, monkeypatch):
    monkeypatch.setattr(netwatch, "union", failing)
    user.do("trench")
    dialog(user).go_on.click()
    assert "net volumes" in log_text()  # the thread's name
    assert user.window.net._of is None  # nothing is waited for any more
    assert not user.window.foot.bar.isVisible()


def test_an_edit_that_the_drawings_cannot_show_is_taken_back_and_can_be_made_again(
    user, faults, monkeypatch
):
    raised(user, 41.9)
    user.bot.wait(2 * WHOLE)  # every drawing has shown it
    whole = user.session.state.current
    with monkeypatch.context() as broken:
        real = type(user.section).layers
        broken.setattr(
            type(user.section),
            "layers",
            lambda view: real(view) if user.session.state.current is whole else failing(),
        )
        raised(user, 41.8)
        user.section.repaint()
        shown = dialog(user)
    assert "that step was taken back, and Redo makes it again" in shown.text.text()
    assert user.session.state.current is whole
    assert user.session.history.redo_name == "Set the invert"
    shown.go_on.click()
    user.do("redo")
    assert user.pipe("S5", "S4").invert_up == 41.8


def test_the_work_is_kept_for_recovery_at_once(user, faults, monkeypatch):
    key = raised(user, 41.77)
    user.bot.wait(2 * WHOLE)
    monkeypatch.setattr(user.window.centre, "fit", failing)
    user.do("fit")
    assert "your work is kept for recovery" in dialog(user).text.text()
    [file] = folder().glob("*.zumbert")
    assert load(file).pipes[key].invert_up == 41.77


def test_a_preview_under_way_is_given_up(user, faults, monkeypatch):
    pipe = user.pipe("S5", "S4")
    user.session.preview(set_invert(user.project, pipe.id, "up", 41.6))
    monkeypatch.setattr(user.window.centre, "fit", failing)
    user.do("fit")
    dialog(user).go_on.click()
    assert not user.session.state.previewing


def test_a_fault_while_another_is_reported_is_logged_and_told(user, faults, monkeypatch):
    monkeypatch.setattr(user.window.toolbox, "put_down", failing)
    monkeypatch.setattr(user.window.centre, "fit", failing)
    user.do("fit")
    assert "could not be kept for recovery: save it now" in dialog(user).text.text()
    assert "A fault while another was reported" in log_text()


def test_an_interrupt_is_no_fault(user, faults):
    sys.excepthook(KeyboardInterrupt, KeyboardInterrupt(), None)
    user.settle()
    assert log_text() == ""


def test_an_unforeseen_error_of_the_autosave_comes_to_light(user, faults, monkeypatch):
    monkeypatch.setattr("zumbert.store.recovery.json.dumps", failing)
    raised(user, 41.9)
    dialog(user).go_on.click()  # within two seconds of the edit
    assert "autosave" in log_text()


def test_the_log_is_shown_from_the_menu(user, faults, monkeypatch):
    monkeypatch.setattr(user.window.centre, "fit", failing)
    user.do("fit")
    dialog(user).go_on.click()
    user.do("log")
    [shown] = user.window.findChildren(LogDialog)
    assert "put here by a test" in shown.text.toPlainText()


def test_the_sentence_says_what_became_of_step_and_work():
    assert sentence("Undo", False, "is kept for recovery") == (
        'Zumbert failed at "Undo": the project is as it was before; your work is kept for recovery.'
    )
    assert "Redo makes it again; your work could not be kept" in sentence("Undo", True, "")
