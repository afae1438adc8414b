"""Levels pinned to pipes: what they say, and how they stand in both drawings."""

from collections.abc import Iterator, Sequence

from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.probe import Levels, levels
from zumbert.drawing.labels import Labels, around, text_box
from zumbert.drawing.marks import Disc, Mark, Stroke, Target, Text, points
from zumbert.drawing.planlabels import Lines
from zumbert.drawing.style import text_width
from zumbert.model.display import NONE, Units
from zumbert.model.ids import PinId
from zumbert.model.note import CoverFrom, Pin, PinField

PIN_WORDS: dict[PinField, str] = {
    "chainage": "", "distance": "at", "invert": "invert", "centre": "centre", "crown": "crown",
    "top": "outside top", "underside": "underside", "ground": "ground", "design": "design",
    "cover": "cover",
}  # fmt: skip
OUTER: dict[PinField, PinField] = {"invert": "underside", "crown": "top"}  # told at the outer wall
AWAY = 20.0  # drawing units from a pinned place to its words


def surfaces_named(facts: Facts) -> list[tuple[CoverFrom, str]]:
    """The surfaces that a cover can be measured from, with their names."""
    s = facts.surfaces
    there: tuple[tuple[CoverFrom, object], ...] = (
        ("existing", s.existing),
        ("design", s.design),
        ("formation", s.formation),
        ("rock", s.rock),
    )
    return [
        ("reference", "as the rules take it"),
        *((k, s.name(k)) for k, tin in there if tin is not None),
    ]


def value_text(at: Levels, field: PinField, u: Units, decimals: int = 3) -> str:
    """One value of a probe as it is shown."""
    value: float | None = getattr(at, field)
    if value is None:
        return NONE
    if field == "chainage":
        return u.chainage(value)
    if field == "distance":
        return u.long(value)
    return f"{u.shown(value):.{decimals}f}"


def told(at: Levels, facts: Facts) -> str:
    """All levels at a place of a pipe in words, a line for each group."""
    u = facts.units

    def say(*fields: PinField) -> str:
        return ", ".join(f"{PIN_WORDS[n] or n} {value_text(at, n, u)}" for n in fields)

    name = facts.project.pipes[at.pipe].label
    lines = (
        ("chainage", "distance"),
        ("invert", "centre", "crown"),
        ("underside", "top"),
        ("ground", "design", "cover"),
    )
    return "\n".join([name, *(say(*fields) for fields in lines)])


def pin_lines(f: PipeFacts, facts: Facts, pin: Pin) -> Lines:
    """The lines of a pin, one a value."""
    at = levels(f, facts, pin.at, pin.cover_from)
    out: Lines = []
    for field in pin.fields:
        told = OUTER.get(field, field) if pin.outer else field
        word = pin.words.get(field, PIN_WORDS[told])
        out.append(("note", f"{word} {value_text(at, told, facts.units, pin.decimals)}".strip()))
    return out


def pin_level(f: PipeFacts, facts: Facts, pin: Pin) -> float:
    """The first level (m above datum) that a pin tells: its leader begins there in a long
    section.
    """
    at = levels(f, facts, pin.at, pin.cover_from)
    for field in pin.fields:
        told = OUTER.get(field, field) if pin.outer else field
        level: float | None = (
            None if told in ("chainage", "distance", "cover") else getattr(at, told)
        )
        if level is not None:
            return level
    return at.underside if pin.outer else at.invert


def words_target(pin: PinId, texts: Sequence[Text]) -> Target:
    """The words of a pin, to be picked as the pin is."""
    boxes = [text_box(t) for t in texts]
    x0, y0, x1, y1 = (f(b[i] for b in boxes) for i, f in enumerate((min, min, max, max)))
    half = (y1 - y0) / 2
    return Target(
        "pin", pin, points((x0 + half, y0 + half), (max(x0 + half, x1 - half), y0 + half)), half + 1
    )


def pin_marks(lines: Lines, x: float, y: float, labels: Labels, chosen: bool) -> Iterator[Mark]:
    """A ring at the place, and its words where there is room, with a leader; they show always."""
    if chosen:
        yield Disc("halo", x, y, 9.0)
    yield Disc("field", x, y, 3.0, "leader")
    before = len(labels.texts)
    places = [p for away in (AWAY, 2 * AWAY) for p in around(x, y, away, len(lines))]
    labels.put_lines(lines, places, always=True)
    t = labels.texts[before]
    wide = text_width(t.text, t.role)
    left = {"left": t.x, "middle": t.x - wide / 2, "right": t.x - wide}[t.anchor]
    ends = ((left - 3, t.y - 4), (left + wide + 3, t.y - 4))
    near = min(ends, key=lambda e: (e[0] - x) ** 2 + (e[1] - y) ** 2)
    yield Stroke("leader", points((x, y), near))
