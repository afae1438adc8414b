"""Drawings into a project: lines under the plan, land and services by layer, a surface of
levels.
"""

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from zumbert.edits.land import add_land, add_service
from zumbert.edits.setup import add_background
from zumbert.errors import EditError, ReadError
from zumbert.exchange.dxf import Drawing, read_dxf, stamp_of, surface_of
from zumbert.exchange.landxml import Source, SurfaceFound, told, triangulated
from zumbert.exchange.sense import sound_faces
from zumbert.exchange.taking.choices import Taking
from zumbert.exchange.taking.surfaces import with_surface
from zumbert.geometry.elements import Array
from zumbert.geometry.kept import kept
from zumbert.geometry.tin import Tin
from zumbert.model.background import UNITS, Background
from zumbert.model.display import counted
from zumbert.model.ids import BackgroundId
from zumbert.model.project import Project


def take_drawing(taking: Taking, project: Project, path: Path, drawing: Drawing) -> Project:
    """A drawing under the plan, its layers as they are used, and the surface of its levels."""
    unit = taking.choices.units.get(path, drawing.unit)
    taking.notes += [f"{path.name}: {note}" for note in drawing.notes]
    by = UNITS[unit] / UNITS[drawing.unit]
    use = {layer: taking.choices.layers.get((path, layer), "") for layer in drawing.layers}
    kept = [layer for layer in drawing.layers if use[layer] != "leave"]
    if kept:
        project = add_background(project, _background(drawing, unit, set(kept)))
    for layer, how in use.items():
        if how.startswith(("land ", "service ")):
            project = _with_layer(project, drawing, layer, how, by, taking.notes)
    name = f"{drawing.name} levels"
    if taking.choices.roles.get(name) is not None and name not in taking.joined:
        try:
            surface = _levels_of(drawing, name, by)
        except ValueError as e:
            raise ReadError(
                f"{path.name}: its lines and points with levels make no surface: {e}."
            ) from e
        project = with_surface(project, surface, taking)
    return project


@kept(2)
def _levels_of(drawing: Drawing, name: str, by: float) -> SurfaceFound:
    """The surface of a drawing: its faces, else that over its lines with levels and its points. Its
    faults are told, as those of any other.
    """
    if not len(drawing.faces):
        return triangulated(
            name, Source(drawing.points, [line.xyz for line in drawing.deep_lines], []), unit=by
        )
    vertices, faces, _ = surface_of(drawing)
    vertices, faces, odd = sound_faces(name, vertices * by, faces)
    notes = (*odd, *told(name, Tin(vertices, faces)))
    return SurfaceFound(name=name, vertices=vertices, faces=faces, notes=notes)


def _background(drawing: Drawing, unit: str, kept: set[str]) -> Background:
    """A drawing as it lies under the plan, some of its layers left out."""
    by = UNITS[unit] / UNITS[drawing.unit]
    rows = np.array([layer in kept for layer in drawing.layers], bool)[drawing.layer]
    names = tuple(layer for layer in drawing.layers if layer in kept)
    number = np.array(
        [names.index(layer) if layer in kept else -1 for layer in drawing.layers], np.int32
    )
    return Background(
        id=BackgroundId(""),
        name=drawing.name,
        layers=names,
        off=drawing.off & kept,
        segments=np.ascontiguousarray(drawing.segments[rows] * by),
        layer=number[drawing.layer[rows]],
        centres=drawing.centres * by,
        source=drawing.path,
        stamp=drawing.stamp,
        metres=UNITS[unit],
        places=tuple(p.scaled(by) for p in drawing.places if p.layer in kept),
        texts=tuple(t.scaled(by) for t in drawing.texts if t.layer in kept),
    )


def _with_layer(
    project: Project, drawing: Drawing, layer: str, how: str, by: float, notes: list[str]
) -> Project:
    """The lines of a layer as areas of land (closed ones) or as services."""
    what, kind = how.split()
    taken = left = 0
    for line in drawing.lines:
        if line.layer != layer:
            continue
        xyz: Array = line.xyz * by
        places = [(float(x), float(y)) for x, y, _ in xyz]
        try:
            if what == "service":
                levels: list[Any] = xyz[:, 2].tolist() if line.deep else [None] * len(xyz)
                points = [(*p, z) for p, z in zip(places, levels, strict=True)]
                project, _ = add_service(project, kind, points)  # type: ignore[arg-type]
            elif len(xyz) > 3 and np.hypot(*(xyz[0] - xyz[-1])[:2]) < 0.01:
                project, _ = add_land(project, kind, places, _name_in(places, drawing, by))  # type: ignore[arg-type]
            else:
                left += 1
                continue
            taken += 1
        except EditError:
            left += 1
    found = (
        counted(taken, "area of land", "areas of land")
        if what == "land"
        else counted(taken, "service")
    )
    notes.append(
        f'Layer "{layer}": {found} ({kind})'
        + (f", {counted(left, 'line')} left out." if left else ".")
    )
    return project


def _name_in(ring: list[tuple[float, float]], drawing: Drawing, by: float) -> str | None:
    """The text that stands in a closed line, such as a lot's number: of several the highest
    letters; None without one.
    """
    import shapely

    if not drawing.texts:
        return None
    area = shapely.make_valid(shapely.Polygon(ring))
    inside = [t for t in drawing.texts if shapely.contains_xy(area, t.x * by, t.y * by)]
    return max(inside, key=lambda t: t.height).text if inside else None


def drawing_again(old: Background, tell: Callable[[float, str], None] | None = None) -> Background:
    """A drawing's file as it is now, in the unit that the drawing has. Raises ReadError."""
    if old.source is None:
        raise ReadError(f'It is not known which file "{old.name}" came from: import it again.')
    unit = min(UNITS, key=lambda u: abs(UNITS[u] - old.metres))
    found = read_dxf(old.source, unit, tell)
    return _background(found, unit, set(found.layers))


def is_stale(b: Background) -> bool:
    """Whether a drawing's file is another than the one that was read; one that is gone is not."""
    if b.source is None or b.stamp is None:
        return False
    now = stamp_of(b.source)
    return now is not None and now != b.stamp
