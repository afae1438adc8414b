"""`zumbert export` and `zumbert issue`: what leaves the desk."""

from collections.abc import Callable
from inspect import Parameter, Signature, signature
from pathlib import Path
from typing import Annotated, Any

import typer

from zumbert.cli.base import app, refuse, say, told


def _with_outputs(command: Callable[..., None]) -> Callable[..., None]:
    """A command that writes files of each kind, an option each."""
    from zumbert.delivery.out import OUT

    own = [p for p in signature(command, eval_str=True).parameters.values() if p.kind is not Parameter.VAR_KEYWORD]
    for name, out in OUT.items():
        kind: Any = Annotated[Path | None, typer.Option(f"--{name}", help=f"{out.tip}.")]
        own.append(Parameter(name.replace("-", "_"), Parameter.KEYWORD_ONLY, default=None, annotation=kind))
    command.__signature__ = Signature(own)  # type: ignore[attr-defined]
    command.__annotations__ = {p.name: p.annotation for p in own}
    return command


@app.command()
@_with_outputs
def export(
    file: Annotated[Path, typer.Argument()],
    sheets: Annotated[list[str], typer.Option(help="Only this sheet, by its title or number; repeat for several.")] = [],  # noqa: B006
    template: Annotated[Path | None, typer.Option(help="A DOCX template of your own for --docx.")] = None,
    usual_sheets: Annotated[bool, typer.Option("--usual-sheets", help="Make the usual sheets where there are none.")] = False,
    **files: Path | None,
) -> None:
    """Write drawings, reports, schedules and files for other programs; an existing file is replaced whole or not at all."""
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
    wanted = [
        outputs.Output(path.absolute(), not OUT[name].kinds, OUT[name].make(job, picked, template)) for name, path in asked.items()
    ]
    say(*outputs.write_all(wanted, told), *(f"Written: {w.target}" for w in wanted))


@app.command()
def issue(
    file: Annotated[Path, typer.Argument()],
    name: Annotated[str | None, typer.Option(help="The revision; the next letter if left out.")] = None,
    date: Annotated[str | None, typer.Option(help="Its date; today if left out.")] = None,
    words: Annotated[str, typer.Option(help="What it is for.")] = "",
    out: Annotated[Path | None, typer.Option("-o", help="Where to write; the same file if left out.")] = None,
) -> None:
    """Keep what the project is today as an issue: later sheets and schedules show what differs from it."""
    import datetime

    from zumbert.analysis import analyse
    from zumbert.delivery.revisions import issued, next_name
    from zumbert.store import load, save

    project = load(file)
    day = date or datetime.date.today().isoformat()
    made = issued(project, analyse(project), name or next_name(project), day, words)
    save(made, out or file)
    say(f"Issued as {next(reversed(made.issues.values())).name}, {day}. Written: {out or file}")
