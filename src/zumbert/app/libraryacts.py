"""Copies and removes records of the library, and reads and writes it."""

from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QHBoxLayout, QWidget

from zumbert.app.panels.rows import chip, label
from zumbert.app.questions import file_to_read, file_to_write
from zumbert.app.session import Session
from zumbert.app.told import told
from zumbert.edits.library import (
    copied_record,
    title,
    with_records,
    with_starter_set,
    without_record,
)
from zumbert.model.library import Shelf
from zumbert.model.project import Project


class LibraryActs(QWidget):
    """Buttons beside the tables of the library; each change is one undo step."""

    def __init__(self, session: Session, shelf: Shelf, chosen: Callable[[], Iterable[str]]) -> None:
        super().__init__()
        self.session, self.shelf, self._rows = session, shelf, chosen
        line = QHBoxLayout(self)
        line.setContentsMargins(14, 0, 14, 4)
        self.says = label("", "second")
        line.addWidget(label("Library", "section"))
        line.addWidget(self.says)
        line.addStretch(1)
        for text, name, run in (
            ("Copy row", "copy record", self._copy),
            ("Take out", "take out record", self._take_out),
            ("Starter set", "starter set", self._starter),
            ("Read\u2026", "read library", self._read),
            ("Write\u2026", "write library", self._write),
        ):
            line.addWidget(chip(text, name, run))

    def refresh(self) -> None:
        """Shows how many records there are and how many are offered."""
        records = getattr(self.session.state.shown.project, self.shelf)
        offered = sum(r.allowed for r in records.values())
        what = "structure types" if self.shelf == "types" else "pipe sizes"
        self.says.setText(f"{len(records)} {what}, {offered} offered for new work")

    def _chosen(self) -> Any:
        """The selected record; reports where none is selected."""
        chosen = sorted(self._rows())
        if not chosen:
            self.session.refused.emit("Choose a row of the library first.")
            return None
        return chosen[0]

    def _copy(self) -> None:
        key, shelf = self._chosen(), self.shelf
        if key is not None:
            self.session.edit(
                "Copy a record of the library", lambda p, f: copied_record(p, shelf, key)[0]
            )

    def _take_out(self) -> None:
        key, shelf, project = self._chosen(), self.shelf, self.session.state.current.project
        if key is not None:
            name = title(project, getattr(project, shelf)[key])
            self.session.edit(
                f"Take {name} out of the library", lambda p, f: without_record(p, shelf, key)
            )

    def _starter(self) -> None:
        self.session.edit("Add the starter set", lambda p, f: with_starter_set(p))

    def _read(self) -> None:
        path = file_to_read(self, "Read a library", "", "Library (*.toml *.csv)")
        if path is not None:
            self.read(path)

    def read(self, path: Path) -> None:
        """Takes in the records of a file as one undo step; those of a known key are replaced."""
        from zumbert.exchange.library import read_library

        def make(project: Project, facts: Any) -> Project:
            found = read_library(path)
            return with_records(project, found.types, found.sizes)

        self.session.edit(f"Read the library {path.name}", make)

    def _write(self) -> None:
        path = file_to_write(
            self,
            "Write the library",
            "",
            "library.toml",
            "Whole library (*.toml);;This table (*.csv)",
        )
        if path is not None:
            self.write(path)

    @told(None)
    def write(self, path: Path) -> None:
        """Writes the whole library as TOML, or the part that is shown as CSV, by the ending of
        the path.
        """
        from zumbert.exchange.library import write_library, write_shelf

        project = self.session.state.current.project
        if path.suffix.lower() == ".csv":
            write_shelf(path, project, self.shelf)
        else:
            write_library(path, project)
