import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pytest import approx
from scipy.spatial import Delaunay

from zumbert.geometry.contours import contours
from zumbert.geometry.line import Line, level_at
from zumbert.geometry.tin import Tin

ORIGIN = np.array([500_000.0, 6_000_000.0])


def grid_tin(n=9, step=10.0, seed=3, holes=(), shake=3.0):
    """A shaken grid at survey coordinates; some cells may be left out."""
    rng = np.random.default_rng(seed)
    gx, gy = np.meshgrid(np.arange(n) * step, np.arange(n) * step, indexing="ij")
    inner = np.zeros((n, n), bool)
    inner[1:-1, 1:-1] = True
    gx = gx + np.where(inner, rng.uniform(-shake, shake, gx.shape), 0)
    gy = gy + np.where(inner, rng.uniform(-shake, shake, gy.shape), 0)
    z = rng.uniform(0, 5, gx.shape)
    k = np.arange(n * n).reshape(n, n)
    faces = []
    for i in range(n - 1):
        for j in range(n - 1):
            if (i, j) not in holes:
                faces += [
                    (k[i, j], k[i + 1, j], k[i + 1, j + 1]),
                    (k[i, j], k[i + 1, j + 1], k[i, j + 1]),
                ]
    return Tin(np.column_stack([gx.ravel() + ORIGIN[0], gy.ravel() + ORIGIN[1], z.ravel()]), faces)


TIN = grid_tin()
HOLED = grid_tin(holes={(3, 3), (3, 4), (6, 1)})


def test_levels_are_exact_on_a_plane_and_nan_outside():
    vertices = [(0, 0, 1.0), (10, 0, 2.0), (10, 10, 4.0), (0, 10, 3.0)]  # z = 1 + x/10 + y/5
    tin = Tin(vertices, [(0, 1, 2), (2, 3, 0)])
    x, y = np.array([0, 10, 5, 2.5, -0.001, 10.001]), np.array([0, 10, 5, 7.5, 5, 5])
    z = tin.level(x, y)
    assert z[:4].tolist() == approx((1 + x / 10 + y / 5)[:4].tolist())
    assert np.isnan(z[4:]).all()


def test_vertices_have_their_own_levels_at_survey_coordinates():
    v = TIN.vertices
    assert np.abs(TIN.level(v[:, 0], v[:, 1]) - v[:, 2]).max() < 1e-6


def test_a_line_along_edges_and_through_vertices():
    tin = Tin(
        [(x, y, x * x) for y in range(3) for x in range(3)],
        [(0, 1, 4), (0, 4, 3), (1, 2, 5), (1, 5, 4), (3, 4, 7), (3, 7, 6), (4, 5, 8), (4, 8, 7)],
    )
    s, z = tin.section([(0, 1), (2, 1)])
    assert s.tolist() == approx([0, 1, 2])
    assert z.tolist() == approx([0, 1, 4])
    s, z = tin.section([(0, 0), (2, 2)])
    assert z.tolist() == approx([0, 1, 4])


def test_it_begins_and_ends_with_a_gap_where_it_leaves_the_surface():
    tin = Tin([(0, 0, 1.0), (10, 0, 1.0), (0, 10, 1.0), (10, 10, 1.0)], [(0, 1, 3), (0, 3, 2)])
    s, z = tin.section([(-5, 5), (15, 5)])
    assert s[0] == 0 and s[-1] == approx(20)
    assert np.isnan(level_at(Line(s, z), [2.0, 18.0])).all()
    assert level_at(Line(s, z), [5.0, 10.0]).tolist() == approx([1.0, 1.0])


def test_nothing_under_the_whole_line():
    s, z = TIN.section(np.array([[-50, -50], [-20, -20]]) + ORIGIN)
    assert s.tolist() == approx([0, np.hypot(30, 30)])
    assert np.isnan(z).all()


PLACE = st.tuples(st.floats(-15, 95), st.floats(-15, 95))


