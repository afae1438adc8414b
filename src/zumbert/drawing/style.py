"""The one table of colours, lines and texts, by role. Marks name roles; pens look here."""

from functools import lru_cache
from typing import Literal

from msgspec import Struct

Inks = Literal["colour", "grey", "black"]  # what a sheet is printed in
Theme = Literal["light", "dark", "colour", "grey", "black"]  # of the screen, and of paper
INKS: tuple[Inks, ...] = ("colour", "grey", "black")
FAMILY = "IBM Plex Sans"

# colour by role: light "paper", dark "slate"
_COLOURS: dict[str, tuple[str, str]] = {
    "paper": ("#FBFAF5", "#1B2329"),
    "chrome": ("#F3F0E6", "#232D34"),
    "chrome-2": ("#EAE6D9", "#2D3941"),
    "field": ("#FFFEFB", "#141B20"),
    "ink": ("#1F2A33", "#ECE9E0"),
    "ink-2": ("#55606B", "#AEB8BF"),
    "soft": ("#C9C4B8", "#4A5761"),
    "hair": ("#E4E0D5", "#2C3740"),
    "ground": ("#7A5C3E", "#CFA97E"),
    "ground-fill": ("#F4ECDE", "#272722"),
    "design": ("#4E5A66", "#B7C3CD"),
    "road": ("#EFECE3", "#262F36"),
    "storm": ("#0B6E74", "#58C4C6"),
    "storm-wall": ("#C9DEDD", "#23474B"),
    "storm-bore": ("#EEF5F2", "#172E33"),
    "foul": ("#7D2E46", "#DB8FA6"),
    "foul-wall": ("#E4D2D7", "#4A2A36"),
    "foul-bore": ("#F6EFF1", "#2A1A20"),
    "breach": ("#BE3217", "#FF8163"),
    "caution": ("#7A3E8E", "#CFA2E6"),
    "halo": ("#F2C94C", "#B98F1E"),
    "area-1": ("#C98F86", "#8A5A54"),
    "area-2": ("#9AA3AD", "#67727C"),
    "area-3": ("#C4B69A", "#7D7158"),
    "area-4": ("#B79BB8", "#745F76"),
    "area-5": ("#A9BF8C", "#66784F"),
    "area-6": ("#D5CB7C", "#80793F"),
    "water": ("#4FA3C7", "#3F86A6"),
    "full-low": ("#9CCFD0", "#2F6B6E"),
    "full-mid": ("#4E9FB8", "#4E9FB8"),
    "full-high": ("#E0A43A", "#C98F2B"),
    "service": ("#4A4E8C", "#A9AEF0"),
    "legal": ("#41613A", "#A3CC92"),
    "legal-fill": ("#C9DDBB", "#3A5E40"),
    "legal-bar": ("#BFD3B4", "#3A5E40"),
    "chamber-wall": ("#B9C4C6", "#5A6770"),
    "topsoil": ("#D5C29A", "#4A3F2A"),
    "general": ("#EFE3CB", "#332E24"),
    "rock": ("#C9C6C2", "#3A4046"),
    "strata-ink": ("#5F4529", "#CFA97E"),
}


def colour(role: str, theme: Theme) -> str:
    """The colour of a role as #RRGGBB. KeyError for an unknown role: each is named here.

    On paper the paper is white; in grey a colour is as dark as it was; in black all is black but
    for what is paler than the middle, which stays the grey that it was.
    """
    light, dark = _COLOURS[role]
    if theme in ("light", "dark"):
        return light if theme == "light" else dark
    return _printed("#FFFFFF" if role in ("paper", "field") else light, theme)


@lru_cache(maxsize=256)
def _printed(ink: str, theme: Theme) -> str:
    """A colour as it is printed; greys by the luma of ITU-R BT.601."""
    if theme == "colour":
        return ink
    red, green, blue = (int(ink[i : i + 2], 16) for i in (1, 3, 5))
    grey = round(0.299 * red + 0.587 * green + 0.114 * blue)
    return "#000000" if theme == "black" and grey < PALE else f"#{grey:02X}{grey:02X}{grey:02X}"


PALE = 160  # of 255: what is printed in black is black below this


COLOUR_ROLES: tuple[str, ...] = tuple(_COLOURS)


class LineStyle(Struct, frozen=True):
    """How a stroke is drawn: colour role, width and dashes in drawing units, opacity 0 to 1."""

    colour: str
    width: float
    dash: tuple[float, ...] = ()
    alpha: float = 1.0
    round: bool = False


class AreaStyle(Struct, frozen=True):
    """How an area is filled."""

    colour: str
    alpha: float = 1.0


