"""Named snap places in plan: line work of drawings, land, services, road points."""

from math import hypot

import numpy as np

from zumbert.geometry.kept import kept
from zumbert.geometry.segments import Catch, Index, catches
from zumbert.model.background import Background
from zumbert.model.project import Project

RANK = {
    "end": 0,
    "corner of land": 0,
    "point of a road": 0,
    "service": 0,
    "crossing": 1,
    "centre": 2,
    "middle": 3,
}


@kept(1)
def index_of(background: Background) -> Index:
    """The line work of a drawing ready to be asked; those asked for last are kept."""
    return Index(background.segments, background.centres)


def place_snap(
    project: Project, x: float, y: float, within: float, own: bool = True
) -> Catch | None:
    """The place that the cursor is drawn to within a distance (m): ends and corners before
    crossings, centres and middles, of each kind the nearest; None where there is none. Only what is
    shown counts; `own` adds the corners of land, the places of services and the points of roads to
    the line work of drawings.
    """
    found = _own(project) if own else []
    near = [c for c in found if hypot(c.x - x, c.y - y) <= within]
    for b in project.backgrounds.values():
        if b.shown and len(b.segments):
            on = np.array([name not in b.off for name in b.layers], bool)[b.layer]
            near += catches(index_of(b), x, y, within, on)
    return min(near, key=lambda c: (RANK[c.what], hypot(c.x - x, c.y - y)), default=None)


def limit_snap(project: Project, x: float, y: float, within: float) -> Catch | None:
    """The nearest place on a limit of land that is shown, within a distance (m); None where
    there is none.
    """
    best: tuple[float, Catch] | None = None
    for area in project.land.values():
        if not area.shown:
            continue
        a = np.array(area.ring)
        d = np.roll(a, -1, axis=0) - a
        t = np.clip(
            ((x - a[:, 0]) * d[:, 0] + (y - a[:, 1]) * d[:, 1])
            / np.maximum((d**2).sum(axis=1), 1e-24),
            0,
            1,
        )
        feet = a + t[:, None] * d
        far = np.hypot(feet[:, 0] - x, feet[:, 1] - y)
        i = int(far.argmin())
        if far[i] <= within and (best is None or far[i] < best[0]):
            best = float(far[i]), Catch(float(feet[i, 0]), float(feet[i, 1]), "limit of land")
    return None if best is None else best[1]


def _own(project: Project) -> list[Catch]:
    out = [Catch(*p, "corner of land") for a in project.land.values() if a.shown for p in a.ring]
    out += [
        Catch(p[0], p[1], "service") for s in project.services.values() if s.shown for p in s.points
    ]
    out += [
        Catch(p.x, p.y, "point of a road")
        for r in project.roads.values()
        if r.shown
        for p in r.points
    ]
    return out
