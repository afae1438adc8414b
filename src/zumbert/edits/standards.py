"""The design standards of a project: limits, what rules weigh, and limits of single pipes and
structures.
"""

from collections.abc import Collection, Iterable
from math import ceil, isfinite

from msgspec.structs import replace

from zumbert.edits.records import free_name, with_one, with_pipe, with_structure
from zumbert.errors import EditError, known
from zumbert.model.display import Units, counted
from zumbert.model.ids import NetworkId, PipeId, StandardId, StructureId
from zumbert.model.pipe import Pipe
from zumbert.model.project import Project, with_id
from zumbert.model.quantity import ANGLE, LENGTH, RATIO, SPEED
from zumbert.model.standard import (
    AGAINST,
    CROWNS,
    LIMITS,
    Against,
    Limit,
    LimitField,
    OwnLimit,
    Standard,
    Weight,
    limit_at,
)
from zumbert.model.structure import Structure
from zumbert.model.typed import typed_number

PAIRS = (
    ("cover_min", "cover_max"),
    ("slope_min", "slope_max"),
    ("velocity_min", "velocity_max"),
)  # no least over its greatest


def add_standard(project: Project, standard: Standard) -> tuple[Project, StandardId]:
    """The project with a standard more, under a name of its own; no network takes it yet."""
    project, key = with_id(project, "d")
    standard = replace(standard, id=StandardId(key), name=_unused(project, standard.name))
    return replace(project, standards={**project.standards, standard.id: standard}), standard.id


def copied_standard(project: Project, standard: StandardId) -> tuple[Project, StandardId]:
    """The project with a copy of a standard."""
    return add_standard(
        project,
        replace(project.standards[standard], name=f"{project.standards[standard].name}, copy"),
    )


def _unused(project: Project, name: str) -> str:
    taken, n, out = {s.name for s in project.standards.values()}, 2, name
    while out in taken:
        out, n = f"{name} {n}", n + 1
    return out


def users_of_standard(project: Project, standard: StandardId) -> list[NetworkId]:
    """The networks that are judged by a standard, the existing work of one included."""
    return [k for k, n in project.networks.items() if standard in (n.standard, n.existing_standard)]


def remove_standard(project: Project, standard: StandardId) -> Project:
    """The project without a standard. Raises EditError while a network has it."""
    used = users_of_standard(project, standard)
    if used:
        names = ", ".join(project.networks[k].name for k in used)
        raise EditError(
            f'"{project.standards[standard].name}" holds for {names}: give another standard '
            "there first."
        )
    return replace(project, standards={k: s for k, s in project.standards.items() if k != standard})


def rename_standard(project: Project, standard: StandardId, name: str) -> Project:
    """The project with a standard of another name. Raises EditError for no name, or one that is
    taken.
    """
    name = free_name(project.standards, name, standard, "standard")
    return _with(project, replace(project.standards[standard], name=name))


def set_limit(project: Project, standard: StandardId, limit: str, value: Limit | None) -> Project:
    """The project with a limit (in SI) of a standard, a number or a table; None: none of its
    own. EditError where it cannot be.
    """
    field, old = LIMITS[limit], project.standards[standard]
    if value is None and not field.empty:
        raise EditError(f"{field.title} needs a value.")
    if value is not None:
        _sound(field, value)
    made = replace(old, **{limit: value})
    _in_order(made)
    return _with(project, made)


def _sound(field: LimitField, value: Limit) -> None:
    rows = value if isinstance(value, tuple) else ((1.0, value),)
    if not field.by and isinstance(value, tuple):
        raise EditError(f"{field.title} is one number.")
    if not rows:
        raise EditError(f"{field.title} needs one row at least.")
    if len({k for k, _ in rows}) < len(rows) or list(rows) != sorted(rows):
        raise EditError(
            f"{field.title}: the rows go up, each to another "
            f"{'DN' if field.by == 'dn' else 'angle'}."
        )
    if any(not (isfinite(k) and isfinite(v)) or k <= 0 or v < 0 for k, v in rows):
        raise EditError(
            f"{field.title} is 0 or more, by a {'DN' if field.by == 'dn' else 'angle'} over 0."
        )


