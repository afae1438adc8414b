"""Places that a cursor in plan is drawn to, each with its name: others' line work, land, services, road points."""

from functools import lru_cache
from math import hypot

import numpy as np

from zumbert.geometry.segments import Catch, Index, catches
from zumbert.model.background import Background
from zumbert.model.project import Project

RANK = {"end": 0, "corner of land": 0, "point of a road": 0, "service": 0, "crossing": 1, "centre": 2, "middle": 3}


@lru_cache(maxsize=8)
def index_of(background: Background) -> Index:
    """The line work of a drawing ready to be asked; those asked for last are kept."""
    return Index(background.segments, background.centres)


def place_snap(project: Project, x: float, y: float, within: float, own: bool = True) -> Catch | None:
    """The place that the cursor is drawn to within a distance (m): ends and corners before crossings, centres and
    middles, of each kind the nearest; None where there is none. Only what is shown counts; `own` adds the corners of
    land, the places of services and the points of roads to the line work of drawings.
    """
    found = _own(project) if own else []
    near = [c for c in found if hypot(c.x - x, c.y - y) <= within]
    for b in project.backgrounds.values():
        if b.shown and len(b.segments):
            on = np.array([name not in b.off for name in b.layers], bool)[b.layer]
            near += catches(index_of(b), x, y, within, on)
    return min(near, key=lambda c: (RANK[c.what], hypot(c.x - x, c.y - y)), default=None)


def _own(project: Project) -> list[Catch]:
    out = [Catch(*p, "corner of land") for a in project.land.values() if a.shown for p in a.ring]
    out += [Catch(p[0], p[1], "service") for s in project.services.values() if s.shown for p in s.points]
    out += [Catch(p.x, p.y, "point of a road") for r in project.roads.values() if r.shown for p in r.points]
    return out
