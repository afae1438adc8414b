"""The fixes for the finding that was gone to, each with its effect, and a
decision.
"""

from collections.abc import Callable, Sequence

from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from zumbert.app.panels.fixbuttons import Dug, FixButtons, TriedButton
from zumbert.app.panels.rows import Stack, chip, clear, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.checks.finding import Finding
from zumbert.checks.sentences import source, verdict
from zumbert.edits.decisions import decide, reopen
from zumbert.edits.fixes import Mended, mended
from zumbert.model.decision import decision_key
from zumbert.model.display import counted


def all_words(made: Mended) -> str:
    """The effect of mending many: "7 go, 2 stay: each of their fixes raises another"."""
    go = f"{len(made.gone)} go{'' if len(made.gone) > 1 else 'es'}" if made.gone else "None goes"
    left = len(made.left)
    stay = f", {left} stay{'' if left > 1 else 's'}: each fix raises another" if left else ""
    return go + stay


AT_ONCE = 12  # findings: more are mended with their progress shown
RunWork = Callable[[str, Callable[[Callable[[float, str], None]], Mended]], Mended | None]


class Mending(QWidget):
    """Stands under the finding that was gone to."""

    def __init__(self, session: Session, pen: Pen, work: RunWork) -> None:
        super().__init__()
        self.session, self.pen, self._work, self.initials = session, pen, work, ""
        self._trying_all = False
        self.finding: Finding | None = None
        self.chosen: Sequence[Finding] = ()
        self._made: object = None
        self._all: tuple[object, Mended] | None = None
        self.dug = Dug()
        self.fixes = FixButtons(session, pen, self.dug)
        self.body = Stack(self, 4)
        self.body.setContentsMargins(6, 2, 0, 8)
        self.reason, self.by = QLineEdit(), QLineEdit()

    @property
    def trying(self) -> bool:
        """Whether a fix is shown: the list above stays as it is meanwhile."""
        return self._trying_all or self.fixes.trying

    def show_for(self, s: State, finding: Finding, chosen: Sequence[Finding]) -> None:
        """Offers what can be done about a finding, or about several that are chosen with it."""
        key = (finding, s.current, tuple(chosen))
        if self._made == key:
            return
        self._made, self.finding, self.chosen = key, finding, chosen
        clear(self.body)
        facts = s.current.facts
        from_where = source(facts, finding)
        if from_where:
            self.body.addWidget(wrapped(f"Limit: {from_where}", "small"))
        self.fixes = FixButtons(self.session, self.pen, self.dug)
        self.body.addWidget(self.fixes)
        if not self.fixes.offer(s, finding):
            self.body.addWidget(
                wrapped(
                    (
                        "No single change fixes this: move it, enlarge it or lay it again, or "
                        "accept it."
                    ),
                    "small",
                )
            )
        if len(chosen) > 1:
            button = TriedButton(
                self.pen, f"Mend all {len(chosen)} like this", "", self._mend_all, self._show_all
            )
            button.setObjectName("mend all")
            self.all = wrapped("", "small")
            self.body.addWidget(button)
            self.body.addWidget(self.all)
        self._decision(finding, chosen if len(chosen) > 1 else [finding])

    def _mended(self, wait: bool) -> Mended | None:
        """The project after mending all that are chosen. Many are worked out only if one waits,
        with progress; None where that is given up.
        """
        if self._all is None or self._all[0] is not self._made:
            current, chosen = self.session.state.current, self.chosen
            made: Mended | None = None
            if len(chosen) <= AT_ONCE:
                made = mended(current.project, current.facts, chosen)
            elif wait:
                made = self._work(
                    "Mending", lambda tell: mended(current.project, current.facts, chosen, tell)
                )
            if made is None:
                return None
            self._all = self._made, made
        return self._all[1]

    def _show_all(self, on: bool) -> None:
        """Shows what mending all would make, with the count of what will and will not go."""
        made = self._mended(False) if on else None
        self._trying_all = on
        self.session.preview(made.project if made is not None else None)
        if made is not None:
            self.all.setText(all_words(made))
        elif on:
            self.all.setText("A click works out what goes and what stays, another takes it")

    def _mend_all(self) -> None:
        known = self._all is not None and self._all[0] is self._made
        made = self._mended(True)
        if made is None:
            return
        if not made.gone:
            self.session.refused.emit(all_words(made))
        elif not known and len(self.chosen) > AT_ONCE:
            self._show_all(True)
        else:
            self._trying_all = False
            self.session.apply(f"Mend {counted(len(made.gone), 'finding')}", made.project)

    def _decision(self, finding: Finding, chosen: Sequence[Finding]) -> None:
        keys = [decision_key(f.key) for f in chosen]
        if finding.reopened:
            self.body.addWidget(wrapped(verdict(finding).capitalize(), "small"))
        if finding.decided:
            self.body.addWidget(
                chip(
                    "Open it again",
                    "reopen",
                    lambda: self.session.edit("Open a finding again", lambda p, f: reopen(p, keys)),
                )
            )
            return
        self.reason, self.by = QLineEdit(), QLineEdit(self.initials)
        self.reason.setPlaceholderText(
            "Reason to accept it" if len(chosen) == 1 else f"Reason to accept all {len(chosen)}"
        )
        self.reason.setObjectName("decision reason")
        self.reason.setAccessibleName("Reason to accept it")
        self.by.setPlaceholderText("Initials")
        self.by.setObjectName("decision by")
        self.by.setAccessibleName("Initials")
        self.by.setFixedWidth(56)
        accept = QPushButton("Accept")
        accept.setObjectName("accept")
        line = QHBoxLayout()
        for w in (self.reason, self.by, accept):
            line.addWidget(w)
        self.body.addLayout(line)

        def take() -> None:
            reason, by = self.reason.text(), self.by.text()
            self.initials = by.strip() or self.initials
            self.session.edit(
                f"Accept {counted(len(chosen), 'finding')}",
                lambda p, f: decide(p, chosen, reason, by),
            )

        accept.clicked.connect(lambda: take())
        self.reason.returnPressed.connect(take)
        self.by.returnPressed.connect(take)


def put_under(layout: QVBoxLayout, row: QWidget, mending: Mending) -> None:
    """Puts the offers under a row of the list."""
    at = layout.indexOf(row)
    if layout.indexOf(mending) != at + 1:
        layout.removeWidget(mending)
        layout.insertWidget(layout.indexOf(row) + 1, mending)
    mending.show()
