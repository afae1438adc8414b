"""Standards: what they switch off, weigh, and ask for; limits of single things; cover by surface
and by kind of ground.
"""

import numpy as np
import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, grounded, said, v_project, with_pipe, with_structure
from tests.checks.test_rules import SOUND, found, one, with_standard
from zumbert.checks import RULES, check
from zumbert.checks.legal import end_range
from zumbert.checks.reference import kinds_along
from zumbert.checks.sentences import source
from zumbert.edits.networks import set_existing
from zumbert.edits.roads import set_strip
from zumbert.edits.setup import add_road, add_surface
from zumbert.edits.standards import (
    add_standard,
    as_standard,
    copied_standard,
    limit_meant,
    limit_words,
    own_limits,
    remove_standard,
    rename_standard,
    set_limit,
    set_own_limit,
    set_weight,
)
from zumbert.errors import EditError
from zumbert.exchange.toml import read_standard, shipped_standards, write_standard
from zumbert.geometry.elements import Straight
from zumbert.geometry.strip import StripAt
from zumbert.model.display import METRIC, Units
from zumbert.model.ids import PipeId
from zumbert.model.road import Strip
from zumbert.model.standard import LIMITS, Standard, limit_at
from zumbert.model.unitsystem import UNIT_SYSTEMS

KEY = "standard1"


def weighed(project, rule, weight):
    return set_weight(project, next(iter(project.networks.values())).standard, rule, weight)


def severities(project, rule):
    return [f.severity for f in check(project, facts_of(project)) if f.rule == rule]


def test_a_rule_is_off_a_caution_or_as_usual():
    p = v_project()
    assert severities(p, "cover_min") == ["breach"]
    assert severities(weighed(p, "cover_min", "caution"), "cover_min") == ["caution"]
    off = weighed(p, "cover_min", "off")
    assert severities(off, "cover_min") == []
    facts = facts_of(off)
    # nor does it bound the band
    assert end_range(facts, facts.pipes[PipeId("P1")], "down").high_rule != "cover_min"
    assert weighed(off, "cover_min", None) == p
    assert severities(
        weighed(chain([(46.0, 45.5), (44.7, 44.2)]), "drop_max", "breach"), "drop_max"
    ) == ["breach"]


def test_existing_work_has_a_standard_of_its_own_or_is_only_told():
    p = v_project()
    p = replace(p, pipes={k: replace(q, status="existing") for k, q in p.pipes.items()})
    network = next(iter(p.networks))
    p, old = add_standard(p, Standard(id="", name="old", cover_min=0.3))
    assert severities(p, "cover_min") == ["breach"]
    assert severities(set_existing(p, network, None, True), "cover_min") == ["caution"]
    assert severities(set_existing(p, network, old, False), "cover_min") == []
    with pytest.raises(EditError, match="give another standard there first"):
        remove_standard(set_existing(p, network, old, False), old)
    assert old not in remove_standard(p, old).standards


def test_a_limit_of_its_own_holds_for_one_pipe_and_says_why():
    p = set_own_limit(v_project(), ["P1"], "cover_min", 0.3, "toe of the headwall")
    assert severities(p, "cover_min") == []
    p = set_own_limit(p, ["P1"], "cover_min", 0.5, " toe of the headwall ")
    f = one(p, "cover_min")
    assert f.limit == 0.5
    assert source(facts_of(p), f) == "of P1 alone: toe of the headwall"
    waived = set_own_limit(p, ["P1"], "cover_min", None, "agreed")
    assert severities(waived, "cover_min") == []
    assert [(r.label, own.rule, own.value) for r, own in own_limits(waived)] == [
        ("P1", "cover_min", None)
    ]
    assert as_standard(waived, ["P1"], "cover_min").pipes == v_project().pipes


def test_a_limit_of_its_own_bounds_the_band_and_a_waived_rule_does_not():
    for value, rule in ((0.3, "cover_min"), (None, None)):
        p = set_own_limit(v_project(), ["P1"], "cover_min", value, "agreed")
        facts = facts_of(p)
        f = facts.pipes[PipeId("P1")]
        assert ("cover_min" in (end_range(facts, f, "down").high_rule,)) is (rule == "cover_min")


