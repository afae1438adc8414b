"""Networks with their standards, patterns of labels, and numbering anew: shown where nothing is
selected.
"""

from functools import partial
from typing import Any, get_args

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QPushButton, QWidget

from zumbert.app.panels.fields import Combo, ValueField, choice
from zumbert.app.panels.rows import SegmentedButton, Stack, clear, label, rule, wrapped
from zumbert.app.panels.sharedfields import WHERE
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.edits.basis import set_network_basis
from zumbert.edits.labels import Labelled, pattern_of, renumbered, set_pattern
from zumbert.edits.networks import add_network, change_network, remove_network
from zumbert.model.catalogue import StructureKind
from zumbert.model.ids import NetworkId
from zumbert.model.network import Network
from zumbert.model.project import Project

KINDS: tuple[Labelled, ...] = (*get_args(StructureKind), "pipe")
WORDS: dict[Labelled, str] = {
    "manhole": "Manholes", "gully": "Gullies", "catchpit": "Catch pits", "headwall": "Headwalls",
    "outfall": "Outfalls", "joint": "Joints", "pipe": "Pipes",
}  # fmt: skip


class NetworksSection(QWidget):
    """Each change is one undo step."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self._shown: Any = None
        self.networks = QGridLayout()
        self.networks.setContentsMargins(0, 0, 0, 0)
        self.networks.setHorizontalSpacing(6)
        self.networks.setVerticalSpacing(3)
        self.networks.setColumnStretch(0, 1)
        self.patterns = {k: self._pattern_field(k) for k in KINDS}
        self.which = Combo(pen)
        self.which.setObjectName("renumber network")
        self.which.setAccessibleName("Network to renumber")
        self.up = True
        self.way = SegmentedButton(("From outfall", "From heads"), self._way)
        self.way.show_choice(0)
        self.first = QLineEdit("1")
        self.first.setObjectName("renumber first")
        self.first.setAccessibleName("First number")
        self.first.setFixedWidth(52)
        self._build()

    def _build(self) -> None:
        add = QPushButton("Add a network")
        add.setProperty("role", "chip")
        add.setObjectName("add network")
        add.clicked.connect(lambda: self._add())
        whole = Stack(self, 5)
        whole.addWidget(label("Networks", "section"))
        whole.addLayout(self.networks)
        whole.addWidget(add, 0, Qt.AlignmentFlag.AlignLeft)
        whole.addWidget(rule())
        whole.addWidget(label("Labels", "section"))
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(2)
        for i, (kind, field) in enumerate(self.patterns.items()):
            grid.addWidget(label(WORDS[kind], "second"), i // 2, i % 2 * 2)
            grid.addWidget(field, i // 2, i % 2 * 2 + 1)
        whole.addLayout(grid)
        whole.addWidget(
            wrapped(
                (
                    "{n} is the number, {side} L or R of the road; pipes also {up}-{down}, the "
                    "labels of their ends"
                ),
                "small",
            )
        )
        whole.addSpacing(4)
        whole.addWidget(label("Renumber", "second"))
        line = QHBoxLayout()
        for w in (self.which, self.first):
            line.addWidget(w)
        whole.addLayout(line)
        last = QHBoxLayout()
        last.addWidget(self.way)
        last.addStretch(1)
        go = QPushButton("Renumber")
        go.setObjectName("renumber")
        go.clicked.connect(lambda: self._renumber())
        last.addWidget(go)
        whole.addLayout(last)

    def _pattern_field(self, kind: Labelled) -> ValueField:
        name = f"pattern {kind}"
        field = ValueField(
            name,
            lambda text: self.session.edit(
                f"Label {WORDS[kind].lower()} {text}", lambda p, f: set_pattern(p, kind, text)
            ),
        )
        field.setFixedWidth(76)
        return field

    def _way(self, i: int) -> None:
        self.up = i == 0

    def refresh(self, s: State) -> None:
        """Shows the state."""
        project = s.shown.project
        for kind, field in self.patterns.items():
            field.show_value(pattern_of(project, kind), False)
        counts = dict.fromkeys(project.networks, 0)
        for structure in project.structures.values():
            counts[structure.network] += 1
        for p in project.pipes.values():
            counts[p.network] += 1
        shown = (project.networks, project.standards, counts, project.settings.invert_basis)
        if shown == self._shown:
            return
        self._shown = shown
        self._list(project, counts)
        now = self.which.currentData()
        self.which.clear()
        for n in project.networks.values():
            self.which.addItem(n.name, n.id)
        self.which.setCurrentIndex(max(0, self.which.findData(now)))

    def _list(self, project: Project, counts: dict[NetworkId, int]) -> None:
        clear(self.networks)
        for i, n in enumerate(project.networks.values()):
            row = 2 * i
            name = ValueField(f"network {n.name}", partial(self._rename, n.id))
            name.setAlignment(Qt.AlignmentFlag.AlignLeft)
            name.show_value(n.name, False)
            self.networks.addWidget(name, row, 0)
            if len(project.standards) > 1:
                self.networks.addWidget(self._standards(project, n), row, 1)
            self.networks.addWidget(label(f"{counts[n.id]} in it", "second"), row, 2)
            if len(project.networks) > 1 and not counts[n.id]:
                gone = QPushButton("Remove")
                gone.setProperty("role", "chip")
                gone.setObjectName(f"remove network {n.name}")
                gone.clicked.connect(lambda _=False, n=n: self._remove(n))
                self.networks.addWidget(gone, row, 3)
            self.networks.addWidget(self._basis(project, n), row + 1, 0, 1, 4)

    def _standards(self, project: Project, network: Network) -> Combo:
        """Which of the project's standards a network keeps to."""
        names = [(k, v.name) for k, v in project.standards.items()]
        box = choice(self.pen, f"standard {network.name}", names, network.standard)
        box.setFixedWidth(112)
        box.activated.connect(lambda _: self._change(network.id, standard=box.currentData()))
        return box

    def _basis(self, project: Project, network: Network) -> Combo:
        """Where the inverts of a network are quoted."""
        usual = WHERE[project.settings.invert_basis]
        choices = [
            ("", f"inverts as the project, {usual}"),
            *((k, f"inverts {v}") for k, v in WHERE.items()),
        ]
        box = choice(self.pen, f"basis {network.name}", choices, network.invert_basis or "")
        box.activated.connect(
            lambda _: self.session.edit(
                f"Quote {network.name} {WHERE.get(box.currentData(), 'as the project')}",
                lambda p, f: set_network_basis(p, network.id, box.currentData() or None),
            )
        )
        return box

    def _rename(self, network: NetworkId, text: str) -> bool:
        return self._change(network, name=text)

    def _change(self, network: NetworkId, **values: Any) -> bool:
        return self.session.edit(
            "Change a network", lambda p, f: change_network(p, network, **values)
        )

    def _remove(self, network: Network) -> None:
        self.session.edit(
            f'Remove the network "{network.name}"', lambda p, f: remove_network(p, network.id)
        )

    def _add(self) -> None:
        project = self.session.state.current.project
        like = next(iter(project.networks))
        taken = {n.name for n in project.networks.values()}
        n = len(taken) + 1
        while f"Network {n}" in taken:
            n += 1
        self.session.edit(f"Add Network {n}", lambda p, f: add_network(p, f"Network {n}", like)[0])

    def _renumber(self) -> None:
        network = self.which.currentData()
        try:
            first = int(self.first.text())
        except ValueError:
            self.session.refused.emit(
                f'"{self.first.text()}" is no number to begin with: type 1, or 101.'
            )
            return
        name = f"Renumber {self.which.currentText()}"
        self.session.edit(name, lambda p, f: renumbered(p, f, network, self.up, first))
