"""Limits that the selected pipes or structures have of their own, and rules that are waived
there, each with its reason.
"""

from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QWidget

from zumbert.app.panels.fields import Combo
from zumbert.app.panels.rows import Stack, chip, clear, label, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.told import told
from zumbert.checks.check import RULES
from zumbert.edits.standards import (
    as_standard,
    limit_of_rule,
    limit_words,
    set_own_limit,
    typed_limit,
)
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import Pipe
from zumbert.model.structure import Structure

Thing = PipeId | StructureId


class OwnLimits(QWidget):
    """A list of them, and a line that adds one: the rule, its limit there (none: waived) and
    why.
    """

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self._shown: object = None
        self.things: list[Thing] = []
        self.list = Stack(None, 3)
        self.rule = Combo(pen).as_wide_as_its_column()
        self.rule.setObjectName("own rule")
        self.rule.setAccessibleName("Rule")
        self.value, self.reason = QLineEdit(), QLineEdit()
        for field, name, hint in (
            (self.value, "own limit", "waived"),
            (self.reason, "own reason", "Reason"),
        ):
            field.setObjectName(name)
            field.setAccessibleName(name.capitalize())
            field.setPlaceholderText(hint)
            field.returnPressed.connect(self._take)
        self.value.setFixedWidth(64)
        self.set = QPushButton("Set")
        self.set.setObjectName("set own limit")
        self.set.clicked.connect(lambda: self._take())
        whole = Stack(self, 4)
        whole.addWidget(label("Limits of its own", "section"))
        whole.addLayout(self.list)
        for line_of in ((self.rule, self.value), (self.reason, self.set)):
            line = QHBoxLayout()
            for i, w in enumerate(line_of):
                line.addWidget(w, 1 - i)
            whole.addLayout(line)

    def begin(self) -> None:
        """Forgets what was typed, for another thing."""
        self._shown = None
        self.rule.clear()
        self.value.clear()
        self.reason.clear()

    def refresh(self, s: State) -> None:
        """Shows those of what is selected; rules that judge such things can be chosen."""
        project = s.shown.project
        pipes = [project.pipes[k] for k in s.chosen.pipes if k in project.pipes]
        structures = [project.structures[k] for k in s.chosen.structures if k in project.structures]
        records: list[Pipe | Structure] = [*pipes, *structures]
        key = ([(r.id, r.limits) for r in records], project.units)
        if key == self._shown:
            return
        self._shown, self.things = key, [r.id for r in records]
        kinds = {"either", *(["pipe"] if pipes else []), *(["structure"] if structures else [])}
        now = self.rule.currentData()
        self.rule.clear()
        for r in RULES.values():
            if r.of in kinds:
                self.rule.addItem(r.title, r.name)
        self.rule.setCurrentIndex(max(0, self.rule.findData(now)))
        clear(self.list)
        for own in dict.fromkeys(own for r in records for own in r.limits):
            name, value = own.rule, own.value
            words = "waived" if value is None else limit_words(s.units, limit_of_rule(name), value)
            line = QHBoxLayout()
            line.addWidget(wrapped(f"{RULES[name].title} {words}: {own.reason}", "second"), 1)
            line.addWidget(
                chip("As the standard", f"as standard {name}", partial(self._as_standard, name))
            )
            self.list.addLayout(line)

    @told(None)
    def _take(self) -> None:
        name, text = str(self.rule.currentData()), self.value.text().strip()
        limit = limit_of_rule(name)
        value = typed_limit(self.session.units, limit, text) if text and limit else None
        things, reason = list(self.things), self.reason.text()
        words = "waived" if value is None else "of its own"
        if self.session.edit(
            f"{RULES[name].title} {words}",
            lambda p, f: set_own_limit(p, things, name, value, reason),
        ):
            self.value.clear()
            self.reason.clear()

    def _as_standard(self, name: str) -> None:
        things = list(self.things)
        self.session.edit(
            f"{RULES[name].title} as the standard has it", lambda p, f: as_standard(p, things, name)
        )
