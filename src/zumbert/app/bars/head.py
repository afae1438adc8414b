"""The head of the window: mark, project, run picker, finder, state line."""

from collections.abc import Callable

from PySide6.QtCore import QPoint, QRect, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from zumbert.analysis.runline import RunKey
from zumbert.analysis.runlist import outline
from zumbert.app.guard import guarded
from zumbert.app.icons import painted
from zumbert.app.panels.fields import to_drawing
from zumbert.app.panels.rows import draw_sign, label, toggle_chip
from zumbert.app.pen import Pen
from zumbert.app.reader import Reader
from zumbert.app.session import Session
from zumbert.app.theme import font, qcolor
from zumbert.model.display import Units


@guarded
class Logo(QPushButton):
    """The mark; a click opens the main menu."""

    def __init__(self, pen: Pen) -> None:
        super().__init__()
        self.pen = pen
        self.setFixedSize(56, 43)
        self.setProperty("role", "mark")
        self.setAccessibleName("Main menu")
        self.setToolTip("Main menu (Alt+M)")

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        try:
            if self.underMouse() or self.hasFocus():
                p.fillRect(self.rect().adjusted(6, 5, -6, -4), qcolor("chrome-2", self.pen.theme))
            painted(p, "mark", "ink", self.pen.theme, 16, 8, 28)
        finally:
            p.end()


