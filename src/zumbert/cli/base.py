"""The parts that all commands share: the table of them, messages, refusals, documents."""

import sys
from typing import Any, NoReturn

import typer

from zumbert.errors import EditError, ZumbertError, known

app = typer.Typer(add_completion=False, rich_markup_mode=None, pretty_exceptions_enable=False)


def say(*lines: str) -> None:
    """Messages go to standard error."""
    for line in lines:
        print(line, file=sys.stderr)


def told(share: float, words: str) -> None:
    """How far long work is, on a line of its own that it writes over; nothing where nobody
    looks.
    """
    if sys.stderr.isatty():
        print(
            f"\r\x1b[K{share:4.0%} {words}" if share < 1 else "\r\x1b[K",
            end="",
            file=sys.stderr,
            flush=True,
        )


def refuse(error: ZumbertError | str) -> NoReturn:
    """Ends the program with one sentence; nothing was written."""
    say(str(error))
    raise typer.Exit(2)


def print_json(document: Any) -> None:
    """One JSON document on standard output."""
    import msgspec

    sys.stdout.buffer.write(msgspec.json.format(msgspec.json.encode(document), indent=1) + b"\n")


def one_of(option: str, word: str, words: tuple[str, ...]) -> Any:
    """A word among some. Raises EditError for another."""
    if word not in words:
        raise EditError(f'{option} is "{word}": {known(word, words)}')
    return word
