"""Every edit there is, found by its signature, with arguments made by type: a new edit is tested as
soon as it is there. One whose arguments no type tells needs a line in `SPECIAL`.
"""

import importlib
import inspect
import pkgutil
import typing
from collections.abc import Collection, Iterable, Mapping, Sequence
from types import UnionType
from typing import Any, Literal, NewType, Union, get_args, get_origin

import numpy as np
from msgspec.structs import replace
from scipy.spatial import Delaunay

import zumbert.edits
from tests.analysis.test_incremental import TWO
from tests.edits.special import SPARE, SPECIAL
from zumbert.analysis import analyse
from zumbert.analysis.facts import Facts
from zumbert.analysis.runline import RunKey
from zumbert.checks import check
from zumbert.edits.areas import add_area
from zumbert.edits.decisions import decide
from zumbert.edits.fields import FieldText
from zumbert.edits.fromline import LineWay
from zumbert.edits.grounditems import GroundItem
from zumbert.edits.gullies import GullyWay
from zumbert.edits.join import deleted
from zumbert.edits.land import add_service
from zumbert.edits.lay import OnPipe, lay
from zumbert.edits.layoptions import LayOptions
from zumbert.edits.notes import add_pin, add_spot
from zumbert.edits.rain import change_rain
from zumbert.edits.regrade import Regrade
from zumbert.edits.roads import add_profile, editable
from zumbert.edits.runs import leave_out, name_run
from zumbert.edits.setup import add_background
from zumbert.edits.sheets import usual_sheets
from zumbert.edits.standards import add_standard, set_own_limit
from zumbert.edits.trenchtypes import add_trench_type
from zumbert.geometry.intersections import Intersection
from zumbert.geometry.placing import Placing
from zumbert.geometry.profile import Pvi
from zumbert.model.background import Background, DrawnPlace
from zumbert.model.catalogue import PipeSize, StructureType
from zumbert.model.note import Pin
from zumbert.model.pipe import Bore
from zumbert.model.project import Project, Settings
from zumbert.model.road import Road, RoadProfile, Strip
from zumbert.model.sheet import SHEET_KINDS
from zumbert.model.standard import Standard
from zumbert.model.structure import Anchored, FixedRim, Free, OnSurface
from zumbert.model.trench import TrenchSize, TrenchType

TRIES = 60  # of arguments, until an edit changes something
DICTS = {
    "RoadId": "roads", "BackgroundId": "backgrounds", "SurfaceId": "surfaces", "LandId": "land",
    "ServiceId": "services", "SpotId": "spots", "PinId": "pins", "RunId": "runs",
    "StructureId": "structures", "PipeId": "pipes", "NetworkId": "networks",
    "StandardId": "standards", "AreaId": "areas", "SheetId": "sheets",
    "TrenchTypeId": "trench_types", "TypeKey": "types", "SizeKey": "sizes",
}  # fmt: skip
WORDS = {"kind": SHEET_KINDS}
NUMBERS = {  # usual values of numbers by what they are called
    "level": (38, 48), "by": (-0.5, 0.5), "slope": (0.001, 0.1), "cover": (0.6, 2.5), "at": (1, 20),
    "begin": (10, 100), "end": (120, 300), "offset": (-5, 5), "chainage": (20, 300),
    "spacing": (15, 60), "height": (0.1, 2), "metres": (0.3, 0.31), "within": (0.1, 3),
    "adjustment": (-0.2, 0.2), "depth": (0, 0.6), "rotation": (0, 6), "size": (0.1, 0.5),
    "clearance": (0.1, 0.5), "drop": (0, 0.1), "along": (-3, 3), "across": (-2, 2), "near": (2, 50),
    "start": (0, 100), "strength": (0.1, 1), "ch": (20, 300), "long": (5, 30), "_": (1, 10),
    "x": (0, 100), "y": (0, 100), "inflow": (0.001, 0.1), "share": (0, 1),
}  # fmt: skip


def edits():
    """All public functions of the edits that make a project from a project, by name."""
    out = {}
    for found in pkgutil.walk_packages(zumbert.edits.__path__, "zumbert.edits."):
        module = importlib.import_module(found.name)
        for name, f in vars(module).items():
            if not inspect.isfunction(f) or f.__module__ != found.name or name.startswith("_"):
                continue
            hints = typing.get_type_hints(f)
            if hints.get("project") is Project and makes_project(hints.get("return")):
                out[f"{found.name.removeprefix('zumbert.edits.')}.{name}"] = f
    return out


