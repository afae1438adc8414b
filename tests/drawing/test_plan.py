from itertools import combinations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.build import facts_of
from zumbert.analysis.runline import RunKey
from zumbert.analysis.runs import run
from zumbert.checks import check
from zumbert.demo.project import demo_project
from zumbert.drawing.contours import contour_steps
from zumbert.drawing.groundplan import base
from zumbert.drawing.labels import corners, overlap, text_box
from zumbert.drawing.marks import Fill, Segments, Stroke, Text
from zumbert.drawing.picture import Picture
from zumbert.drawing.plan import lifted, network, north_arrow
from zumbert.drawing.scalebar import scale_bar
from zumbert.drawing.sight import (
    UNITS_PER_METRE,
    MapSight,
    SectionSight,
    StraightSight,
    fitted,
    round_ratio,
    scale_of,
)
from zumbert.drawing.style import text_width
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, label_fields

DEMO = demo_project()
FACTS = facts_of(DEMO)
FOUND = check(DEMO, FACTS)
MAP = MapSight(width=900, height=500, x=1500, y=880, scale=4)
HEAD = next(k for k, s in DEMO.structures.items() if s.label == "S13")
RUN = run(FACTS, RunKey("run", HEAD))
SECTION = SectionSight(width=900, height=300, left=84, x=80, z=38, sx=6, sz=30)
STRAIGHT = StraightSight(
    width=900,
    height=300,
    line=RUN.line,
    first=SECTION.x,
    left=84,
    scale=SECTION.sx,
    middle=150,
    reach=60,
)


def picture(**values):
    return Picture(facts=FACTS, findings=FOUND, run=RUN, **values)


@given(st.floats(1400, 1600), st.floats(800, 950), st.floats(-3, 3))
def test_a_map_goes_there_and_back(x, y, turn):
    sight = MapSight(width=900, height=500, x=1500, y=880, scale=4, turn=turn)
    back = sight.to_world(sight.to_drawing(np.array([[x, y]])))
    assert back[0].tolist() == approx([x, y])


@given(st.floats(0, 900), st.floats(0, 500), st.floats(0.3, 3))
def test_zooming_keeps_the_place_under_the_cursor(px, py, factor):
    before, after = (
        MAP.to_world(np.array([[px, py]])),
        MAP.zoomed(factor, px, py).to_world(np.array([[px, py]])),
    )
    assert after[0].tolist() == approx(before[0].tolist())


def test_columns_of_the_straightened_plan_are_those_of_the_long_section():
    for key, at in RUN.structures:
        p = FACTS.places[key]
        [[x, y]] = STRAIGHT.to_drawing(np.array([[p.x, p.y]])).tolist()
        assert x == approx(SECTION.x_of(at), abs=1e-6)
        assert y == approx(150, abs=1e-6)


def test_right_of_the_run_lies_below_it():
    # looking from the outfall up, right is down in the drawing
    x, y = RUN.line.point(100.0, 5.0)
    [[_, py]] = STRAIGHT.to_drawing(np.array([[float(x), float(y)]])).tolist()
    assert py == approx(150 + 5 * 6)
    back = STRAIGHT.to_world(np.array([[SECTION.x_of(100.0), 180.0]]))[0]
    assert back.tolist() == approx([float(x), float(y)])


@pytest.mark.parametrize("sight", [MAP, STRAIGHT], ids=["map", "straightened"])
def test_ground_roads_and_network_are_all_there(sight):
    marks = base(FACTS, sight)
    roles = {m.role for m in marks}
    assert {
        "contour-minor",
        "contour-major",
        "road",
        "kerb",
        "centre-line",
        "chainage-tick",
        "chainage",
        "contour",
    } <= roles
    composed = network(picture(), sight)
    assert {t.kind for t in composed.targets} == {"structure", "pipe", "label"}
    assert {"structure", "storm", "flow-open" if sight.scale >= 6 else "storm", "breach-plan"} <= {
        m.role for m in composed.marks
    } | {m.edge for m in composed.marks if getattr(m, "edge", None)}
    for m in marks:
        xy = m.xy if isinstance(m, (Stroke, Segments, Fill)) else np.zeros(1)
        assert not np.isnan(xy).any(), m.role


def test_the_breach_lies_on_its_pipe():
    key = next(k for k, p in DEMO.pipes.items() if p.label == "P5")
    [finding] = [f for f in FOUND if f.rule == "cover_min"]
    strokes = [
        m
        for m in network(picture(), MAP).marks
        if isinstance(m, Stroke) and m.role == "breach-plan"
    ]
    ends = [FACTS.pipes[key].span.point(s) for s in finding.stretches[0]]
    assert strokes[0].xy.ravel().tolist() == approx(MAP.to_drawing(np.array(ends)).ravel().tolist())


