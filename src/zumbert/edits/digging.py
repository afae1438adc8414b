"""How quantities are counted: strata, depth bands, networks, what goes back, and rates."""

from collections.abc import Collection, Iterable, Sequence
from math import isfinite
from typing import Any

from msgspec.structs import replace

from zumbert.edits.records import with_one
from zumbert.errors import EditError, known
from zumbert.model.digging import Digging, Rate, Stratum
from zumbert.model.ids import NetworkId
from zumbert.model.project import Project
from zumbert.model.structure import STATUSES, Status
from zumbert.model.trench import UPPERS

AMOUNTS: dict[
    str, tuple[str, float, float]
] = {  # what each is called, and its least and greatest value
    "stripped": ("Topsoil stripped first", 0.0, 10.0),
    "reuse": ("Share of the backfill that is reused", 0.0, 1.0),
    "bulking": ("Bulking", 1.0, 3.0),
    "carriageway": ("Reinstatement in a carriageway", 0.0, 5.0),
    "verge": ("Reinstatement in a verge", 0.0, 5.0),
    "field": ("Reinstatement beside the roads", 0.0, 5.0),
}


def _with(project: Project, **values: Any) -> Project:
    how: Digging = replace(project.digging, **values)
    return project if how == project.digging else replace(project, digging=how)


def set_amount(project: Project, amount: str, value: float) -> Project:
    """The project with one amount of its digging (see AMOUNTS). Raises EditError where it cannot
    be.
    """
    if amount not in AMOUNTS:
        raise EditError(f'"{amount}" is no amount of digging: {known(amount, tuple(AMOUNTS))}')
    title, low, high = AMOUNTS[amount]
    if not low <= value <= high:
        raise EditError(f"{title} is between {low:g} and {high:g}.")
    return _with(project, **{amount: value})


def set_strata(project: Project, strata: Sequence[Stratum]) -> Project:
    """The project with other strata, from the top; none: general, and rock under a surface of that
    role. EditError for doubles, a layer without a name or a surface that is not there, or fewer
    than three boreholes.
    """
    names = [s.name.strip() for s in strata]
    if not all(names):
        raise EditError("Each stratum needs a name.")
    if len(set(names)) < len(names):
        raise EditError("Two strata have one name: give each its own.")
    for s in strata:
        if s.surface is not None and s.surface not in project.surfaces:
            raise EditError(f'The surface of "{s.name}" is not there.')
        if s.thickness is not None and not 0 < s.thickness <= 100:
            raise EditError(f'"{s.name}" is more than 0 thick, and at most 100 m.')
        if s.boreholes and (
            len(s.boreholes) < 3 or not all(isfinite(v) for p in s.boreholes for v in p)
        ):
            raise EditError(
                f'"{s.name}" needs three boreholes or more, each with x, y and a level.'
            )
    return _with(
        project, strata=tuple(replace(s, name=n) for s, n in zip(strata, names, strict=True))
    )


def set_bands(project: Project, bands: Sequence[float]) -> Project:
    """The project with other depth bands (m): where each begins; the last is open. EditError
    where they do not rise from 0.
    """
    rows = tuple(float(b) for b in bands)
    if not rows or rows[0] != 0.0:
        raise EditError("The first depth band begins at 0.")
    if any(not isfinite(b) or b > 100 for b in rows) or list(rows) != sorted(set(rows)):
        raise EditError("Depth bands rise, each beginning deeper than the one before it.")
    return _with(project, bands=rows)


def set_to_centres(project: Project, to_centres: bool) -> Project:
    """The project whose trenches run to the centres of chambers, or end at the edges of their
    pits.
    """
    return _with(project, to_centres=to_centres)


def set_statuses_dug(project: Project, statuses: Iterable[Status]) -> Project:
    """The project in which work of these statuses is dug."""
    return _with(project, statuses=frozenset(statuses))


def set_network_counted(project: Project, network: NetworkId, counted: bool) -> Project:
    """The project with a network counted, or left out of all that is dug."""
    left_out = (
        project.digging.left_out - {network} if counted else project.digging.left_out | {network}
    )
    return _with(project, left_out=left_out)


def set_rate(project: Project, item: str, unit: str, rate: float | None) -> Project:
    """The project with a rate (money a unit) for an item of the takeoff; None: it has none.
    Raises EditError under 0.
    """
    if rate is not None and not 0 <= rate < 1e12:
        raise EditError("A rate is 0 or more.")
    others = [r for r in project.digging.rates if (r.item, r.unit) != (item, unit)]
    made = [] if rate is None else [Rate(item=item, unit=unit, rate=rate)]
    return _with(project, rates=tuple(sorted([*others, *made], key=lambda r: (r.item, r.unit))))


def set_upper(project: Project, upper: str) -> Project:
    """The project with all its trenches dug from an upper surface. Raises EditError for another
    word.
    """
    if upper not in UPPERS:
        raise EditError(f'Nothing is dug from "{upper}": {known(upper, UPPERS)}')
    out = project
    for key, t in project.trench_types.items():
        if t.upper != upper:
            out = replace(
                out, trench_types=with_one(out.trench_types, key, replace(t, upper=upper))
            )
    return out


def counted_as(
    project: Project,
    to_centres: bool = False,
    upper: str | None = None,
    statuses: Collection[str] | None = None,
    networks: Collection[str] | None = None,
) -> Project:
    """The project with what one count asks for: trenches to the centres of chambers, dug from
    another upper surface, some statuses or networks alone. None: as the project has it. Raises
    EditError for a word or name that is not known.
    """
    if to_centres:
        project = set_to_centres(project, True)
    if upper is not None:
        project = set_upper(project, upper)
    if statuses:
        for s in statuses:
            if s not in STATUSES:
                raise EditError(f'"{s}" is no status: {known(s, STATUSES)}')
        project = set_statuses_dug(project, [s for s in STATUSES if s in statuses])
    if networks:
        names = {n.name.casefold(): k for k, n in project.networks.items()}
        for name in networks:
            if name.casefold() not in names:
                raise EditError(
                    f'There is no network "{name}": '
                    f"{known(name, tuple(n.name for n in project.networks.values()))}"
                )
        wanted = {names[n.casefold()] for n in networks}
        project = _with(project, left_out=frozenset(project.networks) - wanted)
    return project