@guarded
class RunPicker(QPushButton, Reader):
    """Which run or road the long section shows, with its length and fall."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self.setFixedSize(372, 30)
        self.setAccessibleName("Run shown in the long section")
        self.setObjectName("runpicker")
        self.clicked.connect(self.open)
        self._said: tuple[str, str] = ("", "")
        session.changed.connect(self.follow)
        self.refresh()

    def show_state(self) -> None:
        """Shows the run by name."""
        said, self._said = self._said, self._words()
        if said != self._said:
            self.update()

    def _words(self) -> tuple[str, str]:
        """The name of the run, and its length and fall."""
        s = self.session.state
        name = s.look.run.name if s.look.run is not None else "No run yet"
        name += (
            ", in hand"
            if s.look.run is not None and any(r.pipe in s.held.fresh for r in s.look.run.reaches)
            else ""
        )
        return name, _measure(
            s.units, s.look.run.length, s.look.run.fall
        ) if s.look.run is not None else "lay one in Layout"

    def open(self) -> None:
        """The menu of all runs and roads."""
        menu = self.menu_of_runs()
        menu.setMinimumWidth(self.width())
        menu.popup(self.mapToGlobal(QPoint(0, self.height() + 2)))

    def _show(self, key: RunKey) -> None:
        self.session.show_run(key)
        to_drawing(self)

    def menu_of_runs(self) -> QMenu:
        """One entry a run, then roads."""
        menu = QMenu(self)
        s = self.session.state
        kind = ""
        for key in s.look.keys:
            if kind and key.kind != kind:
                menu.addSeparator()
            kind = key.kind
            shown = outline(s.current.facts, key)
            if shown is not None:
                act = menu.addAction(f"{shown.name}\t{_measure(s.units, shown.length, shown.fall)}")
                act.setData(key)
                act.triggered.connect(lambda _=False, k=key: self._show(RunKey(*k)))
        return menu

    def paintEvent(self, event: QPaintEvent) -> None:
        theme = self.pen.theme
        name, words = self._said
        p = QPainter(self)
        try:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.setPen(qcolor("ink" if self.hasFocus() else "soft", theme))
            p.setBrush(qcolor("field", theme))
            p.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1), 4, 4)
            painted(p, "run", "storm", theme, 8, 5, 20)
            p.setFont(font(13, 600))
            p.setPen(qcolor("ink", theme))
            room = QRect(38, 0, self.width() - 66, self.height())
            drawn = p.boundingRect(room, Qt.AlignmentFlag.AlignVCenter, name)
            p.drawText(room, Qt.AlignmentFlag.AlignVCenter, name)
            p.setFont(font(12.5))
            p.setPen(qcolor("ink-2", theme))
            p.drawText(
                room.adjusted(drawn.width() + 12, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words
            )
            painted(p, "chevron", "ink-2", theme, self.width() - 24, 7, 16)
        finally:
            p.end()


def _measure(u: Units, long: float, fall: float | None) -> str:
    return f"{u.long(long)}" + (f", falls {u.long(fall)}" if fall is not None else "")


@guarded
class StateLine(QPushButton, Reader):
    """Breaches, cautions, saved or not; a click goes to the checks."""

    def __init__(self, session: Session, pen: Pen, to_checks: Callable[[], None]) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self.setFixedSize(330, 43)
        self.setObjectName("stateline")
        self.setToolTip("Go to the checks")
        self.clicked.connect(lambda: to_checks())
        self._said: list[tuple[str, str]] = []
        session.changed.connect(self.follow)
        self.refresh()

    def show_state(self) -> None:
        """Shows the texts."""
        said, self._said = self._said, self.parts()
        if said != self._said:
            self.setAccessibleName(", ".join(text for text, _ in self._said))
            self.update()

    def parts(self) -> list[tuple[str, str]]:
        """Texts and their roles, from left to right."""
        s = self.session.state
        # what is not placed yet counts for nothing
        found = (s.current if s.held.fresh else s.shown).findings
        b, c = found.breaches, found.cautions
        judged = s.current.project.pipes or s.current.project.structures
        breach = (
            f"{b} breach{'' if b == 1 else 'es'}"
            if b
            else "No breach"
            if judged
            else "Nothing to check yet"
        )
        out = [(breach, "breach" if b else "ink" if judged else "ink-2")]
        if c:
            out.append((f"{c} caution{'' if c == 1 else 's'}", "caution"))
        saved = (
            f"Saved {s.file.saved_at}".strip()
            if s.file.saved and s.file.path
            else "Not saved"
            if not s.file.saved
            else "Nothing to save"
        )
        return [*out, (saved, "ink-2")]

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        try:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            x = float(self.width() - 16)
            for i, (text, role) in enumerate(reversed(self._said)):
                p.setFont(font(12.5, 600 if role in ("breach", "caution") else 400))
                wide = p.fontMetrics().horizontalAdvance(text)
                p.setPen(qcolor(role, self.pen.theme))
                p.drawText(
                    QRectF(x - wide, 0, wide + 2, self.height()),
                    Qt.AlignmentFlag.AlignVCenter,
                    text,
                )
                x -= wide
                if role in ("breach", "caution"):
                    draw_sign(p, self.pen, role, x - 12, self.height() / 2)
                    x -= 20
                if i == 0:
                    p.setPen(qcolor("soft", self.pen.theme))
                    p.drawLine(round(x - 12), 13, round(x - 12), self.height() - 13)
                    x -= 8
                x -= 16
        finally:
            p.end()


class Head(QWidget, Reader):
    """Mark, project, run picker, finder and state line; a note where the file is open to look
    only.
    """

    def __init__(
        self,
        session: Session,
        pen: Pen,
        finder: QWidget,
        to_checks: Callable[[], None],
        anew: Callable[[], object],
    ) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("head")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(44)
        self.logo, self.picker, self.state = (
            Logo(pen),
            RunPicker(session, pen),
            StateLine(session, pen, to_checks),
        )
        self.name, self.file = label("", "strong"), label("", "small")
        self.looks = toggle_chip("Look only", "look only", False)
        self.looks.clicked.connect(lambda: anew())
        names = QVBoxLayout()
        names.setSpacing(0)
        names.setContentsMargins(0, 4, 0, 4)
        names.addWidget(self.name)
        under = QHBoxLayout()
        under.setSpacing(4)
        under.addWidget(self.looks)
        under.addWidget(self.file, 1)
        names.addLayout(under)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 0, 0, 1)
        row.setSpacing(8)
        row.addWidget(self.logo)
        holder = QWidget()
        holder.setLayout(names)
        holder.setFixedWidth(184)
        row.addWidget(holder)
        row.addWidget(self.picker)
        row.addSpacing(4)
        row.addWidget(finder)
        row.addStretch(1)
        row.addWidget(self.state)
        session.changed.connect(self.follow)
        self.refresh()

    def show_state(self) -> None:
        """Shows project and file."""
        s = self.session.state
        self.name.setText(s.current.project.name)
        self.file.setText(s.file.path.name if s.file.path is not None else "not in a file yet")
        self.looks.setVisible(s.file.look_only)
        self.looks.setText("Reload" if s.file.free else "Look only")
        self.looks.setEnabled(s.file.free)
        self.looks.setToolTip(
            "Nobody else has this file now: open it as it was saved, to work on it"
            if s.file.free
            else "Open elsewhere: changes are saved to another file"
        )
