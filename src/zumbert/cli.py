"""The command line: the same work without a window."""

import sys
from collections.abc import Callable
from enum import Enum
from inspect import Parameter, Signature, signature
from pathlib import Path
from typing import Annotated, Any, NoReturn

import typer
from typer._click.exceptions import ClickException

from zumbert import __version__
from zumbert.errors import EditError, ZumbertError, known
from zumbert.model.display import counted

app = typer.Typer(add_completion=False, rich_markup_mode=None, pretty_exceptions_enable=False)


class Basis(str, Enum):
    """Which of the four lengths counts."""

    CENTRE_PLAN = "centre-plan"
    WALL_PLAN = "wall-plan"
    CENTRE_SLOPE = "centre-slope"
    WALL_SLOPE = "wall-slope"


class UnitSystem(str, Enum):
    """What values are shown in."""

    METRIC = "metric"
    US = "us"


class By(str, Enum):
    """The line that a regrade carries."""

    INVERT = "invert"
    CENTRE = "centre"
    CROWN = "crown"


def say(*lines: str) -> None:
    """Messages go to standard error."""
    for line in lines:
        print(line, file=sys.stderr)


def refuse(error: ZumbertError | str) -> NoReturn:
    """Ends the program with one sentence; nothing was written."""
    say(str(error))
    raise typer.Exit(2)


def print_json(document: Any) -> None:
    """One JSON document on standard output."""
    import msgspec

    sys.stdout.buffer.write(msgspec.json.format(msgspec.json.encode(document), indent=1) + b"\n")


def _with_formats(command: Callable[..., None]) -> Callable[..., None]:
    """A command that takes files of each format, an option each."""
    from zumbert.exchange.formats import FORMATS

    own = [p for p in signature(command, eval_str=True).parameters.values() if p.kind is not Parameter.VAR_KEYWORD]
    for name, f in FORMATS.items():
        option = typer.Option(f"--{f.option or name}", help=f.help)
        kind: Any = Annotated[Path | None, option] if f.sole else Annotated[list[Path], option]
        own.append(Parameter(name, Parameter.KEYWORD_ONLY, default=None if f.sole else [], annotation=kind))
    command.__signature__ = Signature(own)  # type: ignore[attr-defined]
    command.__annotations__ = {p.name: p.annotation for p in own}
    return command


@app.command("import")
@_with_formats
def import_command(
    out: Annotated[Path, typer.Argument(metavar="OUT.zumbert")],
    ground: Annotated[str | None, typer.Option(help="The surface that is existing ground.")] = None,
    design: Annotated[str | None, typer.Option(help="The surface that is the design surface.")] = None,
    units: Annotated[UnitSystem, typer.Option(help="How the project shows values and takes them.")] = UnitSystem.METRIC,
    unit: Annotated[str | None, typer.Option(help="The unit of lists, points and grids: m, mm, ft, US survey ft, ….")] = None,
    leave_bad: Annotated[bool, typer.Option("--leave-bad-rows", help="Take the good rows of lists, tell the bad ones.")] = False,
    **files: Any,
) -> None:
    """Make a project from open-format files."""
    from zumbert.exchange.importing import import_files
    from zumbert.model.display import Units
    from zumbert.model.project import Settings
    from zumbert.store import save

    settings = Settings(units=Units(system=units.value))
    made = import_files(out.stem, ground=ground, design=design, settings=settings, unit=unit, leave_bad=leave_bad, **files)
    save(made.project, out)
    say(*made.notes, f"Written: {out}")


@app.command()
def check(
    file: Annotated[Path, typer.Argument()],
    json: Annotated[bool, typer.Option("--json", help="One JSON document on standard output.")] = False,
    csv: Annotated[Path | None, typer.Option(help="Write the findings to a CSV file.")] = None,
    xlsx: Annotated[Path | None, typer.Option(help="Write the findings to a spreadsheet.")] = None,
    rule: Annotated[list[str], typer.Option(help="Only this rule; repeat for several.")] = [],  # noqa: B006
    standard: Annotated[Path | None, typer.Option(help="Judge all by this standard (TOML); the project stays as it is.")] = None,
) -> None:
    """Check a project against its standard; the exit status is 1 where there are breaches that nobody accepted."""
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
        print(f"{counted(shown.breaches, 'breach', 'breaches')}, {counted(shown.cautions, 'caution')}{decided}.")
    raise typer.Exit(1 if shown.breaches else 0)