@pytest.mark.parametrize("tin", [TIN, HOLED], ids=["whole", "holes"])
@given(a=PLACE, b=PLACE)
def test_a_section_is_the_surface_along_the_line(tin, a, b):
    a, b = np.array(a) + ORIGIN, np.array(b) + ORIGIN
    long = float(np.hypot(*(b - a)))
    if long < 0.01:
        return
    line = Line(*tin.section([a, b]))
    assert line.s[0] == 0
    assert line.s[-1] == approx(long)
    assert (np.diff(line.s) >= -1e-9).all()
    at = (np.arange(200) + 0.4321) / 200 * long
    x, y = a[:, None] + (b - a)[:, None] * at / long
    ours, surface = level_at(line, at), tin.level(x, y)
    odd = np.isnan(ours) != np.isnan(surface)
    assert not odd.any() or _near_an_edge(tin, x[odd], y[odd])
    both = ~np.isnan(ours) & ~np.isnan(surface)
    assert np.abs(ours - surface)[both].max(initial=0.0) < 1e-6


def _near_an_edge(tin, x, y):
    """Whether the surface ends within a micrometre of each place."""
    d = 1e-6
    around = np.array([np.isnan(tin.level(x + p, y + q)) for p in (-d, 0, d) for q in (-d, 0, d)])
    return bool((around.any(axis=0) & ~around.all(axis=0)).all())


@given(a=PLACE, b=PLACE)
def test_turning_a_line_round_gives_the_same_ground(a, b):
    a, b = np.array(a) + ORIGIN, np.array(b) + ORIGIN
    long = float(np.hypot(*(b - a)))
    if long < 0.01:
        return
    there, back = Line(*HOLED.section([a, b])), Line(*HOLED.section([b, a]))
    at = (np.arange(100) + 0.3) / 100 * long
    u, v = level_at(there, at), level_at(back, long - at)
    both = ~np.isnan(u) & ~np.isnan(v)
    assert np.abs(u - v)[both].max(initial=0.0) < 1e-6


def test_every_vertex_of_a_section_lies_on_an_edge():
    a, b = np.array([3.0, 7.0]) + ORIGIN, np.array([71.0, 66.0]) + ORIGIN
    s, _ = TIN.section([a, b])
    p = a + (b - a) * s[1:-1, None] / s[-1]
    corners = TIN.vertices[TIN.faces][:, :, :2]
    u, v = corners, np.roll(corners, -1, axis=1)
    for q in p:
        cross = (v[..., 0] - u[..., 0]) * (q[1] - u[..., 1]) - (v[..., 1] - u[..., 1]) * (
            q[0] - u[..., 0]
        )
        assert np.abs(cross / np.hypot(*(v - u).transpose(2, 0, 1))).min() < 1e-6


def test_batches_give_what_single_lines_give():
    rng = np.random.default_rng(5)
    a, b = rng.uniform(0, 80, (30, 2)) + ORIGIN, rng.uniform(0, 80, (30, 2)) + ORIGIN
    offsets, s, z = HOLED.sections(a, b)
    for i in range(30):
        one = HOLED.section([a[i], b[i]])
        mine = Line(s[offsets[i] : offsets[i + 1]], z[offsets[i] : offsets[i + 1]])
        at = np.linspace(0.01, mine.s[-1] - 0.01, 50)
        assert np.allclose(level_at(mine, at), level_at(Line(*one), at), equal_nan=True, atol=1e-9)


def test_faces_without_area_and_faces_of_no_vertex():
    assert len(Tin([(0, 0, 0), (1, 0, 0), (2, 0, 0)], [(0, 1, 2)]).faces) == 0
    with pytest.raises(ValueError, match="names a vertex"):
        Tin([(0, 0, 0)], [(0, 1, 2)])


def test_contours_lie_at_their_level_and_have_the_higher_ground_left():
    xy, index = contours(TIN, [1.0, 2.5, 4.0])
    level = np.array([1.0, 2.5, 4.0])[index]
    assert len(xy) > 100
    mid = (xy[:, :2] + xy[:, 2:]) / 2
    assert np.abs(TIN.level(*mid.T) - level).max() < 1e-5
    d = xy[:, 2:] - xy[:, :2]
    long = np.hypot(*d.T)
    keep = long > 0.5
    left = mid[keep] + np.column_stack([-d[keep, 1], d[keep, 0]]) / long[keep, None] * 1e-3
    # the rest look past their own triangle
    assert (TIN.level(*left.T) > level[keep] - 1e-9).mean() > 0.98


