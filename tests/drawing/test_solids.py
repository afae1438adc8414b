"""What stands in space, against formulas and against the facts it is made from."""

from math import pi

import numpy as np
import pytest
from msgspec.structs import replace
from pytest import approx

from tests.build import chain, facts_of, v_project, with_pipe, with_structure
from zumbert.demo.project import demo_project
from zumbert.drawing.solids import (
    COVER,
    HEADWALL,
    RIM,
    axis,
    pipe_mesh,
    service_mesh,
    solids,
    structure_mesh,
)
from zumbert.edits.land import add_service
from zumbert.model.pipe import Bore
from zumbert.model.structure import Anchored, Free

DEMO = facts_of(demo_project())


def test_everything_of_the_demo_is_closed_and_looks_outward():
    found = list(solids(DEMO))
    p = DEMO.project
    for kind, records in (("structure", p.structures), ("pipe", p.pipes), ("service", p.services)):
        assert {s.id for s in found if s.kind == kind} == set(records), kind
    assert [(s.id, s.role) for s in found if s.kind == "surface"] == [
        ("existing", "ground"),
        ("design", "design"),
    ]
    for s in found:
        if s.kind != "surface":
            assert s.mesh.closed and s.mesh.volume > 0, (s.kind, s.id)


def test_a_pipe_lies_from_inner_wall_to_inner_wall_at_its_inverts():
    facts = facts_of(v_project())
    f = facts.pipes["P1"]
    line = axis(f)
    assert line[0].tolist() == approx([0.6, 0.0, f.invert(0.6) + f.inside / 2])
    assert line[-1].tolist() == approx([59.4, 0.0, f.invert(59.4) + f.inside / 2])
    mesh = pipe_mesh(f)
    outside = f.inside + 2 * f.wall
    assert mesh.volume == approx(pi / 4 * (outside**2 - f.inside**2) * f.span.wall)
    top = mesh.vertices[mesh.vertices[:, 0] < 1.0][:, 2].max()
    assert top == approx(f.invert(0.6) + f.outside_height, abs=0.006 * outside / 2)


def test_a_curved_pipe_follows_its_arc():
    p = v_project()
    p = replace(p, pipes={k: replace(v, through=Free(30.0, 8.0)) for k, v in p.pipes.items()})
    f = facts_of(p).pipes["P1"]
    line = axis(f)
    assert len(line) > 10 and line[:, 1].max() == approx(8.0, abs=0.01)
    x, y, r = f.span.arc.xc, f.span.arc.yc, f.span.arc.radius
    assert np.hypot(line[:, 0] - x, line[:, 1] - y) == approx(r)
    assert pipe_mesh(f).closed


def test_a_pipe_between_chambers_that_meet_has_no_barrel():
    p = with_structure(with_structure(chain([]), "A", 0, rim=10.0), "B", 1.0, rim=10.0)
    assert pipe_mesh(facts_of(with_pipe(p, "P", "A", "B", 8.0, 7.9)).pipes["P"]) is None


@pytest.mark.parametrize("cover", [(0.0, 0.0), (0.2, -0.1)])
def test_a_round_chamber_holds_its_concrete(cover):
    p = v_project()
    p = replace(p, structures={k: replace(s, cover=cover) for k, s in p.structures.items()})
    facts = facts_of(p)
    f, kind = facts.structures["A"], p.types["manhole-1200"]
    mesh = structure_mesh(facts, f)
    top, under = 30.0 - COVER, 28.5 - 0.2
    slab = kind.wall
    room = kind.inside**2 * (top - slab - 28.5) + kind.frame**2 * slab
    want = pi / 4 * (kind.outside**2 * (top - under) - room + (kind.frame + 2 * RIM) ** 2 * COVER)
    assert mesh.closed and mesh.volume == approx(want)
    assert (mesh.vertices[:, 2].min(), mesh.vertices[:, 2].max()) == approx((under, 30.0))


