"""The page of what goes out: a button a kind of file."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QCheckBox, QPushButton, QWidget

from zumbert.app.panels.rows import Stack, label
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.delivery.out import OUT

if TYPE_CHECKING:
    from zumbert.app.stages.deliver.delivering import Delivering


class FilesPage(QWidget):
    """Each button asks where to, then writes."""

    def __init__(self, session: Session, delivering: "Delivering") -> None:
        super().__init__()
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
            whole.addWidget(self._button(key, out.title, out.tip))
            if out.template:
                tip = "The same, filled into a file of your own"
                whole.addWidget(self._button(key, f"{out.title} from your template", tip, True))

    def _button(self, key: str, title: str, tip: str, own: bool = False) -> QPushButton:
        button = QPushButton(f"{title} …")
        button.setObjectName(f"send {key}{' own' if own else ''}")
        button.setToolTip(tip)
        button.clicked.connect(
            lambda _=False: self.delivering.send(key, self.only.isChecked(), own)
        )
        return button

    def refresh(self, s: State) -> None:
        """Nothing of it changes with the state."""
