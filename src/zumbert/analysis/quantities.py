"""Quantities: rows by pipe and by structure, and totals that balance, each status by itself."""

from collections.abc import Callable, Iterable, Mapping

from msgspec import Struct

from zumbert.analysis.crosssection import section_volumes
from zumbert.analysis.facts import Facts
from zumbert.analysis.groundkinds import KINDS
from zumbert.analysis.trench import Trenches, trenches
from zumbert.analysis.union import Net, Overlap, union
from zumbert.model.digging import Digging
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.project import LengthBasis
from zumbert.model.structure import STATUSES

Parts = dict[str, float]


class DugRow(Struct, frozen=True, kw_only=True):
    """The excavation for one pipe or structure; volumes m³, None where the upper surface is not
    known.
    """

    label: str
    network: str
    status: str
    excavation: float | None
    by_depth: Parts
    by_stratum: Parts
    areas: Parts  # m² of the upper surface, by kind of ground, without what is another dig's
    support: float  # m²
    shared: float  # m³ of it that lie in the space of a deeper dig
    reinstatement: float  # m³ of the layers that come on top
    misfit: str  # why it has no volume


class PipeRow(DugRow, frozen=True, kw_only=True):
    """One pipe and its trench; lengths m."""

    id: PipeId
    up: str
    down: str
    dn: float
    length: float  # on the chosen basis
    trench_length: float  # from pit edge to pit edge
    bedding: float
    surround: float
    displacement: float
    backfill: float | None
    fill_first: float  # m
    fill: float  # m³
    length_by_depth: Parts
    by_sections: float | None  # m³, by average end areas

    @property
    def left_over(self) -> float:
        """The fill in the end, m³: the backfill without shared space and the layers
        on top.
        """
        return (self.backfill or 0.0) - self.shared - self.reinstatement


class StructureRow(DugRow, frozen=True, kw_only=True):
    """One structure and its pit; 0 m³ where it has no chamber."""

    id: StructureId
    type: str
    depth: float | None
    chamber: float | None  # m³ of the chamber's own outside volume

    @property
    def left_over(self) -> float:
        """The fill in the end, m³: round the chamber, without shared space and the
        layers on top.
        """
        return (self.excavation or 0.0) - (self.chamber or 0.0) - self.shared - self.reinstatement


class Total(Struct, frozen=True, kw_only=True):
    """Sums over pipes and pits of one status; rows without a volume are named, never taken as
    nothing.

    excavation_net = bedding + surround + pipes + chambers + reinstatement + backfill.
    """

    length: float
    trench_length: float
    trenches: float
    pits: float
    excavation: float  # trenches and pits
    shared: float  # of it in the space of another dig
    excavation_net: float
    by_sections: float | None  # trenches by average end areas; None: not asked for
    bedding: float
    surround: float
    pipes: float
    chambers: float
    reinstatement: float  # m³ of the layers that come on top
    backfill: float
    reused: float
    surplus: float  # m³, loose
    fill: float  # m³ that come first where pipes lie over the upper surface
    support: float  # m²
    areas: Parts  # m² of the net upper surface by kind of ground
    by_depth: Parts
    by_stratum: Parts
    length_by_depth: Parts
    by_dn: dict[float, tuple[float, float]]  # DN: length m, trench excavation m³
    not_counted: dict[str, str]  # label: why

    @property
    def displacement(self) -> float:
        """The volume of pipes and chambers, m³."""
        return self.pipes + self.chambers


class Quantities(Struct, frozen=True, kw_only=True):
    """All quantities on one length basis."""

    basis: LengthBasis
    spacing: float | None  # m between the sections of average end areas; None: that of each type
    to_centres: bool
    centres_add: (
        dict[str, float] | None
    )  # m³ that trenches to centres add to those to pit edges, by status; None: to the edges
    pipes: tuple[PipeRow, ...]
    structures: tuple[StructureRow, ...]
    totals: dict[str, Total]  # by status
    overlaps: tuple[Overlap, ...]


