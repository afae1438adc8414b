"""The finder of the head strip: a structure, a pipe, a chainage or a command."""

from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QLineEdit

from zumbert.app.guard import guarded
from zumbert.app.session import Session
from zumbert.checks.where import pipe_name

if TYPE_CHECKING:
    from PySide6.QtWidgets import QCompleter


Commands = dict[str, Callable[[], None]]


@guarded
class Finder(QLineEdit):
    """Typing lists what fits; Enter goes there."""

    def __init__(
        self,
        session: Session,
        commands: Callable[[], Commands],
        go: Callable[[str, str], None],
        back: Callable[[], None],
    ) -> None:
        super().__init__()
        self.session, self._commands, self._go, self._back = session, commands, go, back
        self.setFixedSize(196, 30)
        self.setPlaceholderText("Find or command   Ctrl+K")
        self.setAccessibleName("Find or command")
        self.setObjectName("finder")
        self._wanted: str | None = None
        self.returnPressed.connect(lambda: self._want(self.text()))

    @cached_property
    def _listed(self) -> "QCompleter":
        """The matches, in a list under the field; made when the keyboard first comes."""
        from PySide6.QtCore import QStringListModel
        from PySide6.QtWidgets import QCompleter

        model = QStringListModel(self)
        completer = QCompleter(model, self)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        completer.setMaxVisibleItems(12)
        self.textEdited.connect(lambda _: model.setStringList(list(self._all())))
        completer.activated.connect(self._want)
        return completer

    def focusInEvent(self, event: QFocusEvent) -> None:
        if self.completer() is None:
            self.setCompleter(self._listed)
        super().focusInEvent(event)

    def _all(self) -> dict[str, tuple[str, str]]:
        """All that can be found: text to kind and id."""
        facts = self.session.state.current.facts
        out = {s.label: ("structure", str(k)) for k, s in facts.project.structures.items()}
        out |= {
            f"{f.pipe.label}  {pipe_name(facts, f)}": ("pipe", str(k))
            for k, f in facts.pipes.items()
        }
        out |= {text: ("command", text) for text in self._commands()}
        return out

    def _want(self, text: str) -> None:
        """Both field and list may report one Enter: it is taken once, after both have reported."""
        if self._wanted is None:
            QTimer.singleShot(0, self._take)
        self._wanted = text

    def _take(self) -> None:
        text, self._wanted = self._wanted or "", None
        self.take(text)

    def take(self, text: str) -> None:
        """Goes to what was typed or chosen: what is called so, else the first that begins with it,
        else the sole that holds it.
        """
        wanted = text.strip().casefold()
        if not wanted:
            return
        found = self._all()
        names = {k: k.casefold() for k in found}
        exact = next((k for k, n in names.items() if n == wanted), None)
        begins = next((k for k, n in names.items() if n.startswith(wanted)), None)
        holds = [k for k, n in names.items() if wanted in n]
        name = exact or begins or (holds[0] if len(holds) == 1 else None)
        self.leave()
        if name is None:
            self._go("text", text.strip())
            return
        kind, key = found[name]
        if kind == "command":
            self._commands()[key]()
        else:
            self._go(kind, key)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.leave()
            return
        super().keyPressEvent(event)

    def leave(self) -> None:
        """Shuts the list and gives the keyboard back to the drawing."""
        self.clear()
        if self.completer() is not None:
            popup = self._listed.popup()
            if popup is not None:
                popup.hide()
        self._back()
