import pytest
from msgspec.structs import replace

from tests.build import chain, facts_of, grounded
from zumbert.edits.digging import (
    counted_as,
    set_amount,
    set_bands,
    set_rate,
    set_statuses_dug,
    set_strata,
    set_to_centres,
)
from zumbert.edits.fields import set_field
from zumbert.edits.trenchtypes import (
    add_size,
    add_trench_type,
    copied_trench_type,
    dimension_meant,
    dimension_words,
    remove_size,
    remove_trench_type,
    rename_trench_type,
    set_pipe_trench,
    set_size_range,
    set_size_value,
    set_trench_upper,
    set_trench_value,
)
from zumbert.errors import EditError
from zumbert.model.digging import Stratum
from zumbert.model.display import Units
from zumbert.model.trench import TrenchSize, TrenchType

P = chain([(48.0, 47.5), (47.4, 46.9)])
[TRENCH] = P.trench_types
BOREHOLES = ((0.0, 0.0, 48.0), (50.0, 0.0, 48.0), (0.0, 50.0, 48.0))


def test_amounts():
    p = set_amount(P, "bulking", 1.3)
    assert p.digging.bulking == 1.3
    assert set_amount(p, "bulking", 1.3) is p
    for key, value, words in (
        ("bulking", 0.9, "between 1 and 3"),
        ("reuse", 1.2, "between 0 and 1"),
        ("bulk", 1.0, "did you mean"),
    ):
        with pytest.raises(EditError, match=words):
            set_amount(P, key, value)


def test_depth_bands_rise_from_0():
    assert set_bands(P, [0, 1, 2.5]).digging.band_names == ("0-1", "1-2.5", "2.5-")
    for bands in ([], [1.0, 2.0], [0.0, 2.0, 2.0], [0.0, 3.0, 2.0], [0.0, float("nan")]):
        with pytest.raises(EditError, match="depth band|Depth bands"):
            set_bands(P, bands)


def test_strata_that_can_be():
    p = set_strata(
        P, [Stratum(name=" topsoil ", thickness=0.2), Stratum(name="rock", boreholes=BOREHOLES)]
    )
    assert [s.name for s in p.digging.strata] == ["topsoil", "rock"]
    for strata, words in (
        ([Stratum(name=" ")], "needs a name"),
        ([Stratum(name="a"), Stratum(name="a ")], "one name"),
        ([Stratum(name="a", surface="nowhere")], "is not there"),
        ([Stratum(name="a", thickness=0.0)], "more than 0 thick"),
        ([Stratum(name="a", boreholes=BOREHOLES[:2])], "three boreholes"),
    ):
        with pytest.raises(EditError, match=words):
            set_strata(P, strata)


def test_rates():
    p = set_rate(set_rate(P, "Gully 450", "", 180.0), "Excavation", "m³", 12.5)
    assert [(r.item, r.rate) for r in p.digging.rates] == [
        ("Excavation", 12.5),
        ("Gully 450", 180.0),
    ]
    assert [r.item for r in set_rate(p, "Gully 450", "", None).digging.rates] == ["Excavation"]
    with pytest.raises(EditError, match="0 or more"):
        set_rate(P, "Gully 450", "", -1.0)


def test_one_count_asks_for_other_things():
    p = counted_as(P, True, "lower", ["existing", "proposed"], ["storm"])
    assert p.digging.to_centres
    assert p.digging.statuses == {"existing", "proposed"}
    assert {t.upper for t in p.trench_types.values()} == {"lower"}
    assert counted_as(P) is P
    assert set_to_centres(P, False) is P
    assert set_statuses_dug(P, ["proposed"]) is P
    for values, words in (
        ({"upper": "sky"}, "known are existing"),
        ({"statuses": ["old"]}, "no status"),
        ({"networks": ["Strom"]}, "did you mean"),
    ):
        with pytest.raises(EditError, match=words):
            counted_as(P, **values)


