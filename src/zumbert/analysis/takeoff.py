"""The takeoff: what is to be bought, laid, built and dug, item by item, each with the objects
that are in it.
"""

from collections.abc import Callable, Iterable, Mapping
from typing import Literal, NamedTuple, get_args

import numpy as np

from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.quantities import PipeRow, Quantities, StructureRow, added
from zumbert.analysis.runlist import is_lead, run_keys
from zumbert.analysis.runs import run
from zumbert.analysis.volumes import Depths
from zumbert.geometry.line import Line, between_all
from zumbert.model.digging import Rate
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import Bore, Pipe
from zumbert.model.project import LENGTH_BASES, LengthBasis
from zumbert.model.structure import Anchored, Structure

Grouping = Literal["network", "run", "road", "status", "description"]
GROUPINGS: tuple[Grouping, ...] = get_args(Grouping)
Depth = Literal["invert", "sump"]
Family = Literal[
    "pipes", "leads", "structures", "gullies", "headwalls", "joints", "bends", "digging"
]
ANGLES = (
    5.0,
    15.0,
    30.0,
    45.0,
    60.0,
    90.0,
    180.0,
)  # degrees: bends are counted up to and including these
SHARED = "Shared space, counted once"
BY_NET = (
    SHARED,
    "Backfill",
    "Surplus",
    "Reinstatement",
)  # how items begin that go by the union of trenches and pits
NO_DEPTH = "no depth"  # the band of what has no ground over it


class Item(NamedTuple):
    """One line of the takeoff."""

    group: str
    status: str
    family: Family
    name: str
    unit: str  # m, m², m³, or none for pieces
    quantity: float
    by_band: dict[str, float]  # the same by depth band; none where it has no depth
    lengths: tuple[float, ...]  # of pipes: on all four bases, in their order
    pipes: tuple[PipeId, ...] = ()
    structures: tuple[StructureId, ...] = ()

    @property
    def key(self) -> tuple[str, str, str, str]:
        """Its key among all items."""
        return self.group, self.status, self.name, self.unit


def takeoff(
    facts: Facts, q: Quantities, by: Grouping = "network", to: Depth = "invert"
) -> tuple[Item, ...]:
    """All items, grouped; structures by their depth to the lowest invert or to the sump, pipes
    by their depth to invert.
    """
    group = _groups(facts, by)
    items = [*_pipes(facts, q.basis, group), *_structures(facts, to, group), *_dug(facts, q, group)]
    order = {g: i for i, g in enumerate(dict.fromkeys(i.group for i in items))}
    families: tuple[Family, ...] = get_args(Family)
    merged = _merged(items)
    return tuple(
        sorted(
            merged, key=lambda i: (order[i.group], i.status != "proposed", families.index(i.family))
        )
    )


def _merged(items: Iterable[Item]) -> list[Item]:
    """Items of one key as one."""
    found: dict[tuple[str, str, str, str], list[Item]] = {}
    for i in items:
        found.setdefault(i.key, []).append(i)
    return [
        same[0]._replace(
            quantity=sum(i.quantity for i in same),
            by_band=added(i.by_band for i in same),
            lengths=tuple(map(sum, zip(*(i.lengths for i in same), strict=True))),
            pipes=tuple(k for i in same for k in i.pipes),
            structures=tuple(k for i in same for k in i.structures),
        )
        for same in found.values()
    ]


Group = Callable[[Pipe | Structure], str]


def _groups(facts: Facts, by: Grouping) -> Group:
    """The group of each pipe and structure."""
    project = facts.project
    if by == "network":
        return lambda r: project.networks[r.network].name
    if by == "status":
        return lambda r: r.status.capitalize()
    if by == "description":
        return lambda r: ""
    if by == "road":
        return lambda r: _road(facts, r)
    runs: dict[str, str] = {}
    for key in run_keys(project, facts):
        found = run(facts, key) if key.kind != "road" else None
        for k in (
            ()
            if found is None
            else (*(r.pipe for r in found.reaches), *(k for k, _ in found.structures))
        ):
            runs.setdefault(k, found.name if found is not None else "")
    return lambda r: runs.get(r.id) or _run_below(facts, r, runs)


