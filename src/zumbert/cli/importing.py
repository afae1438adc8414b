"""`zumbert import`: a project from files."""

from collections.abc import Callable
from enum import Enum
from inspect import Parameter, Signature, signature
from pathlib import Path
from typing import Annotated, Any

import typer

from zumbert.cli.base import app, say
from zumbert.model.unitsystem import UNIT_SYSTEMS

_System = Enum("_System", {key: key for key in UNIT_SYSTEMS})  # type: ignore[misc]


def _with_formats(command: Callable[..., None]) -> Callable[..., None]:
    """A command that takes files of each format, an option each."""
    from zumbert.exchange.formats import FORMATS

    own = [
        p
        for p in signature(command, eval_str=True).parameters.values()
        if p.kind is not Parameter.VAR_KEYWORD
    ]
    for name, f in FORMATS.items():
        option = typer.Option(f"--{f.option or name}", help=f.help)
        kind: Any = Annotated[Path | None, option] if f.sole else Annotated[list[Path], option]
        own.append(
            Parameter(name, Parameter.KEYWORD_ONLY, default=None if f.sole else [], annotation=kind)
        )
    command.__signature__ = Signature(own)  # type: ignore[attr-defined]
    command.__annotations__ = {p.name: p.annotation for p in own}
    return command


@app.command("import")
@_with_formats
def import_command(
    out: Annotated[Path, typer.Argument(metavar="OUT.zumbert")],
    ground: Annotated[str | None, typer.Option(help="The surface that is existing ground.")] = None,
    design: Annotated[
        str | None, typer.Option(help="The surface that is the design surface.")
    ] = None,
    units: Annotated[
        _System, typer.Option(help="How the project shows values and takes them.")
    ] = _System("metric"),
    unit: Annotated[
        str | None,
        typer.Option(help="The unit of lists, points and grids: m, mm, ft, US survey ft, …."),
    ] = None,
    leave_bad: Annotated[
        bool,
        typer.Option("--leave-bad-rows", help="Take the good rows of lists, report the bad ones."),
    ] = False,
    **files: Any,
) -> None:
    """Make a project from open-format files."""
    from zumbert.exchange.importing import import_files
    from zumbert.model.display import Units
    from zumbert.model.project import Settings
    from zumbert.store import save

    settings = Settings(units=Units(system=units.value))
    made = import_files(
        out.stem,
        ground=ground,
        design=design,
        settings=settings,
        unit=unit,
        leave_bad=leave_bad,
        **files,
    )
    save(made.project, out)
    say(*made.notes, f"Written: {out}")
