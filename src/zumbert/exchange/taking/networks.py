"""Pipe networks of LandXML into a project: types and sizes of the library that fit, new ones
where none does.
"""

from contextlib import suppress
from dataclasses import dataclass, field

import msgspec
from msgspec.structs import replace

from zumbert.edits.layoptions import first_way
from zumbert.edits.setup import network_named
from zumbert.exchange.landxml_networks import NetworkFound, PipeFound, StructFound, told
from zumbert.exchange.taking.choices import Taking
from zumbert.model.catalogue import PipeSize, StructureKind, StructureType
from zumbert.model.ids import PipeId, SizeKey, StructureId, TypeKey
from zumbert.model.library import fault
from zumbert.model.pipe import Bore, Pipe
from zumbert.model.project import Project, with_id
from zumbert.model.structure import Anchored, FixedRim, Free, OnSurface, Structure

FITS = 5e-4  # m: sizes that differ by less are the same
DEEP = 1.5  # m under the rim at which a pipe without levels is put


@dataclass
class _Under:
    """The project under way, and its structures by label."""

    project: Project
    taking: Taking
    by_label: dict[str, StructureId] = field(default_factory=dict)


def take_networks(taking: Taking, project: Project, found: tuple[NetworkFound, ...]) -> Project:
    """The project with all structures and pipes of some networks; labels that are there already
    are told and left out.
    """
    under = _Under(project, taking, {s.label: k for k, s in project.structures.items()})
    there = set(under.by_label)
    for network in found:
        taking.notes.append(told(network))
        under.project = _with_library(under.project, network)
        for s in network.structures:
            if s.label in under.by_label:
                taking.notes.append(
                    f'There is already a structure "{s.label}": that of the file is left out.'
                )
                continue
            _structure(under, network, s)
    labels = {p.label for p in under.project.pipes.values()}
    for network in found:
        for p in network.pipes:
            if p.label in labels:
                taking.notes.append(
                    f'There is already a pipe "{p.label}": that of the file is left out.'
                )
            elif p.up not in under.by_label or p.down not in under.by_label or p.up == p.down:
                taking.notes.append(
                    f'The pipe "{p.label}" is left out: it does not run between two structures '
                    "that are there."
                )
            else:
                labels.add(p.label)
                _pipe(under, network, p, bool({p.up, p.down} & there))
    return under.project


def _with_library(project: Project, network: NetworkFound) -> Project:
    """The project with the types and sizes that came along and that its library has not; unsound
    ones are passed over.
    """
    for name, text in network.own.items():
        shelf, _, key = name.partition(" ")
        if shelf not in ("type", "size") or key in (
            project.types if shelf == "type" else project.sizes
        ):
            continue
        kind: type[StructureType] | type[PipeSize] = StructureType if shelf == "type" else PipeSize
        with suppress(msgspec.DecodeError):
            record: StructureType | PipeSize = msgspec.json.decode(text, type=kind)
            if record.key == key and fault(record) is None:
                if isinstance(record, StructureType):
                    project = replace(project, types={**project.types, record.key: record})
                else:
                    project = replace(project, sizes={**project.sizes, record.key: record})
    return project


def _structure(under: _Under, network: NetworkFound, s: StructFound) -> None:
    project, net = network_named(under.project, network.name)
    project, kind = _type(project, s)
    project, key = with_id(project, "s")
    made = Structure(
        id=StructureId(key),
        label=s.label,
        type=kind,
        network=net,
        service=network.service,
        status=s.status,
        rim=_rim(s),
        place=_place(project, s.own.get("place", "")) or Free(s.x, s.y),
        outfall=s.own.get("outfall") == "yes",
    )
    for name in ("rotation", "sump", "sump_depth"):
        if name in s.own:
            made = replace(made, **{name: float(s.own[name])})
    if not s.own and s.sump is not None and project.types[kind].inside:
        made = replace(made, sump=s.sump)
    if "cover" in s.own:
        along, right = map(float, s.own["cover"].split())
        made = replace(made, cover=(along, right))
    under.by_label[s.label] = made.id
    under.project = replace(project, structures={**project.structures, made.id: made})


def _rim(s: StructFound) -> OnSurface | FixedRim:
    words = s.own.get("rim", "").split()
    if len(words) == 2 and words[0] in ("design", "existing"):
        return OnSurface(words[0], float(words[1]))  # type: ignore[arg-type]
    if len(words) == 2 and words[0] == "fixed":
        return FixedRim(float(words[1]))
    return OnSurface() if s.rim is None else FixedRim(s.rim)


