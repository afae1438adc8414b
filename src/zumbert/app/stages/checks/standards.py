"""The sheet of a design standard: its limits with their steps, what its rules weigh, where it
holds, and what differs from it.
"""

from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QWidget

from zumbert.app.panels.fields import Combo, ValueField, choice
from zumbert.app.panels.recordacts import RecordActs, RecordKind
from zumbert.app.panels.rows import Stack, chip, clear, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.checks.stepgraph import StepGraph
from zumbert.app.state import State
from zumbert.checks.check import RULES
from zumbert.edits.networks import change_network, set_existing
from zumbert.edits.standards import (
    add_standard,
    as_standard,
    copied_standard,
    limit_meant,
    limit_of_rule,
    limit_words,
    own_limits,
    remove_standard,
    rename_standard,
    set_against,
    set_crowns,
    set_limit,
    set_weight,
    users_of_standard,
)
from zumbert.exchange.toml import read_standard, shipped_standards, write_standard
from zumbert.model.display import counted
from zumbert.model.ids import StandardId
from zumbert.model.network import Network
from zumbert.model.project import Project
from zumbert.model.standard import LIMITS, WEIGHTS, Standard

CROWNS = {
    "crowns": "Crowns line up",
    "centres": "Centres line up",
    "0.8": "0.8 D points line up",
    "off": "Not judged",
}
SURFACES: dict[str, str] = {
    "design": "Design, else ground",
    "existing": "Existing ground",
    "both": "Both, construction too",
}
WORDS = {**CROWNS, **SURFACES}
EXISTING = {"same": "existing: the same", "told": "existing: only reported"}

STANDARDS = RecordKind(
    "standard", "Standards (*.toml)", lambda p: p.standards, add_standard, copied_standard,
    remove_standard,
    read_standard, write_standard, shipped_standards,
)  # fmt: skip


class LimitRow(QWidget):
    """A limit: its name, its value or table, its steps."""

    def __init__(self, pen: Pen, name: str, take: Callable[[str], bool]) -> None:
        super().__init__()
        self.name = name
        self.field = ValueField(f"limit {name}", take)
        self.field.setAlignment(Qt.AlignmentFlag.AlignLeft)
        field = LIMITS[name]
        by = {"dn": "DN", "degrees": "bend"}.get(field.by, "")
        self.field.setToolTip(
            f"A number, or a table by {by}, up to and including each: 300: 0.9, 600: 1.2"
            if by
            else "A number"
        )
        self.graph = StepGraph(pen)
        self.other = label("", "small")
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(0, 1, 0, 1)
        self.grid.setVerticalSpacing(0)
        self.grid.setColumnStretch(0, 1)
        self.grid.addWidget(label(field.title, "second"), 0, 0)
        self.grid.addWidget(self.graph, 0, 1, 2, 1)
        self.grid.addWidget(self.field, 1, 0)
        self.grid.addWidget(self.other, 3, 0, 1, 2)
        self._wide = False

    def show_limit(self, s: State, standard: Standard, other: Standard | None) -> None:
        """Shows the limit of a standard, and that of another beside it where they differ."""
        u, value = s.units, getattr(standard, self.name)
        theirs = getattr(other, self.name) if other is not None else None
        self.field.show_value(limit_words(u, self.name, value), False)
        if value is None:
            self.field.setPlaceholderText("as the least cover")
        # a table has the whole width
        if isinstance(value, tuple) != self._wide and not self.field.isModified():
            self._wide = isinstance(value, tuple)
            self.grid.removeWidget(self.field)
            self.grid.addWidget(self.field, 2 if self._wide else 1, 0, 1, 2 if self._wide else 1)
        if not self.field.hasFocus():
            self.field.setCursorPosition(0)
        self.graph.show_limit(value, theirs)
        differs = other is not None and theirs != value
        self.other.setText(
            f"{other.name}: {limit_words(u, self.name, theirs) or 'none'}"
            if differs and other
            else ""
        )
        self.other.setVisible(differs)


