import numpy as np
import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, v_project
from zumbert.analysis.runline import RunKey
from zumbert.analysis.runlist import run_keys
from zumbert.analysis.runs import run
from zumbert.analysis.trench import trenches
from zumbert.checks import check
from zumbert.checks.legal import end_range
from zumbert.demo.project import demo_project
from zumbert.drawing.handles import PipeHandle, handles, ring_places
from zumbert.drawing.labels import Labels, around, corners, overlap, text_box
from zumbert.drawing.levelrows import ROW
from zumbert.drawing.longsection import long_section
from zumbert.drawing.marks import Fill, Segments, Stroke, Text
from zumbert.drawing.picture import Picture
from zumbert.drawing.sectionpipes import barrel_shape
from zumbert.drawing.sight import SectionSight, section_fitted
from zumbert.drawing.style import AREAS, LINES, TEXTS
from zumbert.edits.land import add_land
from zumbert.geometry.line import level_at
from zumbert.model.ids import PipeId

SIGHT = SectionSight(width=884, height=300, left=84, x=-5, z=26, sx=10, sz=50)


def picture(project, head="A", **values):
    facts = facts_of(project)
    return Picture(
        facts=facts, findings=check(project, facts), run=run(facts, RunKey("run", head)), **values
    )


def of_role(composed, role, kind=Stroke):
    return [m for m in composed.marks if isinstance(m, kind) and m.role == role]


V = picture(v_project(), pipes=frozenset({"P1"}))


def test_the_run_goes_from_its_lower_end_to_the_right():
    assert [(k, at) for k, at in V.run.structures] == [("B", 0.0), ("A", 60.0)]


@pytest.mark.parametrize(("slope", "broken"), [(0.005, set()), (0.0001, {"slope"})])
def test_only_the_value_that_breaks_a_rule_is_red_in_the_rows(slope, broken):
    """Cover, broken in both, stands in no row; a length breaks no rule."""
    project = v_project()
    pipe = project.pipes[PipeId("P1")]
    steep = replace(pipe, invert_up=pipe.invert_down + slope * 60)
    seen = picture(replace(project, pipes={steep.id: steep}))
    assert "cover_min" in {f.rule for f in seen.findings}
    composed = long_section(seen, SIGHT)
    red = {m.text for m in of_role(composed, "row-breach", Text)}
    assert {c.field for c in composed.cells if c.text in red} == broken


def test_ground_is_drawn_where_it_is():
    [ground] = of_role(long_section(V, SIGHT), "ground")
    x, y = ground.xy.T
    assert SIGHT.s_at(x[0]) == approx(0.0)
    lowest = int(np.argmax(y))
    assert (SIGHT.s_at(x[lowest]), SIGHT.z_at(y[lowest])) == (approx(30.0), approx(29.0))


def test_the_barrel_has_both_walls_from_wall_to_wall():
    composed = long_section(V, SIGHT)
    outside = of_role(composed, "storm-outside")
    inside = of_role(composed, "storm-inside")
    assert (len(outside), len(inside)) == (2, 2)
    # upper end is at 60 m less 0.6: outside top = 28.5 - 0.6 x 0.005 + 0.345
    xs = sorted(SIGHT.s_at(v) for v in outside[0].xy[:, 0])
    assert xs == approx([0.6, 59.4])
    assert SIGHT.z_at(outside[0].xy[:, 1].min()) == approx(28.497 + 0.345)


def test_the_breach_is_drawn_where_it_is_with_its_measure():
    composed = long_section(V, SIGHT)
    [stretch] = of_role(composed, "breach")
    f = V.facts.pipes["P1"]
    [finding] = V.found("P1")
    ends = [60 - s for s in finding.stretches[0]]
    assert sorted(SIGHT.s_at(x) for x in stretch.xy[[0, -1], 0]) == approx(sorted(ends))
    at = SIGHT.z_at(float(stretch.xy[0, 1]))
    assert at == approx(f.invert(finding.stretches[0][0]) + f.outside_height)
    assert of_role(composed, "breach", Fill)
    assert "Cover 0.31, needs 0.90" in [t.text for t in composed.marks if isinstance(t, Text)]


