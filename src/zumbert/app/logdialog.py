"""Help, Show the log: the faults that were logged, and where the log is."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication, QTextCursor
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QLabel,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from zumbert.log import log_file, log_text


class LogDialog(QDialog):
    """The log, the last fault at its end; Esc closes it."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("log")
        self.setWindowTitle("The log")
        self.resize(760, 560)
        where = QLabel(str(log_file()))
        where.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.text = QPlainTextEdit(log_text() or "Nothing has gone wrong yet.")
        self.text.setReadOnly(True)
        self.text.moveCursor(QTextCursor.MoveOperation.End)
        buttons = QDialogButtonBox()
        copy = buttons.addButton("Copy", QDialogButtonBox.ButtonRole.ActionRole)
        close = buttons.addButton("Close", QDialogButtonBox.ButtonRole.RejectRole)
        close.setDefault(True)
        copy.clicked.connect(lambda: QGuiApplication.clipboard().setText(self.text.toPlainText()))
        buttons.rejected.connect(self.reject)
        whole = QVBoxLayout(self)
        whole.addWidget(where)
        whole.addWidget(self.text, 1)
        whole.addWidget(buttons)