class StandardsSheet(QWidget):
    """One standard at a time. Each change is an undo step; while a limit is typed, both drawings
    show what it would do.
    """

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self.key: StandardId | None = None
        self._filled: object = None
        self.which = Combo(pen)
        self.which.setObjectName("standard")
        self.which.setAccessibleName("Standard")
        self.which.activated.connect(lambda _: self._turn(self.which.currentData()))
        self.compared = Combo(pen)
        self.compared.setObjectName("compare standard")
        self.compared.setAccessibleName("Compare with")
        self.compared.activated.connect(lambda _: self.refresh(session.state))
        self.name = ValueField("standard name", self._rename)
        self.name.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.says = wrapped("", "second")
        self.says.setObjectName("come and go")
        self.limits = {n: LimitRow(pen, n, partial(self._limit, n)) for n in LIMITS}
        for row in self.limits.values():
            row.field.try_out(session)
        self.crowns = choice(pen, "standard crowns", CROWNS.items())
        self.crowns.activated.connect(
            lambda _: self._edit("Change what lines up", set_crowns, self.crowns.currentData())
        )
        self.against = choice(pen, "standard cover against", SURFACES.items())
        self.against.activated.connect(
            lambda _: self._edit(
                "Change what cover is judged by", set_against, self.against.currentData()
            )
        )
        self.weights = {name: self._weight_box(name) for name in RULES}
        self.theirs: dict[str, QLabel] = {}  # what the compared standard has, where it differs
        self.networks, self.own = QGridLayout(), Stack(None, 3)
        self.acts = RecordActs(session, pen, STANDARDS, lambda: self.key, self._turn)
        self._build()

    def _build(self) -> None:
        whole = Stack(self, 5)
        line = QHBoxLayout()
        line.addWidget(self.which, 1)
        line.addWidget(self.compared, 1)
        whole.addLayout(line)
        whole.addWidget(self.acts)
        whole.addWidget(self.says)
        whole.addWidget(self.name)
        whole.addWidget(rule())
        whole.addWidget(label("Where it holds", "section"))
        self.networks.setColumnStretch(0, 1)
        whole.addLayout(self.networks)
        whole.addWidget(rule())
        whole.addWidget(label("Limits", "section"))
        for row in self.limits.values():
            whole.addWidget(row)
        for text, name, box in (
            ("At a chamber", "crowns", self.crowns),
            ("Cover is judged by", "cover_against", self.against),
        ):
            whole.addWidget(label(text, "second"))
            whole.addWidget(box)
            self.theirs[name] = label("", "small")
            whole.addWidget(self.theirs[name])
        whole.addWidget(rule())
        whole.addWidget(label("Rules", "section"))
        grid = QGridLayout()
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(0, 1)
        for i, (name, box) in enumerate(self.weights.items()):
            grid.addWidget(label(RULES[name].title, "second"), i, 0)
            grid.addWidget(box, i, 1)
            self.theirs[name] = label("", "small")
            grid.addWidget(self.theirs[name], i, 2)
        whole.addLayout(grid)
        whole.addWidget(rule())
        whole.addWidget(label("Limits of single pipes and structures", "section"))
        whole.addLayout(self.own)

    def _weight_box(self, name: str) -> Combo:
        box = choice(
            self.pen, f"weight {name}", [("", "as usual"), *((w, w.capitalize()) for w in WEIGHTS)]
        )
        box.setFixedWidth(98)
        box.activated.connect(
            lambda _: self._edit(
                f"{RULES[name].title}: {box.currentText().lower()}",
                set_weight,
                name,
                box.currentData() or None,
            )
        )
        return box

    # -- what is shown -----------------------------------------------------------------------------

    def refresh(self, s: State) -> None:
        """Shows the state."""
        project = s.shown.project
        key = self.key
        if key not in project.standards:
            key = self.key = next(iter(project.networks.values())).standard
        standard = project.standards[key]
        self._fill(project)
        other = project.standards.get(self.compared.currentData() or StandardId(""))
        other = None if other is standard else other
        for row in self.limits.values():
            row.show_limit(s, standard, other)
        self.name.show_value(standard.name, False)
        self.crowns.setCurrentIndex(self.crowns.findData(standard.crowns))
        self.against.setCurrentIndex(self.against.findData(standard.cover_against))
        for name, box in self.weights.items():
            box.setCurrentIndex(box.findData(standard.weights.get(name, "")))
        self._compare(standard, other)
        self.says.setText(come_and_go(s) or self._holds(project, key))

    def _compare(self, standard: Standard, other: Standard | None) -> None:
        """The values of the other standard, beside those that differ from it."""
        for name, words in self.theirs.items():
            if name in RULES:
                mine, theirs = (
                    None if o is None else o.weights.get(name, "as usual")
                    for o in (standard, other)
                )
            else:
                mine, theirs = (None if o is None else getattr(o, name) for o in (standard, other))
            differs = other is not None and mine != theirs
            shown = WORDS.get(str(theirs), str(theirs)) if differs else ""
            words.setText(
                shown if name in RULES or not differs or other is None else f"{other.name}: {shown}"
            )
            words.setVisible(differs)

    def _holds(self, project: Project, key: StandardId) -> str:
        names = [project.networks[k].name for k in users_of_standard(project, key)]
        return f"Holds for {', '.join(names)}" if names else "Holds for no network yet"

    def _fill(self, project: Project) -> None:
        own = own_limits(project)
        key = (project.standards, project.networks, self.key, [(r.id, r.label, o) for r, o in own])
        if self._filled == key:
            return
        self._filled = key
        for box, first in ((self.which, None), (self.compared, "compare with …")):
            now = self.key if first is None else box.currentData()
            box.clear()
            if first is not None:
                box.addItem(first, "")
            for k, standard in project.standards.items():
                if first is None or k != self.key:
                    box.addItem(standard.name, k)
            box.setCurrentIndex(max(0, box.findData(now)))
            box.as_wide_as_its_column()
        self.acts.refresh()
        clear(self.networks)
        for i, n in enumerate(project.networks.values()):
            self.networks.addWidget(label(n.name, "second"), 2 * i, 0)
            names = [(k, v.name) for k, v in project.standards.items()]
            first_box = choice(self.pen, f"sheet standard {n.name}", names, n.standard)
            first_box.activated.connect(partial(self._judge, n, first_box))
            others = (
                (k, f"existing: {v.name}") for k, v in project.standards.items() if k != n.standard
            )
            words = [*EXISTING.items(), *others]
            now = "told" if n.existing_told else n.existing_standard or "same"
            box = choice(self.pen, f"sheet existing {n.name}", words, now)
            box.activated.connect(lambda _, n=n, b=box: self._existing(n.id, b.currentData()))
            for j, w in enumerate((first_box, box)):
                w.as_wide_as_its_column()
                self.networks.addWidget(w, 2 * i + j, 1)
        self.networks.setColumnStretch(1, 1)
        clear(self.own)
        for record, limit in own:
            name = limit.rule
            value = (
                "waived"
                if limit.value is None
                else limit_words(project.units, limit_of_rule(name), limit.value)
            )
            line = QHBoxLayout()
            line.addWidget(
                wrapped(
                    f"{record.label}: {RULES[name].title.lower()} {value}, {limit.reason}", "second"
                ),
                1,
            )
            line.addWidget(
                chip(
                    "As the standard",
                    f"own {record.label} {name}",
                    partial(self._as_standard, record.id, name),
                )
            )
            self.own.addLayout(line)
        if not own:
            self.own.addWidget(
                wrapped("None: they are set in the panel of a pipe or structure.", "small")
            )

    # -- what is changed ---------------------------------------------------------------------------

    def _edit(self, words: str, edit: Callable[..., Project], *values: Any) -> bool:
        key = self.key
        return self.session.edit(words, lambda p, f: edit(p, key, *values))

    def _limit(self, name: str, text: str) -> bool:
        key, u = self.key, self.session.units
        if key is None:
            return False
        return self.session.edit(
            f"{LIMITS[name].title.removeprefix('… ').capitalize()} {text}",
            lambda p, f: set_limit(p, key, name, limit_meant(u, name, text)),
        )

    def _rename(self, text: str) -> bool:
        return self._edit(f"Rename a standard {text}", rename_standard, text)

    def _judge(self, network: Network, box: Combo, _: int) -> None:
        key = box.currentData()
        self.session.edit(
            f"Judge {network.name} by {box.currentText()}",
            lambda p, f: change_network(p, network.id, standard=key),
        )

    def _existing(self, network: Any, how: str) -> None:
        standard = None if how in EXISTING else StandardId(how)
        self.session.edit(
            "Change how existing work is judged",
            lambda p, f: set_existing(p, network, standard, how == "told"),
        )

    def _as_standard(self, thing: Any, name: str) -> None:
        self.session.edit(
            "Judge it as the standard has it", lambda p, f: as_standard(p, [thing], name)
        )

    def _turn(self, key: StandardId) -> None:
        self.key = key
        self.refresh(self.session.state)


def come_and_go(s: State) -> str:
    """How many findings come and go by what is being tried out; nothing where nothing is."""
    if not s.previewing:
        return ""
    before, now = ({f.key for f in v.findings if not f.decided} for v in (s.current, s.shown))
    come, go = len(now - before), len(before - now)
    if not come and not go:
        return "No finding comes or goes"
    parts = [f"{counted(come, 'finding')} {'come' if come > 1 else 'comes'}"] if come else []
    parts += [f"{counted(go, 'finding')} {'go' if go > 1 else 'goes'}"] if go else []
    return ", ".join(parts)
