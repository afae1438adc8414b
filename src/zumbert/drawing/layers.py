"""Layers: what a role of a drawing belongs to, for files that keep layers apart."""

from functools import lru_cache
from typing import NamedTuple


class Belongs(NamedTuple):
    """The layer key of a mark: the water or trade that it serves, the kind of thing, and its
    status; "" where it has none.
    """

    service: str
    role: str
    status: str

    @property
    def words(self) -> str:
        """The same for people: "Storm pipe, existing"."""
        words = " ".join(w for w in (self.service, self.role) if w).capitalize()
        return f"{words}, {self.status}" if self.status else words


# how roles begin, the longest match counts: the thing that they are of
_THINGS: dict[str, tuple[str, str]] = {
    **dict.fromkeys(
        ("contour", "ground", "earth-tick", "shade", "spot", "stratum", "hatch", "rock", "topsoil",
         "general"), ("", "ground")
    ),
    **dict.fromkeys(
        ("design", "road", "kerb", "verge", "centre-line", "chainage", "profile-other", "formation",
         "tangent", "contour-design"),
        ("", "road"),
    ),
    "limit": ("", "land"),
    "service": ("others", "service"),
    "background": ("", "background"),
    **dict.fromkeys(("structure", "chamber", "section-label", "cover", "crossed"),
                    ("", "structure")),
    **dict.fromkeys(("row", "axis", "column", "grid"), ("", "levels")),
    **dict.fromkeys(
        ("trench", "pit", "bedding", "dug", "surround", "dimension", "depth-band", "overlap",
         "fill-first"), ("", "trench")
    ),
    **dict.fromkeys(("breach", "caution", "decided", "sliver"), ("", "finding")),
    **dict.fromkeys(("sheet", "trim", "match", "key-box", "paper"), ("", "sheet")),
    "grid-cross": ("", "grid"),
    "revision": ("", "revision"),
    "area": ("", "area"),
    **dict.fromkeys(("flow-half", "flow-most", "flow-near", "flow-over", "water", "rain",
                     "drop-path"), ("", "flow")),
    "least-cover": ("", "cover"),
    "flow-open-foul": ("foul", "pipe"),
    "flow-open": ("storm", "pipe"),
    "gully-foul": ("foul", "gully"),
    "gully": ("storm", "gully"),
    "storm": ("storm", "pipe"),
    "foul": ("foul", "pipe"),
}  # fmt: skip
_WITH_STATUS = ("pipe", "structure", "gully")


@lru_cache(maxsize=512)
def belongs(role: str) -> Belongs:
    """The layer key of a role; "drawing" for what belongs to nothing in particular."""
    found = max((k for k in _THINGS if role.startswith(k)), key=len, default=None)
    if found is None:
        return Belongs("", "drawing", "")
    service, thing = _THINGS[found]
    status = ("existing" if "-existing" in role else "proposed") if thing in _WITH_STATUS else ""
    return Belongs(service, thing, status)
