"""Everyday changes of CONTRIBUTING.md: each thing, made up here, is put into its table and seen
everywhere it should be. A rule, a field and a stage have tests of their own in `tests/app`.
"""

import ezdxf
import numpy as np
import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import facts_of, rods, with_crosses
from zumbert.analysis import facts as derived
from zumbert.analysis.facts import analyse
from zumbert.analysis.stages import Read, Stage
from zumbert.app.stages.trench.sketch import TALL, places
from zumbert.app.theme import INSIDE
from zumbert.checks import check
from zumbert.delivery import legend, pages, schedules
from zumbert.delivery.job import Job
from zumbert.delivery.landxml import landxml
from zumbert.demo.project import demo_project
from zumbert.drawing import layers, style
from zumbert.drawing.layers import belongs
from zumbert.drawing.marks import Stroke, points
from zumbert.drawing.picture import Picture
from zumbert.drawing.style import colour
from zumbert.edits.levels import set_invert
from zumbert.edits.rain import set_rain
from zumbert.edits.roads import rename_road
from zumbert.edits.sheets import add_sheet
from zumbert.errors import ReadError, ZumbertError
from zumbert.exchange.csv import write_csv
from zumbert.exchange.dxf import read_dxf
from zumbert.exchange.formats import FORMATS, Format, format_of
from zumbert.exchange.found import read_files, sorted_out
from zumbert.exchange.importing import built
from zumbert.exchange.raintoml import read_rain, write_rain
from zumbert.exchange.sheets import csv_sheets
from zumbert.exchange.tables import in_units, pipe_table
from zumbert.exchange.taking.choices import Choices
from zumbert.exchange.toml import read_standard, write_standard
from zumbert.model import background, typed
from zumbert.model.catalogue import PIPE_SIZES, STRUCTURE_TYPES
from zumbert.model.display import Units
from zumbert.model.project import Settings, new_project
from zumbert.model.rain import FORMS, Form, Rain, RainFormula
from zumbert.model.sheet import SHEET_KINDS
from zumbert.model.trench import SIZE_FIELDS, TrenchField
from zumbert.model.unitsystem import UNIT_SYSTEMS
from zumbert.space import scene as spaces
from zumbert.space.part import SpacePart
from zumbert.space.wanted import InSpace
from zumbert.store import file as store
from zumbert.store import load, migrations, save

DEMO = demo_project()


@pytest.fixture
def job():
    return Job(DEMO, facts_of(DEMO))


def test_a_unit_that_is_typed(monkeypatch):
    with pytest.raises(ValueError, match="2 rod"):
        Units().typed("2 rod")
    monkeypatch.setitem(typed._UNITS["length"], "rod", 5.0292)
    assert Units().typed("2 rod") == approx(10.0584)
    assert Units(system="us").typed("2 rod") == approx(10.0584)  # metres, whatever is shown


def test_a_system_of_units(monkeypatch, tmp_path):
    """Rods of 5.0292 m, sizes in hands of 101.6 mm: shown, typed, in tables, files and LandXML.
    The window offers it (tests/app).
    """
    rod = 5.0292
    monkeypatch.setitem(UNIT_SYSTEMS, "rods", rods())
    u = Units(system="rods")
    assert (u.long(rod), u.level(2 * rod), u.chainage(123.4 * rod)) == ("1.00 rd", "2.0", "12+3.40")
    assert (u.dn(304.8), u.far(3 * rod), u.square(rod**2)) == ("3 hands", "0.1 leagues", "1.0 rd²")
    assert (u.typed("3"), u.typed("3 rd"), u.typed("3 m")) == approx((3 * rod, 3 * rod, 3.0))
    assert u.typed_chainage("12+3.4") == approx(123.4 * rod)
    p = new_project("One", Settings(units=u))
    assert (len(p.types), len(p.sizes)) == (len(STRUCTURE_TYPES), len(PIPE_SIZES))
    assert next(iter(p.standards.values())).cover_min == rod
    shown = replace(DEMO, settings=replace(DEMO.settings, units=u))
    pipes = in_units(pipe_table(facts_of(shown)), u)
    assert "Invert up (rd)" in [c.title for c in pipes.columns]
    save(p, tmp_path / "a.zumbert")
    assert load(tmp_path / "a.zumbert") == p
    write_standard(next(iter(p.standards.values())), tmp_path / "a.toml", "rods")
    assert "cover_min = 1" in (tmp_path / "a.toml").read_text()
    assert read_standard(tmp_path / "a.toml").cover_min == approx(rod)
    write_csv(tmp_path / "pipes.csv", pipes)
    assert [s.what for s in csv_sheets(tmp_path / "pipes.csv")] == ["pipes"]
    assert '<Imperial linearUnit="rod"' in landxml(Job(shown, facts_of(shown))).text
    monkeypatch.delitem(UNIT_SYSTEMS, "rods")
    with pytest.raises(ReadError, match='units is "rods": it is metric or us'):
        read_standard(tmp_path / "a.toml")
    with pytest.raises(ZumbertError, match='no system of units is called "rods", but metric, us'):
        load(tmp_path / "a.zumbert")