@app.command(context_settings={"ignore_unknown_options": True})
def lay(
    file: Annotated[Path, typer.Argument()],
    road: Annotated[str | None, typer.Option(help="The road; it may be left out where there is one.")] = None,
    type: Annotated[str | None, typer.Option(help="Structure type.")] = None,  # noqa: A002
    size: Annotated[str | None, typer.Option(help="Pipe size, as DN.")] = None,
    at: Annotated[list[str], typer.Option(help='"CHAINAGE OFFSET" of a structure; repeat.')] = [],  # noqa: B006
    from_: Annotated[str | None, typer.Option("--from", help="Go on from this structure.")] = None,
    levels: Annotated[str, typer.Option(help="cover, or a slope such as 1.25% or 1:80.")] = "cover",
    start: Annotated[float | None, typer.Option(help="Invert at the first place.")] = None,
    up: Annotated[bool, typer.Option("--up", help="Laid up-slope: the first placed is the lowest.")] = False,
    out: Annotated[Path | None, typer.Option("-o", help="Where to write; the same file if left out.")] = None,
) -> None:
    """Lay a run of structures joined by pipes, placed by chainage and offset."""
    from zumbert.analysis import analyse
    from zumbert.edits.lay import LayOptions, first_way, known_way
    from zumbert.edits.lay import lay as lay_run
    from zumbert.edits.records import structure_labelled
    from zumbert.model.ids import TypeKey
    from zumbert.model.project import size_of
    from zumbert.model.slope import parsed_slope
    from zumbert.store import load, save

    project = load(file)
    places = _places(project, road, at)
    begin = None if from_ is None else structure_labelled(project, from_)
    network = begin.network if begin else next(iter(project.networks))
    slope = None if levels.strip().lower() == "cover" else parsed_slope(levels)
    first = first_way(project)
    way = LayOptions(
        type=TypeKey(type) if type else first.type, size=size_of(project, size) if size else first.size,
        network=network, slope=slope, start=None if start is None else project.units.si(start), up=up,
        service=begin.service if begin else "storm",
    )  # fmt: skip
    known_way(project, way)
    u = project.units
    laid = lay_run(project, analyse(project), places, way, begin.id if begin else None)
    save(laid[-1].project, out or file)
    for step in laid:
        structure = step.project.structures[step.structure]
        if step.pipe is None:
            print(f"{structure.label}")
            continue
        f = step.facts.pipes[step.pipe]
        print(
            f"{structure.label}  pipe {f.pipe.label}  {u.level(f.pipe.invert_up)} to {u.level(f.pipe.invert_down)}  "
            f"{u.slope(f.slope)}"
        )
    say(f"Written: {out or file}")


def _places(project: Any, road: str | None, at: list[str]) -> list[Any]:
    from zumbert.edits.typed import typed_place
    from zumbert.model.structure import Anchored

    names = {r.name: r.id for r in project.roads.values()}
    if not at:
        refuse('Nothing to lay: give places with --at "CHAINAGE OFFSET".')
    if road is None and len(names) != 1:
        refuse(f"Say which road with --road: {known('', names)}")
    if road is not None and road not in names:
        refuse(f'There is no road "{road}": {known(road, names)}')
    key = names[road] if road is not None else next(iter(names.values()))
    places = []
    for text in at:
        try:
            place = typed_place(text, key, project.units)
        except EditError:
            place = None
        if not isinstance(place, Anchored):
            refuse(f'--at "{text}" is no place: write "CHAINAGE OFFSET", such as "412.5 -3.6".')
        places.append(place)
    return places


@app.command()
def regrade(
    file: Annotated[Path, typer.Argument()],
    from_: Annotated[str, typer.Option("--from", help="The structure that the levels go from.")],
    to: Annotated[str, typer.Option(help="The structure that they go to.")],
    start: Annotated[str, typer.Option(help='Level of the carried line at --from, m: 42.1, "0.9 under 43", crown or drop.')],
    by: Annotated[By, typer.Option(help="The line that is carried.")] = By.INVERT,
    slope: Annotated[str | None, typer.Option(help="Positive: falls from --from to --to.")] = None,
    end: Annotated[str | None, typer.Option(help="Level at --to, in place of a slope; written as --start.")] = None,
    drop: Annotated[float, typer.Option(help="Drop at each structure between, m.")] = 0.0,
    drop_at: Annotated[list[str], typer.Option(help="LABEL=DROP, in place of --drop there; repeat.")] = [],  # noqa: B006
    no_drop_at: Annotated[list[str], typer.Option(help="LABEL of a structure without drop; repeat.")] = [],  # noqa: B006
    joints_too: Annotated[bool, typer.Option("--joints-too", help="Blind joints get the drop as well.")] = False,
    ignore_holds: Annotated[bool, typer.Option("--ignore-holds", help="Held pipes too.")] = False,
    out: Annotated[Path | None, typer.Option("-o", help="Where to write; the same file if left out.")] = None,
) -> None:
    """Give the pipes between two structures new levels, carried from one to the other."""
    from zumbert.analysis import analyse
    from zumbert.edits.records import structure_labelled
    from zumbert.edits.regrade import Carried, Regrade, meant_level, path, regraded
    from zumbert.model.slope import parsed_slope
    from zumbert.store import load, save

    if (slope is None) == (end is None):
        refuse("Give either --slope or --end.")
    project = load(file)
    u = project.units
    own = dict(_drop_at(project, text) for text in drop_at)
    facts = analyse(project)
    carried: Carried = by.value
    a, b = structure_labelled(project, from_).id, structure_labelled(project, to).id
    steps = path(project, facts, a, b)
    ask = Regrade(
        a=a, b=b, start=meant_level(facts, steps, False, start, carried),
        slope=None if slope is None else parsed_slope(slope),
        end=None if end is None else meant_level(facts, steps, True, end, carried), by=carried,
        drop=u.si(drop), drops=own,
        without=frozenset(structure_labelled(project, v).id for v in no_drop_at), joints_too=joints_too,
        ignore_holds=ignore_holds,
    )  # fmt: skip
    made = regraded(project, facts, ask)
    save(made.project, out or file)
    print(made.sum)
    for line in made.lines:
        p = made.project.pipes[line.step.pipe]
        print(f"{p.label}  {u.level(p.invert_up)} to {u.level(p.invert_down)}")
    for key in made.against:
        say(f'Pipe "{made.project.pipes[key].label}" now rises in its flow direction.')
    say(f"{u.slope(made.slope)} from {from_} to {to}. Written: {out or file}")


