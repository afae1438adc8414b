"""The page of what is counted and how: networks, strata, depth bands, what goes back, and rates."""

from functools import partial
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QWidget

from zumbert.analysis.quantities import quantities
from zumbert.analysis.takeoff import takeoff
from zumbert.analysis.union import Net
from zumbert.app.panels.fields import ValueField
from zumbert.app.panels.numbertable import Cells, NumberTable
from zumbert.app.panels.rows import Stack, chip, clear, fields, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.questions import file_to_read
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.edits.digging import (
    AMOUNTS,
    set_amount,
    set_bands,
    set_network_counted,
    set_rate,
    set_statuses_dug,
    set_strata,
    set_to_centres,
)
from zumbert.errors import EditError, known
from zumbert.model.digging import GENERAL, ROCK, Digging, Stratum
from zumbert.model.display import Units, number
from zumbert.model.ids import SurfaceId
from zumbert.model.project import Project
from zumbert.model.structure import Status
from zumbert.model.typed import typed_number

LENGTHS = ("stripped", "carriageway", "verge", "field")  # amounts that are lengths


class CountingPage(QWidget):
    """Each change is an undo step."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__()
        self.session, self.pen = session, pen
        self._filled: object = None
        self.networks = QGridLayout()
        self.existing = QCheckBox("Existing work is dug too")
        self.centres = QCheckBox("Trenches run to the centres of chambers")
        self.existing.setObjectName("existing dug")
        self.centres.setObjectName("to centres")
        self.existing.clicked.connect(self._dig_existing)
        self.centres.clicked.connect(
            lambda on: session.edit(
                "Trenches to centres" if on else "Trenches to pit edges",
                lambda p, f: set_to_centres(p, on),
            )
        )
        self.amounts = {k: self._amount_field(k) for k in AMOUNTS}
        self.bands = ValueField("depth bands", self._set_bands)
        self.bands.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.bands.setToolTip("Where each band begins: 0, 1.5, 2, 3, 4; the last is open")
        self.strata = NumberTable("strata", ("stratum", "thick", "top from"), self._set_strata)
        self.strata.setToolTip(
            "From the top: name, thickness (empty: down to the next), and the surface that its "
            "top is (empty: "
            "where the one above ends). Del takes rows out."
        )
        self.rates = NumberTable("rates", ("item", "unit", "rate"), self._set_rates, rows_go=False)
        self.rates.setToolTip("What one unit of an item costs; empty: it is not priced")
        self.sums = wrapped("", "second")
        self._build()

    def _amount_field(self, key: str) -> ValueField:
        field = ValueField(f"amount {key}", partial(self._amount, key))
        field.setFixedWidth(76)
        return field

    def _build(self) -> None:
        whole = Stack(self, 5)
        whole.addWidget(label("What is counted", "section"))
        whole.addLayout(self.networks)
        whole.addWidget(self.existing)
        whole.addWidget(self.centres)
        whole.addWidget(rule())
        whole.addWidget(label("Strata, from the top", "section"))
        whole.addWidget(self.strata)
        line = QHBoxLayout()
        line.addWidget(chip("Add a stratum", "add stratum", self._add_stratum))
        line.addWidget(chip("Boreholes …", "boreholes", self._boreholes))
        line.addStretch(1)
        whole.addLayout(line)
        whole.addWidget(rule())
        whole.addWidget(label("Depth bands", "section"))
        whole.addWidget(self.bands)
        whole.addWidget(rule())
        whole.addWidget(label("Before digging, and after", "section"))
        whole.addLayout(fields([(AMOUNTS[k][0], f) for k, f in self.amounts.items()], 196))
        whole.addWidget(rule())
        whole.addWidget(label("Rates", "section"))
        whole.addWidget(self.sums)
        whole.addWidget(self.rates)

    # -- what is shown -----------------------------------------------------------------------------

    def refresh(self, s: State) -> None:
        """Shows the state."""
        project, u, how = s.shown.project, s.units, s.shown.project.digging
        key = (project.networks, how, project.surfaces, s.dug.trenches)
        if isinstance(self._filled, tuple) and all(
            a is b for a, b in zip(key, self._filled, strict=True)
        ):
            return
        self._filled = key
        clear(self.networks)
        for i, n in enumerate(project.networks.values()):
            box = QCheckBox(n.name)
            box.setObjectName(f"count {n.name}")
            box.setChecked(n.id not in how.left_out)
            box.clicked.connect(lambda on, n=n: self._count(n.id, n.name, on))
            self.networks.addWidget(box, i, 0)
        self.existing.setChecked("existing" in how.statuses)
        self.centres.setChecked(how.to_centres)
        for k, field in self.amounts.items():
            value = getattr(how, k)
            field.show_value(u.full(value) if k in LENGTHS else number(value, 2), False)
        self.bands.show_value(", ".join(u.full(b) for b in how.bands), False)
        self.bands.setCursorPosition(0)
        self.strata.show_cells([self._stratum(project, u, x) for x in how.strata])
        self._show_rates(s)

    def _stratum(self, project: Project, u: Units, x: Stratum) -> list[str]:
        surface = project.surfaces.get(x.surface) if x.surface is not None else None
        top = (
            f"{len(x.boreholes)} boreholes"
            if x.boreholes
            else ""
            if surface is None
            else surface.name
        )
        return [x.name, "" if x.thickness is None else u.full(x.thickness), top]

    def _show_rates(self, s: State) -> None:
        if s.dug.trenches is None:
            return
        net = s.dug.net[1] if s.dug.net is not None else Net({}, {}, ())
        items = takeoff(s.shown.facts, quantities(s.dug.trenches, net=net), "description")
        rates = {(r.item, r.unit): r.rate for r in s.shown.project.digging.rates}
        names = list(
            dict.fromkeys([*((i.name, i.unit) for i in items if i.status == "proposed"), *rates])
        )
        self.rates.show_cells(
            [
                [n, unit or "each", "" if (n, unit) not in rates else number(rates[n, unit], 2)]
                for n, unit in names
            ]
        )
        total = sum(
            rates.get((i.name, i.unit), 0.0) * i.quantity for i in items if i.status == "proposed"
        )
        self.sums.setText(
            f"Proposed work with a rate: {number(total, 2)}"
            if rates
            else "Type a rate to price an item."
        )

    # -- what is changed ---------------------------------------------------------------------------

    def _count(self, network: Any, name: str, on: bool) -> None:
        self.session.edit(
            f"Count {name}" if on else f"Leave {name} out",
            lambda p, f: set_network_counted(p, network, on),
        )

    def _dig_existing(self, on: bool) -> None:
        how: Digging = self.session.state.current.project.digging
        statuses: set[Status] = (
            {*how.statuses, "existing"} if on else {*how.statuses} - {"existing"}
        )
        words = "Dig existing work" if on else "Do not dig existing work"
        self.session.edit(words, lambda p, f: set_statuses_dug(p, statuses))

    def _amount(self, key: str, text: str) -> bool:
        u = self.session.units
        take = u.typed if key in LENGTHS else typed_number
        return self.session.edit(
            f"{AMOUNTS[key][0]} {text}", lambda p, f: set_amount(p, key, take(text))
        )

    def _set_bands(self, text: str) -> bool:
        u = self.session.units
        return self.session.edit(
            "Change the depth bands",
            lambda p, f: set_bands(
                p, [u.typed(t) for t in text.replace(";", ",").split(",") if t.strip()]
            ),
        )

    def _set_strata(self, cells: Cells) -> bool:
        def make(project: Project, _: Any) -> Project:
            before = {s.name: s for s in project.digging.strata}
            return set_strata(project, [self._read(project, row, before) for row in cells])

        return self.session.edit("Change the strata", make)

    def _read(self, project: Project, row: list[str], before: dict[str, Stratum]) -> Stratum:
        name, thick, top = (t.strip() for t in row)
        old = before.get(name)
        surface: SurfaceId | None = None
        boreholes: tuple[tuple[float, float, float], ...] = ()
        if old is not None and old.boreholes and top.endswith("boreholes"):
            boreholes = old.boreholes
        elif top:
            names = {s.name.casefold(): k for k, s in project.surfaces.items()}
            surface = names.get(top.casefold())
            if surface is None:
                every = [s.name for s in project.surfaces.values()]
                raise EditError(
                    f'There is no surface "{top}" for the top of {name}: {known(top, every)}'
                )
        thickness = self.session.units.typed(thick) if thick else None
        return Stratum(name=name, thickness=thickness, surface=surface, boreholes=boreholes)

    def _add_stratum(self) -> None:
        def make(project: Project, _: Any) -> Project:
            strata = list(project.digging.strata)
            names = {s.name for s in strata}
            name = next(
                (n for n in ("topsoil", GENERAL, ROCK) if n not in names),
                f"stratum {len(strata) + 1}",
            )
            return set_strata(
                project, [*strata, Stratum(name=name, thickness=0.2 if name == "topsoil" else None)]
            )

        self.session.edit("Add a stratum", make)

    def _boreholes(self) -> None:
        """Asks for a list of boreholes, and takes them as the top of the last stratum."""
        from zumbert.exchange.points import points_of, read_point_text

        title = "Boreholes: x, y and level of the top of the last stratum"
        path = file_to_read(self, title, "", "Points (*.csv *.txt)")
        if path is None:
            return

        def make(project: Project, _: Any) -> Project:
            strata = list(project.digging.strata) or [Stratum(name=GENERAL), Stratum(name=ROCK)]
            xyz = points_of(read_point_text(path)).xyz * project.units.metres
            boreholes = tuple((float(x), float(y), float(z)) for x, y, z in xyz.tolist())
            return set_strata(
                project, [*strata[:-1], replace(strata[-1], surface=None, boreholes=boreholes)]
            )

        self.session.edit("Import boreholes", make)

    def _set_rates(self, cells: Cells) -> bool:
        def make(project: Project, _: Any) -> Project:
            for name, unit, text in cells:
                rate = typed_number(text) if text.strip() else None
                project = set_rate(project, name, "" if unit == "each" else unit, rate)
            return project

        return self.session.edit("Change the rates", make)