def test_own_limits_are_refused_without_reason_or_where_the_rule_has_no_limit():
    for rule, value, reason in (
        ("cover_min", 0.5, ""),
        ("cover_min", -1.0, "agreed"),
        ("adverse_fall", 0.1, "agreed"),
    ):
        with pytest.raises(EditError):
            set_own_limit(v_project(), ["P1"], rule, value, reason)
    assert (
        severities(
            set_own_limit(chain([(48.0, 48.3)]), ["P1"], "adverse_fall", None, "agreed"),
            "adverse_fall",
        )
        == []
    )


def test_where_a_limit_comes_from():
    p = with_standard(v_project(), cover_min=((300.0, 0.9), (900.0, 1.2)))
    assert source(facts_of(p), one(p, "cover_min")) == "test, by DN"
    p = chain([(48.0, 47.5), (47.49, 46.9)])
    assert source(facts_of(p), one(p, "drop_min")) == "Built-in standard, by the bend"
    p = with_structure(SOUND, "S2", 50, kind="gully-450")
    assert source(facts_of(p), one(p, "largest_pipe")) == "Gully 450"


# -- what cover is judged by -----------------------------------------------------------------------


def cut_and_fill():
    """Ground at 30, a design that is dug 0.6 m deep in the middle, one pipe under both."""
    p = grounded([(-20, 30.0), (80, 30.0)])
    p = grounded([(-20, 30.3), (20, 30.3), (30, 29.7), (40, 30.3), (80, 30.3)], "design", p)
    p = with_structure(with_structure(p, "A", 0), "B", 60, kind="outfall")
    return with_pipe(p, "P1", "A", "B", 28.700, 28.400)


@pytest.mark.parametrize(
    ("against", "value", "surface"),
    [("design", 0.805, ""), ("existing", 0.955 + 0.005 * 0.6, "existing"), ("both", 0.805, "")],
)
def test_cover_is_judged_by_design_ground_or_both(against, value, surface):
    p = with_standard(cut_and_fill(), cover_min=1.1, cover_against=against)
    f = one(p, "cover_min")
    assert (f.value, f.surface) == (approx(value, abs=1e-9), surface)


def test_both_find_what_the_stage_of_construction_breaks():
    p = with_standard(cut_and_fill(), cover_min=0.8, cover_against="both")
    assert severities(p, "cover_min") == []
    high = with_pipe(p, "P1", "A", "B", 29.1, 28.2)
    f = one(with_standard(high, cover_min=0.8, cover_against="both"), "cover_min")
    assert f.surface == "existing"  # under the fill at its upper end
    assert "from existing" in said(high, f)
    assert severities(with_standard(high, cover_min=0.65), "cover_min") == []


def crossing_the_road(**limits):
    """A pipe that leaves a road square to it: 3 m of carriageway, 2 m of verge, then field."""
    p = grounded([(-50, 50.0), (150, 50.0)])
    p = add_road(p, "Quillerby Rise", (Straight(0.0, 0.0, 100.0, 0.0),))
    p = set_strip(
        p, next(iter(p.roads)), Strip(sections=(StripAt(left=3.0, right=3.0, verge=2.0),))
    )
    p = with_structure(with_structure(p, "A", 50, 0), "B", 50, 30, kind="outfall")
    # 0.90 of cover at A, 1.20 at B
    return with_standard(with_pipe(p, "P1", "A", "B", 48.755, 48.455), **limits)


def test_what_lies_above_a_pipe_is_told_from_the_road_strips():
    facts = facts_of(crossing_the_road())
    kinds = kinds_along(facts, facts.spans[PipeId("P1")])
    assert [k for _, _, k in kinds] == ["carriageway", "verge", "field"]
    assert [b for _, b, _ in kinds] == approx([3.0, 5.0, 30.0], abs=1e-6)
    assert kinds[0][0] == approx(0.6)


