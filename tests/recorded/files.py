"""What is recorded of reading: files of the demo, the same with other numbers, without a part,
and broken.
"""

import random
import re
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory

import ezdxf
from msgspec.structs import replace

from tests.build import road_project
from tests.fuzz import broken, seeds
from tests.recorded.plain import gist, plain
from zumbert.demo.make import FILES
from zumbert.demo.project import demo_project
from zumbert.demo.project import read as import_demo
from zumbert.errors import ZumbertError
from zumbert.exchange.area_csv import read_areas
from zumbert.exchange.asciigrid import read_grid
from zumbert.exchange.dxf import read_dxf
from zumbert.exchange.importing import import_files
from zumbert.exchange.land_csv import read_land, read_services
from zumbert.exchange.landxml import read_landxml
from zumbert.exchange.network_csv import read_pipes, read_structures
from zumbert.exchange.points import points_of, read_point_text
from zumbert.exchange.raintoml import pasted_table, read_rain
from zumbert.exchange.toml import read_standard
from zumbert.exchange.trenchtoml import read_trench

BROKEN, ALTERED = 12, 40  # files of each kind
NUMBER = re.compile(rb"-?\d+\.?\d*")
PASTED = (
    "\t2\t30\n5\t90\t180\n10\t70\t140\n",
    "years\t5\t10\n2\t90\t70\n30\t180\t140\n",
    "2 30\n5 90 180\n",
    "1\t2",
    "a\tb\n1\tx",
)


def altered(data, chance):
    """A file with some of its numbers in other places, and at times without a line."""
    found = list(NUMBER.finditer(data))
    for _ in range(chance.randint(1, 3)):
        a, b = chance.choice(found), chance.choice(found)
        data = data[: a.start()] + b.group() + data[a.end() :] if a.end() <= len(data) else data
    lines = data.splitlines(keepends=True)
    if chance.random() < 0.3 and len(lines) > 2:
        del lines[chance.randrange(1, len(lines))]
    return b"".join(lines)


def readers():
    """What reads each kind of file."""
    made = import_demo().project
    bare, road = replace(made, pipes={}), road_project()
    nothing, dry = replace(made, structures={}, pipes={}), replace(demo_project(), areas={})
    return {
        "landxml": read_landxml,
        "grid": read_grid,
        "standard": read_standard,
        "trench": read_trench,
        "points": lambda p: points_of(read_point_text(p)),
        "land": partial(read_land, road),
        "services": partial(read_services, road),
        "structures": partial(read_structures, nothing),
        "pipes": partial(read_pipes, bare),
        "areas": partial(read_areas, dry),
        "rain": read_rain,
    }


def files():
    """What files give."""
    out = {}
    with TemporaryDirectory() as name:
        whole = {kind: paths for kind, (paths, _) in seeds(Path(name)).items()}
        whole |= {"areas": [FILES / "areas.csv"], "rain": [FILES / "rain.toml"]}
        for kind, read in readers().items():
            chance, known = random.Random(kind), [p.read_bytes() for p in whole[kind]]
            others = [altered(chance.choice(known), chance) for _ in range(ALTERED)]
            others += [
                broken(chance.choice(known), chance.choice(known), chance) for _ in range(BROKEN)
            ]
            out[kind] = [
                told(read, Path(name) / f"try{whole[kind][0].suffix}", data, name)
                for data in (*known, *others)
            ]
        drawing = Path(name) / "drawing.dxf"
        many_entities().saveas(drawing)
        out["drawing"] = plain(
            [read_dxf(drawing), read_dxf(drawing, "mm"), read_dxf(FILES / "site.dxf")]
        )
        out["imported"] = told(imported, drawing, drawing.read_bytes(), name)
    made = import_demo()
    pasted = [told(pasted_table, text, None, "") for text in PASTED]
    return {"notes": list(made.notes), "project": plain(made.project), "pasted": pasted, **out}


def imported(path):
    """A project of a drawing, without where that lies."""
    project = import_files("drawn", dxf=[path]).project
    return replace(
        project, backgrounds={k: replace(b, source=None) for k, b in project.backgrounds.items()}
    )


def told(read, path, data, folder):
    """What a file gives, or why it is refused."""
    if data is not None:
        path.write_bytes(data)
    try:
        return gist(read(path))
    except ZumbertError as e:
        return str(e).replace(folder, "")


def many_entities():
    """A drawing in feet with an entity of each kind, in blocks that are turned and scaled too."""
    doc = ezdxf.new("R2010")
    doc.header["$INSUNITS"] = 2
    space = doc.modelspace()
    block = doc.blocks.new("SIGN")
    block.add_line((0, 0), (1, 2))
    block.add_circle((1, 1), 0.5)
    block.add_text("S", height=0.3).set_placement((0.2, 0.1))
    for to, turn in ((space, 0.0), (block, 20.0)):
        to.add_line((0, 0, 1), (9, 9, 2), {"layer": "lines"})
        to.add_lwpolyline(
            [(0, 0, 1.0), (5, 5, 0), (9, 0, 0)],
            format="xyb",
            close=True,
            dxfattribs={"layer": "plines"},
        )
        to.add_polyline3d([(0, 0, 1), (9, 9, 2), (12, 3, 4)], dxfattribs={"layer": "breaks"})
        to.add_3dface([(0, 0, 1), (9, 0, 1), (9, 9, 2), (0, 9, 3)], dxfattribs={"layer": "faces"})
        to.add_arc((3, 3), 2, 10 + turn, 200, {"layer": "arcs"})
        to.add_ellipse((4, 1), (3, 1), 0.4, 0.2, 5.0)
        to.add_spline([(0, 0), (3, 3), (9, 1)])
        to.add_point((2, 7, 5), {"layer": "points"})
        to.add_mtext("two\\Plines", {"insert": (5, 5), "char_height": 0.4})
        to.add_text("a word", height=0.5, rotation=turn).set_placement((1, 6))
    space.add_blockref("SIGN", (20, 5), {"rotation": 30, "xscale": 2, "yscale": 1.5})
    space.add_blockref(
        "SIGN", (40, 5), {"row_count": 2, "column_count": 3, "row_spacing": 4, "column_spacing": 5}
    )
    return doc
