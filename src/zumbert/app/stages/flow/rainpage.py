"""The page of rain: its source, period, climate and entry, with its curves and the durations in
use.
"""

from functools import partial
from typing import TYPE_CHECKING, Any

from msgspec.structs import replace
from PySide6.QtWidgets import QApplication, QGridLayout, QWidget

from zumbert.analysis.facts import Facts
from zumbert.app.panels.fields import Combo, ValueField
from zumbert.app.panels.numbertable import NumberTable
from zumbert.app.panels.rows import SegmentedButton, Stack, chip, fields, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.flow.curve import MarksView
from zumbert.app.state import State
from zumbert.app.told import told
from zumbert.drawing.raincurve import atlas_map, atlas_place, rain_curves
from zumbert.edits.rain import change_rain, set_rain
from zumbert.exchange.rainatlas import shipped_atlas
from zumbert.exchange.raintoml import pasted_table
from zumbert.model.display import number
from zumbert.model.project import Project
from zumbert.model.rain import FORMS, Rain, RainFormula, RainTable, atlas_name
from zumbert.model.typed import typed_number

if TYPE_CHECKING:
    from zumbert.app.stages.flow.flowacts import FlowActs

OWN = {"name": "Name", "years": "Years", "climate": "Climate factor", "entry": "Entry, min"}
FORMULA = ("a", "b", "c", "m")
SOURCES = ("Formula", "Table", "By place")


