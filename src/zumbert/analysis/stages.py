"""Derived values by declared stages: what each reads and how it is made.

One driver runs them in order and keeps what did not change.
"""

from collections.abc import Callable, Iterable, Sequence
from operator import is_
from typing import Any, Literal, NamedTuple

from msgspec import Struct

from zumbert.analysis.changed import changed
from zumbert.model.project import Project

Changes = tuple[list[Any], list[Any]]  # keys that are new or changed, and keys that are gone
NONE: Changes = ([], [])


class Derived:
    """Everything derived from one project, by stage. `derive` fills it; nothing changes it
    afterwards.

    What it was made from is known by a token, so that no history is kept alive.
    """

    def __init__(self, project: Project, onto: "Derived | None", before: "Derived | None") -> None:
        self.project = project
        self.token: object = object() if onto is None else onto.token
        self.before: object | None = (
            onto.before if onto is not None else None if before is None else before.token
        )
        self.values: dict[str, Any] = {} if onto is None else onto.values.copy()
        self._changes: dict[str, Changes] = {} if onto is None else onto._changes.copy()

    def __getitem__(self, name: str) -> Any:
        """The value of a stage, or ("project.types") a part of the project."""
        return (
            self.values[name]
            if name in self.values
            else getattr(self.project, name.removeprefix("project."))
        )

    def put(self, name: str, value: Any, changes: Changes) -> None:
        """Takes the value of a stage, and what of it is new."""
        self.values[name], self._changes[name] = value, changes

    def fresh(self, name: str) -> list[Any]:
        """The keys of a stage that are new or changed in it."""
        return self._changes[name][0]

    def changed(self, name: str) -> Changes:
        """The keys of a stage that are new or changed in it, and those that are gone."""
        return self._changes[name]

    def changes(self, name: str, before: "Derived") -> Changes:
        """The keys of a stage or a part of the project that differ from before. A value without
        keys has the single key "whole".
        """
        direct = self.before is before.token
        if direct and name in self._changes:
            return self._changes[name]
        old, new = before[name], self[name]
        found = (
            NONE if old is new else changed(old, new) if isinstance(new, dict) else (["whole"], [])
        )
        if direct:
            self._changes[name] = found
        return found


Via = Callable[
    [Derived, Derived, Iterable[Any]], Iterable[Any]
]  # now, before, keys that changed: the keys that they touch


def own(now: Derived, before: Derived, keys: Iterable[Any]) -> Iterable[Any]:
    """The same keys."""
    return keys


def at_ends(now: Derived, before: Derived, keys: Iterable[Any]) -> Iterable[Any]:
    """The structures at the ends of pipes, as they are and as they were."""
    return [
        s
        for k in keys
        for of in (now, before)
        if (p := of.project.pipes.get(k))
        for s in (p.up, p.down)
    ]


def joined(now: Derived, before: Derived, keys: Iterable[Any]) -> Iterable[Any]:
    """The pipes at structures; one that is joined elsewhere has changed itself."""
    return [p for k in keys for p in now["links"].at(k)]


class Read(NamedTuple):
    """One input of a stage. When it changes, the stage is computed again for the keys that `via`
    leads to.
    """

    of: str  # an earlier stage, or "project." and the name of its records
    via: Via = own
    # what of a record counts; None: that it is the same object
    part: Callable[[Any], object] | None = None

    def touched(self, now: Derived, before: Derived) -> Iterable[Any]:
        """The keys that a change touches."""
        new, gone = now.changes(self.of, before)
        if self.part is not None:
            old, records, part = before[self.of], now[self.of], self.part
            new = [k for k in new if k not in old or part(old[k]) != part(records[k])]
        return self.via(now, before, [*new, *gone])


class Stage(Struct, frozen=True, kw_only=True):
    """One derived value: for each pipe or structure, or one for the whole project."""

    name: str
    each: Literal["pipes", "structures"] | None = None
    reads: tuple[Read, ...]
    # the values that all of it depends on: where one changes, everything is made again
    world: tuple[str | Callable[[Derived], object], ...] = ()
    # of keys: a value each, None for nothing; of a whole: from its former value
    make: Callable[[Derived, Any], Any]
    equal: Callable[[Any, Any], bool] = is_  # whether a value made anew is the one that it was

    def run(self, now: Derived, before: Derived | None) -> None:
        """Computes what has changed and keeps the rest."""
        if before is not None and (
            self.name not in before.values or not self._same_world(now, before)
        ):
            self._all(now, before if self.name in before.values else None)
        elif before is None:
            self._all(now, None)
        elif self.each is None:
            self._whole(now, before)
        else:
            self._some(now, before, self.each)

    def _same_world(self, now: Derived, before: Derived) -> bool:
        for part in self.world:
            a, b = (part(d) if callable(part) else d[part] for d in (now, before))
            if a is not b and a != b:
                return False
        return True

    def _all(self, now: Derived, before: Derived | None) -> None:
        if self.each is None:
            now.put(
                self.name,
                self.make(now, None if before is None else before[self.name]),
                (["whole"], []),
            )
            return
        keys = list(getattr(now.project, self.each))
        made = {k: v for k, v in zip(keys, self.make(now, keys), strict=True) if v is not None}
        now.put(
            self.name,
            made,
            (list(made), [] if before is None else [k for k in before[self.name] if k not in made]),
        )

    def _whole(self, now: Derived, before: Derived) -> None:
        old = before[self.name]
        kept = not any(list(r.touched(now, before)) for r in self.reads)
        value = old if kept else self.make(now, old)
        if value is old:
            now.put(self.name, old, NONE)
        else:
            now.put(
                self.name,
                value,
                changed(old, value) if isinstance(value, dict) else (["whole"], []),
            )

    def _some(self, now: Derived, before: Derived, each: Literal["pipes", "structures"]) -> None:
        old, records = before[self.name], getattr(now.project, each)
        touched = dict.fromkeys(k for r in self.reads for k in r.touched(now, before))
        keys = [k for k in touched if k in records]
        gone = [k for k in touched if k not in records and k in old]
        made = dict(zip(keys, self.make(now, keys), strict=True)) if keys else {}
        gone += [k for k, v in made.items() if v is None and k in old]
        new = {
            k: v
            for k, v in made.items()
            if v is not None and not (k in old and self.equal(old[k], v))
        }
        if not new and not gone:
            now.put(self.name, old, NONE)
            return
        out = old.copy()
        out.update(new)
        for k in gone:
            del out[k]
        now.put(self.name, out, (list(new), gone))


def derive(
    stages: Sequence[Stage], project: Project, before: Derived | None, onto: Derived | None = None
) -> Derived:
    """The values that the stages derive from a project, on top of what is derived of it already
    (`onto`); of what was derived before, from whichever value, all is kept that did not change. The
    result is the same with and without `before`.
    """
    now = Derived(project, onto, before)
    for stage in stages:
        stage.run(now, before)
    return now
