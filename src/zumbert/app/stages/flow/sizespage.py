"""The page of sizes: what may change, what is chosen from, and the differences before they are
taken.
"""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QListWidget, QListWidgetItem, QPushButton, QWidget

from zumbert.app.guard import guarded
from zumbert.app.panels.fields import ValueField, choice
from zumbert.app.panels.rows import Stack, chip, fields, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.told import told
from zumbert.edits.holds import hold_sizes
from zumbert.edits.sizelines import Sized
from zumbert.edits.sizing import SIZED_LEVELS, HowToSize, stays, taken
from zumbert.model.display import counted
from zumbert.model.ids import PipeId, SizeKey, StructureId
from zumbert.model.project import size_words

if TYPE_CHECKING:
    from zumbert.app.stages.flow.flowacts import FlowActs

LEVELS = {"inverts": "inverts stay", "crowns": "crowns stay", "cover": "laid again by cover"}
FREE, HELD = "All sizes free", "All sizes held"


@guarded
class SizesPage(QWidget):
    """idle -Work out-> a list of differences, shown in both drawings -Take-> taken; -Discard or
    another change-> idle.
    """

    def __init__(self, session: Session, pen: Pen, acts: "FlowActs") -> None:
        super().__init__()
        self.session, self.pen, self.acts = session, pen, acts
        self.made: Sized | None = None
        self._of: object = None  # the value that it was made from
        self.may = wrapped("", "second")
        self.levels = choice(pen, "levels of sizing", [(k, LEVELS[k]) for k in SIZED_LEVELS])
        self.order = QCheckBox("Never smaller than what comes in")
        self.chambers = QCheckBox("Chambers follow")
        self.only = QCheckBox("Only the pipes that are selected")
        boxes = (
            (self.order, "size order", True),
            (self.chambers, "chambers follow", True),
            (self.only, "only selected", False),
        )
        for box, name, on in boxes:
            box.setObjectName(name)
            box.setChecked(on)
            box.toggled.connect(lambda _: self._other())
        self.levels.activated.connect(lambda _: self._other())
        self.least, self.greatest = (
            ValueField("least DN", self._typed),
            ValueField("greatest DN", self._typed),
        )
        self.least.setPlaceholderText("any")
        self.greatest.setPlaceholderText("any")
        self.sizes = QListWidget()
        self.sizes.setObjectName("sizes to choose from")
        self.sizes.setAccessibleName("Sizes to choose from")
        self.sizes.setFixedHeight(96)
        self.sizes.itemChanged.connect(lambda _: self._other())
        self.work = QPushButton("Work out sizes")
        self.work.setObjectName("work out sizes")
        self.work.clicked.connect(lambda: self.work_out())
        self.list = QListWidget()
        self.list.setObjectName("size differences")
        self.list.setAccessibleName("Differences")
        self.list.setWordWrap(True)
        self.list.setFixedHeight(190)
        self.list.itemChanged.connect(lambda _: self._ticked())
        self.list.currentRowChanged.connect(self._picked)
        self.told, self.log = wrapped("", "second"), wrapped("", "small")
        self.take_them = QPushButton("Take")
        self.take_them.setObjectName("take sizes")
        self.take_them.clicked.connect(lambda: self.take())
        self.discard_them = chip("Discard", "discard sizes", self.discard)
        self.all = QCheckBox("Show what stays too")
        self.all.setObjectName("show what stays")
        self.all.toggled.connect(lambda _: self._fill(self.without))
        self._filling = False
        self._build()

    def _build(self) -> None:
        whole = Stack(self, 5)
        whole.addWidget(self.may)
        line = Stack(None, 3)
        line.addWidget(
            chip("Hold sizes: the selected pipes, or all", "hold sizes", lambda: self._hold(True))
        )
        line.addWidget(chip("Let them go", "free sizes", lambda: self._hold(False)))
        whole.addLayout(line)
        whole.addWidget(rule())
        whole.addLayout(
            fields(
                [("Levels", self.levels), ("Least DN", self.least), ("Greatest DN", self.greatest)],
                96,
            )
        )
        for box in (self.order, self.chambers, self.only):
            whole.addWidget(box)
        whole.addWidget(label("Sizes to choose from", "section"))
        whole.addWidget(
            wrapped("None ticked: all allowed sizes of the pipe's own material", "small")
        )
        whole.addWidget(self.sizes)
        whole.addWidget(self.work)
        whole.addWidget(self.told)
        whole.addWidget(self.all)
        whole.addWidget(self.list)
        whole.addWidget(self.take_them)
        whole.addWidget(self.discard_them)
        whole.addWidget(rule())
        whole.addWidget(self.log)
        whole.addWidget(chip("Export the log …", "export log", self.acts.export_log))

    # -- what is shown -----------------------------------------------------------------------------

    def refresh(self, s: State) -> None:
        """Shows the state; differences of another value than today's go."""
        if self.made is not None and self._of is not s.current:
            self.made = None
        p = s.current.project
        reasons: dict[str, int] = {}
        for f in s.current.facts.pipes.values():
            why = stays(p, f, HowToSize()) or "may change"
            reasons[why] = reasons.get(why, 0) + 1
        self.may.setText("Sizes: " + ", ".join(f"{n} {why}" for why, n in reasons.items()) + ".")
        texts = [size_words(p, z) for z in p.sizes.values()]
        if [self.sizes.item(i).text() for i in range(self.sizes.count())] != texts:
            self.sizes.clear()
            for (key, _), text in zip(p.sizes.items(), texts, strict=True):
                item = QListWidgetItem(text)
                item.setData(Qt.ItemDataRole.UserRole, key)
                item.setCheckState(Qt.CheckState.Unchecked)
                self.sizes.addItem(item)
        log = p.size_log
        self.log.setText(
            ""
            if log is None
            else f"Last sizing: {counted(sum(x.changes for x in log.lines), 'change')} in "
            f"{counted(log.rounds, 'round')}; the log of each object stays with the project."
        )
        self._show()

    def _show(self) -> None:
        there = self.made is not None
        for w in (self.list, self.take_them, self.discard_them, self.told, self.all):
            w.setVisible(there)

    @property
    def how(self) -> HowToSize:
        """The limits that are asked for. Raises TypedError for a bound that is no number."""
        u = self.session.units
        low, high = self.least.text().strip(), self.greatest.text().strip()
        ticked = [self.sizes.item(i) for i in range(self.sizes.count())]
        named = frozenset(
            SizeKey(t.data(Qt.ItemDataRole.UserRole))
            for t in ticked
            if t.checkState() == Qt.CheckState.Checked
        )
        more = {"least": u.typed_dn(low)} if low else {}
        more |= {"greatest": u.typed_dn(high)} if high else {}
        return HowToSize(
            only=self.session.state.chosen.pipes if self.only.isChecked() else None,
            sizes=named or None,
            levels=self.levels.currentData(),
            order=self.order.isChecked(),
            chambers=self.chambers.isChecked(),
            **more,
        )

    def _typed(self, text: str) -> bool:
        for field in (self.least, self.greatest):
            if field.isModified() or field.hasFocus():
                field.show_value(text, False)
        self._other()
        return True

    def _other(self) -> None:
        """Something else is asked for: what was worked out before goes."""
        if self.made is not None:
            self.discard()

    # -- what is done ------------------------------------------------------------------------------

    @told(None)
    def work_out(self) -> None:
        """Finds the sizes and shows them, in the list and in both drawings."""
        self.made = self.acts.sized(self.how)
        self._of = self.session.state.current
        if self.made is not None:
            changes = sum(x.changes for x in self.made.log.lines)
            settled = (
                "" if self.made.log.settled else " Sizes and times did not agree within ten rounds."
            )
            self.told.setText(
                f"{counted(changes, 'change')} in "
                f"{counted(self.made.log.rounds, 'round')}.{settled}"
            )
            self._fill(frozenset())
            self._ticked()
        self._show()

    def _fill(self, off: frozenset[tuple[str, str]]) -> None:
        """Lists the differences, ticked but for some."""
        if self.made is None:
            return
        self._filling = True
        self.list.clear()
        for line in self.made.log.lines:
            if not line.changes and not self.all.isChecked():
                continue
            text = (
                f"{line.object}: {line.old} to {line.new}\n{line.why}"
                if line.changes
                else f"{line.object}: {line.old}\n{line.why}"
            )
            item = QListWidgetItem(text)
            item.setData(Qt.ItemDataRole.UserRole, (line.id, line.what))
            if not line.changes:
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsUserCheckable)
            else:
                item.setCheckState(
                    Qt.CheckState.Unchecked
                    if (line.id, line.what) in off
                    else Qt.CheckState.Checked
                )
            self.list.addItem(item)
        self._filling = False

    @property
    def without(self) -> frozenset[tuple[str, str]]:
        """The lines that are unticked."""
        items = [self.list.item(i) for i in range(self.list.count())]
        off = [
            i
            for i in items
            if i.flags() & Qt.ItemFlag.ItemIsUserCheckable
            and i.checkState() == Qt.CheckState.Unchecked
        ]
        return frozenset(tuple(i.data(Qt.ItemDataRole.UserRole)) for i in off)

    def _ticked(self) -> None:
        """Shows in both drawings what would be taken."""
        if self._filling or self.made is None:
            return
        self.session.preview(taken(self.session.state.current.project, self.made, self.without))

    def _picked(self, row: int) -> None:
        if self._filling or row < 0:
            return
        key, what = self.list.item(row).data(Qt.ItemDataRole.UserRole)
        made, self.made = self.made, None  # what is selected is no other value
        if what == "type":
            self.session.select(structures=frozenset({StructureId(key)}))
        else:
            self.session.select(pipes=frozenset({PipeId(key)}))
        self.made = made
        self._show()

    def take(self) -> None:
        """Takes what is ticked as one undo step; the log stays with the project."""
        made, without = self.made, self.without
        if made is not None and self._of is self.session.state.current:
            self.made = None
            self.session.edit("Take new sizes", lambda p, f: taken(p, made, without))

    def discard(self) -> None:
        """Leaves all as it was."""
        self.made = None
        self.session.preview(None)
        self._show()

    def _hold(self, on: bool) -> None:
        s = self.session.state
        pipes = s.chosen.pipes or frozenset(s.current.project.pipes)
        self.session.edit(
            "Hold sizes" if on else "Let sizes go", lambda p, f: hold_sizes(p, pipes, on)
        )

    def hideEvent(self, event: object) -> None:
        if self.made is not None and self.session.state.previewing:
            self.session.preview(None)
        super().hideEvent(event)  # type: ignore[arg-type]