class RainPage(QWidget):
    """Each change is an undo step; a typed value is shown in both drawings before it is taken."""

    def __init__(self, session: Session, pen: Pen, acts: "FlowActs") -> None:
        super().__init__()
        self.session, self.pen, self.acts = session, pen, acts
        self.page = 0
        self.none = wrapped(
            "No rain yet: type a formula, paste a table, or click the map of the rain atlas.",
            "second",
        )
        self.own = {k: ValueField(f"rain {k}", partial(self._take, k)) for k in OWN}
        self.formula = {k: ValueField(f"rain {k}", partial(self._take_formula, k)) for k in FORMULA}
        self.form = Combo(pen)
        self.form.setObjectName("rain form")
        self.form.setAccessibleName("Form of the formula")
        for form in FORMS.values():
            self.form.addItem(form.words)
        self.form.activated.connect(lambda i: self._change(form=tuple(FORMS)[i]))
        self.source = SegmentedButton(SOURCES, self.show_source)
        self.curves = MarksView(pen, "rain curves", 190)
        self.map = MarksView(pen, "rain atlas", 180, self._clicked)
        self.place = ValueField("rain place", self._take_place)
        self.table = NumberTable("rain table", ("min", "2 years"), self._take_table)
        self.by_formula, self.by_table, self.by_place = QWidget(), QWidget(), QWidget()
        self._build()

    def _build(self) -> None:
        whole = Stack(self, 5)
        whole.addWidget(self.none)
        whole.addLayout(fields([(words, self.own[k]) for k, words in OWN.items()], 96))
        whole.addWidget(rule())
        whole.addWidget(self.source)
        inner = Stack(self.by_formula, 4)
        inner.addWidget(self.form)
        inner.addWidget(label("i in mm/h, t in minutes, T in years", "small"))
        inner.addLayout(fields([(k, self.formula[k]) for k in FORMULA], 96))
        inner = Stack(self.by_table, 4)
        inner.addWidget(self.table)
        line = QGridLayout()
        line.addWidget(chip("Paste a table", "paste rain", self.paste), 0, 0)
        line.addWidget(chip("Add a period", "add period", self.add_period), 0, 1)
        line.addWidget(chip("Add a duration", "add duration", self.add_duration), 0, 2)
        inner.addLayout(line)
        inner = Stack(self.by_place, 4)
        inner.addWidget(
            wrapped("Click a place of the county: its rain is taken from the atlas.", "small")
        )
        inner.addWidget(self.map)
        inner.addLayout(fields([("x, y in km", self.place)], 96))
        inner.addWidget(chip("The place of the project", "rain of the project", self.of_project))
        for w in (self.by_formula, self.by_table, self.by_place):
            whole.addWidget(w)
        whole.addWidget(rule())
        whole.addWidget(self.curves)
        line = QGridLayout()
        line.addWidget(chip("Import …", "import rain", self.acts.import_rain), 0, 0)
        line.addWidget(chip("Export …", "export rain", self.acts.export_rain), 0, 1)
        line.addWidget(chip("No rain", "no rain", lambda: self._set(None)), 0, 2)
        whole.addLayout(line)

    # -- what is shown -----------------------------------------------------------------------------

    def refresh(self, s: State) -> None:
        """Shows the state."""
        rain, facts = s.shown.project.rain, s.shown.facts
        self.none.setVisible(rain is None)
        held = rain or Rain()
        for k, field in self.own.items():
            value = getattr(held, k)
            field.show_value(
                "" if rain is None else value if isinstance(value, str) else plain(value), False
            )
        source = held.source
        if isinstance(source, RainFormula):
            self.form.setCurrentIndex(tuple(FORMS).index(source.form))
            for k, field in self.formula.items():
                field.show_value("" if rain is None else plain(getattr(source, k)), False)
        else:
            heads = ["min", *(f"{plain(y)} years" for y, _ in source.rows)]
            if self.table.columnCount() != len(heads):
                self.table.setColumnCount(len(heads))
            self.table.setHorizontalHeaderLabels(heads)
            rows = [
                [plain(m), *(plain(row[i]) for _, row in source.rows)]
                for i, m in enumerate(source.minutes)
            ]
            self.table.show_cells(rows)
        self._show_page(1 if isinstance(source, RainTable) and self.page != 2 else self.page)
        times = sorted({round(q.tc, 3) for q in facts.pipe_flow.values() if q.ca > 0})
        u = s.units
        self.curves.show_drawn(
            (lambda wide, tall: rain_curves(rain, times, u, wide, tall))
            if rain is not None
            else None
        )
        place = held.place
        self.place.show_value(
            "" if place is None else f"{plain(place[0])}, {plain(place[1])}", False
        )
        self.map.show_drawn(lambda wide, tall: atlas_map(shipped_atlas(), place, wide, tall))
        self.by_place.setVisible(self.page == 2)

    def show_source(self, i: int) -> None:
        """Turns to a source."""
        source = self.session.state.current.project.rain
        self.page = i
        if i == 1 and (source is None or not isinstance(source.source, RainTable)):
            self._show_page(1)
            return
        self._show_page(i)
        self.refresh(self.session.state)

    def _show_page(self, i: int) -> None:
        self.page = i
        self.source.show_choice(i)
        for k, w in enumerate((self.by_formula, self.by_table, self.by_place)):
            w.setVisible(k == i)

    # -- what is done ------------------------------------------------------------------------------

    def _set(self, rain: Rain | None) -> bool:
        return self.session.edit("Change the rain", lambda p, f: set_rain(p, rain))

    def _take(self, key: str, text: str) -> bool:
        def value() -> Any:
            return text.strip() if key == "name" else typed_number(text)

        return self.session.edit("Change the rain", lambda p, f: change_rain(p, **{key: value()}))

    def _take_formula(self, key: str, text: str) -> bool:
        return self._change(**{key: lambda: typed_number(text)})

    def _change(self, **values: Any) -> bool:
        """Changes the formula; a value may be a function, which may refuse it."""
        rain = self.session.state.current.project.rain
        source = rain.source if rain is not None else None
        formula = source if isinstance(source, RainFormula) else RainFormula()

        def made(p: Project, f: Facts) -> Project:
            new = replace(formula, **{k: v() if callable(v) else v for k, v in values.items()})
            return p if new == source else change_rain(p, source=new)

        return self.session.edit("Change the rain", made)

    def _with_table(self, table: RainTable) -> bool:
        rain = self.session.state.current.project.rain or Rain()
        periods = [y for y, _ in table.rows]
        years = min(max(rain.years, periods[0]), periods[-1]) if periods else rain.years
        return self.session.edit(
            "Change the rain", lambda p, f: change_rain(p, source=table, years=years)
        )

    def _take_table(self, cells: list[list[str]]) -> bool:
        rain = self.session.state.current.project.rain
        if rain is None or not isinstance(rain.source, RainTable):
            return False
        periods = [y for y, _ in rain.source.rows]

        def made() -> RainTable:
            rows = sorted([typed_number(v) for v in row] for row in cells)
            columns = [(y, tuple(row[i + 1] for row in rows)) for i, y in enumerate(periods)]
            return RainTable(minutes=tuple(row[0] for row in rows), rows=tuple(columns))

        return self.session.edit("Change the rain", lambda p, f: change_rain(p, source=made()))

    @told(False)
    def paste(self) -> bool:
        """Takes the table that a spreadsheet has put on the clipboard."""
        return self._with_table(pasted_table(QApplication.clipboard().text()))

    def _table_now(self) -> RainTable:
        rain = self.session.state.current.project.rain
        if rain is not None and isinstance(rain.source, RainTable):
            return rain.source
        return RainTable(minutes=(5.0, 10.0, 30.0, 60.0), rows=((2.0, (120.0, 90.0, 50.0, 30.0)),))

    def add_period(self) -> None:
        """Adds a return period twice as long as the last, a fifth more intense; a first table
        where there is none.
        """
        table = self._table_now()
        rain = self.session.state.current.project.rain
        if rain is not None and rain.source is table:
            years, row = table.rows[-1]
            table = replace(
                table, rows=(*table.rows, (years * 2, tuple(round(v * 1.2, 2) for v in row)))
            )
        self._with_table(table)

    def add_duration(self) -> None:
        """Adds a duration twice as long as the last, on the line of the last two."""
        table = self._table_now()
        rows = tuple(
            (y, (*row, round(row[-1] * min(1.0, row[-1] / row[-2]), 2))) for y, row in table.rows
        )
        self._with_table(replace(table, minutes=(*table.minutes, table.minutes[-1] * 2), rows=rows))

    def _clicked(self, x: float, y: float) -> None:
        place = atlas_place(
            shipped_atlas(), x, y, float(self.map.width()), float(self.map.height())
        )
        if place is not None:
            self._at(*place)

    def _take_place(self, text: str) -> bool:
        words = text.replace(",", " ").split()
        return len(words) == 2 and self._at(typed_number(words[0]), typed_number(words[1]))

    def of_project(self) -> None:
        """Takes the rain of where the project lies, by its own coordinates."""
        places = [
            (p.x, p.y)
            for p in self.session.state.current.facts.places.values()
            if p.x is not None and p.y is not None
        ]
        if not places:
            self.session.refused.emit(
                "There is no structure yet: place one first, or click the map."
            )
            return
        self._at(*(sum(v) / len(places) / 1000 for v in zip(*places, strict=True)))

    def _at(self, x: float, y: float) -> bool:
        def made(p: Any, f: Any) -> Any:
            place = round(x, 2), round(y, 2)
            source = shipped_atlas().formula_at(x, y)
            return change_rain(p, source=source, place=place, name=atlas_name(place))

        return self.session.edit("Take the rain of a place", made)


def plain(value: float) -> str:
    """A number with no more decimals than it needs."""
    return number(value, 4).rstrip("0").rstrip(".")
