"""The frame of a sheet: border, title strip with its fields, legend; or one's own frame with the
fields filled in.
"""

import re
from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise
from typing import NamedTuple

from zumbert.delivery.legend import TALL, LegendEntry, legend
from zumbert.delivery.paper import Box, large, line
from zumbert.drawing.marks import Inset, Mark, Stroke, Text, points
from zumbert.drawing.style import CAPITALS, TEXTS
from zumbert.model.project import Project
from zumbert.model.sheet import FrameText, Issue, OwnFrame, Sheet

# mm left free at the left, and at the other edges; small papers have no binding
BINDING, EDGE = 20.0, 10.0
# the text of a frame that is the list of revisions; from line to line, in heights
REVISIONS, LEADING = "{revisions}", 1.8
FIELDS = ("project", "title", "number", "scale", "date", "drawn", "checked", "revision", "sheets")


class Titles(NamedTuple):
    """The texts of the title strip."""

    values: Mapping[str, str]  # by the names of FIELDS
    issues: Sequence[Issue]  # the last come first


def titles(
    project: Project, sheet: Sheet, title: str, number: str, scale: str, place: int, count: int
) -> Titles:
    """The fields of a sheet."""
    how = project.delivery
    issues = list(project.issues.values())[::-1]
    return Titles(
        {
            "project": project.name,
            "title": title,
            "number": number,
            "scale": scale,
            "date": how.date,
            "drawn": how.drawn,
            "checked": how.checked,
            "revision": issues[0].name if issues else "",
            "sheets": f"{place} of {count}",
        },
        issues,
    )


def border(width: float, height: float, unit: float) -> Box:
    """The box inside the border of a paper of a size in mm, in units."""
    left = BINDING if max(width, height) > 450 else EDGE
    return Box(left / unit, EDGE / unit, (width - left - EDGE) / unit, (height - 2 * EDGE) / unit)


def room(project: Project, width: float, height: float, unit: float, with_legend: bool) -> Box:
    """The room for the drawing, in units."""
    own = project.delivery.frame
    if own is not None:
        left, top, right, bottom = own.inside or (
            BINDING,
            EDGE,
            own.width - EDGE,
            own.height - EDGE,
        )
        box = Box(left / unit, top / unit, (right - left) / unit, (bottom - top) / unit)
    else:
        box = border(width, height, unit).inside(0, 0, 0, strip_height(project))
    return box.inside(0, 0, 0, TALL if with_legend else 0.0)


def strip_height(project: Project) -> float:
    """Height of the title strip, units: three rows, of which two are titles."""
    return 30.0 + 32.0 * project.delivery.large / project.delivery.small


def frame(
    project: Project,
    width: float,
    height: float,
    unit: float,
    told: Titles,
    found: list[LegendEntry],
    roles: frozenset[str],
) -> Iterator[Mark]:
    """Trim, border, title strip and legend."""
    own = project.delivery.frame
    wide, tall = width / unit, height / unit
    if found:
        inner = room(project, width, height, unit, True)
        yield Stroke("sheet-line", points((inner.x, inner.bottom), (inner.right, inner.bottom)))
        yield from legend(
            found, Box(inner.x + 8, inner.bottom + 2, inner.width - 12, TALL - 4), roles
        )
    if own is not None:
        yield from _own(own, unit, told)
        return
    yield Stroke("trim", points((0, 0), (wide, 0), (wide, tall), (0, tall)), closed=True)
    box = border(width, height, unit)
    yield Stroke("sheet-border", box.xy, closed=True)
    strip = strip_height(project)
    yield from _strip(project, Box(box.x, box.bottom - strip, box.width, strip), told)


def _strip(project: Project, box: Box, told: Titles) -> Iterator[Mark]:
    """Project and title, scale and date, who drew and checked, revisions, number."""
    v, how = told.values, project.delivery
    yield Stroke("sheet-line", points((box.x, box.y), (box.right, box.y)))
    shares = (0.36, 0.13, 0.14, 0.23, 0.14)
    xs = [box.x]
    for share in shares:
        xs.append(xs[-1] + share * box.width)
    for x in xs[1:-1]:
        yield Stroke("sheet-line", points((x, box.y), (x, box.bottom)))
    pad, base = 7.0, box.bottom - 9.0
    half = box.y + box.height / 2
    wide = [b - a - 2 * pad for a, b in pairwise(xs)]
    yield large(how, v["project"], xs[0] + pad, box.y + 0.36 * box.height, wide[0])
    yield large(how, v["title"], xs[0] + pad, box.y + 0.68 * box.height, wide[0])
    yield line("sheet-name", "Storm drainage", xs[0] + pad, base, wide[0])
    for i, pair in (
        (1, (("Scale", "scale"), ("Date", "date"))),
        (2, (("Drawn", "drawn"), ("Checked", "checked"))),
    ):
        yield Stroke("sheet-rule", points((xs[i], half), (xs[i + 1], half)))
        for j, (name, key) in enumerate(pair):
            top = box.y + j * box.height / 2
            yield line("sheet-name", name, xs[i] + pad, top + 14.0, wide[i])
            yield line("sheet-strong", v[key], xs[i] + pad, top + box.height / 2 - 8.0, wide[i])
    yield from _revisions(told.issues, Box(xs[3], box.y, xs[4] - xs[3], box.height), pad)
    yield line("sheet-name", f"Sheet {v['sheets']}", xs[4] + pad, box.y + 14.0, wide[4])
    number = v["number"] + (f" {v['revision']}" if v["revision"] else "")
    yield large(how, number, xs[4] + pad, base, wide[4], 1.5)


def _revisions(issues: Sequence[Issue], box: Box, pad: float) -> Iterator[Mark]:
    """The revision list, the last first, as many as there is room for."""
    yield line("sheet-name", "Revisions", box.x + pad, box.y + 14.0, box.width - 2 * pad)
    for i, issue in enumerate(issues):
        y = box.y + 30.0 + 15.0 * i
        if y > box.bottom - 3.0:
            return
        yield line("sheet-strong", issue.name, box.x + pad, y, 26.0)
        yield line("sheet", issue.date, box.x + pad + 30.0, y, 70.0)
        yield line("sheet", issue.words, box.x + pad + 104.0, y, box.width - 2 * pad - 104.0)


def _own(own: OwnFrame, unit: float, told: Titles) -> Iterator[Mark]:
    """The lines of one's own frame, and its texts with the fields in braces filled in."""
    for xy in own.lines:
        if len(xy) > 1:
            yield Stroke("sheet-line", points(*((x / unit, y / unit) for x, y in xy)))
    size = TEXTS["sheet"].size
    revisions = [f"{i.name}  {i.date}  {i.words}".rstrip() for i in told.issues]
    lines = [t for t in own.texts if t.text.strip() != REVISIONS]
    # the list grows downwards, the last issue first
    for t in (t for t in own.texts if t.text.strip() == REVISIONS):
        lines += [
            FrameText(words, t.x, t.y + i * LEADING * t.height, t.height)
            for i, words in enumerate(revisions)
        ]
    for t in lines:
        scale = t.height / (CAPITALS * size * unit)
        text = re.sub(r"\{(\w+)\}", lambda m: told.values.get(m.group(1), m.group(0)), t.text)
        x, y, box = t.x / unit, t.y / unit, size * scale
        yield Inset(
            (Text("sheet", text, 0.0, size),), x, y - box, own.width / unit - x, 1.3 * box, scale
        )
