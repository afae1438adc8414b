"""The summary before an import is taken: what was found, what is left out and why; what is
taken, in which role and unit.
"""

from collections.abc import Iterable
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from zumbert.app.importparts import extents_words, meanings, scrolled
from zumbert.app.panels.fields import Combo, choice
from zumbert.app.panels.rows import label, rule, wrapped
from zumbert.app.panels.waiting import Waiting
from zumbert.app.pen import Pen
from zumbert.app.questions import take_or_leave
from zumbert.app.session import Session
from zumbert.app.theme import restyle
from zumbert.app.work import Work
from zumbert.errors import Cancelled, ZumbertError
from zumbert.exchange.dxf import Drawing
from zumbert.exchange.found import TABLES, Found, held_as
from zumbert.exchange.importing import built, guessed_roles
from zumbert.exchange.points import WHATS, PointText
from zumbert.exchange.rows import IGNORED, first_rows, meant
from zumbert.exchange.taking.choices import LAYER_USES, BadRows, Choices, Imported, usual_unit
from zumbert.geometry.spikes import SPIKE
from zumbert.model.background import UNITS
from zumbert.model.ids import NetworkId
from zumbert.model.project import Project
from zumbert.model.surface import ROLE_WORDS

LEAVE = "leave"
SAME = (
    (LEAVE, "leave it out"),
    ("replace", "replace it, what stands on it follows"),
    ("beside", "add it beside, named"),
)
SHOWN_ROWS = 5  # of a file of points or a list, in its preview
PER_ROW = 6  # columns of a list beside each other
MOST_LAYERS = 60  # that get a choice of their own


