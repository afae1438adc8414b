"""Changes of the quantities since an earlier value."""

from collections.abc import Iterable
from functools import partial
from typing import Any

from PySide6.QtWidgets import QWidget

from zumbert.analysis.quantities import Quantities, quantities
from zumbert.analysis.takeoff import BY_NET, Item, priced, takeoff
from zumbert.analysis.trench import trenches
from zumbert.analysis.union import Net, union
from zumbert.app.panels.fields import Combo
from zumbert.app.panels.figures import FigureRow
from zumbert.app.panels.rows import Stack, clear, label
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.value import Value
from zumbert.model.display import number
from zumbert.model.ids import PipeId, StructureId

MANY = 400  # pipes: beyond, totals follow a drag only when it rests
NOTHING = Net({}, {}, ())


class ChangesPage(QWidget):
    """Figures that light up what they count; and what has changed since a value that is chosen."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self.q: Quantities | None = None
        # what is compared with, and its takeoff
        self._base: tuple[Value, dict[tuple[str, str, str, str], Item]] | None = None
        self.changes = Stack(None, 0)
        self.since = Combo(pen)
        self.since.setObjectName("since")
        self.since.setAccessibleName("Compare with")
        self.since.activated.connect(lambda _: self._show_changes())

    def _row(
        self,
        name: str,
        value: str,
        bar: Iterable[tuple[str, float]] = (),
        strong: bool = False,
        of: Iterable[Any] = (),
        tip: str = "",
    ) -> FigureRow:
        ids = [r.id for r in of]
        ask = (lambda: self.light(ids)) if ids else None
        parts = [p for p in bar if p[1] > 0]
        return FigureRow(self.pen, name, value, bar=parts, strong=strong, ask=ask, tip=tip)

    def light(self, ids: Iterable[Any]) -> None:
        """Lights up what is in a figure, in both drawings and the tables."""
        project = self.session.state.shown.project
        keys = list(ids)
        pipes = frozenset(PipeId(k) for k in keys if k in project.pipes)
        structures = frozenset(StructureId(k) for k in keys if k in project.structures)
        self.session.select(pipes=pipes, structures=structures, follow=False)

    def _fill_since(self) -> None:
        steps = self.session.history.earlier()
        now = self.since.currentIndex()
        names = [name for name, _ in steps]
        if [self.since.itemText(i) for i in range(self.since.count())] != names:
            self.since.clear()
            for name in names:
                self.since.addItem(name)
            self.since.setCurrentIndex(now if 0 <= now < len(names) else 0)
        self.since.setMaximumWidth(190)

    def _show_changes(self) -> None:
        clear(self.changes)
        steps, i, q = self.session.history.earlier(), self.since.currentIndex(), self.q
        if q is None or not 0 <= i < len(steps):
            self.changes.addWidget(label("Nothing to compare with yet.", "small"))
            return
        then = steps[i][1]
        s = self.session.state
        if then.project is s.shown.project:
            self.changes.addWidget(label("Nothing has changed.", "small"))
            return
        if self._base is None or self._base[0] is not then:
            dug = trenches(then.facts, s.dug.trenches)
            net = union(dug) if len(dug.pipes) <= MANY else NOTHING
            self._base = then, {p.key: p for p in takeoff(then.facts, quantities(dug, net=net))}
        old = self._base[1]
        new = {p.key: p for p in takeoff(s.shown.facts, q)}
        lines = []
        for key in {**old, **new}:
            a, b = (d[key].quantity if key in d else 0.0 for d in (old, new))
            if abs(a - b) > 0.005:
                item = new.get(key) or old[key]
                value = number(b - a, 0 if not item.unit else 2, signed=True)
                ask = partial(self.light, (*item.pipes, *item.structures)) if key in new else None
                about = (
                    "≈ "
                    if item.name.startswith(BY_NET)
                    and (s.dug.net is None or s.dug.net[0] is not s.dug.trenches)
                    else ""
                )
                lines.append(
                    FigureRow(
                        self.pen,
                        item.name,
                        f"{about}{value} {item.unit}".rstrip(),
                        ask=ask,
                        tip=(
                            f"{item.group}, {item.status}: {number(a, 2)} before, {number(b, 2)} "
                            "now"
                        ),
                    )
                )
        rates = s.shown.project.digging.rates
        if rates:
            a, b = (
                sum(p.sum or 0.0 for p in priced(d.values(), rates) if p.item.status == "proposed")
                for d in (old, new)
            )
            if abs(a - b) > 0.005:
                lines.insert(
                    0, FigureRow(self.pen, "Cost", number(b - a, 2, signed=True), strong=True)
                )
        for row in lines[:24]:
            self.changes.addWidget(row)
        if not lines:
            self.changes.addWidget(label("Nothing of it has changed.", "small"))
