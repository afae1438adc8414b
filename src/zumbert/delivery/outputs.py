"""Files that leave the desk: written whole or not at all, with progress, and given up at once."""

import os
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import NamedTuple

from zumbert.delivery.geojson import geojson
from zumbert.delivery.job import Job, Tell, quiet
from zumbert.delivery.landxml import landxml
from zumbert.delivery.pages import Leaf, leaves, page
from zumbert.delivery.paper import Page
from zumbert.delivery.schedules import SCHEDULE_KINDS, schedules
from zumbert.errors import ReadError, known
from zumbert.exchange.csv import write_csv
from zumbert.exchange.svg import write_svg
from zumbert.exchange.xlsx import write_xlsx

Maker = Callable[[Path, Tell], list[str]]


class Output(NamedTuple):
    """One file or folder that is asked for, and what makes it: files by name in a folder of
    their own.
    """

    target: Path
    folder: bool
    make: Maker  # writes to a path and gives what there is to tell


def chosen(job: Job, names: Sequence[str] | None = None) -> list[Leaf]:
    """The pages that go out: all, or those of the sheets named. Raises ReadError for a name that
    no sheet has.
    """
    every = leaves(job)
    if not names:
        return every
    titles = {leaf.sheet.title for leaf in every} | {leaf.number for leaf in every}
    for name in names:
        if name not in titles:
            raise ReadError(
                f'There is no sheet "{name}": '
                f"{known(name, [s.title for s in job.project.sheets.values()])}"
            )
    return [leaf for leaf in every if leaf.sheet.title in names or leaf.number in names]


def composed(job: Job, picked: Sequence[Leaf], tell: Tell = quiet) -> list[Page]:
    """Pages of some leaves; `tell` hears each."""
    every = leaves(job)
    out = []
    for i, leaf in enumerate(picked):
        tell(i / max(1, len(picked)), f"Sheet {leaf.number}")
        out.append(job.once(("page", leaf.place), partial(page, job, leaf, every)))
    return out


def file_name(page: Page) -> str:
    """The name of the file of one page, without its ending."""
    return re.sub(r'[<>:"/\\|?*\x00-\x1f]+', " ", f"{page.number} {page.title}").strip(" .")[:150]


# -- what makes each kind --------------------------------------------------------------------------


def pdf_maker(job: Job, picked: Sequence[Leaf]) -> Maker:
    """One PDF with all pages."""

    def make(path: Path, tell: Tell) -> list[str]:
        from zumbert.delivery.pdf import pdf_bytes

        _needs_sheets(picked, "PDF")
        pages = composed(job, picked, lambda s, w: tell(0.6 * s, w))
        tell(0.6, "Writing PDF")
        how = job.project.delivery
        path.write_bytes(
            pdf_bytes(
                pages, how.printed, job.project.name, how.drawn, lambda s, w: tell(0.6 + 0.4 * s, w)
            )
        )
        return []

    return make


def pdf_each_maker(job: Job, picked: Sequence[Leaf]) -> Maker:
    """A PDF a page, in a folder."""

    def make(path: Path, tell: Tell) -> list[str]:
        from zumbert.delivery.pdf import pdf_bytes

        _needs_sheets(picked, "PDF")
        how = job.project.delivery
        for p in composed(job, picked, tell):
            (path / f"{file_name(p)}.pdf").write_bytes(
                pdf_bytes([p], how.printed, p.title, how.drawn)
            )
        return []

    return make


def svg_maker(job: Job, picked: Sequence[Leaf]) -> Maker:
    """An SVG a page, in a folder."""

    def make(path: Path, tell: Tell) -> list[str]:
        _needs_sheets(picked, "SVG")
        for p in composed(job, picked, tell):
            write_svg(
                path / f"{file_name(p)}.svg",
                p.marks,
                *p.units,
                job.project.delivery.printed,
                p.unit,
            )
        return []

    return make


def dxf_maker(job: Job, picked: Sequence[Leaf]) -> Maker:
    """One DXF: model space, long sections beside it, pages as layouts."""

    def make(path: Path, tell: Tell) -> list[str]:
        from zumbert.delivery.dxf.write import dxf_bytes, dxf_document

        pages = composed(job, picked, lambda s, w: tell(0.3 * s, w))
        doc = dxf_document(job, pages, tell=lambda s, w: tell(0.3 + 0.6 * s, w))
        tell(0.9, "Writing DXF")
        path.write_bytes(dxf_bytes(doc))
        return []

    return make


