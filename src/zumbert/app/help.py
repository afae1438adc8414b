"""Help: how each stage and the view in space work, from `docs/help`; all keys, from the table of
actions.
"""

from pathlib import Path

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QTextBrowser, QVBoxLayout, QWidget

import zumbert

PAGES = Path(zumbert.__file__).parents[2] / "docs" / "help"
TITLES = {"keys": "All keys", "about": "About Zumbert", "space": "Help: the view in space"}


def page(name: str) -> str:
    """The text of a page, Markdown."""
    try:
        return (PAGES / f"{name}.md").read_text(encoding="utf-8")
    except OSError:
        return (
            f"The page {name}.md is not installed with this program. The menu *Help > All keys* "
            "lists every action."
        )


class HelpDialog(QDialog):
    """A page that scrolls; Esc shuts it."""

    def __init__(self, parent: QWidget, name: str, keys: str = "") -> None:
        super().__init__(parent)
        self.setObjectName("help")
        self.setWindowTitle(TITLES.get(name, f"Help: stage {name.capitalize()}"))
        self.resize(640, 620)
        self.text = QTextBrowser()
        self.text.setOpenExternalLinks(False)
        self.text.setMarkdown(keys if name == "keys" else page(name))
        buttons = QDialogButtonBox()
        buttons.addButton("Close", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.rejected.connect(self.reject)
        whole = QVBoxLayout(self)
        whole.addWidget(self.text, 1)
        whole.addWidget(buttons)