def test_labels_of_structures_keep_off_those_of_the_road():
    under = base(FACTS, MAP)
    taken = [text_box(m) for m in under if isinstance(m, Text)]
    for t in network(picture(), MAP, taken).marks:
        if isinstance(t, Text) and t.role == "structure-label":
            a = text_box(t)
            assert not any(
                a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3] for b in taken
            ), t.text


def test_the_label_under_the_cursor_always_shows():
    far = MapSight(width=300, height=200, x=1600, y=880, scale=0.5)
    shown = {m.text for m in network(picture(), far).marks if isinstance(m, Text)}
    hidden = next(k for k, s in DEMO.structures.items() if s.label == "G7R")
    assert "G7R" not in shown
    named = network(picture(), far).named
    assert "G7R" in {m.text for m in lifted(picture(), far, hidden, named) if isinstance(m, Text)}
    assert not any(isinstance(m, Text) for m in lifted(picture(), far, hidden, named | {hidden}))


def test_true_width_from_near():
    near = MapSight(width=900, height=500, x=FACTS.places[HEAD].x, y=FACTS.places[HEAD].y, scale=60)
    assert any(
        isinstance(m, Fill) and m.role == "storm-bore" for m in network(picture(), near).marks
    )


def test_scales():
    assert round_ratio(UNITS_PER_METRE / 480) == 500
    assert fitted((0, 0), (400, 100), 900, 500).scale == approx(UNITS_PER_METRE / 2000)
    assert contour_steps(8) == (0.2, 1.0)
    assert [m.text for m in scale_bar(MAP.scale, 0, 0) if isinstance(m, Text)] == [
        "0",
        "20",
        "40 m",
    ]
    assert len(list(north_arrow(STRAIGHT, 10, 10, (300.0, 100.0)))) == 2
    # the run heads east-south-east at first: north is to the left and up of it
    assert STRAIGHT.north(300.0, 100.0) == approx(
        np.pi / 2 - float(RUN.line.bearing(SECTION.s_at(300.0)))
    )


def test_low_points_and_crests_are_marked_in_plan_and_section():
    from tests.build import road_project
    from zumbert.drawing.longsection import long_section
    from zumbert.drawing.marks import turning_point
    from zumbert.geometry.profile import Pvi
    from zumbert.model.road import RoadProfile

    p = road_project()
    [road] = p.roads.values()
    # -2 %, +2 %, -1 %
    pvis = (Pvi(0, 52.0), Pvi(100, 50.0, 40.0), Pvi(300, 54.0, 40.0), Pvi(500, 52.0))
    road = replace(road, profiles=(RoadProfile(name="D", kind="design", pvis=pvis),), design=0)
    facts = facts_of(replace(p, roads={road.id: road}))
    sight = MapSight(width=900, height=300, x=250, y=0, scale=1.6)
    marks = base(facts, sight)
    assert {"Low 0+100.0", "Crest 0+306.7"} <= {m.text for m in marks if isinstance(m, Text)}
    [[x, y]] = sight.to_drawing(np.array([[100.0, 0.0]])).tolist()
    moons = [m.xy for m in marks if isinstance(m, Fill) and m.role == "design"]
    assert any(np.allclose(m, turning_point(x, y, "low")) for m in moons)
    shown = Picture(
        facts=facts, findings=check(facts.project, facts), run=run(facts, RunKey("road", road.id))
    )
    section = long_section(
        shown, SectionSight(width=900, height=300, left=84, x=0, z=48, sx=1.5, sz=40)
    )
    assert {"Low 0+100.0", "Crest 0+306.7"} <= {
        m.text for m in section.marks if isinstance(m, Text)
    }


FIELDS = [
    {},
    {
        "structure_label": tuple(f.key for f in label_fields(STRUCTURE_FIELDS)),
        "pipe_label": tuple(f.key for f in label_fields(PIPE_FIELDS)),
    },
]


