"""`zumbert check` and `zumbert quantities`."""

from enum import Enum
from pathlib import Path
from typing import Annotated

import typer

from zumbert.cli.base import app, one_of, print_json, refuse
from zumbert.errors import EditError, known
from zumbert.model.display import counted


class Basis(str, Enum):
    """Which of the four lengths counts."""

    CENTRE_PLAN = "centre-plan"
    WALL_PLAN = "wall-plan"
    CENTRE_SLOPE = "centre-slope"
    WALL_SLOPE = "wall-slope"


@app.command()
def check(
    file: Annotated[Path, typer.Argument()],
    json: Annotated[
        bool, typer.Option("--json", help="One JSON document on standard output.")
    ] = False,
    csv: Annotated[Path | None, typer.Option(help="Write the findings to a CSV file.")] = None,
    xlsx: Annotated[Path | None, typer.Option(help="Write the findings to a spreadsheet.")] = None,
    rule: Annotated[list[str], typer.Option(help="Only this rule; repeat for several.")] = [],  # noqa: B006
    standard: Annotated[
        Path | None,
        typer.Option(help="Judge all by this standard (TOML); the project stays as it is."),
    ] = None,
) -> None:
    """Check a project against its standard; the exit status is 1 where there are breaches that
    nobody accepted.
    """
    from zumbert.analysis import analyse
    from zumbert.checks import RULES, Findings, check
    from zumbert.checks.sentences import remark
    from zumbert.edits.standards import by_standard
    from zumbert.exchange.csv import write_csv
    from zumbert.exchange.reports import check_report
    from zumbert.exchange.tables import finding_table
    from zumbert.exchange.toml import read_standard
    from zumbert.exchange.xlsx import write_xlsx
    from zumbert.store import load

    for name in rule:
        if name not in RULES:
            refuse(f'There is no rule "{name}": {known(name, list(RULES))}')
    project = load(file)
    if standard is not None:
        project = by_standard(project, read_standard(standard))
    facts = analyse(project)
    found = check(project, facts)
    shown = Findings(f for f in found if not rule or f.rule in rule)
    table = finding_table(facts, shown)
    if csv is not None:
        write_csv(csv, table)
    if xlsx is not None:
        write_xlsx(xlsx, [table])
    if json:
        print_json(check_report(file, facts, found, tuple(rule)))
    else:
        for f in shown:
            print(f"{f.look:8} {f.rule:14} {remark(facts, f)}")
        decided = f", {shown.decided} decided" if shown.decided else ""
        print(
            f"{counted(shown.breaches, 'breach', 'breaches')}, "
            f"{counted(shown.cautions, 'caution')}{decided}."
        )
    raise typer.Exit(1 if shown.breaches else 0)


@app.command()
def quantities(
    file: Annotated[Path, typer.Argument()],
    json: Annotated[
        bool, typer.Option("--json", help="One JSON document on standard output.")
    ] = False,
    xlsx: Annotated[Path | None, typer.Option(help="Write a spreadsheet.")] = None,
    csv: Annotated[
        Path | None, typer.Option(help="Write the trenches by pipe to a CSV file.")
    ] = None,
    basis: Annotated[Basis | None, typer.Option(help="Which length counts.")] = None,
    spacing: Annotated[
        float | None, typer.Option(help="Metres between the sections of average end areas.")
    ] = None,
    to_centres: Annotated[
        bool, typer.Option("--to-centres", help="Trenches run to the centres of chambers.")
    ] = False,
    upper: Annotated[
        str | None, typer.Option(help="Dig from existing, formation or lower.")
    ] = None,
    status: Annotated[
        list[str] | None, typer.Option(help="Count work of this status (repeat for several).")
    ] = None,
    network: Annotated[
        list[str] | None, typer.Option(help="Count this network (repeat for several).")
    ] = None,
    by: Annotated[
        str, typer.Option(help="Group the takeoff by network, run, road, status or description.")
    ] = "network",
    to: Annotated[
        str, typer.Option(help="Depth of structures to their invert or their sump.")
    ] = "invert",
) -> None:
    """Quantities: what is dug, in what and how deep, what goes back, and the takeoff."""
    from zumbert.analysis import analyse
    from zumbert.analysis.quantities import full_quantities
    from zumbert.analysis.takeoff import GROUPINGS, takeoff
    from zumbert.analysis.trench import trenches
    from zumbert.edits.digging import counted_as
    from zumbert.exchange.csv import write_csv
    from zumbert.exchange.quantityreport import quantities_report
    from zumbert.exchange.quantitytables import quantity_tables
    from zumbert.exchange.quantitytext import quantity_lines
    from zumbert.exchange.xlsx import write_xlsx
    from zumbert.store import load

    group, depth = one_of("--by", by, GROUPINGS), one_of("--to", to, ("invert", "sump"))
    if spacing is not None and not 0.01 <= spacing <= 1000:
        raise EditError(f"--spacing {spacing:g} is no spacing: give metres from 0.01 to 1000.")
    project = counted_as(load(file), to_centres, upper, status, network)
    facts = analyse(project)
    q = full_quantities(trenches(facts), basis.value if basis else None, spacing)
    tables = quantity_tables(facts, q, group, depth)
    if xlsx is not None:
        write_xlsx(xlsx, tables)
    if csv is not None:
        write_csv(csv, tables[0])
    if json:
        print_json(quantities_report(file, facts, q, group, depth))
        return
    for line in quantity_lines(facts, q, takeoff(facts, q, group, depth)):
        print(line)
