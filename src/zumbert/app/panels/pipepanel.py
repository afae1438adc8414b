"""The panel of one pipe: each value with the range that the rules allow, what follows, and what
mends it.
"""

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QVBoxLayout

from zumbert.analysis.estimate import estimate
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.app.panels.fields import Aside
from zumbert.app.panels.fixbuttons import FixButtons
from zumbert.app.panels.ownlimits import OwnLimits
from zumbert.app.panels.piperows import PipeRows
from zumbert.app.panels.rows import Sign, Stack, ValueRow, clear, label, pair, rule, wrapped
from zumbert.app.panels.sharedfields import SharedFields
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.theme import FOLLOWS, INSIDE
from zumbert.app.told import told
from zumbert.app.value import Value
from zumbert.app.values import edit_field, pivot_end
from zumbert.checks.check import rule_of
from zumbert.checks.finding import Finding
from zumbert.checks.limits import standard_of
from zumbert.checks.sentences import remark
from zumbert.checks.where import pipe_name
from zumbert.edits.fields import set_field
from zumbert.fields import PIPE_FIELDS, panel_fields
from zumbert.model.ids import PipeId
from zumbert.model.pipe import End

ENDS: tuple[End, End] = ("up", "down")
RANGED = (
    "invert_up",
    "invert_down",
    "slope",
    "cover",
    "greatest_cover",
    "velocity",
    "drop_up",
    "drop_down",
)  # with bars of their own
CLEAR = ("clear 1", "clear 2")


