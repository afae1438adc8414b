"""The chips over the plan: its scale, straightened or not, those of the stage, space."""

from typing import Any

from PySide6.QtWidgets import QPushButton

from zumbert.app.panels.rows import toggle_chip
from zumbert.app.reader import Reader
from zumbert.app.session import Session
from zumbert.app.stages.stage import Chip
from zumbert.app.views.planview import PlanView


class PlanChips(Reader):
    """Buttons in the upper left of the plan; those of a stage are shown in it, and while they are
    on.
    """

    def __init__(
        self, session: Session, plan: PlanView, chips: list[Chip[Any]], window: object
    ) -> None:
        self.session, self.plan, self.chips, self.window = session, plan, chips, window
        self.buttons: dict[str, QPushButton] = {}
        for chip in chips:
            button = toggle_chip(chip.text, chip.name, chip.on is not None and not chip.steps)
            self.buttons[chip.name] = button
            button.setParent(self.plan)
            button.setToolTip(chip.tip)
            button.clicked.connect(lambda _=False, run=chip.run: run(window))
        self.session.changed.connect(lambda old, new: self.follow(old, new))

    def show_state(self) -> None:
        """Shows the state."""
        stages = self.session.stages.values()
        here = {c.name for c in self.session.state.look.stage.chips}
        elsewhere = {c.name for stage in stages for c in stage.chips} - here
        x = 14
        for chip in self.chips:
            button, lit = self.buttons[chip.name], chip.on is not None and chip.on(self.window)
            words = chip.text if chip.words is None else chip.words(self.window)
            button.setText(("\u2713 " if lit else "") + words)
            button.setChecked(lit)
            button.setVisible(lit or chip.name not in elsewhere)
            button.adjustSize()
            button.move(x, 11)
            button.raise_()
            if not button.isHidden():
                x += button.width() + 6
