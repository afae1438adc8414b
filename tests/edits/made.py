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
from zumbert.analysis import analyse
from zumbert.analysis.facts import Facts
from zumbert.analysis.runline import RunKey
from zumbert.checks import check
from zumbert.edits.areas import add_area
from zumbert.edits.decisions import decide
from zumbert.edits.fields import FieldText
from zumbert.edits.fromline import LineWay
from zumbert.edits.fromplaces import groups
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
from zumbert.edits.sizing import SIZED_LEVELS, HowToSize, sized
from zumbert.edits.standards import add_standard, set_own_limit
from zumbert.edits.trenchtypes import add_trench_type
from zumbert.fields import STRUCTURE_FIELDS, fields_of
from zumbert.geometry.intersections import Intersection
from zumbert.geometry.placing import Placing
from zumbert.geometry.profile import Pvi
from zumbert.model.area import AreaKind
from zumbert.model.background import Background, DrawnPlace
from zumbert.model.catalogue import PipeSize, StructureType
from zumbert.model.digging import Stratum
from zumbert.model.note import Pin
from zumbert.model.pipe import Bore
from zumbert.model.project import Project, Settings
from zumbert.model.rain import Rain
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
SPARE = "a trench that nothing takes"


def spare(w):
    """The trench type that nothing takes."""
    return next(
        (k for k, t in w.project.trench_types.items() if t.name.startswith(SPARE)),
        w.one(w.project.trench_types),
    )


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


def field(w):
    thing = w.one([*w.project.pipes, *w.project.structures])
    found = w.one(f for f in fields_of(w.project, thing).values() if f.edit)
    words = {"cover": "1.4", "slope": "2.5%", "next_slope": "1.5%", "label": "Q9", "size": "375"}
    text = (
        w.one(found.choices(w.project))
        if found.choices
        else words.get(found.key, f"+{w.rng.uniform(0.01, 0.2):.3f}")
    )
    return {"thing": thing, "field": found.key, "text": text, "pivot": w.one(("up", "down"))}


def shared(w):
    name = w.one(("status", "network"))
    words = STRUCTURE_FIELDS[name].offered(w.project)
    structures, pipes = w.some(w.project.structures), w.some(w.project.pipes)
    return {"structures": structures, "pipes": pipes, "field": name, "text": w.one(words)}


def shelf(w):
    name = w.one(("types", "sizes"))
    key = w.one(getattr(w.project, name))
    return {"shelf": name, "key": key, "name": "wall_mm", "text": f"{w.rng.uniform(60, 90):.0f}"}


def on_road(w, **values):
    return dict(road=next(iter(w.project.roads)), **values)


def line(w):
    """The points of a road, a little elsewhere."""
    found = w.project.roads[next(iter(w.project.roads))].points
    return [replace(p, x=p.x + w.rng.normal(0, 0.2)) for p in found]


def pvis(w):
    found = w.project.roads[next(iter(w.project.roads))].profiles[0].pvis
    return [replace(p, level=p.level + w.rng.normal(0, 0.1)) for p in found]


def elements(w):
    road = w.project.roads[list(w.project.roads)[1]]
    return {"elements": road.elements, "start": road.start + 1.0, "profiles": road.profiles}


def ring(w):
    x, y = w.rng.uniform(0, 60), w.rng.uniform(0, 60)
    return {
        "ring": [(x, y), (x + 50, y), (x + 50, y + 40), (x, y + 40)],
        "kind": "reserve",
        "name": None,
    }


def xy(w):
    f = w.facts.places[w.one(w.project.structures)]
    return [(f.x + 3.0, f.y + 3.0), (f.x + 25.0, f.y + 9.0), (f.x + 40.0, f.y + 30.0)]


def levels(w):
    keys = w.some(w.project.pipes)
    return {
        k: (w.project.pipes[k].invert_up + 0.05, w.project.pipes[k].invert_down + 0.02)
        for k in keys
    }


def groups_of(w):
    drawing = w.one(w.project.backgrounds.values())
    return {
        "background": drawing,
        "types": {g: w.one(w.project.types) for g in groups(drawing)},
        "on_roads": False,
    }


def cell(w):
    f = field(w)
    return FieldText(f["thing"], f["field"], f["text"], "here")


def with_own(w):
    own = [k for k, p in w.project.pipes.items() if p.limits]
    return {"things": own or w.some(w.project.pipes)}


