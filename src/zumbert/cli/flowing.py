"""`zumbert flow` and `zumbert size`."""

from pathlib import Path
from typing import Annotated

import typer

from zumbert.cli.base import app, one_of, print_json, say
from zumbert.errors import EditError, known
from zumbert.model.display import counted


@app.command()
def flow(
    file: Annotated[Path, typer.Argument()],
    rain: Annotated[
        Path | None, typer.Option(help="A rain as TOML, in place of the project's.")
    ] = None,
    years: Annotated[float | None, typer.Option(help="Return period.")] = None,
    climate: Annotated[float | None, typer.Option(help="Factor on intensities.")] = None,
    json: Annotated[
        bool, typer.Option("--json", help="One JSON document on standard output.")
    ] = False,
    csv: Annotated[
        Path | None, typer.Option(help="Write the flows of pipes to a CSV file.")
    ] = None,
    xlsx: Annotated[
        Path | None, typer.Option(help="Write flows and areas to a spreadsheet.")
    ] = None,
) -> None:
    """Design flow of every pipe by the rational method, with all that leads to it."""
    from zumbert.analysis import analyse
    from zumbert.edits.rain import change_rain, set_rain
    from zumbert.exchange.csv import write_csv
    from zumbert.exchange.flowtables import flow_report, flow_tables, unassigned
    from zumbert.exchange.raintoml import read_rain
    from zumbert.exchange.xlsx import write_xlsx
    from zumbert.store import load

    project = load(file)
    if rain is not None:
        project = set_rain(project, read_rain(rain))
    asked = {k: v for k, v in (("years", years), ("climate", climate)) if v is not None}
    if project.rain is None and not any(s.inflow for s in project.structures.values()):
        raise EditError("The project has no rain yet: give one with --rain FILE.")
    if asked and project.rain is not None:
        project = change_rain(project, **asked)
    facts = analyse(project)
    tables = flow_tables(facts)
    if csv is not None:
        write_csv(csv, tables[0])
    if xlsx is not None:
        write_xlsx(xlsx, tables)
    lost = unassigned(facts)
    if json:
        print_json(flow_report(file, facts))
        return
    u = facts.units
    for key, q in facts.pipe_flow.items():
        f = facts.pipes[key]
        used = "" if q.used is None else f"{q.used:7.2f} of full bore"
        print(
            f"{f.pipe.label:10} {u.dn(f.dn):8} tc {q.tc:6.2f} min  {u.flows(q.flow):>12} {used}  "
            f"{u.speed(q.velocity)}"
        )
    if lost:
        say(f"These areas drain nowhere: {', '.join(lost)}.")


@app.command()
def size(
    file: Annotated[Path, typer.Argument()],
    only: Annotated[
        list[str], typer.Option(help="Size this pipe alone, by its label; repeat for several.")
    ] = [],  # noqa: B006
    sizes: Annotated[
        list[str], typer.Option(help="Choose among these sizes; repeat for several.")
    ] = [],  # noqa: B006
    levels: Annotated[
        str, typer.Option(help="Keep the inverts or the crowns, or lay again by cover.")
    ] = "inverts",
    log: Annotated[
        Path | None, typer.Option(help="Write the list of differences as text, CSV or XLSX.")
    ] = None,
    json: Annotated[
        bool, typer.Option("--json", help="One JSON document on standard output.")
    ] = False,
    out: Annotated[
        Path | None, typer.Option("-o", "--out", help="Write the project with its new sizes.")
    ] = None,
) -> None:
    """The smallest sizes that take the design flow; held, existing and unticked sizes stay."""
    from zumbert.edits.records import pipe_labelled
    from zumbert.edits.sizing import SIZED_LEVELS, HowToSize, sized, taken
    from zumbert.exchange.sizelog import size_report, write_size_log
    from zumbert.model.project import size_of
    from zumbert.store import load, save

    project = load(file)
    keys = frozenset(pipe_labelled(project, label).id for label in only) if only else None
    named = frozenset(size_of(project, text) for text in sizes) if sizes else None
    unknown = next((t for t in sizes if size_of(project, t) not in project.sizes), None)
    if unknown is not None:
        raise EditError(f'There is no pipe size "{unknown}": {known(unknown, project.sizes)}')
    how = HowToSize(only=keys, sizes=named, levels=one_of("--levels", levels, SIZED_LEVELS))
    made = sized(project, how=how)
    result = taken(project, made)
    if log is not None:
        write_size_log(result.size_log or made.log, log)
    if out is not None:
        save(result, out)
    if json:
        print_json(size_report(made.log))
        return
    for line in made.log.lines:
        if line.changes:
            print(f"{line.object:10} {line.old} to {line.new}: {line.why}")
    changes = sum(line.changes for line in made.log.lines)
    print(f"{counted(changes, 'change')} in {counted(made.log.rounds, 'round')}.")
    if not made.log.settled:
        say("Sizes and times did not agree within ten rounds: look at the pipes that changed last.")
