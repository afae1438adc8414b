"""Places far off: a digit too many moves a corner to another country."""

from math import hypot

import numpy as np

from zumbert.analysis.facts import Facts
from zumbert.geometry.elements import Array

FAR = 20_000.0  # m: nothing that is drained is wider
WIDER = 5.0  # times as wide as before: then a place was mistyped


def far_off(before: Facts, after: Facts) -> str | None:
    """The question to ask where an edit makes a project absurdly wide; None where it is as wide as
    one would expect.

    Extents are those of structures, roads, land, services, spot levels and existing ground, m.
    """
    names = ("structures", "roads", "land", "services", "spots")
    if all(getattr(before.project, n) is getattr(after.project, n) for n in names):
        return None
    was, now = _wide(before), _wide(after)
    if was == 0.0 or now <= FAR or now <= WIDER * was:
        return None
    u = after.units
    return (
        f"With this the work reaches over {u.far(now)}, where it now reaches over {u.far(was)}. "
        "Is a place mistyped?"
    )


def _wide(facts: Facts) -> float:
    """The diagonal of all places, m; 0 where there is none."""
    p = facts.project
    xy: list[Array] = [
        np.array([(s.x, s.y) for s in facts.places.values() if s.x is not None], float)
    ]
    xy += [np.array([(s.x, s.y) for s in p.spots.values()], float)]
    xy += [np.array(a.ring, float)[:, :2] for a in p.land.values()]
    xy += [np.array([q[:2] for q in s.points], float) for s in p.services.values()]
    xy += [np.array(r.alignment.extents).reshape(2, 2) for r in facts.roads.values()]
    if facts.surfaces.existing is not None:
        xy.append(np.array(facts.surfaces.existing.extents).reshape(2, 2))
    every = np.vstack([a.reshape(-1, 2) for a in xy])
    if not len(every):
        return 0.0
    return hypot(*(every.max(axis=0) - every.min(axis=0)).tolist())
