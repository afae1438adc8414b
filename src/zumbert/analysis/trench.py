"""Trenches: their volumes on the real ground, exact on its triangles, and what of them goes
back.
"""

from collections.abc import Callable, Collection
from math import pi
from typing import Any

import numpy as np
from msgspec import Struct

from zumbert.analysis.digs import Dig, bottom_line, depth_line, is_dug, trench_type
from zumbert.analysis.facts import Facts
from zumbert.analysis.groundkinds import KINDS
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.pits import PitFacts, pit_plan, pits_of
from zumbert.analysis.plots import NO_GROUND, Plot, World, trench_plots
from zumbert.analysis.stages import Derived, Read, Stage, derive, joined
from zumbert.analysis.strata import layers
from zumbert.analysis.uppers import dig_for, support, upper_line
from zumbert.analysis.volumes import Depths, Floor, Heights, banded, lengths, stacked_up, stratum
from zumbert.geometry.line import Line
from zumbert.model.digging import Digging
from zumbert.model.ids import PipeId, StructureId

Tell = Callable[[float], None]
PART = 250  # trenches that are worked out together


class TrenchFacts(Struct, frozen=True, kw_only=True, eq=False, dict=True):
    """The trench of one pipe, from pit edge to pit edge. Volumes in m³; None where the upper
    surface is not known.
    """

    pipe: PipeFacts
    dig: Dig | None  # None: it is not dug, or its type has no row for its size
    plot: Plot | None
    excavation: float | None
    bedding: float = 0.0  # of it in the excavation
    surround: float = 0.0  # beside and over the pipe, without the pipe
    displacement: float = 0.0  # the pipe's own outside volume in the excavation
    fill_first: float = (
        0.0  # m of trench over which the upper surface lies under the crown of the pipe
    )
    fill: float = (
        0.0  # m³ that come first there: up to the crown, as wide as the trench at its bottom
    )
    by_depth: dict[str, float] = {}  # m³ that lie so deep under the upper surface
    by_stratum: dict[str, float] = {}
    length_by_depth: dict[str, float] = {}  # m of trench that are so deep
    area_by_kind: dict[
        str, float
    ] = {}  # m² of the upper surface that is dug away, by kind of ground
    support: float = 0.0  # m² of both sides, where they are to be supported
    depth_max: float | None = None  # m, upper surface to trench bottom
    misfit: str = ""  # why it has no volume

    @property
    def begin(self) -> float:
        """Where it begins, m from the upstream reference point."""
        return 0.0 if self.dig is None else self.dig.begin

    @property
    def end(self) -> float:
        """Where it ends, m."""
        return 0.0 if self.dig is None else self.dig.end

    @property
    def length(self) -> float:
        """Length of the trench, m."""
        return self.end - self.begin

    @property
    def backfill(self) -> float | None:
        """The backfill over bedding, surround and pipe, m³."""
        return (
            None
            if self.excavation is None
            else self.excavation - self.bedding - self.surround - self.displacement
        )

    def bottom(self, s: float) -> float:
        """Trench bottom at a distance, m above datum."""
        z, slope = bottom_line(self.pipe, 0.0 if self.dig is None else self.dig.size.bedding)
        return z - slope * s


class Trenches(Struct, frozen=True, kw_only=True, eq=False):
    """Trenches and pits of a project; a structure without a chamber, or that is not dug, has no
    pit.
    """

    facts: Facts
    made: Derived
    world: World
    pipes: dict[str, TrenchFacts]
    pits: dict[str, PitFacts]


def trenches(
    facts: Facts, previous: Trenches | None = None, tell: Tell = lambda share: None
) -> Trenches:
    """All trenches and pits; those of unchanged facts are kept. A trench goes by its pipe and by
    the pits at both its ends.

    `tell` is told how far it is, 0 to 1, and may end it by raising.
    """
    made = derive(
        _stages(facts, tell), facts.project, None if previous is None else previous.made, facts.made
    )
    return Trenches(
        facts=facts, made=made, world=made["world"], pipes=made["trenches"], pits=made["pits"]
    )


