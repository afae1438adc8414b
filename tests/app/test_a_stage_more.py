"""A stage that is made up here is seen wherever stages are: a new one is its own folder and a
line in `STAGES`.
"""

import pytest
from PySide6.QtWidgets import QLabel

from tests.app.conftest import Driver
from zumbert.app import help as help_
from zumbert.app.actions import keys_page
from zumbert.app.panels.rows import label
from zumbert.app.stages.stage import OVERLAYS, Action, Chip, Offer, WorkStage
from zumbert.app.stages.table import STAGES
from zumbert.app.tools.measure import MeasureTool
from zumbert.app.window import Window


class Walk(QLabel):
    """The panel of the made-up stage."""

    thing = None

    def refresh(self, state):
        self.setText(f"{len(state.shown.project.pipes)} pipes to walk along")


done = []
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
    overlays=OVERLAYS | {"bands"},
    adds=frozenset({"bands"}),
    rings=True,
    picks="ground",
    upper=lambda centre: seen.setdefault("walk", added(centre)),
    needs_trenches=lambda project: bool(seen.update(asked=True)),
    hint=lambda s: "Walk on.",
)
seen = {}


def added(centre):
    made = label("the way ahead", "")
    centre.upper.addWidget(made)
    return made


@pytest.fixture
def walker(user, qtbot, monkeypatch, tmp_path):
    done.clear(), seen.clear()
    (tmp_path / "stages/walk").mkdir(parents=True)
    (tmp_path / "stages/walk/help.md").write_text("# Walking\n\nOne foot, then the other.\n")
    monkeypatch.setattr(help_, "HERE", tmp_path)
    window = Window(user.project, stages=(*STAGES, WALK))
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
