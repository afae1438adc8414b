"""The panel of what lies under and beside the work, in the order in which it is drawn; what is
selected is edited below.
"""

from collections.abc import Callable, Mapping
from functools import partial
from typing import Any

from PySide6.QtCore import QPoint, QRectF, Qt, QTimer
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QMenu,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from zumbert.app.guard import guarded
from zumbert.app.icons import painted
from zumbert.app.panels.rows import Stack, chip, clear, label, pair, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.ground.details import detail
from zumbert.app.stages.ground.groundacts import GroundActs
from zumbert.app.state import State
from zumbert.app.theme import ASIDES_WIDE, font
from zumbert.edits.grounditems import GroundItem, ItemKind, changed, item_name, moved, records
from zumbert.model.land import LAND_WORDS
from zumbert.model.service import SERVICE_KINDS

ASIDES = {
    "existing": "existing ground",
    "design": "design",
    "formation": "formation",
    "rock": "rock",
    "none": "",
}
GROUPS: tuple[tuple[ItemKind, str, str], ...] = (
    ("surface", "Surfaces", "No surface yet: import LandXML, points or a grid."),
    ("road", "Roads", "No road yet: import LandXML, or make one."),
    ("background", "Drawings", "No drawing by others."),
    ("land", "Land", "No area of land."),
    ("service", "Services", "No service of others."),
    ("spot", "Spot levels", "None pinned."),
    ("attachment", "Files", "No file attached."),
)

# a text, the name of a tool or act, and what does it
Adder = tuple[str, str, Callable[[str], None]]

FOLDED, FEW = 12, 6  # a group of more than so many things is folded to a few


@guarded
class Eye(QPushButton):
    """Shown or not: an eye, crossed where it is shut."""

    def __init__(self, pen: Pen, name: str, on: bool, toggle: Callable[[], object]) -> None:
        super().__init__()
        self.pen, self.on = pen, on
        self.setFixedSize(22, 22)
        self.setProperty("role", "eye")
        self.setObjectName(f"eye {name}")
        self.setAccessibleName(f"{'Hide' if on else 'Show'} {name}")
        self.setToolTip(f"{'Hide' if on else 'Show'} {name}")
        self.clicked.connect(lambda: toggle())

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        try:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            if self.hasFocus():
                p.setPen(self.pen.pen("soft"))
                p.drawRoundedRect(QRectF(0.5, 0.5, 21, 21), 3, 3)
            painted(
                p,
                "eye" if self.on else "eye-off",
                "ink" if self.on else "ink-2",
                self.pen.theme,
                3,
                3,
                16,
            )
        finally:
            p.end()


