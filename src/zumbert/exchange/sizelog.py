"""The log of sizing as text, CSV, spreadsheet and document."""

from pathlib import Path
from typing import Any

from zumbert.errors import ReadError
from zumbert.exchange.csv import write_csv
from zumbert.exchange.tables import Table, text_column
from zumbert.exchange.xlsx import write_xlsx
from zumbert.model.display import counted
from zumbert.model.sizing import SizeLog

WHAT = {"size": "Size", "type": "Type", "levels": "Levels"}


def size_table(log: SizeLog) -> Table:
    """A line for each object, also where nothing changed."""
    columns = tuple(map(text_column, ("Object", "What", "From", "To", "Why")))
    return Table(
        name="Sizes",
        columns=columns,
        rows=tuple((x.object, WHAT[x.what], x.old, x.new, x.why) for x in log.lines),
    )


def size_text(log: SizeLog) -> str:
    """The same as lines of text."""
    lines = [
        f"{x.object}: {x.old} to {x.new} ({x.why})"
        if x.changes
        else f"{x.object}: {x.old} ({x.why})"
        for x in log.lines
    ]
    changes = sum(x.changes for x in log.lines)
    end = (
        f"{counted(changes, 'change')} in "
        f"{counted(log.rounds, 'round')}{'' if log.settled else ', not settled'}."
    )
    return "\n".join([*lines, end]) + "\n"


def write_size_log(log: SizeLog, path: str | Path) -> None:
    """Writes the log in the format of the ending: .csv, .xlsx, else text. Raises ReadError where
    it cannot be written.
    """
    path = Path(path)
    if path.suffix.lower() == ".csv":
        write_csv(path, size_table(log))
    elif path.suffix.lower() == ".xlsx":
        write_xlsx(path, [size_table(log)])
    else:
        try:
            path.write_text(size_text(log), encoding="utf-8")
        except OSError as e:
            raise ReadError(
                f"{path} could not be written: {e.strerror or e}. Choose another folder."
            ) from e


def size_report(log: SizeLog) -> dict[str, Any]:
    """The document of the command line: what changes, and how many rounds it took."""
    changes = [
        {"object": x.object, "what": x.what, "from": x.old, "to": x.new, "why": x.why}
        for x in log.lines
        if x.changes
    ]
    return {"changes": changes, "rounds": log.rounds, "settled": log.settled}
