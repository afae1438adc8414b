"""The layers of a DXF file: named by a pattern that the user sets."""

import re
from string import Formatter
from typing import Any

from zumbert.drawing.layers import Belongs, belongs
from zumbert.drawing.style import AREAS, LINES, TEXTS, colour

BAD = re.compile(r'[<>/\\":;?*|=,`\']')  # no layer's name may have these
LONGEST = 255
JOINS = "-_. "  # signs between the fields of a pattern
EXAMPLE = Belongs("storm", "pipe", "proposed")


def layer_name(pattern: str, of: Belongs) -> str:
    """The layer of a thing: the fields of a pattern filled in, without what has none and the signs that joined it.

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
    """The layers of one file, each made when something first lies on it."""

    def __init__(self, doc: Any, pattern: str) -> None:
        self.doc, self.pattern = doc, pattern
        self._names: dict[Belongs, str] = {}
        self._roles: dict[str, str] = {}

    def of_role(self, role: str) -> str:
        """The layer of a role of the drawing."""
        found = self._roles.get(role)
        if found is None:
            found = self._roles[role] = self.of(belongs(role), ink_of(role))
        return found

    def of(self, thing: Belongs, ink: str = "#000000") -> str:
        """The layer of a thing."""
        name = self._names.get(thing)
        if name is None:
            name = self._names[thing] = layer_name(self.pattern, thing)
            if name not in self.doc.layers:
                self.doc.layers.add(name, color=aci(ink))
        return name


def ink_of(role: str) -> str:
    """The colour of a role on paper."""
    style: Any = LINES.get(role) or AREAS.get(role) or TEXTS.get(role)
    return colour(style.colour if style is not None else "ink", "colour")


_ACI = {1: (255, 0, 0), 2: (255, 255, 0), 3: (0, 255, 0), 4: (0, 255, 255), 5: (0, 0, 255), 6: (255, 0, 255), 7: (0, 0, 0),
        8: (128, 128, 128), 9: (192, 192, 192), 14: (153, 0, 0), 34: (153, 77, 0), 94: (0, 153, 0), 134: (0, 153, 153),
        174: (0, 0, 153), 214: (153, 0, 153)}  # fmt: skip


def aci(ink: str) -> int:
    """The number of the indexed colour that is nearest to #RRGGBB."""
    rgb = tuple(int(ink[i : i + 2], 16) for i in (1, 3, 5))
    return min(_ACI, key=lambda n: sum((a - b) ** 2 for a, b in zip(_ACI[n], rgb, strict=True)))
