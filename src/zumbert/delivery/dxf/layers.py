"""The layers of a DXF file: named by a pattern that the user sets."""

import re
from functools import cache
from string import Formatter
from typing import Any

from zumbert.drawing.layers import Belongs, belongs
from zumbert.drawing.style import AREAS, LINES, TEXTS, colour
from zumbert.model.sheet import Delivery

BAD = re.compile(r'[<>/\\":;?*|=,`\']')  # no layer's name may have these
LONGEST = 255
JOINS = "-_. "  # signs between the fields of a pattern
THROUGH = 128  # the flag of a polyline whose dashes go on through its corners
# 1/100 mm
WEIGHTS = (
    5,
    9,
    13,
    15,
    18,
    20,
    25,
    30,
    35,
    40,
    50,
    53,
    60,
    70,
    80,
    90,
    100,
    106,
    120,
    140,
    158,
    200,
    211,
)
EXAMPLE = Belongs("storm", "pipe", "proposed")


def layer_name(pattern: str, of: Belongs) -> str:
    """The layer of a thing: the fields of a pattern filled in, without what has none and the signs
    that joined it.

    >>> layer_name("{service}-{role}-{status}", Belongs("storm", "pipe", "existing"))
    'storm-pipe-existing'
    >>> layer_name("D_{service}_{role}", Belongs("", "land", ""))
    'D_land'
    """
    out, between, dropped = "", "", False
    for literal, field, _, _ in Formatter().parse(pattern):
        between += literal
        if field is None:
            continue
        value = getattr(of, field)
        if value:
            out += (between.lstrip(JOINS) if dropped and not out else between) + value
        elif between.strip(JOINS):
            out += between.rstrip(JOINS)
        between, dropped = "", dropped or not value
    out += between
    return BAD.sub("_", out.strip())[:LONGEST] or "0"


class LayerTable:
    """The layers of one file, each made when something first lies on it. A drawing unit of paper is
    `unit` mm.

    Viewports show the line work of plans, `lines`, and of the strips beside it; `words` and all
    else that a sheet letters or draws for itself is frozen in them.
    """

    def __init__(self, doc: Any, delivery: Delivery, unit: float) -> None:
        self.doc, self.pattern, self.unit = doc, delivery.layers, unit
        self.true_colour = delivery.dxf != "R2000"
        self.lines: set[str] = set()
        self.words: set[str] = set()
        self._names: dict[tuple[Belongs, bool], str] = {}
        self._roles: dict[str, str] = {}

    def of_role(self, role: str) -> str:
        """The layer of a role of the drawing."""
        found = self._roles.get(role)
        if found is None:
            found = self._roles[role] = self.of(belongs(role), role)
        return found

    def of(self, thing: Belongs, role: str, apart: bool = False) -> str:
        """The layer of a thing, which looks as a role does. What lies `apart` shares no layer
        with line work.
        """
        name = self._names.get((thing, apart))
        if name is None:
            name = layer_name(self.pattern, thing)
            if apart and "{role}" not in self.pattern:
                name = f"{name[: LONGEST - 30]}-{thing.role}"
            self._names[thing, apart] = name
            if name not in self.doc.layers:
                self.doc.layers.add(
                    name,
                    color=aci(ink_of(role)),
                    true_color=int(ink_of(role)[1:], 16) if self.true_colour else None,
                    linetype=self.linetype(role),
                    lineweight=self.weight(role),
                )
        return name

    def linetype(self, role: str) -> str:
        """The linetype of a role, its dashes in mm."""
        dash = LINES[role].dash if role in LINES else ()
        if not dash:
            return "CONTINUOUS"
        name = "DASH-" + "-".join(f"{v:g}" for v in dash)
        if name not in self.doc.linetypes:
            even = dash if len(dash) % 2 == 0 else dash * 2
            lengths = [v * self.unit * (1 if not i % 2 else -1) for i, v in enumerate(even)]
            self.doc.linetypes.add(name, [sum(map(abs, lengths)), *lengths])
        return name

    def weight(self, role: str) -> int:
        """The width of a role's lines on paper, 1/100 mm, as near as a DXF can say it."""
        wide = (LINES[role].width if role in LINES else 1.0) * self.unit * 100
        return min(WEIGHTS, key=lambda w: abs(w - wide))


@cache
def ink_of(role: str) -> str:
    """The colour of a role on paper; a line that lets paper through is paler."""
    style: Any = LINES.get(role) or AREAS.get(role) or TEXTS.get(role)
    full, alpha = (
        colour(style.colour if style is not None else "ink", "colour"),
        getattr(LINES.get(role), "alpha", 1.0),
    )
    return "#" + "".join(
        f"{round(255 - (255 - int(full[i : i + 2], 16)) * alpha):02X}" for i in (1, 3, 5)
    )


_ACI = {1: (255, 0, 0), 2: (255, 255, 0), 3: (0, 255, 0), 4: (0, 255, 255), 5: (0, 0, 255),
        6: (255, 0, 255), 7: (0, 0, 0),
        8: (128, 128, 128), 9: (192, 192, 192), 14: (153, 0, 0), 34: (153, 77, 0), 94: (0, 153, 0),
        134: (0, 153, 153),
        174: (0, 0, 153), 214: (153, 0, 153)}  # fmt: skip


def aci(ink: str) -> int:
    """The number of the indexed colour that is nearest to #RRGGBB."""
    rgb = tuple(int(ink[i : i + 2], 16) for i in (1, 3, 5))
    return min(_ACI, key=lambda n: sum((a - b) ** 2 for a, b in zip(_ACI[n], rgb, strict=True)))
