"""Areas from CSV, rain from and to TOML and from a spreadsheet, flows as tables."""

import pytest
from msgspec.structs import replace
from pytest import approx

from tests.analysis.test_flow import RAIN, TABLE, reference
from tests.build import facts_of
from zumbert.analysis import analyse
from zumbert.checks import check
from zumbert.demo.project import demo_project
from zumbert.errors import EditError, ReadError
from zumbert.exchange.area_csv import read_areas
from zumbert.exchange.flowtables import (
    area_totals,
    flow_report,
    flow_tables,
    outfall_of,
    remark,
    unassigned,
)
from zumbert.exchange.formats import format_of
from zumbert.exchange.importing import import_files
from zumbert.exchange.rainatlas import read_atlas, shipped_atlas
from zumbert.exchange.raintoml import pasted_table, read_rain, write_rain
from zumbert.exchange.toml import read_standard, write_standard
from zumbert.model.area import AREA_KINDS
from zumbert.model.display import Units
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.quantity import FLOW
from zumbert.model.rain import Rain, RainFormula, rain_fault


def written(tmp_path, text, name="a.csv"):
    path = tmp_path / name
    path.write_text(text, encoding="utf-8")
    return path


AREAS = """name,structure,kind,area_m2,coefficient,entry_min,x,y
Hall "A",A,roof,420,,,,
Yard,B,drive,,0.75,6,0,0
Yard,,,,,,20,0
Yard,,,,,,20,10
Yard,,,,,,0,10
Lawn,,field,900,,,,
"""


def test_areas_come_by_size_or_by_corners(tmp_path):
    p = read_areas(reference(), written(tmp_path, AREAS))
    facts = analyse(p)
    found = {f.area.name: f for f in facts.areas.values()}
    assert found['Hall "A"'].size == 420.0 and found['Hall "A"'].coefficient == 0.95
    assert (found["Yard"].size, found["Yard"].coefficient, found["Yard"].entry) == (
        approx(200.0),
        0.75,
        6.0,
    )
    assert found["Yard"].area.structure == "B" and found["Lawn"].area.structure is None
    assert unassigned(facts) == ["Lawn"]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("name,structure,area_m2\nX,Q9,10\n", 'row 2: there is no structure "Q9"'),
        ("name,kind,area_m2\nX,roofs,10\n", "roof"),
        ("name,area_m2\nX,-4\n", "more than 0"),
        ("name,area_m2,coefficient\nX,40,1.4\n", "between 0 and 1"),
        ("name,area_m2,x,y\nX,,0,0\nX,,9,0\n", "three corners"),
        ("name,area_m2\nX,4\nX,5\n", "more than one row"),
        ("name,area_m2\nX,4\nY,5\nX,5\n", "already an area"),
    ],
)
def test_a_bad_row_is_named_and_the_others_can_be_taken(tmp_path, text, said):
    path = written(tmp_path, text)
    with pytest.raises(ReadError, match=said):
        read_areas(reference(), path)
    bad = []
    read_areas(reference(), path, bad=bad)
    assert len(bad) == 1 and said in bad[0]


RAINS = [
    "[formula]\na = 1200\nb = 10\nc = 0.8\nm = 0.0\n",
    """name = "Wet \\"hill\\""
years = 3
[table]
minutes = [5, 10, 30]
[table.years]
"2" = [120, 90, 50]
"5" = [150, 115, 66]
""",
]


