"""`zumbert lay` and `zumbert regrade`."""

from enum import Enum
from pathlib import Path
from typing import Annotated, Any

import typer

from zumbert.cli.base import app, refuse, say
from zumbert.errors import EditError, known


class By(str, Enum):
    """The line that a regrade carries."""

    INVERT = "invert"
    CENTRE = "centre"
    CROWN = "crown"


@app.command(context_settings={"ignore_unknown_options": True})
def lay(
    file: Annotated[Path, typer.Argument()],
    road: Annotated[
        str | None, typer.Option(help="The road; it may be left out where there is one.")
    ] = None,
    type: Annotated[str | None, typer.Option(help="Structure type.")] = None,  # noqa: A002
    size: Annotated[str | None, typer.Option(help="Pipe size, as DN.")] = None,
    at: Annotated[list[str], typer.Option(help='"CHAINAGE OFFSET" of a structure; repeat.')] = [],  # noqa: B006
    from_: Annotated[str | None, typer.Option("--from", help="Go on from this structure.")] = None,
    levels: Annotated[str, typer.Option(help="cover, or a slope such as 1.25% or 1:80.")] = "cover",
    start: Annotated[float | None, typer.Option(help="Invert at the first place.")] = None,
    up: Annotated[
        bool, typer.Option("--up", help="Laid up-slope: the first placed is the lowest.")
    ] = False,
    out: Annotated[
        Path | None, typer.Option("-o", help="Where to write; the same file if left out.")
    ] = None,
) -> None:
    """Lay a run of structures joined by pipes, placed by chainage and offset."""
    from zumbert.analysis import analyse
    from zumbert.edits.lay import lay as lay_run
    from zumbert.edits.layoptions import LayOptions, first_way, known_way
    from zumbert.edits.records import structure_labelled
    from zumbert.model.ids import TypeKey
    from zumbert.model.project import size_of
    from zumbert.store import load, save

    project = load(file)
    places = _places(project, road, at)
    begin = None if from_ is None else structure_labelled(project, from_)
    network = begin.network if begin else next(iter(project.networks))
    slope = None if levels.strip().lower() == "cover" else project.units.typed_slope(levels)
    first = first_way(project)
    way = LayOptions(
        type=TypeKey(type) if type else first.type,
        size=size_of(project, size) if size else first.size,
        network=network,
        slope=slope,
        start=None if start is None else project.units.si(start),
        up=up,
        service=begin.service if begin else "storm",
    )
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
            f"{structure.label}  pipe {f.pipe.label}  {u.level(f.pipe.invert_up)} to "
            f"{u.level(f.pipe.invert_down)}  "
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
    start: Annotated[
        str,
        typer.Option(
            help='Level of the carried line at --from, m: 42.1, "0.9 under 43", crown or drop.'
        ),
    ],
    by: Annotated[By, typer.Option(help="The line that is carried.")] = By.INVERT,
    slope: Annotated[str | None, typer.Option(help="Positive: falls from --from to --to.")] = None,
    end: Annotated[
        str | None, typer.Option(help="Level at --to, in place of a slope; written as --start.")
    ] = None,
    drop: Annotated[float, typer.Option(help="Drop at each structure between, m.")] = 0.0,
    drop_at: Annotated[
        list[str], typer.Option(help="LABEL=DROP, in place of --drop there; repeat.")
    ] = [],  # noqa: B006
    no_drop_at: Annotated[
        list[str], typer.Option(help="LABEL of a structure without drop; repeat.")
    ] = [],  # noqa: B006
    joints_too: Annotated[
        bool, typer.Option("--joints-too", help="Blind joints get the drop as well.")
    ] = False,
    ignore_holds: Annotated[bool, typer.Option("--ignore-holds", help="Held pipes too.")] = False,
    out: Annotated[
        Path | None, typer.Option("-o", help="Where to write; the same file if left out.")
    ] = None,
) -> None:
    """Give the pipes between two structures new levels, carried from one to the other."""
    from zumbert.analysis import analyse
    from zumbert.edits.records import structure_labelled
    from zumbert.edits.regrade import Carried, Regrade, meant_level, path, regraded
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
        a=a,
        b=b,
        start=meant_level(facts, steps, False, start, carried),
        slope=None if slope is None else project.units.typed_slope(slope),
        end=None if end is None else meant_level(facts, steps, True, end, carried),
        by=carried,
        drop=u.si(drop),
        drops=own,
        without=frozenset(structure_labelled(project, v).id for v in no_drop_at),
        joints_too=joints_too,
        ignore_holds=ignore_holds,
    )
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
        raise EditError(
            f'--drop-at "{text}" is no drop: write LABEL=METRES, such as S4=0.05.'
        ) from e
    return key, drop_meant(project, key, drop)
