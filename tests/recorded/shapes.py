"""What is recorded of geometry: shapes by a seed, those that touch, repeat or have no room among
them.
"""

import numpy as np

from tests.geometry.defined import strip_levels
from tests.recorded.bodies import bodies, ground, pieces, tried
from tests.recorded.plain import gist, plain, sketch
from zumbert.geometry import corners, overlay, stretches
from zumbert.geometry import line as lines
from zumbert.geometry.alignment import Alignment
from zumbert.geometry.catchment import catchments, outline
from zumbert.geometry.clothoid import Clothoid, between_points
from zumbert.geometry.contours import contours
from zumbert.geometry.drop import drop_path
from zumbert.geometry.groundpieces import lower_of, of_strips, of_tin, under
from zumbert.geometry.intersections import (
    Intersection,
    bisector_point,
    elements_through,
    groups,
    intersections_of,
    pieces_through,
    radius_through,
    through_polyline,
)
from zumbert.geometry.profile import Profile, Pvi
from zumbert.geometry.rejoin import joined, tangent
from zumbert.geometry.spikes import all_spikes, spikes
from zumbert.geometry.strip import StripAt, strip_tins
from zumbert.geometry.tin import Tin
from zumbert.geometry.triangulate import Boundary, clipped, crossed, triangulate, without

SEEDS = range(1, 7)


def bends(rng):
    """Intersection points of a road: corners, arcs, clothoids of two lengths; the first that can
    be.
    """
    while True:
        points = _bends(rng)
        try:
            elements_through(points)
        except ValueError:
            continue
        return points


def _bends(rng):
    turn, at, out = 0.0, np.array([0.0, 0.0]), []
    for i in range(5):
        radius = float(rng.choice([0.0, rng.uniform(40, 120)]))
        way = [
            float(rng.choice([0.0, rng.uniform(8, 25)])) if radius and 0 < i < 4 else 0.0
            for _ in range(2)
        ]
        out.append(Intersection(float(at[0]), float(at[1]), radius if 0 < i < 4 else 0.0, *way))
        turn += float(rng.uniform(-0.9, 0.9))
        at = at + float(rng.uniform(110, 170)) * np.array([np.sin(turn), np.cos(turn)])
    return out


def alignments(seed):
    """Roads from points and back, and places along and beside them."""
    rng = np.random.default_rng(seed)
    points = bends(rng)
    pieces = elements_through(points)
    road = Alignment(pieces, float(rng.uniform(0, 100)))
    ch = np.linspace(road.end - road.length - 5, road.end + 5, 40)
    off = rng.uniform(-12, 12, 40)
    x, y = road.point(ch, off)
    free = rng.uniform(-60, 300, (2, 40))
    drawn = np.column_stack(road.point(road.polyline()[::3]))[:30]
    nudged = [p for p in drawn.tolist() if np.isfinite(p).all()]
    return {
        "pieces": plain(pieces),
        "length": road.length,
        "end": road.end,
        "points": plain([x, y]),
        "bearing": plain(road.bearing(ch)),
        "back": plain(road.project(np.nan_to_num(x), np.nan_to_num(y))),
        "foot": plain(road.foot(*free)),
        "extents": plain(road.extents),
        "polyline": plain(road.polyline()),
        "carried": plain(road.carried_on(9.0).extents),
        "again": tried(intersections_of, pieces),
        "groups": plain([len(g) for g in groups(pieces)]),
        "middles": plain([bisector_point(points, i) for i in range(1, 4)]),
        "radii": plain(
            [
                tried(radius_through, points, i, points[i].x + 4.0, points[i].y - 6.0)
                for i in range(1, 4)
            ]
        ),
        "through": tried(through_polyline, nudged),
        "arcs": tried(pieces_through, nudged),
        "joined": tried(joined, pieces),
        "tangent": tried(tangent, pieces),
        "along": plain(
            Alignment.through([(0, 0), (0, 0), (30, 5), (60, -20)], 10.0).point(ch / 5, off)
        ),
        "spirals": [gist(c.project(*rng.uniform(-5, 40, (2, 9)))) for c in spirals(rng)],
        "spanned": [
            tried(between_points, 0.0, 0.0, c.x1, c.y1, c.length, c.k0, c.k1) for c in spirals(rng)
        ],
    }