def _stages(facts: Facts, tell: Tell) -> tuple[Stage, ...]:
    project = facts.project

    def world(now: Derived, old: World | None) -> World:
        how = project.digging
        if old is not None and old.of == (facts.surfaces, facts.roads, how.strata, how.stripped):
            return old
        of = (facts.surfaces, facts.roads, how.strata, how.stripped)
        return World(facts.surfaces, facts.roads, layers(project, facts.surfaces), how.stripped, of)

    def digs(now: Derived, keys: list[PipeId]) -> list[Dig | None]:
        return [dig_for(facts, facts.pipes[k], now["world"]) for k in keys]

    def plots(now: Derived, keys: list[PipeId]) -> list[Plot | None]:
        mine = [k for k in keys if k in now["digs"]]
        made = dict(
            zip(mine, trench_plots(now["world"], [now["digs"][k] for k in mine]), strict=True)
        )
        return [made.get(k) for k in keys]

    def dug(now: Derived, keys: list[PipeId]) -> list[TrenchFacts]:
        return _trenches(facts, keys, now["digs"], now["plots"])

    def plans(now: Derived, keys: list[StructureId]) -> list[Any]:
        return pit_plan(facts, now["world"], keys)

    def pits(now: Derived, keys: list[StructureId]) -> list[PitFacts | None]:
        return pits_of(
            facts, [facts.structures[k] for k in keys], [now["pit_plans"].get(k) for k in keys]
        )

    records = ("project.types", "project.trench_types", "project.networks", "world", _counted)
    return (
        Stage(
            name="world",
            reads=(Read("surfaces"), Read("roads"), Read("project.digging")),
            make=world,
        ),
        Stage(
            name="digs",
            each="pipes",
            reads=(Read("pipes"), Read("project.structures", via=joined)),
            world=records,
            make=digs,
            equal=lambda a, b: bool(a == b),
        ),
        Stage(
            name="plots",
            each="pipes",
            reads=(Read("digs"),),
            world=("world",),
            make=in_parts(plots, tell, 0.0, 0.5),
        ),
        Stage(
            name="trenches",
            each="pipes",
            reads=(Read("pipes"), Read("digs"), Read("plots")),
            world=(*records, _bands),
            make=in_parts(dug, tell, 0.5, 0.7),
        ),
        Stage(
            name="pit_plans",
            each="structures",
            reads=(Read("project.structures"), Read("places")),
            world=records,
            make=in_parts(plans, tell, 0.7, 0.9),
        ),
        Stage(
            name="pits",
            each="structures",
            reads=(Read("structures"), Read("pit_plans")),
            world=(*records, _bands),
            make=in_parts(pits, tell, 0.9, 1.0),
        ),
    )


Make = Callable[[Derived, list[Any]], list[Any]]


def in_parts(make: Make, tell: Tell, begin: float, end: float) -> Make:
    """The same, some keys at a time: arrays that stay in the processor's memory are worked through
    the faster. Between the parts it tells how far it is.
    """

    def parts(now: Derived, keys: list[Any]) -> list[Any]:
        out: list[Any] = []
        for i in range(0, len(keys), PART):
            tell(begin + (end - begin) * i / len(keys))
            out += make(now, keys[i : i + PART])
        return out

    return parts


def _counted(now: Derived) -> object:
    how: Digging = now.project.digging
    return how.to_centres, how.statuses, how.left_out


def _bands(now: Derived) -> object:
    return now.project.digging.bands