def _run_below(facts: Facts, record: Pipe | Structure, runs: Mapping[str, str]) -> str:
    """The run that the water of a lead or gully goes on in; what reaches none is in no run."""
    at, seen = (record.down if isinstance(record, Pipe) else record.id), set[StructureId]()
    while at not in runs and at not in seen and facts.links.outlets.get(at):
        seen.add(at)
        at = facts.project.pipes[facts.links.outlets[at][0]].down
    return runs.get(at, "in no run")


def _road(facts: Facts, record: Pipe | Structure) -> str:
    s = record if isinstance(record, Structure) else facts.project.structures[record.up]
    road = s.place.road if isinstance(s.place, Anchored) else facts.places[s.id].road
    return facts.project.roads[road].name if road is not None else "beside no road"


# -- pipes -----------------------------------------------------------------------------------------


def _pipes(facts: Facts, basis: LengthBasis, group: Group) -> Iterable[Item]:
    project, depths = facts.project, lengths_by_depth(facts, basis)
    for key, pipe in project.pipes.items():
        f = facts.pipes[key]
        lead = is_lead(project, facts.links, key)
        yield Item(
            group=group(pipe),
            status=pipe.status,
            family="leads" if lead else "pipes",
            name=f"{'Lead' if lead else 'Pipe'} {description(facts, f)}",
            unit="m",
            quantity=f.length(basis),
            by_band=depths[key],
            lengths=tuple(f.length(b) for b in LENGTH_BASES),
            pipes=(key,),
        )


def description(facts: Facts, f: PipeFacts) -> str:
    """The size of a pipe in words, with material and class."""
    size = f.pipe.size
    if isinstance(size, Bore):
        return facts.units.dn(f.dn)
    record = facts.project.sizes[size]
    return " ".join(w for w in (facts.units.dn(record.dn), record.material, record.grade) if w)


def lengths_by_depth(facts: Facts, basis: LengthBasis) -> dict[PipeId, dict[str, float]]:
    """The length of each pipe on a basis (m) by its depth to invert under existing ground;
    computed together.
    """
    how, out = facts.project.digging, dict[PipeId, dict[str, float]]()
    walls = basis.startswith("wall")
    mine: list[PipeFacts] = []
    for key, f in facts.pipes.items():
        out[key] = {NO_DEPTH: whole} if (whole := f.length(basis)) else {}
        if f.span.ground is not None and (f.span.wall if walls else f.span.length) > 1e-9:
            mine.append(f)
    if not mine:
        return out
    grounds = [f.span.ground for f in mine if f.span.ground is not None]
    offsets = np.concatenate([[0], np.cumsum([len(g.s) for g in grounds])])
    a, b = (
        np.array([f.span.reach_up if walls else 0.0 for f in mine]),
        np.array([f.span.length - (f.span.reach_down if walls else 0.0) for f in mine]),
    )
    parts = between_all(
        offsets,
        np.concatenate([g.s for g in grounds]),
        np.concatenate([g.z for g in grounds]),
        a,
        b,
    )
    known = [(f, p) for f, p in zip(mine, parts, strict=True) if p.solid]
    if not known:
        return out
    slopes = [
        (f.pipe.invert_up + (f.slope or 0.0) * f.quoted_from, f.slope or 0.0) for f, _ in known
    ]
    depths = Depths(
        [Line(p.s, p.z - (z - fall * p.s)) for (_, p), (z, fall) in zip(known, slopes, strict=True)]
    )
    below = np.stack([*(depths.below(v) for v in how.bands[1:]), depths.length], axis=1)
    parts_of = np.diff(below, axis=1, prepend=0.0) / depths.length[:, None]
    for (f, _), shares in zip(known, parts_of.tolist(), strict=True):
        whole = f.length(basis)
        out[f.pipe.id] = {
            how.band_name(i): v * whole for i, v in enumerate(shares) if v * whole > 1e-9
        }
    return out


