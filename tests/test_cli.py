import json
import subprocess
import sys
from pathlib import Path

import pytest

from tests.build import chain, v_project
from zumbert.cli import main
from zumbert.demo.make import FILES
from zumbert.exchange import landxml
from zumbert.log import log_file
from zumbert.store import load, save

IMPORT = [
    "--landxml", str(FILES / "quillerby.xml"), "--structures", str(FILES / "structures.csv"),
    "--pipes", str(FILES / "pipes.csv"), "--standard", str(FILES / "standard.toml"), "--trench",
    str(FILES / "trench.toml"), "--ground", "Existing ground", "--design", "Road design",
]  # fmt: skip


@pytest.fixture
def v(tmp_path):
    save(v_project(), tmp_path / "v.zumbert")
    return str(tmp_path / "v.zumbert")


def run(capsys, *arguments):
    status = main(list(arguments))
    return status, *capsys.readouterr()


def test_import_then_check(tmp_path, capsys):
    out = str(tmp_path / "q.zumbert")
    status, said, told = run(capsys, "import", out, *IMPORT)
    assert (status, said) == (0, "")
    assert "2 roads, 2 surfaces" in told
    status, said, _ = run(capsys, "check", out)
    assert status == 1
    assert "4 breaches, 0 cautions." in said


def test_the_worked_check(v, capsys):
    status, said, told = run(capsys, "check", v, "--json")
    assert (status, told) == (1, "")
    report = json.loads(said)
    assert set(report) >= {"project", "counts", "findings", "pipes", "structures"}
    [pipe] = report["pipes"]
    assert pipe["cover_min"] == pytest.approx(0.305)
    assert pipe["cover_min_at"] == 30.0
    assert set(pipe) >= {
        "label",
        "from",
        "to",
        "dn",
        "invert_up",
        "invert_down",
        "slope",
        "length_centre_plan",
        "length_wall_plan",
        "length_centre_slope",
        "length_wall_slope",
        "cover_min",
        "cover_min_at",
        "cover_max",
        "cover_max_at",
    }
    [finding] = [f for f in report["findings"] if f["rule"] == "cover_min"]
    assert (finding["object"], finding["at"]["distance"], finding["limit"]) == ("P1", 30.0, 0.9)
    assert set(report["structures"][0]) == {
        "label",
        "type",
        "x",
        "y",
        "road",
        "chainage",
        "offset",
        "rim",
        "depth",
        "sump_level",
        "drops",
    }
    assert report["structures"][0]["chainage"] is None
    status, said, _ = run(capsys, "check", v, "--json", "--rule", "slope_min")
    assert (status, json.loads(said)["findings"]) == (0, [])


def test_status_0_where_nothing_is_broken(tmp_path, capsys):
    save(chain([(48.0, 47.5)]), tmp_path / "c.zumbert")
    assert run(capsys, "check", str(tmp_path / "c.zumbert"))[0] == 0


@pytest.mark.parametrize(
    "arguments",
    [
        ["check", "nowhere.zumbert"],
        ["check"],
        ["check", "V", "--rule", "cover_minn"],
        ["no-such-file.zumbert"],
        ["lay", "V"],
        ["lay", "V", "--at", "1 2"],
        ["regrade", "V", "--from", "A", "--to", "B", "--start", "1"],
        ["regrade", "V", "--from", "A", "--to", "Z", "--start", "1", "--slope", "0.01"],
        ["regrade", "V", "--from", "A", "--to", "B", "--start", "1", "--slope", "steep"],
        ["regrade", "V", "--from", "A", "--to", "B", "--start", "x", "--slope", "1%"],
        ["quantities", "V", "--basis", "longest"],
        ["quantities", "V", "--xlsx", "/nowhere/at/all.xlsx"],
        ["import", "OUT", "--structures", "nowhere.csv"],
        ["import", "OUT", "--landxml", "nowhere.xml"],
        ["import", "OUT", "--standard", "nowhere.toml"],
    ],
)
def test_refused_with_one_sentence_and_nothing_written(v, tmp_path, capsys, monkeypatch, arguments):
    monkeypatch.setenv("QT_QPA_PLATFORM", "offscreen")
    before = Path(v).read_bytes()
    out = str(tmp_path / "out.zumbert")
    status, said, told = run(capsys, *[{"V": v, "OUT": out}.get(a, a) for a in arguments])
    assert (status, said) == (2, "")
    assert len(told.strip().splitlines()) == 1
    assert "Traceback" not in told
    assert Path(v).read_bytes() == before
    assert not (tmp_path / "out.zumbert").exists()


