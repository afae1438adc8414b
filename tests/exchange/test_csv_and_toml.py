"""Networks from CSV and standards from TOML: read, and refused with the place of a fault."""

import pytest
from pytest import approx

from tests.build import facts_of
from tests.exchange.test_reading import GROUND, ROAD, landxml
from zumbert.errors import ReadError
from zumbert.exchange.importing import import_files
from zumbert.exchange.toml import read_standard
from zumbert.model.pipe import Bore
from zumbert.model.structure import FixedRim, Free, OnSurface

STRUCTURES = """label,type,alignment,chainage,offset,x,y,rim,service,status,network
A,manhole-1200,R,110,-2.5,,,,storm,proposed,
B,manhole-1050,,,,30,20,11.5,,existing,Old
"""


PIPES = """label,from,to,size,diameter_mm,wall_mm,invert_up,invert_down
P1,A,B,DN 300,,,0.5,0.2
P2,B,A,,310,40,0.5,0.2
"""


def test_a_network_from_csv(files):
    f = files(a_xml=landxml(ROAD, GROUND), s_csv=STRUCTURES, p_csv=PIPES)
    project = import_files(
        "x", landxml=[f["a_xml"]], structures=[f["s_csv"]], pipes=[f["p_csv"]]
    ).project
    a, b = project.structures.values()
    assert (a.place.chainage, a.place.offset, a.rim) == (110.0, -2.5, OnSurface())
    assert (b.place, b.rim, b.status) == (Free(30.0, 20.0), FixedRim(11.5), "existing")
    assert [n.name for n in project.networks.values()] == ["Storm", "Old"]
    p1, p2 = project.pipes.values()
    assert (p1.size, p2.size) == ("300", Bore(0.31, 0.04))
    assert p2.status == "existing"  # from its upstream structure
    assert facts_of(project).places[a.id].rim is not None


@pytest.mark.parametrize(
    "encode",
    [
        lambda t: b"\xef\xbb\xbf" + t.encode(),
        lambda t: (
            t.replace("2.5", "2,5").replace(",", ";").replace("-2;5", "-2,5").encode("cp1252")
        ),
        lambda t: t.replace(",", "\t").encode("utf-16"),
        lambda t: t.replace("\n", "\r\n").replace("label", " Label ").encode(),
    ],
    ids=["bom", "semicolon and decimal comma", "tabs in utf-16", "crlf and spaces"],
)
def test_csv_as_spreadsheets_write_it(files, encode):
    f = files(a_xml=landxml(ROAD, GROUND), s_csv=encode(STRUCTURES))
    a, _ = import_files(
        "x", landxml=[f["a_xml"]], structures=[f["s_csv"]]
    ).project.structures.values()
    assert a.place.offset == -2.5


@pytest.mark.parametrize(
    ("old", "new", "words"),
    [
        ("A,manhole-1200", "A,", "row 2: type is missing"),
        (
            "A,manhole-1200",
            "A,manhole-1250",
            'row 2: there is no structure type "manhole-1250": did you mean',
        ),
        ("R,110,", "R,900,", 'row 2: chainage 0\\+900.00 is outside the road "R"'),
        ("R,110,", "Q,110,", 'row 2: there is no road "Q"'),
        (",,,30,20,", ",,,,,", "row 3: there is no place"),
        (",,,30,20,", ",,,30,,", "row 3: y is missing"),
        ("11.5", "high", 'row 3: rim is "high", which is no number'),
        ("B,manhole", "A,manhole", 'row 3: there is already a structure "A"'),
        ("existing", "old", 'row 3: status is "old"'),
        ("label,type", "label,kind", 'row 1: the head "kind" means nothing here'),
        ("offset,x", "offset,colour,x", 'row 1: the head "colour" means nothing here'),
        (",Old", ",Old,more", "row 3: 12 cells under 11 heads"),
    ],
)
def test_a_bad_structure_row_is_named(files, old, new, words):
    f = files(a_xml=landxml(ROAD, GROUND), s_csv=STRUCTURES.replace(old, new, 1))
    with pytest.raises(ReadError, match=words) as e:
        import_files("x", landxml=[f["a_xml"]], structures=[f["s_csv"]])
    assert "s.csv" in str(e.value)


