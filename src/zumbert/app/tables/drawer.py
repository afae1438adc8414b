"""The tables under the drawings."""

from typing import Any

from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from zumbert.app.panels.rows import SegmentedButton, label
from zumbert.app.pen import Pen
from zumbert.app.reader import Reader
from zumbert.app.session import Session
from zumbert.app.stages.stage import TableOffer
from zumbert.app.state import State
from zumbert.app.tables.records import Records
from zumbert.app.tables.shelf import ShelfTable

# of the network and its library, whatever the stage
TABLES: dict[str, TableOffer] = {
    "structures": TableOffer("Structures", lambda s, pen: Records(s, pen, "structures")),
    "pipes": TableOffer("Pipes", lambda s, pen: Records(s, pen, "pipes")),
    "types": TableOffer("Types", lambda s, pen: ShelfTable(s, pen, "types")),
    "sizes": TableOffer("Sizes", lambda s, pen: ShelfTable(s, pen, "sizes")),
}


class TablesDrawer(QWidget, Reader):
    """The drawer: which table, a filter, the table."""

    def __init__(self, session: Session, pen: Pen, close: Any) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("tables")
        self.kind = "structures"
        offers = dict(TABLES)
        for stage in session.stages.values():
            offers |= stage.tables
        self.kinds = tuple(offers)
        self.tables: dict[str, Records] = {k: o.make(session, pen) for k, o in offers.items()}
        self.which = SegmentedButton(
            tuple(o.title for o in offers.values()), lambda i: self.show_kind(self.kinds[i])
        )
        self.which.show_choice(0)
        self.filter = QLineEdit()
        self.filter.setObjectName("table filter")
        self.filter.setAccessibleName("Filter of the table")
        self.filter.setPlaceholderText("Filter, for example existing 225")
        self.filter.setMinimumWidth(200)
        self.filter.setMaximumWidth(230)
        self.filter.textChanged.connect(lambda text: self._filter(text))
        self.count = label("", "second")
        shut = QPushButton("Close")
        shut.setProperty("role", "chip")
        shut.setObjectName("close tables")
        shut.clicked.connect(lambda: close())
        head = QHBoxLayout()
        head.setContentsMargins(14, 4, 14, 4)
        head.setSpacing(12)
        for w in (label("Tables", "section"), self.which, self.filter, self.count):
            head.addWidget(w)
        head.addStretch(1)
        head.addWidget(shut)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addLayout(head)
        for table in self.tables.values():
            if table.bar is not None:
                whole.addWidget(table.bar)
            whole.addWidget(table, 1)
        session.changed.connect(self.follow)
        self.show_kind("structures")

    @property
    def table(self) -> Records:
        """The table that is shown."""
        return self.tables[self.kind]

    def show_kind(self, kind: str) -> None:
        """Shows one of the tables."""
        self.kind = kind
        for k, t in self.tables.items():
            t.setVisible(k == kind)
            if t.bar is not None:
                t.bar.setVisible(k == kind)
        self.which.show_choice(self.kinds.index(kind))
        self.refresh()

    def _filter(self, text: str) -> None:
        for t in self.tables.values():
            t.set_words(text)
        self._counted()

    def _counted(self) -> None:
        shown, whole = self.table.proxy.rowCount(), len(self.table.records.ids)
        self.count.setText(f"{whole}" if shown == whole else f"{shown} of {whole}")

    def follow(self, old: State, new: State) -> None:
        """Nothing is done for tables that nobody sees."""
        if self.isVisible():
            super().follow(old, new)

    def show_state(self) -> None:
        """Shows the state."""
        self.table.refresh(self.session.state)
        self._counted()