class Type(Struct, frozen=True):
    """How a text is set: colour role, size in drawing units, weight."""

    colour: str
    size: float
    weight: Literal[400, 600] = 400


LINES: dict[str, LineStyle] = {
    "design": LineStyle("design", 1.8),
    "road-ahead": LineStyle("design", 1.4, (6, 3)),
    "ground": LineStyle("ground", 1.5),
    "earth-tick": LineStyle("ground", 0.8),
    "contour-major": LineStyle("ground", 1.0, alpha=0.58),
    "contour-minor": LineStyle("ground", 0.6, alpha=0.33),
    "contour-design-major": LineStyle("design", 1.0, alpha=0.58),
    "contour-design-minor": LineStyle("design", 0.6, alpha=0.33),
    "limit": LineStyle("ink-2", 1.2, (11, 3, 2, 3, 2, 3)),
    "service": LineStyle("service", 1.4, (1.5, 4)),
    "service-oval": LineStyle("service", 1.3),
    "spot": LineStyle("ink", 1.2),
    "draft": LineStyle("ink", 1.4, (6, 3)),
    "draft-full": LineStyle("ink", 1.6),
    "tangent": LineStyle("ink-2", 0.9, (3, 3)),
    "profile-other": LineStyle("design", 1.2, (2, 3)),
    "formation": LineStyle("design", 1.1, (9, 3)),
    "rock": LineStyle("ink-2", 1.2, (4, 2, 1, 2)),
    "background": LineStyle("ink-2", 0.8, alpha=0.45),
    "kerb": LineStyle("design", 1.2),
    "verge": LineStyle("design", 0.8, alpha=0.7),
    "centre-line": LineStyle("design", 0.8, (14, 4, 3, 4)),
    "chainage-tick": LineStyle("design", 0.8),
    "least-cover": LineStyle("design", 1.0, (5, 3)),
    "grid-major": LineStyle("soft", 1.0),
    "grid-minor": LineStyle("hair", 1.0),
    "axis": LineStyle("ink", 1.0),
    "row-rule": LineStyle("hair", 1.0),
    "row-strong": LineStyle("ink-2", 1.0),
    "column": LineStyle("soft", 1.0, (1.5, 4)),
    "column-rule": LineStyle("soft", 1.0),
    **{
        f"{water}{age}{part}": LineStyle(water, width, *faded)
        for water in ("storm", "foul")
        for age, faded in (("", ()), ("-existing", ((8, 4), 0.55)))
        for part, width in (("", 1.6), ("-outside", 1.3), ("-inside", 0.8))
    },
    "flow-open": LineStyle("storm", 1.8, round=True),
    "flow-open-foul": LineStyle("foul", 1.8, round=True),
    "structure": LineStyle("ink", 1.6),
    "structure-existing": LineStyle("ink", 1.4, (3, 2), 0.6),
    "gully": LineStyle("storm", 1.2),
    "gully-foul": LineStyle("foul", 1.2),
    "chamber": LineStyle("ink", 1.0),
    "chamber-inner": LineStyle("ink", 0.7),
    "halo": LineStyle("halo", 11.0, alpha=0.45, round=True),
    "flow-half": LineStyle("full-low", 8.0, alpha=0.6),
    "flow-most": LineStyle("full-mid", 8.0, alpha=0.6),
    "flow-near": LineStyle("full-high", 8.0, alpha=0.65),
    "flow-over": LineStyle("breach", 8.0, alpha=0.55),
    "area-edge": LineStyle("ink-2", 0.8, alpha=0.7),
    "area-loose": LineStyle("caution", 1.5, (6, 4)),
    "drop-path": LineStyle("water", 2.4, round=True),
    "halo-many": LineStyle("halo", 7.0),
    "halo-wide": LineStyle("halo", 5.0, alpha=0.55),
    "breach": LineStyle("breach", 2.4),
    "breach-plan": LineStyle("breach", 4.2),
    "breach-bar": LineStyle("breach", 1.8),
    "breach-dimension": LineStyle("breach", 1.1),
    "caution": LineStyle("caution", 1.5),
    "caution-stretch": LineStyle("caution", 2.4),
    "caution-plan": LineStyle("caution", 4.2, alpha=0.7),
    "caution-bar": LineStyle("caution", 1.8),
    "decided": LineStyle("ink-2", 1.2, (2, 2), alpha=0.8),
    "decided-plan": LineStyle("ink-2", 3.0, (2, 3), alpha=0.6),
    "decided-stretch": LineStyle("ink-2", 1.6, (2, 2), alpha=0.8),
    "decided-bar": LineStyle("ink-2", 1.0, alpha=0.8),
    "strip": LineStyle("soft", 1.0),
    "legal": LineStyle("legal", 1.2),
    "gauge": LineStyle("legal", 3.2),
    "gauge-bar": LineStyle("legal", 1.8),
    "ring": LineStyle("ink", 1.5),
    "axis-thin": LineStyle("ink-2", 1.0),
    "design-post": LineStyle("design", 1.0, (4, 2)),
    "end-mark": LineStyle("ink", 1.2),
    "end-mark-other": LineStyle("soft", 1.2),
    "held": LineStyle("ink", 1.8, round=True),
    "ring-hand": LineStyle("ink", 2.5),
    "stalk": LineStyle("ink", 1.0, (2, 2)),
    "cursor": LineStyle("ink", 0.9, (3, 3)),
    "preview": LineStyle("storm", 1.4, (6, 3)),
    "pointed": LineStyle("ink", 1.6, round=True),
    "former": LineStyle("ink-2", 1.0, (4, 3), 0.75),
    "leader": LineStyle("ink-2", 0.8),
    "crossed": LineStyle("ink-2", 1.4),
    "snap": LineStyle("ink", 1.3),
    "paper-rim": LineStyle("paper", 1.0),
    "trench-bottom": LineStyle("ink", 1.8),
    "trench-tick": LineStyle("ink", 0.8),
    "trench-outline": LineStyle("ink", 2.0),
    "trench-plan": LineStyle("ink", 0.9, (6, 2)),
    "trench-foot": LineStyle("ink", 0.7, alpha=0.6),
    "overlap": LineStyle("caution", 0.9),
    "fill-first": LineStyle("caution", 0.9, (3, 2)),
    "ground-cross": LineStyle("ground", 2.0),
    "stratum": LineStyle("strata-ink", 0.9, alpha=0.7),
    "depth-band": LineStyle("design", 1.0, (1.5, 4)),
    "dimension": LineStyle("ink", 0.9),
    "bedding": LineStyle("ink-2", 0.8),
    "hatch-topsoil": LineStyle("strata-ink", 0.8, alpha=0.55),
    "hatch-general": LineStyle("strata-ink", 0.8, alpha=0.3),
    "hatch-rock": LineStyle("ink-2", 0.9, alpha=0.5),
    "hatch-stones": LineStyle("ink-2", 1.2, alpha=0.55),
    "pit": LineStyle("ink", 0.9),
    "ink-thin": LineStyle("ink", 1.0),
    "pill": LineStyle("ink-2", 1.0),
    "soft": LineStyle("soft", 1.0),
    "sheet-border": LineStyle("ink", 2.2),
    "sheet-line": LineStyle("ink", 1.1),
    "sheet-rule": LineStyle("soft", 0.8),
    "trim": LineStyle("soft", 0.6),
    "match": LineStyle("ink", 1.6, (16, 4, 3, 4)),
    "grid-cross": LineStyle("ink-2", 0.8),
    "revision": LineStyle("breach", 1.8, round=True),
    "key-box": LineStyle("breach", 1.4),
}

