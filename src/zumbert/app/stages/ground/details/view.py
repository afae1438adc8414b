"""How ground is shown where nothing is selected."""

from PySide6.QtWidgets import QCheckBox

from zumbert.app.panels.rows import label
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.ground.details.detail import Fields
from zumbert.app.state import State
from zumbert.edits.grounditems import set_view


class ViewDetail(Fields):
    """How ground is shown: the interval of contours, and slope shading."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__(session, pen)
        self.whole.addWidget(label("Contours and shading", "strong"))
        self.contours = self.field("Contours each", "contours", self._contours)
        self.contours.setPlaceholderText("by the scale")
        self.shading = QCheckBox("Shade the ground by its slope")
        self.shading.setObjectName("shading")
        self.shading.clicked.connect(
            lambda on: self.edit(
                "Shade slopes" if on else "Shade no slopes", lambda p, f: set_view(p, shading=on)
            )
        )
        self.whole.addWidget(self.shading)

    def _contours(self, text: str) -> None:
        value = self.typed(text) if text.strip() else None
        if value is not None or not text.strip():
            self.edit("Change the contours", lambda p, f: set_view(p, contours=value))

    def refresh(self, s: State) -> None:
        settings = s.shown.project.settings
        if not self.contours.isModified():
            self.contours.setText(
                "" if settings.contours is None else f"{s.units.full(settings.contours)}"
            )
        self.shading.setChecked(settings.shading)