def test_a_form_of_the_rain_formula(monkeypatch, tmp_path):
    """i = a T^m / (b + c t): flows, TOML, project file; the page offers it (tests/app)."""
    line = Form("i = a / (b + c t)", lambda t, b, c: b + c * t)
    monkeypatch.setitem(FORMS, "line", line)
    rain = Rain(source=RainFormula(a=1000.0, b=10.0, c=0.5, form="line"), climate=1.2)
    assert rain.intensity(20.0) == approx(1.2 * 1000.0 / 20.0)
    p = set_rain(DEMO, rain)
    flows = [f for f in facts_of(p).pipe_flow.values() if f.ca > 0]
    assert flows and all(f.intensity == approx(1200.0 / (10.0 + 0.5 * f.tc)) for f in flows)
    save(p, tmp_path / "a.zumbert")
    assert load(tmp_path / "a.zumbert").rain == rain
    write_rain(rain, tmp_path / "a.toml")
    assert read_rain(tmp_path / "a.toml") == rain
    monkeypatch.delitem(FORMS, "line")
    with pytest.raises(ReadError, match='no formula is called "line", but power, sum'):
        read_rain(tmp_path / "a.toml")


def test_a_dimension_of_trenches_stands_on_its_drawing(monkeypatch):
    before = places()
    assert len(before) == len(SIZE_FIELDS)
    for side in ("left", "right", "under"):
        monkeypatch.setitem(SIZE_FIELDS, f"one more {side}", TrenchField("One more", at=side))
    after = list(places().values())
    assert len(after) == len(before) + 3
    assert not any(a.intersects(b) for i, a in enumerate(after) for b in after[:i])
    assert all(a.x() >= 0 and a.right() < INSIDE and a.bottom() < TALL for a in after)


def test_a_structure_type_of_the_library(monkeypatch):
    vault = replace(STRUCTURE_TYPES[0], key="vault", name="Vault")
    metric = UNIT_SYSTEMS["metric"]
    more = replace(metric, types=(*STRUCTURE_TYPES, vault))
    monkeypatch.setitem(UNIT_SYSTEMS, "metric", more)
    assert new_project("One").types["vault"] == vault


def test_a_schedule(job, monkeypatch):
    def walls(job):
        return replace(schedules.schedules(job, ["pipes"])[0], name="Walls")

    kind = schedules.ScheduleKind("walls", "Walls", walls)
    monkeypatch.setattr(schedules, "SCHEDULE_KINDS", (*schedules.SCHEDULE_KINDS, kind))
    made = schedules.schedules(job, ["structures", "walls"])
    assert [t.name for t in made] == ["Structures", "Walls"]
    assert len(made[1].rows) == len(DEMO.pipes)


def test_a_kind_of_sheet(job, monkeypatch, tmp_path):
    cross = with_crosses(monkeypatch)
    project, key = add_sheet(DEMO, "crosses")
    assert project.sheets[key].title == "Crosses"
    mine = Job(project, job.facts)
    every = pages.leaves(mine)
    assert [leaf.title for leaf in every[-2:]] == ["Crosses: first", "Crosses: second"]
    composed = pages.page(mine, every[-1], every)
    assert cross in composed.marks and every[-1].number in str(composed.marks)
    save(project, tmp_path / "a.zumbert")
    assert load(tmp_path / "a.zumbert").sheets == project.sheets
    monkeypatch.delitem(SHEET_KINDS, "crosses")
    with pytest.raises(ZumbertError, match='no kind of sheet is called "crosses", but plan-and'):
        load(tmp_path / "a.zumbert")


