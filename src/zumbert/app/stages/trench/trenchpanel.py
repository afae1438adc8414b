"""The panel of the stage Trench: quantities, trench types, and what is counted."""

from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from zumbert.app.panels.paged import PagedPanel
from zumbert.app.panels.rows import chip
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.trench.totals import TotalsPage


class TrenchPanel(PagedPanel):
    """Three pages, with what is exported and copied under them."""

    names = ("Quantities", "Types", "Counting")

    def __init__(
        self, session: Session, pen: Pen, export: Callable[[], None], copy: Callable[[], object]
    ) -> None:
        self.pen = pen
        super().__init__(session)
        line = QHBoxLayout()
        self.export = QPushButton("Export …")
        self.export.setObjectName("export")
        self.export.setToolTip(
            "All tables to a spreadsheet with totals as formulas, or to CSV (Ctrl+E)"
        )
        self.export.clicked.connect(lambda: export())
        line.addWidget(self.export)
        line.addWidget(chip("Copy as a table", "copy quantities", copy))
        line.addStretch(1)
        self.whole.addLayout(line)
        self.whole.addStretch(1)

    def _made(self, i: int) -> QWidget:
        if i == 0:
            self.totals = TotalsPage(self.session, self.pen)  # the page of quantities
            return self.totals
        if i == 1:
            from zumbert.app.stages.trench.types import TypesPage

            return TypesPage(self.session, self.pen)
        from zumbert.app.stages.trench.counting import CountingPage

        return CountingPage(self.session, self.pen)
