"""`zumbert export` and `zumbert issue`: what leaves the desk."""

import re
from collections.abc import Callable
from inspect import Parameter, Signature, signature
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from zumbert.cli.base import app, refuse, say, told
from zumbert.errors import ReadError, known
from zumbert.space.wanted import VIEWS

if TYPE_CHECKING:
    from zumbert.delivery.job import Job
    from zumbert.delivery.outputs import Maker


def _with_outputs(command: Callable[..., None]) -> Callable[..., None]:
    """A command that writes files of each kind, an option each."""
    from zumbert.delivery.out import OUT

    own = [
        p
        for p in signature(command, eval_str=True).parameters.values()
        if p.kind is not Parameter.VAR_KEYWORD
    ]
    for name, out in OUT.items():
        kind: Any = Annotated[Path | None, typer.Option(f"--{name}", help=f"{out.tip}.")]
        own.append(
            Parameter(name.replace("-", "_"), Parameter.KEYWORD_ONLY, default=None, annotation=kind)
        )
    command.__signature__ = Signature(own)  # type: ignore[attr-defined]
    command.__annotations__ = {p.name: p.annotation for p in own}
    return command


@app.command()
@_with_outputs
def export(
    file: Annotated[Path, typer.Argument()],
    sheets: Annotated[
        list[str], typer.Option(help="Only this sheet, by its title or number; repeat for several.")
    ] = [],  # noqa: B006
    template: Annotated[
        Path | None, typer.Option(help="A DOCX template of your own for --docx.")
    ] = None,
    usual_sheets: Annotated[
        bool, typer.Option("--usual-sheets", help="Make the usual sheets where there are none.")
    ] = False,
    png_size: Annotated[
        str, typer.Option(metavar="WxH", help="Pixels of the picture of --png.")
    ] = "1600x1000",
    png_from: Annotated[
        str | None,
        typer.Option(help=f"Look from {', '.join(VIEWS)}; from the south-east if left out."),
    ] = None,
    png_run: Annotated[
        str | None, typer.Option(help="Cut the ground away along this run or road, by its name.")
    ] = None,
    png_heights: Annotated[
        float,
        typer.Option(
            min=0.1, max=100, help="How many times larger than lengths heights are drawn."
        ),
    ] = 1.0,
    **files: Path | None,
) -> None:
    """Write drawings, reports, schedules and files for other programs; an existing file is
    replaced whole or not at all.
    """
    from zumbert.delivery import outputs
    from zumbert.delivery.job import Job
    from zumbert.delivery.out import OUT
    from zumbert.edits.sheets import usual_sheets as with_usual
    from zumbert.store import load

    asked = {name: path for name in OUT if (path := files[name.replace("-", "_")]) is not None}
    if not asked:
        refuse(f"Nothing to write: say what with {', '.join(f'--{name}' for name in OUT)}.")
    job = Job(load(file))
    if usual_sheets and not job.project.sheets:
        job = Job(with_usual(job.project, job.facts))
    picked = outputs.chosen(job, sheets)
    makers = {name: OUT[name].make(job, picked, template) for name in asked}
    if "png" in asked:
        makers["png"] = _picture_maker(job, png_size, png_from, png_run, png_heights)
    wanted = [
        outputs.Output(path.absolute(), not OUT[name].kinds, makers[name])
        for name, path in asked.items()
    ]
    say(*outputs.write_all(wanted, told), *(f"Written: {w.target}" for w in wanted))


def _picture_maker(
    job: "Job", size: str, view: str | None, run: str | None, heights: float
) -> "Maker":
    """The writer of the picture of space that is asked for. Raises ReadError."""
    from zumbert.delivery.outputs import space_maker
    from zumbert.delivery.space import space_png
    from zumbert.space.wanted import InSpace

    numbers = re.fullmatch(r"(\d+)x(\d+)", size.strip().lower())
    if numbers is None:
        raise ReadError(
            f'"{size}" is no size of a picture: give its width and height in pixels, such as '
            "1600x1000."
        )
    if view is not None and view not in VIEWS:
        raise ReadError(f'One cannot look from "{view}": {known(view, list(VIEWS))}')
    cut = None
    if run is not None:
        runs = {made.name: made for key in job.runs if (made := job.run(key)) is not None}
        if run not in runs:
            raise ReadError(f'There is no run or road "{run}": {known(run, list(runs))}')
        cut = runs[run]
    pixels = int(numbers[1]), int(numbers[2])
    wanted = InSpace(cut=cut is not None, section=cut is not None, stretch=heights)
    return space_maker(job, lambda j, tell: space_png(j, pixels, view, cut, wanted, tell=tell))


@app.command()
def issue(
    file: Annotated[Path, typer.Argument()],
    name: Annotated[
        str | None, typer.Option(help="The revision; the next letter if left out.")
    ] = None,
    date: Annotated[str | None, typer.Option(help="Its date; today if left out.")] = None,
    words: Annotated[str, typer.Option(help="What it is for.")] = "",
    out: Annotated[
        Path | None, typer.Option("-o", help="Where to write; the same file if left out.")
    ] = None,
) -> None:
    """Keep what the project is today as an issue: later sheets and schedules show what differs
    from it.
    """
    import datetime

    from zumbert.analysis import analyse
    from zumbert.delivery.revisions import issued, next_name
    from zumbert.store import load, save

    project = load(file)
    day = date or datetime.date.today().isoformat()
    made = issued(project, analyse(project), name or next_name(project), day, words)
    save(made, out or file)
    say(f"Issued as {next(reversed(made.issues.values())).name}, {day}. Written: {out or file}")