def test_rows_of_a_trench_type():
    p = set_size_range(P, TRENCH, 0, 300.0, "")
    p = add_size(p, TRENCH, 600.0)
    p = set_size_value(p, TRENCH, 1, "width", ((1.5, 0.9), (3.0, 1.2)))
    sizes = p.trench_types[TRENCH].sizes
    assert [s.dn for s in sizes] == [300.0, 600.0]
    assert sizes[1].width == ((1.5, 0.9), (3.0, 1.2))
    assert remove_size(p, TRENCH, 0).trench_types[TRENCH].sizes == sizes[1:]
    with pytest.raises(EditError, match="already a row"):
        add_size(p, TRENCH, 300.0)
    with pytest.raises(EditError, match="one row at least"):
        remove_size(P, TRENCH, 0)
    for key, value, words in (
        ("width", 0.0, "more than 0"),
        ("bedding", -0.1, "0 or more"),
        ("bedding", None, "needs a value"),
        ("batter", ((1.0, 2.0),), "one number"),
        ("width", ((2.0, 1.0), (1.0, 1.0)), "go up"),
        ("witdh", 1.0, "did you mean"),
    ):
        with pytest.raises(EditError, match=words):
            set_size_value(P, TRENCH, 0, key, value)
    with pytest.raises(EditError, match="more than 0 mm"):
        set_size_range(P, TRENCH, 0, 0.0, "")


def test_types_come_and_go():
    p, key = add_trench_type(
        P, TrenchType(id="", name="Built-in trench", sizes=(TrenchSize(width=2.0),))
    )
    assert p.trench_types[key].name == "Built-in trench 2"
    p, copy = copied_trench_type(p, key)
    p = rename_trench_type(p, copy, "Rock")
    p = set_trench_upper(set_trench_value(p, copy, "spacing", 5.0), copy, "formation")
    assert (p.trench_types[copy].spacing, p.trench_types[copy].upper) == (5.0, "formation")
    p = set_pipe_trench(p, ["P1"], copy)
    with pytest.raises(EditError, match="is the trench of P1"):
        remove_trench_type(p, copy)
    with pytest.raises(EditError, match="is the trench of Storm"):
        remove_trench_type(p, TRENCH)
    assert copy not in remove_trench_type(set_pipe_trench(p, ["P1"], None), copy).trench_types
    with pytest.raises(EditError, match="more than 0"):
        set_trench_value(p, copy, "spacing", 0.0)
    with pytest.raises(EditError, match="known are existing"):
        set_trench_upper(p, copy, "sky")


def test_a_pipe_takes_a_trench_by_name_as_tables_do():
    p, key = add_trench_type(P, TrenchType(id="", name="Rock", sizes=(TrenchSize(width=2.0),)))
    q = set_field(p, facts_of(p), "P1", "trench", "rock")
    assert q.pipes["P1"].trench == key
    assert set_field(q, facts_of(q), "P1", "trench", "Built-in trench").pipes["P1"].trench is None
    with pytest.raises(EditError, match="no trench type"):
        set_field(p, facts_of(p), "P1", "trench", "Sand")


@pytest.mark.parametrize("us", [False, True])
def test_dimensions_as_they_are_typed(us):
    u = Units(system="us") if us else Units()
    for key, value in (
        ("width", 1.05),
        ("width", ((1.5, 0.9), (3.0, 1.1))),
        ("batter", 0.25),
        ("surround", None),
    ):
        words = dimension_words(u, key, value)
        meant = dimension_meant(u, key, words)
        if isinstance(value, tuple):
            assert [v for r in meant for v in r] == pytest.approx(
                [v for r in value for v in r], abs=1e-4
            )
        else:
            assert meant == (None if value is None else pytest.approx(value, abs=1e-4))
    assert dimension_meant(Units(), "surround", "none") is None
    assert dimension_meant(Units(), "width", "1.5: 0.9; 3:1.1") == ((1.5, 0.9), (3.0, 1.1))


def test_a_network_that_goes_leaves_no_trace():
    from zumbert.edits.digging import set_network_counted
    from zumbert.edits.networks import add_network, remove_network

    p, other = add_network(grounded([(0, 1.0), (9, 1.0)]), "Other", next(iter(P.networks)))
    p = set_network_counted(p, other, False)
    assert remove_network(p, other).digging.left_out == frozenset()
    assert replace(p.digging, left_out=frozenset()) == P.digging
