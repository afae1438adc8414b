"""The page of one sheet: its title, paper, scales, and what is on it."""

from collections.abc import Callable
from functools import partial
from math import degrees, radians
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QWidget

from zumbert.analysis.runlist import outline
from zumbert.app.panels.fields import ValueField, choice
from zumbert.app.panels.rows import Stack, fields, label, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.deliver.checklist import CheckList
from zumbert.app.state import State
from zumbert.delivery.pages import Leaf
from zumbert.delivery.schedules import SCHEDULE_KINDS
from zumbert.delivery.tablesheets import USUAL
from zumbert.drawing.levelrows import row_names
from zumbert.edits.sheets import change_sheet
from zumbert.errors import EditError
from zumbert.model.display import Units, number
from zumbert.model.project import Project
from zumbert.model.quantity import ANGLE
from zumbert.model.sheet import PAPERS, SHEET_KINDS, Along, Sheet
from zumbert.model.typed import typed_number

PLANS = (("straightened", "straightened"), ("turned", "turned, true shape"))
SWITCHES = {
    "upright": "Upright",
    "legend": "Legend",
    "grid": "Grid with coordinates",
    "key_plan": "Key plan",
}
NAMES = {
    "title": "Title", "paper": "Paper", "size": "Size, mm", "scale": "Scale 1:", "up": "Levels 1:",
    "plan": "Plan",
    "overlap": "Overlap", "turn": "Turned, °", "window": "Window", "step": "Section every",
    "chainages": "Or at",
}  # fmt: skip
LISTS = {
    "along": ("Along", "None ticked: all runs"),
    "rows": ("Level rows", "None ticked: as in the project"),
    "structures": ("Chambers", "None ticked: all"),
    "tables": ("Tables", "None ticked on a sheet of tables: structures and pipes"),
}  # fmt: skip
TALL = {"along": 96, "rows": 120, "structures": 150, "tables": 190}


