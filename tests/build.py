"""Small projects to test with."""

from functools import cache

import numpy as np
from msgspec.structs import replace

from zumbert.analysis import analyse
from zumbert.checks.finding import Finding
from zumbert.checks.sentences import object_label, sentence
from zumbert.delivery import pages
from zumbert.demo.project import demo_project
from zumbert.drawing.marks import Stroke, points
from zumbert.edits.setup import add_road, add_surface
from zumbert.geometry.elements import Straight
from zumbert.model.background import Background
from zumbert.model.catalogue import PIPE_SIZES, STRUCTURE_TYPES
from zumbert.model.ids import BackgroundId, PipeId, RoadId, SizeKey, StructureId, TypeKey
from zumbert.model.pipe import Bore, Pipe
from zumbert.model.project import Project, new_project
from zumbert.model.quantity import DN, LENGTH, LEVEL, SMALL, SQUARE, Unit
from zumbert.model.sheet import SHEET_KINDS, KindOfSheet
from zumbert.model.structure import Anchored, FixedRim, Free, OnSurface, Structure
from zumbert.model.unitsystem import UnitSystem


def with_structure(
    project: Project,
    label: str,
    x: float,
    y: float = 0.0,
    kind: str = "manhole-1200",
    rim: float | None = None,
    road: bool = False,
) -> Project:
    place = Anchored(next(iter(project.roads)), x, y) if road else Free(x, y)
    s = Structure(
        id=StructureId(label),
        label=label,
        type=TypeKey(kind),
        place=place,
        network=next(iter(project.networks)),
        rim=OnSurface() if rim is None else FixedRim(rim),
    )
    return replace(project, structures={**project.structures, s.id: s})


def with_pipe(
    project: Project,
    label: str,
    up: str,
    down: str,
    invert_up: float,
    invert_down: float,
    size: str | Bore = "300",
) -> Project:
    p = Pipe(
        id=PipeId(label),
        label=label,
        up=StructureId(up),
        down=StructureId(down),
        size=size if isinstance(size, Bore) else SizeKey(size),
        invert_up=invert_up,
        invert_down=invert_down,
        network=next(iter(project.networks)),
    )
    return replace(project, pipes={**project.pipes, p.id: p})


def sheet(points: list[tuple[float, float]], half: float = 40.0) -> tuple[list, list]:
    """A ground that is the same across: levels at x, on strips from y -half to half."""
    vertices = [(x, y, z) for x, z in points for y in (-half, half)]
    faces = []
    for i in range(len(points) - 1):
        a = 2 * i
        faces += [(a, a + 2, a + 3), (a, a + 3, a + 1)]
    return vertices, faces


def grounded(
    points: list[tuple[float, float]], role: str = "existing", project: Project | None = None
) -> Project:
    return add_surface(project or new_project("test"), role, role, *sheet(points))


def v_project(down_type: str = "manhole-1200") -> Project:
    """Two chambers 60 m apart over a V-shaped ground: 30.000 at both ends, 29.000 in the middle."""
    p = grounded([(-20, 30.0), (0, 30.0), (30, 29.0), (60, 30.0), (80, 30.0)])
    p = with_structure(p, "A", 0)
    p = with_structure(p, "B", 60, kind=down_type)
    return with_pipe(p, "P1", "A", "B", 28.500, 28.200)


def road_project(length: float = 500.0, fall: float = -0.02) -> Project:
    """A straight road along x over a plane that rises with it (a negative fall)."""
    p = grounded([(-50, 50 + fall * 50), (length + 50, 50 - fall * (length + 50))])
    return add_road(p, "Quillerby Rise", (Straight(0.0, 0.0, length, 0.0),))


def the_road(project: Project) -> RoadId:
    return next(iter(project.roads))


def chain(levels: list[tuple[float, float]], spacing: float = 50.0, size: str = "300") -> Project:
    """S1, S2, … spacing apart on level ground 50.0, the last an outfall; pipes with (up, down)
    inverts.
    """
    p = grounded([(-100, 50.0), (10_000, 50.0)])
    for i in range(len(levels) + 1):
        p = with_structure(
            p, f"S{i + 1}", i * spacing, kind="outfall" if i == len(levels) else "manhole-1200"
        )
    for i, (up, down) in enumerate(levels):
        p = with_pipe(p, f"P{i + 1}", f"S{i + 1}", f"S{i + 2}", up, down, size)
    return p


@cache
def demo_facts():
    """What follows from the demo: worked out once, since values never change."""
    return analyse(demo_project())


def facts_of(project: Project):
    return demo_facts() if project is demo_project() else analyse(project)


def drawn(name: str, layers: tuple[str, ...], segments, layer, **more) -> Background:
    """A drawing by others: segments (n, 4) and the layer index of each."""
    return Background(
        id=BackgroundId(""),
        name=name,
        layers=layers,
        segments=np.asarray(segments, float),
        layer=np.asarray(layer, np.int32),
        **more,
    )


def quoted_at(project: Project, basis: str) -> Project:
    """The same numbers read as inverts at centres or at inner walls: the pipes lie elsewhere."""
    return replace(project, settings=replace(project.settings, invert_basis=basis))


def label_of(project: Project, finding: Finding) -> str:
    """The label of what a finding is about."""
    return object_label(facts_of(project), finding)


def said(project: Project, finding: Finding) -> str:
    """A finding in words."""
    return sentence(facts_of(project), finding)


def rods():
    """A system of units that there is not."""
    rod, hand = 5.0292, 101.6
    return UnitSystem(
        title="rods",
        words="rods, sizes in hands",
        units={
            LENGTH.name: Unit("rd", rod, 2),
            LEVEL.name: Unit("rd", rod, 1),
            SQUARE.name: Unit("rd²", rod**2, 1),
            SMALL.name: Unit("hands", hand, 0),
            DN.name: Unit("hands", hand, 2),
        },
        far=Unit("leagues", 30 * rod, 1),
        size_words="{} hands",
        plus=1,
        level_step=0.01 * rod,
        types=STRUCTURE_TYPES,
        sizes=PIPE_SIZES,
        limits={"cover_min": rod},
        landxml=("Imperial", {"linearUnit": "rod"}),
    )


def with_crosses(monkeypatch):
    """With a kind of sheet of two pages that there is not; the mark that each page bears."""
    cross = Stroke("design", points((0, 0), (9, 9)))
    kind = pages.Kind(
        lambda job, sheet, box, unit: ["first", "second"],
        lambda job, part: part,
        lambda job, sheet, part, every, box, unit, neighbour: ([cross], []),
        lambda sheet: "no scale",
    )
    monkeypatch.setitem(pages.KINDS, "crosses", kind)
    monkeypatch.setitem(SHEET_KINDS, "crosses", KindOfSheet("Cross", "Crosses", ("scale",)))
    return cross