def test_a_rectangular_chamber_is_turned_as_it_stands():
    p = v_project(down_type="manhole-1500x1200")
    p = replace(
        p,
        structures={
            k: replace(s, rotation=np.pi / 6) if k == "B" else s for k, s in p.structures.items()
        },
    )
    facts = facts_of(p)
    f, kind = facts.structures["B"], p.types["manhole-1500x1200"]
    mesh = structure_mesh(facts, f)
    top, sump = 30.0 - COVER, 28.2
    want = (
        kind.outside * (kind.across + 2 * kind.wall) * (top - sump + 0.2)
        - kind.inside * kind.across * (top - kind.wall - sump)
        - kind.frame**2 * kind.wall
        + (kind.frame + 2 * RIM) ** 2 * COVER
    )
    assert mesh.closed and mesh.volume == approx(want)
    ahead = np.array([np.sin(np.pi / 6), np.cos(np.pi / 6)])
    assert ((mesh.vertices[:, :2] - [60.0, 0.0]) @ ahead).max() == approx(kind.outside / 2)


def test_a_shallow_chamber_is_open_and_a_gully_has_its_sump():
    p = with_structure(
        with_structure(chain([]), "A", 0, rim=10.0), "G", 20.0, rim=10.0, kind="gully-450"
    )
    facts = facts_of(with_pipe(p, "P", "A", "G", 9.75, 9.2, "150"))
    shallow, kind = structure_mesh(facts, facts.structures["A"]), p.types["manhole-1200"]
    assert shallow.closed and shallow.volume == approx(
        pi / 4 * (kind.outside**2 * 0.45 - kind.inside**2 * 0.25)
    )
    gully = structure_mesh(facts, facts.structures["G"])
    assert gully.closed and gully.vertices[:, 2].min() == approx(9.2 - 0.3 - 0.2)


def test_a_headwall_stands_across_its_pipe_and_a_joint_is_a_collar_round_it():
    p = v_project(down_type="headwall")
    facts = facts_of(p)
    wall = structure_mesh(facts, facts.structures["B"])
    assert wall.closed and np.ptp(wall.vertices[:, 0]) == approx(HEADWALL)
    assert np.ptp(wall.vertices[:, 1]) > 2 * 0.39 and wall.vertices[:, 2].max() == approx(30.0)
    facts = facts_of(v_project(down_type="joint"))
    ball = structure_mesh(facts, facts.structures["B"])
    assert ball.closed and ball.vertices.mean(axis=0) == approx([60.0, 0.0, 28.2 + 0.15], abs=1e-6)


def test_what_has_no_place_or_level_is_left_out():
    road = next(iter(DEMO.project.roads))
    key = next(k for k, s in DEMO.project.structures.items() if s.label == "S5")
    lost = replace(DEMO.project.structures[key], place=Anchored(road, 9999.0, 0.0))
    facts = facts_of(replace(DEMO.project, structures={**DEMO.project.structures, key: lost}))
    found = {s.id for s in solids(facts)}
    assert key not in found and facts.structures[key].pipes_in[0].pipe.id not in found


def test_a_service_is_drawn_where_its_levels_are_known():
    points = [
        (0, 0, 9.0),
        (10, 0, 9.0),
        (20, 0, None),
        (30, 0, 8.0),
        (30, 5, 8.0),
        (40, 5, None),
        (50, 5, 8.0),
    ]
    p, key = add_service(chain([]), "water", points, None, 0.2, 0.3)
    mesh = service_mesh(p.services[key])
    assert mesh.closed and mesh.volume == approx(pi / 4 * 0.04 * 15)
    nowhere, key = add_service(p, "gas", [(0, 0, None), (9, 0, None)], None, 0.2, 0.3)
    assert service_mesh(nowhere.services[key]) is None


def test_an_odd_pipe_keeps_its_wall():
    p = with_structure(with_structure(chain([]), "A", 0, rim=10.0), "B", 30.0, rim=10.0)
    f = facts_of(with_pipe(p, "P", "A", "B", 8.0, 8.0, Bore(0.4, 0.1))).pipes["P"]
    assert pipe_mesh(f).volume == approx(pi / 4 * (0.36 - 0.16) * 28.8)