def makes_project(kind):
    if kind is Project:
        return True
    if get_origin(kind) in (tuple, list):
        return any(makes_project(a) for a in get_args(kind))
    return "project" in (*getattr(kind, "__struct_fields__", ()), *getattr(kind, "_fields", ()))


def project_of(made):
    """The project of what an edit gives."""
    if isinstance(made, Project):
        return made
    if hasattr(made, "project"):
        return made.project
    found = [
        m if isinstance(m, Project) else m.project
        for m in made
        if isinstance(m, Project) or hasattr(m, "project")
    ]
    return found[-1] if found else None


def with_everything():
    """A small project with a thing of each kind: a part of the demo, so that each case derives
    little.
    """
    project, _ = deleted(
        TWO,
        analyse(TWO),
        frozenset(k for k, s in TWO.structures.items() if s.label not in KEPT),
        frozenset(),
    )
    project = replace(project, surfaces={k: thinned(s) for k, s in project.surfaces.items()})
    pipe, structure = next(iter(project.pipes)), next(iter(project.structures))
    facts = analyse(project)
    project = add_pin(project, facts, pipe, 3.0)
    project = add_spot(project, 30.0, 30.0, "existing")
    project, _ = add_service(
        project, "water", [(0.0, 0.0, 41.0), (90.0, 90.0, 41.0)], None, 0.2, 0.3
    )
    project, _ = name_run(project, RunKey("run", structure), "kept")
    drawing = Background(
        id="",
        name="drawing",
        layers=("a",),
        layer=np.zeros(3, np.int32),
        segments=np.array([[0.0, 0.0, 9.0, 9.0], [9.0, 9.0, 20.0, 0.0], [20.0, 0.0, 0.0, 0.0]]),
        places=(
            DrawnPlace("circle", "a", 22.0, 31.0, 0.6),
            DrawnPlace("circle", "a", 44.0, 31.0, 0.6),
        ),
    )
    project = add_background(project, drawing)
    far = max(project.structures, key=lambda k: facts.places[k].x)
    way = LayOptions(network=next(iter(project.networks)), type="joint")
    loose = Free(facts.places[structure].x + 1.0, facts.places[structure].y + 0.5)
    project = lay(project, analyse(project), [loose], way, far)[-1].project
    road = next(iter(project.roads))
    project = add_profile(
        editable(project, road), road, "another", project.roads[road].profiles[0].pvis
    )
    project = decide(project, list(check(project, analyse(project)))[:2], "agreed", "AB")
    project = set_own_limit(project, [next(iter(project.pipes))], "cover_min", 0.5, "agreed")
    project, _ = add_standard(
        project, replace(next(iter(project.standards.values())), name="another", cover_min=1.1)
    )
    sizes = (TrenchSize(dn=300.0), TrenchSize(dn=600.0, width=1.2))
    project, _ = add_trench_type(project, TrenchType(id="", name=SPARE, sizes=sizes))
    project = usual_sheets(project, analyse(project))
    heads = [k for k in project.structures if k in {p.up for p in project.pipes.values()}]
    for i, head in enumerate(heads[:4]):
        project, _ = add_area(project, "roof", size=400.0 + 300 * i, structure=head, entry=4.0 + i)
    project = change_rain(project, years=5.0)
    return leave_out(project, RunKey("road", road), [structure], True)


def thinned(surface):
    """A surface on every sixth of its vertices: ground that is soon cut."""
    few = np.asarray(surface.vertices)[::6]
    return replace(surface, vertices=few, faces=Delaunay(few[:, :2]).simplices)


KEPT = {"HW1", "S1", "S2", "S3", "S4", "S14", "G1L", "G2L", "EX1", "EX2"}