def test_rain_is_read_and_written_back_the_same(tmp_path):
    first, second = (
        read_rain(written(tmp_path, text, f"r{i}.toml")) for i, text in enumerate(RAINS)
    )
    assert first.source == RAIN.source and first.name == "r0"
    assert (second.source, second.years, second.name) == (TABLE, 3.0, 'Wet "hill"')
    for rain in (first, second):
        write_rain(rain, tmp_path / "back.toml")
        assert read_rain(tmp_path / "back.toml") == rain
    assert (
        format_of(written(tmp_path, RAINS[0], "x.toml"))
        == format_of(written(tmp_path, RAINS[1], "y.toml"))
        == "rain"
    )
    assert format_of(written(tmp_path, AREAS)) == "areas"


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("name = 'x'\n", "one of \\[formula\\] and \\[table\\]"),
        ("[formula]\nq = 3\n", '"formula.q" means nothing'),
        ("[formula]\na = 0\n", "a is more than 0"),
        (
            "years = 50\n[table]\nminutes = [5, 10]\n[table.years]\n2 = [9, 8]\n",
            "return periods of 2 to 2",
        ),
        ("[table]\nminutes = [5, 10]\n[table.years]\n", "empty"),
        ("[table]\nminutes = [5, 10]\n[table.years]\ntwo = [9, 8]\n", "no number"),
        ("[table]\nminutes = [10, 5]\n[table.years]\n2 = [9, 8]\n", "rise"),
    ],
)
def test_a_rain_that_cannot_be_is_refused_with_a_sentence(tmp_path, text, said):
    with pytest.raises(ReadError, match=said):
        read_rain(written(tmp_path, text, "r.toml"))


def test_a_table_from_a_spreadsheet():
    across = "min\t2\t5\n5\t120\t150\n10\t90\t115\n30\t50\t66\n"
    assert pasted_table(across) == TABLE
    down = "years\t5\t10\t30\n2\t120\t90\t50\n5\t150\t115\t66\n"
    assert pasted_table(down) == TABLE
    assert pasted_table("min\t2 years\t5 years\n5\t120,0\t150\n10\t90\t115\n30\t50\t66\n") == TABLE
    for bad in ("", "a b", "min\t2\n5\tx\n", "min\t2\t5\n5\t1\n"):
        with pytest.raises(ReadError, match="no table of rain"):
            pasted_table(bad)


def test_tables_lead_to_every_flow_by_hand():
    facts = analyse(reference())
    pipes, nodes, areas, kinds, ends = flow_tables(facts)
    heads = [c.head for c in pipes.columns]
    for row in pipes.rows:
        cell = dict(zip(heads, row, strict=True))
        assert cell["Design flow"] == approx(cell["Intensity"] * cell["CA"] / 0.36, rel=1e-12)
        assert cell["Q / Qfull"] == approx(cell["Design flow"] / cell["Full-bore flow"])
        assert cell["Travel time"] == approx(cell["Length"] / cell["Velocity"] / 60)
        assert 0 < cell["Critical depth"] < cell["Inside"]
    assert [r[0] for r in nodes.rows] and len(areas.rows) == 3
    assert kinds.rows == (("roof", 3, approx(6500.0), approx(0.495)),)
    assert ends.rows == (("O", 3, approx(6500.0), approx(0.495)),)
    assert outfall_of(facts, StructureId("A")) == "O" and outfall_of(facts, None) == "nowhere"
    assert area_totals(facts)[0].rows == kinds.rows
    assert remark(facts, PipeId("A-B")) is None


def test_the_document_has_the_names_that_are_fixed(tmp_path):
    made = flow_report(tmp_path / "a", analyse(reference()))
    assert set(made) == {"project", "rain", "areas", "pipes", "structures", "unassigned"}
    assert set(made["areas"][0]) == {
        "name",
        "structure",
        "kind",
        "area",
        "coefficient",
        "entry_min",
    }
    wanted = {
        "label",
        "ca",
        "tc_min",
        "intensity_mm_h",
        "flow",
        "capacity",
        "velocity",
        "velocity_full",
        "depth_ratio",
        "critical_depth",
    }
    assert wanted <= set(made["pipes"][0])
    assert made["pipes"][0]["flow"] == approx(0.06875, abs=1e-5)


def test_a_project_comes_with_areas_rain_and_inflows(tmp_path):
    structures = written(
        tmp_path,
        "label,type,x,y,rim,inflow_m3s\nA,manhole-1200,0,0,60,0.01\nO,outfall,60,0,60,\n",
        "s.csv",
    )
    pipes = written(
        tmp_path, "label,from,to,size,invert_up,invert_down\nP,A,O,300,58,57.4\n", "p.csv"
    )
    areas = written(
        tmp_path, "name,structure,kind,area_m2,entry_min\nHall,A,roof,1000,5\n", "a.csv"
    )
    rain = written(tmp_path, RAINS[0], "r.toml")
    made = import_files("x", structures=[structures], pipes=[pipes], areas=[areas], rain=rain)
    assert any('rain "r"' in n for n in made.notes) and any("1 area" in n for n in made.notes)
    [flow] = analyse(made.project).pipe_flow.values()
    assert flow.flow == approx(137.50 * 950 / 3.6e6 + 0.01, abs=1e-6)
    assert made.project.rain == Rain(name="r", source=RainFormula(a=1200, b=10, c=0.8, m=0))
    assert made.project.area_kinds == AREA_KINDS


