"""The panel of what lies under the work: surfaces with their roles, roads, drawings with their layers."""

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from zumbert.app.panels.rows import Combo, Stack, clear, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session, State
from zumbert.edits.ground import (
    remove_background,
    remove_road,
    remove_surface,
    set_profile,
    set_role,
    show_layers,
)  # fmt: skip
from zumbert.edits.setup import set_carriageway
from zumbert.errors import EditError
from zumbert.model.background import Background
from zumbert.model.road import Carriageway, Road
from zumbert.model.surface import Surface

ROLES = (("existing", "existing ground"), ("design", "design surface"), ("formation", "formation"), ("none", "no role"))


class GroundPanel(QWidget):
    """Each change is an edit with its undo step; made anew when surfaces, roads or drawings change."""

    def __init__(self, session: Session, pen: Pen, ask: Callable[[], None]) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self._shown: tuple[object, ...] = ()
        self.body = QVBoxLayout()
        self.body.setSpacing(5)
        whole = Stack(self, 6)
        whole.addWidget(label("Ground", "title"))
        whole.addWidget(label("What lies under the work", "second"))
        whole.addWidget(rule())
        whole.addLayout(self.body)
        take = QPushButton("Import LandXML, DXF, CSV or TOML …")
        take.setObjectName("import files")
        take.clicked.connect(lambda: ask())
        whole.addWidget(take)
        whole.addStretch(1)

    def refresh(self, s: State) -> None:
        """Shows the state."""
        project = s.shown.project
        key = (project.surfaces, project.roads, project.backgrounds)
        if len(self._shown) == 3 and all(a is b for a, b in zip(key, self._shown, strict=True)):
            return
        self._shown = key
        clear(self.body)
        self._title("Surfaces", bool(project.surfaces), "No surface yet: import LandXML.")
        for surface in project.surfaces.values():
            self._surface(surface)
        self._title("Roads", bool(project.roads), "No road yet: import LandXML.")
        for road in project.roads.values():
            self._road(s, road)
        if project.backgrounds:
            self._title("Drawings", True, "")
        for background in project.backgrounds.values():
            self._background(background)
        self.body.addWidget(rule())

    def _title(self, text: str, some: bool, otherwise: str) -> None:
        if self.body.count():
            self.body.addWidget(rule())
        self.body.addWidget(label(text, "section"))
        if not some:
            self.body.addWidget(wrapped(otherwise, "second"))

    def _remove(self, what: str, run: Callable[[], object]) -> QPushButton:
        button = QPushButton("Remove")
        button.setProperty("role", "chip")
        button.setAccessibleName(f"Remove {what}")
        button.setObjectName(f"remove {what}")
        button.clicked.connect(lambda: run())
        return button

    def _head(self, name: str, run: Callable[[], object]) -> None:
        row = QHBoxLayout()
        row.addWidget(label(name))
        row.addStretch(1)
        row.addWidget(self._remove(name, run))
        self.body.addLayout(row)

    def _surface(self, s: Surface) -> None:
        self._head(s.name, partial(self.session.edit, f"Remove {s.name}", lambda p, f: remove_surface(p, s.id)))
        box = Combo(self.pen)
        box.setObjectName(f"role {s.name}")
        for key, text in ROLES:
            box.addItem(text, key)
        box.setCurrentIndex(box.findData(s.role))
        box.activated.connect(
            lambda _: self.session.edit(
                f"Change the role of {s.name}", lambda p, f: set_role(p, s.id, box.currentData())
            )
        )
        self.body.addWidget(box)
        z, u = s.vertices[:, 2], self.session.units
        words = f"{len(s.faces)} faces, level {u.length(z.min())} to {u.long(z.max())}" if len(z) else "empty"
        self.body.addWidget(label(words, "small"))

    def _road(self, s: State, r: Road) -> None:
        u = s.units
        self._head(r.name, partial(self.session.edit, f"Remove {r.name}", lambda p, f: remove_road(p, r.id)))
        a = s.shown.facts.roads[r.id].alignment
        self.body.addWidget(label(f"{u.chainage(a.start)} to {u.chainage(a.end)}, {u.long(a.length)}", "small"))
        box = Combo(self.pen)
        box.setObjectName(f"profile {r.name}")
        box.addItem("no design profile", None)
        for i, profile in enumerate(r.profiles):
            if profile.kind == "design":
                box.addItem(f"profile {profile.name}", i)
        box.setCurrentIndex(max(0, box.findData(r.design)))
        box.activated.connect(
            lambda _: self.session.edit(
                f"Change the profile of {r.name}", lambda p, f: set_profile(p, r.id, box.currentData())
            )
        )
        self.body.addWidget(box)
        self._widths(r)

    def _widths(self, r: Road) -> None:
        """The paved width, for the plan: left, right, verge; all empty draws the centre line alone."""
        c = r.carriageway
        grid = QGridLayout()
        fields: list[QLineEdit] = []
        for i, (text, now) in enumerate((("left", c and c.left), ("right", c and c.right), ("verge", c and c.verge))):
            field = QLineEdit(f"{self.session.units.shown(now):.4g}" if isinstance(now, float) else "")
            field.setObjectName(f"{text} of {r.name}")
            field.setAccessibleName(f"Paved width {text} of {r.name}, m")
            field.editingFinished.connect(lambda: self._set_widths(r, fields))
            grid.addWidget(label(f"{text}, {self.session.units.m}", "small"), 0, i)
            grid.addWidget(field, 1, i)
            fields.append(field)
        self.body.addLayout(grid)

    def _set_widths(self, r: Road, fields: list[QLineEdit]) -> None:
        texts = [f.text().strip() for f in fields]
        try:
            u = self.session.units
            values = [u.typed(t) if t else 0.0 for t in texts]
            if min(values) < 0 or max(values) > 100:
                raise EditError("A paved width is 0 to 100 m.")
        except (EditError, ValueError) as e:
            self.session.refused.emit(str(e))
            return
        wanted = Carriageway(left=values[0], right=values[1], verge=values[2]) if any(texts) else None
        now = self.session.state.kept.project.roads.get(r.id)
        if now is not None and wanted != now.carriageway:
            self.session.edit(f"Set the width of {r.name}", lambda p, f: set_carriageway(p, r.id, wanted))

    def _background(self, b: Background) -> None:
        self._head(b.name, partial(self.session.edit, f"Remove {b.name}", lambda p, f: remove_background(p, b.id)))
        for name in b.layers:
            box = QCheckBox(name)
            box.setObjectName(f"layer {name}")
            box.setChecked(name not in b.off)
            box.clicked.connect(lambda _=False, n=name: self._toggle(b, n))
            self.body.addWidget(box)

    def _toggle(self, b: Background, name: str) -> None:
        now = self.session.state.kept.project.backgrounds[b.id].off
        word = "Show" if name in now else "Hide"
        self.session.edit(f"{word} layer {name}", lambda p, f: show_layers(p, b.id, now ^ {name}))
