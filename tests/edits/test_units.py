"""US units are whole: what is shown and typed is feet, what is kept is SI."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.build import facts_of, road_project, said, v_project, with_pipe, with_structure
from zumbert.analysis.quantities import quantities
from zumbert.analysis.trench import trenches
from zumbert.checks import check
from zumbert.edits.fields import set_field
from zumbert.edits.lay import lay
from zumbert.edits.layoptions import first_way
from zumbert.edits.typed import changed_by, typed_levels, typed_place
from zumbert.errors import EditError
from zumbert.exchange.flowtables import flow_tables
from zumbert.exchange.quantitytables import quantity_tables
from zumbert.exchange.tables import Column, Table, cell_text, in_units, pipe_table
from zumbert.model.display import Units
from zumbert.model.project import Settings, new_project, size_of
from zumbert.model.quantity import LEVEL, PERCENT
from zumbert.model.structure import Anchored, Free

US = Units(system="us")
FT = 0.3048


def shown_in_feet(project):
    return replace(project, settings=replace(project.settings, units=US))


def test_a_project_shown_in_feet_holds_the_same_si_values():
    metric, feet = v_project(), shown_in_feet(v_project())
    assert feet.pipes == metric.pipes
    a, b = facts_of(metric), facts_of(feet)
    assert [f.cover for f in a.pipes.values()] == [f.cover for f in b.pipes.values()]
    found, same = check(metric, a), check(feet, b)
    assert [(f.rule, f.value, f.limit, f.distance) for f in found] == [
        (f.rule, f.value, f.limit, f.distance) for f in same
    ]
    # cover 0.305 m = 1.00 ft, the limit 0.9 m = 2.95 ft, at 30 m = 98.43 ft
    assert "cover 1.00 ft at 98.43 ft from A, needs 2.95 ft." in said(feet, same[0])


def test_levels_and_places_are_typed_in_feet():
    p = shown_in_feet(v_project())
    facts = facts_of(p)
    assert typed_levels(p, facts, "P1", "up", "100").pipes["P1"].invert_up == approx(100 * FT)
    assert typed_levels(p, facts, "P1", "up", "+0.5").pipes["P1"].invert_up == approx(
        28.5 + 0.5 * FT
    )
    covered = typed_levels(p, facts, "P1", "mid", "c3")
    assert facts_of(covered).pipes["P1"].cover.least == approx(3 * FT)
    assert typed_levels(p, facts, "P1", "up", "1%").pipes["P1"].invert_up == approx(28.2 + 0.6)
    assert typed_place("4+12.5 -12", "r", US) == Anchored("r", approx(412.5 * FT), approx(-12 * FT))
    assert typed_place("100,200", None, US) == Free(approx(100 * FT), approx(200 * FT))
    assert changed_by("=-2", 9.0, US) == approx(-2 * FT)


def test_a_new_project_in_us_units_has_inches_and_round_feet():
    p = new_project("x", Settings(units=US))
    assert size_of(p, "12") == size_of(p, "12in") == size_of(p, "12 in") == "12in"
    assert p.sizes["12in"].inside == approx(FT)
    s = next(iter(p.standards.values()))
    assert (s.cover_min, s.drop_max) == (approx(3 * FT), approx(2 * FT))
    way = first_way(p)
    assert (way.type, way.size) == ("manhole-5ft", "12in")


def test_a_run_is_laid_with_the_inch_library():
    road = road_project()
    p = new_project("x", Settings(units=US))
    p = replace(p, roads=road.roads, surfaces=road.surfaces)
    places = [Anchored(next(iter(p.roads)), ch, 0.0) for ch in (100.0, 50.0)]
    laid = lay(p, facts_of(p), places, first_way(p))[-1]
    f = laid.facts.pipes[laid.pipe]
    assert f.cover.least == approx(3 * FT, abs=1e-6)


@pytest.mark.parametrize(
    ("head", "metric", "unit"), [("Excavation", 1.0, "m³"), ("Length, centre plan", 1.0, "m")]
)
def test_schedules_are_in_feet_and_cubic_yards(head, metric, unit):
    p = v_project()
    tables = {}
    for project in (p, shown_in_feet(p)):
        q = quantities(trenches(facts_of(project)))
        table = quantity_tables(facts_of(project), q)[0]
        i = next(i for i, c in enumerate(table.columns) if c.head == head)
        tables[project.units.system] = (table.columns[i].unit, table.rows[0][i])
    assert tables["metric"][0] == unit
    per = {"m³": 0.764554857984, "m": FT}[unit]
    assert tables["us"] == ({"m³": "yd³", "m": "ft"}[unit], approx(tables["metric"][1] / per))


def test_pipe_sizes_are_told_in_inches():
    p = new_project("x", Settings(units=US))
    p = with_structure(
        with_structure(p, "A", 0.0, rim=30.0, kind="manhole-5ft"),
        "B",
        60.0,
        rim=30.0,
        kind="manhole-5ft",
    )
    p = with_pipe(p, "P1", "A", "B", 28.5, 28.2, "12in")
    table = pipe_table(facts_of(p))
    i = next(i for i, c in enumerate(table.columns) if c.head == "DN")
    assert (table.columns[i].unit, table.rows[0][i]) == ("in", approx(12.0))


@given(st.sampled_from(("metric", "us")), st.floats(-500, 500), st.floats(-0.5, 0.5))
def test_a_level_in_a_schedule_is_written_as_on_the_drawing(system, level, slope):
    u = Units(system=system)
    table = Table(
        name="",
        columns=(Column("Rim", LEVEL), Column("Slope", PERCENT, 0)),
        rows=((level, slope * 100),),
    )
    shown = in_units(table, u)
    texts = [cell_text(c, v) for c, v in zip(shown.columns, shown.rows[0], strict=True)]
    assert texts == [u.level(level), u.slope(slope).removesuffix(" %")]


@pytest.mark.parametrize(
    ("slopes", "unit", "value", "text"),
    [
        ("percent", "%", 1.25, "1.250"),
        ("fraction", "", 0.0125, "0.01250"),
        ("ratio", "1 in", 80.0, "80.0"),
    ],
)
def test_slopes_in_schedules_are_in_the_notation_of_the_project(slopes, unit, value, text):
    p = with_pipe(
        with_structure(
            with_structure(new_project("x", Settings(units=Units(slopes=slopes))), "A", 0.0),
            "B",
            80.0,
        ),
        "P",
        "A",
        "B",
        50.0,
        49.0,
    )
    table = pipe_table(facts_of(p))
    i = next(i for i, c in enumerate(table.columns) if c.head == "Slope")
    column, cell = table.columns[i], table.rows[0][i]
    assert (column.unit, cell, cell_text(column, cell)) == (unit, approx(value), text)


def test_flows_are_in_cubic_feet_a_second_and_acres():
    p = shown_in_feet(v_project())
    columns = {c.title for t in flow_tables(facts_of(p)) for c in t.columns}
    assert {"Design flow (cfs)", "CA (ac)", "Intensity (in/h)", "Size (ft²)"} <= columns
    assert not any(
        unit in title for title in columns for unit in ("l/s", "(ha)", "mm/h", "(m)", "m³")
    )


def test_a_bare_slope_in_a_field_that_shows_per_cent():
    u = Units(slopes="percent")
    for text, slope in (
        ("1.5", 0.015),
        ("0.1", 0.001),
        ("0.0125", 0.0125),
        ("0.0999", 0.0999),
        ("1:80", 1 / 80),
        ("1.5%", 0.015),
        ("-2", -0.02),
        ("100%", 1.0),
    ):
        assert u.typed_slope(text) == approx(slope, abs=1e-12)
    assert u.understood("1.25") == "= 1.25 %, 1:80"
    assert u.understood("1:") == ""
    assert Units(slopes="fraction").typed_slope("0.5") == 0.5
    for text in ("101%", "150"):
        with pytest.raises(ValueError, match="steeper than 100 %"):
            u.typed_slope(text)
    with pytest.raises(ValueError, match="steeper than 100 %"):
        Units(slopes="ratio").typed_slope("1.5")


def test_a_level_that_makes_a_pipe_steeper_than_its_length_is_refused():
    p = v_project()  # 60 m, 28.500 to 28.200
    facts = facts_of(p)
    key = next(iter(p.pipes))
    with pytest.raises(
        EditError, match=r"would lie at 119\.17 % with its lower invert at \u221243\.000"
    ):
        typed_levels(p, facts, key, "down", "=-43")  # (28.5 + 43) / 60 = 1.19167
    with pytest.raises(EditError, match="steeper than 100 %|lie at"):
        set_field(p, facts, key, "invert_up", "285")
    # 59.5 m in 60 m
    assert typed_levels(p, facts, key, "down", "=-31").pipes[key].invert_down == -31.0


def test_two_numbers_of_a_sentence_have_decimals_enough_to_differ():
    u = Units()
    assert u.apart(u.slope, 0.00667, 0.0067) == ("0.667 %", "0.670 %")
    assert u.apart(u.long, 0.8996, 0.9) == ("0.8996 m", "0.9000 m")
    assert u.apart(u.long, 0.86, 0.9) == ("0.86 m", "0.90 m")
    assert u.apart(u.deep, 0.02, 0.02) == ("0.020 m", "0.020 m")
    r = Units(slopes="ratio")
    assert r.apart(r.slope, 1 / 150.2, 1 / 150) == ("1:150.2", "1:150")
