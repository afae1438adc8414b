"""The pages of all sheets of a project, numbered as they come; each is composed when it is asked
for.
"""

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

from zumbert.delivery import along, chambersheets, plans, tablesheets, trenchsheets
from zumbert.delivery.frame import frame, room, titles
from zumbert.delivery.job import Job, Tell, quiet
from zumbert.delivery.legend import entries, roles_in
from zumbert.delivery.paper import Box, Page, capitals, paper_size, unit_of
from zumbert.delivery.revisions import clouds
from zumbert.drawing.marks import Fill, Mark, Target, points
from zumbert.model.project import Project
from zumbert.model.sheet import Sheet


class Leaf(NamedTuple):
    """One page before it is composed: of which sheet, which part of it, its number and its
    title.
    """

    sheet: Sheet
    part: Any
    place: int  # among all pages, from 1
    number: str
    title: str


class Kind(NamedTuple):
    """How a kind of sheet is cut to pages and composed; its words stand in `SHEET_KINDS`."""

    parts: Callable[[Job, Sheet, Box, float], Sequence[Any]]
    name: Callable[[Job, Any], str]
    compose: Callable[
        [Job, Sheet, Any, Sequence[Any], Box, float, Callable[[int], str]],
        tuple[list[Mark], list[Target]],
    ]
    scale: Callable[[Sheet], str]
    carries: bool = False  # whether tables may stand on its drawing


def _two(sheet: Sheet) -> str:
    return f"1:{sheet.scale:g} / 1:{sheet.up:g}"


def _none(job: Job, part: Any) -> str:
    return ""


KINDS: dict[str, Kind] = {
    "plan-and-section": Kind(
        lambda job, sheet, box, unit: along.stretches(job, sheet, box.width, unit),
        along.page_title,
        lambda job, sheet, part, every, box, unit, neighbour: along.compose(
            job, sheet, part, box, unit, neighbour
        ), _two, True,
    ),
    "plan": Kind(
        plans.tiles, _none,
        lambda job, sheet, part, every, box, unit, neighbour: plans.compose(
            job, sheet, part, list(every), box, unit, neighbour),
            lambda sheet: f"1:{sheet.scale:g}", True,
    ),
    "sections": Kind(
        trenchsheets.pages, _none,
        lambda job, sheet, part, every, box, unit, neighbour: trenchsheets.compose(job, sheet, part,
                                                                                   box, unit),
        lambda sheet: "as shown",
    ),
    "chambers": Kind(
        lambda job, sheet, box, unit: chambersheets.pages(job, sheet, box), _none,
        lambda job, sheet, part, every, box, unit, neighbour: chambersheets.compose(job, part, box,
                                                                                    unit),
        lambda sheet: "as shown",
    ),
    "tables": Kind(
        lambda job, sheet, box, unit: tablesheets.pages(job, sheet, box),
        lambda job, part: part.table.name,
        lambda job, sheet, part, every, box, unit, neighbour: tablesheets.compose(job, part, box),
        lambda sheet: "",
    ),
}  # fmt: skip


def sheet_number(pattern: str, n: int) -> str:
    """The number of a page by a pattern such as "D-{n:02}"; the plain number where the pattern
    means nothing.
    """
    try:
        return pattern.format(n=n)
    except (ValueError, KeyError, IndexError, AttributeError):
        return str(n)


def room_of(project: Project, sheet: Sheet) -> Box:
    """The room for the drawing of a sheet."""
    return room(project, *paper_size(sheet), unit_of(project.delivery), has_legend(sheet))


def has_legend(sheet: Sheet) -> bool:
    """Whether a legend stands under the drawing; tables have none."""
    return sheet.legend and sheet.kind != "tables"


def leaves(job: Job, tell: Tell = quiet) -> list[Leaf]:
    """All pages in their order. `tell(share, words)` hears how far it is and may end it by
    raising.
    """
    return job.once("leaves", lambda: _leaves(job, tell))


def _leaves(job: Job, tell: Tell) -> list[Leaf]:
    p = job.project
    unit = unit_of(p.delivery)
    out: list[Leaf] = []
    for i, sheet in enumerate(p.sheets.values()):
        tell(i / len(p.sheets), sheet.title)
        kind = KINDS[sheet.kind]

        def inside(share: float, words: str, i: int = i) -> None:
            tell((i + share) / len(p.sheets), words)

        with job.heard(inside):  # a table may have quantities
            parts = kind.parts(job, sheet, room_of(p, sheet), unit)
        for part in parts:
            n = len(out) + 1
            name = kind.name(job, part)
            title = f"{sheet.title}: {name}" if name and name != sheet.title else sheet.title
            out.append(Leaf(sheet, part, n, sheet_number(p.delivery.numbers, n), title))
    return out


def page(job: Job, leaf: Leaf, every: Sequence[Leaf]) -> Page:
    """One page composed; `every` are all pages of the project, whose numbers its match lines
    name.
    """
    p, sheet, kind = job.project, leaf.sheet, KINDS[leaf.sheet.kind]
    unit, size = unit_of(p.delivery), paper_size(leaf.sheet)
    box = room_of(p, sheet)
    siblings = [other.part for other in every if other.sheet is sheet]
    numbers = {other.place: other.number for other in every}

    def neighbour(by: int) -> str:
        return numbers.get(leaf.place + by, "")

    marks, targets = kind.compose(job, sheet, leaf.part, siblings, box, unit, neighbour)
    marks = [*marks, *clouds(job, marks)]
    if kind.carries:
        marks += tablesheets.placed(job, sheet, box)
    found = entries(marks) if has_legend(sheet) else []
    told = titles(p, sheet, leaf.title, leaf.number, kind.scale(sheet), leaf.place, len(every))
    wide, tall = size[0] / unit, size[1] / unit
    paper = Fill("paper", points((0, 0), (wide, 0), (wide, tall), (0, tall)))
    whole: tuple[Mark, ...] = (paper, *marks, *frame(p, *size, unit, told, found, roles_in(marks)))
    if p.delivery.capitals:
        whole = capitals(whole)
    return Page(sheet.id, leaf.title, leaf.number, *size, unit, whole, tuple(targets))
