"""The panel of one pipe: each value with the range that the rules allow, what follows, and what
mends it.
"""

from collections.abc import Callable
from functools import partial

from msgspec.structs import replace
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from zumbert.analysis.estimate import estimate
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.app.panels.fields import Aside, Combo, offer
from zumbert.app.panels.fixbuttons import FixButtons
from zumbert.app.panels.ownlimits import OwnLimits
from zumbert.app.panels.rangebar import Scale
from zumbert.app.panels.ranges import drop_scale, invert_scale, slope_scale
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
from zumbert.checks.limits import governing_drop, pipe_limit, standard_of
from zumbert.checks.sentences import limit_source, remark
from zumbert.checks.velocity import velocity
from zumbert.checks.where import along, pipe_name
from zumbert.edits.change import size_misfit
from zumbert.edits.fields import set_field
from zumbert.fields import PIPE_FIELDS, panel_fields
from zumbert.model.ids import PipeId
from zumbert.model.pipe import Bore, End
from zumbert.model.project import size_words

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


class PipePanel(QWidget):
    """Shows and edits one pipe, and another when it is turned to it."""

    def __init__(self, session: Session, pen: Pen, pipe: PipeId) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self.title, self.sub = label("", "title"), label("", "second")
        self.size_box = Combo(pen).as_wide_as_its_column()
        self.size_box.setAccessibleName("Size")
        self.size_box.setObjectName("pipe size")
        self.size_box.activated.connect(
            lambda _: edit_field(session, self.pipe, "size", self.size_box.currentData())
        )
        self.wall, self.centre = label("", "strong"), label("", "strong")
        self.rows: dict[str, ValueRow] = {}
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
        self._mended: Value | None = (
            None  # the value that the fixes are of; None while they are away
        )
        self._says: list[QLabel] = []
        self._heads: list[tuple[str, str]] = []
        self.mends: list[FixButtons] = []
        self._dug: tuple[PipeFacts | None, float | None] = (None, None)  # the trench before a drag
        self._offered: tuple[object, ...] = ()  # what the sizes were offered for
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
        pivot = s.hand.pivot if s.hand is not None else "up"
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

    def _sizes(self, f: PipeFacts) -> None:
        """Sizes that fit both chambers come first; the others follow and say why they do not
        fit.
        """
        project, now = self.session.state.shown.project, f.pipe.size
        ends = (project.structures[f.pipe.up].type, project.structures[f.pipe.down].type)
        asked = (project.sizes, project.types, project.settings, now, *ends)
        if len(asked) == len(self._offered) and all(
            a is b or a == b for a, b in zip(asked, self._offered, strict=True)
        ):
            return
        self._offered = asked
        choices: list[tuple[object, str, str]] = [
            (z.key, size_words(project, z), size_misfit(project, self.pipe, z.key))
            for z in project.sizes.values()
            if z.allowed or z.key == now
        ]
        if isinstance(now, Bore):
            choices.insert(0, ("", f"{f.dn:g} / {f.wall * 1000:g} mm", ""))
        offer(self.size_box, choices, "" if isinstance(now, Bore) else now)
        self.size_box.setToolTip(
            "" if isinstance(now, Bore) else size_misfit(project, self.pipe, now)
        )

    def _invert_row(
        self, facts: Facts, f: PipeFacts, was: PipeFacts | None, end: End, pivot: End
    ) -> None:
        u, row = facts.units, self.rows[f"invert_{end}"]
        title, now = (
            f"Invert at {facts.project.structures[f.pipe.at(end)].label}",
            f.pipe.invert(end),
        )
        before = was.pipe.invert(end) if was is not None else None
        before = None if before is None or abs(before - now) < 1e-9 else before
        under = "" if before is None else f"was {u.level(before)}"
        if f.pipe.holds_end(end) or end == pivot:
            row.show_row(
                title,
                u.level(now),
                None,
                under,
                "held" if f.pipe.holds_end(end) else "stays, fixed end",
            )
            return
        row.show_row(
            title, u.level(now), replace(invert_scale(facts, f, end), now=now, before=before), under
        )

    def _limit_rows(self, facts: Facts, f: PipeFacts, was: PipeFacts | None) -> None:
        u = facts.units
        slope = None if f.slope is None else f.slope * 100
        before = was.slope * 100 if was is not None and was.slope is not None else None
        hand = self.session.state.hand
        pivot = (
            hand.pivot if hand is not None and hand.pipe == self.pipe else self.session.state.pivot
        )
        scale, tip = slope_scale(facts, f, pivot)
        self.rows["slope"].bar.tip(tip)
        self.rows["slope"].show_row(
            "Slope",
            u.slope(f.slope),
            replace(scale, now=slope, before=before),
            u.other_slope(f.slope),
        )
        cover, old = f.cover, was.cover if was is not None else None
        need, most = (
            pipe_limit(facts.project, f.pipe, f.dn, name) for name in ("cover_min", "cover_max")
        )
        least, greatest = (None, None) if cover is None else (cover.least, cover.greatest)
        at = "" if cover is None else along(facts, f, cover.least_at)
        scale = Scale(
            low=need,
            now=least,
            before=old.least if old else None,
            words=f"at least {u.length(need)}",
        )
        self.rows["cover"].show_row("Least cover", u.length(least), scale, at)
        scale = Scale(
            high=most,
            now=greatest,
            before=old.greatest if old else None,
            words=f"at most {u.length(most)}",
        )
        sources = "from " + ", ".join(facts.surfaces.name(n) for n in f.span.sources)
        self.rows["greatest_cover"].show_row("Greatest cover", u.length(greatest), scale, sources)
        low, high = (
            pipe_limit(facts.project, f.pipe, f.dn, name)
            for name in ("velocity_min", "velocity_max")
        )
        fast, slow = (
            velocity(facts.project, f),
            None if was is None else velocity(facts.project, was),
        )
        scale = Scale(
            low=low, high=high, now=fast, before=slow, words=f"{u.length(low)} to {u.length(high)}"
        )
        self.rows["velocity"].show_row("Velocity, full bore", u.length(fast), scale)
        for key, name in (
            ("cover", "cover_min"),
            ("greatest_cover", "cover_max"),
            ("velocity", "velocity_min"),
        ):
            self.rows[key].bar.tip(limit_source(facts.project, f.pipe, name))

    def _drop_row(self, facts: Facts, f: PipeFacts, end: End, current: Facts | None) -> None:
        """The drop at an end; of several, the one with the least room over its limit."""
        at, row = f.pipe.at(end), self.rows[f"drop_{end}"]
        worst = governing_drop(facts, self.pipe, at)
        row.setVisible(worst is not None)
        if worst is None:
            return
        old = None
        if current is not None and at in current.structures:
            both = (worst.inlet, worst.outlet)
            old = next(
                (d.drop for d in current.structures[at].drops if (d.inlet, d.outlet) == both), None
            )
        names = facts.project.structures
        scale, tip = drop_scale(facts, f, end, worst)
        if tip:
            row.bar.tip(tip)
        row.show_row(
            f"Drop at {names[at].label}",
            facts.units.level(worst.drop),
            replace(scale, now=worst.drop, before=old),
            f"from {names[facts.pipes[worst.inlet].pipe.up].label}",
        )

    def _clear_rows(self, s: State) -> None:
        """The clearances to what crosses the pipe, the least first."""
        u = s.units
        crossed = (
            [c for c in s.run.crossings if c.pipe == self.pipe and c.clear is not None]
            if s.run is not None
            else []
        )
        nearest = sorted(crossed, key=lambda c: (c.clear or 0.0) - c.need)
        for i, key in enumerate(("clear 1", "clear 2")):
            row = self.rows[key]
            row.setVisible(i < len(nearest))
            if i < len(nearest):
                c = nearest[i]
                words = f"at least {u.length(c.need)}" if c.need else ""
                under = f"{'over' if c.above else 'under'}, upright {u.length(c.upright)}"
                scale = Scale(low=c.need, now=c.clear, words=words)
                of = s.shown.project.services if c.kind == "service" else s.shown.project.pipes
                row.show_row(f"Clear of {of[c.id].label}", u.length(c.clear), scale, under)

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
