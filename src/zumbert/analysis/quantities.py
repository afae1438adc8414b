"""Quantities: rows by pipe and by structure, totals by size, each split by status."""

from collections.abc import Iterable

from msgspec import Struct

from zumbert.analysis.facts import Facts
from zumbert.analysis.trench import Trenches
from zumbert.model.project import LengthBasis


class PipeRow(Struct, frozen=True, kw_only=True):
    """One pipe; lengths m, volumes m³, None where the upper surface is not known all along."""

    label: str
    up: str
    down: str
    network: str
    status: str
    dn: float
    length: float  # on the chosen basis
    trench_length: float  # from pit edge to pit edge
    excavation: float | None
    bedding: float
    displacement: float
    backfill: float | None
    fill_first: float  # m
    fill: float  # m³
    by_depth: dict[str, float]


class StructureRow(Struct, frozen=True, kw_only=True):
    """One structure; volume m³ of its pit, 0 where it has no chamber."""

    label: str
    type: str
    network: str
    status: str
    depth: float | None
    excavation: float | None
    chamber: float | None  # m³ of the chamber's own outside volume


class Total(Struct, frozen=True, kw_only=True):
    """Sums over pipes and pits of one status; rows without a volume are named, never taken as nothing."""

    length: float
    trenches: float
    pits: float
    excavation: float
    bedding: float
    displacement: float
    backfill: float  # excavation less bedding and displacement: the table adds up
    fill: float  # m³ that come first where pipes lie over the upper surface
    by_dn: dict[float, tuple[float, float]]  # DN: length m, trench excavation m³
    not_counted: tuple[str, ...]


class Quantities(Struct, frozen=True, kw_only=True):
    """All quantities on one length basis."""

    basis: LengthBasis
    pipes: tuple[PipeRow, ...]
    structures: tuple[StructureRow, ...]
    totals: dict[str, Total]  # by status


def quantities(trenches: Trenches, basis: LengthBasis | None = None) -> Quantities:
    """The quantities of a project from its trenches, on its own length basis or a chosen one."""
    facts = trenches.facts
    use = basis or facts.project.settings.length_basis
    pipes = tuple(_pipe_rows(facts, trenches, use))
    structures = tuple(_structure_rows(facts, trenches))
    found = {r.status for r in pipes} | {r.status for r in structures}
    statuses = sorted(found - {"abandoned"}, reverse=True)
    totals = {s: _total([r for r in pipes if r.status == s], [r for r in structures if r.status == s]) for s in statuses}
    return Quantities(basis=use, pipes=pipes, structures=structures, totals=totals)


def _pipe_rows(facts: Facts, trenches: Trenches, basis: LengthBasis) -> Iterable[PipeRow]:
    project = facts.project
    for key, pipe in project.pipes.items():
        f, t = facts.pipes[key], trenches.pipes[key]
        back = None if t.excavation is None else t.excavation - t.bedding - t.displacement
        yield PipeRow(
            label=pipe.label, up=project.structures[pipe.up].label, down=project.structures[pipe.down].label,
            network=project.networks[pipe.network].name, status=pipe.status, dn=f.dn, length=f.length(basis),
            trench_length=t.length, excavation=t.excavation, bedding=t.bedding, displacement=t.displacement,
            backfill=back, fill_first=t.fill_first, fill=t.fill, by_depth=t.by_depth,
        )  # fmt: skip


def _structure_rows(facts: Facts, trenches: Trenches) -> Iterable[StructureRow]:
    for key, s in facts.project.structures.items():
        f, pit = facts.structures[key], trenches.pits.get(key)
        kind = facts.project.types[s.type]
        outside = 3.141592653589793 * kind.outside**2 / 4
        deep = None if pit is None or pit.bottom is None or f.place.rim is None else f.place.rim - pit.bottom
        yield StructureRow(
            label=s.label, type=s.type, network=facts.project.networks[s.network].name, status=s.status,
            depth=f.depth, excavation=0.0 if pit is None else pit.excavation,
            chamber=0.0 if pit is None else None if deep is None else outside * deep,
        )  # fmt: skip


def _total(pipes: list[PipeRow], structures: list[StructureRow]) -> Total:
    by_dn: dict[float, tuple[float, float]] = {}
    for r in sorted(pipes, key=lambda r: r.dn):
        long, dug = by_dn.get(r.dn, (0.0, 0.0))
        by_dn[r.dn] = long + r.length, dug + (r.excavation or 0.0)
    trench, pits = sum(r.excavation or 0.0 for r in pipes), sum(r.excavation or 0.0 for r in structures)
    counted = [r for r in pipes if r.excavation is not None]
    bedding, pipe_volume = sum(r.bedding for r in counted), sum(r.displacement for r in counted)
    chambers = sum(min(r.chamber or 0.0, r.excavation or 0.0) for r in structures)
    out = pipe_volume + chambers
    return Total(
        length=sum(r.length for r in pipes), trenches=trench, pits=pits, excavation=trench + pits,
        bedding=bedding, displacement=out, by_dn=by_dn, backfill=trench + pits - bedding - out,
        fill=sum(r.fill for r in pipes),
        not_counted=(
            *(r.label for r in pipes if r.excavation is None), *(r.label for r in structures if r.excavation is None),
        ),
    )  # fmt: skip