def _place(project: Project, text: str) -> Anchored | Free | None:
    """A place that the program itself wrote; None where its road is not there."""
    kind, _, rest = text.partition(" ")
    words = rest.split(" ", 2)
    if kind == "free" and len(words) == 2:
        return Free(float(words[0]), float(words[1]))
    if kind == "road" and len(words) == 3:
        road = next((k for k, r in project.roads.items() if r.name == words[2]), None)
        return None if road is None else Anchored(road, float(words[0]), float(words[1]))
    return None


def _type(project: Project, s: StructFound) -> tuple[Project, TypeKey]:
    """The type of the library that a structure is of: the one that is named, else one of its
    shape and size, else a new one.
    """
    named = TypeKey(s.own.get("type", ""))
    if named in project.types:
        return project, named
    kind: StructureKind = {
        "OutletStruct": "outfall",
        "Connection": "joint",
        "InletStruct": "gully",
    }.get(s.shape, "manhole")  # type: ignore[assignment]
    fits = [
        t
        for t in project.types.values()
        if (t.name.casefold() == s.words.casefold() and s.words)
        or (not s.inside and t.kind == kind)
        or (
            s.inside
            and t.kind in ("manhole", "catchpit")
            and abs(t.inside - s.inside) < FITS
            and (t.across is None) == (s.across is None)
            and abs((t.across or 0.0) - (s.across or 0.0)) < FITS
        )
    ]
    if fits:
        return project, min(
            fits, key=lambda t: (t.name.casefold() != s.words.casefold(), abs(t.wall - s.wall))
        ).key
    if not s.inside:
        return project, first_way(project).type
    size = f"{s.inside * 1000:.0f}" + ("" if s.across is None else f"x{s.across * 1000:.0f}")
    key = TypeKey(f"manhole-{size}")
    made = StructureType(
        key=key,
        name=f"Manhole {size}",
        kind="manhole",
        inside=s.inside,
        across=s.across,
        wall=s.wall,
        backdrop=True,
    )
    return replace(project, types={**project.types, key: made}), key


def _size(project: Project, p: PipeFound) -> SizeKey | Bore:
    """The size of the library that a pipe is of: the one that is named, else one of its bore and
    wall, else its own.
    """
    named = project.sizes.get(SizeKey(p.own.get("size", "")))
    if named is not None and abs(named.inside - p.inside) < FITS:
        return named.key
    if p.own:
        return Bore(p.inside, p.wall)
    fits = [
        z
        for z in project.sizes.values()
        if abs(z.inside - p.inside) < FITS and (not p.wall or abs(z.wall - p.wall) < 0.02)
    ]
    if not fits:
        return Bore(p.inside, p.wall)
    return min(
        fits, key=lambda z: (z.material.casefold() != p.material.casefold(), abs(z.wall - p.wall))
    ).key


def _pipe(under: _Under, network: NetworkFound, p: PipeFound, joins: bool) -> None:
    project, net = network_named(under.project, network.name)
    up, down = under.by_label[p.up], under.by_label[p.down]
    levels = []
    for at, level in ((up, p.invert_up), (down, p.invert_down)):
        rim = project.structures[at].rim
        if level is None:
            level = (rim.level if isinstance(rim, FixedRim) else 0.0) - DEEP
            where = project.structures[at].label
            under.taking.notes.append(
                f'The pipe "{p.label}" has no level at {where}: put {DEEP:g} m under its rim.'
            )
        levels.append(level)
    project, key = with_id(project, "p")
    trench = next(
        (k for k, t in project.trench_types.items() if t.name == p.own.get("trench")), None
    )
    basis = p.own.get("invert_basis")
    usual = project.networks[net].invert_basis or project.settings.invert_basis
    if basis is None and p.own.get("quoted") != usual:
        basis = p.own.get("quoted")
    made = Pipe(
        id=PipeId(key),
        label=p.label,
        up=up,
        down=down,
        size=_size(project, p),
        invert_up=levels[0],
        invert_down=levels[1],
        network=net,
        service=network.service,
        status=p.status,
        through=_place(project, p.own.get("through", "")),
        trench=trench,
        invert_basis=basis if basis in ("centres", "walls") else None,  # type: ignore[arg-type]
    )
    under.project = replace(project, pipes={**project.pipes, made.id: made})