def test_the_least_cover_line_can_be_switched_off():
    on, off = long_section(V, SIGHT), long_section(replace(V, shows=frozenset()), SIGHT)
    [line] = of_role(on, "least-cover")
    assert SIGHT.z_at(float(line.xy[:, 1].max())) == approx(29.0 - 0.9)
    assert not of_role(off, "least-cover")


def test_rows_stand_under_the_drawing_and_read_as_the_facts():
    composed = long_section(V, SIGHT)
    cells = {(c.row, round(SIGHT.s_at(c.box[0] + c.box[2] / 2))): c for c in composed.cells}
    assert cells["Invert out", 60].text == "28.500"
    assert cells["Invert in", 0].text == "28.200"
    assert cells["Ground", 60].text == "30.000"
    assert cells["Depth", 0].text == "1.800"
    assert cells["Invert in", 0].field == "invert_down"
    assert cells["Slope", 30].text == "0.50 %  1:200"
    assert cells["DN", 30].id == "P1"
    assert all(c.box[1] >= SIGHT.height for c in composed.cells)
    assert all(abs((c.box[1] - SIGHT.height) / ROW % 1) < 1e-6 for c in composed.cells)


def test_rows_that_would_stand_on_each_other_give_way():
    p = picture(
        chain([(48.0 - i * 0.1, 47.95 - i * 0.1) for i in range(30)], spacing=5.0), head="S1"
    )
    sight = section_fitted((0, 150), (44, 50), 884, 300, 84)
    cells = [c for c in long_section(p, sight).cells if c.row == "Rim"]
    boxes = sorted((c.box[0], c.box[0] + c.box[2]) for c in cells)
    assert 5 < len(boxes) < 31
    assert all(a[1] <= b[0] for a, b in zip(boxes, boxes[1:], strict=False))


def test_rings_are_on_the_quoted_inverts_and_the_band_ends_where_the_rules_say():
    hand = PipeHandle(pipe="P1", pivot="up")
    f, [reach] = V.facts.pipes["P1"], V.run.reaches
    places = ring_places(f, reach, SIGHT)
    assert SIGHT.z_at(places["up"][1]) == approx(28.5)
    assert (SIGHT.s_at(places["down"][0]), SIGHT.z_at(places["down"][1])) == (
        approx(0.0),
        approx(28.2),
    )
    assert {t.id for t in handles(V, hand, None, SIGHT).targets} == {
        "up",
        "down",
        "mid",
        "beyond-up",
        "beyond-down",
    }
    [band] = of_role(long_section(V, SIGHT, hand), "legal", Fill)
    r = end_range(V.facts, f, "down")
    assert [SIGHT.z_at(y) for y in band.xy[:, 1]] == approx([28.5, r.high, r.low])
    off = replace(V, shows=frozenset())
    assert not of_role(long_section(off, SIGHT, hand), "legal", Fill)


def test_the_trench_bottom_ends_at_the_pits():
    p = replace(V, trenches=trenches(V.facts), shows=frozenset({"trench"}))
    composed = long_section(p, SIGHT)
    [bottom] = of_role(composed, "trench-bottom")
    assert sorted(SIGHT.s_at(x) for x in bottom.xy[:, 0]) == approx([1.225, 60 - 1.225])
    assert len(of_role(composed, "trench-tick", Segments)) == 1
    assert len(of_role(composed, "plate", Fill)) == 2


def test_the_demo_draws_every_run():
    demo = demo_project()
    facts = facts_of(demo)
    found = check(demo, facts)
    for key in (RunKey("road", next(iter(demo.roads))), RunKey("run", next(iter(demo.structures)))):
        composed = long_section(Picture(facts=facts, findings=found, run=run(facts, key)), SIGHT)
        assert len(composed.marks) > 10
    assert long_section(Picture(facts=facts, findings=found), SIGHT).cells == []


