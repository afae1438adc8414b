"""Open-format files told apart by what they hold, and what the large ones hold, read once."""

import itertools
from collections.abc import Callable, Sequence
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from zumbert.errors import ReadError
from zumbert.exchange.asciigrid import read_grid
from zumbert.exchange.dxf import Drawing, read_dxf
from zumbert.exchange.land_csv import LAND_HEADS, SERVICE_HEADS
from zumbert.exchange.landxml import LandXml, SurfaceFound, read_landxml
from zumbert.exchange.network_csv import PIPE_HEADS, STRUCTURE_HEADS
from zumbert.exchange.points import PointText, read_point_text
from zumbert.exchange.rows import decoded, heads_of, meant

Paths = Sequence[str | Path]
Tell = Callable[[float, str], None]


class Files(Struct, frozen=True, kw_only=True):
    """Files by what they hold."""

    landxml: tuple[Path, ...] = ()
    dxf: tuple[Path, ...] = ()
    points: tuple[Path, ...] = ()
    grids: tuple[Path, ...] = ()
    land: tuple[Path, ...] = ()
    services: tuple[Path, ...] = ()
    structures: tuple[Path, ...] = ()
    pipes: tuple[Path, ...] = ()
    standard: Path | None = None
    trench: Path | None = None

    @property
    def lists(self) -> list[Path]:
        """The files that name no unit of their own."""
        many = (self.points, self.grids, self.land, self.services, self.structures, self.pipes)
        return [p for group in many for p in group]

    @property
    def tables(self) -> list[Path]:
        """The lists of land, services, structures and pipes."""
        return [p for group in (self.land, self.services, self.structures, self.pipes) for p in group]

    @property
    def all(self) -> list[Path]:
        """Every file."""
        many = (self.landxml, self.dxf, self.points, self.grids, self.land, self.services, self.structures, self.pipes)
        return [*(p for group in many for p in group), *(p for p in (self.standard, self.trench) if p)]


class Found(Struct, frozen=True, kw_only=True):
    """What the large files hold, read once."""

    files: Files
    landxml: tuple[tuple[Path, LandXml], ...] = ()
    drawings: tuple[tuple[Path, Drawing], ...] = ()
    points: tuple[PointText, ...] = ()
    grids: tuple[tuple[Path, SurfaceFound], ...] = ()

    @property
    def surfaces(self) -> list[str]:
        """The names of all surfaces that can be taken, those of drawings last."""
        named = [s.name for _, found in self.landxml for s in found.surfaces]
        named += [*(t.name for t in self.points), *(s.name for _, s in self.grids)]
        return named + [
            f"{d.name} levels" for _, d in self.drawings if len(d.faces) or d.deep_lines or len(d.points) > 2
        ]

    @property
    def roads(self) -> list[str]:
        """The names of all roads found."""
        return [r.name for _, found in self.landxml for r in found.roads]

    @property
    def faulty(self) -> bool:
        """Whether any surface is triangulated here, so that its faults can be left out."""
        sources = any(s.source is not None for _, found in self.landxml for s in found.surfaces)
        return sources or bool(self.points) or any(name.endswith(" levels") for name in self.surfaces)


def sorted_out(paths: Paths) -> Files:
    """Files told apart by their endings, CSV and TOML by what they hold. Raises ReadError for another kind."""
    names = ("landxml", "dxf", "points", "grids", "land", "services", "structures", "pipes", "standard", "trench")
    kinds: dict[str, list[Path]] = {k: [] for k in names}
    for path in map(Path, paths):
        ending = path.suffix.lower()
        if ending in (".xml", ".landxml"):
            kinds["landxml"].append(path)
        elif ending == ".dxf":
            kinds["dxf"].append(path)
        elif ending in (".csv", ".txt"):
            kinds[_table(path)].append(path)
        elif ending in (".xyz", ".pts"):
            kinds["points"].append(path)
        elif ending in (".asc", ".grd"):
            kinds["grids"].append(path)
        elif ending == ".toml":
            kinds["standard" if "[pipes" in decoded(path) else "trench"].append(path)
        else:
            raise ReadError(f"{path} is of no kind that is read here: LandXML, DXF, points, grids, CSV or TOML.")
    one = {k: kinds[k][-1] if kinds[k] else None for k in ("standard", "trench")}
    many = {k: tuple(kinds[k]) for k in names[:-2]}
    return Files(**many, **one)  # type: ignore[arg-type]


