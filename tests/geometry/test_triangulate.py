import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from pytest import approx

from zumbert.geometry.tin import Tin
from zumbert.geometry.triangulate import Boundary, crossed, triangulate, without

ORIGIN = np.array([500_000.0, 6_000_000.0, 0.0])
SQUARE = [(0, 0, 1.0), (100, 0, 1.0), (100, 100, 1.0), (0, 100, 1.0)]


def area(made):
    p = made.vertices[made.faces][:, :, :2]
    e, f = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    return float(np.abs(e[:, 0] * f[:, 1] - e[:, 1] * f[:, 0]).sum() / 2)


def edges(made):
    f = made.faces
    return {
        tuple(sorted(e)) for t in f.tolist() for e in ((t[0], t[1]), (t[1], t[2]), (t[2], t[0]))
    }


@given(st.integers(0, 10_000), st.integers(5, 60))
def test_every_breakline_is_a_chain_of_edges_at_survey_coordinates(seed, n):
    rng = np.random.default_rng(seed)
    points = np.column_stack([rng.uniform(0, 100, (n, 2)), rng.uniform(0, 5, n)])
    y = np.sort(rng.uniform(5, 95, 4))
    lines = [
        np.column_stack(
            [
                np.sort(rng.uniform(0, 100, 5)),
                np.full(5, v) + 1e-3 * np.arange(5),
                rng.uniform(0, 5, 5),
            ]
        )
        for v in y
    ]
    made = triangulate(np.vstack([SQUARE, points]) + ORIGIN, [b + ORIGIN for b in lines])
    assert area(made) == approx(10_000)  # no triangle is lost
    tin = Tin(made.vertices, made.faces)
    for b in lines:
        for p, q in zip(b, b[1:], strict=False):
            t = np.linspace(0, 1, 7)[:, None]
            on = p + t * (q - p) + ORIGIN
            got = tin.level(on[:, 0], on[:, 1])
            assert np.abs(got - on[:, 2]).max() < 1e-4 or any(
                f.kind == "crossing breaklines" for f in made.faults
            )


def test_the_first_of_points_at_one_place_counts_and_it_is_told():
    made = triangulate([*SQUARE, (50, 50, 2.0), (50.0002, 50, 2.5), (50, 50, 2.0)])
    assert len(made.vertices) == 5
    [fault] = made.faults
    assert (fault.kind, fault.by) == ("double point", approx(0.5))
    assert made.vertices[4, 2] == 2.0


def test_crossing_breaklines_get_a_vertex_and_are_told():
    made = triangulate(SQUARE, [[(10, 10, 2.0), (90, 90, 4.0)], [(10, 90, 5.0), (90, 10, 5.0)]])
    [fault] = made.faults
    assert (fault.kind, fault.x, fault.y, fault.by) == (
        "crossing breaklines",
        approx(50),
        approx(50),
        approx(2.0),
    )
    assert float(Tin(made.vertices, made.faces).level(50.0, 50.0)) == approx(4.0)


def test_outer_void_and_island():
    grid = [(x, y, 1.0 + x / 100) for x in range(0, 101, 10) for y in range(0, 101, 10)]
    ring = {
        "outer": [(5, 5), (95, 5), (95, 95), (5, 95)],
        "void": [(20, 20), (80, 20), (80, 80), (20, 80), (20, 20)],
        "island": [(40, 40), (60, 40), (60, 60), (40, 60)],
    }
    made = triangulate(
        grid, boundaries=[Boundary(np.array(xy, float), kind) for kind, xy in ring.items()]
    )
    assert area(made) == approx(90 * 90 - 60 * 60 + 20 * 20)
    tin = Tin(made.vertices, made.faces)
    assert np.isnan(tin.level([3.0, 30.0], [3.0, 30.0])).all()
    assert tin.level([10.0, 50.0], [50.0, 50.0]).tolist() == approx([1.1, 1.5])


def test_what_makes_no_surface_is_refused():
    with pytest.raises(ValueError, match="three places"):
        triangulate([(0, 0, 0), (1, 1, 1)])
    with pytest.raises(ValueError, match="on one line"):
        triangulate([(0, 0, 0), (1, 1, 1), (2, 2, 2)])


