"""Pits at chambers: outside plan size and working space all round, down to the underside of the
base, each once.
"""

from collections.abc import Sequence
from math import pi
from typing import NamedTuple

import numpy as np
from msgspec import Struct

from zumbert.analysis.cells import pit_outline
from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.digs import chamber_sides, is_dug, pit_sides, plan_area, trench_type
from zumbert.analysis.facts import Facts
from zumbert.analysis.groundkinds import KINDS
from zumbert.analysis.plots import NO_GROUND, Plot, World, pit_plots
from zumbert.analysis.volumes import Floor, Heights, banded, stacked_up, stratum
from zumbert.geometry.elements import Array
from zumbert.model.ids import StructureId
from zumbert.model.project import base_thickness
from zumbert.model.trench import Upper


class PitPlan(NamedTuple):
    """A pit in plan, and the chamber in it."""

    sides: tuple[float, float | None]  # m
    outline: Array  # (n, 2), m
    pit: Plot
    chamber: Plot


class PitFacts(Struct, frozen=True, kw_only=True, eq=False):
    """The pit of one structure, counted once. m³; None where its depth or its upper surface is
    not known.
    """

    structure: StructureFacts
    plan: PitPlan
    bottom: float | None  # m above datum
    excavation: float | None
    chamber: float = 0.0  # the chamber's own outside volume in it, base and all
    by_depth: dict[str, float] = {}
    by_stratum: dict[str, float] = {}
    area_by_kind: dict[str, float] = {}  # m² in plan
    support: float = 0.0  # m² of its sides
    misfit: str = ""  # why it has no volume

    @property
    def width(self) -> float:
        """Diameter, or length along the bearing of a rectangular chamber, m."""
        return self.plan.sides[0]

    @property
    def across(self) -> float | None:
        """Width of a rectangular pit, m."""
        return self.plan.sides[1]


def pit_plan(facts: Facts, world: World, keys: Sequence[StructureId]) -> list[PitPlan | None]:
    """The pits of structures in plan; None for one without a chamber or a place, or that is not
    dug.
    """
    project = facts.project
    out: dict[StructureId, PitPlan] = {}
    by_upper: dict[Upper, list[StructureId]] = {}
    for k in keys:
        s, place = project.structures[k], facts.places[k]
        if project.types[s.type].inside and place.x is not None and is_dug(project, s):
            by_upper.setdefault(trench_type(project, s).upper, []).append(k)
    for upper, mine in by_upper.items():
        sides = [
            (
                pit_sides(project, project.structures[k]),
                chamber_sides(project, project.structures[k]),
            )
            for k in mine
        ]
        outlines = [
            [_outline(facts, k, s[i]) for k, s in zip(mine, sides, strict=True)] for i in (0, 1)
        ]
        plots = pit_plots(world, upper, [*outlines[0], *outlines[1]])
        for i, k in enumerate(mine):
            out[k] = PitPlan(sides[i][0], outlines[0][i], plots[i], plots[i + len(mine)])
    return [out.get(k) for k in keys]


def _outline(facts: Facts, key: StructureId, sides: tuple[float, float | None]) -> Array:
    place = facts.places[key]
    return pit_outline(place.x or 0.0, place.y or 0.0, sides, place.bearing)


def pits_of(
    facts: Facts, structures: Sequence[StructureFacts], plans: Sequence[PitPlan | None]
) -> list[PitFacts | None]:
    """The pits of structures on their own ground, exact on the triangles of that; computed
    together.
    """
    project = facts.project
    out: list[PitFacts | None] = [None] * len(structures)
    known: list[tuple[int, StructureFacts, PitPlan, float]] = []
    for i, (f, plan) in enumerate(zip(structures, plans, strict=True)):
        if plan is None:
            continue
        bottom = (
            None if f.sump_level is None else f.sump_level - base_thickness(project, f.structure)
        )
        if bottom is None or not plan.pit.whole:
            words = "no pipe, so no depth" if bottom is None else NO_GROUND
            out[i] = PitFacts(structure=f, plan=plan, bottom=bottom, excavation=None, misfit=words)
        else:
            known.append((i, f, plan, bottom))
    if known:
        made = _measured(
            facts, [f for _, f, _, _ in known], [p for _, _, p, _ in known], [b for *_, b in known]
        )
        for (i, *_), pit in zip(known, made, strict=True):
            out[i] = pit
    return out


def _measured(
    facts: Facts, structures: list[StructureFacts], plans: list[PitPlan], bottoms: list[float]
) -> list[PitFacts]:
    how = facts.project.digging
    floors = [Floor(b) for b in bottoms]
    top, inner = (
        Heights([p.pit.upper for p in plans], floors),
        Heights([p.chamber.upper for p in plans], floors),
    )
    tall = np.array(
        [
            np.inf if f.place.rim is None else f.place.rim - b
            for f, b in zip(structures, bottoms, strict=True)
        ]
    )
    chamber = inner.over() - inner.above(tall)
    bands = np.stack([top.over(d) for d in how.bands], axis=1).tolist()
    kinds = top.areas(np.concatenate([p.pit.kind for p in plans]), len(KINDS)).tolist()
    names = [name for name, _, _ in plans[0].pit.strata]
    strata = np.stack(
        [stratum([p.pit for p in plans], floors, i) for i in range(len(names))], axis=1
    ).tolist()
    return [
        PitFacts(
            structure=structures[i],
            plan=plans[i],
            bottom=bottoms[i],
            excavation=dug,
            chamber=out,
            by_depth=banded(bands[i], how),
            by_stratum=stacked_up(names, strata[i]),
            support=_support(facts, structures[i], plans[i], dug),
            area_by_kind={KINDS[j]: v for j, v in enumerate(kinds[i]) if v > 1e-9},
        )
        for i, (dug, out) in enumerate(zip(top.over().tolist(), chamber.tolist(), strict=True))
    ]


def _support(facts: Facts, f: StructureFacts, plan: PitPlan, dug: float) -> float:
    """The area (m²) of a pit's sides, as high as the pit is deep on average, where that is over
    the limit of its trench type.
    """
    limits = [
        r.support_above
        for r in trench_type(facts.project, f.structure).sizes
        if r.support_above is not None
    ]
    deep = dug / plan_area(plan.sides)
    if not limits or deep <= min(limits):
        return 0.0
    wide, across = plan.sides
    return deep * (pi * wide if across is None else 2 * (wide + across))
