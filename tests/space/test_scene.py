"""What is seen in space: parts, what they are made again for, and halves of the ground."""

import numpy as np
import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import facts_of
from zumbert.analysis.facts import analyse
from zumbert.analysis.runlist import run_keys
from zumbert.analysis.runs import run
from zumbert.analysis.trench import trenches
from zumbert.checks.check import check
from zumbert.demo.project import demo_project
from zumbert.drawing.picture import Picture
from zumbert.edits.levels import set_invert
from zumbert.space.scene import box, scene
from zumbert.space.wanted import InSpace

PROJECT = demo_project()
FACTS = facts_of(PROJECT)
KEYS = run_keys(PROJECT, FACTS)
RUN = run(FACTS, KEYS[0])


FOUND = check(PROJECT, FACTS)


def picture(facts=FACTS, **more):
    found = FOUND if facts is FACTS else check(facts.project, facts, FOUND)
    return Picture(facts=facts, findings=found, run=run(facts, KEYS[0], RUN), **more)


def pipe_of(label):
    return next(p for p in PROJECT.pipes.values() if p.label == label).id


def kinds(made):
    return {kind for kind, _ in made.parts}


def plan_area(mesh):
    p = mesh.vertices[mesh.faces][:, :, :2]
    a, b = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    return float(np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum() / 2)


def test_everything_of_the_demo_is_there_once():
    made = scene(picture(), InSpace())
    for kind, records in (
        ("pipe", PROJECT.pipes),
        ("structure", PROJECT.structures),
        ("service", PROJECT.services),
        ("land", PROJECT.land),
    ):
        assert {k for n, k in made.parts if n == kind} == set(records), kind
    assert {"ground", "design", "axis"} <= kinds(made) and not kinds(made) & {
        "trench",
        "pit",
        "section",
        "former",
    }
    ground = made.parts["ground", ""].mesh
    assert len(ground.faces) == len(FACTS.surfaces.existing.faces)


def test_a_level_makes_only_its_own_parts_again():
    before = scene(picture(), InSpace())
    pipe = PROJECT.pipes[pipe_of("P5")]
    after_facts = analyse(set_invert(PROJECT, pipe.id, "down", pipe.invert_down - 0.1), FACTS)
    after = scene(picture(after_facts), InSpace(), before)
    changed = {k for k, p in after.parts.items() if before.parts.get(k) is not p}
    assert {k for k in changed if k[0] in ("pipe", "axis")} == {
        ("pipe", pipe.id),
        ("axis", pipe.id),
    }
    assert {k for k in changed if k[0] == "structure"} <= {
        ("structure", pipe.up),
        ("structure", pipe.down),
    }
    assert len(changed) <= 4
    again = scene(picture(after_facts), InSpace(), after)
    assert (
        all(again.parts[k] is p for k, p in after.parts.items())
        and again.parts.keys() == after.parts.keys()
    )


def same_parts(a, b):
    """Why two scenes differ; empty where they do not."""
    if a.parts.keys() != b.parts.keys():
        return f"other parts: {a.parts.keys() ^ b.parts.keys()}"
    for key, p in a.parts.items():
        q = b.parts[key]
        if (p.kind, p.id, p.role, p.side, p.thick, p.linear) != (
            q.kind,
            q.id,
            q.role,
            q.side,
            q.thick,
            q.linear,
        ):
            return f"{key} looks otherwise"
        if not np.array_equal(p.xyz, q.xyz) or not np.array_equal(p.box, q.box):
            return f"{key} lies otherwise"
    return ""


def edits():
    """Edits of many kinds, each of the project before it."""
    pipe, other = pipe_of("P5"), pipe_of("P9")
    s4 = next(k for k, s in PROJECT.structures.items() if s.label == "S4")
    yield lambda p, f: set_invert(p, pipe, "down", p.pipes[pipe].invert_down - 0.1)
    yield lambda p, f: replace(
        p, pipes={**p.pipes, other: replace(p.pipes[other], status="existing")}
    )
    yield lambda p, f: replace(
        p, pipes={**p.pipes, other: replace(p.pipes[other], size=p.pipes[pipe].size)}
    )
    yield lambda p, f: replace(
        p, structures={**p.structures, s4: replace(p.structures[s4], rotation=0.3)}
    )
    yield lambda p, f: replace(p, pipes={k: v for k, v in p.pipes.items() if k != other})
    yield lambda p, f: replace(
        p, types={k: replace(t, wall=t.wall + 0.05) for k, t in p.types.items()}
    )
    yield lambda p, f: replace(p, services={}, land={})
    yield lambda p, f: set_invert(p, pipe, "up", p.pipes[pipe].invert_up + 0.05)