@pytest.mark.parametrize("fields", FIELDS, ids=["usual", "all fields"])
def test_no_labels_overlap_in_the_demo_at_1_to_500(fields):
    project = replace(DEMO, settings=replace(DEMO.settings, **fields))
    facts = facts_of(project)
    xy = np.array([(p.x, p.y) for p in facts.places.values()])
    (x0, y0), (x1, y1), scale = xy.min(axis=0), xy.max(axis=0), scale_of(500)
    sight = MapSight(
        width=(x1 - x0) * scale + 300,
        height=(y1 - y0) * scale + 300,
        x=(x0 + x1) / 2,
        y=(y0 + y1) / 2,
        scale=scale,
    )
    made = network(Picture(facts=facts, findings=check(project, facts)), sight)
    texts = [m for m in made.marks if isinstance(m, Text)]
    boxes = [corners(t) for t in texts]
    assert len(made.named) > 20  # most find a place
    assert [
        (texts[i].text, texts[j].text)
        for i, j in combinations(range(len(texts)), 2)
        if overlap(boxes[i], boxes[j])
    ] == []
    for t, box in zip(texts, boxes, strict=True):
        if not t.angle:  # a structure's label keeps off every pipe
            for key in facts.pipes:
                span = facts.spans[key]
                a, b = sight.to_drawing(
                    np.array([span.point(span.reach_up), span.point(span.length - span.reach_down)])
                ).tolist()
                thin = ((a[0], a[1]), (b[0], b[1]), (b[0], b[1] + 0.01), (a[0], a[1] + 0.01))
                assert not overlap(box, thin), (t.text, key)


def test_a_label_moved_by_hand_stays_there_with_a_line_to_its_place():
    structures = {**DEMO.structures, HEAD: replace(DEMO.structures[HEAD], label_at=(60.0, -40.0))}
    facts = facts_of(replace(DEMO, structures=structures))
    near = replace(MAP, x=facts.places[HEAD].x, y=facts.places[HEAD].y)
    made = network(Picture(facts=facts, findings=FOUND), near)
    [[x, y]] = near.to_drawing(np.array([[facts.places[HEAD].x, facts.places[HEAD].y]])).tolist()
    at = next(m for m in made.marks if isinstance(m, Text) and m.text == "S13")
    assert (at.x, at.y, at.anchor) == (approx(x + 60), approx(y - 40), "left")
    leader = next(m for m in made.marks if isinstance(m, Stroke) and m.role == "leader")
    assert leader.xy[0].tolist() == approx([x, y])


def test_abandoned_work_is_crossed_out():
    pipe = next(p for p in DEMO.pipes.values() if p.label == "P5")
    gone = replace(DEMO, pipes={**DEMO.pipes, pipe.id: replace(pipe, status="abandoned")})
    facts = facts_of(gone)
    made = network(Picture(facts=facts, findings=check(gone, facts)), MAP)
    [crossed] = [m for m in made.marks if isinstance(m, Segments) and m.role == "crossed"]
    span = facts.spans[pipe.id]
    a, b = MAP.to_drawing(np.array([span.point(0.0), span.point(span.length)]))
    middles = crossed.xy.reshape(-1, 4)[:, :2] / 2 + crossed.xy.reshape(-1, 4)[:, 2:] / 2
    along = ((middles - a) @ (b - a)) / float((b - a) @ (b - a))
    assert len(crossed.xy) >= 2 and (along > 0).all() and (along < 1).all()
    assert not any(
        isinstance(m, Segments) and m.role == "crossed" for m in network(picture(), MAP).marks
    )


def test_what_a_preview_changes_is_drawn_alone_and_left_out_of_the_rest():
    key = next(k for k, p in DEMO.pipes.items() if p.label == "P5")
    alone = network(picture(), MAP, only=frozenset([key]))
    assert {t.id for t in alone.targets if t.kind != "label"} == {key}
    rest = network(picture(), MAP, without=frozenset([key]))
    whole = network(picture(), MAP)
    assert {t.id for t in whole.targets} - {t.id for t in rest.targets} == {key}


def test_the_scale_bar_is_of_a_round_length_and_as_long_as_its_words_at_every_scale():
    for scale in 10.0 ** np.linspace(-3, 2.7, 60):
        marks = list(scale_bar(scale, 16.0, 200.0))
        dark = next(m for m in marks if isinstance(m, Fill) and m.role == "ink")
        zero, half, whole = (m for m in marks if isinstance(m, Text))
        wide = float(np.ptp(dark.xy[:, 0]))
        assert 59.9 < wide < 151  # 60, 2.5 times that at most
        assert float(half.text) * scale == approx(wide)
        assert zero.x + 8 < half.x - text_width(half.text, "ink") / 2  # no word touches the next
        assert (
            half.x + text_width(half.text, "ink") / 2 < whole.x - text_width(whole.text, "ink") / 2
        )


def test_words_over_dashed_lines_have_a_clear_ground():
    facts = facts_of(demo_project())
    sight = fitted((1350, 800), (1850, 1050), 900, 500)
    words = [m for m in base(facts, sight) if isinstance(m, Text)]
    assert len(words) > 5 and all(t.plate for t in words)
    picture = Picture(facts=facts, findings=check(facts.project, facts), run=None)
    labels = [m for m in network(picture, sight).marks if isinstance(m, Text)]
    assert len(labels) > 5 and all(t.plate for t in labels)
