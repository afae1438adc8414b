"""The summary before an import is taken: what was found, what is left out and why, roles and units to choose."""

from pathlib import Path

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QGridLayout, QScrollArea, QVBoxLayout, QWidget

from zumbert.app.panels.groundpanel import ROLES
from zumbert.app.panels.rows import Combo, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.errors import ZumbertError
from zumbert.exchange.dxf import UNITS
from zumbert.exchange.importing import Found, built, guessed_roles
from zumbert.model.project import Project


class ImportDialog(QDialog):
    """Each choice is built and shown in the drawings at once; taken it is one undo step, else nothing is done."""

    def __init__(self, parent: QWidget, session: Session, pen: Pen, found: Found) -> None:
        super().__init__(parent)
        self.session, self.pen, self.found = session, pen, found
        self.setObjectName("import")
        self.setWindowTitle("Import")
        self.setMinimumWidth(560)
        self._made: Project | None = None
        self.roles: dict[str, Combo] = {}
        self.units: dict[Path, Combo] = {}
        self.says = wrapped("")
        self.extents = wrapped("", "second")
        self._build()
        self._look()

    def _build(self) -> None:
        whole = QVBoxLayout(self)
        files = self.found.files
        named = [
            *files.landxml,
            *files.dxf,
            *files.structures,
            *files.pipes,
            *(p for p in (files.standard, files.trench) if p),
        ]
        whole.addWidget(label(f"Import {len(named)} file{'' if len(named) == 1 else 's'}", "title"))
        whole.addWidget(wrapped(", ".join(p.name for p in named), "second"))
        whole.addWidget(rule())
        grid = QGridLayout()
        guess = guessed_roles(self.session.state.kept.project, self.found)
        for i, name in enumerate(self.found.surfaces):
            box = self.roles[name] = self._combo(f"role {name}", ROLES, guess[name])
            grid.addWidget(label(f"Surface {name}", "second"), i, 0)
            grid.addWidget(box, i, 1)
        for i, (path, drawing) in enumerate(self.found.drawings, len(self.found.surfaces)):
            box = self.units[path] = self._combo(f"unit {path.name}", tuple((u, u) for u in UNITS), drawing.unit)
            grid.addWidget(label(f"Drawing {path.name}, unit", "second"), i, 0)
            grid.addWidget(box, i, 1)
        whole.addLayout(grid)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setObjectName("welcome")
        area.setMinimumHeight(170)
        inner = QWidget()
        inner.setObjectName("panelbody")
        lines = QVBoxLayout(inner)
        lines.addWidget(self.says)
        lines.addWidget(self.extents)
        lines.addStretch(1)
        area.setWidget(inner)
        whole.addWidget(area)
        buttons = QDialogButtonBox()
        self.take = buttons.addButton("Take it", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton("Leave it", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        whole.addWidget(buttons)

    def _combo(self, name: str, choices: tuple[tuple[str, str], ...], now: str) -> Combo:
        box = Combo(self.pen)
        box.setObjectName(name)
        for key, text in choices:
            box.addItem(text, key)
        box.setCurrentIndex(box.findData(now))
        box.activated.connect(lambda _: self._look())
        return box

    def _look(self) -> None:
        """Builds what was chosen and shows it; a refusal is told in the place of the summary."""
        roles = {name: box.currentData() for name, box in self.roles.items()}
        units = {path: box.currentData() for path, box in self.units.items()}
        try:
            made = built(self.session.state.kept.project, self.found, roles, units)
        except ZumbertError as e:
            self._made = None
            self.says.setText(str(e))
            self.says.setProperty("role", "breach")
            self.extents.setText("")
        else:
            self._made = made.project
            self.says.setText("\n".join(made.notes))
            self.says.setProperty("role", "")
            self.extents.setText(_extents(made.project, self.session.state.kept.project))
        self.says.style().unpolish(self.says)
        self.says.style().polish(self.says)
        self.take.setEnabled(self._made is not None)
        self.session.preview(self._made)

    def accept(self) -> None:
        if self._made is not None:
            self.session.apply("Import files", self._made)
        super().accept()

    def reject(self) -> None:
        self.session.preview(None)
        super().reject()


def _extents(made: Project, before: Project) -> str:
    """Where the new surfaces and drawings lie."""
    out = []
    for surface in (s for k, s in made.surfaces.items() if k not in before.surfaces):
        v = surface.vertices
        out.append(
            f"{surface.name}: x {v[:, 0].min():.0f} to {v[:, 0].max():.0f}, y {v[:, 1].min():.0f} to {v[:, 1].max():.0f}, "
            f"level {v[:, 2].min():.2f} to {v[:, 2].max():.2f} m"
        )
    for b in (b for k, b in made.backgrounds.items() if k not in before.backgrounds):
        p = b.segments.reshape(-1, 2)
        out.append(
            f"{b.name}: x {p[:, 0].min():.0f} to {p[:, 0].max():.0f}, y {p[:, 1].min():.0f} to {p[:, 1].max():.0f} m"
        )
    return "\n".join(out)
