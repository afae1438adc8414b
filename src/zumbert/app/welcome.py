"""The welcome page: work left behind, recent projects, the demo, new, open."""

import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from zumbert.app.panels.rows import clear, label, rule, wrapped
from zumbert.app.recent import Recent, recents
from zumbert.store.recovery import Kept, left_behind

COLUMNS = 3


def when(at: float) -> str:
    """A time as people say it: today 14:32, or the date."""
    moment, today = time.localtime(at), time.localtime()
    day = "today" if moment[:3] == today[:3] else time.strftime("%Y-%m-%d", moment)
    return f"{day} {time.strftime('%H:%M', moment)}"


class Welcome(QScrollArea):
    """Shown when the program starts without a file; each entry works by mouse and by keyboard."""

    def __init__(
        self,
        demo: Callable[[], None],
        new: Callable[[], None],
        ask: Callable[[], None],
        open_file: Callable[[Path], object],
        recover: Callable[[Kept], object],
        drop: Callable[[Kept], bool],
    ) -> None:
        super().__init__()
        self._open, self._recover, self._drop = open_file, recover, drop
        self.setWidgetResizable(True)
        self.setObjectName("welcome")
        body = QWidget()
        body.setObjectName("panelbody")
        self.current, self.recent = QVBoxLayout(), QGridLayout()
        whole = QVBoxLayout(body)
        whole.setContentsMargins(64, 44, 64, 32)
        whole.setSpacing(10)
        whole.addWidget(label("Zumbert", "title"))
        whole.addWidget(
            label("Storm pipe runs along roads: plan and long section are one drawing.", "second")
        )
        row = QHBoxLayout()
        for text, run, name in (
            ("New project", new, "new"),
            ("Open …", ask, "open"),
            ("Open the demo", demo, "demo"),
        ):
            button = QPushButton(text)
            button.setObjectName(f"welcome {name}")
            button.setFixedSize(150, 30)
            button.clicked.connect(lambda _=False, r=run: r())
            row.addWidget(button)
        row.addStretch(1)
        whole.addLayout(row)
        whole.addSpacing(8)
        whole.addWidget(rule())
        whole.addLayout(self.current)
        self.recent_title = label("Recent projects", "section")
        whole.addWidget(self.recent_title)
        whole.addLayout(self.recent)
        whole.addStretch(1)
        self.setWidget(body)

    def refresh(self) -> None:
        """Reads anew what is there."""
        clear(self.current)
        for kept in left_behind():
            self._show_kept(kept)
        clear(self.recent)
        found = recents()
        self.recent_title.setText("Recent projects" if found else "No project was open here yet.")
        for i, recent in enumerate(found):
            self.recent.addWidget(self._recent(recent), i // COLUMNS, i % COLUMNS)
        self.recent.setColumnStretch(COLUMNS, 1)

    def _show_kept(self, kept: Kept) -> None:
        """Work of a window that ended without closing: recover it, or delete it."""
        where = f"from {kept.path}" if kept.path else "never saved"
        text = wrapped(
            f'Work on "{kept.name}" ({where}) was not saved when the program ended. Kept '
            f"{when(kept.at)}."
        )
        row = QHBoxLayout()
        row.addWidget(text, 1)
        for words, run in (
            ("Recover", lambda: self._recover(kept)),
            ("Delete …", lambda: self._dropped(kept)),
        ):
            button = QPushButton(words)
            button.setObjectName(f"welcome {words.split()[0].lower()}")
            button.clicked.connect(lambda _=False, r=run: r())
            row.addWidget(button)
        self.current.addLayout(row)
        self.current.addWidget(rule())

    def _dropped(self, kept: Kept) -> None:
        if self._drop(kept):
            self.refresh()

    def _recent(self, recent: Recent) -> QPushButton:
        button = QPushButton(f"{recent.path.stem}\n{recent.path.parent}\n{when(recent.at)}")
        button.setProperty("role", "recent")
        button.setToolTip(str(recent.path))
        button.setFixedSize(300, 108)
        picture = QPixmap(str(recent.picture)) if recent.picture.exists() else QPixmap()
        if not picture.isNull():
            scaled = picture.scaled(
                120,
                84,
                Qt.AspectRatioMode.KeepAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )
            button.setIcon(QIcon(scaled))
            button.setIconSize(QSize(120, 84))
        button.clicked.connect(lambda: self._open(recent.path))
        return button