# -- structures ------------------------------------------------------------------------------------


_FAMILY: Mapping[str, Family] = {"gully": "gullies", "headwall": "headwalls", "joint": "joints"}


def _structures(facts: Facts, to: Depth, group: Group) -> Iterable[Item]:
    for key, s in facts.project.structures.items():
        f, kind = facts.structures[key], facts.project.types[s.type]
        family = _FAMILY.get(kind.kind, "structures")
        yield Item(
            group(s),
            s.status,
            family,
            kind.name,
            "",
            1.0,
            {_band(facts, f, to): 1.0},
            (),
            (),
            (key,),
        )
        if kind.kind == "joint" and len(f.drops) == 1 and f.drops[0].deflection > 1.0:
            turn = f.drops[0].deflection
            i = next(i for i, a in enumerate(ANGLES) if turn <= a + 1e-9)
            low = ANGLES[i - 1] if i else 1.0
            yield Item(
                group(s),
                s.status,
                "bends",
                f"Bend {low:g} to {ANGLES[i]:g}°",
                "",
                1.0,
                {},
                (),
                (),
                (key,),
            )


def _band(facts: Facts, f: StructureFacts, to: Depth) -> str:
    how, rim = facts.project.digging, f.place.rim
    level = f.lowest if to == "invert" else f.sump_level
    if rim is None or level is None:
        return NO_DEPTH
    return how.band_name(max(i for i, d in enumerate(how.bands) if i == 0 or rim - level >= d))


# -- digging ---------------------------------------------------------------------------------------


def _dug(facts: Facts, q: Quantities, group: Group) -> Iterable[Item]:
    """Volumes and areas of trenches and pits: dug as each stands, with what they share as an
    item that is taken off again.
    """
    how, project = facts.project.digging, facts.project
    rows: list[PipeRow | StructureRow] = [*q.pipes, *q.structures]
    for r in rows:
        if not r.excavation:
            continue
        record: Pipe | Structure = (
            project.pipes[r.id] if isinstance(r, PipeRow) else project.structures[r.id]
        )
        pipes = (r.id,) if isinstance(r, PipeRow) else ()
        structures = (r.id,) if isinstance(r, StructureRow) else ()
        values: list[tuple[str, str, float, dict[str, float]]] = [
            ("Excavation", "m³", r.excavation, r.by_depth)
        ]
        values += [(f"Excavation in {name}", "m³", v, {}) for name, v in r.by_stratum.items()]
        values.append((SHARED, "m³", -r.shared, {}))
        if isinstance(r, PipeRow):
            values += [
                ("Bedding", "m³", r.bedding, {}),
                ("Surround", "m³", r.surround, {}),
                ("Fill first", "m³", r.fill, {}),
            ]
        back = r.left_over
        values += [
            ("Backfill", "m³", back, {}),
            (
                "Surplus, loose",
                "m³",
                (r.excavation - r.shared - back * how.reuse) * how.bulking,
                {},
            ),
            ("Side support", "m²", r.support, {}),
        ]
        values += [(f"Reinstatement, {kind}", "m²", a, {}) for kind, a in r.areas.items()]
        for name, unit, value, bands in values:
            if abs(value) > 1e-9:
                yield Item(
                    group(record),
                    r.status,
                    "digging",
                    name,
                    unit,
                    value,
                    bands,
                    (),
                    pipes,
                    structures,
                )


# -- money -----------------------------------------------------------------------------------------


class Priced(NamedTuple):
    """An item with its rate."""

    item: Item
    rate: float | None  # money a unit; None: it has none

    @property
    def sum(self) -> float | None:
        """Its cost."""
        return None if self.rate is None else self.rate * self.item.quantity


def priced(items: Iterable[Item], rates: Iterable[Rate]) -> tuple[Priced, ...]:
    """The items with the rates that are given for their names and units."""
    known = {(r.item, r.unit): r.rate for r in rates}
    return tuple(Priced(i, known.get((i.name, i.unit))) for i in items)
