"""A list of things to tick; with none ticked all are meant, or the usual ones."""

from collections.abc import Callable, Iterable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QListWidget, QListWidgetItem

KEY = Qt.ItemDataRole.UserRole


class CheckList(QListWidget):
    """Ticks in the order of the list; `take(keys)` takes them as soon as one changes."""

    def __init__(self, name: str, tall: int, take: Callable[[tuple[str, ...]], object]) -> None:
        super().__init__()
        self.setObjectName(name)
        self.setAccessibleName(name)
        self.setFixedHeight(tall)
        self._take = take
        self._filling = False
        self.itemChanged.connect(self._changed)

    def show_ticks(self, things: Iterable[tuple[str, str]], ticked: Sequence[str]) -> None:
        """Shows things (key, words) and which are ticked."""
        wanted = list(things)
        self._filling = True
        if [(self.item(i).data(KEY), self.item(i).text()) for i in range(self.count())] != wanted:
            self.clear()
            for key, words in wanted:
                item = QListWidgetItem(words)
                item.setData(KEY, key)
                item.setFlags(
                    Qt.ItemFlag.ItemIsEnabled
                    | Qt.ItemFlag.ItemIsUserCheckable
                    | Qt.ItemFlag.ItemIsSelectable
                )
                self.addItem(item)
        for i in range(self.count()):
            on = self.item(i).data(KEY) in ticked
            self.item(i).setCheckState(Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)
        self._filling = False

    @property
    def ticked(self) -> tuple[str, ...]:
        """The keys that are ticked."""
        items = [self.item(i) for i in range(self.count())]
        return tuple(str(i.data(KEY)) for i in items if i.checkState() == Qt.CheckState.Checked)

    def _changed(self, item: QListWidgetItem) -> None:
        if not self._filling:
            self._take(self.ticked)
