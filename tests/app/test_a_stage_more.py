"""A stage that is made up here is seen wherever stages are: a new one is its own folder and a
line in `STAGES`.
"""

import pytest
from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication, QLabel, QPushButton

from tests.app.conftest import Driver
from zumbert.app import help as help_
from zumbert.app.actions import keys_page
from zumbert.app.panels.rows import label
from zumbert.app.stages.stage import OVERLAYS, Action, Chip, Offer, TableOffer, WorkStage
from zumbert.app.stages.table import STAGES
from zumbert.app.tables.records import Records
from zumbert.app.tools.measure import MeasureTool
from zumbert.app.views.covering import Covering
from zumbert.app.window import Window


class Walk(QLabel):
    """The panel of the made-up stage."""

    thing = None

    def refresh(self, state):
        self.setText(f"{len(state.shown.project.pipes)} pipes to walk along")


class Shoes(Records):
    """The table of the made-up stage: its pipes, with words above it."""

    def __init__(self, session, pen):
        super().__init__(session, pen, "pipes")
        self.bar = label("what to walk in", "")


done, came = [], []
WALK = WorkStage(
    id="walk",
    text="Walk",
    icon="M2 2h20",
    panel=lambda w: Walk(),
    acts=lambda w: ["what its buttons do"],
    actions=(
        Action(
            id="step",
            text="Step on",
            keys=("Ctrl+Alt+W",),
            menu="Edit",
            run=lambda w: done.append("step"),
            enabled=lambda w: w.session.state.look.stage is WALK,
        ),
    ),
    tools={"pace": Offer(MeasureTool, again=True)},
    chips=(
        Chip("pace", "Pace", lambda w: w.toolbox.take("pace"), lambda w: w.toolbox.name == "pace"),
    ),
    tables={"shoes": TableOffer("Shoes", Shoes)},
    overlays=OVERLAYS | {"bands"},
    adds=frozenset({"bands"}),
    rings=True,
    picks="ground",
    view=lambda centre: seen.setdefault("walk", label("the way ahead", "")),
    judges=True,
    back=lambda w: came.append("back"),
    needs_trenches=lambda project: bool(seen.update(asked=True)),
    hint=lambda s: "Walk on.",
)
seen = {}


class Map(Covering):
    """Covers both drawings in a second stage that is made up."""

    hint = "Look about."

    def fit(self):
        done.append("fit")

    def delete(self):
        done.append("delete")


REST = WorkStage(id="rest", text="Rest", icon="M2 2h20", view=lambda c: Map(), covers=True)


@pytest.fixture
def walker(user, qtbot, monkeypatch, tmp_path):
    done.clear(), seen.clear()
    (tmp_path / "stages/walk").mkdir(parents=True)
    (tmp_path / "stages/walk/help.md").write_text("# Walking\n\nOne foot, then the other.\n")
    monkeypatch.setattr(help_, "HERE", tmp_path)
    window = Window(user.project, stages=(*STAGES, WALK, REST))
    qtbot.addWidget(window, before_close_func=lambda w: setattr(w.files, "may_leave", lambda: True))
    window.show()
    return Driver(window, qtbot)


def test_it_stands_on_the_rail_in_the_menu_and_among_the_keys(walker):
    button = walker.window.rail.buttons["walk"]
    assert button.accessibleName() == "Stage Walk" and button.isVisible()
    texts = [
        a.text() for m in walker.window.menu_of_actions().actions() for a in m.menu().actions()
    ]
    assert f"Stage Walk\tAlt+{len(STAGES) + 1}" in texts and "Step on\tCtrl+Alt+W" in texts
    assert "Stage Walk" in walker.window.commands()
    assert "Step on" not in walker.window.commands()  # not before one is there
    key = walker.window.actions_["walk"].shortcut().toString()
    assert key == f"Alt+{len(STAGES) + 1}"
    assert f"| Stage Walk | {key} |" in keys_page(walker.window.table)
    button.click()
    assert walker.session.state.look.stage is WALK and button.isChecked()
    assert "Step on" in walker.window.commands()


