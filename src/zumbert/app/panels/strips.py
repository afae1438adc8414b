"""The strips round the drawings: head with run picker and state line, stage rail, section head, foot."""

from collections.abc import Callable
from typing import Any

import numpy as np
from PySide6.QtCore import QPoint, QRect, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from zumbert.analysis.roads import nearest
from zumbert.analysis.runs import RunKey, outline
from zumbert.analysis.surfaces import levels
from zumbert.app.icons import painted
from zumbert.app.panels.rows import ValueField, draw_sign, label, to_drawing
from zumbert.app.panels.waiting import bar_and_button
from zumbert.app.pen import Pen
from zumbert.app.session import Session, Stage, State
from zumbert.app.theme import font, qcolor, restyle
from zumbert.drawing.sectionprofile import has_profile
from zumbert.model.display import Units

STAGES: tuple[tuple[Stage, str], ...] = (
    ("ground", "Ground"),
    ("layout", "Layout"), ("levels", "Levels"), ("checks", "Checks"), ("trench", "Trench"),
)  # fmt: skip


class Logo(QPushButton):
    """The mark; a click opens the main menu."""

    def __init__(self, pen: Pen) -> None:
        super().__init__()
        self.pen = pen
        self.setFixedSize(56, 43)
        self.setProperty("role", "mark")
        self.setAccessibleName("Main menu")
        self.setToolTip("Main menu (Alt+M)")

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        try:
            if self.underMouse() or self.hasFocus():
                p.fillRect(self.rect().adjusted(6, 5, -6, -4), qcolor("chrome-2", self.pen.theme))
            painted(p, "mark", "ink", self.pen.theme, 16, 8, 28)
        finally:
            p.end()


