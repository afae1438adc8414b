import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from zumbert.errors import ReadError
from zumbert.exchange.library import read_library, write_library, write_shelf
from zumbert.model.catalogue import Inlet
from zumbert.model.project import new_project

P = new_project("library")


def test_a_library_comes_back_from_toml_as_it_went(tmp_path):
    write_library(tmp_path / "l.toml", P)
    back = read_library(tmp_path / "l.toml")
    assert {t.key: t for t in back.types} == P.types
    assert {s.key: s for s in back.sizes} == P.sizes
    assert back.words == f"{len(P.types)} structure types, {len(P.sizes)} pipe sizes"


@pytest.mark.parametrize("shelf", ["types", "sizes"])
def test_a_part_of_it_comes_back_from_csv_as_it_went(tmp_path, shelf):
    write_shelf(tmp_path / "l.csv", P, shelf)
    back = read_library(tmp_path / "l.csv")
    assert {r.key: r for r in getattr(back, shelf)} == getattr(P, shelf)
    assert getattr(back, "sizes" if shelf == "types" else "types") == ()


@given(
    inside=st.integers(100, 3000),
    wall=st.integers(0, 400),
    sump=st.integers(0, 900),
    loss=st.integers(0, 40),
    depth=st.none() | st.integers(1, 12),
    inlet=st.none() | st.sampled_from(["kerb", "grate", "combined", "side"]),
    name=st.text(
        st.characters(categories=("L", "N"), include_characters=" \"'-,;="), min_size=1
    ).filter(str.strip),
)
def test_any_type_goes_through_both_files(
    tmp_path_factory, inside, wall, sump, loss, depth, inlet, name
):
    folder = tmp_path_factory.mktemp("library")
    made = replace(
        P.types["manhole-1200"],
        name=name.strip(),
        inside=inside / 1000,
        wall=wall / 1000,
        sump=sump / 1000,
        loss=loss / 4,
        frame=0.0,
        depth_min=None,
        depth_max=depth and float(depth),
        inlet=inlet and Inlet(kind=inlet, length=0.45),
    )
    project = replace(P, types={made.key: made})
    write_library(folder / "l.toml", project)
    assert read_library(folder / "l.toml").types == (made,)
    # those come back with the quote that a spreadsheet needs
    if name.strip()[:1] not in ("=", "+", "-", "@"):
        write_shelf(folder / "l.csv", project, "types")
        assert read_library(folder / "l.csv").types == (made,)


@pytest.mark.parametrize(
    ("name", "text", "says"),
    [
        ("l.toml", "sizes = 3", "sizes is a list of tables"),
        ("l.toml", "x = 3", '"x" means nothing here'),
        ("l.toml", "[[sizes]]\ndn = 300", "sizes 1: the key is missing"),
        (
            "l.toml",
            '[[sizes]]\nkey = "a"\ndn = 300\ninside_mm = "wide"',
            'inside_mm is "wide": it is a number',
        ),
        (
            "l.toml",
            '[[sizes]]\nkey = "a"\ndn = 300\ninside_mm = 0\nwall_mm = 1',
            "the inside is more than 0",
        ),
        ("l.toml", '[[types]]\nkey = "a"\nkind = "tower"', 'kind is "tower"'),
        ("l.toml", '[[types]]\nkey = "a"\nallowed = 3', "it is true or false"),
        ("l.toml", '[[types]]\nkey = "a"\nhat = 3', '"hat" means nothing here'),
        ("l.toml", "[[", "is no TOML"),
        (
            "l.csv",
            "key,dn,inside_mm,wall_mm\na,300,300,40\na,300,300,40\n",
            'the key "a" comes twice',
        ),
        ("l.csv", "key,dn,inside_mm,wall_mm\na,300,,40\n", "row 2: the inside is more than 0"),
        ("l.csv", "key,kind,hat\na,manhole,1\n", 'the head "hat" means nothing here'),
        ("l.csv", "", "is empty"),
    ],
)
def test_a_bad_file_gets_one_sentence(tmp_path, name, text, says):
    (tmp_path / name).write_text(text, encoding="utf-8")
    with pytest.raises(ReadError) as e:
        read_library(tmp_path / name)
    assert says in str(e.value)
    assert "\n" not in str(e.value)
