"""Drawings that are hostile, or only odd: each is read, or refused in a sentence, within five
seconds and a gigabyte.
"""

import subprocess
import sys
import time
from pathlib import Path

import ezdxf
import numpy as np
import pytest
from pytest import approx

from tests.build import facts_of
from zumbert.drawing.groundplan import base
from zumbert.drawing.marks import Text, texts_in
from zumbert.drawing.sight import MapSight
from zumbert.errors import ReadError
from zumbert.exchange.dxf import read_dxf
from zumbert.exchange.found import read_files, sorted_out
from zumbert.exchange.importing import built
from zumbert.exchange.taking.choices import Choices
from zumbert.model.project import new_project
from zumbert.store import load, save


def saved(path, make, version="R2010"):
    doc = ezdxf.new(version)
    doc.header["$INSUNITS"] = 6
    make(doc, doc.modelspace())
    doc.saveas(path)
    return path


def arrays(doc, space):
    block = doc.blocks.new("B")
    block.add_line((0, 0), (1, 1))
    space.add_blockref(
        "B",
        (0, 0),
        dxfattribs={
            "row_count": 30_000,
            "column_count": 30_000,
            "row_spacing": 2,
            "column_spacing": 2,
        },
    )
    space.add_line((0, 0), (10, 10))


def nested(doc, space):
    last = doc.blocks.new("N0")
    last.add_line((0, 0), (1, 1))
    for i in range(1, 30):
        block = doc.blocks.new(f"N{i}")
        for j in range(10):
            block.add_blockref(f"N{i - 1}", (j, 0))
    space.add_blockref("N29", (0, 0))
    space.add_line((0, 0), (10, 10))


def giants(doc, space):
    space.add_arc((0, -1e15), 1e15, 0, 180)
    space.add_circle((0, 0), 1e12)
    space.add_lwpolyline([(0, 0, 1e-14), (1e15, 1, 0)], format="xyb")
    space.add_line((0, 0), (1e300, 5))
    space.add_line((0, 0), (10, 10))


def itself(doc, space):
    block = doc.blocks.new("ME")
    block.add_line((0, 0), (1, 1))
    block.add_blockref("ME", (1, 0))
    space.add_blockref("ME", (0, 0))
    space.add_line((0, 0), (10, 10))


CHILD = """
import re, sys, time
from zumbert.exchange.dxf import read_dxf
begun = time.perf_counter()
found = read_dxf(sys.argv[1])
print(len(found.segments), "|".join(found.notes), time.perf_counter() - begun)
print(int(re.search(r"VmHWM:\\s+(\\d+)", open("/proc/self/status").read()).group(1)) / 1024)
"""


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (arrays, "1 block of too many things"),
        (nested, "1 block of too many things"),
        (giants, "CIRCLE"),
        (itself, "block of too many"),
    ],
)
def test_what_grows_without_end_is_left_out_at_once(tmp_path, make, words):
    path = saved(tmp_path / "d.dxf", make)
    run = subprocess.run(
        [sys.executable, "-c", CHILD, str(path)],
        capture_output=True,
        text=True,
        timeout=60,
        check=True,
    )
    told, rss = run.stdout.strip().splitlines()
    assert told.startswith("1 ") or make is giants
    assert words in told and float(told.split()[-1]) < 5.0 and float(rss) < 1024


def test_a_layer_of_stray_bytes_is_imported_and_saved(tmp_path):
    path = saved(
        tmp_path / "d.dxf",
        lambda doc, space: space.add_line((0, 0), (10, 10), dxfattribs={"layer": "WALLX"}),
        "R2000",
    )
    path.write_bytes(path.read_bytes().replace(b"WALLX", b"W\xff\xfeLL"))
    found = read_files(sorted_out([path]))
    project = built(new_project("x"), found, Choices(roles={})).project
    save(project, tmp_path / "p.zumbert")
    [b] = load(tmp_path / "p.zumbert").backgrounds.values()
    assert b.layers == project.backgrounds[b.id].layers and b.layers[0].startswith("W")


