import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, label_of, said, v_project, with_pipe, with_structure
from zumbert.analysis import analyse
from zumbert.checks import RULES, check
from zumbert.checks.sentences import brief, object_label, sentence
from zumbert.edits.labels import rename
from zumbert.edits.setup import set_standard
from zumbert.model.ids import SizeKey
from zumbert.model.standard import Standard


def found(project):
    return {(f.rule, label_of(project, f)) for f in check(project, facts_of(project))}


def one(project, rule):
    [f] = [f for f in check(project, facts_of(project)) if f.rule == rule]
    return f


SOUND = chain([(48.0, 47.5), (47.45, 46.95)])


def with_standard(project, **limits):
    return set_standard(project, Standard(id="", name="test", **limits))


def test_a_sound_run_has_no_findings():
    assert found(SOUND) == set()


def test_least_cover_names_the_dip():
    f = one(v_project(), "cover_min")
    assert (f.pipe, f.severity, f.value, f.limit, f.distance, f.x) == (
        "P1",
        "breach",
        approx(0.305),
        0.9,
        30.0,
        30.0,
    )
    assert said(v_project(), f) == "Pipe A to B: cover 0.31 m at 30.00 m from A, needs 0.90 m."


@pytest.mark.parametrize(
    ("levels", "rule", "label"),
    [
        ([(43.0, 42.5), (42.45, 41.95)], "cover_max", "P1"),
        ([(48.0, 47.85), (47.8, 47.3)], "slope_min", "P1"),
        ([(48.0, 48.0), (47.9, 47.4)], "slope_min", "P1"),
        ([(48.5, 43.4), (43.3, 42.8)], "slope_max", "P1"),
        ([(48.0, 48.3), (48.2, 47.7)], "adverse_fall", "P1"),
        ([(48.0, 47.5), (47.49, 46.9)], "drop_min", "S2"),
        ([(48.5, 48.0), (47.3, 46.8)], "drop_max", "S2"),
        ([(48.0, 47.5), (47.6, 47.0)], "outlet_lowest", "S2"),
    ],
)
def test_each_rule_on_a_run(levels, rule, label):
    assert (rule, label) in found(chain(levels))


def test_an_adverse_pipe_is_not_also_told_as_too_flat():
    assert ("slope_min", "P1") not in found(chain([(48.0, 48.3), (48.2, 47.7)]))


def test_a_value_within_a_millionth_of_its_limit_meets_it():
    assert found(chain([(48.0, 47.8 + 4e-7 * 50), (47.75, 47.5)])) == set()  # slope 0.004 less 4e-7
    assert ("slope_min", "P1") in found(chain([(48.0, 47.8 + 2e-6 * 50), (47.75, 47.5)]))


def test_the_least_drop_goes_by_the_bend():
    p = with_structure(SOUND, "S1", 50, 40)  # comes in square: 90°
    assert one(with_pipe(p, "P1", "S1", "S2", 48.0, 47.48), "drop_min").limit == 0.05
    # straight: 0.02
    assert ("drop_min", "S2") not in found(with_pipe(SOUND, "P1", "S1", "S2", 48.0, 47.48))


def test_a_greatest_drop_is_a_caution_where_a_backdrop_can_be():
    assert one(chain([(48.5, 48.0), (47.3, 46.8)]), "drop_max").severity == "caution"
    p = chain([(48.5, 48.0), (47.3, 46.8)])
    gully = replace(p.structures["S2"], type="gully-450")
    assert (
        one(replace(p, structures={**p.structures, "S2": gully}), "drop_max").severity == "breach"
    )


def test_crowns_by_setting():
    p = chain([(48.0, 47.5), (47.45, 46.95)])
    p = replace(p, pipes={**p.pipes, "P2": replace(p.pipes["P2"], size=SizeKey("375"))})
    # crown in 47.80, out 47.825; centres 47.65 and 47.6375; 0.8 D 47.74 and 47.75
    assert {
        c: ("crowns", "S2") in found(with_standard(p, crowns=c))
        for c in ("crowns", "centres", "0.8", "off")
    } == {"crowns": True, "centres": False, "0.8": True, "off": False}


def test_a_smaller_outlet_is_told_at_the_chamber():
    p = replace(SOUND, pipes={**SOUND.pipes, "P1": replace(SOUND.pipes["P1"], size=SizeKey("375"))})
    f = one(p, "size_order")
    assert (f.structure, f.value, f.limit, f.partner) == ("S2", 0.3, 0.375, "P2")


def test_limits_by_diameter():
    p = with_standard(SOUND, cover_min=((300.0, 0.9), (600.0, 2.5)))
    assert found(p) == set()
    large = replace(p, pipes={k: replace(v, size=SizeKey("375")) for k, v in p.pipes.items()})
    assert ("cover_min", "P1") in found(large)


def test_no_outfall_and_off_the_surfaces():
    cut = replace(SOUND, pipes={"P1": SOUND.pipes["P1"]})
    assert "nor has 1 structure that drains to it" in said(cut, one(cut, "no_outfall"))
    bare = replace(SOUND, surfaces={})
    assert one(replace(bare, pipes={"P1": bare.pipes["P1"]}), "off_surface").severity == "caution"


def test_abandoned_work_is_not_judged():
    p = chain([(48.0, 48.3), (48.2, 47.7)])
    p = replace(p, pipes={**p.pipes, "P1": replace(p.pipes["P1"], status="abandoned")})
    assert ("adverse_fall", "P1") not in found(p)


def test_no_rule_stands_twice():
    names = list(RULES)
    assert len(names) == len(set(names))


def test_a_sentence_has_the_labels_and_units_of_today():
    p = v_project()
    facts = facts_of(p)
    before = check(p, facts)
    renamed = rename(p, "A", "Top")
    after = analyse(renamed, facts)
    # the pipe's own facts are the same: nothing of it is judged again
    found = check(renamed, after, before)
    [cover] = [f for f in found if f.rule == "cover_min"]
    assert cover is next(f for f in before if f.rule == "cover_min")
    assert (
        sentence(after, cover) == "Pipe Top to B: cover 0.31 m at 30.00 m from Top, needs 0.90 m."
    )
    assert brief(after, cover) == "cover 0.31 m at 30.00 m from Top, needs 0.90 m."
    feet = replace(renamed, settings=replace(p.settings, units=replace(p.units, system="us")))
    assert "cover 1.00 ft" in sentence(facts_of(feet), cover)


def test_every_rule_has_a_sentence_and_a_pair_both_its_pipes():
    bent = with_pipe(with_structure(SOUND, "S1", 50, 40), "P1", "S1", "S2", 48.0, 47.47)
    steep = chain([(48.5, 48.0), (47.3, 46.8)])
    p = replace(
        SOUND,
        pipes={
            **SOUND.pipes,
            "P1": replace(SOUND.pipes["P1"], size=SizeKey("375"), invert_down=47.3),
        },
    )
    seen = set()
    for project in (v_project(), bent, steep, p, chain([(48.0, 47.9), (48.2, 48.3)])):
        facts = facts_of(project)
        for f in check(project, facts):
            seen.add(f.rule)
            assert sentence(facts, f).endswith(".") and object_label(facts, f) in {
                f.pipe,
                f.structure,
            }
            if f.rule in ("drop_min", "drop_max", "crowns", "outlet_lowest", "size_order"):
                assert (f.inlet, f.outlet) == ("P1", "P2") and f.partner in (f.inlet, f.outlet)
    assert seen >= {
        "cover_min",
        "drop_min",
        "drop_max",
        "crowns",
        "outlet_lowest",
        "size_order",
        "slope_min",
        "adverse_fall",
    }