def sections_maker(job: Job) -> Maker:
    """A DXF a long section, in a folder."""

    def make(path: Path, tell: Tell) -> list[str]:
        from zumbert.delivery.dxf.write import dxf_bytes, runs_of, section_document

        keys = runs_of(job)
        for i, key in enumerate(keys):
            made = job.run(key)
            name = re.sub(r'[<>:"/\\|?*]+', " ", made.name if made is not None else key.id)
            tell(i / len(keys), name)
            (path / f"{name}.dxf").write_bytes(dxf_bytes(section_document(job, key)))
        return []

    return make


def landxml_maker(job: Job) -> Maker:
    """Roads, surfaces and networks as LandXML 1.2; what has no place there is told."""

    def make(path: Path, tell: Tell) -> list[str]:
        tell(0.0, "Writing LandXML")
        written = landxml(job)
        path.write_text(written.text, encoding="utf-8")
        return list(written.notes)

    return make


def geojson_maker(job: Job) -> Maker:
    """Structures and pipes as GeoJSON."""

    def make(path: Path, tell: Tell) -> list[str]:
        tell(0.0, "Writing GeoJSON")
        path.write_bytes(geojson(job))
        return []

    return make


def space_maker(job: Job, write: Callable[[Job, Tell], bytes]) -> Maker:
    """Everything in space, by what writes a kind of file."""

    def make(path: Path, tell: Tell) -> list[str]:
        path.write_bytes(write(job, tell))
        return []

    return make


def schedules_maker(job: Job, names: Sequence[str] | None = None) -> Maker:
    """Schedules as one spreadsheet, and each as CSV, in a folder."""

    def make(path: Path, tell: Tell) -> list[str]:
        tables = []
        kinds = [k for k in SCHEDULE_KINDS if not names or k.name in names]
        for i, kind in enumerate(kinds):
            tell(i / len(kinds), kind.title)
            tables += schedules(job, [kind.name])
        tables += schedules(job, ["differences"])
        write_xlsx(path / "schedules.xlsx", tables)
        for table in tables:
            write_csv(path / f"{table.name.lower().replace(' ', '-')}.csv", table)
        return []

    return make


def _needs_sheets(picked: Sequence[Leaf], what: str) -> None:
    if not picked:
        raise ReadError(
            f"There are no sheets yet for the {what}: add some in the stage Deliver, or with "
            "--usual-sheets."
        )


# -- writing ---------------------------------------------------------------------------------------


def write_all(wanted: Sequence[Output], tell: Tell = quiet) -> list[str]:
    """Makes every file beside its place first, then moves all there: all of them or none. Raises
    ReadError.

    `tell(share, words)` hears how far it is and ends it by raising. Gives what there is to tell.
    """
    notes: list[str] = []
    for w in wanted:
        if w.target.exists() and w.folder != w.target.is_dir():
            kind = ("a file", "a folder") if w.folder else ("a folder", "a file")
            raise ReadError(
                f"{w.target} is {kind[0]}, and {kind[1]} is to be written: choose another name."
            )
    with _spare({w.target.parent for w in wanted}) as spares:
        made: list[tuple[Output, Path]] = []
        for i, w in enumerate(wanted):
            at = spares[w.target.parent] / f"{i}" / w.target.name
            (at if w.folder else at.parent).mkdir(parents=True)

            def part(share: float, words: str, i: int = i) -> None:
                tell((i + share) / len(wanted), words)

            try:
                notes += w.make(at, part)
            except ReadError as e:
                raise ReadError(str(e).replace(str(at), str(w.target))) from e
            made.append((w, at))
        tell(1.0, "Writing")
        for w, at in made:
            _move(w, at)
    return notes


@contextmanager
def _spare(folders: Iterable[Path]) -> Iterator[Mapping[Path, Path]]:
    """A folder beside each place that is written to; gone afterwards."""
    made: dict[Path, TemporaryDirectory[str]] = {}
    try:
        for folder in folders:
            if not folder.is_dir():
                raise ReadError(f"There is no folder {folder}: make it, or choose another one.")
            made[folder] = TemporaryDirectory(dir=folder, prefix=".zumbert-")
        yield {k: Path(v.name) for k, v in made.items()}
    except OSError as e:
        where = ", ".join(map(str, folders)) or "there"
        raise ReadError(
            f"Nothing could be written to {where}: {e.strerror or e}. Choose another folder "
            "or make room."
        ) from e
    finally:
        for v in made.values():
            v.cleanup()


def _move(w: Output, at: Path) -> None:
    """A file over the one before it; files of a folder over those of the same names."""
    if not w.folder:
        os.replace(at, w.target)
        return
    w.target.mkdir(exist_ok=True)
    for file in sorted(at.iterdir()):
        os.replace(file, w.target / file.name)