AREAS: dict[str, AreaStyle] = {
    "paper": AreaStyle("paper"),
    "plate": AreaStyle("paper", 0.82),
    "ground-fill": AreaStyle("ground-fill"),
    "road": AreaStyle("road"),
    "storm-wall": AreaStyle("storm-wall"),
    "storm-bore": AreaStyle("storm-bore"),
    "foul-wall": AreaStyle("foul-wall"),
    "foul-bore": AreaStyle("foul-bore"),
    "storm": AreaStyle("storm"),
    "foul": AreaStyle("foul"),
    "field": AreaStyle("field"),
    "ink": AreaStyle("ink"),
    "ink-2": AreaStyle("ink-2"),
    "halo": AreaStyle("halo", 0.45),
    "cell": AreaStyle("halo", 0.5),
    "breach": AreaStyle("breach"),
    "caution": AreaStyle("caution", 0.75),
    "decided": AreaStyle("ink-2", 0.35),
    "sliver": AreaStyle("breach", 0.28),
    "legal": AreaStyle("legal-fill", 0.72),
    "chamber-wall": AreaStyle("chamber-wall"),
    "soft": AreaStyle("soft"),
    **{f"area-{i}": AreaStyle(f"area-{i}", 0.34) for i in range(1, 7)},
    "water": AreaStyle("water", 0.75),
    **{f"rain-{i}": AreaStyle("water", 0.15 + 0.18 * i) for i in range(1, 5)},
    "water-over": AreaStyle("breach", 0.4),
    "design": AreaStyle("design"),
    "chrome": AreaStyle("chrome"),
    "shade": AreaStyle("ink", 0.3),
    "measured": AreaStyle("halo", 0.25),
    "service": AreaStyle("service"),
    "stratum-topsoil": AreaStyle("topsoil"),
    "stratum-general": AreaStyle("general"),
    "stratum-rock": AreaStyle("rock"),
    "rock-section": AreaStyle("rock", 0.55),
    "dug": AreaStyle("paper", 0.72),
    "bedding": AreaStyle("chamber-wall", 0.5),
    "surround": AreaStyle("paper", 0.5),
    "overlap": AreaStyle("caution", 0.16),
    "fill-first": AreaStyle("caution", 0.3),
    "topsoil": AreaStyle("topsoil"),
    "general": AreaStyle("general"),
    "rock": AreaStyle("rock"),
}

