"""A panel of several pages, each made when it is first shown."""

from PySide6.QtWidgets import QWidget

from zumbert.app.panels.rows import SegmentedButton, Stack
from zumbert.app.session import Session
from zumbert.app.state import State


class PagedPanel(QWidget):
    """The choice of pages over the one that is turned to; `whole` takes what stands round them."""

    names: tuple[str, ...] = ()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.page = 0
        self.choice = SegmentedButton(self.names, self.show_page)
        self.choice.show_choice(0)
        self.pages: dict[int, QWidget] = {0: self._made(0)}
        self.whole, self.holder = Stack(self, 6), Stack(None, 0)
        self.whole.addWidget(self.choice)
        self.whole.addLayout(self.holder)
        self.holder.addWidget(self.pages[0])

    def _made(self, i: int) -> QWidget:
        """A page, new."""
        raise NotImplementedError

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

    def refresh(self, s: State) -> None:
        """Shows the state on the page that is turned to."""
        self.pages[self.page].refresh(s)  # type: ignore[attr-defined]
