"""Broken files for every importer: `python -m tests.fuzz 600` runs for ten minutes; a short run is
among the tests.

Valid files are cut, doubled, mixed and salted with odd numbers and words. An importer may take what
is left, or refuse it with its own error; anything else, and more than five seconds or a gigabyte on
one file, is a fault. They are read in a process of their own.
"""

import io
import logging
import logging.handlers
import multiprocessing
import random
import re
import sys
import tempfile
import time
import traceback
import warnings
import zipfile
from collections.abc import Callable
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np

from tests.build import road_project
from zumbert.demo.make import FILES
from zumbert.demo.project import demo_project
from zumbert.edits.setup import add_road, add_surface
from zumbert.errors import ZumbertError
from zumbert.exchange.asciigrid import read_grid
from zumbert.exchange.dxf import read_dxf, surface_of
from zumbert.exchange.land_csv import read_land, read_services
from zumbert.exchange.landxml import read_landxml
from zumbert.exchange.network_csv import read_pipes, read_structures
from zumbert.exchange.points import points_of, read_point_text
from zumbert.exchange.toml import read_standard
from zumbert.exchange.trenchtoml import read_trench
from zumbert.log import logger
from zumbert.model.project import new_project
from zumbert.store import load, save

SLOW = 5.0  # s
LARGE = 1024  # MB
SALT = [
    b"nan", b"inf", b"-inf", b"1e308", b"-1", b"0", b"99999999999999999999", b"1e-320", b"",
    b"\x00", b"\xff\xfe", b"\"", b"'",
    b"<", b">", b"&amp;", b";", b",", b"\t", b"\n", b"=", b"[", b"]", b"INF", b"cw", b"ccw",
    b"\xc3\xa9", b"true", b"1.5.2", b"--",
]  # fmt: skip


def seeds(folder: Path) -> dict[str, tuple[list[Path], Callable[[Path], object]]]:
    """Valid files of each kind, and what reads them."""
    xml = [folder / "a.xml", folder / "b.xml", folder / "c.xml"]
    whole = (FILES / "quillerby.xml").read_text()
    cut = whole.index("<Surfaces")
    xml[0].write_text(whole[:cut] + "</LandXML>")
    xml[1].write_text(
        '<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2"><Units><Imperial '
        'linearUnit="foot"/></Units><Alignments>'
        '<Alignment name="R" staStart="10"><CoordGeom><Line><Start>0 0</Start><End>0 '
        '100</End></Line><Spiral rot="cw" length="40" '
        'radiusStart="INF" radiusEnd="100"><Start>0 100</Start><End>-2.66 '
        "139.8</End></Spiral></CoordGeom><StaEquation "
        'staAhead="200" staBack="100"/>'
        '<Profile><ProfAlign name="D"><PVI>10 1</PVI><ParaCurve length="9">50 2</ParaCurve>'
        '<UnsymParaCurve lengthIn="4" lengthOut="5">70 2</UnsymParaCurve><CircCurve '
        'radius="90">90 3</CircCurve><PVI>99 1</PVI>'
        '</ProfAlign><ProfSurf name="E"><PntList2D>10 1 20 2 30 1</PntList2D></ProfSurf></Profile>'
        "</Alignment></Alignments></LandXML>"
    )
    xml[2].write_text(
        '<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.0"><Units><Metric '
        'linearUnit="meter"/></Units><Surfaces>'
        '<Surface name="S"><SourceData><DataPoints><PntList3D>0 0 1 0 9 1 9 9 1 9 0 1 5 5 '
        "2</PntList3D></DataPoints><Breaklines>"
        "<Breakline><PntList3D>2 1 3 2 8 3</PntList3D></Breakline>"
        "<Breakline><PntList3D>1 2 3 8 2 4</PntList3D></Breakline>"
        '</Breaklines><Contours><Contour elev="2"><PntList2D>8 1 8 '
        "8</PntList2D></Contour></Contours><Boundaries><Boundary "
        'bndType="outer"><PntList2D>1 1 1 8 8 8 8 '
        '1</PntList2D></Boundary></Boundaries></SourceData></Surface><Surface name="T">'
        '<Definition><Pnts><P id="1">0 0 1</P><P id="2">0 9 1</P><P id="4">9 9 '
        "2</P></Pnts><Faces><F>1 2 4</F></Faces></Definition>"
        "</Surface></Surfaces></LandXML>"
    )
    doc = ezdxf.new("R2000")
    space = doc.modelspace()
    space.add_line((0, 0), (9, 9))
    space.add_lwpolyline([(0, 0, 1.0), (5, 5, 0), (9, 0, 0)], format="xyb", close=True)
    space.add_polyline3d([(0, 0, 1), (9, 9, 2)])
    space.add_3dface([(0, 0, 1), (9, 0, 1), (9, 9, 2)])
    space.add_arc((3, 3), 2, 10, 200)
    space.add_spline([(0, 0), (3, 3), (9, 1)])
    doc.saveas(folder / "d.dxf")
    texts = {
        "p.xyz": "1,100.0,200.0,10.5,EG\n2,110,200,11,EG\n3,110,220,12,X\n",
        "g.asc": (
            "ncols 3\nnrows 3\nxllcorner 0\nyllcorner 10\ncellsize 2\nNODATA_value -9999\n7 8 "
            "9\n4 5 6\n1 2 -9999\n"
        ),
        "land.csv": "name,kind,x,y\nA,reserve,0,0\nA,,50,0\nA,,50,50\n",
        "services.csv": (
            "label,kind,size,clearance,x,y,level\nW1,water,0.1,0.3,0,0,40\nW1,,,,9,0,\n"
        ),
    }
    for name, text in texts.items():
        (folder / name).write_text(text)
    save(road_project(), folder / "p.zumbert")
    drawings, project = hostile(folder)
    demo, road = demo_project(), road_project()

    def landxml(path: Path) -> None:
        project = new_project("x")
        found = read_landxml(path)
        for r in found.roads:
            project = add_road(project, r.name, r.elements, r.start, r.profiles)
        for s in found.surfaces:
            project = add_surface(project, s.name, "none", s.vertices, s.faces)

    def dxf(path: Path) -> None:
        found = read_dxf(path)
        if len(found.faces) or found.deep_lines:
            try:
                surface_of(found)
            except ValueError:
                return

    return {
        "landxml": (xml, landxml),
        "dxf": ([folder / "d.dxf", *drawings], dxf),
        "points": ([folder / "p.xyz"], lambda p: points_of(read_point_text(p))),
        "grid": ([folder / "g.asc"], read_grid),
        "land": ([folder / "land.csv"], lambda p: read_land(road, p)),
        "services": ([folder / "services.csv"], lambda p: read_services(road, p)),
        "structures": ([FILES / "structures.csv"], lambda p: read_structures(road, p)),
        "pipes": ([FILES / "pipes.csv"], lambda p: read_pipes(demo, p)),
        "standard": ([FILES / "standard.toml"], read_standard),
        "trench": ([FILES / "trench.toml"], read_trench),
        "project": ([folder / "p.zumbert", project], load),
    }