class SheetPage(QWidget):
    """Each change is an undo step."""

    def __init__(self, session: Session, pen: Pen, picked: Callable[[], Leaf | None]) -> None:
        super().__init__()
        self.session, self._picked = session, picked
        self.sheet: Sheet | None = None
        self.kind = label("", "section")
        self.none = wrapped(
            "No sheet is shown. Add one below the list, or make the usual set.", "second"
        )
        self.values = {
            k: self._field(k)
            for k in (
                "title",
                "size",
                "scale",
                "up",
                "overlap",
                "turn",
                "window",
                "step",
                "chainages",
            )
        }
        self.combos = {
            "paper": choice(pen, "sheet paper", [(p, p) for p in PAPERS]),
            "plan": choice(pen, "sheet plan", PLANS),
        }
        for name, box in self.combos.items():
            box.activated.connect(partial(self._chosen, name, box))
        self.switches = {k: QCheckBox(text) for k, text in SWITCHES.items()}
        for name, switch in self.switches.items():
            switch.setObjectName(f"sheet {name}")
            switch.clicked.connect(lambda on, name=name: self._change(name, on))
        self.lists = {k: CheckList(f"sheet {k}", TALL[k], partial(self._ticked, k)) for k in LISTS}
        self.heads = {
            k: (label(LISTS[k][0], "section"), label(LISTS[k][1], "small")) for k in LISTS
        }
        self._grid = fields([(NAMES[k], self._widget(k)) for k in NAMES], 84)
        whole = Stack(self, 5)
        for w in (self.none, self.kind):
            whole.addWidget(w)
        whole.addLayout(self._grid)
        for switch in self.switches.values():
            whole.addWidget(switch)
        for k in LISTS:
            parts: tuple[QWidget, ...] = (*self.heads[k], self.lists[k])
            for part in parts:
                whole.addWidget(part)

    def _widget(self, key: str) -> QWidget:
        return self.values[key] if key in self.values else self.combos[key]

    def _field(self, key: str) -> ValueField:
        field = ValueField(f"sheet {key}", partial(self._take, key))
        field.setAlignment(Qt.AlignmentFlag.AlignLeft)
        field.setPlaceholderText(
            {"window": "the whole job", "chainages": "at each step"}.get(key, "")
        )
        if key == "window":
            field.setToolTip(
                "x and y of its middle, and width and height where it is larger than a sheet; "
                "empty: the whole job"
            )
        elif key == "chainages":
            field.setToolTip(
                "Chainages of the sections, with blanks between; empty: one at each step"
            )
        return field

    # -- what is shown -----------------------------------------------------------------------------

    def refresh(self, s: State) -> None:
        """Shows the sheet of the page that is picked."""
        leaf = self._picked()
        sheet = (
            leaf.sheet if leaf is not None else next(iter(s.shown.project.sheets.values()), None)
        )
        self.sheet = sheet
        self.none.setVisible(sheet is None)
        self.kind.setVisible(sheet is not None)
        has = ("title", "paper", *SHEET_KINDS[sheet.kind].has) if sheet is not None else ()
        if sheet is not None and sheet.paper == "custom":
            has = (*has, "size")
        elif sheet is not None:
            has = (*has, "upright")
        for i, key in enumerate(NAMES):
            for column in (0, 1):
                item = self._grid.itemAtPosition(i, column)
                shown = item.widget() if item is not None else None
                if shown is not None:
                    shown.setVisible(key in has)
        for key, switch in self.switches.items():
            switch.setVisible(key in has)
        for key in LISTS:
            for w in (*self.heads[key], self.lists[key]):
                w.setVisible(key in has)
        if sheet is not None:
            self._show(s, sheet, has)

    def _show(self, s: State, sheet: Sheet, has: tuple[str, ...]) -> None:
        self.kind.setText(SHEET_KINDS[sheet.kind].words)
        for key, field in self.values.items():
            field.show_value(self._text(s, sheet, key), False)
        for key, box in self.combos.items():
            box.setCurrentIndex(box.findData(getattr(sheet, key)))
        for key, switch in self.switches.items():
            switch.setChecked(getattr(sheet, key))
        p = s.shown.project
        if "along" in has:
            names = [
                (f"{k.kind} {k.id}", o.name)
                for k in s.look.keys
                if (o := outline(s.shown.facts, k)) is not None
            ]
            self.lists["along"].show_ticks(names, [f"{a.kind} {a.id}" for a in sheet.along])
        if "rows" in has:
            self.lists["rows"].show_ticks([(n, n) for n in row_names()], sheet.rows)
        if "structures" in has:
            chambers = [(k, r.label) for k, r in p.structures.items() if p.types[r.type].inside]
            self.lists["structures"].show_ticks(chambers, sheet.structures)
        if "tables" in has:
            names = [(k.name, k.title) for k in SCHEDULE_KINDS] + (
                [("differences", "Differences")] if p.issues else []
            )
            usual = USUAL if sheet.kind == "tables" else ()
            self.lists["tables"].show_ticks(names, sheet.tables or usual)

    def _text(self, s: State, sheet: Sheet, key: str) -> str:
        u = s.units
        if key == "title":
            return sheet.title
        if key == "size":
            return f"{sheet.size[0]:g} x {sheet.size[1]:g}"
        if key in ("scale", "up"):
            return f"{getattr(sheet, key):g}"
        if key == "turn":
            return number(degrees(sheet.turn), 1)
        if key == "window":
            return ", ".join(
                u.coordinate(v) for v in (*(sheet.centre or ()), *(sheet.window or ()))
            )
        if key == "chainages":
            return " ".join(u.full(v, 2) for v in sheet.chainages)
        return u.full(getattr(sheet, key), 2)

    # -- what is changed ---------------------------------------------------------------------------

    def _change(self, key: str, value: Any) -> bool:
        sheet = self.sheet
        if sheet is None:
            return False
        return self.session.edit(
            f"Change the sheet {sheet.title}",
            lambda p, f: change_sheet(p, sheet.id, **{key: value}),
        )

    def _chosen(self, key: str, box: QComboBox, index: int) -> None:
        self._change(key, box.itemData(index))

    def _ticked(self, key: str, keys: tuple[str, ...]) -> None:
        value: Any = tuple(Along(*k.split(" ", 1)) for k in keys) if key == "along" else keys  # type: ignore[arg-type]
        self._change(key, value)

    def _take(self, key: str, text: str) -> bool:
        sheet, u = self.sheet, self.session.units
        if sheet is None:
            return False

        def read() -> Any:
            if key == "title":
                return text
            if key == "size":
                return _numbers(
                    text.lower().replace("x", " "),
                    2,
                    "A paper is typed as width x height in mm: 594 x 420.",
                )
            if key == "turn":
                return radians(u.typed(text, of=ANGLE))
            if key == "chainages":
                return tuple(u.typed_chainage(t) for t in text.replace(";", " ").split())
            return typed_number(text) if key in ("scale", "up") else u.typed(text)

        def make(p: Project, f: object) -> Project:
            return change_sheet(
                p, sheet.id, **(_window(text, u) if key == "window" else {key: read()})
            )

        return self.session.edit(f"Change the sheet {sheet.title}", make)


def _window(text: str, u: Units) -> dict[str, Any]:
    """The middle of a plan and, where it is given, its width and height; none for the whole job.
    Raises EditError.
    """
    if not text.strip():
        return {"centre": None, "window": None}
    words = text.replace(";", " ").replace(",", " ")
    many = 4 if len(words.split()) == 4 else 2
    values = [
        u.si(v)
        for v in _numbers(
            words,
            many,
            "The window of a plan is typed as x, y of its middle, then its width and height.",
        )
    ]
    return {"centre": tuple(values[:2]), "window": tuple(values[2:]) or None}


def _numbers(text: str, many: int, otherwise: str) -> tuple[float, ...]:
    """So many numbers. Raises EditError for a text of others."""
    try:
        values = tuple(map(typed_number, text.split()))
    except ValueError:
        values = ()
    if len(values) != many:
        raise EditError(otherwise)
    return values