@pytest.mark.parametrize(
    ("limits", "broken"),
    [
        ({"cover_min": 0.95}, (0.95, "")),
        (
            {"cover_min": 0.95, "cover_field": 0.6, "cover_verge": 0.6, "cover_carriageway": 0.9},
            None,
        ),
        ({"cover_min": 0.6, "cover_carriageway": 1.2}, (1.2, "carriageway")),
        ({"cover_min": 0.6, "cover_verge": 1.0}, (1.0, "verge")),
        ({"cover_min": 0.9, "cover_field": 1.0}, (1.0, "field")),
        ({"cover_min": 0.6, "cover_carriageway": ((225.0, 1.2), (900.0, 0.7))}, None),  # by DN too
    ],
)
def test_cover_by_the_kind_of_ground(limits, broken):
    p = crossing_the_road(**limits)
    if broken is None:
        assert severities(p, "cover_min") == []
        return
    f = one(p, "cover_min")
    assert (f.limit, f.under) == broken
    if f.under:
        assert {
            "carriageway": "under the carriageway",
            "verge": "under the verge",
            "field": "beside the road",
        }[f.under] in said(p, f)
        assert source(facts_of(p), f) == "test"


def test_the_place_is_where_the_limit_is_missed_by_most_and_fixes_and_band_know_it():
    p = crossing_the_road(cover_min=0.6, cover_carriageway=1.2, cover_field=1.0)
    f = one(p, "cover_min")
    assert f.distance == approx(0.6, abs=1e-6)
    facts = facts_of(p)
    r = end_range(facts, facts.pipes[PipeId("P1")], "up")
    lower = with_pipe(p, "P1", "A", "B", r.high, 48.455)
    assert severities(lower, "cover_min") == []
    assert severities(with_pipe(p, "P1", "A", "B", r.high + 1e-4, 48.455), "cover_min") == [
        "breach"
    ]


def test_least_cover_by_kinds_is_never_above_a_sampling_and_as_near():
    p = crossing_the_road(cover_min=3.0, cover_carriageway=3.2, cover_verge=3.1)
    f = one(p, "cover_min")
    facts = facts_of(p)
    g = facts.pipes[PipeId("P1")]
    s = np.arange(g.span.reach_up, g.span.length - g.span.reach_down, 0.001)
    cover = 50.0 - (g.invert(0.0) - g.slope * s + g.outside_height)
    limit = np.where(s < 3.0, 3.2, np.where(s < 5.0, 3.1, 3.0))
    assert (limit - cover).max() == approx(f.limit - f.value, abs=1e-5)
    assert f.limit - f.value >= (limit - cover).max() - 1e-9


# -- editing, files --------------------------------------------------------------------------------


def test_limits_are_typed_as_a_number_or_a_table():
    assert limit_meant(METRIC, "cover_min", "0.9") == 0.9
    assert limit_meant(METRIC, "cover_min", "DN 300: 0.9, 600 = 1.2 m") == (
        (300.0, 0.9),
        (600.0, 1.2),
    )
    assert limit_meant(METRIC, "slope_min", "150: 1:80, 225: 0.6 %") == (
        (150.0, 0.0125),
        (225.0, approx(0.006)),
    )
    assert limit_meant(METRIC, "slope_min", "1:200") == 0.005
    assert limit_meant(METRIC, "cover_verge", "") is None
    assert limit_meant(METRIC, "velocity_min", "0.75 m/s") == 0.75
    assert limit_meant(METRIC, "deflection_max", "75°") == 75.0
    assert limit_meant(Units(system="us"), "cover_min", "12: 3, 24: 4") == (
        (approx(304.8), approx(0.9144)),
        (approx(609.6), approx(1.2192)),
    )
    for name, text in (
        ("cover_min", "deep"),
        ("wall_gap", "300: 0.1"),
        ("cover_min", "300: 0.9, 1.2"),
        ("cover_min", "300: x"),
    ):
        with pytest.raises(EditError):
            limit_meant(METRIC, name, text)


@pytest.mark.parametrize("units", [METRIC, Units(system="us"), Units(slopes="ratio")])
def test_a_limit_in_words_is_typed_back_to_itself(units):
    for standard in (*shipped_standards(), Standard(id="", name="x")):
        for name in LIMITS:
            value = getattr(standard, name)
            if value is not None:
                again = limit_meant(units, name, limit_words(units, name, value))
                assert np.allclose(np.ravel(again), np.ravel(value), rtol=3e-5, atol=5e-5), (
                    name,
                    value,
                )


