"""Crossings of a run, and the levels that are pinned to it, in a long section."""

from collections.abc import Iterator

from zumbert.analysis.crossings import Crossing, Reach
from zumbert.analysis.probe import within
from zumbert.analysis.runline import Run
from zumbert.checks.finding import TOLERANCE
from zumbert.drawing.labels import Labels
from zumbert.drawing.marks import Anchor, Mark, Stroke, Target, points
from zumbert.drawing.picture import Picture
from zumbert.drawing.pins import pin_level, pin_lines, pin_marks, words_target
from zumbert.drawing.sectionchambers import oval
from zumbert.drawing.sight import SectionSight
from zumbert.geometry.line import level_at
from zumbert.model.note import Pin


def crossing_marks(picture: Picture, sight: SectionSight, labels: Labels) -> Iterator[Mark]:
    """Services and pipes where they cross: an oval of their size at their level with the room to
    the run's pipe, or a name at the ground where the level is not known.
    """
    run = picture.run
    for c in run.crossings if run is not None else ():
        x = sight.x_of(c.at)
        if not sight.left < x < sight.width:
            continue
        if c.kind == "road":
            yield from _road(picture, c, x, sight, labels)
            continue
        if "services" not in picture.shows:
            continue
        role = "service" if c.kind == "service" else picture.facts.pipes[c.id].pipe.service
        if c.level is None:
            ground = run.ground or run.design  # type: ignore[union-attr]
            y = sight.y_of(float(level_at(ground, c.at))) if ground is not None else 20.0
            labels.put(
                role, f"{c.label}, level not known", [(x, y - 6, "middle"), (x, y - 20, "middle")]
            )
            yield Stroke("service", points((x, y), (x, y + 14)))
            continue
        y = sight.y_of(c.level)
        ring = oval(x, y, max(3.0, c.size * sight.sx / 2), max(3.0, c.size * sight.sz / 2))
        yield Stroke(
            "service-oval" if c.kind == "service" else f"{role}-outside", ring, closed=True
        )
        text, tight = (
            c.label if c.clear is None else f"{c.label}, clear {picture.units.length(c.clear)}",
            "",
        )
        if c.clear is not None and c.clear <= TOLERANCE:
            text, tight = f"{c.label}, touching", "breach-small"
        elif c.clear is not None and c.clear < c.need - TOLERANCE:
            text, tight = f"{text}, needs {picture.units.length(c.need)}", "caution-small"
        places: list[tuple[float, float, Anchor]] = [
            (x + 8, y + 4, "left"),
            (x - 8, y + 4, "right"),
            (x, y + 18, "middle"),
        ]
        if not labels.put(tight or role, text, places):
            labels.put(role, c.label, places)


def _road(
    picture: Picture, c: Crossing, x: float, sight: SectionSight, labels: Labels
) -> Iterator[Mark]:
    """Where another road's centre line crosses: a post at its level, with its name and chainage."""
    run = picture.run
    line = run.design or run.ground if run is not None else None
    level = (
        c.level
        if c.level is not None
        else float(level_at(line, c.at))
        if line is not None
        else None
    )
    y = 20.0 if level is None or level != level else sight.y_of(level)
    yield Stroke("design-post", points((x, y + 6), (x, y - 16)))
    labels.put(
        "design",
        c.label,
        [(x + 5, y - 10, "left"), (x - 5, y - 10, "right"), (x, y - 20, "middle")],
    )


def pinned(
    picture: Picture, run: Run, sight: SectionSight, labels: Labels, targets: list[Target]
) -> Iterator[Mark]:
    """The levels that are pinned to the pipes of the run, at the first level that each tells;
    their words are targets.
    """
    facts = picture.facts
    reaches = {r.pipe: r for r in run.reaches}
    for pin in facts.project.pins.values():
        reach = reaches.get(pin.pipe)
        if reach is None:
            continue
        f = facts.pipes[pin.pipe]
        x, y = pin_place(picture, pin, reach, sight)
        if sight.left < x < sight.width and 0 < y < sight.height:
            before = len(labels.texts)
            yield from pin_marks(pin_lines(f, facts, pin), x, y, labels, pin.id == picture.pin)
            targets.append(words_target(pin.id, labels.texts[before:]))


def pin_place(picture: Picture, pin: Pin, reach: Reach, sight: SectionSight) -> tuple[float, float]:
    """Where a pin stands in the drawing."""
    f = picture.facts.pipes[pin.pipe]
    s = within(f, pin.at)
    return sight.x_of(reach.at(s, f.span.length)), sight.y_of(pin_level(f, picture.facts, pin))


def pin_targets(picture: Picture, sight: SectionSight) -> list[Target]:
    """The pins of the run, to be picked."""
    reaches = {r.pipe: r for r in picture.run.reaches} if picture.run is not None else {}
    pins = [p for p in picture.facts.project.pins.values() if p.pipe in reaches]
    return [
        Target("pin", p.id, points(pin_place(picture, p, reaches[p.pipe], sight)), 9.0)
        for p in pins
    ]
