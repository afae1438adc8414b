"""The panel of quantities: by size, by pipe, pits, totals by status."""

from collections.abc import Callable

from PySide6.QtWidgets import QGridLayout, QPushButton, QVBoxLayout, QWidget

from zumbert.analysis.quantities import Quantities, Total, quantities
from zumbert.analysis.trench import Trenches
from zumbert.app.panels.rows import Stack, clear, label, pair, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session, State

MOST = 150  # pipes that are listed; the spreadsheet has them all


class TrenchPanel(QWidget):
    """Volumes of the whole project; the pipe that is selected stands out."""

    def __init__(self, session: Session, pen: Pen, export: Callable[[], None]) -> None:
        super().__init__()
        self.session = session
        self._shown: Trenches | None = None
        self._pipes: frozenset[str] = frozenset()
        self.body = QVBoxLayout()
        self.body.setSpacing(5)
        self.sub = label("", "second")
        whole = Stack(self)
        whole.addLayout(pair(label("Trench", "title"), label("m³", "second")))
        whole.addWidget(self.sub)
        whole.addWidget(rule())
        whole.addLayout(self.body)
        self.export = QPushButton("Export to a spreadsheet …")
        self.export.setObjectName("export")
        self.export.clicked.connect(lambda: export())
        whole.addWidget(self.export)
        whole.addStretch(1)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        if s.trenches is None or (s.trenches is self._shown and s.pipes == self._pipes):
            return
        self._shown, self._pipes = s.trenches, frozenset(s.pipes)
        project = s.shown.project
        names = sorted({project.trench_types[n.trench].name for n in project.networks.values()})
        self.sub.setText(", ".join(names))
        q = quantities(s.trenches)
        clear(self.body)
        for status, total in q.totals.items():
            self._total(status, total, q)
        self._by_pipe(s, q)

    def _total(self, status: str, t: Total, q: Quantities) -> None:
        u = self.session.units
        self.body.addLayout(pair(label(f"Excavation, {status}", "section"), label(q.basis.replace("-", " "), "small")))
        grid = _grid()
        for i, (dn, (long, dug)) in enumerate(t.by_dn.items()):
            _row(grid, i, (u.dn(dn), u.long(long), u.volume(dug)), strong=False)
        n = len(t.by_dn)
        _row(grid, n, ("Chamber pits, each once", "", u.volume(t.pits)), strong=False)
        _row(grid, n + 1, ("Excavation", f"{u.long(t.length)}", u.volume(t.excavation)), strong=True)
        _row(grid, n + 2, ("less bedding", "", u.volume(-t.bedding)), strong=False)
        _row(grid, n + 3, ("less pipes and chambers", "", u.volume(-t.displacement)), strong=False)
        _row(grid, n + 4, ("Backfill", "", u.volume(t.backfill)), strong=True)
        self.body.addLayout(grid)
        filled = [r for r in q.pipes if r.status == status and r.fill > 0]
        if filled:
            first = ", ".join(f"{r.up} to {r.down} {u.volume(r.fill)} {u.m3}" for r in filled[:6])
            more = f" and {len(filled) - 6} more" if len(filled) > 6 else ""
            self.body.addWidget(wrapped(f"Fill first, up to the crowns that lie over the ground: {first}{more}.", "caution"))
        if t.not_counted:
            self.body.addWidget(
                wrapped(f"Not counted, no ground over all of it: {', '.join(list(t.not_counted)[:12])}.", "caution")
            )
        self.body.addWidget(rule())

    def _by_pipe(self, s: State, q: Quantities) -> None:
        u = s.units
        self.body.addWidget(label("By pipe, trench from pit edge to pit edge", "section"))
        grid = _grid()
        chosen = {s.shown.project.pipes[p].label for p in s.pipes if p in s.shown.project.pipes}
        rows = sorted(q.pipes, key=lambda r: r.label not in chosen)[:MOST]
        for i, r in enumerate(rows):
            cells = (f"{r.up} to {r.down}", f"{u.long(r.trench_length)}", u.volume(r.excavation))
            _row(grid, i, cells, strong=r.label in chosen)
        self.body.addLayout(grid)
        if len(q.pipes) > MOST:
            self.body.addWidget(wrapped(f"and {len(q.pipes) - MOST} more in the spreadsheet.", "second"))


def _grid() -> QGridLayout:
    grid = QGridLayout()
    grid.setVerticalSpacing(1)
    grid.setColumnStretch(0, 1)
    grid.setHorizontalSpacing(4)
    grid.setColumnMinimumWidth(1, 74)
    grid.setColumnMinimumWidth(2, 62)
    return grid


def _row(grid: QGridLayout, row: int, cells: tuple[str, str, str], strong: bool) -> None:
    from PySide6.QtCore import Qt

    for i, text in enumerate(cells):
        w = label(text, "section" if strong else "second" if i < 2 else "")
        if i:
            w.setAlignment(Qt.AlignmentFlag.AlignRight)
        grid.addWidget(w, row, i)