@pytest.mark.parametrize("seed", range(5))
def test_labels_never_overlap(seed):
    rng = np.random.default_rng(seed)
    labels = Labels()
    for i in range(120):
        x, y = rng.uniform(0, 400, 2)
        labels.put("structure-label", f"S{i}", around(float(x), float(y), 7))
    boxes = [text_box(t) for t in labels.texts]
    assert len(boxes) > 40
    for i, a in enumerate(boxes):
        for b in boxes[i + 1 :]:
            assert not (a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3])


def test_a_stretch_outside_the_land_is_told_as_that_and_has_no_sliver_of_cover():
    # barrel of 60 m less 0.6 m at both chambers, nothing of it in the reserve
    project, _ = add_land(v_project(), "reserve", [(0.0, 50.0), (9.0, 50.0), (0.0, 60.0)])
    made = long_section(picture(project, pipes=frozenset({"P1"})), SIGHT)
    texts = [m.text for m in made.marks if isinstance(m, Text)]
    assert "58.80 m outside the land" in texts
    assert not any("at most 0.00" in t for t in texts)
    slivers = [len(of_role(m, "sliver", Fill)) for m in (made, long_section(V, SIGHT))]
    assert slivers[0] == slivers[1]


def test_names_of_surfaces_and_labels_of_branches_keep_off_barrels_and_surfaces():
    demo = demo_project()
    facts = facts_of(demo)
    found = check(demo, facts)
    seen = 0
    for key in (run_keys(demo, facts)[0], run_keys(demo, facts)[3]):
        line = run(facts, key)
        picture = Picture(facts=facts, findings=found, run=line)
        for sx, x in [(1.5, 0.0), (4.0, 50.0), *((20.0, 20.0 * i) for i in range(18))]:
            low = float(np.nanmin(line.ground.z[line.ground.s >= x])) - 2.5 - 5 / sx
            sight = SectionSight(
                width=900, height=300, left=84, x=x, z=low, sx=sx, sz=min(60.0, 10 * sx)
            )
            words = [m for m in long_section(picture, sight).marks if isinstance(m, Text)]
            names = [t for t in words if t.text in ("Existing ground", "Road design")]
            branches = [t for t in words if t.text[:1] == "G" and " " in t.text]
            seen += len(names) + len(branches)
            for t in names + branches:
                for reach in line.reaches:
                    assert not overlap(corners(t), barrel_shape(picture, reach, sight)), t
                for surface in (line.ground, line.design):
                    box = text_box(t)
                    for x in (box[0] + 2, (box[0] + box[2]) / 2, box[2] - 2):
                        y = sight.y_of(float(level_at(surface, sight.s_at(x))))
                        assert not box[1] + 1 < y < box[3] - 1, t
    assert seen > 8


def test_what_a_selected_pipe_breaks_is_told_at_the_edge_whether_breach_or_caution():
    # 1 in 100 and drops of 0.05
    bare = chain([(48.0 - i * 0.55, 47.5 - i * 0.55) for i in range(3)])
    # no ground at all: each pipe leaves the surfaces, a caution
    project = replace(bare, surfaces={})
    p = picture(project, head="S1", pipes=frozenset({"P2"}))
    assert {f.severity for f in p.found("P2")} == {"caution"}
    for s0 in (-400.0, 400.0):  # the pipe lies beyond the right edge, then beyond the left one
        composed = long_section(p, replace(SIGHT, x=s0))
        [arrow] = [m for m in of_role(composed, "caution") if len(m.xy) == 3]
        assert arrow.closed
        [told] = [m for m in composed.marks if isinstance(m, Text) and "off the surfaces" in m.text]
        assert told.role == "caution-small" and told.text.endswith("m on")
        assert (told.anchor == "right") == (s0 < 0)
        for m in composed.marks:
            assert m.role in (
                TEXTS if isinstance(m, Text) else AREAS if isinstance(m, Fill) else LINES
            )
