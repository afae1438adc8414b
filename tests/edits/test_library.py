import pytest
from msgspec.structs import replace

from tests.build import chain, facts_of
from zumbert.edits.fields import FieldText, field_name, set_field, set_fields
from zumbert.edits.library import (
    copied_record,
    set_record,
    uses,
    with_records,
    with_starter_set,
    without_record,
)
from zumbert.errors import EditError
from zumbert.model.catalogue import PIPE_SIZES, STRUCTURE_TYPES, US_PIPE_SIZES, US_STRUCTURE_TYPES
from zumbert.model.display import Units
from zumbert.model.library import FIELDS, fault
from zumbert.model.project import Settings, new_project, size_of

P = chain([(48.0, 47.5), (47.4, 47.0)])  # S1 to S3, DN 300


@pytest.mark.parametrize(
    ("types", "sizes"),
    [(STRUCTURE_TYPES, PIPE_SIZES), (US_STRUCTURE_TYPES, US_PIPE_SIZES)],
    ids=["metric", "us"],
)
def test_the_starter_set_is_wide_enough_and_sound(types, sizes):
    materials = {s.material for s in sizes}
    assert len(materials) >= 3
    assert all(sum(s.material == m for s in sizes) >= 12 for m in materials)
    assert len(types) >= 10
    assert {t.inlet.kind for t in types if t.inlet is not None} == {
        "kerb",
        "grate",
        "combined",
        "side",
    }
    assert [fault(r) for r in (*types, *sizes)] == [None] * (len(types) + len(sizes))
    assert len({r.key for r in types}) == len(types)
    assert len({(s.material, s.dn) for s in sizes}) == len({s.key for s in sizes}) == len(sizes)


def test_a_size_is_meant_by_number_material_or_both():
    assert [
        size_of(P, t) for t in ("300", "DN 300", "300 clay", "DN 300 clay", "315 plastic", "315")
    ] == ["300", "300", "clay-300", "clay-300", "plastic-315", "plastic-315"]
    us = new_project("us", Settings(units=Units(system="us")))
    assert [size_of(us, t) for t in ("12", "12in", "12 in", "12 in clay", "12 plastic")] == [
        "12in",
        "12in",
        "12in",
        "clay-12in",
        "plastic-12in",
    ]


def test_a_number_alone_keeps_the_material_of_the_pipe():
    facts = facts_of(P)
    clay = set_field(P, facts, "P1", "size", "300 clay")
    assert clay.pipes["P1"].size == "clay-300"
    assert set_field(clay, facts_of(clay), "P1", "size", "350").pipes["P1"].size == "clay-350"
    # clay has none
    assert set_field(clay, facts_of(clay), "P1", "size", "375").pipes["P1"].size == "375"


def test_a_field_of_the_library_is_a_field_like_any_other_and_the_network_follows():
    assert facts_of(P).pipes["P1"].span.wall == pytest.approx(50.0 - 1.2)
    made = set_field(P, facts_of(P), "manhole-1200", "types.inside_mm", "1350")
    assert made.types["manhole-1200"].inside == 1.35
    assert facts_of(made).pipes["P1"].span.wall == pytest.approx(50.0 - 1.35)
    assert field_name(P, "manhole-1200", "types.inside_mm") == "Change Manhole 1200"
    cells = [
        FieldText("clay-300", "sizes.wall_mm", "33", "row 1"),
        FieldText("clay-300", "sizes.allowed", "no", "row 1"),
    ]
    clay = set_fields(P, facts_of(P), cells).sizes["clay-300"]
    assert (clay.wall, clay.allowed) == (0.033, False)


def test_in_feet_and_inches_the_library_takes_inches():
    us = new_project("us", Settings(units=Units(system="us")))
    made = set_record(us, "sizes", "12in", "wall_mm", "2.5")
    assert made.sizes["12in"].wall == pytest.approx(2.5 * 0.0254)
    assert set_record(us, "types", "manhole-4ft", "depth_max_m", "10").types[
        "manhole-4ft"
    ].depth_max == pytest.approx(3.048)


