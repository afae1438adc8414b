"""How a run is laid: what is chosen before its first place."""

from collections.abc import Iterable
from typing import Literal

from msgspec import Struct

from zumbert.checks.legal import Constraint
from zumbert.errors import EditError, known
from zumbert.model.ids import NetworkId, SizeKey, TypeKey
from zumbert.model.project import Project
from zumbert.model.structure import Service, Status

Edge = Literal["middle", "outer", "inner"]  # outer: its edge away from the road's centre line


class LayOptions(Struct, frozen=True, kw_only=True):
    """How a run is laid: what comes next, and where its levels come from."""

    type: TypeKey = TypeKey("manhole-1200")
    size: SizeKey = SizeKey("300")
    network: NetworkId
    slope: float | None = None  # fraction; None: by cover, the shallowest that the standard allows
    start: float | None = None  # m above datum: invert at the first place
    # m above datum: invert at the next place; the pipe's other end follows from the rules
    level: float | None = None
    edge: Edge = "middle"  # what of a structure on a road stands at the place that is given
    up: bool = False  # laid up-slope: the first placed is the lowest
    service: Service = "storm"
    status: Status = "proposed"


def first_way(project: Project) -> LayOptions:
    """How a run is laid to begin with: the second manhole of the catalogue, and the first pipe
    of 300 mm or more.
    """
    manholes = [t.key for t in project.types.values() if t.kind == "manhole" and t.allowed]
    sizes = [
        s.key
        for s in sorted(project.sizes.values(), key=lambda s: s.dn)
        if s.dn >= 300 and s.allowed
    ]
    return LayOptions(
        type=manholes[min(1, len(manholes) - 1)] if manholes else next(iter(project.types)),
        size=sizes[0] if sizes else next(iter(project.sizes)),
        network=next(iter(project.networks)),
    )


def pipe_fall(all_rows: Iterable[Constraint]) -> float:
    """The fall (m) of a pipe at its least slope, from its rows."""
    return next((-r.c for r in all_rows if r.rule == "slope_min"), 0.0)


def known_way(project: Project, way: LayOptions) -> None:
    """Raises EditError for a structure type or pipe size that the catalogue does not have."""
    if way.type not in project.types:
        raise EditError(
            f'There is no structure type "{way.type}": {known(way.type, project.types)}'
        )
    if way.size not in project.sizes:
        raise EditError(f'There is no pipe size "{way.size}": {known(way.size, project.sizes)}')
