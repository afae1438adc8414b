"""The layers of the ground: each is what lies under its top, down to the next."""

from typing import NamedTuple

import numpy as np

from zumbert.analysis.surfaces import Surfaces
from zumbert.geometry.tin import Tin
from zumbert.model.digging import GENERAL, ROCK, Stratum
from zumbert.model.project import Project

FAR = 1e4  # m beyond the boreholes, to which the level of the nearest one holds


class Roof(NamedTuple):
    """One of the surfaces that a layer lies under."""

    tin: Tin | None  # None: existing ground
    lowered: float  # m that the layer begins under it


class Layer(NamedTuple):
    """A stratum, and the surfaces that it lies under: its top is the lowest of them."""

    name: str
    roofs: tuple[Roof, ...]


def layers(project: Project, surfaces: Surfaces) -> tuple[Layer, ...]:
    """The strata of a project from the top. Where it names none they are general and, under a
    surface of that role, rock.
    """
    named = project.digging.strata
    if not named:
        rock = (
            ()
            if surfaces.rock is None
            else (Layer(ROCK, (Roof(None, 0.0), Roof(surfaces.rock, 0.0))),)
        )
        return (Layer(GENERAL, (Roof(None, 0.0),)), *rock)
    out = list[Layer]()
    roofs: tuple[Roof, ...] = (Roof(None, 0.0),)
    for stratum in named:
        own = _top(project, surfaces, stratum)
        if own is not None:
            roofs = (*roofs, Roof(own, 0.0))
        out.append(Layer(stratum.name, roofs))
        roofs = tuple(Roof(r.tin, r.lowered + (stratum.thickness or 0.0)) for r in roofs)
    return tuple(out)


def _top(project: Project, surfaces: Surfaces, stratum: Stratum) -> Tin | None:
    if stratum.boreholes:
        return through_boreholes(stratum.boreholes)
    record = project.surfaces.get(stratum.surface) if stratum.surface is not None else None
    if record is None:
        return None
    for tin in (surfaces.existing, surfaces.rock):
        if isinstance(tin, Tin) and tin.is_of(record.vertices):
            return tin
    return Tin(record.vertices, record.faces)


def through_boreholes(points: tuple[tuple[float, float, float], ...]) -> Tin:
    """A surface through points (x, y, level in m): straight between them, beyond them on at the
    level of the nearest one.
    """
    from scipy.spatial import Delaunay

    p = np.array(points, float)
    centre = p[:, :2].mean(axis=0)
    ring = centre + FAR * np.array([(np.cos(a), np.sin(a)) for a in np.arange(8) * np.pi / 4])
    near = np.hypot(*(ring[:, None] - p[None, :, :2]).transpose(2, 0, 1)).argmin(axis=1)
    xyz = np.concatenate([p, np.column_stack([ring, p[near, 2]])])
    return Tin(xyz, Delaunay(xyz[:, :2] - centre).simplices)
