"""A small table of values in a panel: points of a road, levels of a service. Each change is
taken at once.
"""

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem

from zumbert.app.guard import guarded

ROW = 22
PAD = 7  # on either side of a value, with the margins that the view keeps
Cells = list[list[str]]


@guarded
class NumberTable(QTableWidget):
    """Texts in rows under heads; `take(rows)` gets all texts when one changes, and tells whether
    they were taken.

    Del takes out the selected rows through `take` as well, where `rows_go` allows it.
    """

    def __init__(
        self,
        name: str,
        heads: Sequence[str],
        take: Callable[[Cells], bool],
        chosen: Callable[[int], None] | None = None,
        rows_go: bool = True,
    ) -> None:
        super().__init__(0, len(heads))
        self._take, self._chosen, self._rows_go = take, chosen, rows_go
        self._cells: Cells = []
        self._filling = False
        self.setObjectName(f"table {name}")
        self.setAccessibleName(name)
        self.setHorizontalHeaderLabels(list(heads))
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.horizontalHeader().setMinimumSectionSize(10)
        self.verticalHeader().setDefaultSectionSize(ROW)
        self.verticalHeader().setFixedWidth(20)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectItems)
        self.setTabKeyNavigation(True)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.cellChanged.connect(self._changed)
        self.currentCellChanged.connect(lambda row, *_: self._choose(row))

    def show_cells(self, cells: Cells) -> None:
        """Shows rows of texts; what is being typed over stays."""
        if cells == self._cells and self.rowCount() == len(cells):
            return
        self._cells = [list(row) for row in cells]
        self._filling = True
        self.setRowCount(len(cells))
        for i, row in enumerate(cells):
            for j, text in enumerate(row):
                item = self.item(i, j)
                if item is None:
                    item = QTableWidgetItem()
                    item.setTextAlignment(
                        Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                    )
                    self.setItem(i, j, item)
                item.setText(text)
        self._filling = False
        self._share()

    def _share(self) -> None:
        """Each column is as wide as its longest value. Spare width is shared; columns that do
        not fit scroll.
        """
        letters, names = self.fontMetrics(), self.horizontalHeader().fontMetrics()
        need = [
            max(
                names.horizontalAdvance(str(self.model().headerData(j, Qt.Orientation.Horizontal)))
                + PAD,
                *(letters.horizontalAdvance(row[j]) + 2 * PAD for row in self._cells),
                0,
            )
            for j in range(self.columnCount())
        ]
        spare = self.viewport().width() - sum(need)
        part, rest = divmod(max(0, spare), len(need))
        for j, wide in enumerate(need):
            self.setColumnWidth(j, wide + part + (j < rest))
        bar = self.horizontalScrollBar().sizeHint().height() if spare < 0 else 0
        head = self.horizontalHeader().sizeHint().height()
        self.setFixedHeight(min(9, max(1, len(self._cells))) * ROW + head + 4 + bar)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._share()

    def _choose(self, row: int) -> None:
        if not self._filling and self._chosen is not None and row >= 0:
            self._chosen(row)

    def _now(self) -> Cells:
        def text(i: int, j: int) -> str:
            item = self.item(i, j)
            return "" if item is None else item.text()

        return [[text(i, j) for j in range(self.columnCount())] for i in range(self.rowCount())]

    def _changed(self, i: int, j: int) -> None:
        if self._filling:
            return
        before = self._cells
        if not self._take(self._now()):
            self._cells = []
            self.show_cells(before)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if (
            event.key() == Qt.Key.Key_Delete
            and self._rows_go
            and self.state() != QAbstractItemView.State.EditingState
        ):
            rows = {i.row() for i in self.selectedIndexes()}
            if rows:
                self._take([r for i, r in enumerate(self._now()) if i not in rows])
            return
        super().keyPressEvent(event)
