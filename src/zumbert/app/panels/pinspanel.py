"""Levels that are pinned: listed, and what each says."""

from typing import Any

from PySide6.QtWidgets import QCheckBox, QGridLayout, QLineEdit, QWidget

from zumbert.app.panels.fields import Combo, choice, offer
from zumbert.app.panels.rows import Stack, chip, fields, label
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.values import delete_item
from zumbert.drawing.pins import PIN_WORDS, pin_lines, surfaces_named
from zumbert.edits.grounditems import GroundItem
from zumbert.edits.notes import change_pin
from zumbert.model.ids import PinId
from zumbert.model.note import PIN_FIELDS


class PinPanel(QWidget):
    """One pinned level that was picked in a drawing."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__()
        self.section = PinsSection(session, pen)
        whole = Stack(self, 6)
        whole.addWidget(self.section)
        whole.addStretch(1)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        self.section.refresh(s)


class PinsSection(QWidget):
    """Each change is one undo step."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__()
        self.session = session
        self.which = Combo(pen)
        self.which.setObjectName("pin")
        self.which.setAccessibleName("Pinned level")
        self.which.as_wide_as_its_column()
        self.which.activated.connect(
            lambda _: session.pick(GroundItem("pin", self.which.currentData()))
        )
        self.outer = choice(pen, "pin wall", ((False, "inside"), (True, "outer wall")))
        self.outer.activated.connect(
            lambda _: self._change("Change the wall of a pin", outer=self.outer.currentData())
        )
        self.cover_from = Combo(pen)
        self.cover_from.setObjectName("pin cover from")
        self.cover_from.setAccessibleName("Cover of a pin from")
        self.cover_from.activated.connect(
            lambda _: self._change(
                "Change the cover of a pin", cover_from=self.cover_from.currentData()
            )
        )
        self.ticks: dict[str, QCheckBox] = {}
        self.decimals, self.words = QLineEdit(), QLineEdit()
        for w, name in ((self.decimals, "pin decimals"), (self.words, "pin words")):
            w.setObjectName(name)
            w.setAccessibleName(name.capitalize())
        self.words.setPlaceholderText("invert=bottom, cover=over it")
        self.decimals.editingFinished.connect(self._decimals)
        self.words.editingFinished.connect(self._words)
        self.says = label("Press V, move along a pipe and click to pin its levels there.", "small")
        self.says.setWordWrap(True)
        whole = Stack(self, 3)
        whole.addWidget(label("Levels pinned", "section"))
        whole.addWidget(self.says)
        self.body = QWidget()
        inner = Stack(self.body, 3)
        inner.addWidget(self.which)
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(2)
        for i, name in enumerate(PIN_FIELDS):
            box = QCheckBox(PIN_WORDS[name] if name not in ("chainage", "distance") else name)
            box.setObjectName(f"pin says {name}")
            box.clicked.connect(lambda _=False: self._fields())
            self.ticks[name] = box
            grid.addWidget(box, i // 3, i % 3)
        inner.addLayout(grid)
        inner.addLayout(
            fields(
                (
                    ("Levels at", self.outer),
                    ("Cover from", self.cover_from),
                    ("Decimals", self.decimals),
                    ("Words", self.words),
                ),
                78,
            )
        )
        inner.addWidget(chip("Delete", "drop pin", self._drop))
        whole.addWidget(self.body)

    def _pin(self) -> PinId | None:
        key = self.which.currentData()
        return key if key in self.session.state.current.project.pins else None

    def _change(self, name: str, **values: Any) -> None:
        pin = self._pin()
        if pin is not None:
            self.session.edit(name, lambda p, f: change_pin(p, pin, **values))
            self.refresh(self.session.state)

    def _fields(self) -> None:
        chosen = tuple(n for n in PIN_FIELDS if self.ticks[n].isChecked())
        self._change("Choose what a pin says", fields=chosen)

    def _decimals(self) -> None:
        pin = self._pin()
        if pin is None or self.decimals.text() == str(
            self.session.state.current.project.pins[pin].decimals
        ):
            return
        try:
            self._change("Change the decimals of a pin", decimals=int(self.decimals.text()))
        except ValueError:
            self.session.refused.emit(
                f'"{self.decimals.text()}" is no number of decimals: type 0 to 6.'
            )

    def _words(self) -> None:
        """Words before values, as "invert=bottom, cover=over it"; nothing after the sign takes
        the word away.
        """
        out: dict[str, str] = {}
        for part in self.words.text().split(","):
            name, sign, word = part.partition("=")
            if part.strip() and (not sign or name.strip() not in PIN_WORDS):
                self.session.refused.emit(
                    f'"{part.strip()}" names no value of a pin: write invert=bottom, cover=over it.'
                )
                return
            if part.strip():
                out[name.strip()] = word.strip()
        self._change("Change the words of a pin", words=out)

    def _drop(self) -> None:
        pin = self._pin()
        if pin is not None:
            delete_item(self.session, GroundItem("pin", pin), None)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        facts, pins = s.shown.facts, s.shown.project.pins
        there = [p for p in pins.values() if p.pipe in facts.pipes]
        self.body.setVisible(bool(there))
        self.says.setVisible(not there)
        texts = []
        for p in there:
            f = facts.pipes[p.pipe]
            said = ", ".join(t for _, t in pin_lines(f, facts, p))
            texts.append((p.id, f"{f.pipe.label} at {s.units.length(p.at)}: {said}"))
        if [
            (self.which.itemData(i), self.which.itemText(i)) for i in range(self.which.count())
        ] != texts:
            now = self.which.currentData()
            self.which.clear()
            for key, text in texts:
                self.which.addItem(text, key)
            self.which.setCurrentIndex(
                max(0, self.which.findData(now)) if now in pins else self.which.count() - 1
            )
        if s.chosen.item is not None and s.chosen.item.kind == "pin" and s.chosen.item.id in pins:
            self.which.setCurrentIndex(self.which.findData(s.chosen.item.id))
        pin = self._pin()
        if pin is None:
            return
        record = pins.get(pin) or s.current.project.pins[pin]
        self.outer.setCurrentIndex(self.outer.findData(record.outer))
        offer(
            self.cover_from, [(k, text, "") for k, text in surfaces_named(facts)], record.cover_from
        )
        for name, box in self.ticks.items():
            box.setChecked(name in record.fields)
        if not self.decimals.hasFocus():
            self.decimals.setText(str(record.decimals))
        if not self.words.hasFocus():
            self.words.setText(", ".join(f"{k}={v}" for k, v in record.words.items()))
