"""Labels by their pattern, renamed and renumbered; networks; selections that widen."""

import numpy as np
import pytest

from tests.build import facts_of, road_project, the_road, with_structure
from tests.edits.test_join import RUN
from zumbert.analysis.selecting import Chosen, inside, more
from zumbert.demo.project import demo_project
from zumbert.edits.labels import next_label, numbers_in_use, rename, renumbered, set_pattern
from zumbert.edits.networks import add_network, change_network, remove_network, set_network
from zumbert.errors import EditError
from zumbert.model.structure import Anchored


def test_labels_follow_their_pattern():
    p = road_project()
    p = set_pattern(p, "gully", "G{n}{side}")
    p = with_structure(p, "G3L", 10.0, -3.0, kind="gully-450", road=True)
    assert next_label(p, "gully-450", Anchored(the_road(p), 20.0, 3.0)) == "G4R"
    assert next_label(p, "gully-450", Anchored(the_road(p), 10.0, 3.0), 3) == "G3R"
    assert next_label(p, "manhole-1200") == "S1"
    assert numbers_in_use(p, "G{n}{side}") == {3}
    with pytest.raises(EditError, match="has {n} in it once"):
        set_pattern(p, "gully", "G")


def test_renaming_keeps_labels_unique():
    with pytest.raises(EditError, match='already a structure "S2"'):
        rename(RUN, "S1", "S2")
    assert rename(RUN, "S1", 'M "1"').structures["S1"].label == 'M "1"'


def test_a_network_is_numbered_from_its_outfall_up_or_down():
    net = next(iter(RUN.networks))
    up = renumbered(RUN, facts_of(RUN), net)
    assert {k: s.label for k, s in up.structures.items()} == {
        "S1": "S3",
        "S2": "S2",
        "S3": "S1",
        "S4": "OF1",
    }
    down = renumbered(RUN, facts_of(RUN), net, up=False)
    assert [s.label for s in down.structures.values()] == ["S1", "S2", "S3", "OF1"]
    demo = demo_project()
    made = renumbered(demo, facts_of(demo), next(iter(demo.networks)))
    labels = [s.label for s in made.structures.values()]
    assert len(set(labels)) == len(labels)
    assert {"EX1", "EX2"} <= set(labels)  # existing work keeps its labels


def test_networks_are_made_filled_and_removed():
    p, key = add_network(RUN, "Foul", next(iter(RUN.networks)))
    p = set_network(p, key, ["S1"], ["P1"])
    assert (p.structures["S1"].network, p.pipes["P1"].network, p.pipes["P2"].network) == (
        key,
        key,
        next(iter(RUN.networks)),
    )
    with pytest.raises(EditError, match="has 2 things: move them"):
        remove_network(p, key)
    p = set_network(p, next(iter(RUN.networks)), ["S1"], ["P1"])
    assert key not in remove_network(p, key).networks
    with pytest.raises(EditError, match='already a network "Foul"'):
        add_network(p, "Foul", key)
    assert change_network(p, key, name="Foul B").networks[key].name == "Foul B"


def test_selections_widen():
    demo = demo_project()
    facts = facts_of(demo)
    label = {s.label: k for k, s in demo.structures.items()}
    s4 = Chosen(frozenset(), frozenset({label["S4"]}))
    up = more(facts, s4, "upstream")
    assert {label["S17"], label["S13"], label["G5L"]} <= up.structures
    assert label["S3"] not in up.structures
    assert label["HW1"] in more(facts, s4, "downstream").structures
    assert label["EX1"] not in more(facts, s4, "connected").structures
    gully = Chosen(frozenset(), frozenset({label["G1L"]}))
    assert len(more(facts, gully, "type").structures) == 22
    inverse = more(facts, up, "inverse")
    assert inverse.structures.isdisjoint(up.structures)
    assert len(inverse.structures | up.structures) == len(demo.structures)
    ring = np.array([[1360, 840], [1420, 840], [1420, 875], [1360, 875]])
    caught = inside(facts, ring)
    assert caught.structures == {label["EX1"], label["EX2"]}
    assert len(caught.pipes) == 1
