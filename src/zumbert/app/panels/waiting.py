"""How far long work is, in a dialog: a bar, words and a button that gives the work up."""

from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QPushButton, QWidget

from zumbert.app.panels.rows import label


def bar_and_button(words: str) -> tuple[QProgressBar, QPushButton]:
    """A bar of thousandths and the button beside it, hidden while there is nothing to wait for."""
    bar, give_up = QProgressBar(), QPushButton(words)
    bar.setRange(0, 1000)
    bar.setTextVisible(False)
    bar.setFixedSize(120, 8)
    give_up.setProperty("role", "chip")
    give_up.setObjectName("give up")
    for w in (bar, give_up):
        w.hide()
    return bar, give_up


class Waiting(QWidget):
    """A line of a dialog that takes no room while there is nothing to wait for."""

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self.words = label("", "second")
        self.bar, self.give_up = bar_and_button("Stop")
        row.addWidget(self.words, 1)
        row.addWidget(self.bar)
        row.addWidget(self.give_up)
        self.hide()

    def progress(self, share: float | None, words: str) -> None:
        """How far long work is, 0 to 1; None: it is over."""
        for w in (self, self.bar, self.give_up):
            w.setVisible(share is not None)
        self.words.setText(words)
        if share is not None:
            self.bar.setValue(round(share * 1000))

    def say(self, text: str) -> None:
        """Reports a cancelled work where the summary stands."""
