"""The chips over the plan: its scale, straightened or not, the tools of the layout, the tables."""

from collections.abc import Callable

from PySide6.QtWidgets import QPushButton

from zumbert.app.panels.rows import toggle_chip
from zumbert.app.reader import Reader
from zumbert.app.session import Session
from zumbert.app.views.planview import PlanView

TEXTS = {
    "scale": "Plan 1:500",
    "straight": "Straightened",
    "lay": "Lay a run",
    "gullies": "Place gullies",
    "tables": "Tables",
    "cross": "Cross-section",
    "space": "Space",
}
LAYOUT = ("lay", "gullies", "tables")  # shown in the stage Layout, and while they are on


class PlanChips(Reader):
    """Buttons in the upper left of the plan. `tool` names the one in hand, `tables` says whether
    they are open.
    """

    def __init__(
        self,
        session: Session,
        plan: PlanView,
        runs: dict[str, Callable[[], object]],
        tool: Callable[[], str],
        tables: Callable[[], bool],
    ) -> None:
        self.session, self.plan, self._tool, self._tables = session, plan, tool, tables
        self.buttons: dict[str, QPushButton] = {}
        for name, text in TEXTS.items():
            button = self.buttons[name] = toggle_chip(
                text, name, name not in ("scale", "cross", "space")
            )
            button.setParent(plan)
            button.clicked.connect(lambda _=False, run=runs[name]: run())
        self.buttons["scale"].setToolTip("Fit the plan")
        self.buttons["space"].setToolTip(
            "Shows the project in space: in the plan's place, then beside it (F3)"
        )
        session.changed.connect(lambda old, new: self.follow(old, new))

    def show_state(self) -> None:
        """Shows the state."""
        s, tool, tables = self.session.state, self._tool(), self._tables()
        on = {
            "lay": tool == "lay",
            "gullies": tool == "gullies",
            "tables": tables,
            "space": s.look.space_at == "beside",
        }
        self.buttons["scale"].setText(f"Plan 1:{self.plan.scale_ratio():.0f}")
        for name, lit in ({"straight": s.look.straight} | on).items():
            self.buttons[name].setText(("\u2713 " if lit else "") + TEXTS[name])
            self.buttons[name].setChecked(lit)
        for name in LAYOUT:
            self.buttons[name].setVisible(s.look.stage == "layout" or on[name])
        self.buttons["cross"].setVisible(s.look.stage == "trench")
        x = 14
        for button in self.buttons.values():
            button.adjustSize()
            button.move(x, 11)
            button.raise_()
            if not button.isHidden():
                x += button.width() + 6