def _drop_at(project: Any, text: str) -> tuple[Any, float]:
    from zumbert.edits.records import structure_labelled
    from zumbert.edits.regrade import drop_meant

    label, _, value = text.rpartition("=")
    try:
        key, drop = structure_labelled(project, label).id, project.units.typed(value)
    except ValueError as e:
        raise EditError(f'--drop-at "{text}" is no drop: write LABEL=METRES, such as S4=0.05.') from e
    return key, drop_meant(project, key, drop)


@app.command()
def quantities(
    file: Annotated[Path, typer.Argument()],
    json: Annotated[bool, typer.Option("--json", help="One JSON document on standard output.")] = False,
    xlsx: Annotated[Path | None, typer.Option(help="Write a spreadsheet.")] = None,
    csv: Annotated[Path | None, typer.Option(help="Write the trenches by pipe to a CSV file.")] = None,
    basis: Annotated[Basis | None, typer.Option(help="Which length counts.")] = None,
    spacing: Annotated[float | None, typer.Option(help="Metres between the sections of average end areas.")] = None,
    to_centres: Annotated[bool, typer.Option("--to-centres", help="Trenches run to the centres of chambers.")] = False,
    upper: Annotated[str | None, typer.Option(help="Dig from existing, formation or lower.")] = None,
    status: Annotated[list[str] | None, typer.Option(help="Count work of this status (repeat for several).")] = None,
    network: Annotated[list[str] | None, typer.Option(help="Count this network (repeat for several).")] = None,
    by: Annotated[str, typer.Option(help="Group the takeoff by network, run, road, status or description.")] = "network",
    to: Annotated[str, typer.Option(help="Depth of structures to their invert or their sump.")] = "invert",
) -> None:
    """What is dug, in what and how deep, what goes back, and the takeoff."""
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

    group, depth = _one_of("--by", by, GROUPINGS), _one_of("--to", to, ("invert", "sump"))
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


def _one_of(option: str, word: str, words: tuple[str, ...]) -> Any:
    if word not in words:
        raise EditError(f'{option} is "{word}": {known(word, words)}')
    return word


@app.command()
def example(out: Annotated[Path, typer.Option(help="The folder to write to; it is made.")] = Path("zumbert-example")) -> None:
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
    """Runs a command and gives its exit status: 0 done, 1 breaches (`check` only), 2 refused or unreadable."""
    given = sys.argv[1:] if arguments is None else arguments
    names = {c.name or _name(c.callback) for c in app.registered_commands}
    if given in (["--version"], ["-V"]):
        print(f"zumbert {__version__}")
        return 0
    if not given or (given[0] not in names and not given[0].startswith("-")):
        if given and not _names_a_file(given[0]):
            say(f'There is no command "{given[0]}", nor a file of that name: {known(given[0], names - {"open"})}')
            return 2
        given = ["open", *given]
    try:
        result = app(given, standalone_mode=False, prog_name="zumbert")
    except ClickException as e:
        say(e.format_message())
        return 2
    except (ZumbertError, ValueError, OSError) as e:
        say(str(e))
        return 2
    except Exception as e:  # a mistake of ours must not look like a breach (status 1)
        say(f"Zumbert made a mistake and wrote nothing more ({type(e).__name__}: {e}). Please report it.")
        return 2
    return result if isinstance(result, int) else 0


def _names_a_file(text: str) -> bool:
    """Whether a first word is meant as a project file: it is there, or is written as a path."""
    return Path(text).exists() or Path(text).suffix != "" or "/" in text


def _name(callback: Callable[..., Any] | None) -> str:
    return "" if callback is None else callback.__name__.replace("_", "-")
