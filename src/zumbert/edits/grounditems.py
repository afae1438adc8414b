"""Items of the ground by kind (surfaces, roads, drawings, land, services, spot levels, files):
shown, faded, ordered, changed, removed.
"""

from typing import Any, Literal, NamedTuple, get_args

from msgspec.structs import replace

from zumbert.edits.records import with_one
from zumbert.errors import EditError
from zumbert.model.project import Project
from zumbert.model.structure import Anchored

ItemKind = Literal[
    "surface", "road", "background", "land", "service", "spot", "attachment", "pin", "area"
]
KINDS: tuple[ItemKind, ...] = get_args(ItemKind)

_FIELDS: dict[ItemKind, str] = {
    "surface": "surfaces", "road": "roads", "background": "backgrounds", "land": "land",
    "service": "services", "spot": "spots", "attachment": "attachments", "pin": "pins",
    "area": "areas",
}  # fmt: skip


class GroundItem(NamedTuple):
    """One of them."""

    kind: ItemKind
    id: Any


def records(project: Project, kind: ItemKind) -> dict[Any, Any]:
    """All records of a kind, in the order in which they are drawn."""
    found: dict[Any, Any] = getattr(project, _FIELDS[kind])
    return found


def record(project: Project, item: GroundItem) -> Any:
    """The record of an item, None where it is gone."""
    return records(project, item.kind).get(item.id)


def item_name(project: Project, item: GroundItem) -> str:
    """The name of an item."""
    r = record(project, item)
    if item.kind == "spot":
        return f"spot level {list(project.spots).index(item.id) + 1}"
    if item.kind == "pin":
        return f"pin on {project.pipes[r.pipe].label}"
    return str(getattr(r, "name", None) or getattr(r, "label", ""))


def _with(project: Project, kind: ItemKind, found: dict[Any, Any]) -> Project:
    return replace(project, **{_FIELDS[kind]: found})


def changed(project: Project, item: GroundItem, **values: Any) -> Project:
    """The project with fields of an item replaced; the same project where nothing differs."""
    old = record(project, item)
    if all(getattr(old, k) == v for k, v in values.items()):
        return project
    return _with(
        project, item.kind, with_one(records(project, item.kind), item.id, replace(old, **values))
    )


def set_strength(project: Project, item: GroundItem, strength: float) -> Project:
    """The project with an item drawn faintly or fully. Raises EditError outside 0.1 to 1."""
    if not 0.1 - 1e-9 <= strength <= 1.0 + 1e-9:
        raise EditError("How strongly a thing is drawn goes from 10 % to 100 %.")
    return changed(project, item, strength=round(strength, 3))


def moved(project: Project, item: GroundItem, by: int) -> Project:
    """The project with an item drawn sooner (by < 0) or later among its kind; at an end it
    stays.
    """
    found = records(project, item.kind)
    keys = list(found)
    i = keys.index(item.id)
    j = min(max(0, i + by), len(keys) - 1)
    if i == j:
        return project
    keys.insert(j, keys.pop(i))
    return _with(project, item.kind, {k: found[k] for k in keys})


def removed(project: Project, item: GroundItem) -> Project:
    """The project without an item. Raises EditError for a road while structures are anchored to
    it.
    """
    if item.kind == "road":
        places = ((s.label, s.place) for s in project.structures.values())
        on = [
            label
            for label, place in places
            if isinstance(place, Anchored) and place.road == item.id
        ]
        if on:
            names = ", ".join(on[:3]) + (" and more" if len(on) > 3 else "")
            raise EditError(
                f'{names} stand on "{project.roads[item.id].name}": delete or move them first.'
            )
        areas = [
            a.name
            for a in project.areas.values()
            if a.along is not None and a.along.road == item.id
        ]
        if areas:
            names = ", ".join(areas[:3]) + (" and more" if len(areas) > 3 else "")
            raise EditError(
                f'{names} follow "{project.roads[item.id].name}": delete these areas first.'
            )
    return _with(
        project, item.kind, {k: r for k, r in records(project, item.kind).items() if k != item.id}
    )


def set_view(project: Project, **values: Any) -> Project:
    """The project with ground shown otherwise: `contours` (m, None: by scale), `shading`.
    EditError for contours out of range.
    """
    contours = values.get("contours")
    if contours is not None and not 0.01 <= contours <= 1000:
        raise EditError(
            f"Contours are {project.units.long(0.01)} to {project.units.long(1000.0)} apart."
        )
    settings = replace(project.settings, **values)
    return project if settings == project.settings else replace(project, settings=settings)
