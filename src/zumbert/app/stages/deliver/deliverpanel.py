"""The panel of the stage Deliver: the sheet that is shown, all sheets, issues, files."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QPushButton, QWidget

from zumbert.app.panels.paged import PagedPanel
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.deliver.sheetpage import SheetPage

if TYPE_CHECKING:
    from zumbert.app.stages.deliver.delivering import Delivering


class DeliverPanel(PagedPanel):
    """Four pages; the way to a PDF stands over all of them."""

    names = ("Sheet", "All", "Issues", "Files")

    def __init__(self, session: Session, pen: Pen, delivering: "Delivering") -> None:
        self.pen, self.delivering = pen, delivering
        super().__init__(session)
        self.pdf = QPushButton("All sheets as PDF …")
        self.pdf.setObjectName("pdf")
        self.pdf.setToolTip(
            "Vectors at paper size, with layers and text that can be searched (Ctrl+P)"
        )
        self.pdf.clicked.connect(lambda: delivering.send("pdf"))
        self.whole.insertWidget(0, self.pdf)
        self.whole.addStretch(1)

    def _made(self, i: int) -> QWidget:
        if i == 0:
            return SheetPage(self.session, self.pen, lambda: self.delivering.sheets().picked)
        if i == 1:
            from zumbert.app.stages.deliver.allpage import AllPage

            return AllPage(self.session, self.pen)
        if i == 2:
            from zumbert.app.stages.deliver.issuepage import IssuePage

            return IssuePage(self.session, self.pen, self.delivering)
        from zumbert.app.stages.deliver.filespage import FilesPage

        return FilesPage(self.session, self.delivering)
