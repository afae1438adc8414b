"""The page of what goes out: a button a kind of file."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QCheckBox, QPushButton, QWidget

from zumbert.app.panels.rows import Stack, label
from zumbert.app.session import Session, State

if TYPE_CHECKING:
    from zumbert.app.delivering import Delivering


class FilesPage(QWidget):
    """Each button asks where to, then writes."""

    def __init__(self, session: Session, delivering: "Delivering") -> None:
        super().__init__()
        from zumbert.app.delivering import OUT

        self.session, self.delivering = session, delivering
        self.only = QCheckBox("Only the sheet that is shown")
        self.only.setObjectName("only this sheet")
        whole = Stack(self, 4)
        whole.addWidget(self.only)
        group = ""
        for key, out in OUT.items():
            if out.group != group:
                group = out.group
                whole.addWidget(label(group, "section"))
            button = QPushButton(f"{out.title} …")
            button.setObjectName(f"send {key}")
            button.setToolTip(out.tip)
            button.clicked.connect(partial(self._send, key))
            whole.addWidget(button)

    def _send(self, key: str) -> None:
        self.delivering.send(key, self.only.isChecked())

    def refresh(self, s: State) -> None:
        """Nothing of it changes with the state."""
