import pytest
from pytest import approx

from zumbert.model.display import MINUS, chainage, number, percent, ratio
from zumbert.model.slope import parsed_slope
from zumbert.model.standard import DROP_BY_DEFLECTION, limit_at


@pytest.mark.parametrize("text", ["0.0125", "1.25%", "1.25 %", "1:80", " 1 : 80 "])
def test_three_ways_to_write_one_slope(text):
    assert parsed_slope(text) == approx(0.0125)


@pytest.mark.parametrize("text", ["-1%", f"{MINUS}0.01", "-1:100", "1:-100"])
def test_a_slope_may_be_negative(text):
    assert parsed_slope(text) == approx(-0.01)


@pytest.mark.parametrize("text", ["", "steep", "1:0", "nan", "inf", "1:2:3"])
def test_what_is_no_slope_is_refused_in_a_sentence(text):
    with pytest.raises(ValueError, match="is no slope: write it as"):
        parsed_slope(text)


def test_the_drop_table_goes_up_to_and_including():
    assert [limit_at(DROP_BY_DEFLECTION, a) for a in (0, 15, 15.1, 45, 45.01, 180, 200)] == [
        0.02, 0.02, 0.03, 0.03, 0.05, 0.05, 0.05,
    ]  # fmt: skip


def test_figures_as_people_read_them():
    assert chainage(123.45) == "0+123.45"
    assert chainage(1999.999, 2) == "2+000.00"
    assert chainage(-5.0) == f"{MINUS}0+005.00"
    assert chainage(20, 0) == "0+020"
    assert number(-0.0004, 3) == "0.000"
    assert number(-1.5, 2) == f"{MINUS}1.50"
    assert number(0.305 - 1e-17, 2) == "0.31"
    assert percent(0.0284) == "2.84 %"
    assert (ratio(1 / 80), ratio(0.0), ratio(None)) == ("1:80", "level", "\u2013")
