"""The rings of stretches of a road, by hand on a straight road."""

import numpy as np
from msgspec.structs import replace
from pytest import approx

from tests.build import facts_of, road_project, with_structure
from zumbert.analysis import analyse
from zumbert.analysis.areas import ring_size
from zumbert.edits.areas import add_area
from zumbert.edits.change import move_structure
from zumbert.edits.roads import set_strip
from zumbert.model.area import RoadSide
from zumbert.model.road import Strip, StripAt
from zumbert.model.structure import Anchored


def along(**more):
    """Kerb to kerb 3.0 m left and 3.5 m right of a straight road, verges of 1 m; a gully at 20
    and at 50.
    """
    p = road_project()
    road = next(iter(p.roads))
    p = set_strip(p, road, Strip(sections=(StripAt(left=3.0, right=3.5, verge=1.0),)))
    for label, at in (("A", 20.0), ("B", 50.0)):
        p = with_structure(p, label, at, 3.0, kind="gully-450", road=True)
    side = RoadSide(road=road, first="A", last="B", **more)
    return add_area(p, "carriageway", along=side)


def test_a_stretch_reaches_from_crown_to_kerb_or_further():
    for more, wide in (
        ({"side": "right"}, 3.5),
        ({"side": "left"}, 3.0),
        ({"side": "right", "verge": True}, 4.5),
        ({"side": "left", "whole": True}, 6.5),
    ):
        p, key = along(**more)
        f = facts_of(p).areas[key]
        assert f.size == approx(30.0 * wide, abs=1e-9)
        assert ring_size(f.ring) == f.size
        assert np.hypot(*np.diff(f.ring, axis=0).T).max() < wide + 1.001  # round it, never across


def test_a_stretch_is_kept_while_its_gullies_stay_and_follows_them():
    p, key = along(side="right")
    facts = facts_of(p)
    named = replace(p, structures={**p.structures, "A": replace(p.structures["A"], label="A1")})
    assert analyse(named, facts).areas[key] is facts.areas[key]
    moved = move_structure(p, facts, "B", Anchored(p.structures["B"].place.road, 60.0, 3.0))
    assert analyse(moved, facts).areas[key].size == approx(40.0 * 3.5)
