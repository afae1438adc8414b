"""Questions that stop the work until they are answered: one sentence, and buttons that say what
they do; and which file.

What they are shown with is imported when the first is asked: no window needs it to start.
"""

import re
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QDialog, QPushButton, QWidget

if TYPE_CHECKING:
    from PySide6.QtWidgets import QDialogButtonBox

_NOT_IN_NAMES = str.maketrans({"/": "-", '"': "'"})  # the dialog takes quotes for a list of files
_ENDING = re.compile(r"\*(\.\w+)")


def ask(
    parent: QWidget | None,
    name: str,
    title: str,
    text: str,
    choices: tuple[str, ...],
    drops: int | None = None,
) -> int:
    """The number of the chosen button, the last where Esc is pressed. Enter chooses the first,
    unless that is the one that loses something (`drops`): then the last.
    """
    from PySide6.QtWidgets import QMessageBox

    box = QMessageBox(parent)
    box.setObjectName(name)
    box.setWindowTitle(title)
    box.setText(text)
    roles = QMessageBox.ButtonRole
    last = len(choices) - 1
    made = [
        box.addButton(
            word,
            roles.RejectRole
            if i == last
            else roles.DestructiveRole
            if i == drops
            else roles.AcceptRole,
        )
        for i, word in enumerate(choices)
    ]
    box.setDefaultButton(made[last] if drops == 0 else made[0])
    box.setEscapeButton(made[last])
    box.exec()
    return next((i for i, b in enumerate(made) if b is box.clickedButton()), last)


def take_or_leave(dialog: QDialog, text: str) -> tuple["QDialogButtonBox", QPushButton]:
    """The two buttons of a dialog that shows what it would do, and the one that does it."""
    from PySide6.QtWidgets import QDialogButtonBox

    box = QDialogButtonBox()
    take = box.addButton(text, QDialogButtonBox.ButtonRole.AcceptRole)
    box.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
    box.accepted.connect(dialog.accept)
    box.rejected.connect(dialog.reject)
    return box, take


def files_to_read(parent: QWidget, title: str, folder: str, kinds: str) -> list[Path]:
    """The files that are chosen, none where the choice is given up; `kinds` as "Words (*.a
    *.b)".
    """
    from PySide6.QtWidgets import QFileDialog

    return [Path(name) for name in QFileDialog.getOpenFileNames(parent, title, folder, kinds)[0]]


def file_to_read(parent: QWidget, title: str, folder: str, kinds: str = "") -> Path | None:
    """The file that is chosen."""
    from PySide6.QtWidgets import QFileDialog

    name = QFileDialog.getOpenFileName(parent, title, folder, kinds)[0]
    return Path(name) if name else None


def folder_to_write(parent: QWidget, title: str, folder: str) -> Path | None:
    """The folder that is chosen; the dialog can make one."""
    from PySide6.QtWidgets import QFileDialog

    name = QFileDialog.getExistingDirectory(parent, title, folder)
    return Path(name) if name else None


def file_to_write(
    parent: QWidget, title: str, folder: str, name: str, kinds: str = ""
) -> Path | None:
    """The path that is chosen; the dialog opens in a folder with a name in it, whatever characters
    that has.

    A path that ends as none of the kinds gets the ending of the chosen one. Where that makes it the
    path of a file that is there, it is asked about, for the dialog did not know.
    """
    from PySide6.QtWidgets import QFileDialog

    typed, kind = QFileDialog.getSaveFileName(
        parent, title, str(Path(folder) / name.translate(_NOT_IN_NAMES)), kinds
    )
    if not typed:
        return None
    if not kinds or typed.lower().endswith(tuple(_ENDING.findall(kinds))):
        return Path(typed)
    path = Path(typed + (_ENDING.findall(kind) or _ENDING.findall(kinds))[0])
    if path.exists() and ask(
        parent, "replace", title, f"{path.name} is there already.", ("Replace", "Cancel"), 0
    ):
        return None
    return path
