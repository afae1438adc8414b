"""The way that water takes over a triangulated surface: exact, by steepest descent."""

from typing import Literal, NamedTuple

import numpy as np

from zumbert.geometry.elements import Array
from zumbert.geometry.kept import kept
from zumbert.geometry.tin import Tin

FLAT = 1e-9  # slope: what falls less is level
NEAR = 1e-9  # m: a place so near to a vertex is at it

Ended = Literal["pit", "border", "outside"]


class DropPath(NamedTuple):
    """A way down: places (n, 3) in m, each no higher than the one before, and how it ends."""

    xyz: Array
    ended: Ended


class _Net(NamedTuple):
    """Plain lists of a surface, so that single steps are quick."""

    xyz: list[tuple[float, float, float]]  # about the surface's own origin
    faces: list[tuple[int, int, int]]  # anticlockwise
    beyond: list[tuple[int, int, int]]  # faces over edges k to k + 1; -1: none
    at: list[list[int]]  # faces at each vertex
    down: list[tuple[float, float]]  # descent of each face: minus its gradient


@kept(4)
def _net(tin: Tin) -> _Net:
    xyz = np.asarray(tin.vertices, float) - [*tin.origin, 0.0]
    f = np.asarray(tin.faces)
    a, b, c = (xyz[f[:, k]] for k in range(3))
    normal = np.cross(b - a, c - a)
    turned = normal[:, 2] < 0
    faces = np.where(turned[:, None], f[:, ::-1], f)
    beyond = np.where(turned[:, None], tin.neighbours[:, [1, 0, 2]], tin.neighbours)
    steep = normal[:, :2] / np.where(normal[:, 2:] == 0, np.inf, normal[:, 2:])
    at: list[list[int]] = [[] for _ in range(len(xyz))]
    for i, row in enumerate(faces.tolist()):
        for v in row:
            at[v].append(i)
    return _Net(
        list(map(tuple, xyz.tolist())),
        list(map(tuple, faces.tolist())),
        list(map(tuple, beyond.tolist())),
        at,
        list(map(tuple, steep.tolist())),
    )


def drop_path(tin: Tin, x: float, y: float, most: int = 200_000) -> DropPath:
    """The way down from a place (m): on each face straight down, along an edge where both faces
    fall to it, until a pit or the border. A level face is a pit. Exact but for rounding.
    """
    face = int(tin.face_at(np.array([x]), np.array([y]))[0])
    if face < 0:
        return DropPath(np.zeros((0, 3)), "outside")
    net = _net(tin)
    ox, oy = (float(v) for v in tin.origin)
    px, py = x - ox, y - oy
    path = [(px, py, _level(net, face, px, py))]
    vertex = -1
    ended: Ended = "pit"
    for _ in range(most):
        step = _from_vertex(net, vertex) if vertex >= 0 else (face, -1)
        if step is None:
            break
        face, onto = step
        if onto >= 0:  # along an edge, to the vertex at its end
            path.append(net.xyz[onto])
            vertex = onto
            continue
        vertex = -1
        crossed = _across(net, face, px if not path else path[-1][0], path[-1][1])
        if crossed is None:
            break
        k, qx, qy = crossed
        i, j = net.faces[face][k], net.faces[face][(k + 1) % 3]
        z = _level(net, face, qx, qy)
        path.append((qx, qy, min(z, path[-1][2])))
        vertex = next(
            (v for v in (i, j) if abs(net.xyz[v][0] - qx) + abs(net.xyz[v][1] - qy) < NEAR), -1
        )
        if vertex >= 0:
            continue
        other = net.beyond[face][k]
        if other < 0:
            ended = "border"
            break
        dx, dy = net.down[other]
        (ax, ay, az), (bx, by, bz) = net.xyz[i], net.xyz[j]
        out = dx * (by - ay) - dy * (bx - ax)  # of the face that it comes from, into the other
        if out > FLAT * (abs(bx - ax) + abs(by - ay)):
            face = other
            continue
        if abs(az - bz) <= FLAT * (abs(bx - ax) + abs(by - ay)):
            break
        vertex = i if az < bz else j
        path.append(net.xyz[vertex])
    xyz = np.array(path) + np.array([ox, oy, 0.0])
    if vertex >= 0 and ended == "pit" and _at_border(net, vertex):
        ended = "border"
    return DropPath(xyz, ended)


