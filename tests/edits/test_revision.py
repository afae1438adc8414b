from msgspec.structs import replace
from pytest import approx

from tests.build import facts_of, road_project, the_road, with_pipe, with_structure
from zumbert.edits.revision import revised
from zumbert.edits.roads import add_profile
from zumbert.geometry.elements import Straight
from zumbert.geometry.profile import Pvi
from zumbert.model.road import RoadProfile
from zumbert.model.structure import Anchored, Free


def project():
    p = road_project()
    p = add_profile(p, the_road(p), "design", [Pvi(0.0, 50.0), Pvi(500.0, 60.0)])
    for label, ch in (("S1", 100.0), ("S2", 150.0), ("S3", 480.0)):
        p = with_structure(p, label, ch, 2.0, road=True)
    p = with_pipe(p, "P1", "S2", "S1", 51.6, 50.6)
    return replace(p, pipes={**p.pipes, "P1": replace(p.pipes["P1"], hold_slope=True)})


def test_what_stands_on_a_road_follows_its_revision_and_what_moved_is_told():
    p, facts = project(), facts_of(project())
    lower = RoadProfile(name="design", kind="design", pvis=(Pvi(0.0, 49.0), Pvi(400.0, 57.0)))
    # the same chainages along a line that turns north by 3 in 4, and ends at 400
    made, notes = revised(p, facts, the_road(p), (Straight(0.0, 0.0, 320.0, 240.0),), 0.0, (lower,))
    after = facts_of(made)
    s1 = after.places["S1"]
    assert (s1.chainage, s1.offset) == (100.0, 2.0)
    assert (s1.x, s1.y) == (approx(80 + 2 * 0.6), approx(60 - 2 * 0.8))  # right of the new line
    assert isinstance(made.structures["S3"].place, Free) and isinstance(
        made.structures["S1"].place, Anchored
    )
    # where it was
    assert (after.places["S3"].x, after.places["S3"].y) == (approx(480.0), approx(-2.0))
    record = made.roads[the_road(p)]
    assert [q.name for q in record.profiles] == ["design"] and record.design == 0
    assert record.profiles[0].pvis[0].level == 49.0  # the one in force is the new one of its name
    assert after.pipes["P1"].slope == approx(facts.pipes["P1"].slope)  # a held slope holds
    text = " ".join(notes)
    assert (
        'The road "Quillerby Rise" is replaced: 0+000.00 to 0+400.00, 0+000.00 to 0+500.00 before.'
    ) in text
    assert "2 structures moved with it: S2 by " in text
    assert 'Beyond the new ends of "Quillerby Rise", left where they are on no road: S3.' in text


def test_new_findings_are_named():
    p = project()
    high = RoadProfile(name="design", kind="design", pvis=(Pvi(0.0, 50.0), Pvi(500.0, 60.0)))
    # 30 m to the side the ground is the same, but at half the chainages the pipe is under lower
    # ground
    made, notes = revised(
        p, facts_of(p), the_road(p), (Straight(250.0, 0.0, -250.0, 0.0),), 0.0, (high,)
    )
    assert any(n.split()[1].startswith("finding") and " new: " in n for n in notes)
    assert facts_of(made).places["S1"].x == approx(150.0)