def broken(data: bytes, other: bytes, chance: random.Random) -> bytes:
    """A file after one to four changes."""
    for _ in range(chance.randint(1, 4)):
        a = chance.randrange(len(data) + 1)
        b = min(len(data), a + chance.choice([1, 2, 5, 20, 200]))
        how = chance.randrange(7)
        if how == 0:
            data = data[:a] + data[b:]
        elif how == 1:
            data = data[:b] + data[a:b] * chance.choice([1, 2, 50]) + data[b:]
        elif how == 2:
            data = data[:a] + chance.choice(SALT) + data[a:]
        elif how == 3:
            data = data[:a] + bytes([chance.randrange(256)]) + data[a + 1 :]
        elif how == 4:
            data = data[:a]
        elif how == 5:
            c = chance.randrange(len(other) + 1)
            data = data[:a] + other[c : c + 100] + data[b:]
        else:
            data = _number(data, chance)
    return data[:1_000_000]


def _number(data: bytes, chance: random.Random) -> bytes:
    """One number in place of another."""
    digits = [
        i
        for i, c in enumerate(data)
        if chr(c).isdigit() and (i == 0 or not chr(data[i - 1]).isdigit())
    ]
    if not digits:
        return data
    a = chance.choice(digits)
    b = a
    while b < len(data) and chr(data[b]) in "0123456789.":
        b += 1
    return data[:a] + chance.choice(SALT) + data[b:]