def test_the_kinds_of_areas_of_a_new_project():
    wanted = {
        "roof": 0.95,
        "carriageway": 0.90,
        "footway": 0.85,
        "drive": 0.80,
        "verge": 0.35,
        "field": 0.20,
    }
    assert {k.name: k.coefficient for k in AREA_KINDS} == wanted


def test_the_rain_atlas_goes_straight_between_its_crossings(tmp_path):
    text = (
        "x_km,y_km,a,b,c,m\n0,0,1000,10,0.8,0.2\n10,0,1200,10,0.8,0.2\n"
        "0,5,1000,12,0.7,0.2\n10,5,1200,12,0.9,0.2\n"
    )
    atlas = read_atlas(written(tmp_path, text))
    assert atlas.formula_at(0.0, 0.0) == RainFormula(a=1000.0, b=10.0, c=0.8, m=0.2)
    assert atlas.formula_at(10.0, 5.0) == RainFormula(a=1200.0, b=12.0, c=0.9, m=0.2)
    assert atlas.formula_at(2.5, 2.5) == RainFormula(a=1050.0, b=11.0, c=approx(0.775), m=0.2)
    with pytest.raises(EditError, match="x 0 to 10 and y 0 to 5 km, not 11, 1"):
        atlas.formula_at(11.0, 1.0)
    with pytest.raises(ReadError, match="grid of two by two"):
        read_atlas(written(tmp_path, text + "20,0,1,1,1,0\n"))
    with pytest.raises(ReadError, match="row 6: a value is missing"):
        read_atlas(written(tmp_path, text + "20,0,1,,1,0\n"))
    whole = shipped_atlas()
    assert len(whole.x) * len(whole.y) == len(whole.at) > 20
    for x in whole.x:
        for y in whole.y:
            assert rain_fault(Rain(source=whole.formula_at(x, y))) is None


def test_limits_of_flow_come_and_go_in_a_standard(tmp_path):
    text = (
        "[pipes]\ncapacity_max = 0.9\nflow_velocity_min = 0.7\n[pipes.depth_ratio_max]\n"
        "300 = 0.7\n900 = 0.75\n"
    )
    path = written(tmp_path, text, "s.toml")
    standard = read_standard(path)
    assert (standard.capacity_max, standard.flow_velocity_min) == (0.9, 0.7)
    assert standard.depth_ratio_max == ((300.0, 0.7), (900.0, 0.75))
    write_standard(standard, tmp_path / "back.toml")
    assert replace(read_standard(tmp_path / "back.toml"), name="") == replace(standard, name="")


def test_flows_are_shown_and_typed_in_the_units_of_the_project():
    metric, us = Units(), Units(system="us")
    assert metric.flows(0.0688) == "68.8 l/s" and us.flows(0.0688) == "2.43 cfs"
    assert metric.typed("12.5", of=FLOW) == approx(0.0125) and us.typed("2", of=FLOW) == approx(
        2 * 0.3048**3
    )
    assert metric.intensity(137.5) == "137.5" and us.intensity(137.5) == "5.41"
    assert (
        f"{metric.wide(1800.0)} {metric.wide_unit}" == "0.180 ha"
        and us.wide(4046.8564224) == "1.000"
    )


def test_the_demo_has_one_pipe_that_is_too_small():
    p = demo_project()
    facts = facts_of(p)
    assert [p.pipes[f.pipe].label for f in check(p, facts) if f.rule == "capacity"] == ["P2"]
    assert unassigned(facts) == [] and len(facts.areas) == 27
    assert {r[0] for r in area_totals(facts)[1].rows} == {"HW1"}