class ImportDialog(QDialog):
    """Every choice shows in the drawings at once. Taking it is one undo step; leaving changes
    nothing.
    """

    def __init__(self, parent: QWidget, session: Session, pen: Pen, found: Found) -> None:
        super().__init__(parent)
        self.session, self.pen, self.found = session, pen, found
        self.setObjectName("import")
        self.setWindowTitle("Import")
        self.setMinimumWidth(620)
        self._made: Project | None = None
        self.roles: dict[str, Combo] = {}
        self.roads: dict[str, QCheckBox] = {}
        self.same: dict[str, Combo] = {}  # roads of names that are there
        self.names: dict[str, QLineEdit] = {}
        self.taken_by: dict[NetworkId, QCheckBox] = {}
        self.units: dict[Path, Combo] = {}
        self.layers: dict[tuple[Path, str], Combo] = {}
        self.columns: dict[Path, list[Combo]] = {}
        self.tables: dict[Path, list[Combo]] = {}  # of lists with heads of others
        self.kinds: dict[Path, Combo] = {}
        self.as_one = QCheckBox("one surface of all points and lines with levels")
        self.as_one.setObjectName("one surface")
        self.as_one.clicked.connect(lambda _=False: self._look())
        self.bad = QCheckBox("take the good rows, leave out those that cannot be taken")
        self.bad.setObjectName("leave bad rows")
        self.bad.hide()
        self.bad.clicked.connect(lambda _=False: self._look())
        self.spikes, self.crossed = (
            QCheckBox("Leave out spikes over"),
            QCheckBox("Of crossing breaklines leave out the later"),
        )
        self.pipe_networks = QCheckBox()
        self.spike = QLineEdit(session.units.full(SPIKE))
        self.says, self.extents = wrapped(""), wrapped("", "second")
        self.waiting = Waiting()
        self.work = Work(self.waiting)
        self._again = self._left = False
        self._build()
        self._look()

    def _build(self) -> None:
        whole = QVBoxLayout(self)
        files = self.found.files.all
        whole.addWidget(label(f"Import {len(files)} file{'' if len(files) == 1 else 's'}", "title"))
        whole.addWidget(wrapped(", ".join(p.name for p in files), "second"))
        whole.addWidget(rule())
        choices = QVBoxLayout()
        self._surfaces(choices)
        self._roads(choices)
        self._pipe_networks(choices)
        self._networks(choices)
        for text in self.found.points:
            self._points(choices, text)
        for kind, path in self.found.files.tables:
            self._table(choices, kind, path)
        for path, drawing in self.found.drawings:
            self._drawing(choices, path, drawing)
        choices.addStretch(1)
        if choices.count() > 1:
            whole.addWidget(scrolled(choices, 190), 3)
        lines = QVBoxLayout()
        for w in (self.says, self.extents):
            lines.addWidget(w)
        lines.addStretch(1)
        whole.addWidget(scrolled(lines, 150), 2)
        whole.addWidget(self.bad)
        whole.addWidget(self.waiting)
        buttons, self.take = take_or_leave(self, "Import")
        whole.addWidget(buttons)

    # -- choices -----------------------------------------------------------------------------------

    def _surfaces(self, into: QVBoxLayout) -> None:
        guess = guessed_roles(self.session.state.current.project, self.found)
        drawn = {f"{d.name} levels" for _, d in self.found.drawings}
        grid = QGridLayout()
        for i, name in enumerate(self.found.surfaces):
            now = LEAVE if name in drawn else guess[name]
            box = self.roles[name] = self._combo(
                f"role {name}", (*ROLE_WORDS, (LEAVE, "leave it out")), now
            )
            grid.addWidget(label(f"Surface {name}", "second"), i, 0)
            grid.addWidget(box, i, 1)
        for path, _ in self.found.grids:
            self._unit(grid, path, usual_unit(self.session.state.current.project), "Grid")
        into.addLayout(grid)
        if self.found.faulty:
            row = QHBoxLayout()
            self.spike.setFixedWidth(56)
            self.spike.setAccessibleName("Height of a spike")
            self.spike.editingFinished.connect(self._look)
            for w in (self.spikes, self.spike, label(self.session.units.m, "second"), self.crossed):
                row.addWidget(w)
            row.addStretch(1)
            into.addLayout(row)
            if len(self.found.surfaces) > 1:
                into.addWidget(self.as_one)
        self.spikes.setObjectName("leave out spikes")
        self.crossed.setObjectName("leave out crossed")
        for switch in (self.spikes, self.crossed):
            switch.clicked.connect(lambda _=False: self._look())

    def _roads(self, into: QVBoxLayout) -> None:
        there = {r.name for r in self.session.state.current.project.roads.values()}
        for name in self.found.roads:
            box = self.roads[name] = QCheckBox(f"Road {name}")
            box.setObjectName(f"road {name}")
            box.setChecked(name not in there)
            box.clicked.connect(lambda _=False: self._look())
            if name not in there:
                into.addWidget(box)
                continue
            how = self.same[name] = self._combo(f"how {name}", SAME, "leave")
            field = self.names[name] = QLineEdit(
                next(n for i in range(2, 1000) if (n := f"{name} {i}") not in there)
            )
            field.setObjectName(f"name for {name}")
            field.setAccessibleName(f"Name for the road {name}")
            field.hide()
            field.editingFinished.connect(self._look)
            how.activated.connect(lambda _, name=name: self._same(name))
            row = QHBoxLayout()
            for w in (label(f"Road {name} is there: ", "second"), how, field):
                row.addWidget(w)
            row.addStretch(1)
            into.addLayout(row)

    def _pipe_networks(self, into: QVBoxLayout) -> None:
        """Pipe networks of LandXML, taken or not."""
        found = [n for _, xml in self.found.landxml for n in xml.networks]
        self.pipe_networks.setVisible(bool(found))
        self.pipe_networks.setText("Pipe networks: " + ", ".join(n.name for n in found))
        self.pipe_networks.setObjectName("pipe networks")
        self.pipe_networks.setChecked(True)
        self.pipe_networks.clicked.connect(lambda _=False: self._look())
        if found:
            into.addWidget(self.pipe_networks)

    def _same(self, name: str) -> None:
        """The choice for a road whose name is in use has changed."""
        how = self.same[name].currentData()
        self.roads[name].setChecked(how != LEAVE)
        self.names[name].setVisible(how == "beside")
        self._look()

    def _networks(self, into: QVBoxLayout) -> None:
        """Which networks take an imported standard or trench type; all of a project that holds
        nothing yet.
        """
        files, project = self.found.files, self.session.state.current.project
        what = " and ".join(
            w for w, k in (("standard", "standard"), ("trench type", "trench")) if files[k]
        )
        if not what:
            return
        into.addWidget(label(f"The {what} is taken by", "second"))
        for key, network in project.networks.items():
            box = self.taken_by[key] = QCheckBox(f"network {network.name}")
            box.setObjectName(f"taken by {network.name}")
            box.setChecked(not project.structures)
            box.clicked.connect(lambda _=False: self._look())
            into.addWidget(box)

    def _points(self, into: QVBoxLayout, text: PointText) -> None:
        """A preview of the first rows, with what each column is."""
        grid = QGridLayout()
        grid.addWidget(label(f"Points {text.path.name}", "section"), 0, 0, 1, 4)
        self._unit(grid, text.path, usual_unit(self.session.state.current.project), "Unit of")
        start = grid.rowCount()
        boxes = []
        for j, what in enumerate(text.columns):
            box = self._combo(
                f"column {j + 1} of {text.path.name}", tuple((w, w) for w in WHATS), what
            )
            boxes.append(box)
            grid.addWidget(box, start, j)
            for i, row in enumerate(text.rows[:SHOWN_ROWS]):
                grid.addWidget(label(row[j] if j < len(row) else "", "small"), start + 1 + i, j)
        self.columns[text.path] = boxes
        into.addLayout(grid)

    def _table(self, into: QVBoxLayout, kind: str, path: Path) -> None:
        """A list of structures, pipes, services or land: its unit; with heads of others what it
        holds and what each column is.
        """
        grid = QGridLayout()
        grid.addWidget(label(f"List {path.name}", "section"), 0, 0, 1, 4)
        self._unit(grid, path, usual_unit(self.session.state.current.project), "Unit of")
        rows = first_rows(path, 1 + SHOWN_ROWS)
        own = meant([h.lower() for h in rows[0]], TABLES[kind])
        if own != [h.lower() for h in rows[0]]:
            i = grid.rowCount()
            grid.addWidget(label("It holds", "second"), i, 0)
            box = self.kinds[path] = choice(
                self.pen, f"kind {path.name}", [(k, k) for k in TABLES], kind
            )
            box.activated.connect(lambda _: self._held_as(path))
            grid.addWidget(box, i, 1)
            self._heads(grid, path, kind, rows)
        into.addLayout(grid)

    def _heads(self, grid: QGridLayout, path: Path, kind: str, rows: list[list[str]]) -> None:
        """The meaning of each column, over its first values."""
        start, boxes = grid.rowCount(), []
        for j, now in enumerate(meant([h.lower() for h in rows[0]], TABLES[kind])):
            at, below = start + (j // PER_ROW) * (SHOWN_ROWS + 2), j % PER_ROW
            box = self._combo(
                f"column {j + 1} of {path.name}",
                meanings(kind),
                now if now in TABLES[kind] else IGNORED,
            )
            boxes.append(box)
            grid.addWidget(box, at, below)
            for i, row in enumerate(rows):
                grid.addWidget(
                    label(row[j] if j < len(row) else "", "second" if i == 0 else "small"),
                    at + 1 + i,
                    below,
                )
        self.tables[path] = boxes

    def _held_as(self, path: Path) -> None:
        """A list is taken for another kind: its columns are asked for anew."""
        kind = self.kinds[path].currentData()
        self.found = replace(self.found, files=held_as(self.found.files, path, kind))
        own = meant([h.lower() for h in first_rows(path, 1)[0]], TABLES[kind])
        for box, now in zip(self.tables[path], own, strict=True):
            box.clear()
            for value, text in meanings(kind):
                box.addItem(text, value)
            box.setCurrentIndex(max(0, box.findData(now)))
        self._look()

    def _drawing(self, into: QVBoxLayout, path: Path, drawing: Drawing) -> None:
        grid = QGridLayout()
        grid.addWidget(label(f"Drawing {path.name}", "section"), 0, 0)
        self._unit(grid, path, drawing.unit, "Unit of")
        for name in drawing.layers[:MOST_LAYERS]:
            i = grid.rowCount()
            box = self.layers[path, name] = self._combo(f"use of {name}", LAYER_USES, "")
            grid.addWidget(label(f"Layer {name}", "second"), i, 0)
            grid.addWidget(box, i, 1)
        if len(drawing.layers) > MOST_LAYERS:
            grid.addWidget(
                label(f"and {len(drawing.layers) - MOST_LAYERS} layers more", "small"),
                grid.rowCount(),
                0,
            )
        into.addLayout(grid)

    def _unit(self, grid: QGridLayout, path: Path, now: str, what: str) -> None:
        i = grid.rowCount()
        box = self.units[path] = self._combo(f"unit {path.name}", tuple((u, u) for u in UNITS), now)
        grid.addWidget(label(f"{what} {path.name}", "second"), i, 0)
        grid.addWidget(box, i, 1)

    def _combo(self, name: str, choices: Iterable[tuple[str, str]], now: str) -> Combo:
        box = choice(self.pen, name, choices, now)
        box.activated.connect(lambda _: self._look())
        return box

    # -- what follows ------------------------------------------------------------------------------

    def choices(self) -> Choices:
        """The choices of now. Raises TypedError for a height that is no number."""
        roles = {name: box.currentData() for name, box in self.roles.items()}
        return Choices(
            roles={name: role for name, role in roles.items() if role != LEAVE},
            networks=self.pipe_networks.isChecked(),
            roads=frozenset(n for n, box in self.roads.items() if box.isChecked()),
            same_roads={n: self._how(n) for n in self.same},
            taken_by=frozenset(k for k, b in self.taken_by.items() if b.isChecked())
            if self.taken_by
            else None,
            units={path: box.currentData() for path, box in self.units.items()},
            layers={key: box.currentData() for key, box in self.layers.items()},
            columns={
                path: tuple(b.currentData() for b in boxes) for path, boxes in self.columns.items()
            },
            tables={
                path: tuple(b.currentData() for b in boxes) for path, boxes in self.tables.items()
            },
            leave_bad=self.bad.isChecked(),
            one_surface=self.as_one.isChecked(),
            spikes=self.session.units.typed(self.spike.text()) if self.spikes.isChecked() else None,
            leave_crossed=self.crossed.isChecked(),
        )

    def _how(self, name: str) -> str:
        """The choice for a road whose name is taken: "replace", or the name that it gets beside
        it.
        """
        return (
            "replace"
            if self.same[name].currentData() == "replace"
            else self.names[name].text().strip() or name
        )

    def _look(self) -> None:
        """Builds what was chosen and shows it; a refusal is told in the place of the summary."""
        self._again = True
        if self.work.busy:  # what is chosen meanwhile is built when the present work has ended
            self.work.give_up()
            return
        while self._again:
            self._again, self._made = False, None
            self.take.setEnabled(False)
            try:
                made = self._worked()
                error: Exception = Cancelled("Stopped. Choose again to continue.")
            except (ZumbertError, ValueError) as e:
                made, error = None, e
        if self._left:
            return
        if made is None:
            self.bad.setVisible(self.bad.isVisibleTo(self) or isinstance(error, BadRows))
            self.says.setText(str(error))
            self.says.setProperty("role", "breach")
            self.extents.setText("")
        else:
            self._made = made.project
            self.says.setText("\n".join(made.notes))
            self.says.setProperty("role", "")
            self.extents.setText(extents_words(made.project, self.session.state.current.project))
        restyle(self.says)
        self.take.setEnabled(self._made is not None)
        self.session.preview(self._made, told=True)

    def _worked(self) -> Imported | None:
        """The project that was chosen, built beside the window; None where it was cancelled."""
        project, choices = self.session.state.current.project, self.choices()
        return self.work.run(
            "Building what is chosen", lambda tell: built(project, self.found, choices, tell)
        )

    def accept(self) -> None:
        if self.work.busy:
            return
        if self._made is not None:
            self.session.apply("Import files", self._made, told=True)
        super().accept()

    def reject(self) -> None:
        self._left, self._again = True, False
        self.work.stop()
        self.session.preview(None)
        super().reject()