def quantities(
    dug: Trenches,
    basis: LengthBasis | None = None,
    net: Net | None = None,
    by_sections: Mapping[PipeId, float] | None = None,
    spacing: float | None = None,
) -> Quantities:
    """The quantities of a project from its trenches, on its own length basis or a chosen one. A
    union and section volumes that are known need not be computed again; without the latter none are
    told.
    """
    facts = dug.facts
    use = basis or facts.project.settings.length_basis
    how, once = facts.project.digging, net or union(dug)
    wanted = {*how.statuses, "existing"}
    pipes = tuple(_pipe_rows(facts, dug, use, once, by_sections))
    structures = tuple(_structure_rows(facts, dug, once))
    statuses = [
        s for s in STATUSES if s in wanted and any(r.status == s for r in (*pipes, *structures))
    ]
    totals: dict[str, Total] = {
        s: _total(how, pipes, structures, s, by_sections is not None) for s in statuses
    }
    to_centres = how.to_centres
    return Quantities(
        basis=use,
        spacing=spacing,
        to_centres=to_centres,
        centres_add=_centres_add(dug, totals) if to_centres else None,
        pipes=pipes,
        structures=structures,
        totals=totals,
        overlaps=once.overlaps,
    )


def full_quantities(
    dug: Trenches,
    basis: LengthBasis | None = None,
    spacing: float | None = None,
    tell: Callable[[float], None] = lambda share: None,
) -> Quantities:
    """The quantities with volumes by average end areas beside the exact ones: sections at a
    spacing (m; None: of each type).
    """
    net = union(dug, lambda share: tell(share / 2))
    return quantities(
        dug, basis, net, section_volumes(dug, spacing, lambda share: tell((1 + share) / 2)), spacing
    )


def _centres_add(dug: Trenches, totals: dict[str, Total]) -> dict[str, float]:
    """The volume that trenches to centres add to the gross volume of those that end at pits."""
    from msgspec.structs import replace

    from zumbert.analysis.facts import analyse

    project = dug.facts.project
    edges = replace(project, digging=replace(project.digging, to_centres=False))
    short = trenches(analyse(edges, dug.facts), dug)
    out = {}
    for status, total in totals.items():
        records = project.pipes
        ended = sum(
            t.excavation or 0.0
            for k, t in short.pipes.items()
            if records[PipeId(k)].status == status
        )
        out[status] = total.trenches - ended
    return out


def _pipe_rows(
    facts: Facts,
    dug: Trenches,
    basis: LengthBasis,
    net: Net,
    by_sections: Mapping[PipeId, float] | None,
) -> Iterable[PipeRow]:
    project = facts.project
    for key, pipe in project.pipes.items():
        f, t = facts.pipes[key], dug.pipes[key]
        areas = _areas(t.area_by_kind, net, key)
        yield PipeRow(
            id=key,
            label=pipe.label,
            up=project.structures[pipe.up].label,
            down=project.structures[pipe.down].label,
            network=project.networks[pipe.network].name,
            status=pipe.status,
            dn=f.dn,
            length=f.length(basis),
            trench_length=t.length,
            excavation=t.excavation,
            bedding=t.bedding,
            surround=t.surround,
            displacement=t.displacement,
            backfill=t.backfill,
            fill_first=t.fill_first,
            fill=t.fill,
            by_depth=t.by_depth,
            by_stratum=t.by_stratum,
            length_by_depth=t.length_by_depth,
            areas=areas,
            support=t.support,
            shared=net.lost.get(key, 0.0),
            reinstatement=_layers(project.digging, areas),
            misfit=t.misfit,
            by_sections=None
            if by_sections is None
            else by_sections.get(key, 0.0 if t.excavation == 0.0 else None),
        )


