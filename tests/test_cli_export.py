"""`zumbert export` and `zumbert issue`: the same files with no window."""

import json

import ezdxf
import pytest
from msgspec.structs import replace
from pypdf import PdfReader

from zumbert.cli import main
from zumbert.demo.project import demo_project
from zumbert.store import load, save


@pytest.fixture(scope="module")
def file(tmp_path_factory):
    path = tmp_path_factory.mktemp("cli") / "a job.zumbert"
    save(demo_project(), path)
    return str(path)


def test_each_kind_of_file_is_written(file, tmp_path, capsys):
    out = {
        k: str(tmp_path / v)
        for k, v in {
            "--pdf": "a.pdf",
            "--dxf": "a.dxf",
            "--landxml": "a.xml",
            "--geojson": "a.geojson",
            "--gltf": "a.glb",
            "--svg": "svg",
            "--schedules": "lists",
        }.items()
    }
    assert (
        main(
            ["export", file, "--sheets", "General plan", *(v for pair in out.items() for v in pair)]
        )
        == 0
    )
    assert len(PdfReader(out["--pdf"]).pages) == 1
    assert not ezdxf.readfile(out["--dxf"]).audit().errors
    assert json.loads((tmp_path / "a.geojson").read_text())["features"]
    assert (tmp_path / "a.glb").read_bytes()[:4] == b"glTF"
    assert len(list((tmp_path / "svg").iterdir())) == 1
    assert (tmp_path / "lists" / "schedules.xlsx").exists()
    told = capsys.readouterr()
    assert (
        told.out == ""
        and "LandXML has no place for" in told.err
        and told.err.count("Written:") == 7
    )


def test_a_sheet_that_is_not_there_writes_nothing(file, tmp_path, capsys):
    assert (
        main(
            [
                "export",
                file,
                "--sheets",
                "Generl plan",
                "--pdf",
                str(tmp_path / "a.pdf"),
                "--geojson",
                str(tmp_path / "b"),
            ]
        )
        == 2
    )
    assert 'There is no sheet "Generl plan"' in capsys.readouterr().err
    assert list(tmp_path.iterdir()) == []


def test_nothing_to_write_and_no_folder_are_told(file, tmp_path, capsys):
    assert main(["export", file]) == 2
    assert "Nothing to write" in capsys.readouterr().err
    assert main(["export", file, "--pdf", str(tmp_path / "no" / "a.pdf")]) == 2
    assert "There is no folder" in capsys.readouterr().err


def test_sheets_are_made_where_there_are_none(file, tmp_path):
    bare = tmp_path / "bare.zumbert"
    save(replace(load(file), sheets={}), bare)
    assert main(["export", str(bare), "--pdf", str(tmp_path / "a.pdf")]) == 2
    assert (
        main(
            [
                "export",
                str(bare),
                "--usual-sheets",
                "--sheets",
                "Chambers",
                "--pdf",
                str(tmp_path / "a.pdf"),
            ]
        )
        == 0
    )
    assert PdfReader(tmp_path / "a.pdf").pages
    assert load(bare).sheets == {}  # the file is as it was


def test_an_issue_is_kept_and_later_schedules_tell_what_changed(file, tmp_path, capsys):
    first = tmp_path / "first.zumbert"
    assert (
        main(["issue", file, "--words", 'for "tender"', "--date", "2026-11-27", "-o", str(first)])
        == 0
    )
    assert "Issued as A, 2026-11-27" in capsys.readouterr().err
    project = load(first)
    assert [(i.name, i.words) for i in project.issues.values()] == [("A", 'for "tender"')]
    p5 = next(k for k, p in project.pipes.items() if p.label == "P5")
    lower = replace(project.pipes[p5], invert_up=project.pipes[p5].invert_up - 0.1)
    save(replace(project, pipes={**project.pipes, p5: lower}), first)
    assert main(["export", str(first), "--schedules", str(tmp_path / "out")]) == 0
    text = (tmp_path / "out" / "differences.csv").read_text()
    assert "P5,Invert up" in text
    assert "Changed since A" in (tmp_path / "out" / "pipes.csv").read_text().splitlines()[0]