class RunPicker(QPushButton):
    """Which run or road the long section shows, with its length and fall."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self.setFixedSize(372, 30)
        self.setAccessibleName("Run shown in the long section")
        self.setObjectName("runpicker")
        self.clicked.connect(self.open)
        self._said: tuple[str, str] = ("", "")
        session.changed.connect(lambda old, new: self._changed(old, new))

    def _changed(self, old: State, new: State) -> None:
        if (old.run is not new.run or old.fresh is not new.fresh) and self._said != self._words():
            self.update()

    def _words(self) -> tuple[str, str]:
        """The name of the run, and its length and fall."""
        s = self.session.state
        name = s.run.name if s.run is not None else "No run yet"
        name += ", in hand" if s.run is not None and any(r.pipe in s.fresh for r in s.run.reaches) else ""
        return name, _measure(s.units, s.run.length, s.run.fall) if s.run is not None else "lay one in Layout"

    def open(self) -> None:
        """The menu of all runs and roads."""
        menu = self.menu_of_runs()
        menu.setMinimumWidth(self.width())
        menu.popup(self.mapToGlobal(QPoint(0, self.height() + 2)))

    def _show(self, key: RunKey) -> None:
        self.session.show_run(key)
        to_drawing(self)

    def menu_of_runs(self) -> QMenu:
        """One entry a run, then roads."""
        menu = QMenu(self)
        s = self.session.state
        kind = ""
        for key in s.keys:
            if kind and key.kind != kind:
                menu.addSeparator()
            kind = key.kind
            shown = outline(s.kept.facts, key)
            if shown is not None:
                act = menu.addAction(f"{shown.name}\t{_measure(s.units, shown.length, shown.fall)}")
                act.setData(key)
                act.triggered.connect(lambda _=False, k=key: self._show(RunKey(*k)))
        return menu

    def paintEvent(self, event: QPaintEvent) -> None:
        theme = self.pen.theme
        self._said = name, words = self._words()
        p = QPainter(self)
        try:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.setPen(qcolor("ink" if self.hasFocus() else "soft", theme))
            p.setBrush(qcolor("field", theme))
            p.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1), 4, 4)
            painted(p, "run", "storm", theme, 8, 5, 20)
            p.setFont(font(13, 600))
            p.setPen(qcolor("ink", theme))
            room = QRect(38, 0, self.width() - 66, self.height())
            drawn = p.boundingRect(room, Qt.AlignmentFlag.AlignVCenter, name)
            p.drawText(room, Qt.AlignmentFlag.AlignVCenter, name)
            p.setFont(font(12.5))
            p.setPen(qcolor("ink-2", theme))
            p.drawText(room.adjusted(drawn.width() + 12, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)
            painted(p, "chevron", "ink-2", theme, self.width() - 24, 7, 16)
        finally:
            p.end()


def _measure(u: Units, long: float, fall: float | None) -> str:
    return f"{u.long(long)}" + (f", falls {u.long(fall)}" if fall is not None else "")


class StateLine(QPushButton):
    """Breaches, cautions, saved or not; a click goes to the checks."""

    def __init__(self, session: Session, pen: Pen, to_checks: Callable[[], None]) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self.setFixedSize(330, 43)
        self.setObjectName("stateline")
        self.setToolTip("Go to the checks")
        self.clicked.connect(lambda: to_checks())
        session.changed.connect(self._changed)
        self._name()

    def _changed(self, old: State, new: State) -> None:
        if old.shown is not new.shown or old.saved != new.saved or old.saved_at != new.saved_at:
            if self.parts() != self._said:
                self._name()
                self.update()

    def _name(self) -> None:
        self._said = self.parts()
        self.setAccessibleName(", ".join(text for text, _ in self._said))

    def parts(self) -> list[tuple[str, str]]:
        """Texts and their roles, from left to right."""
        s = self.session.state
        found = (s.kept if s.fresh else s.shown).findings  # what is not placed yet counts for nothing
        b, c = found.breaches, found.cautions
        judged = s.kept.project.pipes or s.kept.project.structures
        breach = f"{b} breach{'' if b == 1 else 'es'}" if b else "No breach" if judged else "Nothing to check yet"
        out = [(breach, "breach" if b else "ink" if judged else "ink-2")]
        if c:
            out.append((f"{c} caution{'' if c == 1 else 's'}", "caution"))
        saved = (
            f"Saved {s.saved_at}".strip() if s.saved and s.path else "Not saved" if not s.saved else "Nothing to save"
        )
        return [*out, (saved, "ink-2")]

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        try:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            x = float(self.width() - 16)
            for i, (text, role) in enumerate(reversed(self.parts())):
                p.setFont(font(12.5, 600 if role in ("breach", "caution") else 400))
                wide = p.fontMetrics().horizontalAdvance(text)
                p.setPen(qcolor(role, self.pen.theme))
                p.drawText(QRectF(x - wide, 0, wide + 2, self.height()), Qt.AlignmentFlag.AlignVCenter, text)
                x -= wide
                if role in ("breach", "caution"):
                    draw_sign(p, self.pen, role, x - 12, self.height() / 2)
                    x -= 20
                if i == 0:
                    p.setPen(qcolor("soft", self.pen.theme))
                    p.drawLine(round(x - 12), 13, round(x - 12), self.height() - 13)
                    x -= 8
                x -= 16
        finally:
            p.end()


class Head(QWidget):
    """Mark, project, run picker, finder, state line; over a file that is only looked at, that it is so."""

    def __init__(
        self, session: Session, pen: Pen, finder: QWidget, to_checks: Callable[[], None], anew: Callable[[], object]
    ) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("head")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(44)
        self.logo, self.picker, self.state = Logo(pen), RunPicker(session, pen), StateLine(session, pen, to_checks)
        self.name, self.file = label("", "strong"), label("", "small")
        self.looks = chip("Look only", "look only", False)
        self.looks.clicked.connect(lambda: anew())
        names = QVBoxLayout()
        names.setSpacing(0)
        names.setContentsMargins(0, 4, 0, 4)
        names.addWidget(self.name)
        under = QHBoxLayout()
        under.setSpacing(4)
        under.addWidget(self.looks)
        under.addWidget(self.file, 1)
        names.addLayout(under)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 0, 0, 1)
        row.setSpacing(8)
        row.addWidget(self.logo)
        holder = QWidget()
        holder.setLayout(names)
        holder.setFixedWidth(184)
        row.addWidget(holder)
        row.addWidget(self.picker)
        row.addSpacing(4)
        row.addWidget(finder)
        row.addStretch(1)
        row.addWidget(self.state)
        session.changed.connect(self._changed)
        self.refresh()

    def _changed(self, old: State, new: State) -> None:
        if old.kept is not new.kept or any(getattr(old, n) != getattr(new, n) for n in ("path", "look_only", "free")):
            self.refresh()

    def refresh(self) -> None:
        """Shows project and file."""
        s = self.session.state
        self.name.setText(s.kept.project.name)
        self.file.setText(s.path.name if s.path is not None else "not in a file yet")
        self.looks.setVisible(s.look_only)
        self.looks.setText("Read anew" if s.free else "Look only")
        self.looks.setEnabled(s.free)
        self.looks.setToolTip(
            "Nobody else has this file now: open it as it was saved, to work on it"
            if s.free
            else "Open elsewhere: changes are saved to another file"
        )


class StageButton(QPushButton):
    """One stage of the rail: icon over name; the one in force stands on paper with an ink edge."""

    def __init__(self, pen: Pen, stage: Stage, text: str) -> None:
        super().__init__()
        self.pen, self.stage, self.text_ = pen, stage, text
        self.setFixedSize(71, 62)
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setProperty("role", "rail")
        self.setObjectName(f"stage {stage}")
        self.setAccessibleName(f"Stage {text}")

    def paintEvent(self, event: QPaintEvent) -> None:
        p, theme = QPainter(self), self.pen.theme
        try:
            if self.isChecked():
                p.fillRect(self.rect(), qcolor("paper", theme))
                p.fillRect(QRect(0, 0, 3, self.height()), qcolor("ink", theme))
            elif self.underMouse() or self.hasFocus():
                p.fillRect(self.rect(), qcolor("chrome-2", theme))
            painted(p, self.stage, "ink" if self.isChecked() else "ink-2", theme, self.width() / 2 - 12, 9, 24)
            p.setFont(font(11.5, 600 if self.isChecked() else 400))
            p.setPen(qcolor("ink" if self.isChecked() else "ink-2", theme))
            p.drawText(QRect(0, 38, self.width(), 18), Qt.AlignmentFlag.AlignCenter, self.text_)
        finally:
            p.end()


class Rail(QWidget):
    """The stages; each chooses tools, overlays and side panel, and locks nothing."""

    def __init__(self, session: Session, pen: Pen, go: Callable[[Stage], None]) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("rail")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(72)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 8, 1, 8)
        column.setSpacing(4)
        self.buttons: dict[Stage, StageButton] = {}
        for stage, text in STAGES:
            b = StageButton(pen, stage, text)
            b.clicked.connect(lambda _=False, s=stage: go(s))
            self.buttons[stage] = b
            column.addWidget(b)
        column.addStretch(1)
        session.changed.connect(lambda old, new: self.refresh())
        self.refresh()

    def refresh(self) -> None:
        """Shows which stage is in force."""
        self.buttons[self.session.state.stage].setChecked(True)


def chip(text: str, name: str, checkable: bool = True) -> QPushButton:
    """A small round switch."""
    out = QPushButton(text)
    out.setProperty("role", "chip")
    out.setCheckable(checkable)
    out.setObjectName(f"chip {name}")
    return out


class SectionHead(QWidget):
    """What the long section shows, with its switches and scales."""

    def __init__(
        self, session: Session, scales: Callable[[], tuple[float, float]], switch: Callable[[str], None],
        set_scale: Callable[[Any, float], None],
    ) -> None:  # fmt: skip
        super().__init__()
        self.session, self._scales, self._set_scale = session, scales, set_scale
        self.setObjectName("sectionhead")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(26)
        self.what, self.scale = label("", "second"), label("", "second")
        self.what.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.fields = {axis: self._scale_field(axis) for axis in ("along", "up")}
        self.kept = chip("Ratio kept", "ratio")
        self.kept.setToolTip(
            "Zooming keeps the ratio of both scales; else it changes lengths alone, and with Shift levels."
        )
        self.kept.clicked.connect(lambda: session.set(ratio_kept=not session.state.ratio_kept))
        self.chips = {
            "legal": chip("Legal band", "legal"),
            "cover": chip("Least cover", "cover"),
            "services": chip("Crossings", "services"),
            "profile": chip("Road profile", "profile"),
            "trench": chip("Trench bottom", "trench"),
        }
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 14, 0)
        row.setSpacing(8)
        row.addWidget(label("Long section", "section"))
        row.addWidget(self.what, 1)
        for key, button in self.chips.items():
            button.clicked.connect(lambda _=False, k=key: switch(k))
            row.addWidget(button)
        row.addWidget(self.kept)
        line = QHBoxLayout()
        line.setSpacing(2)
        for axis, word in (("along", "H 1:"), ("up", "V 1:")):
            line.addWidget(label(word, "second"))
            line.addWidget(self.fields[axis])
        line.addWidget(self.scale)
        row.addLayout(line)
        session.changed.connect(self._changed)
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
            ratio = float(text.strip().removeprefix("1:"))
        except ValueError:
            ratio = 0.0
        if not LEAST_RATIO <= ratio <= MOST_RATIO:
            self.session.refused.emit(f'"{text}" is no scale of a long section: type 500 or 1:500.')
            return False
        self._set_scale(axis, ratio)
        return True

    def _changed(self, old: State, new: State) -> None:
        if (
            old.ratio_kept != new.ratio_kept
            or old.run is not new.run
            or old.shows != new.shows
            or old.stage != new.stage
        ):
            self.refresh()

    def refresh(self) -> None:
        """Shows run, switches and scales."""
        s = self.session.state
        if s.run is None:
            self.what.setText("no run yet")
        elif s.run.key.kind == "road":
            self.what.setText(f"along {s.run.name}")
        else:
            there = [s.shown.project.structures[k].label for k, _ in s.run.structures[:1]]
            self.what.setText(f"from {there[0]}" if there else "all structures left out")
        for key, button in self.chips.items():
            on = key in s.picture.shows
            button.setChecked(on)
            button.setText(("\u2713 " if on else "") + button.text().removeprefix("\u2713 "))
        self.chips["trench"].setVisible(s.stage == "trench")
        self.chips["legal"].setVisible(s.stage == "levels")
        h, v = self._scales()
        self.fields["along"].show_value(f"{h:.0f}", False)
        self.fields["up"].show_value(f"{v:.0f}" if v >= 10 else f"{v:.1f}", False)
        self.scale.setText(f"(×{h / v:.2f})".replace(".00)", ")"))
        self.kept.setChecked(s.ratio_kept)
        self.kept.setText(("\u2713 " if s.ratio_kept else "") + "Ratio kept")
        self.chips["profile"].setVisible(s.run is not None and has_profile(s.picture))


LEAST_RATIO, MOST_RATIO = 1.0, 50_000.0
LONGEST = 16  # letters of a surface's name in the foot


class Foot(QWidget):
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
        session.changed.connect(self._changed)
        session.refused.connect(self.refuse)
        self.refresh()

    def refuse(self, text: str) -> None:
        """A sentence about what was refused, until the next thing happens."""
        if self.session.trying:
            return
        self._refusal = text
        self._show_hint()

    def _say_source(self, name: str, surface: str | None) -> None:
        """The surface that gives a level, in the place of the word for it; a long name is cut, and whole in the tip."""
        head, text = self.heads[name], surface or name
        shown = text if len(text) <= LONGEST else f"{text[: LONGEST - 1]}\u2026"
        if head.text() != shown:
            head.setText(shown)
            head.setToolTip(f"{name}: {text}")
            self.values[name].setToolTip(f"{name} level from {text}")

    def progress(self, share: float | None, words: str) -> None:
        """How far long work is, 0 to 1, with a button that gives it up; None: it is over."""
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

    def _changed(self, old: State, new: State) -> None:
        if (
            old.kept is not new.kept
            or old.pipes is not new.pipes
            or old.structures is not new.structures
            or old.stage != new.stage
        ):
            self._refusal = ""
        a, b = old.shown.facts, new.shown.facts
        world = a.surfaces is b.surfaces and a.roads is b.roads and a.project.settings is b.project.settings
        if old.place != new.place or not world:
            self.refresh()
        else:
            self._show_hint()

    def _show_hint(self) -> None:
        text, role = self._refusal or self._hint(), "breach" if self._refusal else ""
        if self.hint.text() != text:
            self.hint.setText(text)
            self.hint.setToolTip(text)
        if (self.hint.property("role") or "") != role:
            self.hint.setProperty("role", role)
            restyle(self.hint)

    def refresh(self) -> None:
        """Shows the place under the cursor."""
        s = self.session.state
        texts = dict.fromkeys(self.values, "\u2013")
        if s.place is not None:
            texts |= place_words(s, *s.place)
        for name, text in texts.items():
            w = self.values[name]
            w.setText(text)
            wide = w.fontMetrics().horizontalAdvance(text) + 4
            if wide > w.width():  # coordinates of seven digits are shown whole; it does not shrink again under the hand
                w.setFixedWidth(wide)
        names = s.shown.facts.surfaces.names
        for name, role in (("ground", "existing"), ("design", "design"), ("formation", "formation")):
            self._say_source(name, names.get(role))
        for w in (self.heads["formation"], self.values["formation"]):
            w.setVisible(s.shown.facts.surfaces.formation is not None)
        self._show_hint()


def place_words(s: State, x: float, y: float) -> dict[str, str]:
    """x, y, chainage, offset, ground, design and formation level at a place; chainages on the road shown, else the nearest."""
    u = s.units
    facts = s.shown.facts
    px, py = np.array([x]), np.array([y])
    ground, design = float(levels(facts.surfaces.existing, px, py)[0]), float(levels(facts.surfaces.design, px, py)[0])
    formation = float(levels(facts.surfaces.formation, px, py)[0])
    near = nearest(facts.roads, px, py)
    ch, off = float(near.chainage[0]), float(near.offset[0])
    best = (ch, off) if ch == ch else None
    return {
        "x": u.coordinate(x), "y": u.coordinate(y),
        "chainage": u.chainage(best[0] if best else None), "offset": u.offset(best[1] if best else None),
        "ground": u.level(ground if ground == ground else None), "design": u.level(design if design == design else None),
        "formation": u.level(formation if formation == formation else None),
    }  # fmt: skip