def test_lay_and_regrade_and_count(tmp_path, capsys):
    path, laid, graded = (str(tmp_path / n) for n in ("a.zumbert", "b.zumbert", "c.zumbert"))
    run(capsys, "import", path, *IMPORT)
    places = [a for ch in ("20 1.0", "52 1.0", "88 1.0") for a in ("--at", ch)]
    status, said, _ = run(
        capsys,
        "lay",
        path,
        "--road",
        "Tansymoor Lane",
        "--type",
        "manhole-1050",
        "--size",
        "225",
        *places,
        "--from",
        "S4",
        "--up",
        "-o",
        laid,
    )
    assert status == 0
    assert [line.split()[0] for line in said.splitlines()] == ["S14", "S15", "S16"]
    assert len(load(laid).pipes) == len(load(path).pipes) + 3
    status, said, _ = run(
        capsys,
        "regrade",
        laid,
        "--from",
        "S4",
        "--to",
        "S16",
        "--start",
        "40.3",
        "--slope",
        "-2.5%",
        "--drop",
        "0.05",
        "--drop-at",
        "S15=0.1",
        "--no-drop-at",
        "S14",
        "-o",
        graded,
    )
    assert status == 0
    assert "+ drops 0.100 =" in said
    status, said, _ = run(
        capsys,
        "quantities",
        graded,
        "--json",
        "--basis",
        "wall-slope",
        "--xlsx",
        str(tmp_path / "q.xlsx"),
    )
    report = json.loads(said)
    assert status == 0
    assert set(report["totals"]) == {"proposed", "existing"}
    assert report["totals"]["proposed"]["excavation"] == pytest.approx(
        sum(p["excavation"] for p in report["pipes"] if p["status"] == "proposed")
        + sum(s["excavation"] for s in report["structures"] if s["status"] == "proposed")
    )
    assert (tmp_path / "q.xlsx").exists()
    assert run(capsys, "quantities", graded)[0] == 0


def test_a_negative_offset_and_start_can_be_typed(tmp_path, capsys):
    path = str(tmp_path / "a.zumbert")
    run(capsys, "import", path, *IMPORT)
    status, _, told = run(
        capsys,
        "lay",
        path,
        "--road",
        "Quillerby Rise",
        "--at",
        "200 -6.5",
        "--at",
        "240 -6.5",
        "--levels",
        "1:80",
        "--start",
        "46",
        "--up",
        "-o",
        str(tmp_path / "b.zumbert"),
    )
    assert status == 0, told
    last = list(load(tmp_path / "b.zumbert").pipes.values())[-1]
    assert last.invert_down == 46.0


def test_the_example_does_the_whole_job(tmp_path, capsys):
    status, said, _ = run(capsys, "example", "--out", str(tmp_path / "ex"))
    assert status == 0
    assert "Regraded it from its top down to S4" in said
    assert {p.name for p in (tmp_path / "ex").iterdir()} >= {
        "quillerby.zumbert",
        "schedules.xlsx",
        "pipes.csv",
        "structures.csv",
        "long-section.svg",
    }
    assert len(load(tmp_path / "ex" / "quillerby.zumbert").pipes) == 40


def test_it_runs_as_a_program():
    done = subprocess.run(
        [sys.executable, "-m", "zumbert", "check", "nowhere"],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 2
    assert done.stderr.strip() == "nowhere does not exist: check the name."
    assert (
        "PySide6"
        not in subprocess.run(
            [sys.executable, "-X", "importtime", "-m", "zumbert", "--version"],
            capture_output=True,
            text=True,
            check=True,
        ).stderr
    )


def test_an_unknown_command_is_no_file_name(capsys, tmp_path):
    assert main(["exprt", "x"]) == 2
    assert 'There is no command "exprt", nor a file of that name: ' in capsys.readouterr().err
    assert main(["chekc"]) == 2
    assert 'did you mean "check"?' in capsys.readouterr().err
    assert main([str(tmp_path / "nothing.zumbert")]) == 2  # written as a file, and none is there
    assert "did you mean" not in capsys.readouterr().err


def failing(*_, **__):
    raise KeyError("put here by a test")


def test_a_file_that_makes_a_reader_stumble_is_refused_by_name_and_logged(
    tmp_path, capsys, monkeypatch
):
    monkeypatch.setattr(landxml, "_root", failing)
    out = tmp_path / "q.zumbert"
    status, said, told = run(capsys, "import", str(out), *IMPORT)
    assert (status, said) == (2, "")
    assert told.startswith(f"{FILES / 'quillerby.xml'} could not be read (KeyError)")
    assert told.count("\n") == 1
    assert not out.exists()
    assert "put here by a test" in log_file().read_text()
    assert "zumbert import" in log_file().read_text()  # what was asked for


@pytest.mark.parametrize("error", [KeyError("x"), ValueError("x"), RecursionError("x")])
def test_a_fault_of_the_program_is_no_bad_input(v, capsys, monkeypatch, error):
    def fail(*_):
        raise error

    monkeypatch.setattr("zumbert.checks.check", fail)
    status, said, told = run(capsys, "check", v)
    assert (status, said) == (3, "")
    assert str(log_file()) in told
    assert type(error).__name__ in log_file().read_text()


def test_the_log_is_printed(v, capsys, monkeypatch):
    status, said, told = run(capsys, "--log")
    assert (status, said) == (0, "Nothing has gone wrong yet.\n")
    assert str(log_file()) in told
    monkeypatch.setattr("zumbert.checks.check", failing)
    run(capsys, "check", v)
    assert "put here by a test" in run(capsys, "--log")[1]