def _areas(of: Parts, net: Net, key: PipeId | StructureId) -> Parts:
    """Areas by kind of ground without those that are another dig's."""
    less = net.lost_area.get(key, {})
    return {kind: max(0.0, of[kind] - less.get(kind, 0.0)) for kind in of}


def _layers(how: Digging, areas: Parts) -> float:
    """The volume (m³) of the layers that come on top."""
    return float(sum(a * getattr(how, kind) for kind, a in areas.items()))


def _structure_rows(facts: Facts, dug: Trenches, net: Net) -> Iterable[StructureRow]:
    for key, s in facts.project.structures.items():
        pit = dug.pits.get(key)
        areas = {} if pit is None else _areas(pit.area_by_kind, net, key)
        yield StructureRow(
            id=key,
            label=s.label,
            type=s.type,
            network=facts.project.networks[s.network].name,
            status=s.status,
            depth=facts.structures[key].depth,
            excavation=0.0 if pit is None else pit.excavation,
            chamber=0.0 if pit is None else None if pit.excavation is None else pit.chamber,
            by_depth={} if pit is None else pit.by_depth,
            by_stratum={} if pit is None else pit.by_stratum,
            areas=areas,
            support=0.0 if pit is None else pit.support,
            shared=net.lost.get(key, 0.0),
            reinstatement=_layers(facts.project.digging, areas),
            misfit="" if pit is None else pit.misfit,
        )


def added(parts: Iterable[Parts], names: Iterable[str] = ()) -> Parts:
    """The sums of parts by name, in the order of the names where they are given."""
    out: Parts = {}
    for one in parts:
        for name, value in one.items():
            out[name] = out.get(name, 0.0) + value
    order = {n: i for i, n in enumerate(names)}
    return dict(sorted(out.items(), key=lambda item: order.get(item[0], len(order))))


def _total(
    how: Digging,
    pipes: Iterable[PipeRow],
    structures: Iterable[StructureRow],
    status: str,
    sections: bool,
) -> Total:
    laid = [r for r in pipes if r.status == status]
    built = [r for r in structures if r.status == status]
    by_dn: dict[float, tuple[float, float]] = {}
    for r in sorted(laid, key=lambda r: r.dn):
        long, dug = by_dn.get(r.dn, (0.0, 0.0))
        by_dn[r.dn] = long + r.length, dug + (r.excavation or 0.0)
    counted = [r for r in laid if r.excavation is not None]
    trench, pits = sum(r.excavation or 0.0 for r in laid), sum(r.excavation or 0.0 for r in built)
    every: list[DugRow] = [*laid, *built]
    shared, layers = sum(r.shared for r in every), sum(r.reinstatement for r in every)
    once = trench + pits - shared
    bedding, surround = sum(r.bedding for r in counted), sum(r.surround for r in counted)
    pipe, chambers = sum(r.displacement for r in counted), sum(r.chamber or 0.0 for r in built)
    back = once - bedding - surround - pipe - chambers - layers
    reused = back * how.reuse
    return Total(
        length=sum(r.length for r in laid),
        trench_length=sum(r.trench_length for r in laid),
        trenches=trench,
        pits=pits,
        excavation=trench + pits,
        shared=shared,
        excavation_net=once,
        by_sections=sum(r.by_sections or 0.0 for r in laid) if sections else None,
        bedding=bedding,
        surround=surround,
        pipes=pipe,
        chambers=chambers,
        reinstatement=layers,
        backfill=back,
        reused=reused,
        surplus=(once - reused) * how.bulking,
        fill=sum(r.fill for r in laid),
        support=sum(r.support for r in every),
        areas=added((r.areas for r in every), KINDS),
        by_depth=added((r.by_depth for r in every), how.band_names),
        by_stratum=added(r.by_stratum for r in every),
        length_by_depth=added((r.length_by_depth for r in laid), how.band_names),
        by_dn=by_dn,
        not_counted={r.label: r.misfit for r in every if r.excavation is None},
    )