@pytest.mark.parametrize(
    ("old", "new", "words"),
    [
        ("P1,A,B", "P1,A,C", 'row 2: to is "C", which is no structure here: known are A, B'),
        ("P1,A,B", "P1,A,A", "begins and ends at A"),
        ("DN 300", "DN 310", 'no pipe size "DN 310"'),
        ("DN 300", "", "there is no size"),
        ("310,40", "310,", "wall_mm is missing"),
        ("310,40", "-310,40", "cannot be"),
        ("0.5,0.2\nP2", ",0.2\nP2", "row 2: invert_up is missing"),
        ("P2,", "P1,", "already a pipe"),
    ],
)
def test_a_bad_pipe_row_is_named(files, old, new, words):
    f = files(a_xml=landxml(ROAD, GROUND), s_csv=STRUCTURES, p_csv=PIPES.replace(old, new, 1))
    with pytest.raises(ReadError, match=words):
        import_files("x", landxml=[f["a_xml"]], structures=[f["s_csv"]], pipes=[f["p_csv"]])


def test_a_standard_from_toml(files):
    text = (
        'name = "Strict"\n[pipes]\ncover_min = {300 = 0.9, 600 = 1.2}\ndrop_min = 0.05\ncrowns = '
        '"0.8"\n'
    )
    s = read_standard(files(s_toml=text)["s_toml"])
    assert (s.name, s.cover_min, s.drop_min, s.crowns) == (
        "Strict",
        ((300.0, 0.9), (600.0, 1.2)),
        0.05,
        "0.8",
    )
    assert s.cover_max == 6.0
    drops = read_standard(files(s_toml="[pipes.drop_min]\n180 = 0.1\n15 = 0.01\n")["s_toml"])
    assert (drops.drop_min, drops.name) == (((15.0, 0.01), (180.0, 0.1)), "s")


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("name = ", "is no TOML"),
        ("[pipes]\ncover = 1", '"pipes.cover" means nothing here'),
        ("[pipes]\ncover_min = 'deep'", "it is a number"),
        ("[pipes]\ncover_min = true", "it is a number"),
        ("[pipes]\ncover_min = {}", "empty table"),
        ("[pipes]\ncover_min = {big = 1}", "which is no number"),
        ("[pipes]\ncrowns = 'none'", "one of crowns, centres"),
        ("pipes = 3", "is a table"),
    ],
)
def test_a_bad_standard_is_refused(files, text, words):
    with pytest.raises(ReadError, match=words):
        read_standard(files(s_toml=text)["s_toml"])


def test_a_standard_in_feet_and_inches(files):
    text = (
        'name = "US"\nunits = "us"\n[pipes]\ncover_min = {12 = 2, 48 = 3}\nslope_min = '
        "0.005\ndrop_min = {90 = 0.1}\n"
    )
    s = read_standard(files(s_toml=text)["s_toml"])
    assert s.cover_min == (
        (approx(304.8), approx(2 * 0.3048)),
        (approx(1219.2), approx(3 * 0.3048)),
    )
    assert s.slope_min == 0.005
    assert s.drop_min == ((90.0, approx(0.03048)),)
    with pytest.raises(ReadError, match="it is metric or us"):
        read_standard(files(u_toml='units = "yards"\n')["u_toml"])


def test_a_standard_tells_how_far_a_rim_may_be_off(tmp_path):
    path = tmp_path / "s.toml"
    path.write_text('name = "S"\n[structures]\nrim_tolerance = 0.12\n')
    assert read_standard(path).rim_tolerance == 0.12
    for text, words in (
        ("structures = 3", "structures is a table"),
        ("[structures]\nrim = 1", '"structures.rim" means nothing'),
        ("[structures]\nrim_tolerance = -1", "it is 0 or more"),
        ('[structures]\nrim_tolerance = "x"', "it is a number"),
    ):
        path.write_text(text)
        with pytest.raises(ReadError, match=words):
            read_standard(path)
