import pytest
from pytest import approx

from zumbert.model.display import METRIC, Units, number, percent, ratio
from zumbert.model.standard import DROP_BY_DEFLECTION, limit_at
from zumbert.model.typed import MINUS, typed_fraction


@pytest.mark.parametrize("text", ["0.0125", "1.25%", "1.25 %", "1:80", " 1 : 80 "])
def test_three_ways_to_write_one_slope(text):
    assert typed_fraction(text) == approx(0.0125)


@pytest.mark.parametrize("text", ["-1%", f"{MINUS}0.01", "-1:100", "1:-100"])
def test_a_slope_may_be_negative(text):
    assert typed_fraction(text) == approx(-0.01)


@pytest.mark.parametrize("text", ["", "steep", "1:0", "nan", "inf", "1:2:3"])
def test_what_is_no_slope_is_refused_in_a_sentence(text):
    with pytest.raises(ValueError, match="is no slope: write it as"):
        typed_fraction(text)


def test_the_drop_table_goes_up_to_and_including():
    assert [limit_at(DROP_BY_DEFLECTION, a) for a in (0, 15, 15.1, 45, 45.01, 180, 200)] == [
        0.02,
        0.02,
        0.03,
        0.03,
        0.05,
        0.05,
        0.05,
    ]


def test_figures_as_people_read_them():
    chainage = METRIC.chainage
    assert chainage(123.45) == "0+123.45"
    assert chainage(1999.999, 2) == "2+000.00"
    assert chainage(-5.0) == f"{MINUS}0+005.00"
    assert chainage(20, 0) == "0+020"
    assert number(-0.0004, 3) == "0.000"
    assert number(-1.5, 2) == f"{MINUS}1.50"
    assert number(0.305 - 1e-17, 2) == "0.31"
    assert percent(0.0284) == "2.84 %"
    assert (ratio(1 / 80), ratio(0.0), ratio(None)) == ("1:80", "level", "\u2013")


US = Units(system="us")


def test_feet_inches_and_yards():
    # 1234.56 ft = 376.294 m; 1 yd³ = 27 ft³ = 0.764555 m³; 1 acre = 43560 ft²
    assert US.chainage(1234.56 * 0.3048) == "12+34.56"
    assert US.chainage(-5 * 0.3048) == f"{MINUS}0+05.00"
    assert US.level(10 * 0.3048) == "10.00"
    assert US.long(0.3048 * 7.125) == "7.13 ft"
    assert US.volume(0.764554857984 * 12) == "12.0"
    assert US.area(4046.8564224 * 2) == "87120.0 ft², 2.000 ac"
    assert METRIC.area(12_345.6) == "12345.6 m², 1.235 ha"
    assert METRIC.area(100.0) == "100.0 m²"
    assert (US.dn(304.8), METRIC.dn(300.0)) == ("12 in", "DN 300")
    assert US.step(-0.03048) == f"{MINUS}0.10"


@pytest.mark.parametrize("text", ["1234.5", "12+34.5", " 12+34.5 "])
def test_a_chainage_in_feet_is_taken_in_both_ways(text):
    assert US.typed_chainage(text) == approx(1234.5 * 0.3048)


def test_a_typed_chainage_before_nothing():
    assert METRIC.typed_chainage("-1+005") == approx(-1005)
    assert METRIC.typed_chainage("-12.5") == approx(-12.5)


def test_chainages_and_slopes_as_the_project_has_them():
    plain = Units(chainages="plain", slopes="ratio")
    assert plain.chainage(412.5) == "412.50"
    assert (plain.slope(1 / 80), plain.other_slope(1 / 80)) == ("1:80", "1.25 %")
    assert Units(slopes="fraction").slope(0.0125) == "0.0125"
