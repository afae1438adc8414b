"""Help: how a stage works, from its folder; the view in space and the program, from `pages`; all
keys, from the table of actions.
"""

from pathlib import Path

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QTextBrowser, QVBoxLayout, QWidget

HERE = Path(__file__).parent
TITLES = {"keys": "All keys", "about": "About Zumbert", "space": "Help: the view in space"}


def page(name: str) -> str:
    """The text of a page, Markdown."""
    of_stage = HERE / "stages" / name / "help.md"
    path = of_stage if of_stage.exists() else HERE / "pages" / f"{name}.md"
    return path.read_text(encoding="utf-8")


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
