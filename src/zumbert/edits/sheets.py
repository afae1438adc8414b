"""Sheets: added, changed, moved in their order, and how all of them are made; labels moved on a
sheet.
"""

from string import Formatter
from typing import Any

from msgspec.structs import replace

from zumbert.analysis.facts import Facts
from zumbert.analysis.runlist import run_keys
from zumbert.edits.records import free_name, with_one
from zumbert.errors import EditError
from zumbert.model.ids import SheetId
from zumbert.model.project import Project, with_id
from zumbert.model.sheet import SHEET_KINDS, Along, Delivery, Sheet

LEAST, MOST = 5.0, 100_000.0  # of scales
NARROWEST, WIDEST = 100.0, 5000.0  # mm, of a custom paper
ROOM = (780.0, 500.0)  # mm that a drawing has on A1
# scales
ROUND = (
    100.0,
    200.0,
    250.0,
    500.0,
    1000.0,
    1250.0,
    2000.0,
    2500.0,
    5000.0,
    10_000.0,
    25_000.0,
    50_000.0,
)
LAYER_FIELDS = ("service", "role", "status")


def add_sheet(project: Project, kind: str) -> tuple[Project, SheetId]:
    """The project with a sheet more, on the paper and at the scales of the last one, and its id."""
    project, key = with_id(project, "h")
    like = next(reversed(project.sheets.values()), None)
    title, n = SHEET_KINDS[kind].title, 1
    taken = {s.title for s in project.sheets.values()}
    while (name := title if n == 1 else f"{title} {n}") in taken:
        n += 1
    sheet = Sheet(id=SheetId(key), title=name, kind=kind)
    if like is not None:
        sheet = replace(sheet, paper=like.paper, size=like.size, upright=like.upright)
    return replace(project, sheets={**project.sheets, sheet.id: sheet}), sheet.id


def usual_sheets(project: Project, facts: Facts) -> Project:
    """The project with a set of sheets: a plan, plan and long section along each run, sections,
    chambers and schedules.

    Raises EditError where there is nothing to draw yet.
    """
    if not project.structures and not project.roads:
        raise EditError("There is nothing to draw yet: lay a run or make a road first.")
    kinds: tuple[str, ...] = ("plan", "plan-and-section", "sections", "chambers", "tables")
    for kind in kinds:
        if kind != "tables" and kind != "plan" and not project.pipes:
            continue
        project, key = add_sheet(project, kind)
        if kind == "plan":
            project = change_sheet(project, key, scale=_whole(facts))
        runs = tuple(Along(k.kind, k.id) for k in run_keys(project, facts) if k.kind != "road")
        if kind == "plan-and-section":
            project = change_sheet(project, key, along=runs, scale=500.0, up=100.0)
        elif kind == "sections":
            project = change_sheet(project, key, along=runs[:1])
        elif kind == "tables":
            project = change_sheet(project, key, tables=("structures", "pipes", "takeoff"))
    return project


def _whole(facts: Facts) -> float:
    """The largest round scale at which all structures and roads lie on one A1 sheet."""
    xy = [(p.x, p.y) for p in facts.places.values() if p.x is not None and p.y is not None]
    for r in facts.roads.values():
        x0, y0, x1, y1 = r.alignment.extents
        xy += [(x0, y0), (x1, y1)]
    wide, tall = (max(v) - min(v) + 20.0 for v in zip(*xy, strict=True))
    need = max(wide / ROOM[0], tall / ROOM[1]) * 1000
    return next((s for s in ROUND if s >= need), ROUND[-1])


def change_sheet(project: Project, sheet: SheetId, **values: Any) -> Project:
    """The project with fields of a sheet changed. Raises EditError for what no sheet can have."""
    old = project.sheets[sheet]
    if "title" in values:
        values["title"] = free_name(project.sheets, values["title"], sheet, "sheet", "title")
    for name, words in (("scale", "scale"), ("up", "scale of levels")):
        if not LEAST <= values.get(name, 100.0) <= MOST:
            raise EditError(
                f"1:{values[name]:g} is no {words} for a sheet: take one between 1:5 and 1:100000."
            )
    if not all(NARROWEST <= v <= WIDEST for v in values.get("size", ())):
        raise EditError("A paper is between 100 and 5000 mm wide and high.")
    if not 0.0 <= values.get("overlap", 0.0) <= 1000.0:
        raise EditError("The overlap of sheets is between 0 and 1000 m.")
    if not 0.5 <= values.get("step", 20.0) <= 10_000.0:
        raise EditError("Sections are at least 0.5 m apart.")
    made = replace(old, **values)
    return (
        project if made == old else replace(project, sheets=with_one(project.sheets, sheet, made))
    )


def remove_sheet(project: Project, sheet: SheetId) -> Project:
    """The project without a sheet; those after it are numbered anew."""
    return replace(project, sheets={k: s for k, s in project.sheets.items() if k != sheet})


def move_sheet(project: Project, sheet: SheetId, by: int) -> Project:
    """The project with a sheet so many places further on among the others, at most at an end."""
    order = list(project.sheets)
    at = order.index(sheet)
    order.insert(max(0, min(len(order) - 1, at + by)), order.pop(at))
    made = {k: project.sheets[k] for k in order}
    return project if order == list(project.sheets) else replace(project, sheets=made)


def move_label_on(
    project: Project, sheet: SheetId, thing: str, at: tuple[float, float] | None
) -> Project:
    """The project with the label of a structure or pipe put somewhere on a sheet (drawing units
    from its place); None lets it find its own place again.
    """
    old = project.sheets[sheet]
    labels = {k: v for k, v in old.labels.items() if k != thing}
    if at is not None:
        labels[thing] = at
    return (
        project
        if labels == old.labels
        else replace(project, sheets=with_one(project.sheets, sheet, replace(old, labels=labels)))
    )


def set_delivery(project: Project, **values: Any) -> Project:
    """The project with another way of making sheets and files. Raises EditError for what means
    nothing.
    """
    made: Delivery = replace(project.delivery, **values)
    _pattern(made.numbers, ("n",), "sheet numbers", "D-{n:02}")
    _pattern(made.layers, LAYER_FIELDS, "layers", "{service}-{role}-{status}")
    if not (0.5 <= made.small <= 20.0 and 0.5 <= made.large <= 50.0):
        raise EditError("Texts are between 0.5 and 20 mm high, titles between 0.5 and 50.")
    if made.epsg is not None and not 1024 <= made.epsg <= 32767:
        raise EditError(
            f"{made.epsg} is no EPSG code: those of coordinate systems lie between 1024 and 32767."
        )
    if made.origin is not None and made.origin not in project.backgrounds:
        raise EditError(
            "The drawing whose units and origin files should have is not there any more."
        )
    return project if made == project.delivery else replace(project, delivery=made)


def _pattern(pattern: str, fields: tuple[str, ...], what: str, example: str) -> None:
    """Raises EditError for a pattern that names nothing of what it may name, or something else."""
    known = " and ".join(f"{{{f}}}" for f in fields)
    try:
        named = [name for _, name, _, _ in Formatter().parse(pattern) if name is not None]
        pattern.format(**dict.fromkeys(fields, 1 if fields == ("n",) else "x"))
    except (ValueError, KeyError, IndexError, AttributeError) as e:
        raise EditError(
            f'"{pattern}" is no pattern of {what}: it may name {known}, as in {example}.'
        ) from e
    if not named or any(n not in fields for n in named):
        raise EditError(
            f'"{pattern}" is no pattern of {what}: it may name {known}, as in {example}.'
        )
