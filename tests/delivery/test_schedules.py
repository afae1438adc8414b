import csv
import io
import json
from math import cos, degrees, hypot, pi, sin

import msgspec
import pytest
from msgspec.structs import replace
from openpyxl import load_workbook
from pytest import approx

from tests.delivery.places import with_delivery
from zumbert.analysis.crosssection import section_volumes
from zumbert.checks.crossings import rooms
from zumbert.delivery import outputs
from zumbert.delivery.chambersheets import pipes_at
from zumbert.delivery.geojson import geojson
from zumbert.delivery.job import Job
from zumbert.delivery.outputs import Output, write_all
from zumbert.delivery.schedules import SCHEDULE_KINDS, schedules
from zumbert.delivery.tablesheets import blocks
from zumbert.delivery.trenchtable import ALONE, runs_and_pipes, trench_sections
from zumbert.edits.change import set_cover
from zumbert.errors import Cancelled, ReadError
from zumbert.exchange.tables import Column, Table, text_column
from zumbert.model.quantity import LEVEL


def rows_of(table):
    return [dict(zip([c.head for c in table.columns], row, strict=True)) for row in table.rows]


def schedule(job, name):
    return rows_of(schedules(job, [name])[0])


def test_the_chamber_schedule_has_each_pipe_with_bearing_size_and_invert(job):
    rows = [r for r in schedule(job, "chambers") if r["Structure"] == "S4"]
    f = next(f for f in job.facts.structures.values() if f.structure.label == "S4")
    assert len(rows) == len(f.pipes_in) + len(f.pipes_out)
    assert rows[0]["Pipe"] == "P4" and rows[0]["Flow"] == "out"
    for r in rows:
        pipe = next(p for p in (*f.pipes_in, *f.pipes_out) if p.pipe.label == r["Pipe"])
        other = pipe.span.up if r["Flow"] == "in" else pipe.span.down
        dx, dy = other.x - f.place.x, other.y - f.place.y
        assert (sin(r["Bearing"] * pi / 180), cos(r["Bearing"] * pi / 180)) == approx(
            (dx / hypot(dx, dy), dy / hypot(dx, dy))
        )
        assert r["Invert"] == (pipe.pipe.invert_down if r["Flow"] == "in" else pipe.pipe.invert_up)
        if r["Flow"] == "in":
            assert r["Drop to outlet"] == approx(r["Invert"] - rows[0]["Invert"])
    turns = [(r["Bearing"] - rows[0]["Bearing"]) % 360 for r in rows]
    assert turns == sorted(turns)
    assert {r["Cover"] for r in rows} == {"cover 600 mm"}
    assert rows[0]["Underside of base"] == approx(rows[0]["Sump"] - 0.2)
    assert degrees(pipes_at(f)[0].bearing) == approx(rows[0]["Bearing"])


def test_setting_out_gives_coordinates_and_the_cover_where_it_is_off_the_middle(job):
    s4 = next(k for k, s in job.project.structures.items() if s.label == "S4")
    moved = Job(set_cover(job.project, s4, (0.2, 0.1)))
    rows = {r["Structure"]: r for r in schedule(moved, "setting-out")}
    place = moved.facts.places[s4]
    r = rows["S4"]
    assert (r["x"], r["y"], r["Chainage"], r["Offset"]) == approx(
        (place.x, place.y, place.chainage, place.offset)
    )
    assert hypot(r["x of cover"] - r["x"], r["y of cover"] - r["y"]) == approx(hypot(0.2, 0.1))
    along = (r["x of cover"] - r["x"]) * sin(place.bearing) + (r["y of cover"] - r["y"]) * cos(
        place.bearing
    )
    assert along == approx(0.2)
    assert rows["S3"]["x of cover"] is None


def test_gullies_and_crossings_are_all_there(job):
    gullies = schedule(job, "gullies")
    assert {r["Gully"] for r in gullies} == {
        s.label for s in job.project.structures.values() if s.type == "gully-450"
    }
    assert all(r["Lead"] and r["To"].startswith("S") and r["Inlet"] == "grate" for r in gullies)
    found = schedule(job, "crossings")
    assert len(found) == len(rooms(job.facts)) > 0
    assert all((r["Result"] == "has room") == (r["Least room"] >= r["Needed"]) for r in found)