def test_its_panel_chips_hint_overlays_and_place_are_shown_there_alone(walker):
    chip, bands = walker.window.chips.buttons["pace"], walker.window.centre.head.chips["bands"]
    assert chip.isHidden() and bands.isHidden() and not seen
    walker.window.go_stage("walk")
    assert seen["asked"] and walker.window.acts("walk") == ["what its buttons do"]
    panel = walker.window.side.panel
    assert isinstance(panel, Walk)
    assert panel.text() == f"{len(walker.project.pipes)} pipes to walk along"
    assert not chip.isHidden() and not bands.isHidden()
    assert walker.window.foot.hint.text() == "Walk on."
    s = walker.session.state
    assert "bands" in s.seen and s.levelling
    assert walker.window.centre.upper_view is seen["walk"]
    bands.click()
    assert "bands" not in walker.session.state.seen
    bands.click()
    assert "bands" in walker.session.state.seen
    walker.window.go_stage("levels")
    assert "bands" not in walker.session.state.seen
    assert not isinstance(walker.window.side.panel, Walk)
    assert chip.isHidden() and walker.window.centre.upper_view is walker.plan


def test_its_table_stands_among_the_others(walker):
    walker.do("tables")
    drawer = walker.window.centre.tables
    [button] = [b for b in drawer.which.findChildren(QPushButton) if b.text() == "Shoes"]
    assert drawer.tables["shoes"].isHidden() and drawer.tables["shoes"].bar.isHidden()
    button.click()
    assert drawer.table is drawer.tables["shoes"] and drawer.table.isVisible()
    assert drawer.table.bar.isVisible()
    assert drawer.count.text() == f"{len(walker.project.pipes)}"
    drawer.filter.setText("S5")
    assert 0 < drawer.table.proxy.rowCount() < len(walker.project.pipes)
    drawer.show_kind("areas")
    assert drawer.tables["shoes"].bar.isHidden()


def test_a_view_that_covers_both_drawings_takes_fit_delete_and_the_hint(walker):
    centre = walker.window.centre
    drawings = centre.top, centre.lower_half
    centre.section.setFocus()
    centre.toggle_whole()  # the long section alone
    hidden = [w.isHidden() for w in drawings]
    assert any(hidden)
    for stage in ("rest", "deliver", "rest"):  # from one that covers to another
        walker.window.go_stage(stage)
        seen = centre.covering
        assert seen is centre.of(stage) and seen.isVisible()
        assert [w.isHidden() for w in drawings] == [True, True]
        assert centre.of("deliver" if stage == "rest" else "rest").isHidden()
    assert walker.window.foot.hint.text() == "Look about."
    assert centre.pictured is centre.upper_view is seen
    done.clear()
    before = walker.session.state.current
    walker.do("fit")
    walker.do("delete")
    assert done == ["fit", "delete"] and walker.session.state.current is before
    walker.do("lay")  # works in the drawings: a stage that shows them is gone to
    assert centre.covering is None and seen.isHidden()
    assert [w.isHidden() for w in drawings] == hidden
    with pytest.raises(LookupError, match="levels has no view"):
        centre.of("levels")


def test_it_is_told_that_the_window_is_back_and_gone_to_for_findings(walker):
    assert walker.window.isActiveWindow()
    came.clear()
    QApplication.sendEvent(walker.window, QEvent(QEvent.Type.ActivationChange))
    assert came == ["back"]
    walker.window.head.findChild(QPushButton, "stateline").click()
    assert walker.session.state.look.stage.id == "checks"  # the first that judges


def test_its_tool_goes_there_and_stays_in_hand(walker):
    walker.window.toolbox.take("pace")
    assert walker.session.state.look.stage is WALK
    assert walker.window.chips.buttons["pace"].text() == "\u2713 Pace"
    walker.window.go_stage("walk")
    assert walker.window.toolbox.name == "pace"
    walker.window.go_stage("levels")
    assert walker.window.toolbox.picking


def test_its_action_works_in_it_and_its_help_is_found(walker):
    walker.do("step")
    assert done == []
    walker.window.go_stage("walk")
    walker.do("step")
    assert done == ["step"]
    walker.do("help")
    dialog = walker.window.findChild(object, "help")
    assert "One foot, then the other." in dialog.text.toPlainText()
    assert dialog.windowTitle() == "Help: stage Walk"
    dialog.reject()
