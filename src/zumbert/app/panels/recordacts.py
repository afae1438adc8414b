"""Buttons beside a sheet of the project's own records: copy, import, export, delete, and add one
that is shipped.
"""

from collections.abc import Callable, Mapping
from functools import cached_property
from pathlib import Path
from typing import Any, NamedTuple

from PySide6.QtWidgets import QHBoxLayout, QWidget

from zumbert.app.panels.fields import Combo
from zumbert.app.panels.rows import Stack, chip
from zumbert.app.pen import Pen
from zumbert.app.questions import file_to_read, file_to_write
from zumbert.app.session import Session
from zumbert.app.told import told
from zumbert.model.project import Project


class RecordKind(NamedTuple):
    """One kind of records: its words, where they are, and the edits and files of one."""

    word: str
    kinds: str  # as a file dialog has them
    of: Callable[[Project], Mapping[Any, Any]]
    add: Callable[[Project, Any], tuple[Project, Any]]
    copy: Callable[[Project, Any], tuple[Project, Any]]
    remove: Callable[[Project, Any], Project]
    read: Callable[[Path], Any]
    write: Callable[[Any, Path, str], None]  # the record, to a path, in a system of units
    shipped: Callable[[], list[Any]]


class RecordActs(QWidget):
    """Acts on the record that the sheet shows (`key`); a new one is shown (`turn`). Each change
    is one undo step.
    """

    def __init__(
        self,
        session: Session,
        pen: Pen,
        records: RecordKind,
        key: Callable[[], Any],
        turn: Callable[[Any], None],
    ) -> None:
        super().__init__()
        self.session, self.records, self._key, self._turn = session, records, key, turn
        word = records.word
        whole, line = Stack(self, 5), QHBoxLayout()
        for text, run in (
            ("Copy", self._copy),
            ("Import", self._import),
            ("Export", self._export),
            ("Delete", self._delete),
        ):
            line.addWidget(chip(text, f"{text.lower()} {word}", run))
        line.addStretch(1)
        whole.addLayout(line)
        self.add = Combo(pen).as_wide_as_its_column()
        self.add.setObjectName(f"add {word}")
        self.add.setAccessibleName(f"Add a {word}")
        self.add.activated.connect(lambda i: self._add(i))
        whole.addWidget(self.add)

    @cached_property
    def _shipped(self) -> list[Any]:
        return self.records.shipped()

    def refresh(self) -> None:
        """Lists what is shipped, once."""
        if not self.add.count():
            self.add.addItem(f"Add a {self.records.word} …")
            self.add.addItems([r.name for r in self._shipped])

    def _with(self, words: str, made: tuple[Project, Any]) -> None:
        if self.session.apply(words, made[0]):
            self._turn(made[1])

    def _project(self) -> Project:
        return self.session.state.current.project

    def _copy(self) -> None:
        self._with(f"Copy a {self.records.word}", self.records.copy(self._project(), self._key()))

    def _add(self, i: int) -> None:
        if i > 0:
            record = self._shipped[i - 1]
            self._with(f"Add {record.name}", self.records.add(self._project(), record))
        self.add.setCurrentIndex(0)

    def _delete(self) -> None:
        key = self._key()
        self.session.edit(f"Delete a {self.records.word}", lambda p, f: self.records.remove(p, key))

    @told(None)
    def _import(self) -> None:
        path = file_to_read(self, f"Import a {self.records.word}", "", self.records.kinds)
        if path is not None:
            record = self.records.read(path)
            self._with(f"Import {record.name}", self.records.add(self._project(), record))

    @told(None)
    def _export(self) -> None:
        project = self._project()
        record = self.records.of(project)[self._key()]
        name = f"{record.name.lower().replace(' ', '-')}.toml"
        path = file_to_write(self, f"Export the {self.records.word}", "", name, self.records.kinds)
        if path is not None:
            self.records.write(record, path, project.units.system)
