"""The command line as a whole: which command, its exit status; the window."""

import sys
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any, NoReturn

import typer
from typer._click.exceptions import ClickException

from zumbert import __version__
from zumbert.cli import exporting, flowing, importing, judging, laying
from zumbert.cli.base import app, say
from zumbert.errors import ZumbertError, known
from zumbert.log import begin_log, log_file, log_text, logger

COMMANDS = (importing, judging, flowing, laying, exporting)  # each adds its own to the table


def _version(wanted: bool) -> None:
    if wanted:
        print(f"zumbert {__version__}")
        raise typer.Exit


def _log(wanted: bool) -> None:
    if wanted:
        say(f"The log is {log_file()}")
        print(log_text() or "Nothing has gone wrong yet.")
        raise typer.Exit


@app.callback()
def options(
    version: Annotated[
        bool,
        typer.Option(
            "--version", "-V", help="Print the version.", callback=_version, is_eager=True
        ),
    ] = False,
    log: Annotated[
        bool, typer.Option("--log", help="Print the log of faults.", callback=_log, is_eager=True)
    ] = False,
) -> None:
    """Storm pipe runs along roads: levels, rules, flow and trench volumes. Without a command:
    the window.
    """


@app.command()
def example(
    out: Annotated[Path, typer.Option(help="The folder to write to; it is made.")] = Path(
        "zumbert-example"
    ),
) -> None:
    """The whole job on the demo files with no window: read, lay out, levels, check, quantities."""
    from zumbert.demo.example import example

    for line in example(out):
        print(line)


@app.command()
def demo() -> None:
    """The window with the demo project."""
    _window(None, demo=True)


@app.command("open", hidden=True)
def open_command(file: Annotated[Path | None, typer.Argument()] = None) -> None:
    """The window with a file."""
    _window(file)


def _window(file: Path | None, demo: bool = False) -> NoReturn:
    from zumbert.app.main import main as window

    raise typer.Exit(window(file, demo))


def main(arguments: list[str] | None = None) -> int:
    """Runs a command and gives its exit status: 0 done, 1 breaches (`check` only), 2 refused or
    unreadable, 3 a fault of the program itself.
    """
    given = sys.argv[1:] if arguments is None else arguments
    begin_log()
    logger.info("zumbert %s", " ".join(given))
    names = {c.name or _name(c.callback) for c in app.registered_commands}
    if not given or (given[0] not in names and not given[0].startswith("-")):
        if given and not _names_a_file(given[0]):
            say(
                f'There is no command "{given[0]}", nor a file of that name: '
                f"{known(given[0], names - {'open'})}"
            )
            return 2
        given = ["open", *given]
    try:
        result = app(given, standalone_mode=False, prog_name="zumbert")
    except ClickException as e:
        say(e.format_message())
        return 2
    except (ZumbertError, OSError) as e:
        say(str(e))
        return 2
    except Exception as e:
        logger.exception("A command failed")
        say(
            f"This is a fault of Zumbert, not of your input ({type(e).__name__}: {e}). The log "
            f"has the details: {log_file()}"
        )
        return 3
    return result if isinstance(result, int) else 0


def _names_a_file(text: str) -> bool:
    """Whether a first word is meant as a project file: it is there, or is written as a path."""
    return Path(text).exists() or Path(text).suffix != "" or "/" in text


def _name(callback: Callable[..., Any] | None) -> str:
    return "" if callback is None else callback.__name__.replace("_", "-")
