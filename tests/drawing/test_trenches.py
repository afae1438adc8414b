import numpy as np
from msgspec.structs import replace
from pytest import approx

from tests.analysis.test_trench_proof import kind
from tests.build import chain, facts_of, grounded, with_pipe, with_structure
from zumbert.analysis.crosssection import edges_in_plan
from zumbert.analysis.runline import RunKey
from zumbert.analysis.runs import run
from zumbert.analysis.sectionsteps import next_stop, place_on, run_distance, stops, where_words
from zumbert.analysis.trench import trenches
from zumbert.analysis.union import union
from zumbert.checks import check
from zumbert.drawing.longsection import long_section
from zumbert.drawing.marks import Fill, Segments, Stroke, Text
from zumbert.drawing.picture import Picture
from zumbert.drawing.plantrenches import trench_outlines
from zumbert.drawing.sight import MapSight, SectionSight
from zumbert.edits.setup import set_trench_type
from zumbert.model.digging import Digging, Stratum

P = set_trench_type(
    chain([(48.0, 47.5), (47.4, 46.9)]), kind(width=1.0, vertical_height=0.5, batter=0.5)
)
SECTION = SectionSight(width=1200.0, height=600.0, left=84.0, x=-5.0, z=45.0, sx=10.0, sz=80.0)
MAP = MapSight(width=1200.0, height=400.0, x=50.0, y=0.0, scale=10.0, turn=0.0)


def picture(project=P, shows=("trench", "bands"), net=True):
    facts = facts_of(project)
    dug = trenches(facts)
    shown = run(facts, RunKey("run", "S1"))
    return Picture(
        facts=facts,
        findings=check(project, facts),
        run=shown,
        trenches=dug,
        net=union(dug) if net else None,
        shows=frozenset(shows),
    )


def outlines(p, sight=MAP):
    return trench_outlines(p.trenches, p.net, sight)


def test_edges_are_where_the_sides_leave_level_ground():
    # S1 to S2 falls 0.01 a metre; depth 2.145 + 0.01 s: 0.5 + 0.5 (depth - 0.5) to each side
    p = picture()
    t = p.trenches.pipes["P1"]
    left, right = edges_in_plan(t, p.trenches.world)
    out = 0.5 + 0.5 * (2.145 + 0.01 * left[:, 0] - 0.5)
    assert left[:, 1] == approx(out)
    assert right[:, 1] == approx(-out)
    assert (left[0, 0], left[-1, 0]) == (approx(t.begin), approx(t.end))


def test_outlines_in_plan():
    marks = outlines(picture())
    edges = [m for m in marks if isinstance(m, Stroke) and m.role == "trench-plan"]
    feet = [m for m in marks if isinstance(m, Stroke) and m.role == "trench-foot"]
    # two trenches with their sides, two pits; two bottoms
    assert (len(edges), len(feet)) == (2 + 2, 2)
    wide = feet[0].xy[:, 1].max() - feet[0].xy[:, 1].min()
    assert wide == approx(10.0)  # 1 m at 10 units a metre
    assert outlines(picture(), replace(MAP, x=5000.0)) == []


def test_shared_space_is_hatched():
    p = with_structure(
        with_structure(P, "A", 20.0, -15.0, kind="joint"), "B", 30.0, 15.0, kind="outfall"
    )
    p = with_pipe(p, "X", "A", "B", 48.2, 48.0)
    marks = outlines(picture(p))
    areas = [m for m in marks if isinstance(m, Fill) and m.role == "overlap"]
    lines = [m for m in marks if isinstance(m, Segments) and m.role == "overlap"]
    assert areas and lines
    for m in lines:
        assert m.xy[:, 0] + m.xy[:, 1] == approx(m.xy[:, 2] + m.xy[:, 3])  # at 45 degrees
    assert not any(m.role == "overlap" for m in outlines(picture(p, net=False)))


def test_strata_bands_bottom_and_rows_in_the_long_section():
    p = replace(
        P,
        digging=Digging(
            strata=(
                Stratum(name="topsoil", thickness=0.3),
                Stratum(name="general", thickness=1.5),
                Stratum(name="rock"),
            )
        ),
    )
    made = long_section(picture(p), SECTION)
    roles = {getattr(m, "role", "") for m in made.marks}
    roles |= {getattr(m, "edge", "") for m in made.marks}
    assert {"stratum", "rock-section", "depth-band", "trench-bottom", "pit"} <= roles
    rock = next(m for m in made.marks if isinstance(m, Fill) and m.role == "rock-section")
    assert rock.xy[:, 1].min() == approx(SECTION.y_of(50.0 - 1.8))
    assert any(isinstance(m, Text) and m.text == "1.50 m deep" for m in made.marks)
    rows = {(c.row, c.id): c.text for c in made.cells}
    assert rows["Pit bottom", "S1"] == "47.800"
    assert rows["Pit depth", "S1"] == "2.200"
    assert rows["Width", "P1"] == "1.00"
    assert rows["Excavation", "P1"].endswith(" m³")
    without = long_section(picture(p, shows=()), SECTION)
    assert not any(
        getattr(m, "role", "") in ("stratum", "depth-band", "trench-bottom") for m in without.marks
    )


def test_what_is_filled_first_is_drawn_between_ground_and_crown():
    # a cut down to 47 from 18 to 22 m, crown 48.345
    p = grounded([(-50, 50.0), (17, 50.0), (18, 47.0), (22, 47.0), (23, 50.0), (90, 50.0)])
    p = with_structure(with_structure(p, "S1", 0.0, kind="joint"), "B", 40.0, kind="outfall")
    p = set_trench_type(with_pipe(p, "P", "S1", "B", 48.0, 48.0), kind(width=1.0))
    found = [
        m
        for m in long_section(picture(p), SECTION).marks
        if isinstance(m, Fill) and m.role == "fill-first"
    ]
    xy = np.concatenate([m.xy for m in found])
    assert (xy[:, 0].min(), xy[:, 0].max()) == (
        approx(SECTION.x_of(17 + 1.655 / 3)),
        approx(SECTION.x_of(23 - 1.655 / 3)),
    )
    assert (xy[:, 1].min(), xy[:, 1].max()) == (
        approx(SECTION.y_of(48.345)),
        approx(SECTION.y_of(47.0)),
    )


def test_steps_along_a_run():
    p = picture()
    dug, shown = p.trenches, p.run
    places = stops(dug, shown)
    assert places == sorted(places)
    t = dug.pipes["P2"]  # the run begins at the outfall: P2 first, turned round
    assert places[0] == approx(50 - t.end)
    assert places[-1] == approx(100 - dug.pipes["P1"].begin)
    assert max(np.diff(places)) <= 2.5 + 2 * 1.225 + 1e-9
    at = next_stop(dug, shown, None, True)
    assert at == places[0]
    assert next_stop(dug, shown, at, True) == places[1]
    assert next_stop(dug, shown, at, False) is None
    assert next_stop(dug, shown, None, False) == places[-1]
    place = place_on(dug, shown, 60.0)
    assert (place.pipe, place.s) == ("P1", approx(40.0))
    assert run_distance(dug, shown, "P1", 40.0) == approx(60.0)
    assert run_distance(dug, shown, "gone", 1.0) is None
    assert place_on(dug, shown, 500.0) is None
    assert where_words(p.facts, "P1", 40.0) == "40.00 m"  # there is no road
