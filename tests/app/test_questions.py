"""Which file is written: the ending, characters that no file name has, and files that are there."""

import pytest
from PySide6.QtWidgets import QFileDialog

from zumbert.app import questions

KINDS = "Spreadsheet (*.xlsx);;CSV, a file a table (*.csv)"


@pytest.fixture
def choose(user, tmp_path, monkeypatch):
    """Answers the file dialog with a typed name and a kind, and what follows with a button;
    tells what was asked.
    """
    asked = []

    def run(typed, kind=0, button=0, name="job.xlsx", kinds=KINDS):
        def dialog(parent, title, start, filters):
            asked.append(start)
            return (
                str(tmp_path / typed) if typed else "",
                filters.split(";;")[kind] if typed else "",
            )

        monkeypatch.setattr(QFileDialog, "getSaveFileName", dialog)
        monkeypatch.setattr(questions, "ask", lambda *a: asked.append(a[3]) or button)
        path = questions.file_to_write(user.window, "Export", str(tmp_path), name, kinds)
        return None if path is None else path.relative_to(tmp_path).name

    run.asked = asked
    return run


def test_the_ending_is_that_of_the_chosen_kind_where_none_is_typed(choose):
    assert choose("job") == "job.xlsx"
    assert choose("job", kind=1) == "job.csv"
    assert choose("job v1.2", kind=1) == "job v1.2.csv"  # what follows the full stop is no ending
    assert choose("job.CSV") == "job.CSV"
    assert choose("job", kinds="") == "job"
    assert choose("") is None


def test_a_name_with_a_slash_and_quotes_is_one_file_in_its_folder(choose, tmp_path):
    choose("job", name='Rise "A/B".xlsx')
    assert choose.asked == [str(tmp_path / "Rise 'A-B'.xlsx")]


def test_a_file_that_the_ending_meets_is_asked_about(choose, tmp_path):
    (tmp_path / "job.csv").write_text("mine")
    assert choose("job", kind=1, button=1) is None
    assert choose.asked[-1] == "job.csv is there already."
    assert choose("job", kind=1, button=0) == "job.csv"
    choose.asked.clear()
    assert choose("job.csv", kind=1) == "job.csv"  # the dialog itself has asked
    assert len(choose.asked) == 1