@pytest.mark.parametrize(
    ("shelf", "key", "field", "text", "says"),
    [
        ("sizes", "300", "wall_mm", "thick", 'Wall is "thick", which is no number'),
        ("sizes", "300", "wall_mm", "-1", "the wall 0 or more"),
        ("sizes", "300", "dn", "375", "There is already DN 375 concrete"),
        ("sizes", "300", "n", "5", "n lies between"),
        ("sizes", "300", "shape", "oval", "circular"),
        ("sizes", "300", "dn", "", "DN needs a value"),
        ("types", "manhole-1200", "name", "Manhole 1500", 'There is already a type "Manhole 1500"'),
        ("types", "manhole-1200", "name", " ", "needs a name"),
        ("types", "manhole-1200", "kind", "tower", "manhole"),
        ("types", "manhole-1200", "backdrop", "perhaps", "it is yes or no"),
        ("types", "manhole-1200", "frame_mm", "1500", "the frame is no wider than the chamber"),
        ("types", "manhole-1200", "depth_max_m", "0.1", "ends above its beginning"),
        ("types", "gully-450", "inlet_clear", "2", "open share between 0 and 1"),
    ],
)
def test_nonsense_is_refused_in_a_sentence(shelf, key, field, text, says):
    with pytest.raises(EditError) as e:
        set_record(P, shelf, key, field, text)
    assert says in str(e.value)


def test_an_inlet_is_given_and_taken_away():
    made = set_record(P, "types", "catchpit-1200", "inlet", "side")
    made = set_record(made, "types", "catchpit-1200", "inlet_height_mm", "200")
    assert (made.types["catchpit-1200"].inlet.kind, made.types["catchpit-1200"].inlet.height) == (
        "side",
        0.2,
    )
    assert (
        set_record(made, "types", "catchpit-1200", "inlet", "").types["catchpit-1200"].inlet is None
    )


def test_a_size_in_use_cannot_be_deleted_only_unticked():
    with pytest.raises(EditError, match=r"DN 300 concrete is used by 2 pipes: untick it instead"):
        without_record(P, "sizes", "300")
    with pytest.raises(EditError, match=r"Outfall is used by 1 structure: untick"):
        without_record(P, "types", "outfall")
    assert uses(P, "sizes", "300") == 2
    assert not set_record(P, "sizes", "300", "allowed", "no").sizes["300"].allowed
    assert "375" not in without_record(P, "sizes", "375").sizes
    one = replace(P, pipes={}, sizes={"300": P.sizes["300"]})
    with pytest.raises(EditError, match="is the last one"):
        without_record(one, "sizes", "300")


def test_copies_have_names_of_their_own_and_the_starter_set_fills_up_what_is_missing():
    made, key = copied_record(P, "types", "manhole-1200")
    assert (key, made.types[key].name, made.types[key].inside) == (
        "manhole-1200-2",
        "Manhole 1200 (2)",
        1.2,
    )
    made, again = copied_record(made, "types", "manhole-1200")
    assert again == "manhole-1200-3"
    made, size = copied_record(made, "sizes", "300")
    assert (made.sizes[size].grade, made.sizes[size].dn) == ("copy 2", 300.0)
    small = replace(
        P,
        sizes={"300": replace(P.sizes["300"], wall=0.05)},
        types={k: P.types[k] for k in list(P.types)[:8]},
    )
    full = with_starter_set(small)
    assert (full.sizes["300"].wall, len(full.sizes), len(full.types)) == (
        0.05,
        len(PIPE_SIZES),
        len(STRUCTURE_TYPES),
    )
    assert with_records(P, P.types.values(), P.sizes.values()) is P


def test_what_a_type_need_not_have_may_be_left_empty():
    kind = P.types["manhole-1200"]
    optional = {f.name for f in FIELDS["types"] if f.empty}
    assert optional >= {"across_mm", "base_mm", "depth_min_m", "depth_max_m"}
    assert (
        fault(replace(kind, **dict.fromkeys(("across", "base", "depth_min", "depth_max")))) is None
    )
