"""What people type, understood in one way wherever it is typed."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pytest import approx

from zumbert.errors import TypedError
from zumbert.model import quantity as q
from zumbert.model.display import METRIC, Units
from zumbert.model.typed import MINUS, typed_number

US = Units(system="us")
KINDS = [v for v in vars(q).values() if isinstance(v, q.Quantity)]


@given(st.sampled_from(KINDS), st.sampled_from([METRIC, US]), st.floats(-1e4, 1e4))
def test_what_is_written_with_its_unit_is_typed_back(kind, u, value):
    unit = u.measures.unit(kind)
    stored = value * unit.size
    shown = u.with_unit(kind, stored)
    if unit.name in ("%", "1 in"):  # slopes have a parser of their own
        return
    assert u.typed(shown, of=kind) == approx(
        stored, abs=0.51 * 10**-unit.decimals * unit.size + 1e-9
    )


@pytest.mark.parametrize(
    ("of", "text", "metric", "us"),
    [
        (q.LENGTH, "0.9", 0.9, 0.27432),
        (q.LENGTH, "1e3", 1000.0, 304.8),
        (q.LENGTH, "2e2 mm", 0.2, 0.2),
        (q.SMALL, "1e2", 100.0, 2540.0),
        (q.LENGTH, "900 mm", 0.9, 0.9),
        (q.LENGTH, f"{MINUS}1.5 ft", -0.4572, -0.4572),
        (q.LEVEL, "42.1-0.3", 41.8, 12.74064),
        (q.LEVEL, "42.1 - 0.3 m", 41.8, 41.8),
        (q.SMALL, "12", 12.0, 304.8),
        (q.SMALL, "12in", 304.8, 304.8),
        (q.SMALL, "0.3 m", 300.0, 300.0),
        (q.SQUARE, "420", 420.0, 39.01927680),
        (q.SQUARE, "0.042 ha", 420.0, 420.0),
        (q.SQUARE, "1 acres", 4046.8564224, 4046.8564224),
        (q.FLOW, "12.5 l/s", 0.0125, 0.0125),
        (q.FLOW, "2 cfs", 0.056633693, 0.056633693),
        (q.FLOW, "0.1 m³/s", 0.1, 0.1),
        (q.INTENSITY, "2 in/h", 50.8, 50.8),
        (q.MINUTES, "90 s", 1.5, 1.5),
        (q.ANGLE, "35°", 35.0, 35.0),
        (q.SPEED, "2.5 ft/s", 0.762, 0.762),
    ],
)
def test_a_number_may_have_any_unit_of_its_kind(of, text, metric, us):
    assert METRIC.typed(text, of=of) == approx(metric, abs=1e-8)
    assert US.typed(text, of=of) == approx(us, abs=1e-8)


@pytest.mark.parametrize(
    "text", ["", "x", "m", "1,25", "3 l/s", "1.2.3", "nan", "inf m", "12 foot", "--3"]
)
def test_what_is_no_length_is_quoted_as_it_was_typed(text):
    with pytest.raises(TypedError) as e:
        METRIC.typed(text)
    assert str(e.value) == f'"{text}" is no number: write it as 41.640.'


@pytest.mark.parametrize(
    ("text", "metric", "us"),
    [("300", 300, 7620), ("DN 300", 300, 7620), ("dn300", 300, 7620), ("12 in", 304.8, 304.8)],
)
def test_a_pipe_size(text, metric, us):
    assert METRIC.typed_dn(text) == approx(metric) and US.typed_dn(text) == approx(us)


@given(st.floats(-1e6, 1e6), st.floats(-1e6, 1e6))
def test_a_sum_is_the_sum(a, b):
    text = f"{a:.3f}{b:+.3f}"
    assert typed_number(text) == approx(round(a, 3) + round(b, 3), abs=1e-6)


def test_a_bare_number_in_a_field_of_percentages():
    u = Units(slopes="ratio")
    assert [u.typed_slope(t, always=True) for t in ("2.5", "0.05", "2.5%", "1:40")] == approx(
        [0.025, 0.0005, 0.025, 0.025]
    )
