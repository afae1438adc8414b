import numpy as np
import shapely
from hypothesis import example, given
from hypothesis import strategies as st
from pytest import approx

from zumbert.geometry.overlay import area, cut, laid_on, stacked, triangles
from zumbert.geometry.prisms import areas, covered, volumes
from zumbert.geometry.tin import Tin

SQUARE = np.array([[(0.0, 0.0), (4.0, 0.0), (4.0, 4.0), (0.0, 4.0)]])


def rolling(seed: int, n: int = 9, size: float = 40.0) -> Tin:
    """An irregular surface over 0 to 40 m square."""
    rng = np.random.default_rng(seed)
    from scipy.spatial import Delaunay

    edge = np.linspace(0, size, n)
    rim = [(x, y) for x in edge for y in (0, size)] + [
        (x, y) for y in edge[1:-1] for x in (0, size)
    ]
    xy = np.concatenate([rim, rng.uniform(0.5, size - 0.5, (n * n, 2))])
    z = 50 + np.sin(xy[:, 0] / 5) + 0.05 * xy[:, 1] + rng.uniform(-0.2, 0.2, len(xy))
    return Tin(np.column_stack([xy, z]), Delaunay(xy).simplices)


def test_a_square_cut_by_half_planes():
    # x <= 1 leaves 1 x 4; x + y <= 1 a corner of 0.5; x <= -1 nothing; x <= 9 all of it
    normals = np.array([(1.0, 0.0), (1.0, 1.0), (1.0, 0.0), (1.0, 0.0)])
    rows, parts = cut(np.repeat(SQUARE, 4, axis=0), normals, np.array([1.0, 1.0, -1.0, 9.0]))
    assert rows.tolist() == [0, 1, 3]
    assert area(parts).tolist() == approx([4.0, 0.5, 16.0])


@example(3, [(2.25, 0.0), (0.0, 0.0), (2.25, 0.0)])
@given(
    st.integers(0, 40),
    st.lists(st.tuples(st.floats(0, 6.3), st.floats(-1, 3)), min_size=1, max_size=5),
)
def test_cuts_are_those_of_the_geometry_library(seed, planes):
    rng = np.random.default_rng(seed)
    hull = shapely.MultiPoint(rng.uniform(-2, 4, (7, 2))).convex_hull
    ours = np.array([hull.exterior.coords[:-1]])[:, ::-1]
    theirs = hull
    for k, (turn, offset) in enumerate(planes):
        n = np.array([[np.cos(turn), np.sin(turn)]])
        if len(ours):
            _, ours = cut(ours, np.repeat(n, len(ours), axis=0), np.full(len(ours), offset))
        t = np.array([-n[0, 1], n[0, 0]])
        at = n[0] * offset
        if (turn, offset) in planes[:k]:
            # a second time it cuts nothing more off, and the library would find nothing left
            continue
        theirs = theirs.intersection(
            shapely.Polygon(
                [at - 99 * t, at + 99 * t, at + 99 * t - 99 * n[0], at - 99 * t - 99 * n[0]]
            )
        )
    assert (area(ours).sum() if len(ours) else 0.0) == approx(theirs.area, abs=1e-9)


def test_pieces_on_a_surface_have_the_area_and_its_levels():
    tin = rolling(3)
    strips = np.array(
        [
            [(3.0, 3.0), (35.0, 20.0), (34.0, 21.5), (2.0, 4.5)],
            [(10.0, 30.0), (12.0, 30.0), (12.0, 32.0), (10.0, 32.0)],
        ]
    )
    found = laid_on(tin, strips)
    for i in range(2):
        assert area(found.xy[found.row == i]).sum() == approx(area(strips)[i], rel=1e-12)
    middle = found.xy.mean(axis=1)
    inner = found.xy + 1e-6 * (middle[:, None] - found.xy)
    assert tin.level(inner[:, :, 0], inner[:, :, 1]) == approx(found.z, abs=1e-5)


def test_beside_the_surface_nothing_is_found():
    tin = rolling(1)
    half = np.array(
        [
            [(-5.0, 10.0), (5.0, 10.0), (5.0, 12.0), (-5.0, 12.0)],
            [(90.0, 90.0), (91.0, 90.0), (91.0, 91.0), (90.0, 91.0)],
        ]
    )
    found = laid_on(tin, half)
    assert set(found.row.tolist()) == {0}
    assert area(found.xy).sum() == approx(10.0)


def test_triangles_of_polygons_and_several_arrays_of_them():
    both = stacked([SQUARE, SQUARE[:, :3]])
    row, corner = triangles(both)
    assert row.tolist() == [0, 0, 1]
    assert areas(both[row[:, None], corner]).sum() == approx(24.0)


@given(st.lists(st.floats(-3, 3), min_size=3, max_size=3))
def test_the_volume_over_0_is_what_sampling_tends_to(h):
    # the triangle (0,0) (1,0) (0,1) of 0.5 m², sampled at the centres of 200 x 200 cells
    n = 400
    u, v = np.meshgrid((np.arange(n) + 1 / 3) / n, (np.arange(n) + 1 / 3) / n)
    on = u + v < 1
    z = h[0] * (1 - u - v) + h[1] * u + h[2] * v
    cell = 1 / n**2
    half, heights = np.array([0.5]), np.array([h])
    assert volumes(half, heights)[0] == approx((np.maximum(z, 0) * on).sum() * cell, abs=0.01)
    assert covered(half, heights)[0] == approx(((z > 0) & on).sum() * cell, abs=0.01)


def test_volumes_worked():
    # all over 0: mean; one corner 1 over two of -1: a third of... 1/(3*2*2) of the area; two of 1
    # over one of -1
    area_ = np.array([6.0, 6.0, 6.0, 6.0, 6.0])
    h = np.array([[1, 2, 3], [-1, -1, 1], [1, 1, -1], [-1, -2, 0], [0, 0, 0]], float)
    # third: mean 1/3 less (-1)/(3*(-2)*(-2)) = 1/3 + 1/12 = 5/12
    assert volumes(area_, h).tolist() == approx([12.0, 0.5, 2.5, 0.0, 0.0])
    # covered: all; (1/2)² of it; all less 1/4; none
    assert covered(area_, h).tolist() == approx([6.0, 1.5, 4.5, 0.0, 0.0])
