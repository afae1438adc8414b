"""The chips over the view in space: where it is, what is seen, how the ground is shown, along
the run.
"""

from collections.abc import Callable, Sequence
from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import QPushButton

from zumbert.app.panels.rows import toggle_chip
from zumbert.app.reader import Reader
from zumbert.app.session import Session
from zumbert.app.views.spaceview import SpaceView
from zumbert.space.wanted import ONLY, STRENGTHS, STRETCHES

ONLY_WORDS = {"all": "Everything", "run": "The run only", "selection": "Selection only"}
TIPS = {
    "plan": "Shows the plan in its place",
    "beside": "Shows the plan beside it (F3)",
    "only": "Everything, the pipes of the run that is shown, or what is selected",
    "strength": "How strongly the ground is drawn",
    "cut": "Cuts the ground away on this side of the run that is shown",
    "section": "Shows the ground in section along the run",
    "dug": "Shows trenches and pits",
    "stretch": "Draws heights larger than lengths",
    "along": "Looks along the run at pipe level; the wheel leads on, Shift a little",
}


class SpaceChips(Reader):
    """Buttons beside one another in the upper left of the view, in as many lines as they need."""

    def __init__(
        self,
        session: Session,
        view: SpaceView,
        plan: Callable[[], object],
        beside: Callable[[], object],
        dig: Callable[[], bool],
    ) -> None:
        self.session, self.view = session, view
        runs: dict[str, Callable[[], object]] = {
            "plan": plan,
            "beside": beside,
            "only": lambda: self._next("only", ONLY),
            "strength": lambda: self._next("strength", STRENGTHS),
            "cut": lambda: self._turn("cut"),
            "section": lambda: self._turn("section"),
            "dug": lambda: self._turn("dug", dig),
            "stretch": lambda: self._next("stretch", STRETCHES),
            "along": view.toggle_along,
        }
        self.buttons: dict[str, QPushButton] = {}
        for name, run in runs.items():
            button = self.buttons[name] = toggle_chip(
                "", f"space {name}", name not in ("plan", "only", "strength", "stretch")
            )
            button.setParent(view)
            button.setToolTip(TIPS[name])
            button.setAccessibleName(TIPS[name])
            button.clicked.connect(lambda _=False, run=run: run())
            button.show()
        view.looked.connect(self.refresh)
        view.sized.connect(self.refresh)
        session.changed.connect(lambda old, new: self.follow(old, new))
        self.refresh()

    def _turn(self, what: str, first: Callable[[], bool] = lambda: True) -> None:
        """Switches one of them; on only where what has to be worked out first was not given up."""
        now = self.session.state.look.space
        if not getattr(now, what) and not first():
            self.refresh()
            return
        self.session.set(space=replace(now, **{what: not getattr(now, what)}))

    def _next(self, what: str, values: Sequence[Any]) -> None:
        """The next of some values, and after the last the first."""
        now = self.session.state.look.space
        self.session.set(
            space=replace(
                now, **{what: values[(values.index(getattr(now, what)) + 1) % len(values)]}
            )
        )

    def show_state(self) -> None:
        """Shows the state."""
        s = self.session.state
        now = s.look.space
        texts = {
            "plan": (False, "Plan"),
            "beside": (s.look.space_at == "beside", "Plan beside"),
            "only": (False, ONLY_WORDS[now.only]),
            "strength": (False, f"Ground {100 * now.strength:.0f} %"),
            "cut": (now.cut, "Cut away"),
            "section": (now.section, "In section"),
            "dug": (now.dug, "Trenches"),
            "stretch": (False, f"Heights \u00d7{now.stretch:g}"),
            "along": (self.view.along, "Along the run"),
        }
        x, y, edge = 14, 11, self.view.width() - 56
        for name, (on, text) in texts.items():
            button = self.buttons[name]
            button.setText(("\u2713 " if on else "") + text)
            button.setChecked(on)
            button.adjustSize()
            if x > 14 and x + button.width() > edge:
                x, y = 14, y + button.height() + 6
            button.move(x, y)
            x += button.width() + 6
