"""The trench types of a project: their rows by size and ground, their dimensions, and which
pipes take them.
"""

from collections.abc import Iterable
from typing import Any

from msgspec.structs import replace

from zumbert.edits.records import free_name, with_one
from zumbert.errors import EditError, known
from zumbert.model.display import Units
from zumbert.model.ids import PipeId, TrenchTypeId
from zumbert.model.project import Project, with_id
from zumbert.model.standard import Limit
from zumbert.model.trench import (
    SIZE_FIELDS,
    TYPE_FIELDS,
    UPPERS,
    TrenchField,
    TrenchSize,
    TrenchType,
    misfit,
)
from zumbert.model.typed import typed_number


def add_trench_type(project: Project, trench: TrenchType) -> tuple[Project, TrenchTypeId]:
    """The project with a trench type more, under a name of its own; no network takes it yet."""
    project, key = with_id(project, "t")
    taken, name, n = {t.name for t in project.trench_types.values()}, trench.name, 2
    while name in taken:
        name, n = f"{trench.name} {n}", n + 1
    made = replace(trench, id=TrenchTypeId(key), name=name)
    return replace(project, trench_types={**project.trench_types, made.id: made}), made.id


def copied_trench_type(project: Project, trench: TrenchTypeId) -> tuple[Project, TrenchTypeId]:
    """The project with a copy of a trench type."""
    old = project.trench_types[trench]
    return add_trench_type(project, replace(old, name=f"{old.name}, copy"))


def remove_trench_type(project: Project, trench: TrenchTypeId) -> Project:
    """The project without a trench type. Raises EditError while a network or a pipe has it."""
    used = [n.name for n in project.networks.values() if n.trench == trench]
    used += [p.label for p in project.pipes.values() if p.trench == trench]
    if used:
        more = f" and {len(used) - 6} more" if len(used) > 6 else ""
        name = project.trench_types[trench].name
        raise EditError(
            f'"{name}" is the trench of {", ".join(used[:6])}{more}: give another trench '
            "type there first."
        )
    return replace(
        project, trench_types={k: t for k, t in project.trench_types.items() if k != trench}
    )


def rename_trench_type(project: Project, trench: TrenchTypeId, name: str) -> Project:
    """The project with a trench type of another name. Raises EditError for no name, or one that
    is taken.
    """
    name = free_name(project.trench_types, name, trench, "trench type")
    return _with(project, replace(project.trench_types[trench], name=name))


def set_trench_value(project: Project, trench: TrenchTypeId, key: str, value: float) -> Project:
    """The project with what holds for all sizes of a trench type: working space, base or
    spacing, m. EditError for a misfit.
    """
    _fit(TYPE_FIELDS, key, value)
    return _with(project, replace(project.trench_types[trench], **{key: value}))


def set_trench_upper(project: Project, trench: TrenchTypeId, upper: str) -> Project:
    """The project with the surface that a trench type is dug from. Raises EditError for a word
    that is none.
    """
    if upper not in UPPERS:
        raise EditError(f'Nothing is dug from "{upper}": {known(upper, UPPERS)}')
    return _with(project, replace(project.trench_types[trench], upper=upper))


def set_size_value(
    project: Project, trench: TrenchTypeId, row: int, key: str, value: Limit | None
) -> Project:
    """The project with a dimension (in SI) of one row of a trench type; None: none. Raises
    EditError where it cannot be.
    """
    _fit(SIZE_FIELDS, key, value)
    return _with_row(project, trench, row, {key: value})


def set_size_range(
    project: Project, trench: TrenchTypeId, row: int, dn: float | None, ground: str
) -> Project:
    """The project with the sizes (mm, up to and including; None: any) and the stratum (empty: any)
    that a row is for. EditError for a size that is not over 0, or a row that there is already.
    """
    if dn is not None and not 0 < dn <= 20_000:
        raise EditError("A size is more than 0 mm, and at most 20000.")
    rows = project.trench_types[trench].sizes
    if any((r.dn, r.ground) == (dn, ground.strip()) for i, r in enumerate(rows) if i != row):
        raise EditError("There is already a row for these sizes in this ground.")
    return _with_row(project, trench, row, {"dn": dn, "ground": ground.strip()})


def add_size(project: Project, trench: TrenchTypeId, dn: float | None, ground: str = "") -> Project:
    """The project with a row more in a trench type, like its last one. Raises EditError as
    `set_size_range`.
    """
    old = project.trench_types[trench]
    made = _with(project, replace(old, sizes=(*old.sizes, replace(old.sizes[-1], dn=-1.0))))
    return set_size_range(made, trench, len(old.sizes), dn, ground)


def remove_size(project: Project, trench: TrenchTypeId, row: int) -> Project:
    """The project without a row of a trench type. Raises EditError for the only one."""
    old = project.trench_types[trench]
    if len(old.sizes) == 1:
        raise EditError("A trench type keeps one row at least.")
    return _with(project, replace(old, sizes=tuple(r for i, r in enumerate(old.sizes) if i != row)))


def set_pipe_trench(
    project: Project, pipes: Iterable[PipeId], trench: TrenchTypeId | None
) -> Project:
    """The project in which some pipes have a trench type of their own; None: as their network
    has it.
    """
    out = project.pipes
    for key in pipes:
        if out[key].trench != trench:
            out = with_one(out, key, replace(out[key], trench=trench))
    return project if out is project.pipes else replace(project, pipes=out)


def _fit(fields: dict[str, TrenchField], key: str, value: Limit | None) -> None:
    if key not in fields:
        raise EditError(f'"{key}" is no dimension of a trench: {known(key, tuple(fields))}')
    words = misfit(fields[key], value)
    if words:
        raise EditError(f"{fields[key].title}: {words}.")


def _with_row(project: Project, trench: TrenchTypeId, row: int, values: dict[str, Any]) -> Project:
    old = project.trench_types[trench]
    size: TrenchSize = replace(old.sizes[row], **values)
    return _with(
        project, replace(old, sizes=tuple(size if i == row else r for i, r in enumerate(old.sizes)))
    )


def _with(project: Project, trench: TrenchType) -> Project:
    if trench == project.trench_types[trench.id]:
        return project
    return replace(project, trench_types=with_one(project.trench_types, trench.id, trench))


def dimension_words(u: Units, key: str, value: Limit | None) -> str:
    """A dimension of a trench as one types it: "0.90", or "1.5: 0.90, 3: 1.10" by depth; nothing
    where there is none.
    """
    ratio = SIZE_FIELDS[key].of == "ratio" if key in SIZE_FIELDS else False

    def one(v: float) -> str:
        return f"{v:.4g}" if ratio else u.full(v, 4)

    if value is None:
        return ""
    return (
        ", ".join(f"{u.full(k, 4)}: {one(v)}" for k, v in value)
        if isinstance(value, tuple)
        else one(value)
    )


def dimension_meant(u: Units, key: str, text: str) -> Limit | None:
    """A dimension in SI as a text means it; none for no text, or "none". Raises TypedError for
    what means nothing.
    """
    text = text.strip()
    if not text or text.lower() == "none":
        return None
    ratio = key in SIZE_FIELDS and SIZE_FIELDS[key].of == "ratio"
    take = typed_number if ratio else u.typed
    if ":" not in text:
        return take(text)
    parts = [p.partition(":") for p in text.replace(";", ",").split(",") if p.strip()]
    return tuple(sorted((u.typed(depth), take(value)) for depth, _, value in parts))
