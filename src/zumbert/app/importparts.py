"""Parts of the dialog of an import."""

from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from zumbert.exchange.found import TABLES
from zumbert.exchange.rows import IGNORED
from zumbert.model.project import Project


def meanings(kind: str) -> tuple[tuple[str, str], ...]:
    """The choices for a column of a list: values and words of its choice."""
    return ((IGNORED, "passed over"), *((h, h.replace("_", " ")) for h in TABLES[kind]))


def scrolled(layout: QVBoxLayout, tall: int) -> QScrollArea:
    """A layout that scrolls, at least so tall (pixels)."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setObjectName("welcome")
    area.setMinimumHeight(tall)
    inner = QWidget()
    inner.setObjectName("panelbody")
    inner.setLayout(layout)
    area.setWidget(inner)
    return area


def extents_words(made: Project, before: Project) -> str:
    """Where the new surfaces and drawings lie."""
    out, u = [], made.units

    def span(values: object) -> str:
        low, high = float(values.min()), float(values.max())  # type: ignore[attr-defined]
        return f"{u.coordinate(low, -2)} to {u.coordinate(high, -2)}"

    for surface in (s for k, s in made.surfaces.items() if k not in before.surfaces):
        v = surface.vertices
        levels = f"{u.length(float(v[:, 2].min()))} to {u.long(float(v[:, 2].max()))}"
        out.append(f"{surface.name}: x {span(v[:, 0])}, y {span(v[:, 1])}, level {levels}")
    for b in (b for k, b in made.backgrounds.items() if k not in before.backgrounds):
        p = b.segments.reshape(-1, 2)
        if len(p):
            out.append(f"{b.name}: x {span(p[:, 0])}, y {span(p[:, 1])} {u.m}")
    return "\n".join(out)
