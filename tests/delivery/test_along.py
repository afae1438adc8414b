import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.delivery.places import long_job, overlapping, texts_on, window_on
from zumbert.analysis.runs import run
from zumbert.delivery.along import (
    GUTTER,
    PLAN,
    datum_steps,
    keys_of,
    lengthwise,
    spans_of_level,
    stretches,
)
from zumbert.delivery.job import Job
from zumbert.delivery.pages import leaves, page, room_of
from zumbert.delivery.paper import scale_on_paper, unit_of, windows_of
from zumbert.drawing.marks import Stroke
from zumbert.drawing.sight import MapSight, SectionSight, StraightSight
from zumbert.edits.sheets import change_sheet
from zumbert.model.sheet import Along


def test_a_length_is_cut_to_pieces_that_overlap():
    # 100 m in pieces of 40 that share 10: 0-40, 30-70, 60-100
    assert lengthwise(0.0, 100.0, 40.0, 10.0) == [(0.0, 40.0), (30.0, 70.0), (60.0, 100.0)]
    assert lengthwise(5.0, 25.0, 40.0, 10.0) == [(5.0, 25.0)]
    with pytest.raises(ValueError, match="overlap"):
        lengthwise(0.0, 100.0, 10.0, 10.0)


@given(st.floats(0, 1e4), st.floats(1, 5e3), st.floats(20, 500), st.floats(0, 15))
def test_pieces_cover_a_length_whole_and_are_no_more_than_needed(a, long, most, overlap):
    found = lengthwise(a, a + long, most, overlap)
    assert found[0][0] == a
    assert found[-1][1] == approx(a + long)
    for (a0, b0), (a1, _) in zip(found, found[1:], strict=False):
        assert b0 - a1 == approx(overlap, abs=1e-6)
        assert b0 - a0 == approx(most)
    assert (len(found) - 1) * (most - overlap) + overlap < long + 1e-6 or len(found) == 1


def test_chainages_lie_over_each_other_in_plan_and_section():
    project, _ = long_job(400.0)
    job = Job(project)
    made = leaves(job)
    drawn = page(job, made[0], made)
    plan, straight = window_on(drawn, StraightSight)
    section, sight = window_on(drawn, SectionSight)
    shown = run(job.facts, keys_of(job, made[0].sheet)[0])
    for s in (0.0, 60.0, 180.0):
        x, y = shown.line.point(s, 0.0)
        [[px, _]] = straight.to_drawing(np.array([[float(x), float(y)]]))
        assert plan.x + px == approx(section.x + sight.x_of(s) - section.window.left, abs=1e-9)


def test_three_kilometres_go_over_nine_sheets_that_say_what_they_join():
    project, _ = long_job(3000.0)
    job = Job(project)
    made = leaves(job)
    assert len(made) == 9
    drawn = [page(job, leaf, made) for leaf in made]
    for i, p in enumerate(drawn):
        words = " ".join(t.text for t, *_ in texts_on(p.marks))
        for n in (i, i + 2):
            assert (f"joins sheet {n:02}" in words) == (1 <= n <= 9)
    parts = [leaf.part for leaf in made]
    for a, b in zip(parts, parts[1:], strict=False):
        assert a.after == b.before
        assert a.b - b.a == approx(made[0].sheet.overlap)
    lines = [
        [round(m.xy[0, 0], 6) for m in p.marks if isinstance(m, Stroke) and m.role == "match"]
        for p in drawn
    ]
    assert [len(found) for found in lines] == [1, *[2] * 7, 1]
    # the same chainage stands at the same place of the run on both sheets
    k = scale_on_paper(made[0].sheet.scale, unit_of(project.delivery))
    x = room_of(project, made[0].sheet).x + GUTTER
    for i in range(8):
        assert lines[i][-1] == approx(x + (parts[i].after - parts[i].a) * k, abs=1e-5)
        assert lines[i + 1][0] == approx(x + (parts[i + 1].before - parts[i + 1].a) * k, abs=1e-5)


def test_labels_overlap_on_no_sheet_of_a_long_run():
    project, _ = long_job(3000.0)
    job = Job(project)
    made = leaves(job)
    for leaf in made:
        drawn = page(job, leaf, made)
        kinds = {
            "structure-label",
            "section-label",
            "storm",
            "chainage",
            "row",
            "row-2",
            "row-ground",
            "sheet",
            "ground",
        }
        texts = [t for t in texts_on(drawn.marks) if t[0].role in kinds]
        assert len(texts) > 25
        assert overlapping(texts) == []


def test_a_steep_run_steps_its_datum_and_shows_all_of_its_levels():
    project, _ = long_job(600.0, fall=0.08, up=50.0)  # falls 48 m: at 1:50 that is 960 mm
    job = Job(project)
    made = leaves(job)
    shown = run(job.facts, keys_of(job, made[0].sheet)[0])
    steps = datum_steps(job.facts, shown, 0.0, 300.0, 12.0)
    assert len(steps) > 1
    assert steps[0][0] == 0.0 and steps[-1][1] == approx(300.0)
    for a, b, low, high in steps:
        assert high - low <= 12.0 + 1e-6
        assert (low, high) == approx(spans_of_level(job.facts, shown, a, b))
    drawn = page(job, made[0], made)
    sections = [m for w, m in windows_of(drawn.marks) if isinstance(w.sight, SectionSight)]
    assert len(sections) > 1
    for a, b in zip(sections, sections[1:], strict=False):
        assert a.x + a.width == approx(b.x)


def test_a_sheet_follows_what_it_is_told_to_and_forgets_what_is_gone(job):
    sheet = next(s for s in job.project.sheets.values() if s.kind == "plan-and-section")
    road = next(iter(job.project.roads))
    told = replace(sheet, along=(Along("road", road), Along("run", "nowhere")))
    assert [(k.kind, k.id) for k in keys_of(job, told)] == [("road", road)]
    box = room_of(job.project, told)
    parts = stretches(job, told, box.width, unit_of(job.project.delivery))
    assert parts[0].a == 0.0 and parts[-1].b == approx(420.0)
    assert box.height * PLAN > 100


def test_a_turned_plan_has_its_true_shape(job):
    sheet = next(s for s in job.project.sheets.values() if s.kind == "plan-and-section")
    turned = Job(change_sheet(job.project, sheet.id, plan="turned"))
    made = [leaf for leaf in leaves(turned) if leaf.sheet.id == sheet.id]
    drawn = page(turned, made[0], leaves(turned))
    _, sight = window_on(drawn, MapSight)
    shown = run(turned.facts, made[0].part.key)
    ends = np.column_stack(shown.line.point(np.array([made[0].part.a, made[0].part.b]), 0.0))
    at = sight.to_drawing(ends)
    assert at[0, 1] == approx(at[1, 1])
    assert np.hypot(*(at[1] - at[0])) == approx(np.hypot(*(ends[1] - ends[0])) * sight.scale)
