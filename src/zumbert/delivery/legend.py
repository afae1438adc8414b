"""The legend of a sheet: a sample and words for each kind of thing that is on it."""

from collections.abc import Iterable, Iterator
from typing import NamedTuple

import numpy as np

from zumbert.delivery.paper import Box, line
from zumbert.drawing.marks import Disc, Faded, Fill, Inset, Mark, Raster, Segments, Stroke, points
from zumbert.drawing.style import text_width

TALL = 42.0  # units that a legend takes
SMALLER = (1.0, 0.9, 0.8, 0.7, 0.6, 0.5)  # a legend of many entries is drawn at one of these
# units: width of a sample, what lies between it and the words, height of a row
SAMPLE, GAP, ROW = 30.0, 8.0, 18.0


class LegendEntry(NamedTuple):
    """The meaning of a role; a line where `of` is one, an area or a sign else."""

    words: str
    roles: tuple[str, ...]  # any of which brings the entry
    of: str = "line"


ENTRIES: tuple[LegendEntry, ...] = (
    *(
        LegendEntry(f"{age} {water} pipe", (f"{water}{part}", f"{water}{part}-outside"))
        for water in ("storm", "foul") for age, part in (("Proposed", ""),
                                                         ("Existing", "-existing"))
    ),
    LegendEntry("Structure", ("structure",), "ring"),
    LegendEntry("Existing structure", ("structure-existing",), "ring"),
    LegendEntry("Gully", ("gully", "gully-foul"), "box"),
    LegendEntry("Abandoned", ("crossed",), "cross"),
    LegendEntry("Service of others", ("service", "service-oval")),
    LegendEntry("Existing ground", ("ground", "ground-cross")),
    LegendEntry("Design level", ("design",)),
    LegendEntry("Formation", ("formation",)),
    LegendEntry("Rock", ("rock",)),
    LegendEntry("Least cover", ("least-cover",)),
    LegendEntry("Trench bottom", ("trench-bottom",)),
    LegendEntry("Outline of trench", ("trench-outline", "trench-plan")),
    LegendEntry("Contour", ("contour-major", "contour-minor")),
    LegendEntry("Contour of the design", ("contour-design-major", "contour-design-minor")),
    LegendEntry("Kerb", ("kerb",)),
    LegendEntry("Back of verge", ("verge",)),
    LegendEntry("Centre line", ("centre-line",)),
    LegendEntry("Limit of land", ("limit",)),
    LegendEntry("Drawing by others", ("background",)),
    LegendEntry("Topsoil", ("stratum-topsoil",), "area"),
    LegendEntry("General ground", ("stratum-general",), "area"),
    LegendEntry("Rock", ("stratum-rock", "rock-section"), "area"),
    LegendEntry("Bedding", ("bedding",), "area"),
    LegendEntry("Match line", ("match",)),
    LegendEntry("Changed since the last issue", ("revision",)),
)  # fmt: skip


def roles_in(marks: Iterable[Mark]) -> frozenset[str]:
    """The roles of all marks but texts, borders included."""
    found: set[str] = set()
    for m in marks:
        if isinstance(m, (Faded, Inset)):
            found |= roles_in(m.marks)
        elif isinstance(m, (Stroke, Segments, Raster)):
            found.add(m.role)
        elif isinstance(m, (Fill, Disc)):
            found |= {m.role, m.edge or m.role}
    return frozenset(found)


def entries(marks: Iterable[Mark]) -> list[LegendEntry]:
    """The entries that a drawing asks for; words that come twice stand once."""
    roles = roles_in(marks)
    found = [e for e in ENTRIES if roles & set(e.roles)]
    return [e for i, e in enumerate(found) if e.words not in (f.words for f in found[:i])]


def legend_rows(found: list[LegendEntry], width: float) -> list[list[LegendEntry]]:
    """Entries in rows of a width."""
    rows: list[list[LegendEntry]] = []
    left = 0.0
    for e in found:
        need = _wide(e)
        if not rows or left < need:
            rows.append([])
            left = width
        rows[-1].append(e)
        left -= need
    return rows


def _wide(e: LegendEntry) -> float:
    return SAMPLE + GAP + text_width(e.words, "sheet") + 22.0


def legend(found: list[LegendEntry], box: Box, roles: frozenset[str]) -> Iterator[Mark]:
    """Samples and words in a box, each sample in the role that the drawing has; smaller where
    there are many.
    """
    by = next(
        (v for v in SMALLER if len(legend_rows(found, box.width / v)) * ROW * v <= box.height),
        SMALLER[-1],
    )
    rows = legend_rows(found, box.width / by)
    spare = (box.height / by - len(rows) * ROW) / 2
    marks: list[Mark] = []
    for j, row in enumerate(rows):
        x, y = 0.0, spare + (j + 0.5) * ROW
        for e in row:
            marks += _sample(e, next(r for r in e.roles if r in roles), x, y)
            marks.append(line("sheet", e.words, x + SAMPLE + GAP, y + 4.0, 400.0))
            x += _wide(e)
    yield Inset(tuple(marks), *box, by)


def _sample(e: LegendEntry, role: str, x: float, y: float) -> Iterator[Mark]:
    middle = x + SAMPLE / 2
    if e.of == "ring":
        yield Disc("field", middle, y, 5.0, role)
    elif e.of == "box":
        yield Fill(
            "field",
            points(
                (middle - 4, y - 3), (middle + 4, y - 3), (middle + 4, y + 3), (middle - 4, y + 3)
            ),
            role,
        )
    elif e.of == "cross":
        yield Segments(
            role,
            np.array(
                [(middle - 5, y - 5, middle + 5, y + 5), (middle - 5, y + 5, middle + 5, y - 5)]
            ),
        )
    elif e.of == "area":
        yield Fill(
            role,
            points((x, y - 5), (x + SAMPLE, y - 5), (x + SAMPLE, y + 5), (x, y + 5)),
            "sheet-line",
        )
    else:
        yield Stroke(role, points((x, y), (x + SAMPLE, y)))