class PipePanel(PipeRows):
    """Shows and edits one pipe, and another when it is turned to it."""

    def __init__(self, session: Session, pen: Pen, pipe: PipeId) -> None:
        super().__init__(session, pen, pipe)
        self.title, self.sub = label("", "title"), label("", "second")
        self.wall, self.centre = label("", "strong"), label("", "strong")
        self.follows = QGridLayout()
        self.follows.setHorizontalSpacing(6)
        self.follows.setVerticalSpacing(2)
        self.follows.setColumnStretch(0, 1)
        self._cells: list[QLabel] = []  # what follows from a drag: name, before, now
        self.found = QVBoxLayout()
        self.found.setSpacing(6)
        self.shared = SharedFields(session, pen, False, True)
        self.own = OwnLimits(session, pen)
        self._build()
        self.turn_to(pipe)

    @property
    def thing(self) -> PipeId:
        """The pipe that it shows."""
        return self.pipe

    def turn_to(self, pipe: PipeId) -> None:
        """Shows another pipe from now on: nothing stays of the one before. The keyboard stays
        where it is.
        """
        self.pipe, self._turned = pipe, True
        clear(self.found)
        self._found: tuple[tuple[Finding, ...], list[str]] = (), []  # what is told, and how
        # the value that the fixes are of; None while they are away
        self._mended: Value | None = None
        self._says: list[QLabel] = []
        self._heads: list[tuple[str, str]] = []
        self.mends: list[FixButtons] = []
        self._dug: tuple[PipeFacts | None, float | None] = (None, None)  # the trench before a drag
        self._offered = ()
        self.own.begin()
        for row in self.rows.values():
            row.field.setModified(False)
        for end in ENDS:
            if self.rows[f"invert_{end}"].field.hasFocus():
                self._light(end, True)

    def _build(self) -> None:
        whole = Stack(self, 0)
        whole.addLayout(pair(self.title, label("1 selected", "second")))
        whole.addWidget(self.sub)
        whole.addSpacing(7)
        whole.addWidget(rule())
        whole.addSpacing(6)
        grid = QGridLayout()
        grid.setVerticalSpacing(2)
        for i, text in enumerate(("Size", "Wall plan", "Centre plan")):
            grid.addWidget(label(text, "second"), 0, i)
        for i, w in enumerate((self.size_box, self.wall, self.centre)):
            grid.addWidget(w, 1, i)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(2, 1)
        grid.setHorizontalSpacing(16)
        whole.addLayout(grid)
        whole.addSpacing(8)
        whole.addWidget(rule())
        whole.addSpacing(5)
        for field in panel_fields(PIPE_FIELDS):
            row = self._add_row(whole, field.key, self._taker(field.key) if field.edit else None)
            if field.edit:
                row.bar.dragged = partial(self._dragged, field.key)
        for key in CLEAR:
            self._add_row(whole, key)
        Aside(self.rows["slope"].field, self.session.units.understood)
        for end in ENDS:
            self.rows[f"invert_{end}"].field.watched = partial(self._light, end)
        whole.addWidget(rule())
        whole.addSpacing(7)
        self.follow_title = label("Follows from this drag", "section")
        whole.addWidget(self.follow_title)
        whole.addLayout(self.follows)
        self.follow_rule = rule()
        whole.addSpacing(6)
        whole.addWidget(self.follow_rule)
        whole.addSpacing(7)
        whole.addLayout(self.found)
        whole.addSpacing(7)
        whole.addWidget(rule())
        whole.addSpacing(6)
        whole.addWidget(self.shared)
        whole.addSpacing(6)
        whole.addWidget(rule())
        whole.addSpacing(6)
        whole.addWidget(self.own)
        whole.addStretch(1)

    def _add_row(
        self, whole: Stack, key: str, take: Callable[[str], bool] | None = None
    ) -> ValueRow:
        row = self.rows[key] = ValueRow(self.pen, key, take)
        row.field.setObjectName(f"value {key}")
        whole.addWidget(row)
        return row

    @told(None)
    def _dragged(self, field: str, value: float | None, last: bool) -> None:
        """Previews the value of a dragged range bar and takes it when the bar is released; None
        cancels.
        """
        s, u = self.session.state, self.session.units
        if value is None:
            self.session.preview(None)
            return
        text = (
            f"{value:.2f}%"
            if field == "slope"
            else u.length(value)
            if field == "cover"
            else "=" + u.level(value)
        )
        if last:
            edit_field(self.session, self.pipe, field, text)
            return
        pivot = pivot_end(self.session, self.pipe)
        self.session.preview(
            set_field(s.current.project, s.current.facts, self.pipe, field, text, pivot)
        )

    def _light(self, end: End, on: bool) -> None:
        """An end shows in both drawings while its field has the keyboard."""
        self.session.set(lit=(self.pipe, end) if on else None)

    def _taker(self, field: str) -> Callable[[str], bool]:
        return lambda text: edit_field(self.session, self.pipe, field, text)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        u = s.units
        facts, current = s.shown.facts, s.current.facts
        f = facts.pipes.get(self.pipe)
        if f is None or any(b.trying for b in self.mends):
            return
        project = facts.project
        self.title.setText(f"Pipe {pipe_name(facts, f)}")
        standard = standard_of(project, f.pipe)
        self.sub.setText(
            f"{f.pipe.label}. {f.pipe.service.capitalize()}, {f.pipe.status}. Standard: "
            f"{standard.name}"
        )
        self._sizes(f)
        self.wall.setText(f"{u.long(f.length('wall-plan'))}")
        self.centre.setText(f"{u.long(f.length('centre-plan'))}")
        was = current.pipes.get(self.pipe) if s.previewing else None
        pivot = s.chosen.hand.pivot if s.chosen.hand is not None else "up"
        for field in panel_fields(PIPE_FIELDS):
            if field.key not in RANGED:
                self.rows[field.key].show_row(field.panel, field.text(facts, f))
        for end in ENDS:
            self._invert_row(facts, f, was, end, pivot)
            self._drop_row(facts, f, end, current if was is not None else None)
        self._limit_rows(facts, f, was)
        self._clear_rows(s)
        self._follow(s, f, was)
        if not s.previewing or self._turned:
            self.shared.refresh(s)
            self.own.refresh(s)
        self._turned = False
        self._show_found(s)

    def _follow(self, s: State, f: PipeFacts, was: PipeFacts | None) -> None:
        """Lists the values elsewhere that a drag changes, before and now."""
        lines = [] if was is None else self._changes(s.current.facts, s.shown.facts, was, f)
        for w in (self.follow_title, self.follow_rule):
            w.setVisible(bool(lines))
        while len(self._cells) < 3 * len(lines):
            i = len(self._cells)
            self._cells.append(label("", "section" if i % 3 == 2 else "second"))
            # of a fixed size: another text lays nothing out anew
            self._cells[-1].setFixedSize(FOLLOWS[i % 3], 17)
            self.follows.addWidget(self._cells[-1], i // 3, i % 3)
        texts = [t for name, before, now in lines for t in (name, f"{before}  \u2192", now)]
        for i, cell in enumerate(self._cells):
            if cell.isVisibleTo(self) != (i < len(texts)):
                cell.setVisible(i < len(texts))
            if i < len(texts):
                cell.setText(texts[i])

    def _changes(
        self, current: Facts, shown: Facts, was: PipeFacts, now: PipeFacts
    ) -> list[tuple[str, str, str]]:
        u = current.units
        out: list[tuple[str, str, str]] = []
        for at in (now.pipe.up, now.pipe.down):
            if at not in current.structures:
                continue  # a bend that is only now drawn out
            name = shown.project.structures[at].label
            olds = {(d.inlet, d.outlet): d.drop for d in current.structures[at].drops}
            for d in shown.structures[at].drops:
                old = olds.get((d.inlet, d.outlet))
                if old is not None and abs(old - d.drop) > 1e-9 and len(out) < 5:
                    other = d.inlet if d.outlet == self.pipe else d.outlet
                    far = shown.project.pipes[other]
                    end = shown.project.structures[far.up if other == d.inlet else far.down].label
                    out.append((f"Drop at {name}, {end}", u.level(old), f"{u.deep(d.drop)}"))
        if self._dug[0] is not was:
            self._dug = (was, estimate(current, was))
        a, b = self._dug[1], estimate(shown, now)
        if a is not None and b is not None and abs(a - b) > 0.005:
            out.append((f"Trench {pipe_name(shown, now)}", u.volume(a), f"{u.volume(b)} {u.m3}"))
        return out

    def _show_found(self, s: State) -> None:
        findings = self._about(s)
        told = [remark(s.shown.facts, f) for f in findings]
        # a fix may be another where its finding is not
        current = None if s.previewing else s.current
        if (findings, told) == self._found and current is self._mended:
            return
        self._found, self._mended = (findings, told), current
        heads: list[tuple[str, str]] = [(f.severity, f.rule) for f in findings]
        if s.previewing and heads == self._heads:  # while one drags only the sentences change
            for says, text in zip(self._says, told, strict=True):
                says.setText(text)
                says.setFixedHeight(says.heightForWidth(INSIDE))
            return
        self._heads, self._says = heads if s.previewing else [("", "")], []
        clear(self.found)
        self.mends = []
        for finding, text in zip(findings, told, strict=True):
            self._show_finding(s, finding, text)

    def _about(self, s: State) -> tuple[Finding, ...]:
        """The findings of the pipe, and those of its chambers in which it takes part."""
        f = s.shown.facts.pipes[self.pipe]
        out = list(s.shown.findings.by_pipe.get(self.pipe, ()))
        for at in (f.pipe.up, f.pipe.down):
            for found in s.shown.findings.by_structure.get(at, ()):
                pairs = [
                    d
                    for d in s.shown.facts.structures[at].drops
                    if found.partner in (d.inlet, d.outlet)
                ]
                if found.partner == self.pipe or any(
                    self.pipe in (d.inlet, d.outlet) for d in pairs
                ):
                    out.append(found)
        return tuple(out)

    def _show_finding(self, s: State, finding: Finding, text: str) -> None:
        head = QHBoxLayout()
        head.addWidget(Sign(self.pen, finding.look))
        word = finding.look.capitalize()
        head.addWidget(label(f"{word}: {rule_of(finding.rule).title.lower()}", finding.look))
        head.addStretch(1)
        self.found.addLayout(head)
        self._says.append(wrapped(text))
        self._says[-1].setFixedSize(INSIDE, self._says[-1].heightForWidth(INSIDE))
        self.found.addWidget(self._says[-1])
        if s.previewing:
            return
        buttons = FixButtons(self.session, self.pen)
        buttons.offer(s, finding)
        self.mends.append(buttons)
        self.found.addWidget(buttons)