@given(st.integers(0, 500))
def test_a_boundary_changes_the_ground_nowhere(seed):
    rng = np.random.default_rng(seed)
    points = np.column_stack([rng.uniform(0, 100, (80, 2)), rng.uniform(20, 45, 80)]) + ORIGIN
    turn = np.sort(rng.uniform(0, 2 * np.pi, 7))
    ring = np.column_stack(
        [50 + rng.uniform(15, 70, 7) * np.cos(turn), 50 + rng.uniform(15, 70, 7) * np.sin(turn)]
    )
    hole = np.array([(45.0, 45.0), (55.0, 45.0), (50.0, 56.0)])
    plain = triangulate(points)
    cut = triangulate(
        points,
        boundaries=[Boundary(ring + ORIGIN[:2], "outer"), Boundary(hole + ORIGIN[:2], "void")],
    )
    x, y = rng.uniform(0, 100, (2, 3000))
    left = shapely.difference(shapely.make_valid(shapely.Polygon(ring)), shapely.Polygon(hole))
    near = shapely.distance(shapely.boundary(left), shapely.points(x, y)) < 1e-3
    inside = shapely.contains_xy(left, x, y)
    before = Tin(plain.vertices, plain.faces).level(x + ORIGIN[0], y + ORIGIN[1])
    after = Tin(cut.vertices, cut.faces).level(x + ORIGIN[0], y + ORIGIN[1])
    want = np.where(inside, before, np.nan)
    same = (np.abs(after - want) < 1e-6) | (np.isnan(after) & np.isnan(want))
    assert (same | near).all()


def test_a_rim_keeps_its_level_beside_a_boundary():
    # a ridge at 40.2 between corners at 20: a ring edge at interpolated levels would cut it down to
    # 29
    grid = [
        (x, y, 40.2 if 40 <= x <= 60 else 20.0)
        for x in range(0, 101, 10)
        for y in range(0, 101, 10)
    ]
    ring = Boundary(np.array([(2.0, 2.0), (98.0, 2.0), (98.0, 98.0), (2.0, 98.0)]), "outer")
    tin = Tin(*triangulate(grid, boundaries=[ring])[:2])
    assert tin.level([50.0, 50.0, 50.0], [2.0, 2.5, 5.0]).tolist() == approx([40.2] * 3)


@given(st.integers(0, 100_000), st.sampled_from((12, 40, 120)), st.sampled_from((0.1, 0.3, 0.6)))
def test_holes_beside_each_other_are_filled_and_nothing_twice(seed, n, share):
    rng = np.random.default_rng(seed)
    made = triangulate(np.column_stack([rng.uniform(0, 100, (n, 2)), rng.uniform(0, 5, n)]))
    hull = set(
        shapely.get_coordinates(shapely.MultiPoint(made.vertices[:, :2]).convex_hull)[:, 0].tolist()
    )
    out = rng.choice(len(made.vertices), max(1, int(share * n)), replace=False)
    vertices, faces = without(made.tin, out)
    if not len(faces):
        return
    corners = vertices[faces][:, :, :2]
    left = shapely.union_all(shapely.polygons(corners)).area
    e, f = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    # none over another, none turned over
    assert (e[:, 0] * f[:, 1] - e[:, 1] * f[:, 0]).sum() / 2 == approx(left)
    assert not {*vertices[:, 0].tolist()} & {*made.vertices[out, 0].tolist()}
    edge = out[np.isin(made.vertices[out, 0], list(hull))]
    assert left <= area(made) + 1e-6
    if not len(edge):
        assert left == approx(area(made))  # only at the edge do faces go


@pytest.mark.parametrize(("level", "told"), [(6.0, []), (6.002, [1]), (4.0, [1])])
def test_breaklines_that_cross_are_told_by_their_levels_where_they_meet(level, told):
    rising = [(0.0, 0.0, 5.0), (100.0, 0.0, 7.0)]  # at 6.0 in the middle
    across = [(50.0, -20.0, level + 1.0), (50.0, 20.0, level - 1.0)]
    assert crossed([rising, across]) == told
