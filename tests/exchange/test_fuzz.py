import warnings

from tests.fuzz import run


def test_broken_files_are_refused_with_a_sentence_or_taken():
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        tried, faults = run(20.0, seed=20261125, most=1500)
    assert faults == []
    assert tried > 50
