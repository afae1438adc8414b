"""Schedules written all or none."""

import os

import pytest

from zumbert.errors import ReadError
from zumbert.exchange.schedules import SCHEDULES, write_files
from zumbert.exchange.tables import Column, Table
from zumbert.model.quantity import LENGTH

TABLES = [
    Table(name=name, columns=(Column("Length", LENGTH),), rows=((1.5,),))
    for name in ("Pipes", "Trenches")
]


def quiet(share, words):
    pass


@pytest.mark.parametrize("kind", SCHEDULES)
def test_what_cannot_be_written_is_named_by_its_own_path_and_nothing_is_left(
    kind, tmp_path, monkeypatch
):
    schedule = SCHEDULES[kind]
    files = schedule.files(tmp_path / f"job.{kind}", TABLES)
    write_files(schedule, files, quiet)
    before = {f: f.read_bytes() for f in tmp_path.iterdir()}
    assert set(before) == set(files)

    def full(path, tables):
        schedule.write(path, tables)
        if path.name == list(files)[-1].name:
            raise ReadError(f"{path} could not be written: No space left on device.")

    with pytest.raises(ReadError, match="could not be written") as told:
        write_files(schedule._replace(write=full), files, quiet)
    assert str(told.value).startswith(str(list(files)[-1]))
    assert {f: f.read_bytes() for f in tmp_path.iterdir()} == before


def test_a_folder_that_is_not_there_is_told(tmp_path):
    files = SCHEDULES["csv"].files(tmp_path / "no" / "job.csv", TABLES)
    with pytest.raises(ReadError, match="Nothing could be written to .*no: No such file"):
        write_files(SCHEDULES["csv"], files, quiet)


def test_files_are_readable_as_any_other(tmp_path):
    files = SCHEDULES["csv"].files(tmp_path / "job.csv", TABLES)
    write_files(SCHEDULES["csv"], files, quiet)
    (tmp_path / "other").touch()
    assert {os.stat(f).st_mode for f in files} == {os.stat(tmp_path / "other").st_mode}