@given(st.integers(0, 10_000))
def test_few_lines_are_cut_as_many_are(seed):
    rng = np.random.default_rng(seed)
    xy = rng.uniform(0, 100, (60, 2))
    tin = Tin(np.column_stack([xy, rng.uniform(0, 9, 60)]), Delaunay(xy).simplices)
    a, b = rng.uniform(-20, 120, (20, 2)), rng.uniform(-20, 120, (20, 2))
    offsets, s, z = tin.sections(a, b)  # walked together
    for i in range(20):
        own = slice(offsets[i], offsets[i + 1])
        _, s1, z1 = tin.sections(a[i], b[i])  # walked by itself
        assert np.array_equal(s1, s[own])
        assert np.array_equal(z1, z[own], equal_nan=True)


@given(st.integers(0, 10_000))
def test_few_points_are_found_in_the_faces_where_many_are(seed):
    rng = np.random.default_rng(seed)
    xy = rng.uniform(0, 100, (40, 2))
    tin = Tin(np.column_stack([xy, rng.uniform(0, 9, 40)]), Delaunay(xy).simplices)
    # corners too
    places = np.vstack(
        [rng.uniform(-5, 105, (30, 2)), xy, (xy[:20] + xy[20:]) / 2, [[np.nan, 1.0]]]
    )
    many = tin.face_at(places[:, 0], places[:, 1])
    assert [int(tin.face_at(x, y)) for x, y in places.tolist()] == many.tolist()


def test_a_line_begun_where_two_patches_overlap_has_no_gap_and_takes_the_patch_that_a_level_takes():
    low = [(0, 0, 1.0), (10, 0, 1.0), (10, 10, 1.0), (0, 10, 1.0)]
    high = [(5, 0, 2.0), (20, 0, 2.0), (20, 10, 2.0), (5, 10, 2.0)]
    square = [(0, 1, 2), (0, 2, 3)]
    for first, second in ((low, high), (high, low)):
        tin = Tin(first + second, [*square, *(tuple(4 + v for v in f) for f in square)])
        s, z = tin.section([(7.0, 3.0), (19.0, 3.0)])  # begins where both lie
        assert not np.isnan(z).any()
        at = np.array([0.5, 2.0, 2.9, 3.1, 8.0])
        assert level_at(Line(s, z), at).tolist() == tin.level(7.0 + at, 3.0).tolist()
        s, z = tin.section([(1.0, 4.0), (19.0, 4.0)])
        at = np.array([1.0, 3.9, 4.1, 8.0, 8.9, 9.1, 17.0])
        assert level_at(Line(s, z), at).tolist() == tin.level(1.0 + at, 4.0).tolist()
    inner = [(2, 2, 5.0), (4, 2, 5.0), (4, 4, 5.0), (2, 4, 5.0)]  # one patch whole over another
    tin = Tin(low + inner, [*square, *(tuple(4 + v for v in f) for f in square)])
    s, z = tin.section([(3.0, 3.0), (9.0, 3.0)])
    assert z.tolist() == [1.0] * len(z)


def test_levels_on_named_faces_are_those_of_their_planes():
    tin = Tin(
        np.array([[0, 0, 10.0], [10, 0, 12], [10, 10, 15], [0, 10, 13]]),
        np.array([[0, 1, 2], [0, 2, 3]]),
    )
    face = np.array([0, 1])
    # one place lies beyond its face
    xy = np.array([[[6.0, 2.0], [14.0, 2.0]], [[2.0, 6.0], [2.0, 8.0]]]) - tin.origin
    got = tin.level_on(face, xy)
    assert got == approx(
        np.array([[10 + 1.2 + 0.6, 10 + 2.8 + 0.6], [10 + 0.4 + 1.8, 10 + 0.4 + 2.4]])
    )
