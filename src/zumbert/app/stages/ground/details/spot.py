"""A spot level."""

from typing import Any

from zumbert.analysis.surfaces import levels
from zumbert.app.panels.rows import wrapped
from zumbert.app.stages.ground.details.detail import Detail
from zumbert.app.state import State


class SpotDetail(Detail):
    def build(self) -> None:
        choices = (
            ("existing", "existing ground"),
            ("design", "design surface"),
            ("formation", "formation"),
        )
        self.follows = self.combo(
            "Follows",
            "spot follows",
            choices,
            lambda k: self.change("Change a spot level", follows=k),
        )
        self.words = wrapped("", "small")
        self.whole.addWidget(self.words)

    def show_record(self, s: State, r: Any) -> None:
        found, u = s.shown.facts.surfaces, s.units
        z = float(levels(getattr(found, r.follows), r.x, r.y))
        self.follows.setCurrentIndex(self.follows.findData(r.follows))
        where = f"x {u.coordinate(r.x)}, y {u.coordinate(r.y)}"
        self.words.setText(
            f"{u.level(None if z != z else z)} {u.m}, {found.name(r.follows)}; {where}"
        )