class GroundPanel(QWidget):
    """Each change is an edit with its undo step; the list is made anew when it changes."""

    def __init__(self, session: Session, pen: Pen, acts: GroundActs) -> None:
        super().__init__()
        self.session, self.pen, self.acts = session, pen, acts
        self._shown: tuple[object, ...] = ()
        self.detail: Any = None
        self._open: set[str] = set()  # long groups that are shown whole
        self.list, self.below = QVBoxLayout(), QVBoxLayout()
        self.list.setSpacing(2)
        self.below.setSpacing(5)
        whole = Stack(self, 6)
        whole.addWidget(label("Ground", "title"))
        whole.addWidget(label("What lies under the work, lowest first", "second"))
        whole.addWidget(rule())
        whole.addLayout(self.list)
        take = QPushButton("Import files …")
        take.setObjectName("import files")
        take.setToolTip("LandXML, DXF, points, grids, CSV or TOML (Ctrl+I)")
        take.clicked.connect(lambda: acts.import_files())
        whole.addWidget(take)
        whole.addWidget(rule())
        whole.addLayout(self.below)
        whole.addStretch(1)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        p = s.shown.project
        kinds = tuple(records(p, kind) for kind, _, _ in GROUPS)
        key = (*kinds, s.chosen.item, p.settings)
        if len(key) == len(self._shown) and all(
            a is b or (i >= 7 and a == b)
            for i, (a, b) in enumerate(zip(key, self._shown, strict=True))
        ):
            if self.detail is not None:
                self.detail.refresh(s)
            return
        same_item = self._shown[7:8] == (s.chosen.item,) and self.detail is not None
        self._shown = key
        self._fill(s)
        if same_item and self.detail.still_shown(s):
            self.detail.refresh(s)
            return
        clear(self.below)
        self.detail = detail(self.session, self.pen, s, self.acts)
        if self.detail is not None:
            self.below.addWidget(self.detail)
            self.detail.refresh(s)
            QTimer.singleShot(0, self, self._bring_into_sight)

    def _bring_into_sight(self) -> None:
        """Scrolls to the fields of what is selected."""
        scroll = self.parent()
        while scroll is not None and not isinstance(scroll, QScrollArea):
            scroll = scroll.parent()
        if scroll is None or self.detail is None:
            return
        top = self.detail.mapTo(scroll.widget(), QPoint(0, 0)).y()
        bar, tall = scroll.verticalScrollBar(), scroll.viewport().height()
        if top + min(self.detail.height(), tall) > bar.value() + tall or top < bar.value():
            bar.setValue(top - 40)

    def _fold(self, kind: str) -> None:
        self._open ^= {kind}
        self._fill(self.session.state)

    def _fill(self, s: State) -> None:
        clear(self.list)
        for kind, title, otherwise in GROUPS:
            self.list.addLayout(pair(label(title, "section"), self._adder(kind)))
            found = records(s.shown.project, kind)
            if not found:
                self.list.addWidget(wrapped(otherwise, "small"))
            long = len(found) > FOLDED
            shown = found if not long or kind in self._open else dict(list(found.items())[:FEW])
            chosen = (
                s.chosen.item.id
                if s.chosen.item is not None
                and s.chosen.item.kind == kind
                and s.chosen.item.id in found
                else None
            )
            if chosen is not None and chosen not in shown:
                shown = {**shown, chosen: found[chosen]}
            for key, r in shown.items():
                self.list.addLayout(self._row(s, GroundItem(kind, key), r))
            if long:
                words = "Show fewer" if kind in self._open else f"Show all {len(found)}"
                self.list.addWidget(
                    chip(words, f"fold {kind}", partial(self._fold, kind)),
                    0,
                    Qt.AlignmentFlag.AlignLeft,
                )
            self.list.addSpacing(4)

    def _row(self, s: State, item: GroundItem, r: Any) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(4)
        project, name = s.shown.project, item_name(s.shown.project, item)
        if hasattr(r, "shown"):
            on = bool(r.shown)
            word = "Hide" if on else "Show"
            row.addWidget(
                Eye(
                    self.pen,
                    name,
                    on,
                    partial(
                        self.session.edit,
                        f"{word} {name}",
                        lambda p, f: changed(p, item, shown=not on),
                    ),
                )
            )
        button = QPushButton(name)
        button.setProperty("role", "item")
        button.setCheckable(True)
        button.setChecked(s.chosen.item == item)
        button.setObjectName(f"{item.kind} {name}")
        button.setAccessibleName(f"{item.kind} {name}")
        button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        button.clicked.connect(
            lambda: self.session.pick(None if self.session.state.chosen.item == item else item)
        )
        row.addWidget(button, 1)
        aside = label(_aside(project, item, r), "small")
        names = (
            QFontMetrics(font(13, 600)).horizontalAdvance(button.text()),
            aside.fontMetrics().horizontalAdvance(aside.text()),
        )
        if sum(names) > ASIDES_WIDE:  # the name goes first; the rest is told where one stays
            button.setToolTip(aside.text())
            aside.clear()
        row.addWidget(aside)
        if s.chosen.item == item and len(records(project, item.kind)) > 1:
            for text, by, tip in (
                ("\u2191", -1, "Draw it sooner"),
                ("\u2193", 1, "Draw it later, over the others"),
            ):
                b = QPushButton(text)
                b.setProperty("role", "chip")
                b.setToolTip(tip)
                b.setAccessibleName(tip)
                b.setObjectName(f"order {by}")
                b.clicked.connect(
                    lambda _=False, n=by: self.session.edit(
                        f"Change the order of {name}", lambda p, f: moved(p, item, n)
                    )
                )
                row.addWidget(b)
        return row

    def _adder(self, kind: ItemKind) -> QWidget:
        """The button that creates a new item of a kind."""
        take = self.acts.take
        choices: dict[str, tuple[Adder, ...]] = {
            "road": (
                ("Make a road by points", "make-road", take),
                ("Make a road from a drawn line", "road-from-line", take),
            ),
            "land": self._ways("land", {k: w.lower() for k, w in LAND_WORDS.items()}),
            "service": self._ways("service", {k: k for k in SERVICE_KINDS}),
            "spot": (("Pin spot levels", "spot", take),),
            "attachment": (
                ("Keep a file inside", "attach", lambda _: self.acts.attach()),
                ("Link a file", "link", lambda _: self.acts.link()),
            ),
        }
        found = choices.get(kind)
        if found is None:
            return QWidget()
        button = QPushButton("Add")
        button.setProperty("role", "chip")
        button.setObjectName(f"add {kind}")
        button.setAccessibleName(f"Add a {kind}")
        if len(found) == 1:
            button.clicked.connect(lambda: found[0][2](found[0][1]))
            return button
        menu = QMenu(button)
        for text, name, run in found:
            entry = menu.addAction(text)
            entry.setObjectName(name)
            entry.triggered.connect(lambda _=False, name=name, run=run: run(name))
        button.clicked.connect(lambda: menu.popup(button.mapToGlobal(button.rect().bottomLeft())))
        button.setContextMenuPolicy(Qt.ContextMenuPolicy.NoContextMenu)
        return button

    def _ways(self, what: str, words: Mapping[Any, str]) -> tuple[Adder, ...]:
        """Drawing one of a kind, or making it from a drawn line."""
        take = self.acts.take
        drawn = tuple((f"Draw: {text}", f"draw-{what}-{key}", take) for key, text in words.items())
        from_line = (
            (f"From a drawn line: {text}", f"{what}-from-line-{key}", take)
            for key, text in words.items()
        )
        return (*drawn, *from_line)


def _aside(project: Any, item: GroundItem, r: Any) -> str:
    """A word beside the name: the role, the kind, a level."""
    if item.kind == "surface":
        return ASIDES[r.role]
    if item.kind == "road":
        return "strip surface" if r.strip is not None and r.strip.surface else ""
    if item.kind == "land":
        return LAND_WORDS[r.kind].lower()
    if item.kind == "attachment":
        return "inside" if r.data is not None else "linked"
    return {"service": getattr(r, "kind", ""), "spot": getattr(r, "follows", "")}.get(item.kind, "")
