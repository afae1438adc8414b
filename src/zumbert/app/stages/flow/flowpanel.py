"""The panel of the stage Flow: flow, areas, rain, sizes."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from zumbert.app.panels.paged import PagedPanel
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.flow.flowpage import FlowPage

if TYPE_CHECKING:
    from zumbert.app.stages.flow.flowacts import FlowActs


class FlowPanel(PagedPanel):
    """Four pages."""

    names = ("Flow", "Areas", "Rain", "Sizes")

    def __init__(self, session: Session, pen: Pen, acts: "FlowActs") -> None:
        self.pen, self.acts = pen, acts
        super().__init__(session)
        self.whole.addStretch(1)

    def _made(self, i: int) -> QWidget:
        if i == 0:
            return FlowPage(self.session, self.pen, self.acts)
        if i == 1:
            from zumbert.app.stages.flow.areaspage import AreasPage

            return AreasPage(self.session, self.pen, self.acts)
        if i == 2:
            from zumbert.app.stages.flow.rainpage import RainPage

            return RainPage(self.session, self.pen, self.acts)
        from zumbert.app.stages.flow.sizespage import SizesPage

        return SizesPage(self.session, self.pen, self.acts)