@pytest.mark.parametrize(
    "wanted", [InSpace(), InSpace(only="run"), InSpace(cut=True, section=True)]
)
def test_after_any_edit_a_kept_scene_is_a_new_one(wanted):
    facts, made = FACTS, scene(picture(), wanted)
    for edit in edits():
        before = facts
        facts = analyse(edit(facts.project, facts), facts)
        tried = scene(picture(facts, before=before), wanted, made)
        assert same_parts(tried, scene(picture(facts, before=before), wanted)) == ""
        taken = scene(picture(facts), wanted, tried)
        assert same_parts(taken, scene(picture(facts), wanted)) == ""
        # undone
        assert (
            same_parts(scene(picture(before), wanted, taken), scene(picture(before), wanted)) == ""
        )
        made = taken


def test_where_a_pipe_lay_before_an_edit_is_a_line():
    pipe = PROJECT.pipes[pipe_of("P5")]
    moved = analyse(set_invert(PROJECT, pipe.id, "down", pipe.invert_down - 0.1), FACTS)
    made = scene(picture(moved, before=FACTS), InSpace())
    former = [p for p in made.parts.values() if p.kind == "former"]
    assert [p.id for p in former] == [pipe.id]
    f = FACTS.pipes[pipe.id]
    assert former[0].lines[-1, 1, 2] == approx(
        f.invert(f.span.length - f.span.reach_down) + f.inside / 2
    )


def test_the_run_or_the_selection_only():
    of_run = scene(picture(), InSpace(only="run"))
    assert {k for n, k in of_run.parts if n == "pipe"} == {r.pipe for r in RUN.reaches}
    assert {k for n, k in of_run.parts if n == "structure"} == {k for k, _ in RUN.structures}
    pipe = PROJECT.pipes[pipe_of("P5")]
    chosen = scene(picture(pipes=frozenset([pipe.id])), InSpace(only="selection"))
    assert {k for k in chosen.parts if k[0] in ("pipe", "structure")} == {
        ("pipe", pipe.id),
        ("structure", pipe.up),
        ("structure", pipe.down),
    }
    assert kinds(scene(picture(), InSpace(only="selection"))) & {"pipe", "structure"} == set()


def test_the_ground_is_cut_in_two_halves_along_the_run():
    whole, cut = scene(picture(), InSpace()), scene(picture(), InSpace(cut=True))
    halves = [cut.parts["ground", side] for side in ("left", "right")]
    assert [h.side for h in halves] == ["left", "right"]
    assert sum(plan_area(h.mesh) for h in halves) == approx(
        plan_area(whole.parts["ground", ""].mesh), rel=1e-9
    )
    lines = {k: p for k, p in cut.parts.items() if k[0] == "ground" and p.lines is not None}
    long = sum(
        float(np.linalg.norm(np.diff(p.lines, axis=1), axis=2).sum()) for p in lines.values()
    )
    uncut = [p for k, p in whole.parts.items() if k[0] == "ground" and p.lines is not None]
    assert long == approx(
        sum(float(np.linalg.norm(np.diff(p.lines, axis=1), axis=2).sum()) for p in uncut), rel=1e-6
    )
    again = scene(picture(), InSpace(cut=True), cut)
    assert all(again.parts[k] is p for k, p in cut.parts.items())


def test_the_section_of_the_ground_stands_on_the_run_from_its_ground_line_down():
    made = scene(picture(), InSpace(section=True)).parts["section", "run"].mesh
    n = len(made.vertices) // 2
    top, foot = made.vertices[:n], made.vertices[n:]
    level = FACTS.surfaces.existing.level(top[:, 0], top[:, 1])
    assert top[:, 2] == approx(level, abs=1e-6) and (foot[:, :2] == top[:, :2]).all()
    lowest = min(
        p.invert_down for p in PROJECT.pipes.values() if p.id in {r.pipe for r in RUN.reaches}
    )
    assert lowest - 2.0 <= foot[0, 2] <= lowest - 1.0


