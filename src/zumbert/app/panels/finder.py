"""The finder of the head strip: a structure, a pipe, a chainage or a command."""

from collections.abc import Callable

from PySide6.QtCore import QStringListModel, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QCompleter, QLineEdit

from zumbert.app.session import Session
from zumbert.checks.where import pipe_name


class Finder(QLineEdit):
    """Typing lists what fits; Enter goes there."""

    def __init__(
        self, session: Session, commands: Callable[[], dict[str, Callable[[], None]]], go: Callable[[str, str], None]
    ) -> None:
        super().__init__()
        self.session, self._commands, self._go = session, commands, go
        self.setFixedSize(196, 30)
        self.setPlaceholderText("Find or command   Ctrl+K")
        self.setAccessibleName("Find or command")
        self.setObjectName("finder")
        self._model = QStringListModel()
        completer = QCompleter(self._model, self)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        completer.setMaxVisibleItems(12)
        self.setCompleter(completer)
        self.textEdited.connect(lambda _: self._model.setStringList(list(self._all())))
        completer.activated.connect(self.take)
        self.returnPressed.connect(lambda: self.take(self.text()))

    def _all(self) -> dict[str, tuple[str, str]]:
        """What can be found: text to kind and id."""
        facts = self.session.state.kept.facts
        out = {s.label: ("structure", str(k)) for k, s in facts.project.structures.items()}
        out |= {f"{f.pipe.label}  {pipe_name(facts, f)}": ("pipe", str(k)) for k, f in facts.pipes.items()}
        out |= {text: ("command", text) for text in self._commands()}
        return out

    def take(self, text: str) -> None:
        """Goes to what was typed or chosen; of several the first that begins with it."""
        wanted = text.strip().casefold()
        if not wanted:
            return
        found = self._all()
        exact = next((k for k in found if k.casefold() == wanted), None)
        name = exact or next((k for k in found if k.casefold().startswith(wanted)), None)
        self.clear()
        self.clearFocus()
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
            self.clear()
            self.clearFocus()
            return
        super().keyPressEvent(event)