def _in_order(s: Standard) -> None:
    for low, high in PAIRS:
        least, most = getattr(s, low), getattr(s, high)
        at = {k for limit in (least, most) if isinstance(limit, tuple) for k, _ in limit} or {1.0}
        if any(limit_at(least, k) > limit_at(most, k) + 1e-12 for k in at):
            raise EditError(
                f"{LIMITS[low].title} is over {LIMITS[high].title.lower()}: nothing could "
                "keep both."
            )


def set_weight(project: Project, standard: StandardId, rule: str, weight: Weight | None) -> Project:
    """The project with a rule of a standard that is a breach, a caution or off; None: as is
    usual.
    """
    old = project.standards[standard]
    weights = {k: w for k, w in old.weights.items() if k != rule}
    if weight is not None:
        weights[rule] = weight
    return _with(project, replace(old, weights=weights))


def set_crowns(project: Project, standard: StandardId, crowns: str) -> Project:
    """The project with what lines up at a chamber by a standard: crowns, centres, 0.8 or off.
    Raises EditError otherwise.
    """
    if crowns not in CROWNS:
        raise EditError(f'"{crowns}" does not line up: {known(crowns, CROWNS)}')
    return _with(project, replace(project.standards[standard], crowns=crowns))


def set_against(project: Project, standard: StandardId, against: Against) -> Project:
    """The project with the surface that a standard judges cover by: design, existing or both.
    Raises EditError for another.
    """
    if against not in AGAINST:
        raise EditError(f'Cover is not judged by "{against}": {known(against, AGAINST)}')
    return _with(project, replace(project.standards[standard], cover_against=against))


def _with(project: Project, standard: Standard) -> Project:
    if standard == project.standards[standard.id]:
        return project
    return replace(project, standards=with_one(project.standards, standard.id, standard))


def set_own_limit(
    project: Project,
    things: Iterable[PipeId | StructureId],
    rule: str,
    value: float | None,
    reason: str,
) -> Project:
    """The project with a limit of a rule of their own for some pipes or structures; None: the rule
    is waived there.

    Raises EditError without a reason, for a value that cannot be, and for a value where the rule
    has no limit.
    """
    own = OwnLimit(rule=rule, value=value, reason=reason.strip())
    if not own.reason:
        raise EditError("A limit of its own needs a reason: write it.")
    if value is not None and not (isfinite(value) and value >= 0):
        raise EditError("A limit is 0 or more.")
    if value is not None and not limit_of_rule(rule):
        raise EditError("This rule has no limit: it can be waived here.")
    return _with_own(project, things, rule, (own,))


def as_standard(project: Project, things: Iterable[PipeId | StructureId], rule: str) -> Project:
    """The project with some pipes or structures judged by a rule as their standard has it."""
    return _with_own(project, things, rule, ())


def _with_own(
    project: Project, things: Iterable[PipeId | StructureId], rule: str, own: tuple[OwnLimit, ...]
) -> Project:
    for thing in things:
        record: Pipe | Structure = (
            project.pipes[PipeId(thing)]
            if thing in project.pipes
            else project.structures[StructureId(thing)]
        )
        limits = (*(o for o in record.limits if o.rule != rule), *own)
        if isinstance(record, Pipe):
            project = with_pipe(project, record.id, limits=limits)
        else:
            project = with_structure(project, record.id, limits=limits)
    return project


def own_limits(project: Project) -> list[tuple[Pipe | Structure, OwnLimit]]:
    """Every limit that a pipe or structure has of its own, and every rule that is waived there."""
    records: tuple[Collection[Pipe | Structure], ...] = (
        project.pipes.values(),
        project.structures.values(),
    )
    return [(r, own) for found in records for r in found for own in r.limits]


