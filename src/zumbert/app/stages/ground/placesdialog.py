"""Structures from a drawing's circles, points and blocks: each kind ticked and given a type,
shown before it is taken.
"""

from PySide6.QtWidgets import QCheckBox, QDialog, QGridLayout, QVBoxLayout, QWidget

from zumbert.app.panels.fields import Combo, choice
from zumbert.app.panels.rows import SegmentedButton, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.questions import take_or_leave
from zumbert.app.session import Session
from zumbert.edits.fromplaces import FromPlaces, Group, from_places, groups, likely_type
from zumbert.edits.layoptions import first_way
from zumbert.errors import ZumbertError
from zumbert.model.background import Background
from zumbert.model.display import Units, counted

MOST = 40  # groups that are listed


class PlacesDialog(QDialog):
    """Every choice shows in the drawings at once. Taking it is one undo step; leaving changes
    nothing.
    """

    def __init__(self, parent: QWidget, session: Session, pen: Pen, background: Background) -> None:
        super().__init__(parent)
        self.session, self.background = session, background
        self.setObjectName("places")
        self.setWindowTitle("Structures from a drawing")
        self.setMinimumWidth(520)
        self.on_roads = True
        self._made: FromPlaces | None = None
        self.rows: dict[Group, tuple[QCheckBox, Combo]] = {}
        self.says = wrapped("", "second")
        whole = QVBoxLayout(self)
        whole.addWidget(label(f"Structures from {background.name}", "title"))
        whole.addWidget(rule())
        whole.addLayout(self._choices(pen))
        where = SegmentedButton(("On the road that is near", "Free, by x and y"), self._where)
        where.show_choice(0)
        whole.addWidget(where)
        whole.addWidget(self.says)
        buttons, self.take = take_or_leave(self, "Create")
        whole.addWidget(buttons)
        self._look()

    def _choices(self, pen: Pen) -> QGridLayout:
        project = self.session.state.current.project
        types = [(t.key, t.name) for t in project.types.values() if t.allowed]
        grid = QGridLayout()
        grid.setColumnStretch(0, 1)
        found = sorted(groups(self.background).items(), key=lambda g: -g[1])
        for i, (group, count) in enumerate(found[:MOST]):
            likely = likely_type(project, group)
            tick = QCheckBox(words(group, count, self.session.units))
            tick.setObjectName(f"take {i}")
            tick.setChecked(likely is not None)
            box = choice(pen, f"type of {i}", types, likely or first_way(project).type)
            tick.clicked.connect(lambda _=False: self._look())
            box.activated.connect(lambda _: self._look())
            self.rows[group] = tick, box
            grid.addWidget(tick, i, 0)
            grid.addWidget(box, i, 1)
        if len(found) > MOST:
            grid.addWidget(label(f"and {len(found) - MOST} kinds more", "small"), MOST, 0)
        return grid

    def _where(self, i: int) -> None:
        self.on_roads = i == 0
        self._look()

    def _look(self) -> None:
        """Builds what is chosen and shows it; a refusal is told in the place of the count."""
        current = self.session.state.current
        types = {g: box.currentData() for g, (tick, box) in self.rows.items() if tick.isChecked()}
        way = self.session.state.held.way or first_way(current.project)
        try:
            self._made = from_places(
                current.project, current.facts, self.background, types, way, self.on_roads
            )
        except ZumbertError as e:
            self._made = None
            self.says.setText(str(e))
        else:
            there = f", {self._made.there} stand there already" if self._made.there else ""
            self.says.setText(f"{counted(len(self._made.structures), 'structure')}{there}.")
        self.take.setEnabled(self._made is not None)
        made = self._made
        self.session.preview(
            made.project if made else None, frozenset(made.structures) if made else frozenset()
        )

    def accept(self) -> None:
        made = self._made
        if made is not None:
            self.session.apply(
                f"Create {counted(len(made.structures), 'structure')} of {self.background.name}",
                made.project,
            )
            self.session.select(structures=frozenset(made.structures), follow=False)
        super().accept()

    def reject(self) -> None:
        self.session.preview(None)
        super().reject()


def words(group: Group, count: int, u: Units) -> str:
    """A group in words."""
    many = "" if count == 1 else "s"
    if group.what == "circle":
        return f"{count} circle{many} of {u.long(2 * group.radius)} on {group.layer}"
    return (
        f"{count} block{many} {group.name} on {group.layer}"
        if group.what == "block"
        else f"{count} point{many} on {group.layer}"
    )
