"""The page of what holds for all sheets and files: names, lettering, ink, frame, layers, origin."""

from functools import partial
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QWidget

from zumbert.app.panels.fields import ValueField, choice, offer
from zumbert.app.panels.rows import Stack, chip, fields, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.questions import file_to_read
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.told import told
from zumbert.delivery.dxf.layers import EXAMPLE, layer_name
from zumbert.delivery.ownframe import read_frame
from zumbert.drawing.style import INKS
from zumbert.edits.sheets import set_delivery
from zumbert.model.display import number
from zumbert.model.sheet import DXF_VERSIONS, Delivery
from zumbert.model.typed import typed_number

TEXTS = {"drawn": "Drawn", "checked": "Checked", "date": "Date", "numbers": "Numbers",
         "small": "Labels, mm",
         "large": "Titles, mm", "layers": "DXF layers", "epsg": "EPSG"}  # fmt: skip
TIPS = {
    "numbers": "The pattern of sheet numbers: D-{n:02} gives D-01",
    "small": "Height of the capitals of labels on paper",
    "layers": "Any of {service}, {role} and {status}, with a prefix or suffix",
    "epsg": "The code of the coordinate system; it is written into files, nothing is reprojected",
}  # fmt: skip
PROJECT = ""  # the origin of the project itself


class AllPage(QWidget):
    """Each change is an undo step."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__()
        self.session = session
        self.values = {k: self._field(k) for k in TEXTS}
        self.values["layers"].textEdited.connect(self._show_layer)
        self.printed = choice(pen, "printed in", [(i, i) for i in INKS])
        self.dxf = choice(pen, "dxf version", [(v, v) for v in DXF_VERSIONS])
        self.origin = choice(pen, "file origin", [])
        self.capitals = QCheckBox("Texts in capitals")
        self.capitals.setObjectName("capitals")
        self.capitals.clicked.connect(lambda on: self._set("capitals", on))
        for name, box in (("printed", self.printed), ("dxf", self.dxf)):
            box.activated.connect(partial(self._chosen, name, box))
        self.origin.activated.connect(
            lambda i: self._set("origin", self.origin.itemData(i) or None)
        )
        self.example, self.frame = label("", "small"), wrapped("", "second")
        whole = Stack(self, 5)
        whole.addWidget(label("Title block", "section"))
        whole.addLayout(
            fields(
                [(TEXTS[k], self.values[k]) for k in ("drawn", "checked", "date", "numbers")], 84
            )
        )
        whole.addWidget(self.frame)
        row = QHBoxLayout()
        row.addWidget(chip("Own frame …", "own frame", self.take_frame))
        row.addWidget(chip("Usual frame", "usual frame", lambda: self._set("frame", None)))
        row.addStretch(1)
        whole.addLayout(row)
        whole.addWidget(rule())
        whole.addWidget(label("Lettering and ink", "section"))
        whole.addLayout(
            fields(
                [
                    *((TEXTS[k], self.values[k]) for k in ("small", "large")),
                    ("Printed in", self.printed),
                ],
                84,
            )
        )
        whole.addWidget(self.capitals)
        whole.addWidget(rule())
        whole.addWidget(label("Files for other programs", "section"))
        whole.addLayout(fields([("DXF", self.dxf), (TEXTS["layers"], self.values["layers"])], 84))
        whole.addWidget(self.example)
        whole.addLayout(
            fields([("Origin of", self.origin), (TEXTS["epsg"], self.values["epsg"])], 84)
        )

    def _field(self, key: str) -> ValueField:
        field = ValueField(f"delivery {key}", partial(self._take, key))
        field.setAlignment(Qt.AlignmentFlag.AlignLeft)
        field.setToolTip(TIPS.get(key, ""))
        field.setPlaceholderText(
            {"epsg": "none", "drawn": "nobody yet", "checked": "nobody yet", "date": "none"}.get(
                key, ""
            )
        )
        return field

    def refresh(self, s: State) -> None:
        """Shows the state."""
        how = s.shown.project.delivery
        for key, field in self.values.items():
            field.show_value(_text(how, key), False)
        self.printed.setCurrentIndex(self.printed.findData(how.printed))
        self.dxf.setCurrentIndex(self.dxf.findData(how.dxf))
        drawings = [(k, b.name, "") for k, b in s.shown.project.backgrounds.items()]
        offer(self.origin, [(PROJECT, "the project", ""), *drawings], how.origin or PROJECT)
        self.capitals.setChecked(how.capitals)
        self.frame.setText(
            "The usual frame." if how.frame is None else f"Frame of {how.frame.name}."
        )
        self._show_layer(self.values["layers"].text())

    def _show_layer(self, pattern: str) -> None:
        """The layer that the pattern gives, as it is typed."""
        try:
            self.example.setText(f"such as {layer_name(pattern, EXAMPLE)}")
        except (ValueError, KeyError, IndexError, AttributeError):
            self.example.setText("no pattern yet")

    def _set(self, key: str, value: Any) -> bool:
        return self.session.edit(
            "Change how sheets are made", lambda p, f: set_delivery(p, **{key: value})
        )

    def _chosen(self, key: str, box: QComboBox, index: int) -> None:
        self._set(key, box.itemData(index))

    def _take(self, key: str, text: str) -> bool:
        def value() -> Any:
            if key == "epsg":
                return int(typed_number(text)) if text.strip() else None
            return typed_number(text) if key in ("small", "large") else text.strip()

        return self.session.edit(
            "Change how sheets are made", lambda p, f: set_delivery(p, **{key: value()})
        )

    @told(False)
    def take_frame(self) -> bool:
        """Asks for a drawing and takes it as the frame of all sheets."""
        path = file_to_read(self, "Own frame, in mm", "", "Frames (*.dxf *.svg)")
        return path is not None and self._set("frame", read_frame(path))


def _text(how: Delivery, key: str) -> str:
    value = getattr(how, key)
    if value is None:
        return ""
    return number(value, 2).rstrip("0").rstrip(".") if isinstance(value, float) else str(value)
