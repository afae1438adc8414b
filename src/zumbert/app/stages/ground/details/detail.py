"""The base of the details: a title, how strongly an item is drawn, and a button that takes it
away.
"""

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QSlider, QVBoxLayout, QWidget

from zumbert.app.guard import guarded
from zumbert.app.panels.fields import Combo, choice
from zumbert.app.panels.rows import label, pair
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.ground.groundacts import GroundActs
from zumbert.app.state import State
from zumbert.app.theme import FIELD, LONG_FIELD
from zumbert.app.told import told
from zumbert.edits.grounditems import GroundItem, changed, item_name, record, removed, set_strength

SHOWN = 2  # decimals of a road's points in their table


@guarded
class _Slider(QSlider):
    """The wheel scrolls the panel, and changes no value that happens to lie under the pointer."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()


class Fields(QWidget):
    """Named fields under one another; each change is one undo step."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self.setObjectName("detail")
        self.whole = QVBoxLayout(self)
        self.whole.setContentsMargins(0, 0, 0, 0)
        self.whole.setSpacing(5)

    def still_shown(self, s: State) -> bool:
        """Whether it can go on showing what is selected."""
        return s.chosen.item is None

    def refresh(self, s: State) -> None:
        """Shows the state."""

    def edit(self, words: str, make: Callable[..., Any]) -> bool:
        return self.session.edit(words, make)

    def button(self, text: str, name: str, run: Callable[[], object]) -> QPushButton:
        """A button with its text and object name."""
        b = QPushButton(text)
        b.setObjectName(name)
        b.clicked.connect(lambda: run())
        return b

    def pair_row(self, text: str, w: QWidget) -> None:
        """A name with a field at its right."""
        row = QHBoxLayout()
        row.addWidget(label(text, "second"))
        row.addStretch(1)
        w.setFixedWidth(LONG_FIELD if text == "Name" else FIELD)
        row.addWidget(w)
        self.whole.addLayout(row)

    def field(self, text: str, name: str, take: Callable[[str], object]) -> QLineEdit:
        """A text field with its name; Enter or leaving takes it."""
        out = QLineEdit()
        out.setObjectName(name)
        out.setAccessibleName(text)

        def finished() -> None:
            if out.isModified():
                out.setModified(False)
                take(out.text())
                self.refresh(self.session.state)

        out.editingFinished.connect(finished)
        self.pair_row(text, out)
        return out

    def combo(
        self,
        text: str,
        name: str,
        choices: Sequence[tuple[Any, str]],
        take: Callable[[Any], object],
    ) -> Combo:
        """A choice with its name."""
        out = choice(self.pen, name, choices)
        out.setAccessibleName(text)
        out.activated.connect(lambda _: take(out.currentData()))
        self.pair_row(text, out)
        return out

    @told(None)
    def typed(self, text: str) -> float | None:
        """A typed length in m; a refusal is told, and None."""
        return self.session.units.typed(text)


class Detail(Fields):
    """Base of the details: a title, how strongly it is drawn, and a button that takes it away."""

    def __init__(self, session: Session, pen: Pen, item: GroundItem, acts: GroundActs) -> None:
        super().__init__(session, pen)
        self.item, self.acts = item, acts
        self.title = label("", "strong")
        self._told = ""  # the name that the fields tell
        remove = self.button("Remove", "remove", self._remove)
        remove.setProperty("role", "chip")
        self.whole.addLayout(pair(self.title, remove))
        self.build()
        if hasattr(record(session.state.shown.project, item), "strength"):
            self.strength = _Slider(Qt.Orientation.Horizontal)
            self.strength.setRange(10, 100)
            self.strength.setObjectName("strength")
            self.strength.setAccessibleName("How strongly it is drawn, per cent")
            self.strength.sliderReleased.connect(self._faded)
            self.strength.valueChanged.connect(
                lambda _: None if self.strength.isSliderDown() else self._faded()
            )
            self.pair_row("Strength", self.strength)

    @property
    def record(self) -> Any:
        """The record that is edited."""
        return record(self.session.state.shown.project, self.item)

    def build(self) -> None:
        """The fields of this kind."""

    def still_shown(self, s: State) -> bool:
        """Whether it can go on showing what is selected."""
        return self.item == s.chosen.item

    def refresh(self, s: State) -> None:
        """Shows the state."""
        r = record(s.shown.project, self.item)
        if r is None:
            return
        name = item_name(s.shown.project, self.item)
        self.title.setText(name)
        if name != self._told:
            fields: list[QWidget] = [*self.findChildren(QLineEdit), *self.findChildren(Combo)]
            for w in fields:  # it tells what it belongs to where the title is out of sight, too
                if w.accessibleName() and w.toolTip() in (
                    "",
                    f"{w.accessibleName()}: {self._told}",
                ):
                    w.setToolTip(f"{w.accessibleName()}: {name}")
            self._told = name
        if hasattr(r, "strength"):
            self.strength.blockSignals(True)
            self.strength.setValue(round(r.strength * 100))
            self.strength.blockSignals(False)
        self.show_record(s, r)

    def show_record(self, s: State, r: Any) -> None:
        """Shows the values of this kind."""

    def _name(self) -> str:
        return item_name(self.session.state.current.project, self.item)

    def _remove(self) -> None:
        item = self.item
        self.edit(f"Remove {self._name()}", lambda p, f: removed(p, item))

    def _faded(self) -> None:
        item, value = self.item, self.strength.value() / 100
        self.edit(f"Fade {self._name()}", lambda p, f: set_strength(p, item, value))

    def change(self, words: str, **values: Any) -> bool:
        """Replaces fields of the record as one undo step."""
        item = self.item
        return self.edit(words, lambda p, f: changed(p, item, **values))
