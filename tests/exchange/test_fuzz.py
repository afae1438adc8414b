import warnings

from tests.amount import times
from tests.fuzz import run


def test_broken_files_are_refused_with_a_sentence_or_taken():
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        tried, faults = run(times(8.0, 300.0), seed=20261125, most=times(1500))
    assert faults == []
    assert tried > 50
