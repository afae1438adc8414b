"""A new project, or the settings of the one that is open: name, units, how figures are written,
invert basis, standard.
"""

from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtWidgets import (
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from zumbert.app.panels.fields import choice
from zumbert.app.panels.rows import label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.questions import file_to_read, take_or_leave
from zumbert.edits.setup import rename_project, set_standard, with_settings
from zumbert.errors import ZumbertError
from zumbert.model.display import Units
from zumbert.model.project import Project, Settings, new_project
from zumbert.model.unitsystem import UNIT_SYSTEMS

CHAINAGES = (("plus", "0+123.45 (US 12+34.56)"), ("plain", "123.45"))
SLOPES = (("percent", "1.25 %"), ("ratio", "1:80"), ("fraction", "0.0125"))
BASES = (("centres", "at centres"), ("walls", "at inner walls"))
FLOWS = (("manning", "Manning, by n"), ("colebrook-white", "Colebrook-White, by ks"))
LENGTHS = (
    ("centre-plan", "centre plan"), ("wall-plan", "wall plan"), ("centre-slope", "centre slope"),
    ("wall-slope", "wall slope"),
)  # fmt: skip


class ProjectDialog(QDialog):
    """Taken, `made` is the project; nothing is done until then."""

    def __init__(
        self, parent: QWidget, pen: Pen, project: Project | None, folder: Callable[[], str]
    ) -> None:
        super().__init__(parent)
        self.pen, self.project, self._folder = pen, project, folder
        self.made: Project | None = None
        self.standard: Path | None = None
        now = project.settings if project is not None else Settings()
        self.setObjectName("project")
        self.setWindowTitle("New project" if project is None else "Project settings")
        self.setMinimumWidth(460)
        self.name = QLineEdit("New project" if project is None else project.name)
        self.name.setObjectName("project name")
        systems = tuple((key, s.words) for key, s in UNIT_SYSTEMS.items())
        self.system = choice(pen, "units", systems, now.units.system)
        self.chainages = choice(pen, "chainages", CHAINAGES, now.units.chainages)
        self.slopes = choice(pen, "slopes", SLOPES, now.units.slopes)
        self.basis = choice(pen, "invert basis", BASES, now.invert_basis)
        self.lengths = choice(pen, "length basis", LENGTHS, now.length_basis)
        self.formula = choice(pen, "formula", FLOWS, now.formula)
        self.file = QLineEdit()
        self.file.setReadOnly(True)
        self.file.setPlaceholderText("built-in" if project is None else "as it is")
        self.says = wrapped("", "breach")
        self._build()

    def _build(self) -> None:
        whole = QVBoxLayout(self)
        whole.addWidget(label(self.windowTitle(), "title"))
        whole.addWidget(rule())
        grid = QGridLayout()
        pick = QPushButton("TOML …")
        pick.setObjectName("pick standard")
        pick.clicked.connect(lambda: self._ask())
        row = QHBoxLayout()
        row.addWidget(self.file, 1)
        row.addWidget(pick)
        rows: tuple[tuple[str, QWidget | QHBoxLayout], ...] = (
            ("Name", self.name),
            ("Units", self.system),
            ("Chainages as", self.chainages),
            ("Slopes as", self.slopes),
            ("Inverts are quoted", self.basis),
            ("Lengths are counted", self.lengths),
            ("Velocity by", self.formula),
            ("Standard", row),
        )
        for i, (text, w) in enumerate(rows):
            grid.addWidget(label(text, "second"), i, 0)
            if isinstance(w, QWidget):
                grid.addWidget(w, i, 1)
            else:
                grid.addLayout(w, i, 1)
        grid.setColumnStretch(1, 1)
        whole.addLayout(grid)
        note = (
            (
                "In US units the catalogue goes by feet and inches, and the built-in limits are "
                "round feet."
            )
            if self.project is None
            else "Units change how values are shown and typed, never the project itself."
        )
        whole.addWidget(wrapped(note, "small"))
        whole.addWidget(self.says)
        whole.addWidget(take_or_leave(self, "Create" if self.project is None else "Save")[0])

    def _ask(self) -> None:
        path = file_to_read(self, "A design standard", self._folder(), "TOML (*.toml)")
        if path is not None:
            self.use_standard(path)

    def use_standard(self, path: Path) -> None:
        """Takes the standard of a file when the dialog is taken."""
        self.standard = path
        self.file.setText(path.name)

    def settings(self) -> Settings:
        """The choice."""
        before = self.project.settings if self.project is not None else Settings()
        units = Units(
            system=self.system.currentData(),
            chainages=self.chainages.currentData(),
            slopes=self.slopes.currentData(),
        )
        return replace(
            before,
            units=units,
            invert_basis=self.basis.currentData(),
            length_basis=self.lengths.currentData(),
            formula=self.formula.currentData(),
        )

    def accept(self) -> None:
        from zumbert.exchange.toml import read_standard

        try:
            name = self.name.text().strip() or "New project"
            if self.project is None:
                made = new_project(name, self.settings())
            else:
                made = with_settings(rename_project(self.project, name), self.settings())
            if self.standard is not None:
                made = set_standard(made, read_standard(self.standard))
        except ZumbertError as e:
            self.says.setText(str(e))
            return
        self.made = made
        super().accept()