def test_things_on_layer_0_of_a_block_take_its_layer_and_an_undefined_block_leaves_itself_out(
    tmp_path,
):
    def make(doc, space):
        block = doc.blocks.new("TREE")
        block.add_line((0, 0), (0, 2))
        block.add_line((0, 0), (2, 0), dxfattribs={"layer": "LEAF"})
        space.add_blockref("TREE", (10, 0), dxfattribs={"layer": "GREEN"})
        space.add_blockref("NOWHERE", (20, 0))
        space.add_line((0, 0), (10, 10))

    found = read_dxf(saved(tmp_path / "d.dxf", make))
    of = {
        found.layers[i]: s
        for i, s in zip(found.layer.tolist(), found.segments.tolist(), strict=True)
    }
    assert (
        of["GREEN"] == approx([10, 0, 10, 2])
        and of["LEAF"] == approx([10, 0, 12, 0])
        and len(found.segments) == 3
    )
    assert any("1 block that is not defined" in n for n in found.notes)


@pytest.mark.parametrize(
    ("code", "unit", "metres"),
    [(1, "in", 0.0254), (5, "cm", 0.01), (21, "US survey ft", 1200 / 3937), (2, "ft", 0.3048)],
)
def test_the_unit_of_the_header_is_never_guessed(tmp_path, code, unit, metres):
    doc = ezdxf.new()
    doc.header["$INSUNITS"] = code
    doc.modelspace().add_line((0, 0), (1000, 0))
    doc.saveas(tmp_path / "d.dxf")
    found = read_dxf(tmp_path / "d.dxf")
    assert found.unit == unit and found.segments[0, 2] == approx(1000 * metres)
    assert any("from its header" in n for n in found.notes)


def test_texts_are_drawn_and_closed_lines_take_the_name_that_stands_in_them(tmp_path):
    def make(doc, space):
        space.add_lwpolyline(
            [(0, 0), (40, 0), (40, 30), (0, 30)], close=True, dxfattribs={"layer": "LOTS"}
        )
        space.add_lwpolyline(
            [(50, 0), (90, 0), (90, 30), (50, 30)], close=True, dxfattribs={"layer": "LOTS"}
        )
        space.add_text("Lot 12", height=2.0, dxfattribs={"insert": (10, 10), "layer": "NUMBERS"})
        space.add_text("gate", height=0.5, dxfattribs={"insert": (12, 2), "layer": "NUMBERS"})
        space.add_mtext(
            "Lot 13\\Psold",
            dxfattribs={"insert": (60, 10), "char_height": 2.0, "rotation": 90, "layer": "NUMBERS"},
        )

    path = saved(tmp_path / "lots.dxf", make)
    found = read_files(sorted_out([path]))
    project = built(
        new_project("x"), found, Choices(roles={}, layers={(path, "LOTS"): "land property"})
    ).project
    assert [a.name for a in project.land.values()] == ["Lot 12", "Lot 13"]
    save(project, tmp_path / "p.zumbert")
    project = load(tmp_path / "p.zumbert")
    sight = MapSight(width=900, height=500, x=45, y=15, scale=6)
    texts = {t.text: t for t in texts_in(base(facts_of(project), sight)) if t.role == "drawn"}
    # letters of half a metre are too small to be read here
    assert set(texts) == {"Lot 12", "Lot 13"}
    assert texts["Lot 12"].angle == approx(0) and texts["Lot 13"].angle == approx(-90)
    assert isinstance(texts["Lot 12"], Text) and texts["Lot 12"].x == approx(450 + (10 - 45) * 6)


def test_a_text_of_ten_megabytes_is_no_fault(tmp_path):
    points = " ".join(f"{i % 1000} {i // 1000} 5.{i % 10}" for i in range(900_000))
    assert len(points) > 10_000_000
    text = f"""<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2"><Units>\
<Metric linearUnit="meter"/></Units>
    <Surfaces><Surface name="S"><SourceData><DataPoints><PntList3D>{points}</PntList3D>\
</DataPoints></SourceData></Surface>
    </Surfaces></LandXML>"""
    from zumbert.exchange.landxml import _root

    (tmp_path / "s.xml").write_text(text)
    begun = time.perf_counter()
    assert len(_root(Path(tmp_path / "s.xml")).findtext(".//{*}PntList3D")) == len(points)
    assert time.perf_counter() - begun < 5


def test_what_is_no_dxf_is_refused_in_a_sentence(tmp_path):
    (tmp_path / "d.dxf").write_bytes(np.random.default_rng(1).bytes(5000))
    with pytest.raises(ReadError, match="no DXF"):
        read_dxf(tmp_path / "d.dxf")
