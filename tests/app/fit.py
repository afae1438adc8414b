"""Measures every panel: no child outside its parent, no text that is cut; run by itself, at a
scale of its own.
"""

import sys

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QScrollArea,
    QTableView,
)

from zumbert.edits.grounditems import GroundItem


def cut(root):
    """What of a widget's inside is cut or stands outside its parent."""
    out = []
    for w in (
        root.findChildren(QLabel)
        + root.findChildren(QAbstractButton)
        + root.findChildren(QLineEdit)
    ):
        if not w.isVisible() or (isinstance(w, QLineEdit) and isinstance(w.parent(), QComboBox)):
            continue
        name = f"{type(w).__name__} {w.objectName() or w.accessibleName()} {w.text()[:40]!r}"
        parent = w.parentWidget()
        box = w.geometry()
        if box.left() < -1 or box.right() > parent.width() or box.bottom() > parent.height() + 1:
            out.append(f"{name}: {box.getRect()} outside {parent.width()}x{parent.height()}")
        wide = w.fontMetrics().horizontalAdvance(w.text())
        if (
            isinstance(w, QLabel)
            and not w.wordWrap()
            and wide > w.width() + 1
            and w.textFormat() == Qt.TextFormat.PlainText
        ):
            out.append(f"{name}: needs {wide}, has {w.width()}")
        if isinstance(w, QLineEdit) and w.text() and wide + 6 > w.width():
            out.append(f"{name}: needs {wide + 6}, has {w.width()}")
        if isinstance(w, QAbstractButton) and wide > w.width():
            out.append(f"{name}: needs {wide}, has {w.width()}")
    for t in root.findChildren(QTableView):
        out += cut_cells(t) if t.isVisible() else []
    return out


def cut_cells(table):
    """The cells and heads of a table that do not show their values whole."""
    model, out = table.model(), []
    for j in range(model.columnCount()):
        head = str(model.headerData(j, Qt.Orientation.Horizontal))
        letters = table.fontMetrics()
        texts = (str(model.index(i, j).data()) for i in range(model.rowCount()))
        wide = max(
            letters.horizontalAdvance(head) + 6,
            *(letters.horizontalAdvance(t) + 12 for t in texts),
            0,
        )
        if wide > table.columnWidth(j):
            out.append(f"{table.objectName()} {head}: needs {wide}, has {table.columnWidth(j)}")
    return out


def states(window):
    """Every panel in turn: its name, once it is shown."""
    s = window.session
    p = s.state.current.project
    names = {r.label: k for k, r in p.structures.items()}
    for stage in ("layout", "levels", "checks", "trench", "ground"):
        s.select()
        window.go_stage(stage)
        yield stage
    for stage in ("layout", "levels"):
        window.go_stage(stage)
        for label in ("S5", "G1L", "HW1", "EX1"):
            s.select(structures=frozenset({names[label]}))
            yield f"{stage} {label}"
        s.select(pipes=frozenset(list(p.pipes)[:1]))
        yield f"{stage} pipe"
        s.select(frozenset(list(p.pipes)[:5]), frozenset(list(p.structures)[:4]), follow=False)
        yield f"{stage} several"
    window.go_stage("ground")
    s.select(pipes=frozenset(list(p.pipes)[:1]))
    yield "ground pipe"
    s.select()
    for kind, table in (
        ("road", p.roads),
        ("surface", p.surfaces),
        ("land", p.land),
        ("service", p.services),
    ):
        if table:
            s.pick(GroundItem(kind, next(iter(table))))
            yield f"ground {kind}"
    s.pick(None)
    for tool in ("lay", "gullies", "line-pipes"):
        window.actions_[tool].trigger()
        yield tool
        window.escape()


def faults(window):
    """All that is cut, in all panels."""
    out = []
    for name in states(window):
        for _ in range(3):
            QApplication.processEvents()
        window.side.grab()
        area = window.side
        assert isinstance(area, QScrollArea)
        if area.widget().width() > area.viewport().width():
            out.append(f"{name}: panel {area.widget().width()} wide in {area.viewport().width()}")
        out += [f"{name}: {c}" for c in cut(area.widget())]
    return out


def main():
    from zumbert.app.main import application
    from zumbert.app.theme import apply_theme
    from zumbert.app.window import Window
    from zumbert.demo.project import demo_project

    app = application()
    apply_theme(app, "light")
    window = Window(demo_project())
    window.show()
    found = faults(window)
    print("\n".join(found))
    return len(found)


if __name__ == "__main__":
    sys.exit(min(1, main()))