class Maker:
    """Arguments for a project, by type and name."""

    def __init__(self, project, facts, rng):
        self.project, self.facts, self.rng = project, facts, rng

    def one(self, items):
        items = list(items)
        return items[int(self.rng.integers(len(items)))]

    def some(self, items):
        items = list(items)
        return [k for k in items if self.rng.random() < 0.3] or [self.one(items)]

    def place(self):
        if self.rng.random() < 0.7:
            return Anchored(
                self.one(self.project.roads), self.rng.uniform(5, 120), self.rng.uniform(-5, 5)
            )
        f = self.facts.places[self.one(self.project.structures)]
        return Free(f.x + self.rng.normal(0, 4), f.y + self.rng.normal(0, 4))

    def way(self):
        return LayOptions(network=self.one(self.project.networks), up=bool(self.rng.integers(2)))

    def made(self):
        """Values of types that are no id, word or number."""
        p, rng = self.project, self.rng
        road = p.roads[next(iter(p.roads))]
        return {
            Project: p,
            Facts: self.facts,
            bool: bool(rng.integers(2)),
            int: int(rng.integers(3)),
            Any: None,
            LayOptions: self.way(),
            LineWay: LineWay(way=self.way(), corner=self.one(p.types)),
            GullyWay: GullyWay(
                type=self.one(p.types),
                lead=self.one(p.sizes),
                way=self.way(),
                joint=self.one(p.types),
            ),
            Anchored: self.place(),
            OnSurface: OnSurface("existing", 0.1),
            FixedRim: FixedRim(rng.uniform(40, 50)),
            Bore: Bore(0.31, 0.05),
            Placing: Placing(x=rng.uniform(1, 3)),
            RunKey: RunKey("run", self.one(p.structures)),
            GroundItem: self.item(),
            Settings: replace(p.settings, length_basis="wall-plan"),
            Road: replace(road, name="another"),
            Standard: replace(
                self.one(p.standards.values()), cover_min=rng.uniform(0.5, 1.5), name="one more"
            ),
            TrenchType: replace(
                self.one(p.trench_types.values()),
                sizes=(TrenchSize(width=rng.uniform(0.8, 2)),),
                name="one more",
            ),
            Strip: replace(road.strip, surface=not road.strip.surface)
            if road.strip
            else Strip(sections=()),
            Background: self.one(p.backgrounds.values()),
            Pin: self.one(p.pins.values()),
            Regrade: self.regrade(),
            StructureType: replace(self.one(p.types.values()), wall=0.2),
            PipeSize: replace(self.one(p.sizes.values()), wall=0.07),
            OnPipe: OnPipe(self.one(p.pipes), 5.0),
            RoadProfile: road.profiles[0],
            Pvi: Pvi(60.0, 44.0),
            Intersection: Intersection(5.0, 5.0),
            FieldText: FieldText(self.one(p.pipes), "slope", "2%", "here"),
            bytes: b"x",
        }

    def item(self):
        kinds = {
            "road": "roads",
            "surface": "surfaces",
            "background": "backgrounds",
            "land": "land",
            "service": "services",
            "spot": "spots",
        }
        kind = self.one(k for k, name in kinds.items() if getattr(self.project, name))
        return GroundItem(kind, self.one(getattr(self.project, kinds[kind])))

    def regrade(self):
        p = self.project
        top = self.one(p.pipes)
        return Regrade(
            a=p.pipes[top].up, b=p.pipes[top].down, start=p.pipes[top].invert_up - 0.02, slope=0.02
        )

    def value(self, kind, name):
        """A value of a type for a parameter of a name."""
        if isinstance(kind, NewType):
            return self.one(getattr(self.project, DICTS[kind.__name__]))
        origin, parts = get_origin(kind), get_args(kind)
        if origin is Literal:
            return self.one(parts)
        if origin in (Union, UnionType):
            return self.value(self.one(parts), name)
        if origin in (Mapping, dict):
            return {self.value(parts[0], name): self.value(parts[1], name) for _ in range(2)}
        if origin is tuple and parts[-1] is not Ellipsis:
            return tuple(self.value(p, name) for p in parts)
        if origin in (Iterable, Sequence, Collection, list, tuple, frozenset):
            inner = parts[0]
            if isinstance(inner, NewType):
                found = self.some(getattr(self.project, DICTS[inner.__name__]))
            else:
                found = [self.value(inner, name) for _ in range(3)]
            return (
                frozenset(found)
                if origin is frozenset
                else tuple(found)
                if origin is tuple
                else found
            )
        if kind is type(None):
            return None
        if kind is float:
            return float(self.rng.uniform(*NUMBERS.get(name, (0.1, 5.0))))
        if kind is str and name in WORDS:
            return self.one(WORDS[name])
        if kind is str:
            return f"name {int(self.rng.integers(100))}"
        if kind is Free:
            return self.place()
        return self.made()[kind]


def arguments(name, f, w):
    """Arguments for an edit."""
    special = SPECIAL.get(name, lambda w: {})(w)
    out = {}
    for n, kind in typing.get_type_hints(f).items():
        if n not in special and n not in ("return", "values"):
            out[n] = w.value(kind, n)
    out.update({n: v for n, v in special.items() if n != "values"})
    return out


BASE = with_everything()
EDITS = edits()
