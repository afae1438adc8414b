"""Hand-made networks, each of which breaks one rule: that rule is found and no other."""

import pytest
from msgspec.structs import replace

from tests.build import (
    chain,
    facts_of,
    grounded,
    road_project,
    v_project,
    with_pipe,
    with_structure,
)
from tests.checks.test_more_rules import AXIS, crossed
from tests.checks.test_rules import SOUND, with_standard
from zumbert.checks import RULES, check
from zumbert.edits.areas import add_area
from zumbert.edits.land import add_land
from zumbert.edits.rain import set_rain
from zumbert.model.ids import SizeKey, StructureId
from zumbert.model.rain import Rain
from zumbert.model.structure import FixedRim


def dipped():
    """The V of the reference, its lower end an outfall and its upper one deep enough for its
    type.
    """
    return with_structure(v_project(), "B", 60, kind="outfall")


def labelled(of, key, label):
    records = getattr(SOUND, of)
    return replace(SOUND, **{of: {**records, key: replace(records[key], label=label)}})


def ring():
    """Three flat structures in a ring by a pipe to each, with a way out; all that a ring breaks
    by its levels is off.
    """
    p = with_structure(SOUND, "X", 25, 30)
    p = with_pipe(with_pipe(p, "PX", "S2", "X", 47.4, 47.2), "PY", "X", "S1", 47.15, 48.1)
    off = dict.fromkeys(
        ("adverse_fall", "many_outlets", "drop_min", "outlet_lowest", "crowns", "deflection"), "off"
    )
    return with_standard(p, weights=off)


def tiny(size, kind, level=48.1):
    """One pipe from a chamber of a kind to an outfall."""
    p = grounded([(-100, 50.0), (10_000, 50.0)])
    p = with_structure(with_structure(p, "S1", 0, kind=kind), "S2", 40, kind="outfall")
    return with_pipe(p, "P1", "S1", "S2", level, level - 0.4, size)


def outside():
    """A run whose second pipe leaves the land."""
    return add_land(SOUND, "reserve", [(-5, -5), (70, -5), (70, 5), (-5, 5)])[0]


def widened():
    """DN 450 in an inlet, DN 300 going on, the crowns in line."""
    p = chain([(47.0, 46.5), (46.63, 46.13)], size="450")
    return with_pipe(p, "P2", "S2", "S3", 46.45, 45.95, "300")


def square():
    """A bend of 100° at S2."""
    return with_structure(SOUND, "S3", 50 - 6.5, 37.0, kind="outfall")


def overflow():
    """An overflow from S2, over the outlet."""
    return with_pipe(
        with_structure(SOUND, "X", 50, 30, kind="outfall"), "PX", "S2", "X", 47.45, 47.0
    )


def rained(size, slope=0.01, area=1000.0):
    """One pipe of 40 m from a chamber to an outfall, with a roof of so many m² in a rain of
    137.5 mm/h.
    """
    p = chain([(48.0, 48.0 - 40 * slope)], 40.0, size)
    p = add_area(p, "roof", size=area, structure=StructureId("S1"), coefficient=1.0)[0]
    return set_rain(p, Rain())