def test_trench_sections_add_up_to_the_volumes_by_average_end_area(job):
    table = trench_sections(job)
    rows = rows_of(table)
    exact = section_volumes(job.dug)
    labels = {job.project.pipes[k].label: v for k, v in exact.items()}
    sums = {
        r["Pipe"].removeprefix("Sum of "): r["Volume"]
        for r in rows
        if str(r["Pipe"]).startswith("Sum of")
    }
    assert sums.keys() == labels.keys()
    for label, volume in labels.items():
        assert sums[label] == approx(volume)
    assert rows[-1]["Run"] == "Grand total" and rows[-1]["Volume"] == approx(sum(labels.values()))
    runs = [r["Volume"] for r in rows if str(r["Run"]).startswith("Sum of")]
    assert sum(runs) == approx(rows[-1]["Volume"])
    assert all(
        r["Area"] == approx(r["Area left"] + r["Area right"]) for r in rows if r["Area"] is not None
    )
    lopsided = [r for r in rows if r["Area"] and abs(r["Area left"] - r["Area right"]) > 0.01]
    assert lopsided  # the hillside: the two sides differ


def test_every_pipe_is_in_the_trench_sections_once(job):
    groups = runs_and_pipes(job)
    keys = [k for _, pipes in groups for k, _ in pipes]
    assert sorted(keys) == sorted(job.project.pipes)
    assert groups[-1][0] == ALONE


def test_all_schedules_are_written_as_a_spreadsheet_and_as_csv(job, tmp_path):
    write_all([Output(tmp_path / "out", True, outputs.schedules_maker(job))])
    book = load_workbook(tmp_path / "out" / "schedules.xlsx")
    assert book.sheetnames == [k.title for k in SCHEDULE_KINDS]
    for kind in SCHEDULE_KINDS:
        table = schedules(job, [kind.name])[0]
        with open(
            tmp_path / "out" / f"{table.name.lower().replace(' ', '-')}.csv",
            encoding="utf-8",
            newline="",
        ) as f:
            found = list(csv.reader(f))
        assert found[0] == [c.title for c in table.columns] and len(found) == len(table.rows) + 1


def test_geojson_has_every_structure_and_pipe_at_its_place(job):
    document = json.loads(
        geojson(Job(with_delivery(job.project, epsg=25832), job.facts, job.findings))
    )
    assert document["crs"]["properties"]["name"].endswith("25832")
    kinds = [f["properties"]["kind"] for f in document["features"]]
    assert (kinds.count("structure"), kinds.count("pipe")) == (
        len(job.project.structures),
        len(job.project.pipes),
    )
    by = {f["properties"]["label"]: f for f in document["features"]}
    f = next(f for f in job.facts.structures.values() if f.structure.label == "S4")
    assert by["S4"]["geometry"] == {
        "type": "Point",
        "coordinates": [f.place.x, f.place.y, f.place.rim],
    }
    assert by["S4"]["properties"]["rim"] == f.place.rim
    p4 = next(p for p in job.facts.pipes.values() if p.pipe.label == "P4")
    line = by["P4"]["geometry"]["coordinates"]
    assert line == [
        [p4.span.up.x, p4.span.up.y, p4.pipe.invert_up],
        [p4.span.down.x, p4.span.down.y, approx(p4.pipe.invert_down)],
    ]
    assert "crs" not in json.loads(geojson(job))


def test_a_wide_table_is_drawn_smaller_and_a_wider_one_goes_on():
    columns = (text_column("Name"), *(Column(f"Column number {i}", LEVEL) for i in range(12)))
    table = Table(
        name="T", columns=columns, rows=tuple((f"r{j}", *map(float, range(12))) for j in range(30))
    )
    [fits] = blocks(table, 2000.0, 2000.0)
    assert fits.scale == 1.0 and fits.columns == tuple(range(13))
    wide = sum(fits.widths)
    assert [b.columns for b in blocks(table, 0.8 * wide, 2000.0)] == [fits.columns]
    assert blocks(table, 0.8 * wide, 2000.0)[0].scale == approx(0.8)
    parts = blocks(table, 0.4 * wide, 300.0)
    assert all(b.scale == 1.0 and sum(b.widths) <= 0.4 * wide + 1e-3 for b in parts)
    seen = {(row[0], c) for b in parts for row in b.rows for c in b.columns}
    assert seen == {(f"r{j}", c) for j in range(30) for c in range(13)}
    assert all(b.columns[0] == 0 for b in parts)