def own_limit(w):
    thing = w.one([*w.project.pipes, *w.project.structures])
    rule = w.one(
        ("cover_min", "slope_min", "spacing")
        if thing in w.project.pipes
        else ("drop_min", "rim_on_surface")
    )
    return {"things": [thing], "rule": rule, "value": w.one((None, w.rng.uniform(0.01, 2.0)))}


def sizing(w):
    """What sizing finds for some of the sizes."""
    return {
        "made": sized(
            w.project, w.facts, HowToSize(sizes=frozenset(w.some(w.project.sizes)), chambers=False)
        )
    }


SPECIAL = {  # arguments that their types do not tell
    "areas.add_area": lambda w: {
        "kind": "verge",
        "ring": xy(w),
        "size": None,
        "along": None,
        "coefficient": None,
        "entry": None,
    },
    "areas.areas_of_layers": lambda w: {"kinds": {"a": "field"}},
    "areas.change_area": lambda w: {"values": None, "entry": w.rng.uniform(3, 9)},
    "areas.set_area_kinds": lambda w: {
        "kinds": [AreaKind(k.name, w.rng.uniform(0.1, 1)) for k in w.project.area_kinds]
    },
    "areas.set_area_texts": lambda w: {
        "texts": [(w.one(w.project.areas), "size", f"{w.rng.uniform(50, 900):.1f}")]
    },
    "rain.set_rain": lambda w: {"rain": w.one((None, Rain(climate=1.3)))},
    "rain.change_rain": lambda w: {"values": None, "years": w.rng.uniform(10, 100)},
    "sizing.sized": lambda w: {
        "how": HowToSize(levels=w.one(SIZED_LEVELS)),
        "tell": lambda share, words: None,
    },
    "sizing.taken": sizing,
    "basis.requoted": lambda w: {
        "made": replace(w.project, settings=replace(w.project.settings, invert_basis="walls"))
    },
    "change.set_cover": lambda w: {"at": (0.02, -0.01)},
    "digging.set_amount": lambda w: {"amount": "stripped", "value": w.rng.uniform(0.05, 0.3)},
    "digging.set_bands": lambda w: {"bands": [0.0, w.rng.uniform(0.5, 1.5), 2.0]},
    "digging.set_strata": lambda w: {
        "strata": [Stratum(name="topsoil", thickness=w.rng.uniform(0.1, 0.4)), Stratum(name="clay")]
    },
    "digging.set_upper": lambda w: {"upper": "lower"},
    "digging.counted_as": lambda w: {
        "upper": None,
        "statuses": ["proposed", "existing"],
        "networks": None,
    },
    "digging.set_statuses_dug": lambda w: {"statuses": ["proposed", "existing"]},
    "digging.set_rate": lambda w: {"item": "Excavation", "unit": "m³"},
    "trenchtypes.set_trench_value": lambda w: {
        "key": w.one(("spacing", "working_space", "base_thickness"))
    },
    "trenchtypes.set_trench_upper": lambda w: {"upper": "lower"},
    "trenchtypes.set_size_value": lambda w: {
        "row": 0,
        "key": w.one(("width", "batter")),
        "value": w.rng.uniform(0.3, 2),
    },
    "trenchtypes.set_size_range": lambda w: {"row": 0, "dn": w.one((225.0, 450.0)), "ground": ""},
    "trenchtypes.add_size": lambda w: {"dn": w.one((225.0, 450.0)), "ground": ""},
    "trenchtypes.remove_size": lambda w: {"trench": spare(w), "row": w.one((0, 1))},
    "trenchtypes.remove_trench_type": lambda w: {"trench": spare(w)},
    "fields.set_field": field,
    "sheets.change_sheet": lambda w: {
        "title": f"sheet {w.rng.integers(9)}",
        "scale": w.rng.uniform(50, 900),
        "paper": "A3",
    },
    "sheets.set_delivery": lambda w: {"drawn": "AB", "small": w.rng.uniform(1.8, 3.5)},
    "fixes.fixes": lambda w: {"finding": w.one(check(w.project, w.facts))},
    "fixes.mended": lambda w: {
        "chosen": w.some(check(w.project, w.facts)),
        "tell": lambda share, words: None,
    },
    "decisions.decide": lambda w: {
        "findings": w.some(check(w.project, w.facts)),
        "reason": "agreed",
        "by": "AB",
    },
    "decisions.reopen": lambda w: {"keys": w.some(w.project.decisions)},
    "standards.set_limit": lambda w: {
        "limit": w.one(("cover_min", "spacing_max")),
        "value": w.rng.uniform(0.5, 5.0),
    },
    "standards.set_weight": lambda w: {"rule": w.one(("cover_min", "adverse_fall", "drop_min"))},
    "standards.set_crowns": lambda w: {"crowns": w.one(("crowns", "centres", "0.8", "off"))},
    "standards.set_own_limit": own_limit,
    "standards.as_standard": lambda w: {**with_own(w), "rule": "cover_min"},
    "fields.set_shared": shared,
    "fields.set_fields": lambda w: {"cells": [cell(w)]},
    "fromline.drawn": lambda w: {"xy": xy(w)},
    "fromplaces.from_places": groups_of,
    "ground.with_surface": lambda w: {"surface": w.one(w.project.surfaces), "name": "renamed"},
    "ground.set_profile": lambda w: on_road(w, index=1),
    "ground.show_layers": lambda w: {"off": frozenset({"a"})},
    "ground.read_again": lambda w: {
        "fresh": replace(w.one(w.project.backgrounds.values()), places=())
    },
    "gullies.pair": lambda w: {"sides": (-1, 1)},
    "gullies.spaced": lambda w: {"sides": (-1, 1)},
    "lay.lay_next": lambda w: {"before": None},
    "labels.set_pattern": lambda w: {"pattern": "N{n}"},
    "labels.set_label_fields": lambda w: {
        "structures": ["label", "rim"],
        "pipes": ["label", "slope"],
    },
    "labels.with_labels": lambda w: {
        "labels": {w.one(w.project.structures): f"Z{w.rng.integers(999)}"}
    },
    "land.add_land": ring,
    "land.add_service": lambda w: {
        "kind": "gas",
        "label": None,
        "points": [(*p, 41.0) for p in xy(w)],
    },
    "levelling.with_levels": lambda w: {"levels": levels(w)},
    "levels.slopes_kept": lambda w: {"made": w.project},
    "library.set_record": shelf,
    "library.changed_for_proposed": shelf,
    "library.copied_record": lambda w: dict(list(shelf(w).items())[:2]),
    "library.without_record": lambda w: dict(list(shelf(w).items())[:2]),
    "notes.attach": lambda w: {"name": "a.txt", "data": b"x", "path": None, "note": ""},
    "notes.change_pin": lambda w: {"values": None, "decimals": 2},
    "records.with_pipe": lambda w: {"values": None, "hold_up": True},
    "records.with_structure": lambda w: {"values": None, "outfall": True},
    "revision.revised": lambda w: dict(road=list(w.project.roads)[1], **elements(w)),
    "roads.new_road": lambda w: {
        "points": [Intersection(0, 0), Intersection(80, 10), Intersection(120, 60)]
    },
    "roads.set_points": lambda w: on_road(w, points=line(w)),
    "roads.without_point": lambda w: on_road(w, part=("pvi", 1)),
    "roads.add_profile": lambda w: on_road(w, pvis=pvis(w)),
    "roads.set_pvis": lambda w: on_road(w, index=0, pvis=pvis(w)),
    "roads.remove_profile": lambda w: on_road(w, index=1),
    "setup.add_road": elements,
    "setup.add_surface": lambda w: {
        "vertices": [(0, 0, 41), (300, 0, 41), (0, 300, 41)],
        "faces": [(0, 1, 2)],
        "role": "rock",
    },
    "runs.leave_out": lambda w: {"key": RunKey("road", w.one(w.project.roads))},
    "several.hold": lambda w: {"what": w.one(("up", "down", "slope"))},
    "grounditems.changed": lambda w: {
        "values": None,
        "item": GroundItem("road", w.one(w.project.roads)),
        "shown": False,
    },
    "grounditems.moved": lambda w: {
        "item": GroundItem("surface", w.one(w.project.surfaces)),
        "by": w.one((-1, 1)),
    },
    "grounditems.set_strength": lambda w: {"item": GroundItem("land", w.one(w.project.land))},
    "grounditems.set_view": lambda w: {"values": None, "shading": True},
    "typed.typed_levels": lambda w: {
        "text": w.one(("42.1", "+0.1", "s2%", "c1.2")),
        "ring": w.one(("up", "down", "mid")),
    },
}
NO_CHANGE = {  # edits that can change nothing here
    "levels.slopes_kept", "library.with_starter_set", "setup.network_named",
}  # fmt: skip


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