def _table(path: Path) -> str:
    """What a CSV or text file holds, by the heads of its first row, or words that others use for them."""
    heads = set(heads_of(path))
    if "invert_up" in heads or {"from", "to"} <= heads or {"from", "to"} <= set(meant(list(heads), PIPE_HEADS)):
        return "pipes"
    if "clearance" in heads or ({"label", "kind", "x", "y"} <= heads and "type" not in heads):
        return "services"
    if {"name", "kind", "x", "y"} <= heads:
        return "land"
    if {"label", "type"} & heads:
        return "structures"
    known = set(meant(list(heads), STRUCTURE_HEADS)), set(meant(list(heads), SERVICE_HEADS))
    if {"label", "x", "y"} <= known[0] and {"rim", "type"} & known[0]:
        return "structures"
    return "services" if {"label", "x", "y", "diameter_mm"} <= known[1] else "points"


TABLES: dict[str, tuple[str, ...]] = {
    "structures": STRUCTURE_HEADS, "pipes": PIPE_HEADS, "services": SERVICE_HEADS, "land": LAND_HEADS,
}  # fmt: skip


def held_as(files: Files, path: Path, kind: str) -> Files:
    """The files with a table taken for another kind: structures, pipes, services or land."""
    without = {k: tuple(p for p in getattr(files, k) if p != path) for k in TABLES}
    return replace(files, **{**without, kind: (*without[kind], path)})


def read_files(files: Files, tell: Tell | None = None) -> Found:
    """Reads what takes long; `tell` hears how far it is, and may stop it by raising. Raises ReadError."""
    many, done = max(1, len(files.landxml) + len(files.dxf) + len(files.points) + len(files.grids)), 0

    def heard(path: Path) -> Tell:
        def part(share: float, words: str) -> None:
            if tell is not None:
                tell((done + share) / many, words)

        part(0.0, f"Reading {path.name}")
        return part

    landxml: list[tuple[Path, LandXml]] = []
    drawings: list[tuple[Path, Drawing]] = []
    texts: list[PointText] = []
    grids: list[tuple[Path, SurfaceFound]] = []
    for path in files.landxml:
        landxml.append((path, read_landxml(path, heard(path))))
        done += 1
    for path in files.dxf:
        drawings.append((path, read_dxf(path, tell=heard(path))))
        done += 1
    for path in files.points:
        heard(path)
        texts.append(read_point_text(path))
        done += 1
    for path in files.grids:
        heard(path)
        vertices, faces, notes = read_grid(path)
        grids.append((path, SurfaceFound(name=path.stem, vertices=vertices, faces=faces, notes=notes)))
        done += 1
    return _told_apart(
        Found(files=files, landxml=tuple(landxml), drawings=tuple(drawings), points=tuple(texts), grids=tuple(grids))
    )


def _told_apart(found: Found) -> Found:
    """The same with roads of one name, and surfaces of one name, numbered: "Ground", "Ground 2"."""
    roads, surfaces = set[str](), {t.name for t in found.points}

    def free(name: str, taken: set[str]) -> str:
        out = next(n for i in itertools.count(1) if (n := name if i == 1 else f"{name} {i}") not in taken)
        taken.add(out)
        return out

    landxml = []
    for path, xml in found.landxml:
        r = tuple(replace(road, name=free(road.name, roads)) for road in xml.roads)
        s = tuple(replace(surface, name=free(surface.name, surfaces)) for surface in xml.surfaces)
        landxml.append((path, replace(xml, roads=r, surfaces=s)))
    grids = tuple((path, replace(grid, name=free(grid.name, surfaces))) for path, grid in found.grids)
    return replace(found, landxml=tuple(landxml), grids=grids)