# -- writing ---------------------------------------------------------------------------------------


def test_files_are_written_all_or_none(tmp_path, job):
    (tmp_path / "a.txt").write_text("before")

    def good(path, tell):
        path.write_text("after")
        return ["told"]

    def bad(path, tell):
        raise ReadError(f"{path} cannot be made.")

    with pytest.raises(ReadError, match=str(tmp_path / "b.txt")):
        write_all([Output(tmp_path / "a.txt", False, good), Output(tmp_path / "b.txt", False, bad)])
    assert (tmp_path / "a.txt").read_text() == "before"
    assert [p.name for p in tmp_path.iterdir()] == ["a.txt"]
    assert write_all([Output(tmp_path / "a.txt", False, good)]) == ["told"]
    assert (tmp_path / "a.txt").read_text() == "after"


def test_giving_up_leaves_all_as_it_was(tmp_path, job):
    (tmp_path / "drawings.pdf").write_bytes(b"old")

    def tell(share, words):
        if share > 0.3:
            raise Cancelled(words)

    with pytest.raises(Cancelled):
        write_all(
            [Output(tmp_path / "drawings.pdf", False, outputs.pdf_maker(job, outputs.chosen(job)))],
            tell,
        )
    assert (tmp_path / "drawings.pdf").read_bytes() == b"old"
    assert [p.name for p in tmp_path.iterdir()] == ["drawings.pdf"]


def test_a_folder_in_the_place_of_a_file_and_a_file_in_that_of_a_folder_are_told(tmp_path, job):
    (tmp_path / "dir.json").mkdir()
    (tmp_path / "file").write_text("kept")
    with pytest.raises(ReadError, match=r"dir.json is a folder, and a file is to be written"):
        write_all([Output(tmp_path / "dir.json", False, outputs.geojson_maker(job))])
    with pytest.raises(ReadError, match="file is a file, and a folder is to be written"):
        write_all([Output(tmp_path / "file", True, outputs.sections_maker(job))])
    assert (tmp_path / "file").read_text() == "kept"


def test_a_folder_that_is_not_there_is_told(tmp_path, job):
    with pytest.raises(ReadError, match="no folder"):
        write_all([Output(tmp_path / "no" / "a.json", False, outputs.geojson_maker(job))])


def test_names_of_sheets_pick_them_and_unknown_ones_are_told(job):
    assert {leaf.sheet.title for leaf in outputs.chosen(job, ["Chambers"])} == {"Chambers"}
    assert [leaf.number for leaf in outputs.chosen(job, ["Q-01"])] == ["Q-01"]
    with pytest.raises(ReadError, match='no sheet "Chamber"'):
        outputs.chosen(job, ["Chamber"])


def test_svg_files_have_the_size_of_their_paper(tmp_path, job):
    from lxml import etree

    write_all([Output(tmp_path / "svg", True, outputs.svg_maker(job, outputs.chosen(job)[:2]))])
    files = sorted((tmp_path / "svg").iterdir())
    assert len(files) == 2
    root = etree.parse(files[0]).getroot()
    assert (root.get("width"), root.get("height")) == ("841mm", "594mm")
    assert "General plan" in etree.tostring(root, method="text", encoding="unicode")


def test_a_job_without_sheets_says_so(tmp_path, job):
    bare = Job(replace(job.project, sheets={}), job.facts, job.findings)
    with pytest.raises(ReadError, match="no sheets yet"):
        write_all(
            [Output(tmp_path / "a.pdf", False, outputs.pdf_maker(bare, outputs.chosen(bare)))]
        )


def test_documents_are_sound_json(job):
    assert msgspec.json.decode(geojson(job))["type"] == "FeatureCollection"
    assert io.BytesIO(geojson(job)).read(1) == b"{"