def test_trenches_and_pits_when_they_are_asked_for():
    dug = trenches(FACTS)
    made = scene(picture(trenches=dug), InSpace(dug=True))
    assert {k for n, k in made.parts if n == "pit"} == {
        k for k, q in dug.pits.items() if q is not None and q.bottom is not None
    }
    key = pipe_of("P5")
    mesh, t = made.parts["trench", key].mesh, dug.pipes[key]
    low = mesh.vertices[:, 2].min()
    assert low == approx(min(t.bottom(t.begin), t.bottom(t.end)))
    floor = [f for f in mesh.faces.tolist() if all(abs(mesh.vertices[i, 2] - low) < 1.0 for i in f)]
    assert floor and plan_area(mesh) >= t.dig.width * t.length - 1e-6
    pit = next(p for p in made.parts.values() if p.kind == "pit")
    assert pit.mesh.vertices[:, 2].min() == approx(dug.pits[pit.id].bottom)
    # nobody has worked them out
    assert not kinds(scene(picture(), InSpace(dug=True))) & {"trench", "pit"}


def test_land_lies_on_the_ground():
    made = scene(picture(), InSpace())
    for part in (p for p in made.parts.values() if p.kind == "land"):
        at = part.lines.reshape(-1, 3)
        inside = ~np.isnan(FACTS.surfaces.existing.level(at[:, 0], at[:, 1]))
        assert inside.any()
        assert FACTS.surfaces.existing.level(at[inside, 0], at[inside, 1]) == approx(
            at[inside, 2], abs=1e-6
        )


def test_no_ground_no_run_and_no_network_make_a_scene_too():
    bare = replace(
        PROJECT,
        surfaces={},
        roads={},
        land={},
        services={},
        structures={},
        pipes={},
        pins={},
        runs={},
        areas={},
        sheets={},
    )
    facts = facts_of(bare)
    made = scene(
        Picture(facts=facts, findings=check(bare, facts)),
        InSpace(cut=True, section=True, only="run"),
    )
    assert made.parts == {} and box(made).shape == (0, 3)
    without = replace(PROJECT, surfaces={})
    facts = facts_of(without)
    made = scene(
        Picture(facts=facts, findings=check(without, facts), run=run(facts, KEYS[0])),
        InSpace(cut=True, section=True),
    )
    assert "pipe" in kinds(made) and "ground" not in kinds(made)


def test_roads_are_seen_where_no_design_surface_is_loaded():
    only_roads = replace(
        PROJECT, surfaces={k: s for k, s in PROJECT.surfaces.items() if s.role != "design"}
    )
    facts = facts_of(only_roads)
    made = scene(Picture(facts=facts, findings=check(only_roads, facts)), InSpace())
    assert {p.id for p in made.parts.values() if p.kind == "road"} == {
        r.road.id for r in facts.roads.values() if r.road.strip and r.profile
    }
    assert "design" not in kinds(made)


def test_the_box_is_that_of_the_network():
    made = scene(picture(), InSpace())
    corners = box(made)
    places = [p for p in FACTS.places.values() if p.x is not None]
    assert corners[:, 0].min() <= min(p.x for p in places) and corners[:, 0].max() >= max(
        p.x for p in places
    )
    assert np.ptp(corners[:, 0]) < np.ptp(made.parts["ground", ""].mesh.vertices[:, 0])


def test_another_run_cuts_the_ground_elsewhere():
    made, areas = None, set()
    for key in (*KEYS, KEYS[0]):
        made = scene(
            Picture(facts=FACTS, findings=check(PROJECT, FACTS), run=run(FACTS, key)),
            InSpace(cut=True, section=True),
            made,
        )
        areas.add(round(plan_area(made.parts["ground", "left"].mesh), 3))
    assert len(areas) == len(KEYS)


@pytest.mark.parametrize("key", KEYS)
def test_each_run_and_road_of_the_demo_can_be_cut_and_shown_in_section(key):
    made = scene(
        Picture(facts=FACTS, findings=check(PROJECT, FACTS), run=run(FACTS, key)),
        InSpace(cut=True, section=True),
    )
    sides = [p.mesh for p in made.parts.values() if p.kind == "ground" and p.mesh is not None]
    assert sum(map(plan_area, sides)) == approx(
        plan_area(scene(picture(), InSpace()).parts["ground", ""].mesh), rel=1e-9
    )
