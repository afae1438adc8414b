"""Broken files for every importer: `python -m tests.fuzz 600` runs for ten minutes; a short run is among the tests.

Valid files are cut, doubled, mixed and salted with odd numbers and words. An importer may take what is left, or refuse
it with its own error; anything else, and more than five seconds on one file, is a fault.
"""

import random
import sys
import tempfile
import time
import traceback
from collections.abc import Callable
from pathlib import Path

import ezdxf

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
from zumbert.exchange.toml import read_standard, read_trench
from zumbert.model.project import new_project
from zumbert.store import load, save

SLOW = 5.0  # s
SALT = [
    b"nan", b"inf", b"-inf", b"1e308", b"-1", b"0", b"99999999999999999999", b"1e-320", b"", b"\x00", b"\xff\xfe", b"\"", b"'",
    b"<", b">", b"&amp;", b";", b",", b"\t", b"\n", b"=", b"[", b"]", b"INF", b"cw", b"ccw", b"\xc3\xa9", b"true", b"1.5.2", b"--",
]  # fmt: skip


def seeds(folder: Path) -> dict[str, tuple[list[Path], Callable[[Path], object]]]:
    """Valid files of each kind, and what reads them."""
    xml = [folder / "a.xml", folder / "b.xml", folder / "c.xml"]
    whole = (FILES / "quillerby.xml").read_text()
    cut = whole.index("<Surfaces")
    xml[0].write_text(whole[:cut] + "</LandXML>")
    xml[1].write_text(
        '<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2"><Units><Imperial linearUnit="foot"/></Units><Alignments>'
        '<Alignment name="R" staStart="10"><CoordGeom><Line><Start>0 0</Start><End>0 100</End></Line><Spiral rot="cw" length="40" '
        'radiusStart="INF" radiusEnd="100"><Start>0 100</Start><End>-2.66 139.8</End></Spiral></CoordGeom><StaEquation '
        'staAhead="200" staBack="100"/>'
        '<Profile><ProfAlign name="D"><PVI>10 1</PVI><ParaCurve length="9">50 2</ParaCurve>'
        '<UnsymParaCurve lengthIn="4" lengthOut="5">70 2</UnsymParaCurve><CircCurve radius="90">90 3</CircCurve><PVI>99 1</PVI>'
        '</ProfAlign><ProfSurf name="E"><PntList2D>10 1 20 2 30 1</PntList2D></ProfSurf></Profile>'
        "</Alignment></Alignments></LandXML>"
    )
    xml[2].write_text(
        '<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.0"><Units><Metric linearUnit="meter"/></Units><Surfaces>'
        '<Surface name="S"><SourceData><DataPoints><PntList3D>0 0 1 0 9 1 9 9 1 9 0 1 5 5 2</PntList3D></DataPoints><Breaklines>'
        "<Breakline><PntList3D>2 1 3 2 8 3</PntList3D></Breakline>"
        "<Breakline><PntList3D>1 2 3 8 2 4</PntList3D></Breakline>"
        '</Breaklines><Contours><Contour elev="2"><PntList2D>8 1 8 8</PntList2D></Contour></Contours><Boundaries><Boundary '
        'bndType="outer"><PntList2D>1 1 1 8 8 8 8 1</PntList2D></Boundary></Boundaries></SourceData></Surface><Surface name="T">'
        '<Definition><Pnts><P id="1">0 0 1</P><P id="2">0 9 1</P><P id="4">9 9 2</P></Pnts><Faces><F>1 2 4</F></Faces></Definition>'
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
        "g.asc": "ncols 3\nnrows 3\nxllcorner 0\nyllcorner 10\ncellsize 2\nNODATA_value -9999\n7 8 9\n4 5 6\n1 2 -9999\n",
        "land.csv": "name,kind,x,y\nA,reserve,0,0\nA,,50,0\nA,,50,50\n",
        "services.csv": "label,kind,size,clearance,x,y,level\nW1,water,0.1,0.3,0,0,40\nW1,,,,9,0,\n",
    }
    for name, text in texts.items():
        (folder / name).write_text(text)
    save(road_project(), folder / "p.zumbert")
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
        "dxf": ([folder / "d.dxf"], dxf),
        "points": ([folder / "p.xyz"], lambda p: points_of(read_point_text(p))),
        "grid": ([folder / "g.asc"], read_grid),
        "land": ([folder / "land.csv"], lambda p: read_land(road, p)),
        "services": ([folder / "services.csv"], lambda p: read_services(road, p)),
        "structures": ([FILES / "structures.csv"], lambda p: read_structures(road, p)),
        "pipes": ([FILES / "pipes.csv"], lambda p: read_pipes(demo, p)),
        "standard": ([FILES / "standard.toml"], read_standard),
        "trench": ([FILES / "trench.toml"], read_trench),
        "project": ([folder / "p.zumbert"], load),
    }  # fmt: skip


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
    digits = [i for i, c in enumerate(data) if chr(c).isdigit() and (i == 0 or not chr(data[i - 1]).isdigit())]
    if not digits:
        return data
    a = chance.choice(digits)
    b = a
    while b < len(data) and chr(data[b]) in "0123456789.":
        b += 1
    return data[:a] + chance.choice(SALT) + data[b:]


def run(seconds: float, seed: int, most: int | None = None) -> tuple[int, list[str]]:
    """Files tried, and the faults that were found; it ends after so many seconds, or so many files."""
    chance, faults, tried = random.Random(seed), [], 0
    end = time.monotonic() + seconds
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        kinds = seeds(folder)
        data = {k: [p.read_bytes() for p in paths] for k, (paths, _) in kinds.items()}
        while time.monotonic() < end and (most is None or tried < most):
            kind = chance.choice(list(kinds))
            file = broken(chance.choice(data[kind]), chance.choice(data[chance.choice(list(data))]), chance)
            path = folder / f"try{kinds[kind][0][0].suffix}"
            path.write_bytes(file)
            begun = time.monotonic()
            try:
                kinds[kind][1](path)
            except ZumbertError:
                pass
            except Exception:
                faults.append(f"{kind}: {traceback.format_exc(limit=-4)}\n{file[-400:]!r}")
            if time.monotonic() - begun > SLOW:
                faults.append(f"{kind}: more than {SLOW} s\n{file[-400:]!r}")
            tried += 1
    return tried, faults


if __name__ == "__main__":
    number, found = run(float(sys.argv[1]) if len(sys.argv) > 1 else 600.0, int(time.time()))
    print(f"{number} files, {len(found)} faults")
    for fault in found[:20]:
        print(fault)
    sys.exit(1 if found else 0)
