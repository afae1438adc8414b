"""The union of trenches and pits against a count on a grid that shares no code with it."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from pytest import approx

from tests.amount import times
from tests.analysis.test_trench_proof import kind, rough, side_height, tin_of
from tests.build import chain, facts_of, grounded, with_pipe, with_structure
from zumbert.analysis.trench import trenches
from zumbert.analysis.union import union
from zumbert.edits.setup import set_trench_type

DEEPEST = 7.0  # m: no trench of these tests is deeper
SIZE = {"width": 1.0, "vertical_height": 0.5, "batter": 0.5}


def gross_of(dug):
    return sum(t.excavation for t in dug.pipes.values()) + sum(
        p.excavation for p in dug.pits.values()
    )


def net_of(project):
    dug = trenches(facts_of(project))
    found = union(dug)
    return gross_of(dug), gross_of(dug) - found.shared, found


def beside(trench, x, y):
    """Distances along the line of a trench, and to its left."""
    a, b = (np.array(trench.pipe.span.point(s)) for s in (0.0, trench.pipe.span.length))
    d = (b - a) / np.hypot(*(b - a))
    return (x - a[0]) * d[0] + (y - a[1]) * d[1], (y - a[1]) * d[0] - (x - a[0]) * d[1]


def counted(project, box, step, radius=0.0):
    """The volume between the ground and the lowest floor, by columns on a grid over a box (x0,
    y0, x1, y1); pits are round.
    """
    tin = tin_of(project)
    x = np.arange(box[0] + step / 2, box[2], step)
    y = np.arange(box[1] + step / 2, box[3], step)
    size = list(project.trench_types.values())[-1].sizes[0]
    dug = trenches(facts_of(project))
    xx, yy = (v.ravel() for v in np.meshgrid(x, y))
    # columns beside a trench or in a pit: only those are asked for their ground
    near = np.zeros(xx.shape, bool)
    for t in dug.pipes.values():
        s, u = beside(t, xx, yy)
        near |= (
            (s >= t.begin) & (s <= t.end) & (np.abs(u) <= size.width / 2 + size.batter * DEEPEST)
        )
    for p in dug.pits.values():
        near |= np.hypot(xx - p.structure.place.x, yy - p.structure.place.y) <= p.width / 2
    xx, yy = xx[near], yy[near]
    ground = tin.level(xx, yy)
    floor = ground.copy()
    for t in dug.pipes.values():
        s, u = beside(t, xx, yy)
        bottom = t.pipe.pipe.invert_up - t.pipe.slope * s - 0.045 - size.bedding
        depth = bottom + side_height(np.abs(u), size.width, size.vertical_height, size.batter)
        mine = (s >= t.begin) & (s <= t.end)
        floor = np.where(mine, np.minimum(floor, depth), floor)
        assert (ground - bottom)[mine].max() < DEEPEST
    for p in dug.pits.values():
        inside = np.hypot(xx - p.structure.place.x, yy - p.structure.place.y) <= p.width / 2
        floor = np.where(inside, np.minimum(floor, p.bottom), floor)
    return float(np.maximum(ground - floor, 0).sum() * step * step)


def lines(*pipes, ground=None):
    """Pipes between joints, each (x0, y0, x1, y1, up, down), over level ground 50.0 or another."""
    p = ground or grounded([(-90, 50.0), (130, 50.0)])
    for i, (x0, y0, x1, y1, up, down) in enumerate(pipes):
        p = with_structure(
            with_structure(p, f"A{i}", x0, y0, kind="joint"), f"B{i}", x1, y1, kind="outfall"
        )
        p = with_pipe(p, f"P{i}", f"A{i}", f"B{i}", up, down)
    return set_trench_type(p, kind(**SIZE))


def test_two_trenches_1_m_apart():
    # bottoms at 47.855, 2.145 deep: each 1 + 2 x 0.5 x 1.645 = 2.645 wide at the top, axes 1 m
    # apart: level floors, same depth
    p = lines((0, 0, 40, 0, 48.0, 48.0), (0, 1, 40, 1, 48.0, 48.0))
    gross, net, found = net_of(p)
    # together: the bottom 2 m wide, and the sides once
    assert net == approx(40 * (2 * 2.145 + 0.5 * 1.645**2))
    [shared] = found.overlaps
    assert (shared.kind, shared.volume) == ("beside", approx(gross - net))


def test_one_beside_another_that_lies_deeper():
    p = lines((0, 0, 40, 0, 48.0, 48.0), (0, 1.4, 40, 1.4, 47.2, 47.0))
    gross, net, _ = net_of(p)
    assert net == approx(counted(p, (-1, -6, 41, 7), 0.02), rel=1e-3)
    assert net < gross - 1


def test_two_that_cross():
    p = lines((0, 0, 40, 0, 48.0, 48.0), (20, -20, 25, 20, 47.0, 46.5))
    gross, net, found = net_of(p)
    assert [o.kind for o in found.overlaps] == ["cross"]
    brute = counted(p, (-1, -21, 41, 21), 0.01)
    assert net == approx(brute, rel=1e-4)
    assert found.overlaps[0].volume == approx(gross - brute, rel=0.01)


def test_three_that_meet_in_a_pit():
    p = grounded([(-90, 50.0), (130, 50.0)])
    p = with_structure(p, "M", 0.0, 0.0)
    for i, (x, y, up) in enumerate([(-20.0, 12.0, 48.4), (-20.0, -3.0, 48.2), (-4.0, -25.0, 48.6)]):
        p = with_pipe(
            with_structure(p, f"J{i}", x, y, kind="joint"), f"P{i}", f"J{i}", "M", up, 47.9
        )
    p = with_pipe(with_structure(p, "O", 25.0, 4.0, kind="outfall"), "Q", "M", "O", 47.8, 47.4)
    p = set_trench_type(p, kind(**SIZE))
    _, net, found = net_of(p)
    assert net == approx(counted(p, (-22, -27, 27, 14), 0.02), rel=2e-4)
    assert {o.kind for o in found.overlaps} == {"meet"}  # trenches end at the edge of the pit


def test_trenches_to_the_centre_of_a_chamber_share_its_pit():
    p = set_trench_type(chain([(48.0, 47.5), (47.4, 46.9)]), kind(**SIZE))
    edges, _, apart = net_of(p)
    assert apart.overlaps == ()
    long = replace(p, digging=replace(p.digging, to_centres=True))
    gross, net, found = net_of(long)
    assert {o.kind for o in found.overlaps} == {"pit"}
    assert net == approx(counted(long, (-3, -5, 101, 5), 0.02), rel=3e-4)
    assert gross > edges


@settings(max_examples=times(12), deadline=None)
@given(st.integers(0, 999))
def test_any_trenches_on_rough_ground(seed):
    rng = np.random.default_rng(seed)
    pipes = [
        (
            *rng.uniform((0, -20, 0, -20), (40, 20, 40, 20)).tolist(),
            *rng.uniform(47.0, 48.8, 2).tolist(),
        )
        for _ in range(4)
    ]
    p = lines(*pipes, ground=rough(seed % 7))
    _, net, found = net_of(p)
    assert net == approx(counted(p, (-12, -29.9, 52, 29.9), 0.05), rel=3e-3)
    pairs = sum(o.volume for o in found.overlaps)
    assert found.shared <= pairs + 1e-6 + 0.01  # what three share is listed with each pair


def test_pairs_say_what_two_share_each_and_none_is_listed_twice():
    p = lines((0, 0, 40, 0, 48.0, 48.0), (0, 0.5, 40, 0.5, 48.0, 48.0), (0, 1, 40, 1, 48.0, 48.0))
    _, net, found = net_of(p)
    assert net == approx(40 * (2 * 2.145 + 0.5 * 1.645**2))
    assert sorted((o.a, o.b) for o in found.overlaps) == [("P0", "P1"), ("P0", "P2"), ("P1", "P2")]


def test_nothing_is_dug():
    assert union(trenches(facts_of(grounded([(0, 1.0), (9, 1.0)])))).overlaps == ()


@pytest.mark.parametrize("far", [0.0, 6_000_000.0])
def test_far_from_the_origin_it_is_the_same(far):
    p = lines(
        (0, far, 40, far, 48.0, 48.0),
        (0, far + 1, 40, far + 1, 48.0, 48.0),
        ground=grounded([(-90, 50.0), (130, 50.0)]) if not far else moved(far),
    )
    _, net, _ = net_of(p)
    assert net == approx(40 * (2 * 2.145 + 0.5 * 1.645**2), rel=1e-6)


def moved(far):
    p = grounded([(-90, 50.0), (130, 50.0)])
    [s] = p.surfaces.values()
    return replace(p, surfaces={s.id: replace(s, vertices=np.add(s.vertices, (0.0, far, 0.0)))})