NETWORKS = {
    "capacity": rained("300", area=3000.0),  # 114.6 l/s, takes 96.7
    "depth_ratio": rained("300", area=2520.0),  # 96.2 l/s
    "flow_velocity_min": rained("300", area=40.0),  # 1.5 l/s
    "flow_velocity_max": with_standard(rained("300", area=2000.0), flow_velocity_max=1.4),
    "cover_min": dipped(),
    "cover_max": with_standard(SOUND, cover_max=2.2),
    "slope_min": with_standard(chain([(48.0, 47.84), (47.8, 47.3)], size="375"), velocity_min=0.0),
    "slope_max": with_standard(chain([(48.5, 46.0), (45.9, 45.4)]), slope_max=0.04),
    "adverse_fall": chain([(48.0, 48.3), (48.2, 47.7)]),
    "velocity_min": chain([(48.0, 47.7), (47.6, 47.1)], size="150"),
    "velocity_max": with_standard(chain([(48.0, 46.8), (46.7, 46.2)]), velocity_max=2.0),
    "drop_min": chain([(48.0, 47.5), (47.49, 46.99)]),
    "drop_max": chain([(48.5, 48.0), (47.3, 46.8)]),
    "crowns": with_pipe(with_standard(chain([(48.0, 47.5), (47.4, 46.9)]), drop_min=0.0), "P1",
                        "S1", "S2", 48.0, 47.44, "225"),
    "size_order": widened(),
    "chamber_size": tiny("750", "manhole-1500"),
    "largest_pipe": tiny("300", "gully-450", 48.6),
    "chamber_depth": with_standard(chain([(43.5, 43.0), (42.95, 42.45)]), cover_max=9.0),
    "spacing": chain([(48.0, 47.4)], 120.0),
    "deflection": square(),
    "rim_on_surface": with_structure(SOUND, "S1", 0, rim=50.2),
    "rim_above_crowns": with_structure(
        with_standard(SOUND, rim_tolerance=9.0, weights={"chamber_depth": "off"}), "S1", 0, rim=48.2
    ),
    "land": outside(),
    "clash": crossed(AXIS + 0.1),
    "clearance": crossed(AXIS + 0.4),
    "no_outfall": with_structure(SOUND, "S3", 100),
    "many_outlets": overflow(),
    "cycle": ring(),
    "zero_length": with_structure(with_standard(SOUND, slope_max=9.0, velocity_max=99.0), "S2",
                                  1.2),
    "duplicate_label": labelled("structures", StructureId("S2"), "S1"),
}  # fmt: skip


@pytest.mark.parametrize("rule", sorted(NETWORKS))
def test_it_breaks_this_rule_and_nothing_else(rule):
    p = NETWORKS[rule]
    assert {f.rule for f in check(p, facts_of(p))} == {rule}


def test_a_pipe_off_the_surfaces_and_a_loose_end_are_told_alone():
    p = grounded([(-100, 50.0), (60, 50.0)])
    for i, kind in enumerate(("manhole-1200", "manhole-1200", "outfall")):
        p = with_structure(p, f"S{i + 1}", 50.0 * i, kind=kind, rim=50.0)
    p = with_pipe(with_pipe(p, "P1", "S1", "S2", 48.0, 47.5), "P2", "S2", "S3", 47.45, 46.95)
    assert {f.rule for f in check(p, facts_of(p))} == {"off_surface"}
    loose = with_structure(SOUND, "X", 50, 30, kind="joint")
    loose = with_pipe(loose, "PX", "X", "S2", 47.9, 47.6)
    assert {f.rule for f in check(loose, facts_of(loose))} == {"unattached_end"}


def test_an_outlet_over_its_inlet_and_openings_that_meet_break_what_they_are():
    p = with_standard(
        chain([(48.0, 47.5), (47.6, 47.0)]), weights={"drop_min": "off"}, crowns="off"
    )
    assert {f.rule for f in check(p, facts_of(p))} == {"outlet_lowest"}
    p = with_structure(SOUND, "X", 10, 12)
    p = with_pipe(p, "PX", "X", "S2", 47.9, 47.6)
    assert {f.rule for f in check(p, facts_of(p))} == {"wall_openings"}


def test_every_rule_has_its_network():
    alone = {"off_surface", "unattached_end", "outlet_lowest", "wall_openings"}
    assert NETWORKS.keys() | alone == RULES.keys()


def test_a_sound_network_gives_nothing():
    assert not check(SOUND, facts_of(SOUND))
    p = road_project()
    p = with_structure(
        with_structure(p, "S1", 450, 2, road=True), "S2", 400, 2, kind="outfall", road=True
    )
    p = with_pipe(p, "P1", "S1", "S2", 57.5, 56.6)
    p = replace(
        p,
        structures={
            k: replace(s, rim=FixedRim(round(facts_of(p).places[k].ground, 2)))
            for k, s in p.structures.items()
        },
    )
    assert not check(p, facts_of(p))
    narrow = replace(
        SOUND, pipes={k: replace(q, size=SizeKey("225")) for k, q in SOUND.pipes.items()}
    )
    assert not check(narrow, facts_of(narrow))
