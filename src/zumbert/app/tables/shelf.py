"""The tables of the library: structure types and pipe sizes, with the buttons above them."""

from zumbert.app.libraryacts import LibraryActs
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.tables.model import RecordModel
from zumbert.app.tables.records import Records
from zumbert.exchange.tables import Table, library_table
from zumbert.model.library import FIELDS, Shelf


class ShelfModel(RecordModel):
    """Rows of a part of the library."""

    def __init__(self, session: Session, pen: Pen, shelf: Shelf) -> None:
        super().__init__(session, pen, shelf)
        self.shelf = shelf

    def table_of(self, s: State) -> Table:
        """The records of the library."""
        return library_table(s.shown.project, self.shelf)

    def _fields(self) -> list[str | None]:
        return [f"{self.shelf}.{f.name}" for f in FIELDS[self.shelf]] + [None]

    def _field(self, column: int) -> None:
        return None

    def editable(self, row: int, column: int) -> bool:
        """Whether a cell can be typed over: where it is used cannot."""
        return self.fields[column] is not None

    def choices(self, column: int) -> list[str]:
        """The words that a column takes, where they are few."""
        if self.fields[column] is None:
            return []
        field = FIELDS[self.shelf][column]
        return ["yes", "no"] if field.of == "yes" else list(field.words)


class ShelfTable(Records):
    """A part of the library; its records are not in the drawings."""

    def __init__(self, session: Session, pen: Pen, shelf: Shelf) -> None:
        super().__init__(session, pen, shelf, ShelfModel(session, pen, shelf))
        self.bar: LibraryActs = LibraryActs(session, shelf, self.chosen)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        super().refresh(s)
        self.bar.refresh()

    def _select(self) -> None:
        pass

    def _follow(self, s: State) -> None:
        pass
