"""Files that earlier formats of the program wrote open, and are brought up to today."""

import zipfile
from pathlib import Path

import pytest
from msgspec.structs import replace

from zumbert.analysis import analyse
from zumbert.checks import check
from zumbert.demo.project import demo_project
from zumbert.edits.several import hold
from zumbert.errors import StoreError
from zumbert.model.area import AREA_KINDS, Area
from zumbert.model.rain import Rain, RainTable
from zumbert.model.sheet import Delivery, FrameText, Issue, OwnFrame, Sheet
from zumbert.model.trench import TrenchSize
from zumbert.store import load, save
from zumbert.store.file import FORMAT


def test_a_file_of_format_1_is_brought_up_to_today(tmp_path):
    import json

    new, old = tmp_path / "new.zumbert", tmp_path / "old.zumbert"
    demo = demo_project()
    save(demo, new)
    with zipfile.ZipFile(new) as z, zipfile.ZipFile(old, "w") as out:
        document = json.loads(z.read("project.json"))
        for road in document["project"]["roads"].values():
            del road["strip"], road["points"]
            road["carriageway"] = {"left": 3.0, "right": 2.5, "verge": 2.0}
        for key in ("land", "services", "spots"):
            del document["project"][key]
        document["project"]["settings"] = {"invert_basis": "centres", "length_basis": "centre-plan"}
        document["surfaces"] = [
            {k: s[k] for k in ("id", "name", "role")} for s in document["surfaces"]
        ]
        del document["attachments"]
        document["format"] = 1
        out.writestr("project.json", json.dumps(document))
        for name in z.namelist():
            if name != "project.json":
                out.writestr(name, z.read(name))
    back = load(old)
    assert back.pipes == demo.pipes
    strip = next(iter(back.roads.values())).strip
    assert (
        strip.surface,
        strip.sections[0].left,
        strip.sections[0].right,
        strip.sections[0].verge,
    ) == (False, 3.0, 2.5, 2.0)
    with zipfile.ZipFile(new) as z, zipfile.ZipFile(old, "w") as out:
        out.writestr(
            "project.json",
            z.read("project.json").replace(f'"format": {FORMAT}'.encode(), b'"format": 0'),
        )
    with pytest.raises(StoreError, match="its format 0 is not known"):
        load(old)


def reopened(project, tmp_path, number, change):
    """A project loaded from a file whose document was changed to that of an older format."""
    import json

    new, old = tmp_path / "new.zumbert", tmp_path / "old.zumbert"
    save(project, new)
    with zipfile.ZipFile(new) as z, zipfile.ZipFile(old, "w") as out:
        document = json.loads(z.read("project.json"))
        change(document["project"])
        document["format"] = number
        out.writestr("project.json", json.dumps(document))
        for name in z.namelist():
            if name != "project.json":
                out.writestr(name, z.read(name))
    return load(old)


def test_levels_held_in_format_3_are_held_at_both_ends(tmp_path):
    demo = demo_project()
    first, second = list(demo.pipes)[:2]

    def older(document):
        for key, pipe in document["pipes"].items():
            for name in ("hold_up", "hold_down", "hold_slope", "invert_basis"):
                del pipe[name]
            if key != second:
                pipe["keep_levels"] = key == first

    back = reopened(demo, tmp_path, 3, older)
    assert (
        back.pipes[first].hold_up,
        back.pipes[first].hold_down,
        back.pipes[first].hold_slope,
    ) == (True, True, False)
    assert back.pipes[second] == demo.pipes[second]


def test_what_format_4_called_keep_is_held(tmp_path):
    demo = demo_project()
    pipe, structure = next(iter(demo.pipes)), next(iter(demo.structures))
    demo = hold(hold(demo, [structure], [], "size", True), [], [pipe], "slope", True)

    def older(document):
        for shelf in ("pipes", "structures"):
            for record in document[shelf].values():
                for name in [n for n in record if n.startswith("hold_")]:
                    record[name.replace("hold_", "keep_")] = record.pop(name)

    back = reopened(demo, tmp_path, 4, older)
    assert (back.pipes, back.structures) == (demo.pipes, demo.structures)
    assert back.pipes[pipe].hold_slope and back.structures[structure].hold_size


