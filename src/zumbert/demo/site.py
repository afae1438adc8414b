"""The made-up hillside: lines and levels of its roads, its ground, the surface of its design."""

from math import cos, radians, sin

import numpy as np

from zumbert.geometry.alignment import Alignment
from zumbert.geometry.elements import Arc, Array, Straight
from zumbert.geometry.profile import Profile, Pvi

JUNCTION = 99.0  # chainage of Quillerby Rise where Tansymoor Lane begins, m
RISE_PVIS = (
    Pvi(0.0, 40.30),
    Pvi(78.0, 41.78, 40.0),
    Pvi(126.0, 42.20, 40.0),
    Pvi(300.0, 48.90, 80.0),
    Pvi(420.0, 49.98),
)
KERB, VERGE = 3.0, 2.0  # m: half-width to the kerb, verge behind it


def pieces(
    x: float, y: float, bearing: float, parts: tuple[tuple[float, float], ...]
) -> list[Straight | Arc]:
    """Straights (length, 0) and arcs (length, radius; right turns positive) one after another;
    bearing in degrees.
    """
    out: list[Straight | Arc] = []
    b = radians(bearing)
    for length, radius in parts:
        if not radius:
            x1, y1 = x + length * sin(b), y + length * cos(b)
            out.append(Straight(x, y, x1, y1))
        else:
            xc, yc = x + radius * cos(b), y - radius * sin(b)
            b += length / radius
            x1, y1 = xc - radius * cos(b), yc + radius * sin(b)
            out.append(Arc(x, y, x1, y1, xc, yc, radius > 0))
        x, y = x1, y1
    return out


def lane() -> list[Straight | Arc]:
    """Tansymoor Lane, from the centre of Quillerby Rise, square to it."""
    rise = Alignment(RISE)
    x, y = (float(v) for v in rise.point(JUNCTION))
    bearing = float(np.degrees(rise.bearing(JUNCTION))) - 90.0
    return pieces(x, y, bearing, ((70.0, 0), (40.0, 90.0), (30.0, 0)))


def lane_pvis() -> tuple[Pvi, ...]:
    """Levels of Tansymoor Lane: it begins at the channel of Quillerby Rise and climbs."""
    start = float(Profile(RISE_PVIS).level(JUNCTION))
    return (
        Pvi(0.0, round(start, 3)),
        Pvi(25.0, round(start + 0.15, 3), 20.0),
        Pvi(140.0, round(start + 3.60, 3)),
    )


def ground(x: Array, y: Array) -> Array:
    """Natural ground (m): a hillside that follows the climb, with hollows, cut by the beck in
    the west.
    """
    along = (x - 1400.0) / 0.93
    climb = np.interp(
        along,
        [-60, 0, 78, 126, 150, 300, 420, 500],
        [39.0, 40.05, 41.55, 42.15, 42.85, 48.6, 49.7, 50.2],
    )
    side = 0.010 * (y - 875.0) + 0.00002 * (y - 875.0) ** 2
    hollows = 0.14 * np.sin(x / 23.0 + 1.0) * np.cos(y / 31.0) + 0.06 * np.sin(x / 9.0) * np.sin(
        y / 11.0
    )
    bed = np.abs(x - 1362.0 - 6.0 * np.sin((y - 900.0) / 60.0))
    return np.asarray(climb + side + hollows - 2.3 * np.exp(-((bed / 4.5) ** 4)))


def terrain() -> tuple[Array, np.ndarray]:
    """About 4,000 survey points on a shaken grid, joined along the shorter diagonals."""
    rng = np.random.default_rng(42)
    nx, ny = 82, 50
    gx, gy = np.meshgrid(
        np.linspace(1335.0, 1815.0, nx), np.linspace(770.0, 1060.0, ny), indexing="ij"
    )
    inner = np.zeros((nx, ny), bool)
    inner[1:-1, 1:-1] = True
    gx = gx + np.where(inner, rng.uniform(-2.0, 2.0, gx.shape), 0.0)
    gy = gy + np.where(inner, rng.uniform(-2.0, 2.0, gy.shape), 0.0)
    z = ground(gx, gy) + rng.normal(0.0, 0.012, gx.shape)
    points = np.asarray(
        np.round(np.column_stack([gx.ravel(), gy.ravel(), z.ravel()]), 3), np.float64
    )
    return points, grid_faces(points, nx, ny)


def grid_faces(points: Array, nx: int, ny: int) -> np.ndarray:
    """Two triangles a cell of a grid of points, cut along the shorter diagonal."""
    n = np.arange(nx * ny).reshape(nx, ny)
    a, b, c, d = (v.ravel() for v in (n[:-1, :-1], n[1:, :-1], n[1:, 1:], n[:-1, 1:]))
    short = np.hypot(*(points[a] - points[c])[:, :2].T) <= np.hypot(
        *(points[b] - points[d])[:, :2].T
    )
    one = np.where(short[:, None], np.column_stack([a, b, c]), np.column_stack([a, b, d]))
    two = np.where(short[:, None], np.column_stack([a, c, d]), np.column_stack([b, c, d]))
    return np.concatenate([one, two])


def strip(road: Alignment, profile: Profile, begin: float) -> tuple[Array, np.ndarray]:
    """The design surface of a road from a chainage on: carriageway, kerbs, verges, and banks of
    1:2 to the ground.
    """
    stations = np.unique(
        np.concatenate([np.arange(np.ceil(begin / 4) * 4, road.end, 4.0), [begin, road.end]])
    )
    level = profile.level(stations)
    rows = []
    for side in (-1.0, 1.0):
        channel, top = level - 0.025 * KERB, level - 0.025 * KERB + 0.1
        back = top + 0.02 * VERGE
        off = np.full(stations.shape, KERB + 0.02 + VERGE)
        for _ in range(12):  # where the bank meets the ground
            x, y = road.point(stations, side * off)
            off = KERB + 0.02 + VERGE + 0.05 + 2.0 * np.abs(ground(x, y) - back)
        x, y = road.point(stations, side * off)
        wide = (
            (KERB, channel),
            (KERB + 0.02, top),
            (KERB + 0.02 + VERGE, back),
            (off, ground(x, y)),
        )
        rows.append([(side * o, z) for o, z in wide])
    across = [*rows[0][::-1], (0.0, level), *rows[1]]
    points = np.stack([np.column_stack([*road.point(stations, o), z]) for o, z in across], axis=1)
    flat = np.round(points.reshape(-1, 3), 3)
    return flat, grid_faces(flat, len(stations), len(across))


def design_surface() -> tuple[Array, np.ndarray]:
    """Both roads' strips as one surface; Tansymoor Lane's begins where that of Quillerby Rise
    ends.
    """
    first, f1 = strip(Alignment(RISE), Profile(RISE_PVIS), 0.0)
    second, f2 = strip(Alignment(lane()), Profile(lane_pvis()), 9.0)
    return np.concatenate([first, second]), np.concatenate([f1, f2 + len(first)])


RISE = pieces(
    1400.0, 900.0, 115.0, ((40.0, 0), (100.0, -120.0), (95.0, 0), (105.0, 150.0), (80.0, 0))
)
