"""The panel of the stage Deliver: the sheet that is shown, all sheets, issues, files."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QPushButton, QWidget

from zumbert.app.panels.deliver.sheetpage import SheetPage
from zumbert.app.panels.rows import SegmentedButton, Stack
from zumbert.app.pen import Pen
from zumbert.app.session import Session, State

if TYPE_CHECKING:
    from zumbert.app.delivering import Delivering

PAGES = ("Sheet", "All", "Issues", "Files")


class DeliverPanel(QWidget):
    """Four pages; each is made when it is first shown. The way to a PDF stands over all of them."""

    def __init__(self, session: Session, pen: Pen, delivering: "Delivering") -> None:
        super().__init__()
        self.session, self.pen, self.delivering = session, pen, delivering
        self.page = 0
        self.choice = SegmentedButton(PAGES, self.show_page)
        self.choice.show_choice(0)
        self.pages: dict[int, QWidget] = {0: SheetPage(session, pen, lambda: delivering.sheets().picked)}
        self.pdf = QPushButton("All sheets as PDF …")
        self.pdf.setObjectName("pdf")
        self.pdf.setToolTip("Vectors at paper size, with layers and text that can be searched (Ctrl+P)")
        self.pdf.clicked.connect(lambda: delivering.send("pdf"))
        whole = Stack(self, 6)
        whole.addWidget(self.pdf)
        whole.addWidget(self.choice)
        self.holder = Stack(None, 0)
        whole.addLayout(self.holder)
        self.holder.addWidget(self.pages[0])
        whole.addStretch(1)

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
            from zumbert.app.panels.deliver.allpage import AllPage

            return AllPage(self.session, self.pen)
        if i == 2:
            from zumbert.app.panels.deliver.issuepage import IssuePage

            return IssuePage(self.session, self.pen, self.delivering)
        from zumbert.app.panels.deliver.filespage import FilesPage

        return FilesPage(self.session, self.delivering)

    def refresh(self, s: State) -> None:
        """Shows the state on the page that is turned to."""
        self.pages[self.page].refresh(s)  # type: ignore[attr-defined]