def _trenches(
    facts: Facts, keys: list[PipeId], digs: dict[PipeId, Dig], plots: dict[PipeId, Plot]
) -> list[TrenchFacts]:
    """The trenches of pipes, computed together. Where two pits meet there is none: its length is
    0.
    """
    out, depths = dict[PipeId, TrenchFacts](), dict[PipeId, Line]()
    for k in keys:
        f, dig = facts.pipes[k], digs.get(k)
        plot = plots.get(k)
        if dig is None or plot is None:
            out[k] = _not_dug(facts, f)
        elif f.span.up.x is None or f.span.down.x is None:
            out[k] = TrenchFacts(
                pipe=f, dig=dig, plot=plot, excavation=None, misfit="an end stands beyond its road"
            )
        elif dig.length <= 1e-9:
            out[k] = TrenchFacts(pipe=f, dig=dig, plot=plot, excavation=0.0)
        else:
            stripped, bedding = facts.project.digging.stripped, dig.size.bedding
            line = depth_line(
                f,
                upper_line(f.span, facts.surfaces, dig.upper, stripped),
                dig.begin,
                dig.end,
                bedding,
            )
            if line is None or not plot.whole:
                out[k] = TrenchFacts(
                    pipe=f,
                    dig=dig,
                    plot=plot,
                    excavation=None,
                    bedding=bedding * dig.width * dig.length,
                    displacement=pi * dig.outside**2 / 4 * dig.length,
                    misfit=NO_GROUND,
                )
            else:
                depths[k] = line
    if depths:
        mine = list(depths)
        made = _measured(
            facts,
            [facts.pipes[k] for k in mine],
            [digs[k] for k in mine],
            [plots[k] for k in mine],
            depths.values(),
        )
        out.update(zip(mine, made, strict=True))
    return [out[k] for k in keys]


def _not_dug(facts: Facts, f: PipeFacts) -> TrenchFacts:
    if not is_dug(facts.project, f.pipe):
        return TrenchFacts(pipe=f, dig=None, plot=None, excavation=0.0)
    words = f"{trench_type(facts.project, f.pipe).name} has no trench for {facts.units.dn(f.dn)}"
    return TrenchFacts(pipe=f, dig=None, plot=None, excavation=None, misfit=words)


def _measured(
    facts: Facts,
    pipes: list[PipeFacts],
    digs: list[Dig],
    plots: list[Plot],
    lines: Collection[Line],
) -> list[TrenchFacts]:
    """The volumes of trenches whose ground is known."""
    how, n = facts.project.digging, len(digs)
    floors = [Floor(*bottom_line(f, d.size.bedding)) for f, d in zip(pipes, digs, strict=True)]
    top, depth = Heights([p.upper for p in plots], floors), Depths(list(lines))
    bed, outside, cover = np.array([(d.size.bedding, d.outside, d.top_of_surround) for d in digs]).T
    bedding, pipe = top.up_to(bed), depth.pipes(bed, outside / 2)
    around = np.where(
        [d.size.surround is not None for d in digs],
        np.maximum(0.0, top.up_to(cover) - bedding - pipe),
        0.0,
    )
    bands = np.stack([top.over(d) for d in how.bands], axis=1).tolist()
    below = np.stack([*(depth.below(d) for d in how.bands[1:]), depth.length], axis=1).tolist()
    kinds = top.areas(np.concatenate([p.kind for p in plots]), len(KINDS)).tolist()
    names = [name for name, _, _ in plots[0].strata]
    strata = np.stack([stratum(plots, floors, i) for i in range(len(names))], axis=1).tolist()
    rows = zip(
        top.over().tolist(),
        bedding.tolist(),
        around.tolist(),
        pipe.tolist(),
        depth.below(bed + outside).tolist(),
        top.lacking(bed + outside).tolist(),
        strict=True,
    )
    deepest = [float(line.z.max()) for line in lines]
    return [
        TrenchFacts(
            pipe=pipes[i],
            dig=digs[i],
            plot=plots[i],
            excavation=dug,
            bedding=b,
            surround=a,
            displacement=p,
            fill_first=short,
            fill=fill,
            by_depth=banded(bands[i], how),
            by_stratum=stacked_up(names, strata[i]),
            length_by_depth=lengths(below[i], how),
            support=support(facts, pipes[i], digs[i]),
            depth_max=deepest[i],
            area_by_kind={KINDS[j]: v for j, v in enumerate(kinds[i]) if v > 1e-9},
        )
        for i, (dug, b, a, p, short, fill) in zip(range(n), rows, strict=True)
    ]
