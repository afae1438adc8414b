"""The panel of the stage Trench: quantities, trench types, and what is counted."""

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from zumbert.app.panels.rows import SegmentedButton, Stack, chip
from zumbert.app.panels.trench.totals import TotalsPage
from zumbert.app.pen import Pen
from zumbert.app.session import Session, State

PAGES = ("Quantities", "Types", "Counting")


class TrenchPanel(QWidget):
    """Three pages; each is made when it is first shown."""

    def __init__(self, session: Session, pen: Pen, export: Callable[[], None], copy: Callable[[], None]) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self.page = 0
        self.choice = SegmentedButton(PAGES, self.show_page)
        self.choice.show_choice(0)
        self.pages: dict[int, QWidget] = {0: TotalsPage(session, pen)}
        whole = Stack(self, 6)
        whole.addWidget(self.choice)
        self.holder = Stack(None, 0)
        whole.addLayout(self.holder)
        self.holder.addWidget(self.pages[0])
        line = QHBoxLayout()
        self.export = QPushButton("Export …")
        self.export.setObjectName("export")
        self.export.setToolTip("All tables to a spreadsheet with totals as formulas, or to CSV (Ctrl+E)")
        self.export.clicked.connect(lambda: export())
        line.addWidget(self.export)
        line.addWidget(chip("Copy as a table", "copy quantities", copy))
        line.addStretch(1)
        whole.addLayout(line)
        whole.addStretch(1)

    @property
    def totals(self) -> TotalsPage:
        """The page of quantities."""
        page = self.pages[0]
        assert isinstance(page, TotalsPage)  # noqa: S101 - it is made first
        return page

    def show_page(self, i: int) -> None:
        """Turns to a page."""
        self.page = i
        if i not in self.pages:
            self.pages[i] = self._made(i)
            self.holder.addWidget(self.pages[i])
        for k, page in self.pages.items():
            page.setVisible(k == i)
        self.choice.show_choice(i)
        self.refresh(self.session.state)

    def _made(self, i: int) -> QWidget:
        if i == 1:
            from zumbert.app.panels.trench.types import TypesPage

            return TypesPage(self.session, self.pen)
        from zumbert.app.panels.trench.counting import CountingPage

        return CountingPage(self.session, self.pen)

    def refresh(self, s: State) -> None:
        """Shows the state on the page that is turned to."""
        self.pages[self.page].refresh(s)  # type: ignore[attr-defined]
