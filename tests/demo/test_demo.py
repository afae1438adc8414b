from tests.build import facts_of, label_of
from zumbert.checks import check
from zumbert.demo.make import FILES, files
from zumbert.demo.project import demo_project, read
from zumbert.demo.site import RISE_PVIS
from zumbert.geometry.alignment import Alignment

DEMO = demo_project()
FACTS = facts_of(DEMO)


def test_the_files_are_what_the_script_makes():
    for name, text in files().items():
        assert (FILES / name).read_bytes() == text.encode(), name


def test_check_finds_exactly_what_is_there_on_purpose():
    found = check(DEMO, FACTS)
    assert {(f.rule, label_of(DEMO, f)) for f in found} == {
        ("cover_min", "P5"),
        ("drop_min", "S6"),
        ("adverse_fall", "P25"),
        ("size_order", "S9"),
        ("capacity", "P2"),
    }
    assert len(found) == 5


def test_the_cover_breach_is_a_dip_between_two_chambers():
    [finding] = [f for f in check(DEMO, FACTS) if f.rule == "cover_min"]
    f = FACTS.pipes[finding.pipe]
    [(a, b)] = finding.stretches
    assert 1.0 < a < finding.distance < b < f.span.length - 1.0
    barrel = f.span.barrel
    ends = [barrel.z[i] - (f.invert(barrel.s[i]) + f.outside_height) for i in (0, -1)]
    assert min(ends) > 0.9


def test_it_is_the_scene_that_it_should_be():
    names = {r.name: Alignment(r.elements, r.start).length for r in DEMO.roads.values()}
    assert set(names) == {"Quillerby Rise", "Tansymoor Lane"}
    assert 419 < names["Quillerby Rise"] < 421
    assert 139 < names["Tansymoor Lane"] < 141
    curves = [e for e in next(iter(DEMO.roads.values())).elements if hasattr(e, "radius")]
    assert len(curves) == 2
    assert len({c.clockwise for c in curves}) == 2
    kinds = [DEMO.types[s.type].kind for s in DEMO.structures.values()]
    assert kinds.count("manhole") >= 12
    assert kinds.count("gully") == 22
    sides = [s.place.offset > 0 for s in DEMO.structures.values() if s.type == "gully-450"]
    assert sides.count(True) == sides.count(False) == 11
    assert [p.label for p in DEMO.pipes.values() if p.status == "existing"] == ["EXP1"]
    assert 3_900 < len(next(iter(DEMO.surfaces.values())).vertices) < 4_200
    turns = [b.level - a.level for a, b in zip(RISE_PVIS, RISE_PVIS[1:], strict=False)]
    assert len(turns) == 4


def test_the_files_alone_have_no_second_run():
    assert len(DEMO.structures) - len(read().project.structures) == 4
