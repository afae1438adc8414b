"""The contents of labels in plan: fields ticked for structures and for pipes."""

from functools import partial
from typing import Any

from PySide6.QtWidgets import QCheckBox, QGridLayout, QPushButton, QWidget

from zumbert.app.panels.rows import Stack, label
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.edits.labels import labels_put_back, set_label_fields
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, label_fields


class LabelFields(QWidget):
    """Each tick is one undo step."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.boxes: dict[str, dict[str, QCheckBox]] = {"structures": {}, "pipes": {}}
        whole = Stack(self, 3)
        whole.addWidget(label("Labels say in plan", "section"))
        for kind, title, fields in (
            ("structures", "Structures", STRUCTURE_FIELDS),
            ("pipes", "Pipes", PIPE_FIELDS),
        ):
            whole.addWidget(label(title, "second"))
            grid = QGridLayout()
            grid.setContentsMargins(0, 0, 0, 2)
            grid.setVerticalSpacing(2)
            for i, field in enumerate(label_fields(fields)):
                name = field.key
                box = QCheckBox(field.title if field.title.isupper() else name)
                box.setObjectName(f"{kind} say {name}")
                box.setAccessibleName(f"Labels of {kind} say {name}")
                box.clicked.connect(partial(self._ticked, kind))
                self.boxes[kind][name] = box
                grid.addWidget(box, i // 4, i % 4)
            whole.addLayout(grid)
        self.back = QPushButton("Put moved labels back")
        self.back.setProperty("role", "chip")
        self.back.setObjectName("labels back")
        self.back.clicked.connect(
            lambda: session.edit("Put labels back", lambda p, f: labels_put_back(p))
        )
        whole.addWidget(self.back)

    def _ticked(self, kind: str, _on: bool = False) -> None:
        chosen: Any = [name for name, box in self.boxes[kind].items() if box.isChecked()]
        self.session.edit(
            f"Choose what labels of {kind} say", lambda p, f: set_label_fields(p, **{kind: chosen})
        )

    def refresh(self, s: State) -> None:
        """Shows the state."""
        project = s.shown.project
        now = {"structures": project.settings.structure_label, "pipes": project.settings.pipe_label}
        for kind, boxes in self.boxes.items():
            for name, box in boxes.items():
                box.setChecked(name in now[kind])
        moved: list[Any] = [*project.structures.values(), *project.pipes.values()]
        self.back.setVisible(any(r.label_at is not None for r in moved))
