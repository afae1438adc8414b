"""Files sorted by format, and the contents of those that take long to read."""

import itertools
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from zumbert.exchange.dxf import Drawing
from zumbert.exchange.formats import FORMATS, format_of
from zumbert.exchange.landxml import LandXml, SurfaceFound
from zumbert.exchange.points import PointText

Paths = Sequence[str | Path]
Tell = Callable[[float, str], None]


class ImportFiles(Struct, frozen=True):
    """Files by format."""

    by: Mapping[str, tuple[Path, ...]]

    @classmethod
    def of(cls, **files: str | Path | Paths | None) -> "ImportFiles":
        """One file or several of each format that is named."""
        many = {
            k: () if v is None else (v,) if isinstance(v, (str, Path)) else tuple(v)
            for k, v in files.items()
        }
        return cls({k: tuple(map(Path, many.get(k, ()))) for k in FORMATS})

    def __getitem__(self, name: str) -> tuple[Path, ...]:
        return self.by[name]

    @property
    def lists(self) -> list[Path]:
        """The files that name no unit of their own."""
        return [p for k, f in FORMATS.items() if not f.names_unit for p in self.by[k]]

    @property
    def tables(self) -> list[tuple[str, Path]]:
        """The lists of land, services, structures and pipes, each with its format."""
        return [(k, p) for k, f in FORMATS.items() if f.heads for p in self.by[k]]

    @property
    def all(self) -> list[Path]:
        """Every file."""
        return [p for paths in self.by.values() for p in paths]


class Found(Struct, frozen=True, kw_only=True):
    """Files to import, with the contents of those that take long to read."""

    files: ImportFiles
    # by format; only those that are read before one chooses
    held: Mapping[str, tuple[tuple[Path, Any], ...]]

    def of(self, name: str) -> tuple[tuple[Path, Any], ...]:
        """The files of a format, each with what it holds where that is read already."""
        return self.held.get(name, tuple((p, None) for p in self.files[name]))

    @property
    def landxml(self) -> tuple[tuple[Path, LandXml], ...]:
        """Roads and surfaces."""
        return self.held["landxml"]

    @property
    def drawings(self) -> tuple[tuple[Path, Drawing], ...]:
        """Drawings by others."""
        return self.held["dxf"]

    @property
    def points(self) -> tuple[PointText, ...]:
        """Files of points."""
        return tuple(text for _, text in self.held["points"])

    @property
    def grids(self) -> tuple[tuple[Path, SurfaceFound], ...]:
        """Grids."""
        return self.held["grids"]

    @property
    def surfaces(self) -> list[str]:
        """The names of all surfaces that can be taken, those of drawings last."""
        named = [s.name for _, found in self.landxml for s in found.surfaces]
        named += [*(t.name for t in self.points), *(s.name for _, s in self.grids)]
        return named + [
            f"{d.name} levels"
            for _, d in self.drawings
            if len(d.faces) or d.deep_lines or len(d.points) > 2
        ]

    @property
    def roads(self) -> list[str]:
        """The names of all roads found."""
        return [r.name for _, found in self.landxml for r in found.roads]

    @property
    def faulty(self) -> bool:
        """Whether any surface is triangulated here, so that its faults can be left out."""
        sources = any(s.source is not None for _, found in self.landxml for s in found.surfaces)
        return (
            sources or bool(self.points) or any(name.endswith(" levels") for name in self.surfaces)
        )


def sorted_out(paths: Paths) -> ImportFiles:
    """Files by format. Raises ReadError for one of no format that is known."""
    kinds: dict[str, list[Path]] = {k: [] for k in FORMATS}
    for path in map(Path, paths):
        kinds[format_of(path)].append(path)
    return ImportFiles({k: tuple(v[-1:] if FORMATS[k].sole else v) for k, v in kinds.items()})


TABLES: dict[str, tuple[str, ...]] = {k: f.heads for k, f in FORMATS.items() if f.heads}


def held_as(files: ImportFiles, path: Path, kind: str) -> ImportFiles:
    """The files with a table taken for another kind: structures, pipes, services or land."""
    without = {
        k: tuple(p for p in v if p != path) if k in TABLES else v for k, v in files.by.items()
    }
    return ImportFiles({**without, kind: (*without[kind], path)})


def read_files(files: ImportFiles, tell: Tell | None = None) -> Found:
    """Reads what takes long; `tell` hears how far it is, and may stop it by raising. Raises
    ReadError.
    """
    read = {k: f.read for k, f in FORMATS.items() if f.read is not None}
    many, done = max(1, sum(len(files[k]) for k in read)), 0
    held: dict[str, list[tuple[Path, Any]]] = {k: [] for k in read}

    def part(share: float, words: str) -> None:
        if tell is not None:
            tell((done + share) / many, words)

    for name, reader in read.items():
        for path in files[name]:
            part(0.0, f"Reading {path.name}")
            held[name].append((path, reader(path, part)))
            done += 1
    return _told_apart(Found(files=files, held={k: tuple(v) for k, v in held.items()}))


def _told_apart(found: Found) -> Found:
    """The same with roads of one name, and surfaces of one name, numbered: "Ground", "Ground 2"."""
    roads, surfaces = set[str](), {t.name for t in found.points}

    def free(name: str, taken: set[str]) -> str:
        out = next(
            n for i in itertools.count(1) if (n := name if i == 1 else f"{name} {i}") not in taken
        )
        taken.add(out)
        return out

    landxml = []
    for path, xml in found.landxml:
        r = tuple(replace(road, name=free(road.name, roads)) for road in xml.roads)
        s = tuple(replace(surface, name=free(surface.name, surfaces)) for surface in xml.surfaces)
        landxml.append((path, replace(xml, roads=r, surfaces=s)))
    grids = tuple(
        (path, replace(grid, name=free(grid.name, surfaces))) for path, grid in found.grids
    )
    return replace(found, held={**found.held, "landxml": tuple(landxml), "grids": grids})
