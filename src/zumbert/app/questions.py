"""Questions that stop the work until they are answered: one sentence, and buttons that say what they do."""

from PySide6.QtWidgets import QMessageBox, QWidget


def ask(
    parent: QWidget | None, name: str, title: str, text: str, choices: tuple[str, ...], drops: int | None = None
) -> int:
    """The number of the chosen button, the last where Esc is pressed. Enter chooses the first, unless that is the one that
    loses something (`drops`): then the last.
    """
    box = QMessageBox(parent)
    box.setObjectName(name)
    box.setWindowTitle(title)
    box.setText(text)
    roles = QMessageBox.ButtonRole
    last = len(choices) - 1
    made = [
        box.addButton(
            word, roles.RejectRole if i == last else roles.DestructiveRole if i == drops else roles.AcceptRole
        )
        for i, word in enumerate(choices)
    ]
    box.setDefaultButton(made[last] if drops == 0 else made[0])
    box.setEscapeButton(made[last])
    box.exec()
    return next((i for i, b in enumerate(made) if b is box.clickedButton()), last)