def typed_limit(u: Units, limit: str, text: str) -> float:
    """A limit as it is typed, in SI. Raises TypedError."""
    of = LIMITS[limit].of
    if of == "slope":
        return u.typed_slope(text)
    return u.typed(text, of={"degrees": ANGLE, "ratio": RATIO, "m/s": SPEED, "m": LENGTH}[of])


def limit_of_rule(rule: str) -> str:
    """The name in a standard of the limit of a rule, the first where kinds of ground have more;
    empty where it has none.
    """
    return next((n for n, f in LIMITS.items() if f.rule == rule), "")


def limit_words(u: Units, name: str, limit: Limit | None) -> str:
    """A limit as one types it: "0.90", or "300: 0.90, 600: 1.20" up to and including each;
    nothing for none of its own.
    """
    field = LIMITS[name]
    show = {"slope": u.slope, "degrees": u.angle, "m/s": u.speed, "m": u.length, "ratio": u.ratio}[
        field.of
    ]

    def number(value: float) -> str:
        return next(
            (
                t
                for more in range(5)
                if abs(typed_limit(u, name, t := show(value, more)) - value) < 1e-9
            ),
            show(value, 5),
        )

    if limit is None:
        return ""
    if not isinstance(limit, tuple):
        return number(limit)
    by = u.mm if field.by == "dn" else 1.0  # rounded up, so that the size itself is still included
    return ", ".join(
        f"{k if by == 1.0 else ceil(k / by * 1e4 - 1e-6) / 1e4:.10g}: {number(v)}" for k, v in limit
    )


def limit_meant(u: Units, name: str, text: str) -> Limit | None:
    """A limit in SI as a text means it: a number, a table such as "300: 0.9, 600: 1.2", or (no
    text) none of its own.

    Raises TypedError for a text that means nothing, EditError for a table where there is none.
    """
    field, text = LIMITS[name], text.strip()
    if not text:
        return None
    parts = [p.strip() for p in text.replace(";", ",").split(",") if p.strip()]
    keyed = [p for p in parts if _key_of(p, field.of == "slope") is not None]
    if not keyed:
        return typed_limit(u, name, text)
    if len(keyed) < len(parts) or not field.by:
        raise EditError(
            f'"{text}" is no table: write it as 300: 0.9, 600: 1.2, up to and including each.'
        )
    rows = []
    for part in parts:
        key, value = _key_of(part, field.of == "slope") or ("", "")
        upto = u.typed_dn(key) if field.by == "dn" else typed_number(key)
        rows.append((upto, typed_limit(u, name, value)))
    return tuple(sorted(rows))


def _key_of(part: str, slope: bool) -> tuple[str, str] | None:
    """An entry of a table as its key and value; a slope may be 1:80 itself."""
    key, sign, value = part.partition("=") if "=" in part else part.partition(":")
    if not sign or (slope and sign == ":" and key.strip() == "1" and ":" not in value):
        return None
    return key.strip().upper().removeprefix("DN").removesuffix("IN").strip(), value.strip()


def by_standard(project: Project, standard: Standard) -> Project:
    """The project with every network, its existing work included, on one standard that it need
    not have.
    """
    standard = replace(standard, id=StandardId("by"))
    networks = {
        k: replace(n, standard=standard.id, existing_standard=None)
        for k, n in project.networks.items()
    }
    return replace(
        project, networks=networks, standards={**project.standards, standard.id: standard}
    )


def standards_words(project: Project) -> str:
    """The standards in force, each once, by name."""
    used = dict.fromkeys(
        k
        for n in project.networks.values()
        for k in (n.standard, n.existing_standard)
        if k is not None
    )
    return ", ".join(sorted(project.standards[k].name for k in used))


def told_off(project: Project) -> str:
    """The rules that a standard in force has switched off: "3 rules are off"; empty where none
    is.
    """
    used = {n.standard for n in project.networks.values()}
    off = {
        rule
        for k in used
        for rule, weight in project.standards[k].weights.items()
        if weight == "off"
    }
    return "" if not off else f"{counted(len(off), 'rule')} {'is' if len(off) == 1 else 'are'} off"