def test_a_file_that_format_5_wrote_opens_and_has_no_decisions_yet(tmp_path):
    project = load(Path(__file__).parent / "files" / "format5.zumbert")
    assert [p.label for p in project.pipes.values()] == ["P1", "P2"]
    assert [n.name for n in project.networks.values()] == ["Storm", "Storm existing"]
    assert project.decisions == {}
    assert all(p.limits == () for p in project.pipes.values())
    assert all(s.weights == {} and s.cover_against == "design" for s in project.standards.values())
    found = {f.rule for f in check(project, analyse(project))}
    assert {"drop_min", "clearance"} <= found  # and today's rules judge it
    save(project, tmp_path / "a.zumbert")
    again = load(tmp_path / "a.zumbert")
    for name in (
        "structures",
        "pipes",
        "networks",
        "standards",
        "services",
        "decisions",
        "settings",
    ):
        assert getattr(again, name) == getattr(project, name), name


def test_a_file_that_format_6_wrote_has_a_trench_of_one_row_and_bases_as_the_trench_type(tmp_path):
    project = load(Path(__file__).parent / "files" / "format6.zumbert")
    trench = list(project.trench_types.values())[-1]
    assert trench.name == "Old"
    assert trench.sizes == (TrenchSize(bedding=0.15, width=1.3, vertical_height=0.9, batter=0.25),)
    assert (trench.base_thickness, trench.upper, trench.spacing) == (0.25, "lower", 2.5)
    bases = {k: t.base for k, t in project.types.items() if t.base is not None}
    assert bases == {"manhole-1500": 0.3}  # 0.15 was what a type had that said nothing
    save(project, tmp_path / "a.zumbert")
    assert load(tmp_path / "a.zumbert").trench_types == project.trench_types


def test_a_file_that_format_7_wrote_has_no_sheets_and_gets_them(tmp_path):
    project = load(Path(__file__).parent / "files" / "format7.zumbert")
    assert (project.name, project.sheets, project.issues, project.delivery) == (
        "Old seven",
        {},
        {},
        Delivery(),
    )
    sheet = Sheet(
        id="h1", title='Plan "A"', kind="plan", labels={"s1": (12.0, -8.5)}, centre=(1.0, 2.0)
    )
    issue = Issue(
        id="i1",
        name="A",
        date="2026-11-27",
        structures={"s1": {"rim": 41.2, "label": "S1", "road": None}},
    )
    frame = OwnFrame(
        name="ours",
        width=420.0,
        height=297.0,
        lines=(((0.0, 0.0), (10.0, 0.0)),),
        texts=(FrameText("{title}", 1, 2, 3),),
    )
    made = replace(
        project,
        sheets={sheet.id: sheet},
        issues={issue.id: issue},
        delivery=Delivery(frame=frame, epsg=25832),
    )
    save(made, tmp_path / "a.zumbert")
    again = load(tmp_path / "a.zumbert")
    assert (again.sheets, again.issues, again.delivery) == (made.sheets, made.issues, made.delivery)


def test_a_file_that_format_8_wrote_has_no_areas_and_no_rain_and_gets_them(tmp_path):
    project = load(Path(__file__).parent / "files" / "format8.zumbert")
    assert (project.areas, project.rain, project.size_log, len(project.pipes)) == (
        {},
        None,
        None,
        40,
    )
    assert project.area_kinds == AREA_KINDS
    assert all(s.inflow == 0.0 for s in project.structures.values())
    assert all(p.share is None for p in project.pipes.values())
    facts = analyse(project)
    assert facts.flows is None
    assert not {f.rule for f in check(project, facts)} & {
        "capacity",
        "depth_ratio",
        "flow_velocity_min",
        "flow_velocity_max",
    }
    area = Area(
        id="a1",
        name='Roof "B"',
        kind="roof",
        structure=next(iter(project.structures)),
        size=480.5,
        entry=4.0,
    )
    made = replace(
        project,
        areas={area.id: area},
        rain=Rain(source=RainTable(minutes=(5.0, 10.0), rows=((2.0, (101.5, 70.0)),))),
    )
    save(made, tmp_path / "a.zumbert")
    again = load(tmp_path / "a.zumbert")
    assert (again.areas, again.rain) == (made.areas, made.rain)
    assert analyse(again).flows is not None
