"""The drawer of tables, driven as a person would."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLineEdit
from pytest import approx

from zumbert.app.tables.records import Records
from zumbert.edits.fields import set_field

CTRL = Qt.KeyboardModifier.ControlModifier


class Table:
    """One table of the drawer, its cells by label and head."""

    def __init__(self, user, kind):
        self.user = user
        if kind == "pipes":
            user.click(user.window.centre.tables.which.buttons[1], 5, 5)
        self.view: Records = user.window.centre.tables.table
        self.model = self.view.records

    def index(self, name, head):
        row = next(i for i, texts in enumerate(self.model.texts) if texts[0] == name)
        column = next(i for i, c in enumerate(self.model.table.columns) if c.head == head)
        return self.view.proxy.mapFromSource(self.model.index(row, column))

    def text(self, name, head):
        return self.index(name, head).data()

    def at(self, name, head, keys=Qt.KeyboardModifier.NoModifier):
        index = self.index(name, head)
        self.view.scrollTo(index)
        place = self.view.visualRect(index).center()
        QTest.mouseClick(self.view.viewport(), Qt.MouseButton.LeftButton, keys, place)
        self.user.settle()

    def type(self, text, end=Qt.Key.Key_Return):
        QTest.keyClicks(self.view, text[0])
        editor = next(e for e in reversed(self.view.findChildren(QLineEdit)) if e.isVisible())
        QTest.keyClicks(editor, text[1:])
        QTest.keyClick(editor, end)
        self.user.settle()

    def paste(self, text):
        QGuiApplication.clipboard().setText(text)
        self.user.key(self.view, Qt.Key.Key_V, CTRL)

    @property
    def shown(self):
        return [self.view.proxy.index(i, 0).data() for i in range(self.view.proxy.rowCount())]


@pytest.fixture
def structures(user):
    user.do("tables")
    return Table(user, "structures")


@pytest.fixture
def pipes(user):
    user.do("tables")
    return Table(user, "pipes")


def test_the_drawer_opens_over_the_long_section_and_shuts(user):
    user.do("tables")
    assert user.window.centre.tables.isVisible()
    assert user.section.isHidden()
    user.window.centre.tables.table.setFocus()
    user.window.escape()
    assert user.window.centre.tables.isHidden()
    assert user.section.isVisible()


def test_rows_are_sorted_naturally_and_filtered_by_words(structures):
    t = structures
    t.view.sortByColumn(0, Qt.SortOrder.AscendingOrder)
    s = [x for x in t.shown if x.startswith("S")]
    assert s[:3] == ["S1", "S2", "S3"]
    assert s.index("S9") < s.index("S10")
    ch = next(i for i, c in enumerate(t.model.table.columns) if c.head == "Chainage")
    t.view.sortByColumn(ch, Qt.SortOrder.DescendingOrder)
    numbers = [
        float(x) for i in range(t.view.proxy.rowCount()) if (x := t.view.proxy.index(i, ch).data())
    ]
    assert numbers == sorted(numbers, reverse=True)
    t.user.type(t.user.window.centre.tables.filter, "existing headwall")
    assert t.shown == ["EX2"]
    t.user.window.centre.tables.filter.clear()
    t.user.type(t.user.window.centre.tables.filter, "size smaller outlet")  # words of a remark
    assert t.shown == []
    t.user.window.centre.tables.filter.setText("smaller than")
    assert t.shown == ["S9"]


def test_selection_is_shared_both_ways_and_a_filter_does_not_change_it(structures):
    t, user = structures, structures.user
    t.at("S4", "Rim")
    assert user.session.state.chosen.structures == {user.structure("S4").id}
    t.at("S6", "Rim", CTRL)
    assert user.session.state.chosen.structures == {user.structure(n).id for n in ("S4", "S6")}
    user.session.select(structures=frozenset({user.structure("S9").id}))
    user.settle()
    assert t.view.chosen() == {user.structure("S9").id}
    user.window.centre.tables.filter.setText("headwall")
    user.settle()
    assert user.session.state.chosen.structures == {user.structure("S9").id}


def test_cells_are_typed_over_and_undone(structures):
    t, user = structures, structures.user
    t.at("S4", "Chainage")
    t.type("98.5")
    assert user.structure("S4").place.chainage == 98.5
    assert t.text("S4", "Chainage") == "98.500"
    t.at("S4", "Structure")
    t.type("S5")
    assert "already" in user.refusals[-1]
    t.type("lower S4")  # a letter is an entry here, not the tool that lays runs
    assert user.structure("lower S4")
    assert user.session.history.undo_names == ["Rename S4", "Move S4"]
    t.at("HW1", "Chainage")
    assert not t.model.editable(0, 4)  # it is free: its chainage follows
    user.do("undo")
    user.do("undo")
    assert t.text("S4", "Chainage") == "96.000"


def test_pipes_are_edited_in_their_own_units(pipes):
    t, user = pipes, pipes.user
    t.at("P5", "Slope")
    t.type("1.6")
    pipe = user.pipe("S5", "S4")
    assert user.facts.pipes[pipe.id].slope == approx(0.016)
    assert pipe.invert_up == 41.169
    t.at("P5", "Invert up")
    t.type("+0.02")
    assert user.pipe("S5", "S4").invert_up == approx(41.189)
    assert t.model.choices(next(i for i, c in enumerate(t.model.table.columns) if c.head == "DN"))[
        :2
    ] == ["150", "225"]


def test_a_slope_means_what_it_means_in_the_panel(pipes):
    t, user = pipes, pipes.user
    pipe = user.pipe("S5", "S4").id
    for text, slope in (
        ("0.0125", 0.0125),
        ("1.5", 0.015),
        ("1:80", 0.0125),
        ("0.08%", 0.0008),
        ("0.5", 0.005),
    ):
        panel = set_field(user.project, user.facts, pipe, "slope", text)
        t.at("P5", "Slope")
        t.type(text)
        assert user.facts.pipes[pipe].slope == approx(slope)
        assert user.project.pipes[pipe].invert_up == panel.pipes[pipe].invert_up


def test_a_flat_slope_is_copied_pasted_and_typed_over_as_it_is(pipes):
    t, user = pipes, pipes.user
    pipe = user.pipe("S5", "S4")
    user.session.edit("x", lambda p, f: set_field(p, f, pipe.id, "slope", "0.08%"))
    t.at("P5", "Slope")
    user.key(t.view, Qt.Key.Key_C, CTRL)
    assert QGuiApplication.clipboard().text() == "0.080%"
    before = user.project
    t.paste("0.080%")
    user.key(t.view, Qt.Key.Key_F2)
    user.key(t.view.viewport().findChild(QLineEdit), Qt.Key.Key_Return)
    assert user.project is before
    t.at("P6", "Slope")
    t.paste("0.080%")
    assert user.facts.pipes[user.pipe("S6", "S5").id].slope == approx(0.0008)


def test_a_size_is_taken_as_it_is_typed_with_the_last_key(pipes):
    t, user = pipes, pipes.user
    for i, text in enumerate(("225", "375", "150"), 1):
        t.at("P5", "DN")
        t.type(text)
        assert user.pipe("S5", "S4").size == text
        assert len(user.session.history.undo_names) == i


def test_a_size_that_there_is_not_is_quoted_and_one_is_chosen_from_the_list(pipes):
    t, user = pipes, pipes.user
    before = user.project
    t.at("P5", "DN")
    t.type("2255")
    assert user.project is before and '"2255"' in user.refusals[-1]
    index = t.index("P5", "DN")
    t.view.edit(index)
    box = t.view.viewport().findChild(QComboBox)
    box.showPopup()
    box.hidePopup()
    box.setCurrentText("450")
    box.activated.emit(box.findText("450"))
    user.settle()
    assert user.pipe("S5", "S4").size == "450"


def test_copy_and_paste_are_tab_separated_and_one_step(pipes):
    t, user = pipes, pipes.user
    t.at("P5", "Invert up")
    t.at("P6", "Invert down", Qt.KeyboardModifier.ShiftModifier)
    user.key(t.view, Qt.Key.Key_C, CTRL)
    assert QGuiApplication.clipboard().text() == "41.169\t40.639\n42.083\t41.194"
    t.at("P5", "Invert up")
    t.paste("41.300\t40.700\n42.100\t41.250\n")
    p5, p6 = user.pipe("S5", "S4"), user.pipe("S6", "S5")
    assert (p5.invert_up, p5.invert_down, p6.invert_up, p6.invert_down) == (41.3, 40.7, 42.1, 41.25)
    assert user.session.history.undo_names == ["Paste 4 cells"]
    user.do("undo")
    assert user.pipe("S5", "S4") is not p5
    t.at("P5", "DN")
    t.at("P7", "DN", Qt.KeyboardModifier.ShiftModifier)
    t.paste("375")  # one value fills what is selected
    assert [user.pipe(a, b).size for a, b in (("S5", "S4"), ("S6", "S5"), ("S7", "S6"))] == [
        "375"
    ] * 3


@pytest.mark.parametrize(
    ("head", "text", "says"),
    [
        ("Invert up", "41.3\n42.1x", "P6, Invert up"),
        ("Wall plan", "12.00", "follows from other values"),
        ("DN", "375\n77", 'P6, DN: There is no pipe size "77"'),
        ("Network", "Strom", 'P5, Network: There is no network "Strom"'),
        ("Status", "new", "it is proposed, existing or abandoned"),
        ("Invert up", "1\n" * 50, "do not fit"),
    ],
)
def test_a_paste_that_does_not_fit_says_which_cell_and_changes_nothing(pipes, head, text, says):
    t, user = pipes, pipes.user
    before = user.project
    t.at("P5", head)
    t.paste(text)
    assert user.project is before
    assert says in user.refusals[-1]


def test_a_pasted_sign_is_no_step_and_same_values_are_no_edit(structures):
    t, user = structures, structures.user
    before = user.project
    t.at("G1L", "Offset")
    t.paste("-2.800")
    assert user.project is before
    t.paste("-3.1")
    assert user.structure("G1L").place.offset == -3.1
    t.at("S4", "Rim")
    t.paste("+41.95")
    assert user.structure("S4").rim.level == 41.95