def spirals(rng):
    return [
        Clothoid(0.0, 0.0, float(rng.uniform(0, 6)), float(rng.uniform(10, 40)), *map(float, k))
        for k in rng.uniform(-0.02, 0.02, (3, 2))
    ]


def levels_along(seed):
    """Profiles, and lines with gaps and jumps."""
    rng = np.random.default_rng(seed)
    at = np.cumsum(rng.uniform(60, 120, 7))
    level = np.round(np.cumsum(rng.uniform(-3, 3, 7)) + 50, 2)
    level[4] = level[3]
    kinds = [
        {},
        {"length": 40.0},
        {"length": 30.0, "ahead": 18.0},
        {"radius": float(rng.uniform(300, 900))},
        {"length": 24.0},
        {},
        {},
    ]
    profile = Profile(
        [Pvi(float(c), float(z), **k) for c, z, k in zip(at, level, kinds, strict=True)]
    )
    ch = np.linspace(profile.start - 4, profile.end + 4, 60)
    s = np.sort(rng.choice(np.linspace(0, 20, 41), 9, replace=False))
    s[4] = s[5]
    a, b = (lines.Line(np.array([0.0, *s, 20.0]), rng.uniform(0, 4, 11)) for _ in range(2))
    a.z[6] = np.nan
    other = lines.Line(b.s, np.where(np.arange(11) == 3, np.nan, b.z))
    h = rng.uniform(-1, 1, 9)
    corner = corners.best_corner(
        np.array([1.0, 0.5]), rng.uniform(-1, 1, (5, 2)), rng.uniform(0.1, 2, 5)
    )
    return {
        "profile": plain([profile.level(ch), profile.grade(ch), profile.turning_points()]),
        "at": plain(
            [lines.level_at(a, np.linspace(-1, 21, 45), side) for side in ("left", "right")]
        ),
        "between": plain([lines.between(a, 3.0, 17.5), lines.between(a, float(s[4]), float(s[6]))]),
        "many": plain(
            lines.between_all(
                np.array([0, 11, 22]),
                *np.hstack([a, b]),
                np.array([2.0, 0.0]),
                np.array([9.0, 20.0]),
            )
        ),
        "lower": plain([lines.lower(a, b), lines.lower(b, a), lines.lower(b, other)]),
        "filled": plain([lines.filled(a, b), lines.filled(other, a), a.solid, b.solid]),
        "cut": plain(lines.cut_at(np.arange(9.0), h, 0.2)),
        "corner": plain(corner),
        "far": plain(
            corners.along(
                np.zeros(2),
                np.array([0.6, 0.8]),
                rng.uniform(-1, 1, (4, 2)),
                rng.uniform(0.1, 2, 4),
            )
        ),
    }


