"""The tables under the drawings."""

from typing import Any, cast

from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from zumbert.app.libraryacts import LibraryActs
from zumbert.app.panels.rows import SegmentedButton, label
from zumbert.app.pen import Pen
from zumbert.app.reader import Reader
from zumbert.app.session import Session
from zumbert.app.stages.flow.areatable import AreaTable
from zumbert.app.stages.trench.takeoff import TakeoffBar, TakeoffTable
from zumbert.app.state import State
from zumbert.app.tables.model import KINDS, SHELVES, TableKind
from zumbert.app.tables.records import Records
from zumbert.model.library import Shelf


class TablesDrawer(QWidget, Reader):
    """The drawer: which table, a filter, the table."""

    def __init__(self, session: Session, pen: Pen, close: Any) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("tables")
        self.kind: TableKind = "structures"
        kinds: tuple[TableKind, ...] = tuple(KINDS)
        self.takeoff = TakeoffTable(session, pen)
        self.tables: dict[TableKind, Records] = {
            k: Records(session, pen, k) for k in kinds if k not in ("areas", "quantities")
        }
        self.tables["areas"] = AreaTable(session, pen)
        self.tables["quantities"] = self.takeoff
        self.bar = TakeoffBar(self.takeoff, pen, self.refresh)
        self.which = SegmentedButton(tuple(KINDS.values()), lambda i: self.show_kind(kinds[i]))
        self.library = LibraryActs(
            session, lambda: cast("Shelf", self.kind), lambda: self.table.chosen()
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
        whole.addWidget(self.library)
        whole.addWidget(self.bar)
        for table in self.tables.values():
            whole.addWidget(table, 1)
        session.changed.connect(self.follow)
        self.show_kind("structures")

    @property
    def table(self) -> Records:
        """The table that is shown."""
        return self.tables[self.kind]

    def show_kind(self, kind: TableKind) -> None:
        """Shows one of the tables."""
        self.kind = kind
        for k, t in self.tables.items():
            t.setVisible(k == kind)
        self.library.setVisible(kind in SHELVES)
        self.bar.setVisible(kind == "quantities")
        self.which.show_choice(list(KINDS).index(kind))
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
        if self.kind in SHELVES:
            self.library.refresh()
        self._counted()
