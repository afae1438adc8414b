"""Which layers of a drawing hold areas, and of which kind."""

from PySide6.QtWidgets import QDialog, QGridLayout, QScrollArea, QVBoxLayout, QWidget

from zumbert.app.panels.fields import Combo, choice
from zumbert.app.panels.rows import clear, label, wrapped
from zumbert.app.pen import Pen
from zumbert.app.questions import take_or_leave
from zumbert.edits.areas import closed_lines
from zumbert.model.display import counted
from zumbert.model.project import Project

NONE = ""


class LayersDialog(QDialog):
    """A row a layer with closed lines: how many, and the kind that they are to be; none to begin
    with.
    """

    def __init__(self, parent: QWidget, project: Project, pen: Pen) -> None:
        super().__init__(parent)
        self.setObjectName("layers")
        self.setWindowTitle("Areas from a drawing")
        self.project, self.pen = project, pen
        self.boxes: dict[str, Combo] = {}
        self.which = choice(pen, "drawing", [(k, b.name) for k, b in project.backgrounds.items()])
        self.which.activated.connect(lambda _: self._fill())
        self.rows = QGridLayout()
        self.none = wrapped("There is no closed line in this drawing.", "second")
        body, scroll = QWidget(), QScrollArea()
        body.setLayout(self.rows)
        scroll.setWidget(body)
        scroll.setWidgetResizable(True)
        whole = QVBoxLayout(self)
        whole.addWidget(
            wrapped(
                (
                    "Each closed line of a layer becomes an area, drained to the structure inside "
                    "or "
                    "nearest."
                ),
                "second",
            )
        )
        whole.addWidget(self.which)
        whole.addWidget(self.none)
        whole.addWidget(scroll, 1)
        buttons, self.take = take_or_leave(self, "Create")
        whole.addWidget(buttons)
        self.resize(460, 420)
        self._fill()

    @property
    def drawing(self) -> str:
        """The drawing that is chosen."""
        return str(self.which.currentData())

    @property
    def kinds(self) -> dict[str, str]:
        """The layers that are taken, each with its kind."""
        return {
            layer: box.currentData()
            for layer, box in self.boxes.items()
            if box.currentData() != NONE
        }

    def _fill(self) -> None:
        clear(self.rows)
        self.boxes = {}
        drawing = next(b for k, b in self.project.backgrounds.items() if k == self.drawing)
        kinds = [(NONE, "leave out"), *((k.name, k.name) for k in self.project.area_kinds)]
        for i, layer in enumerate(name for name in drawing.layers if name not in drawing.off):
            count = len(closed_lines(drawing, layer))
            if not count:
                continue
            box = choice(self.pen, f"kind of layer {layer}", kinds, self._guess(layer))
            box.activated.connect(lambda _: self._allow())
            self.boxes[layer] = box
            self.rows.addWidget(label(layer), i, 0)
            self.rows.addWidget(label(counted(count, "area"), "second"), i, 1)
            self.rows.addWidget(box, i, 2)
        self.none.setVisible(not self.boxes)
        self._allow()

    def _guess(self, layer: str) -> str:
        """A kind that the name of the layer says."""
        return next(
            (k.name for k in self.project.area_kinds if k.name.lower() in layer.lower()), NONE
        )

    def _allow(self) -> None:
        self.take.setEnabled(bool(self.kinds))
