import pytest
from hypothesis import given
from hypothesis import strategies as st
from pytest import approx

from zumbert.errors import ReadError
from zumbert.exchange.trenchtoml import read_trench, shipped_trenches, write_trench
from zumbert.model.trench import TrenchSize, TrenchType
from zumbert.model.unitsystem import UNIT_SYSTEMS


def read(tmp_path, text):
    path = tmp_path / "t.toml"
    path.write_text(text)
    return read_trench(path)


def test_one_trench_for_all_sizes(tmp_path):
    t = read(tmp_path, "width = 1.2\nbatter = 0.25\nupper = 'lower'\nbase_thickness = 0.15\n")
    assert t.sizes == (TrenchSize(width=1.2, batter=0.25),)
    assert (t.upper, t.base_thickness, t.name) == ("lower", 0.15, "t")
    assert t.size_for(2000.0) == t.sizes[0]


def test_a_table_by_size_and_ground(tmp_path):
    t = read(
        tmp_path,
        """
[[sizes]]
dn = 300
width = { "1.5" = 0.9, "3" = 1.1 }
[[sizes]]
dn = 600
side = 0.3
surround = 0.15
[[sizes]]
dn = 600
ground = "rock"
side = 0.2
""",
    )
    assert t.size_for(225.0).width == ((1.5, 0.9), (3.0, 1.1))
    assert [t.size_for(225.0).width_at(0.285, d) for d in (1.0, 1.5, 2.0, 9.0)] == [
        0.9,
        0.9,
        1.1,
        1.1,
    ]
    assert t.size_for(450.0).width_at(0.56, 2.0) == approx(1.16)
    assert t.size_for(450.0, "rock").side == 0.2  # its own ground before any
    assert t.size_for(225.0, "rock").side == 0.2
    assert t.size_for(750.0) is None


def test_depths_with_a_point_need_no_quotes(tmp_path):
    t = read(tmp_path, "width = { 1.5 = 0.9, 1.75 = 1.0, 3 = 1.1 }\n")
    assert t.sizes[0].width == ((1.5, 0.9), (1.75, 1.0), (3.0, 1.1))
    with pytest.raises(ReadError, match="it is a number"):
        read(tmp_path, "width = { 1.5.2 = 0.9 }\n")


def test_feet_and_inches(tmp_path):
    t = read(
        tmp_path,
        (
            'units = "us"\nspacing = 10\n[[sizes]]\ndn = 12\nwidth = { "5" = 3, "10" = 4 '
            "}\nbatter = "
            "0.5\n"
        ),
    )
    assert t.spacing == approx(3.048)
    [size] = t.sizes
    assert (size.dn, size.batter) == (approx(304.8), 0.5)
    assert size.width == ((approx(1.524), approx(0.9144)), (approx(3.048), approx(1.2192)))


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("width = 0", "width is 0: it is more than 0"),
        ("upper = 'sky'", "one of existing"),
        ("widht = 1", "did you mean"),
        ("bedding = -0.1", "it is 0 or more"),
        ('bedding = { "1" = 0.1 }', "it is one number"),
        ("sizes = 3", "write each as"),
        ('[[sizes]]\nwidth = { "deep" = 1 }', "which is no number"),
        ("[[sizes]]\nspacing = 2", "sizes 1: spacing"),
        ("bedding = 0.1\n[[sizes]]\nwidth = 1", '"bedding" means nothing here'),
        ("batter = 'steep'", "it is a number"),
    ],
)
def test_a_bad_trench_is_refused(tmp_path, text, words):
    with pytest.raises(ReadError, match=words):
        read(tmp_path, text)


LENGTHS = st.floats(0.05, 9).map(lambda v: round(v, 3))
TABLES = st.lists(
    st.tuples(LENGTHS, LENGTHS), min_size=1, max_size=3, unique_by=lambda r: r[0]
).map(lambda r: tuple(sorted(r)))
SIZES = st.builds(
    TrenchSize, dn=st.none() | st.sampled_from([300.0, 609.6]),
    ground=st.sampled_from(["", "rock", 'clay "stiff"']),
    width=LENGTHS | TABLES,
    side=st.none() | LENGTHS, batter=st.floats(0, 2).map(lambda v: round(v, 3)),
    surround=st.none() | LENGTHS,
    support_above=st.none() | LENGTHS, bench_width=LENGTHS,
)  # fmt: skip


@given(st.lists(SIZES, min_size=1, max_size=3), st.sampled_from(list(UNIT_SYSTEMS)))
def test_what_is_written_is_read_again(tmp_path_factory, sizes, system):
    path = tmp_path_factory.mktemp("t") / "t.toml"
    old = TrenchType(id="", name='Type "B"', sizes=tuple(sizes), upper="formation", spacing=5.0)
    write_trench(old, path, system)
    new = read_trench(path)
    assert (new.name, new.upper, new.spacing) == (old.name, old.upper, approx(5.0))
    for a, b in zip(old.sizes, new.sizes, strict=True):
        assert a.ground == b.ground
        for key in (
            "dn",
            "side",
            "batter",
            "surround",
            "support_above",
            "bench_width",
            "vertical_height",
        ):
            assert getattr(a, key) == approx(getattr(b, key))
        assert (
            a.width if isinstance(a.width, float) else [v for r in a.width for v in r]
        ) == approx(b.width if isinstance(b.width, float) else [v for r in b.width for v in r])


def test_the_sets_that_ship():
    names = [t.name for t in shipped_trenches()]
    assert names == ["Roads and verges", "Upright and supported"]
    for t in shipped_trenches():
        assert all(t.size_for(dn) is not None for dn in (150.0, 300.0, 600.0, 900.0, 1200.0))
        assert t.size_for(2000.0) is None
