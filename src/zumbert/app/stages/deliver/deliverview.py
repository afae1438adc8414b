"""The stage Deliver: the list of sheets at the left, the sheet itself beside it."""

from functools import partial

from msgspec import Struct
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from zumbert.app.guard import guarded
from zumbert.app.panels.rows import chip, label
from zumbert.app.pen import Pen
from zumbert.app.reader import Reader
from zumbert.app.session import Session
from zumbert.app.stages.deliver.sheetview import SheetView
from zumbert.app.state import State
from zumbert.app.value import Value
from zumbert.app.views.covering import Covering
from zumbert.app.work import Work
from zumbert.delivery.job import Job
from zumbert.delivery.pages import Leaf, leaves, page
from zumbert.edits.sheets import add_sheet, move_label_on, move_sheet, remove_sheet, usual_sheets
from zumbert.model.ids import SheetId
from zumbert.model.sheet import SHEET_KINDS

STAGE = "deliver"
LIST = 216  # width of the list, drawing units
AT_ONCE = 300  # pipes: of more a page is composed beside the window
NOTHING = "There is nothing on this sheet yet: lay a run first."
CANCELLED = "Cancelled. Go to another stage and back to try again."
EMPTY = "No sheets yet. Make the usual set with one click, or add one by its kind."


class LeavesOf(Struct, eq=False):
    """The pages that were composed last, and their source."""

    value: Value
    job: Job
    leaves: list[Leaf]
    cancelled: bool = False


