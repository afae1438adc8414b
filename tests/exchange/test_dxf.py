import ezdxf
import numpy as np
import pytest
from pytest import approx

from tests.build import drawn, facts_of, road_project
from zumbert.cli import main
from zumbert.demo.make import FILES
from zumbert.drawing.groundplan import base
from zumbert.drawing.marks import Segments
from zumbert.drawing.sight import MapSight
from zumbert.edits.setup import add_background
from zumbert.errors import ReadError
from zumbert.exchange.dxf import read_dxf
from zumbert.store import load, save


@pytest.fixture
def drawing(tmp_path):
    def write(units=6, scale=1.0, name="survey.dxf"):
        doc = ezdxf.new()
        doc.header["$INSUNITS"] = units
        doc.layers.add("FENCE")
        doc.layers.add("OLD").off()
        msp = doc.modelspace()
        msp.add_line(
            (1400 * scale, 900 * scale), (1500 * scale, 900 * scale), dxfattribs={"layer": "FENCE"}
        )
        msp.add_lwpolyline(
            [(1400 * scale, 910 * scale), (1450 * scale, 910 * scale), (1450 * scale, 920 * scale)]
        )
        msp.add_lwpolyline(
            [(1460 * scale, 880 * scale, 1.0), (1470 * scale, 880 * scale, 0)], format="xyb"
        )
        msp.add_circle((1430 * scale, 880 * scale), 5 * scale, dxfattribs={"layer": "OLD"})
        msp.add_text("House")
        block = doc.blocks.new("TREE")
        block.add_line((0, 0), (0, 2 * scale))
        msp.add_blockref("TREE", (1410 * scale, 905 * scale), dxfattribs={"layer": "FENCE"})
        doc.saveas(tmp_path / name)
        return tmp_path / name

    return write


def test_lines_curves_and_blocks_by_layer(drawing):
    found = read_dxf(drawing())
    assert set(found.layers) == {"FENCE", "0", "OLD"}
    assert found.off == {"OLD"}
    fence = found.segments[found.layer == found.layers.index("FENCE")]
    assert [1400.0, 900.0, 1500.0, 900.0] in fence.tolist()
    ring = found.segments[found.layer == found.layers.index("OLD")]
    far = np.hypot(ring[:, 0] - 1430, ring[:, 1] - 880)
    assert np.abs(far - 5).max() < 1e-6
    middle = np.hypot((ring[:, 0] + ring[:, 2]) / 2 - 1430, (ring[:, 1] + ring[:, 3]) / 2 - 880)
    assert middle.min() > 5 - 0.0101  # no chord is off by more than a centimetre
    half = [s for s in found.segments.tolist() if 1459 < s[0] < 1471 and s[1] < 880.1]
    assert max(abs(np.hypot(s[0] - 1465, s[1] - 880) - 5) for s in half) < 1e-6  # a bulge is an arc
    assert len(half) > 10
    assert any((s == approx([1410, 905, 1410, 907])) for s in found.segments.tolist())
    assert "1 text." in found.notes


@pytest.mark.parametrize(
    ("units", "scale", "asked", "unit", "how"),
    [
        (6, 1.0, None, "m", "from its header"),
        (4, 1000.0, None, "mm", "from its header"),
        (0, 1000.0, None, "mm", "guessed"),
        (0, 1.0, None, "m", "guessed"),
        (6, 1 / 0.3048, "ft", "ft", "as asked for"),
    ],
)
def test_units_are_told_and_become_metres(drawing, units, scale, asked, unit, how):
    found = read_dxf(drawing(units, scale), asked)
    assert found.unit == unit
    assert how in found.notes[0]
    assert found.segments[0].tolist() == approx([1400.0, 900.0, 1500.0, 900.0])


def test_what_is_no_drawing_is_refused(tmp_path, drawing):
    (tmp_path / "a.dxf").write_text("nonsense")
    ezdxf.new().saveas(tmp_path / "empty.dxf")
    for path, words in (
        ("a.dxf", "is no DXF|could not be read"),
        ("empty.dxf", "holds no lines"),
        ("no.dxf", "could not be read"),
    ):
        with pytest.raises(ReadError, match=words):
            read_dxf(tmp_path / path)
    with pytest.raises(ReadError, match="m, mm, ft, US survey ft"):
        read_dxf(drawing(), "furlong")


def test_it_lies_under_the_plan_and_comes_back_from_the_file(tmp_path):
    segments = np.array([[0.0, 0.0, 100.0, 0.0], [0.0, 5.0, 100.0, 5.0]])
    p = add_background(
        road_project(),
        drawn("survey", ("A", "B"), segments, [0, 1], off=frozenset({"B"}), metres=0.001),
    )
    save(p, tmp_path / "p.zumbert")
    [b] = load(tmp_path / "p.zumbert").backgrounds.values()
    assert (b.name, b.layers, b.off, b.metres) == ("survey", ("A", "B"), {"B"}, 0.001)
    np.testing.assert_array_equal(b.segments, segments)
    sight = MapSight(width=600, height=300, x=50, y=0, scale=4)
    [marks] = [
        m for m in base(facts_of(p), sight) if isinstance(m, Segments) and m.role == "background"
    ]
    assert marks.xy.tolist() == [approx([100, 150, 500, 150])]  # the layer that is off is not drawn


def test_import_takes_it_and_tells_where_it_does_not_meet(tmp_path, drawing, capsys):
    out = str(tmp_path / "q.zumbert")
    arguments = [
        "import",
        out,
        "--landxml",
        str(FILES / "quillerby.xml"),
        "--ground",
        "Existing ground",
    ]
    assert main([*arguments, "--dxf", str(drawing())]) == 0
    assert "does not meet" not in capsys.readouterr().err
    assert len(load(out).backgrounds) == 1
    assert main([*arguments, "--dxf", str(drawing(0, 3.0, "far.dxf"))]) == 0
    assert 'The drawing "far" does not meet the roads' in capsys.readouterr().err
