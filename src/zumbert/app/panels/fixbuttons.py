"""Buttons that mend a finding. While the pointer or the keyboard is on one, both drawings show
what it would make.
"""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QEvent
from PySide6.QtGui import QEnterEvent, QFocusEvent
from PySide6.QtWidgets import QWidget

from zumbert.analysis.trench import Trenches, trenches
from zumbert.app.guard import guarded
from zumbert.app.panels.rows import FixButton, Stack, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.value import Value
from zumbert.checks.check import rule_of
from zumbert.checks.finding import Finding
from zumbert.checks.sentences import object_label
from zumbert.edits.fix import Fix
from zumbert.edits.fixes import Outcome, fixes, outcome
from zumbert.model.display import Units


@guarded
class TriedButton(FixButton):
    """A fix that is shown in both drawings while the pointer or the keyboard is on it."""

    def __init__(
        self,
        pen: Pen,
        text: str,
        figure: str,
        run: Callable[[], object],
        show: Callable[[bool], None],
    ) -> None:
        super().__init__(pen, text, figure, run)
        self._show = show

    def enterEvent(self, event: QEnterEvent) -> None:
        super().enterEvent(event)
        self._show(True)

    def leaveEvent(self, event: QEvent) -> None:
        super().leaveEvent(event)
        self._show(False)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self._show(True)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self._show(False)


def outcome_words(o: Outcome, u: Units, own: Finding) -> str:
    """The effect of a fix: "mends this and 2 more, raises Size order at S9, 3.2 m³ less to
    dig".
    """
    more = len(o.mends) - (own.key in {f.key for f in o.mends})
    parts = []
    if own.key in {f.key for f in o.mends}:
        parts.append(f"mends this and {more} more" if more else "mends this")
    else:
        parts.append("does not mend this" + (f", mends {more}" if more else ""))
    if o.raises:
        first = "; ".join(
            f"{rule_of(f.rule).title.lower()} at {object_label(o.after, f)}" for f in o.raises[:2]
        )
        rest = f" and {len(o.raises) - 2} more" if len(o.raises) > 2 else ""
        parts.append(f"raises {first}{rest}")
    if abs(o.earth) >= 0.05:
        parts.append(f"{u.volume(abs(o.earth))} {u.m3} {'more' if o.earth > 0 else 'less'} to dig")
    return ", ".join(parts)


class Dug:
    """The trenches of the current value; from those asked for before, only what changed since is
    dug anew.
    """

    def __init__(self) -> None:
        self._made: tuple[Value, Trenches] | None = None

    def of(self, current: Value) -> Trenches:
        """The trenches of a value."""
        if self._made is None or self._made[0] is not current:
            self._made = (
                current,
                trenches(current.facts, None if self._made is None else self._made[1]),
            )
        return self._made[1]


class FixButtons(QWidget):
    """The fixes of one finding or of several. With trenches each says what follows from it,
    without only what it would raise.
    """

    def __init__(self, session: Session, pen: Pen, dug: Dug | None = None) -> None:
        super().__init__()
        self.session, self.pen, self.dug = session, pen, dug
        # while a fix is shown: what holds the buttons stays as it is, so that nothing moves under
        # the pointer
        self.trying = False
        self.buttons: list[TriedButton] = []
        self.body = Stack(self, 4)

    def offer(self, s: State, finding: Finding) -> bool:
        """Adds the fixes of a finding; False where it has none."""
        facts, current = s.current.facts, s.current
        made = fixes(current.project, facts, finding)
        for fix in made:
            o = outcome(
                facts,
                current.findings,
                None if self.dug is None else self.dug.of(current),
                fix.project,
            )
            says = outcome_words(o, s.units, finding)
            button = TriedButton(
                self.pen, fix.text, fix.figure, partial(self._take, fix), partial(self._show, fix)
            )
            button.setObjectName(f"fix {fix.text}")
            button.setAccessibleName(f"{fix.text}: {says}")
            self.buttons.append(button)
            self.body.addWidget(button)
            if o.raises or self.dug is not None:
                self.body.addWidget(wrapped(says, "breach-note" if o.raises else "small"))
        return bool(made)

    def _show(self, fix: Fix, on: bool) -> None:
        self.trying = on
        self.session.preview(fix.project if on else None)

    def _take(self, fix: Fix) -> None:
        self.trying = False
        self.session.apply(fix.text, fix.project)
