"""The line over the long section: what it shows, its scales and what can be switched on."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from zumbert.app.panels.fields import ValueField
from zumbert.app.panels.rows import label, toggle_chip
from zumbert.app.reader import Reader
from zumbert.app.session import Session
from zumbert.drawing.sectionprofile import has_profile
from zumbert.model.typed import typed_number

LEAST_RATIO, MOST_RATIO = 1.0, 50_000.0


class SectionHead(QWidget, Reader):
    """The head of the long section, with its switches and scales."""

    def __init__(
        self,
        session: Session,
        scales: Callable[[], tuple[float, float]],
        switch: Callable[[str], None],
        set_scale: Callable[[Any, float], None],
    ) -> None:
        super().__init__()
        self.session, self._scales, self._set_scale = session, scales, set_scale
        self.setObjectName("sectionhead")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(26)
        self.what, self.scale = label("", "second"), label("", "second")
        self.what.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.fields = {axis: self._scale_field(axis) for axis in ("along", "up")}
        self.current = toggle_chip("Ratio kept", "ratio")
        self.current.setToolTip(
            "Zooming keeps the ratio of both scales; else it changes lengths alone, and with "
            "Shift levels."
        )
        self.current.clicked.connect(
            lambda: session.set(ratio_kept=not session.state.look.ratio_kept)
        )
        self.holds = toggle_chip("Rules hold", "holds")
        self.holds.setToolTip(
            "A dragged or typed level stops where a rule would be broken; what is laid, moved or "
            "resized takes the nearest legal "
            "levels. Ctrl passes."
        )
        self.holds.clicked.connect(lambda: session.set(holds=not session.state.held.holds))
        self.chips = {
            "legal": toggle_chip("Legal band", "legal"),
            "cover": toggle_chip("Least cover", "cover"),
            "services": toggle_chip("Crossings", "services"),
            "profile": toggle_chip("Road profile", "profile"),
            "trench": toggle_chip("Trench bottom", "trench"),
            "bands": toggle_chip("Depth bands", "bands"),
        }
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 14, 0)
        row.setSpacing(8)
        row.addWidget(label("Long section", "section"))
        row.addWidget(self.what, 1)
        for key, button in self.chips.items():
            button.clicked.connect(lambda _=False, k=key: switch(k))
            row.addWidget(button)
            if key == "legal":
                row.addWidget(self.holds)
        row.addWidget(self.current)
        line = QHBoxLayout()
        line.setSpacing(2)
        for axis, word in (("along", "H 1:"), ("up", "V 1:")):
            line.addWidget(label(word, "second"))
            line.addWidget(self.fields[axis])
        line.addWidget(self.scale)
        row.addLayout(line)
        session.changed.connect(self.follow)
        self.refresh()

    def _scale_field(self, axis: str) -> ValueField:
        field = ValueField(f"scale {axis}", lambda text: self._typed(axis, text))
        field.setAccessibleName("Scale along" if axis == "along" else "Scale of levels")
        field.setAlignment(Qt.AlignmentFlag.AlignLeft)
        field.setFixedWidth(42)
        return field

    def _typed(self, axis: str, text: str) -> bool:
        """A scale, 500 or 1:500."""
        try:
            ratio = typed_number(text.strip().removeprefix("1:"))
        except ValueError:
            ratio = 0.0
        if not LEAST_RATIO <= ratio <= MOST_RATIO:
            self.session.refused.emit(f'"{text}" is no scale of a long section: type 500 or 1:500.')
            return False
        self._set_scale(axis, ratio)
        return True

    def show_state(self) -> None:
        """Shows run, switches and scales."""
        s = self.session.state
        if s.look.run is None:
            self.what.setText("no run yet")
        elif s.look.run.key.kind == "road":
            self.what.setText(f"along {s.look.run.name}")
        else:
            there = [s.shown.project.structures[k].label for k, _ in s.look.run.structures[:1]]
            self.what.setText(f"from {there[0]}" if there else "all structures left out")
        for key, button in self.chips.items():
            on = key in s.seen
            button.setChecked(on)
            button.setText(("\u2713 " if on else "") + button.text().removeprefix("\u2713 "))
        offered = s.look.stage.overlays
        wanted = {chip: name in offered for name, chip in self.chips.items() if name != "profile"}
        wanted[self.holds] = "holds" in offered
        # what goes goes first: all together are too wide
        for chip, seen in sorted(wanted.items(), key=lambda c: c[1]):
            chip.setVisible(seen)
        self.holds.setChecked(s.held.holds)
        self.holds.setText(("\u2713 " if s.held.holds else "") + "Rules hold")
        h, v = self._scales()
        self.fields["along"].show_value(f"{h:.0f}", False)
        self.fields["up"].show_value(f"{v:.0f}" if v >= 10 else f"{v:.1f}", False)
        self.scale.setText(f"(×{h / v:.2f})".replace(".00)", ")"))
        self.current.setChecked(s.look.ratio_kept)
        self.current.setText(("\u2713 " if s.look.ratio_kept else "") + "Ratio kept")
        self.chips["profile"].setVisible(
            "profile" in offered and s.look.run is not None and has_profile(s.section)
        )
