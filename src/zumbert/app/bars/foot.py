"""The foot of the window: the place under the cursor, hints, refusals and long work."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QWidget

from zumbert.analysis.roads import nearest
from zumbert.analysis.surfaces import levels
from zumbert.app.panels.rows import label
from zumbert.app.panels.waiting import bar_and_button
from zumbert.app.reader import Reader
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.theme import restyle

LONGEST = 16  # letters of a surface's name in the foot


class Foot(QWidget, Reader):
    """The place under the cursor, the hint of the tool in hand, and what was refused."""

    def __init__(self, session: Session, hint: Callable[[], str]) -> None:
        super().__init__()
        self.session, self._hint = session, hint
        self.setObjectName("foot")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(24)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 1, 14, 0)
        row.setSpacing(5)
        self.values: dict[str, QLabel] = {}
        self.heads: dict[str, QLabel] = {}
        for name, wide in (
            ("x", 62),
            ("y", 56),
            ("chainage", 68),
            ("offset", 48),
            ("ground", 52),
            ("design", 52),
            ("formation", 52),
        ):
            head = label(name, "second")
            self.heads[name] = head
            row.addWidget(head)
            w = label("\u2013")
            w.setObjectName(f"foot {name}")
            w.setFixedWidth(wide)
            self.values[name] = w
            row.addWidget(w)
        self.hint = label("", "")
        self.hint.setObjectName("hint")
        self.hint.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self.hint, 1)
        self.bar, self.give_up = bar_and_button("Cancel")
        for busy in (self.bar, self.give_up):
            row.addWidget(busy)
        self._refusal = ""
        session.changed.connect(self.follow)
        session.refused.connect(self.refuse)
        self.refresh()

    def refuse(self, text: str) -> None:
        """A sentence about what was refused, until the next thing happens."""
        if self.session.trying:
            return
        self._refusal = text
        self._show_hint()

    def _say_source(self, name: str, surface: str | None) -> None:
        """Names the surface that a level comes from. A long name is cut; the tooltip has all of
        it.
        """
        head, text = self.heads[name], surface or name
        shown = text if len(text) <= LONGEST else f"{text[: LONGEST - 1]}\u2026"
        if head.text() != shown:
            head.setText(shown)
            head.setToolTip(f"{name}: {text}")
            self.values[name].setToolTip(f"{name} level from {text}")

    def progress(self, share: float | None, words: str) -> None:
        """Shows the progress of long work, 0 to 1, with a button that cancels it; None: the work
        is over.
        """
        for w in (self.bar, self.give_up):
            w.setVisible(share is not None)
        if share is not None:
            self.bar.setValue(round(share * 1000))
            self.hint.setText(words)
        else:
            self._show_hint()

    def say(self, text: str) -> None:
        """A sentence about what was done."""
        self.hint.setText(text)

    def follow(self, old: State, new: State) -> None:
        """Keeps a refusal in sight until something else is done; the tool in hand may have a new
        hint.
        """
        if self._refusal and (
            old.current is not new.current
            or old.chosen.pipes is not new.chosen.pipes
            or old.chosen.structures is not new.chosen.structures
            or old.look.stage is not new.look.stage
        ):
            self._refusal = ""
        self._show_hint()
        super().follow(old, new)

    def _show_hint(self) -> None:
        stopped = self.session.state.held.stopped
        held = f"Rules hold: {stopped}. Ctrl passes." if stopped else ""
        text, role = self._refusal or held or self._hint(), "breach" if self._refusal else ""
        if self.hint.text() != text:
            self.hint.setText(text)
            self.hint.setToolTip(text)
        if (self.hint.property("role") or "") != role:
            self.hint.setProperty("role", role)
            restyle(self.hint)

    def show_state(self) -> None:
        """Shows the place under the cursor, and the hint."""
        s = self.session.state
        texts = dict.fromkeys(self.values, "\u2013")
        if s.at.place is not None:
            texts |= place_words(s, *s.at.place)
        for name, text in texts.items():
            w = self.values[name]
            w.setText(text)
            wide = w.fontMetrics().horizontalAdvance(text) + 4
            # coordinates of seven digits are shown whole; it does not shrink again under the hand
            if wide > w.width():
                w.setFixedWidth(wide)
        names = s.surfaces.names
        for name, role in (
            ("ground", "existing"),
            ("design", "design"),
            ("formation", "formation"),
        ):
            self._say_source(name, names.get(role))
        for w in (self.heads["formation"], self.values["formation"]):
            w.setVisible(s.surfaces.formation is not None)
        self._show_hint()


def place_words(s: State, x: float, y: float) -> dict[str, str]:
    """x, y, chainage, offset, ground, design and formation level at a place; chainages on the
    road shown, else the nearest.
    """
    u = s.units
    px, py = np.array([x]), np.array([y])
    ground, design = (
        float(levels(s.surfaces.existing, px, py)[0]),
        float(levels(s.surfaces.design, px, py)[0]),
    )
    formation = float(levels(s.surfaces.formation, px, py)[0])
    near = nearest(s.roads, px, py)
    ch, off = float(near.chainage[0]), float(near.offset[0])
    best = (ch, off) if ch == ch else None
    return {
        "x": u.coordinate(x),
        "y": u.coordinate(y),
        "chainage": u.chainage(best[0] if best else None),
        "offset": u.offset(best[1] if best else None),
        "ground": u.level(ground if ground == ground else None),
        "design": u.level(design if design == design else None),
        "formation": u.level(formation if formation == formation else None),
    }