def test_standards_are_added_copied_renamed_and_sound():
    p, key = add_standard(SOUND, Standard(id="", name="Built-in standard"))
    assert p.standards[key].name == "Built-in standard 2"
    p, twin = copied_standard(p, key)
    assert p.standards[twin].name == "Built-in standard 2, copy"
    assert rename_standard(p, twin, "Mine").standards[twin].name == "Mine"
    with pytest.raises(EditError, match="There is already"):
        rename_standard(p, twin, "Built-in standard")
    with pytest.raises(EditError, match="holds for"):
        remove_standard(p, next(iter(p.networks.values())).standard)
    for name, value in (
        ("cover_min", 7.0),
        ("slope_min", 0.2),
        ("cover_min", ((300.0, 0.9), (300.0, 1.0))),
        ("cover_min", -1.0),
        ("wall_gap", ((1.0, 1.0),)),
        ("cover_min", ()),
        ("cover_min", None),
        ("cover_min", float("nan")),
    ):
        with pytest.raises(EditError):
            set_limit(p, key, name, value)
    assert set_limit(p, key, "cover_verge", None) is p
    assert (
        limit_at(
            set_limit(p, key, "cover_max", ((300.0, 3.0), (900.0, 4.0))).standards[key].cover_max,
            450,
        )
        == 4.0
    )


@pytest.mark.parametrize("system", list(UNIT_SYSTEMS))
def test_a_standard_is_written_whole_and_read_back(tmp_path, system):
    full = Standard(
        id="",
        name='Quillerby "steep" roads',
        cover_min=((300.0, 0.9), (600.0, 1.2)),
        cover_carriageway=1.25,
        cover_against="both",
        chamber_min=((300.0, 1.05), (900.0, 1.8)),
        wall_gap=0.15,
        crowns="0.8",
        clearance_min=0.3,
        weights={"spacing": "caution", "off_surface": "off"},
    )
    write_standard(full, tmp_path / "a.toml", system)
    again = read_standard(tmp_path / "a.toml")
    for name in Standard.__struct_fields__:
        a, b = getattr(full, name), getattr(again, name)
        if name in LIMITS and a is not None:
            assert np.allclose(np.ravel(a), np.ravel(b), rtol=1e-9), name
        elif name != "id":
            assert a == b, name


def test_three_made_up_standards_ship_and_the_demo_has_one_of_them():
    from zumbert.demo.project import demo_project

    names = [s.name for s in shipped_standards()]
    assert sorted(names) == ["Estate roads", "Plots and yards", "Trunk roads"]
    demo = next(s for s in demo_project().standards.values() if s.name == "Estate roads")
    assert replace(demo, id="") == next(s for s in shipped_standards() if s.name == "Estate roads")


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ('[rules]\ncover = "off"', 'did you mean "cover_'),
        ('[rules]\ncover_min = "loud"', "one of breach, caution, off"),
        ("rules = 3", r"write it as \[rules\]"),
        ("[structures]\nwall_gap = {300 = 0.1}", "it is one number"),
        ("[pipes]\ncover_min = -1", "it is 0 or more"),
        ('[pipes]\ncover_against = "sky"', "one of design, existing, both"),
    ],
)
def test_a_standard_that_means_nothing_is_refused_with_its_place(tmp_path, text, says):
    (tmp_path / "a.toml").write_text(text)
    with pytest.raises(Exception, match=says):
        read_standard(tmp_path / "a.toml")


def test_every_rule_has_a_title_of_its_own_and_a_limit_that_is_there():
    assert len({r.title for r in RULES.values()}) == len(RULES)
    for r in RULES.values():
        assert not r.limit or (r.limit in LIMITS and LIMITS[r.limit].rule == r.name), r.name
    assert {f.rule for f in LIMITS.values()} <= RULES.keys()


def test_surfaces_stay_what_they_were(tmp_path):
    assert (
        found(
            add_surface(
                SOUND, "rock", "rock", [(0, 0, 30.0), (99, 0, 30.0), (0, 99, 30.0)], [(0, 1, 2)]
            )
        )
        == set()
    )
