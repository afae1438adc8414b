"""Entries that are made up here, a system of units, a kind of sheet, a preference, are seen in the
window: in its dialogs, menus and drawings, and in the window that comes after it.
"""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QMenu
from pytest import approx

from tests.app.conftest import shown
from tests.app.deliver.hands import button, view
from tests.app.test_project import choose, dialog
from tests.build import rods, with_crosses
from zumbert.app.bars.foot import place_words
from zumbert.app.preferences import PREFERENCES, Preference, remembered
from zumbert.model.unitsystem import UNIT_SYSTEMS

ROD = 5.0292


def test_a_system_of_units_is_picked_shown_and_typed(user, monkeypatch):
    monkeypatch.setitem(UNIT_SYSTEMS, "rods", rods())
    user.do("settings")
    d = dialog(user)
    units = d.findChild(QComboBox, "units")
    assert units.itemText(units.count() - 1) == "rods, sizes in hands"
    choose(units, "rods")
    d.accept()
    user.settle()
    assert place_words(user.session.state, 1500.0, 900.0)["x"] == f"{1500 / ROD:.2f}"
    pipe = user.look_at("S5", "S4")
    user.type(user.section, "8.5")
    user.key(user.section.entry.field, Qt.Key.Key_Return)
    assert user.project.pipes[pipe.id].invert_down == approx(8.5 * ROD)
    user.do("undo")
    user.do("undo")


def test_a_kind_of_sheet_is_added_from_the_menu_and_drawn(user, monkeypatch):
    cross = with_crosses(monkeypatch)
    user.in_stage("deliver")
    button(user, "add sheet").click()
    [menu] = [m for m in view(user).findChildren(QMenu) if m.isVisible()]
    action = menu.actions()[-1]
    assert action.text() == "Cross"
    action.trigger()
    menu.close()
    user.settle()
    assert view(user).picked.title == "Crosses: first"
    assert cross in view(user).sheet.page.marks
    user.do("undo")


def test_a_preference_comes_back_with_the_next_window(qtbot, user, monkeypatch, tmp_path):
    """One that is not sound is left; theme and folder come back too."""
    cap = Preference(
        lambda w: w.plan.toolTip() or None,
        lambda w, words: w.plan.setToolTip(words),
        lambda words: isinstance(words, str),
    )
    monkeypatch.setitem(PREFERENCES, "tip", cap)
    user.plan.setToolTip("as it was")
    user.do("theme")
    user.window.files.go_to(tmp_path / "a.zumbert")
    # kept at once: a window that is killed has told them
    assert remembered().value("theme") == "dark"
    assert remembered().value("folder") == str(tmp_path)
    user.window.files.last = "/no such folder"
    user.window.files.may_leave = lambda: True
    user.window.close()
    after = shown()
    qtbot.addWidget(after, before_close_func=lambda w: setattr(w.files, "may_leave", lambda: True))
    assert after.plan.toolTip() == "as it was"
    assert after.pen.theme == "dark"
    assert after.files.last != "/no such folder"
    after.toggle_theme()
