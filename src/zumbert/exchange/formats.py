"""The table of import formats: endings, how a file is recognised, how it is read, and what takes it
into a project.

The importer, the filters of the window's dialogs and the options of the command line come from this
table.
"""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from msgspec import Struct

from zumbert.errors import ReadError
from zumbert.exchange.area_csv import AREA_HEADS, read_areas
from zumbert.exchange.asciigrid import read_grid
from zumbert.exchange.dxf import read_dxf
from zumbert.exchange.land_csv import LAND_HEADS, SERVICE_HEADS, read_land, read_services
from zumbert.exchange.landxml import SurfaceFound, read_landxml
from zumbert.exchange.network_csv import PIPE_HEADS, STRUCTURE_HEADS, read_pipes, read_structures
from zumbert.exchange.points import read_point_text
from zumbert.exchange.reader import reader
from zumbert.exchange.rows import decoded, heads_of, meant
from zumbert.exchange.taking.choices import Taking
from zumbert.exchange.taking.drawings import take_drawing
from zumbert.exchange.taking.lists import take_list, take_rain, take_standard, take_trench
from zumbert.exchange.taking.roads import take_landxml
from zumbert.exchange.taking.surfaces import take_grid, take_points
from zumbert.model.project import Project

Tell = Callable[[float, str], None]


def _any(path: Path) -> bool:
    return True


class Format(Struct, frozen=True, kw_only=True):
    """One format. A file belongs to the last format of the table that has its ending and
    recognises it.
    """

    title: str  # what people call it
    endings: tuple[str, ...]
    help: str  # of its option on the command line
    option: str = ""  # on the command line, where that is not the format's own name
    holds: Callable[[Path], bool] = _any  # whether a file of its endings is one
    read: Callable[[Path, Tell], Any] | None = None  # what takes long, before anything is chosen
    take: Callable[[Taking, Project, Path, Any], Project]  # into a project, as one chose
    names_unit: bool = False  # whether its files say in which unit they are
    heads: tuple[str, ...] = ()  # of the columns of a list
    sole: bool = False  # of several files the last counts


def _grid(path: Path, tell: Tell) -> SurfaceFound:
    vertices, faces, notes = read_grid(path)
    return SurfaceFound(name=path.stem, vertices=vertices, faces=faces, notes=notes)


# -- lists told apart by the heads of their first row, or words that others use for them -----------


def _is_pipes(path: Path) -> bool:
    heads = set(heads_of(path))
    ends = {"from", "to"}
    return "invert_up" in heads or ends <= heads or ends <= set(meant(list(heads), PIPE_HEADS))


def _is_services(path: Path) -> bool:
    heads = set(heads_of(path))
    if "clearance" in heads or ({"label", "kind", "x", "y"} <= heads and "type" not in heads):
        return True
    return {"label", "x", "y", "diameter_mm"} <= set(
        meant(list(heads), SERVICE_HEADS)
    ) and not _is_structures(path)


def _is_land(path: Path) -> bool:
    return {"name", "kind", "x", "y"} <= set(heads_of(path))


def _is_areas(path: Path) -> bool:
    heads = set(heads_of(path))
    return "name" in heads and bool({"structure", "area_m2", "coefficient"} & heads)


def _is_rain(path: Path) -> bool:
    text = decoded(path)
    return "[formula]" in text or "[table" in text


def _is_structures(path: Path) -> bool:
    heads = set(heads_of(path))
    known = set(meant(list(heads), STRUCTURE_HEADS))
    return bool({"label", "type"} & heads) or (
        {"label", "x", "y"} <= known and bool({"rim", "type"} & known)
    )


def _is_standard(path: Path) -> bool:
    return "[pipes" in decoded(path)


FORMATS: dict[str, Format] = {  # in the order in which they are taken
    "landxml": Format(title="LandXML", endings=(".xml", ".landxml"),
                      help="Roads, surfaces and pipe networks; repeat for several.",
                      read=lambda path, tell: read_landxml(path, tell), take=take_landxml,
                      names_unit=True),
    "points": Format(title="points", endings=(".xyz", ".pts", ".csv", ".txt"),
                     help="Surveyed points as text; repeat for several.",
                     read=lambda path, tell: read_point_text(path), take=take_points),
    "grids": Format(title="grids", endings=(".asc", ".grd"),
                    help="An ASCII grid; repeat for several.", option="grid", read=_grid,
                    take=take_grid),
    "dxf": Format(title="DXF", endings=(".dxf",),
                  help="A drawing to lie under the plan; repeat for several.",
                  read=lambda path, tell: read_dxf(path, tell=tell), take=take_drawing,
                  names_unit=True),
    "trench": Format(title="TOML", endings=(".toml",), help="A trench type as TOML.",
                     take=take_trench, names_unit=True, sole=True),
    "standard": Format(title="TOML", endings=(".toml",), help="A design standard as TOML.",
                       holds=_is_standard, take=take_standard,
                       names_unit=True, sole=True),
    "rain": Format(title="TOML", endings=(".toml",), help="A rain as TOML.", holds=_is_rain,
                   take=take_rain,
                   names_unit=True, sole=True),
    "structures": Format(title="CSV", endings=(".csv", ".txt"),
                         help="Structures as CSV; repeat for several.",
                         holds=_is_structures, take=take_list(read_structures),
                         heads=STRUCTURE_HEADS),
    "land": Format(title="CSV", endings=(".csv", ".txt"),
                   help="Areas of land as CSV; repeat for several.", holds=_is_land,
                   take=take_list(read_land), heads=LAND_HEADS),
    "areas": Format(title="CSV", endings=(".csv", ".txt"),
                    help="Areas that drain to structures as CSV; repeat for several.",
                    holds=_is_areas, take=take_list(read_areas), heads=AREA_HEADS),
    "services": Format(title="CSV", endings=(".csv", ".txt"),
                       help="Services of others as CSV; repeat for several.",
                       holds=_is_services, take=take_list(read_services), heads=SERVICE_HEADS),
    "pipes": Format(title="CSV", endings=(".csv", ".txt"), help="Pipes as CSV; repeat for several.",
                    holds=_is_pipes,
                    take=take_list(read_pipes), heads=PIPE_HEADS),
}  # fmt: skip
LAST_SOURCE = "dxf"  # after it, what does not meet is told


@reader
def format_of(path: Path) -> str:
    """The format of a file, by its ending and what it holds. Raises ReadError for another kind."""
    ending = path.suffix.lower()
    for name, f in reversed(FORMATS.items()):
        if ending in f.endings and f.holds(path):
            return name
    titles = list(dict.fromkeys(f.title for f in FORMATS.values()))
    raise ReadError(
        f"{path} is of no kind that is read here: {', '.join(titles[:-1])} or {titles[-1]}."
    )


def endings() -> str:
    """The endings of all formats, as a file dialog filters by them."""
    return " ".join(dict.fromkeys(f"*{e}" for f in FORMATS.values() for e in f.endings))