def test_an_entry_of_the_legend(monkeypatch):
    line = Stroke("wall-of-china", points((0, 0), (9, 9)))
    assert legend.entries([line]) == []
    entry = legend.LegendEntry("Great wall", ("wall-of-china",))
    monkeypatch.setattr(legend, "ENTRIES", (*legend.ENTRIES, entry))
    assert legend.entries([line, line]) == [entry]


def test_the_layer_of_a_role(monkeypatch):
    assert belongs("moat-one").role == "drawing"
    monkeypatch.setitem(layers._THINGS, "moat", ("others", "service"))
    assert (belongs("moat-two").service, belongs("moat-two").role) == ("others", "service")


def test_a_colour(monkeypatch):
    monkeypatch.setitem(style._COLOURS, "moss", ("#335511", "#AACC88"))
    assert (colour("moss", "light"), colour("moss", "dark")) == ("#335511", "#AACC88")
    assert colour("moss", "print").startswith("#")


def test_a_value_that_is_derived(monkeypatch):
    """It is made again when what it reads has changed, and then only."""
    made = []

    def longest(now, old):
        made.append(old)
        return max(len(r.name) for r in now.project.roads.values())

    stage = Stage(name="longest", reads=(Read("project.roads"),), make=longest)
    monkeypatch.setattr(derived, "STAGES", (*derived.STAGES, stage))
    facts = analyse(DEMO)
    assert facts.made.values["longest"] == len("Quillerby Rise") and made == [None]
    pipe = next(iter(DEMO.pipes))
    lower = set_invert(DEMO, pipe, "up", DEMO.pipes[pipe].invert_up - 0.01)
    assert analyse(lower, facts).made.values["longest"] == 14 and len(made) == 1
    renamed = rename_road(DEMO, next(iter(DEMO.roads)), "Quillerby Rise and Fall")
    assert analyse(renamed, facts).made.values["longest"] == 23 and made == [None, 14]


def test_an_import_format(tmp_path, monkeypatch):
    def take(taking, project, path, read):
        taking.notes.append(f"{path.name}: {read} pegs")
        return replace(project, name=f"{project.name} with pegs")

    pegs = Format(title="pegs", endings=(".pegs",), help="A list of pegs.",
                  read=lambda path, tell: len(path.read_text().split()), take=take)  # fmt: skip
    path = tmp_path / "site.pegs"
    path.write_text("a b c")
    with pytest.raises(Exception, match="of no kind"):
        format_of(path)
    monkeypatch.setitem(FORMATS, "pegs", pegs)
    assert format_of(path) == "pegs"
    files = sorted_out([path])
    found = read_files(files)
    made = built(new_project("One"), found, Choices(roles={}))
    assert made.project.name == "One with pegs" and "site.pegs: 3 pegs" in made.notes


def test_a_unit_of_files(tmp_path, monkeypatch):
    monkeypatch.setitem(background.UNITS, "rod", 5.0292)
    made = ezdxf.new()
    made.modelspace().add_line((0, 0), (10, 0))
    made.saveas(tmp_path / "ten.dxf")
    drawing = read_dxf(tmp_path / "ten.dxf", unit="rod")
    assert np.ptp(drawing.segments) == approx(10 * 5.0292)


def test_a_body_in_space(job, monkeypatch):
    kept = spaces._asked

    def asked(picture, wanted, line):
        yield from kept(picture, wanted, line)
        yield ("balloon", "b1"), (picture.facts.project.roads,), lambda: SpacePart(
            "pin", "b1", "pin", lines=np.zeros((1, 2, 3)))  # fmt: skip

    monkeypatch.setattr(spaces, "_asked", asked)
    picture = Picture(facts=job.facts, findings=check(DEMO, job.facts))
    made = spaces.scene(picture, InSpace())
    assert made.parts["balloon", "b1"].linear
    assert spaces.scene(picture, InSpace(), made) is made


def test_an_older_format_of_files(tmp_path, monkeypatch):
    path = tmp_path / "old.zumbert"
    save(DEMO, path)

    def step(document):
        return {**document, "project": {**document["project"], "name": "Brought up"}}

    monkeypatch.setitem(migrations._STEPS, store.FORMAT, step)
    monkeypatch.setattr(store, "FORMAT", store.FORMAT + 1)
    assert load(path).name == "Brought up"
    save(DEMO, path)
    assert load(path).name == DEMO.name  # of the newest format already