class DeliverView(Covering, Reader):
    """List and preview; both follow the state, and only what is shown is composed."""

    hint = (
        "Drag a label to move it here. Drag the sheet, wheel to zoom, double click: 1:1. Page "
        "Down: next."
    )

    def __init__(self, session: Session, pen: Pen, work: Work | None) -> None:
        super().__init__()
        self.session, self.pen, self.work = session, pen, work
        self._of: LeavesOf | None = None
        self._shown: tuple[object, ...] | None = None
        self.list = SheetList(self)
        self.sheet = SheetView(pen, self._move_label, self.turn)
        self.usual = QPushButton("Make the usual sheets")
        self.usual.setObjectName("usual sheets")
        self.usual.setToolTip(
            "A plan, plan and long section along each run, trench sections, chambers and schedules"
        )
        self.usual.clicked.connect(lambda: session.edit("Make the usual sheets", usual_sheets))
        self.scale = {
            "fit": chip("Fit", "sheet fit", self.sheet.fit),
            "one": chip("1:1", "sheet one", self.sheet.one_to_one),
        }
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._build()
        session.changed.connect(self.follow)
        self.refresh()

    def _build(self) -> None:
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        side = QVBoxLayout()
        side.setContentsMargins(10, 8, 10, 8)
        side.setSpacing(6)
        side.addWidget(label("Sheets", "section"))
        side.addWidget(self.list, 1)
        side.addWidget(self.usual)
        row = QHBoxLayout()
        self.add = chip("Add", "add sheet", self._menu)
        for w in (
            self.add,
            chip("Up", "sheet up", partial(self.reorder, -1)),
            chip("Down", "sheet down", partial(self.reorder, 1)),
            chip("Delete", "delete sheet", self.delete),
        ):
            row.addWidget(w)
        row.addStretch(1)
        side.addLayout(row)
        row = QHBoxLayout()
        for w in self.scale.values():
            row.addWidget(w)
        row.addStretch(1)
        side.addLayout(row)
        left = QWidget()
        left.setLayout(side)
        left.setFixedWidth(LIST)
        whole.addWidget(left)
        whole.addWidget(self.sheet, 1)

    @property
    def main(self) -> QWidget:
        """The sheet that is shown."""
        return self.sheet

    def fit(self) -> None:
        """Shows the whole sheet."""
        self.sheet.fit()

    # -- what is shown -----------------------------------------------------------------------------

    def follow(self, old: State, new: State) -> None:
        """Sheets that were not listed are, when one comes back to them."""
        if new.look.stage.id != STAGE and self._of is not None and self._of.cancelled:
            self._of = None  # it is listed again
        super().follow(old, new)

    def show_state(self) -> None:
        """Shows the list and the page that is picked."""
        s = self.session.state
        if s.look.stage.id != STAGE:
            return
        made = self._leaves(s)
        self.usual.setVisible(not s.shown.project.sheets)
        self.list.show_leaves(made.leaves, s.look.leaf)
        if not made.leaves:
            self._shown = None
            words = EMPTY if not s.shown.project.sheets else NOTHING
            words = CANCELLED if made.cancelled else words
            self.sheet.show_page(None, None, "colour", words)
            return
        leaf = made.leaves[min(max(s.look.leaf, 1), len(made.leaves)) - 1]
        key = (made, leaf.place)
        if self._shown is not None and all(
            a is b or a == b for a, b in zip(self._shown, key, strict=True)
        ):
            return
        self._shown = key
        if self._many and self.work is not None:
            composed = self.work.run(
                f"Sheet {leaf.number}", lambda tell: page(made.job, leaf, made.leaves)
            )
        else:
            composed = page(made.job, leaf, made.leaves)
        self.sheet.show_page(composed, made.job.facts, s.shown.project.delivery.printed, CANCELLED)

    def _leaves(self, s: State) -> LeavesOf:
        if self._of is None or self._of.value is not s.shown:
            v = s.shown
            job = Job(v.project, v.facts, v.findings, self.session.dug)
            made: list[Leaf] | None = None
            if self._many and self.work is not None:
                made = self.work.run("Listing sheets", lambda tell: leaves(job, tell))
            else:
                made = leaves(job)
            self._of = LeavesOf(v, job, made or [], made is None)
        return self._of

    @property
    def _many(self) -> bool:
        """Whether the job is so large that what takes long is done beside the window."""
        return len(self.session.state.shown.project.pipes) > AT_ONCE

    @property
    def picked(self) -> Leaf | None:
        """The page that is shown."""
        made = self._leaves(self.session.state).leaves
        return made[min(max(self.session.state.look.leaf, 1), len(made)) - 1] if made else None

    # -- what is done ------------------------------------------------------------------------------

    def turn(self, by: int) -> None:
        """Turns over pages."""
        count = len(self._leaves(self.session.state).leaves)
        self.session.set(leaf=min(max(1, self.session.state.look.leaf + by), max(1, count)))

    def _menu(self) -> None:
        """The kinds of sheets to add."""
        menu = QMenu(self)
        for kind, of in SHEET_KINDS.items():
            menu.addAction(of.words).triggered.connect(
                lambda _=False, kind=kind: self.add_kind(kind)
            )
        menu.popup(self.add.mapToGlobal(QPoint(0, -menu.sizeHint().height())))

    def add_kind(self, kind: str) -> None:
        """Adds a sheet of a kind, and shows it."""
        if self.session.edit(
            f"Add a sheet: {SHEET_KINDS[kind].words}", lambda p, f: add_sheet(p, kind)[0]
        ):
            key = next(reversed(self.session.state.current.project.sheets))
            self._go(key)

    def _go(self, key: SheetId) -> None:
        found = next(
            (leaf for leaf in self._leaves(self.session.state).leaves if leaf.sheet.id == key), None
        )
        if found is not None:
            self.session.set(leaf=found.place)

    def reorder(self, by: int) -> None:
        """Moves the sheet that is shown among the others; all are numbered anew."""
        leaf = self.picked
        if leaf is not None and self.session.edit(
            f"Move the sheet {leaf.sheet.title}", lambda p, f: move_sheet(p, leaf.sheet.id, by)
        ):
            self._go(leaf.sheet.id)

    def delete(self) -> None:
        """Takes the sheet that is shown out."""
        leaf = self.picked
        if leaf is not None:
            self.session.edit(
                f"Delete the sheet {leaf.sheet.title}", lambda p, f: remove_sheet(p, leaf.sheet.id)
            )

    def _move_label(self, thing: str, at: tuple[float, float]) -> None:
        leaf = self.picked
        if leaf is not None:
            self.session.edit(
                "Move a label on a sheet", lambda p, f: move_label_on(p, leaf.sheet.id, thing, at)
            )


@guarded
class SheetList(QListWidget):
    """The pages by number and title; a key or a click picks one."""

    def __init__(self, view: DeliverView) -> None:
        super().__init__()
        self.view = view
        self.setObjectName("sheets")
        self.setAccessibleName("Sheets")
        self.setWordWrap(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.currentRowChanged.connect(self._picked)
        self._filling = False

    def show_leaves(self, made: list[Leaf], now: int) -> None:
        """Shows pages and which is picked; the list stays as it is where it is the same."""
        texts = [f"{leaf.number}  {leaf.title}" for leaf in made]
        self._filling = True
        if [self.item(i).text() for i in range(self.count())] != texts:
            self.clear()
            for text in texts:
                item = QListWidgetItem(text)
                item.setToolTip(text)
                self.addItem(item)
        self.setCurrentRow(min(max(now, 1), len(texts)) - 1)
        self._filling = False

    def _picked(self, row: int) -> None:
        if not self._filling and row >= 0:
            self.view.session.set(leaf=row + 1)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Delete:
            self.view.delete()
        elif event.modifiers() & Qt.KeyboardModifier.AltModifier and event.key() in (
            Qt.Key.Key_Up,
            Qt.Key.Key_Down,
        ):
            self.view.reorder(-1 if event.key() == Qt.Key.Key_Up else 1)
        else:
            super().keyPressEvent(event)