class Reader:
    """A process that reads files one after another, so that one that hangs or takes all memory
    ends it alone.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._start()

    def _start(self) -> None:
        context = multiprocessing.get_context("spawn")
        self._link, other = context.Pipe()
        self._process = context.Process(target=_serve, args=(other, str(self.folder)), daemon=True)
        self._process.start()
        self._link.recv()  # it is ready

    def read(self, kind: str, path: Path) -> str:
        """What went wrong with a file; empty where it was taken or refused in a sentence."""
        self._link.send((kind, str(path)))
        if not self._link.poll(SLOW):
            self.end()
            self._start()
            return f"more than {SLOW} s"
        try:
            fault, memory = self._link.recv()
        except EOFError:
            self._start()
            return "the process ended"
        return fault or (f"{memory} MB" if memory > LARGE else "")

    def end(self) -> None:
        """The process goes."""
        self._process.kill()
        self._process.join()


def _serve(link: Connection, folder: str) -> None:
    warnings.simplefilter("ignore")
    kinds = seeds(Path(folder))
    # a reader turns what it did not foresee into a sentence, and logs it
    stumbled = logging.handlers.BufferingHandler(1000)
    logger.addHandler(stumbled)
    link.send(None)
    while True:
        kind, path = link.recv()
        fault = ""
        try:
            kinds[kind][1](Path(path))
        except ZumbertError:
            fault = "\n".join(logging.Formatter().format(r) for r in stumbled.buffer)
        except Exception:
            fault = traceback.format_exc(limit=-4)
        stumbled.buffer.clear()
        peak = re.search(r"VmHWM:\s+(\d+)", Path("/proc/self/status").read_text())
        link.send((fault, int(peak.group(1)) // 1024 if peak else 0))


def run(seconds: float, seed: int, most: int | None = None) -> tuple[int, list[str]]:
    """Files tried, and the faults that were found; it ends after so many seconds, or so many
    files.
    """
    chance, faults, tried = random.Random(seed), [], 0
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        kinds = seeds(folder)
        data = {k: [p.read_bytes() for p in paths] for k, (paths, _) in kinds.items()}
        reader = Reader(folder)
        # as they are, the hostile ones too
        whole = [(kind, file) for kind, files in data.items() for file in files]
        end = time.monotonic() + seconds
        while time.monotonic() < end and (most is None or tried < most):
            if tried < len(whole):
                kind, file = whole[tried]
            else:
                kind = chance.choice(list(kinds))
                file = broken(
                    chance.choice(data[kind]),
                    chance.choice(data[chance.choice(list(data))]),
                    chance,
                )
            path = folder / f"try{kinds[kind][0][0].suffix}"
            path.write_bytes(file)
            fault = reader.read(kind, path)
            if fault:
                faults.append(f"{kind}: {fault}\n{file[-400:]!r}")
            tried += 1
        reader.end()
    return tried, faults


def hostile(folder: Path) -> tuple[list[Path], Path]:
    """Drawings that grow without end, and a project with arrays that unpack to a gigabyte and
    more.
    """
    drawings = []
    for name, make in (("arrays", _arrays), ("nest", _nest), ("giants", _giants)):
        doc = ezdxf.new("R2000")
        make(doc, doc.modelspace())
        doc.modelspace().add_line((0, 0), (9, 9))
        drawings.append(folder / f"{name}.dxf")
        doc.saveas(drawings[-1])
    with (
        zipfile.ZipFile(folder / "p.zumbert") as a,
        zipfile.ZipFile(folder / "q.zumbert", "w", zipfile.ZIP_DEFLATED) as b,
    ):
        for i in a.infolist():
            b.writestr(i.filename, _bomb() if i.filename.startswith("surfaces/") else a.read(i))
    return drawings, folder / "q.zumbert"


def _arrays(doc: Any, space: Any) -> None:
    doc.blocks.new("B").add_line((0, 0), (1, 1))
    space.add_blockref("B", (0, 0), dxfattribs={"row_count": 30_000, "column_count": 30_000})


def _nest(doc: Any, space: Any) -> None:
    doc.blocks.new("N0").add_line((0, 0), (1, 1))
    for i in range(1, 30):
        block = doc.blocks.new(f"N{i}")
        for j in range(10):
            block.add_blockref(f"N{i - 1}", (j, 0))
    space.add_blockref("N29", (0, 0))


def _giants(doc: Any, space: Any) -> None:
    space.add_arc((0, -1e15), 1e15, 0, 180)
    space.add_circle((0, 0), 1e12)


def _bomb() -> bytes:
    """An array file of a head that tells of 10^12 rows, and one of plain zeros."""
    out, head = io.BytesIO(), io.BytesIO()
    np.lib.format.write_array_header_1_0(
        head, {"descr": "<f8", "fortran_order": False, "shape": (10**12, 3)}
    )
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as z:
        z.writestr("vertices.npy", head.getvalue() + bytes(4_000_000))
        z.writestr("faces.npy", head.getvalue())
    return out.getvalue()


if __name__ == "__main__":
    number, found = run(float(sys.argv[1]) if len(sys.argv) > 1 else 600.0, int(time.time()))
    print(f"{number} files, {len(found)} faults")
    for fault in found[:20]:
        print(fault)
    sys.exit(1 if found else 0)