def _level(net: _Net, face: int, x: float, y: float) -> float:
    ax, ay, az = net.xyz[net.faces[face][0]]
    dx, dy = net.down[face]
    return az - dx * (x - ax) - dy * (y - ay)


def _across(net: _Net, face: int, x: float, y: float) -> tuple[int, float, float] | None:
    """The edge over which descent leaves a face from a place in it, and where; None where the
    face is level.
    """
    dx, dy = net.down[face]
    if dx * dx + dy * dy <= FLAT * FLAT:
        return None
    best: tuple[float, int] | None = None
    corners = net.faces[face]
    for k in range(3):
        ax, ay, _ = net.xyz[corners[k]]
        bx, by, _ = net.xyz[corners[(k + 1) % 3]]
        nx, ny = by - ay, ax - bx  # out of the face
        go = dx * nx + dy * ny
        if go > 0:
            t = max(0.0, ((ax - x) * nx + (ay - y) * ny) / go)
            if best is None or t < best[0]:
                best = t, k
    if best is None:
        return None
    t, k = best
    return k, x + t * dx, y + t * dy


def _from_vertex(net: _Net, v: int) -> tuple[int, int] | None:
    """The steepest way on from a vertex: a face, or a vertex at the end of an edge (face, vertex);
    None: a pit, or the border, over which it falls.
    """
    x, y, z = net.xyz[v]
    best: tuple[float, int, int] | None = None
    for f in net.at[v]:
        corners = net.faces[f]
        k = corners.index(v)
        for u in (corners[(k + 1) % 3], corners[(k + 2) % 3]):
            ux, uy, uz = net.xyz[u]
            fall = (z - uz) / max(((ux - x) ** 2 + (uy - y) ** 2) ** 0.5, 1e-12)
            if fall > FLAT and (best is None or fall > best[0]):
                best = fall, f, u
    for f in net.at[v]:
        corners = net.faces[f]
        k = corners.index(v)
        (bx, by, _), (cx, cy, _) = net.xyz[corners[(k + 1) % 3]], net.xyz[corners[(k + 2) % 3]]
        dx, dy = net.down[f]
        inside = (bx - x) * dy - (by - y) * dx > 0 and dx * (cy - y) - dy * (cx - x) > 0
        steep = (dx * dx + dy * dy) ** 0.5
        if inside and steep > FLAT and (best is None or steep > best[0]):
            best = steep, f, -1
    if best is None or _falls_off(net, *best[1:], v):
        return None
    return best[1], best[2]


def _falls_off(net: _Net, face: int, u: int, v: int) -> bool:
    """Whether the edge from v to u (none: -1) lies on the border, and its face falls over it."""
    if u < 0:
        return False
    corners = net.faces[face]
    k = corners.index(v) if corners[(corners.index(v) + 1) % 3] == u else corners.index(u)
    (ax, ay, _), (bx, by, _) = net.xyz[corners[k]], net.xyz[corners[(k + 1) % 3]]
    dx, dy = net.down[face]
    return net.beyond[face][k] < 0 and dx * (by - ay) + dy * (ax - bx) > FLAT * (
        abs(bx - ax) + abs(by - ay)
    )


def _at_border(net: _Net, v: int) -> bool:
    """Whether a vertex lies on the border of the surface."""
    for f in net.at[v]:
        corners = net.faces[f]
        k = corners.index(v)
        if net.beyond[f][k] < 0 or net.beyond[f][(k + 2) % 3] < 0:
            return True
    return False
