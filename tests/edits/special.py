"""Arguments of edits that their types do not tell."""

from msgspec.structs import replace

from zumbert.analysis.runline import RunKey
from zumbert.checks import check
from zumbert.edits.fields import FieldText
from zumbert.edits.fromplaces import groups
from zumbert.edits.grounditems import GroundItem
from zumbert.edits.sizing import SIZED_LEVELS, HowToSize, sized
from zumbert.fields import STRUCTURE_FIELDS, fields_of
from zumbert.geometry.intersections import Intersection
from zumbert.model.area import AreaKind
from zumbert.model.digging import Stratum
from zumbert.model.rain import Rain

SPARE = "a trench that nothing takes"


def spare(w):
    """The trench type that nothing takes."""
    return next(
        (k for k, t in w.project.trench_types.items() if t.name.startswith(SPARE)),
        w.one(w.project.trench_types),
    )


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