def surfaces(seed):
    """Surfaces: levels, lines, contours, ways of water, and what is laid on them."""
    rng = np.random.default_rng(seed)
    vertices, faces = ground(rng)
    tin = Tin(vertices, faces)
    x, y = rng.uniform(-3, 43, (2, 30))
    a, b = rng.uniform(-5, 45, (2, 8, 2))
    b[0], a[1] = vertices[3, :2], vertices[5, :2]
    found = catchments(tin, [(20.0, 20.0), (35.0, 8.0)])
    squares = np.array(
        [
            [(px, py), (px + 7, py), (px + 7, py + 5), (px, py + 5)]
            for px, py in rng.uniform(-4, 36, (5, 2))
        ]
    )
    second = Tin(np.column_stack([vertices[:, :2], vertices[::-1, 2] + 0.5]), faces)
    pieces = of_tin(tin, squares)
    wild = vertices.copy()
    wild[7, 2] += 9.0
    wild[11, 2] -= 9.0
    return {
        "levels": plain([tin.level(x, y), tin.slope(x, y), tin.extents, tin.face_at(x, y) >= 0]),
        "section": plain(tin.section(np.vstack([a[:3], b[:2]]))),
        "sections": plain(tin.sections(a, b)),
        "strung": plain(stretches.strung(tin.sections, np.vstack([a[:3], b[:3]]))),
        "contours": plain(contours(tin, np.arange(8, 15, 0.5))),
        "neighbours": plain((tin.neighbours >= 0).sum(axis=1)),
        "drops": plain([drop_path(tin, *map(float, p)) for p in zip(x[:12], y[:12], strict=True)]),
        "catchments": plain(
            [found.size(0), found.size(1), outline(found, 0), found.pits, found.label]
        ),
        "spikes": plain([spikes(Tin(wild, faces)), all_spikes(Tin(wild, faces), 0.5)]),
        "laid": plain(overlay.laid_on(tin, squares)),
        "near": plain(overlay.near(tin, squares - tin.origin)),
        "pieces": plain(
            [
                pieces,
                lower_of(pieces, second, squares),
                under(pieces, second, 0.3),
                pieces.lowered(0.2),
            ]
        ),
        "without": plain(without(tin, [7, 11])),
        "clipped": tried(
            clipped,
            vertices,
            faces,
            [
                Boundary(np.array([(5, 5), (33, 6), (30, 34), (6, 30)], float), "outer"),
                Boundary(np.array([(12, 12), (18, 12), (15, 19)], float), "void"),
            ],
        ),
    }


def triangulated(seed):
    """Points with breaklines that cross, touch and repeat."""
    rng = np.random.default_rng(seed)
    vertices, _ = ground(rng, 40)
    vertices[1] = vertices[0] + (0, 0, 0.3)
    breaks = [
        np.column_stack([rng.uniform(2, 38, (3, 2)), rng.uniform(9, 12, 3)]) for _ in range(3)
    ]
    breaks.append(np.array([breaks[0][0], breaks[1][1], breaks[1][1]]))
    hull = Boundary(np.array([(1, 1), (39, 1), (38, 39), (2, 37)], float), "outer")
    made = triangulate(vertices, breaks, [hull], 1.0)
    return plain(
        [
            len(made.vertices),
            len(made.faces),
            sketch(made.vertices.sum(axis=0)),
            made.faults,
            crossed(breaks),
            made.tin.level(*rng.uniform(0, 40, (2, 25))),
        ]
    )


def roads_as_ground(seed):
    """Strips along roads, and what they give over plots."""
    rng = np.random.default_rng(seed)
    road = Alignment(elements_through(bends(rng)))
    profile = Profile([Pvi(0.0, 50.0), Pvi(road.length * 0.4, 53.0, 60.0), Pvi(road.length, 51.0)])
    parts = []
    for ch in (0.0, 70.0, 200.0):
        left, fall = float(rng.uniform(2, 4)), float(rng.uniform(-0.05, 0.05))
        kerb, verge = float(rng.choice([0.0, 0.12])), float(rng.choice([0.0, 2.0]))
        parts.append(
            StripAt(chainage=ch, left=left, right=3.0, crossfall_left=fall, kerb=kerb, verge=verge)
        )
    made = strip_tins(road, profile, parts, 0.4)
    ch, off = (
        np.linspace(0, road.length, 50),
        np.tile([-5.5, -3.2, -1.0, 0.0, 2.0, 3.0, 4.4, -2.0, 1.0, 6.0], 5),
    )
    x, y = road.point(ch, off)
    plots = np.array(
        [
            [(px, py), (px + 6, py), (px + 6, py + 6), (px, py + 6)]
            for px, py in zip(x[::9], y[::9], strict=True)
        ]
    )
    return plain(
        [
            len(made.design.vertices),
            made.design.level(x, y),
            made.formation.level(x, y),
            strip_levels(profile, parts, ch, off),
            of_strips([road], [made.design], plots),
        ]
    )


SHAPES = {
    "alignments": alignments, "levels along": levels_along, "surfaces": surfaces,
    "triangulated": triangulated, "roads as ground": roads_as_ground, "bodies": bodies,
    "pieces": pieces,
}  # fmt: skip