TEXTS: dict[str, Type] = {
    "structure-label": Type("ink", 12.0, 600),
    "section-label": Type("ink", 12.5, 600),
    "gully-label": Type("storm", 11.5),
    "chainage": Type("ink-2", 11.5),
    "road-name": Type("ink-2", 11.5, 600),
    "contour": Type("ground", 11.0),
    "contour-design": Type("design", 11.0),
    "limit": Type("ink-2", 11.0),
    "service": Type("service", 11.0),
    "ground": Type("ground", 11.5),
    "design": Type("design", 11.5),
    "axis": Type("ink-2", 11.5),
    "row-head": Type("ink-2", 11.5),
    "row": Type("ink", 11.5),
    "row-2": Type("ink-2", 11.5),
    "row-ground": Type("ground", 11.5),
    "row-design": Type("design", 11.5),
    "row-breach": Type("breach", 11.5, 600),
    "row-selected": Type("ink", 11.5, 600),
    "breach": Type("breach", 12.0, 600),
    "breach-small": Type("breach", 11.5),
    "caution-small": Type("caution", 11.5),
    "caution": Type("caution", 11.5, 600),
    "legal": Type("legal", 11.5),
    "note": Type("ink-2", 11.0),
    "small": Type("ink-2", 11.0),
    "drawn": Type("ink-2", 11.0),
    "title": Type("ink", 15.0, 600),
    "sheet": Type("ink", 11.5),
    "sheet-strong": Type("ink", 11.5, 600),
    "sheet-name": Type("ink-2", 11.5),
    "revision": Type("breach", 11.5, 600),
    "storm": Type("storm", 11.5),
    "foul": Type("foul", 11.5),
    "ink": Type("ink", 11.5),
    "strong": Type("ink", 12.0, 600),
}

# advance widths of the shipped face in thousandths of its size, Regular and SemiBold; other
# characters 600
_WIDTHS: dict[int, str] = {
    400: (
        " 236!284\"419#713$598%927&694'242(335)335*450+600,272-399.272/383:292;292?477@891"
        "A641B653C621D671E583F559G695H707I400J510K634L501M812N707O708P606Q708R640S581T572"
        "U678V609W891X613Y593Z580[317]317_565a534b580c503d580e549f324g528h568i250j250k527"
        "l272m873n568o560p580q580r367s487t351u568v492w768x507y499z464°468²346³346·326–588"
        "→820…803"
    ),
    600: (
        " 236!309\"471#656$600%960&713'260(337)337*556+600,298-402.298/437:318;318?493@899"
        "A672B663C642D689E600F577G712H719I423J545K678L521M816N719O712P641Q712R664S611T580"
        "U690V638W949X655Y632Z599[329]329_559a559b600c513d600e558f350g545h588i276j276k562"
        "l294m888n588o563p600q600r393s499t374u588v524w819x544y524z502°470²347³345·350–588"
        "→876…868"
    ),
}


def _parsed(table: str) -> dict[str, int]:
    return {table[i]: int(table[i + 1 : i + 4]) for i in range(0, len(table), 4)}


_ADVANCES = {weight: _parsed(table) for weight, table in _WIDTHS.items()}


CAPITALS = 0.698  # height of the face's capitals, of its size
PAPER_TEXT = 11.5  # drawing units: the size that is as high on paper as labels are to be


@lru_cache(maxsize=4096)
def text_width(text: str, role: str) -> float:
    """Width of a text in drawing units, from the face's own advances (no kerning: up to 1 % too
    wide).
    """
    style = TEXTS[role]
    advances = _ADVANCES[style.weight]
    return sum(advances.get(c, 600) for c in text) * style.size / 1000
