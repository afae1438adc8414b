"""Labels that are given by pattern, one after the other."""

from msgspec.structs import replace

from tests.build import chain, facts_of, road_project, with_pipe, with_structure
from zumbert.edits.labels import next_label, renumbered, set_pattern

RUN = chain([(48.0, 47.5), (47.45, 46.95), (46.9, 46.4)])


def test_the_next_label_is_free():
    assert next_label(RUN, "manhole-1200") == "S5"  # S1 to S4 are there
    # a number that is taken: the next one that is not
    assert next_label(RUN, "manhole-1200", n=2) == "S5"
    assert next_label(RUN, "manhole-1200", n=40) == "S40"


def test_a_network_is_numbered_up_from_its_outfall_and_down_from_its_heads():
    [network] = RUN.networks
    up = renumbered(RUN, facts_of(RUN), network)
    assert [s.label for s in up.structures.values()] == ["S3", "S2", "S1", "OF1"]
    assert [p.label for p in up.pipes.values()] == ["P3", "P2", "P1"]
    down = renumbered(up, facts_of(up), network, up=False, first=10)
    assert [s.label for s in down.structures.values()] == ["S10", "S11", "S12", "OF10"]


def test_a_label_of_existing_work_is_passed_over():
    old = replace(RUN.structures["S3"], status="existing", label="S2")
    p = replace(
        RUN,
        structures={**RUN.structures, "S2": replace(RUN.structures["S2"], label="X"), "S3": old},
    )
    [network] = p.networks
    assert [s.label for s in renumbered(p, facts_of(p), network).structures.values()] == [
        "S3",
        "S1",
        "S2",
        "OF1",
    ]


def test_a_pair_over_the_road_has_one_number():
    p = set_pattern(road_project(), "gully", "G{n}{side}")
    p = with_structure(p, "O", 5.0, 0.0, kind="outfall", road=True)
    for label, at, off in (
        ("a", 20.0, -3.0),
        ("b", 20.0, 3.0),
        ("c", 40.0, -3.0),
        ("d", 60.0, -3.0),
        ("e", 60.0, 3.0),
    ):
        p = with_structure(p, label, at, off, kind="gully-450", road=True)
        p = with_pipe(p, f"P{label}", label, "O", 46.0, 45.0, "150")
    [network] = p.networks
    made = renumbered(p, facts_of(p), network)
    assert sorted(s.label for s in made.structures.values())[:5] == [
        "G1L",
        "G1R",
        "G2L",
        "G3L",
        "G3R",
    ]
