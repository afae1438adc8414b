"""The findings of some things in a panel."""

from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout

from zumbert.app.panels.rows import Sign, clear, label, wrapped
from zumbert.app.pen import Pen
from zumbert.app.state import State
from zumbert.checks.check import rule_of
from zumbert.checks.sentences import remark

MOST_FOUND = 12  # findings that a panel lists


def show_findings(layout: QVBoxLayout, pen: Pen, s: State, keys: tuple[str, ...]) -> None:
    """Lists findings with sign and sentence; updates only the sentences where nothing else
    changed.
    """
    every = [f for key in keys for f in s.picture.found(key)]
    found = every[:MOST_FOUND]
    heads: list[tuple[str, str]] = [
        (f.look, f"{f.look.capitalize()}: {rule_of(f.rule).title.lower()}") for f in found
    ]
    if len(every) > len(found):
        heads.append(("", f"and {len(every) - len(found)} more: the stage Checks lists them"))
    if layout.property("heads") != str(heads):
        layout.setProperty("heads", str(heads))
        clear(layout)
        for severity, text in heads:
            head = QHBoxLayout()
            if severity:
                head.addWidget(Sign(pen, severity))
            head.addWidget(label(text, severity or "small"))
            head.addStretch(1)
            layout.addLayout(head)
            layout.addWidget(wrapped(""))
    for i, finding in enumerate(found):
        item = layout.itemAt(2 * i + 1)
        says = item.widget() if item is not None else None
        if isinstance(says, QLabel):
            says.setText(remark(s.shown.facts, finding))
