"""LandXML into a project: roads (new, beside one of the same name, or in its place), surfaces
and pipe networks.
"""

from pathlib import Path

from zumbert.analysis import analyse
from zumbert.edits.revision import revised
from zumbert.edits.setup import add_road
from zumbert.exchange.landxml import LandXml
from zumbert.exchange.landxml_roads import RoadFound
from zumbert.exchange.taking.choices import Taking
from zumbert.exchange.taking.networks import take_networks
from zumbert.exchange.taking.surfaces import with_surface
from zumbert.geometry.alignment import Alignment
from zumbert.model.display import Units, counted
from zumbert.model.project import Project


def take_landxml(taking: Taking, project: Project, path: Path, xml: LandXml) -> Project:
    """The roads and surfaces of a file that are chosen."""
    taking.notes += [f"{path.name}: {note}" for note in xml.notes]
    taking.notes.append(
        f"{path.name}: {counted(len(xml.roads), 'road')}, {counted(len(xml.surfaces), 'surface')}."
    )
    for road in xml.roads:
        taking.notes.append(_summary(project.units, road))
        if taking.choices.roads is None or road.name in taking.choices.roads:
            project = with_road(project, road, taking)
        else:
            taking.notes.append(f'The road "{road.name}" is left out.')
    for surface in xml.surfaces:
        project = with_surface(project, surface, taking)
    return take_networks(taking, project, xml.networks) if taking.choices.networks else project


def with_road(project: Project, road: RoadFound, taking: Taking) -> Project:
    """A road more, or one that is there anew."""
    there = next((k for k, r in project.roads.items() if r.name == road.name), None)
    how = taking.choices.same_roads.get(road.name) if there is not None else None
    if there is not None and how == "replace":
        project, said = revised(
            project, analyse(project), there, road.elements, road.start, road.profiles
        )
        taking.notes += said
        return project
    return add_road(project, how or road.name, road.elements, road.start, road.profiles)


def _summary(u: Units, road: RoadFound) -> str:
    """A road in one sentence: length, chainages, pieces, where it lies, its profiles and what of
    it they cover.
    """
    line = Alignment(road.elements, road.start)
    x0, y0, x1, y1 = line.extents
    out = (
        f'The road "{road.name}": {u.long(line.length)}, {u.chainage(line.start)} to '
        f"{u.chainage(line.end)}, "
        f"{counted(len(road.elements), 'element')}, x {u.coordinate(x0, -2)} to "
        f"{u.coordinate(x1, -2)}, "
        f"y {u.coordinate(y0, -2)} to {u.coordinate(y1, -2)} {u.m}"
    )
    for p in road.profiles:
        a, b = p.pvis[0].chainage, p.pvis[-1].chainage
        bare = max(0.0, a - line.start) + max(0.0, line.end - b)
        cover = (
            "all along it"
            if bare < 0.005
            else f"{u.long(min(bare, line.length))} of the road without"
        )
        out += f'; profile "{p.name}" ({p.kind}), {u.chainage(a)} to {u.chainage(b)}, {cover}'
    return out + ("." if road.profiles else "; no profile.")
