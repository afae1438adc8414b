"""The page of flow: of the pipe or structure that is selected, or of the whole project."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QPushButton, QWidget

from zumbert.analysis.pipes import PipeFacts
from zumbert.app.panels.fields import ValueField, choice
from zumbert.app.panels.figures import FigureRow
from zumbert.app.panels.fixbuttons import FixButtons
from zumbert.app.panels.found import show_findings
from zumbert.app.panels.rows import Stack, chip, clear, fields, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.stages.flow.curve import MarksView
from zumbert.app.state import State
from zumbert.checks.check import rule_of
from zumbert.drawing.flowmarks import part_full_curve
from zumbert.edits.areas import set_inflow, set_share
from zumbert.edits.rain import set_travel
from zumbert.exchange.flowtables import area_sums, remark, unassigned
from zumbert.model.display import counted
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.quantity import FLOW
from zumbert.model.typed import typed_number

if TYPE_CHECKING:
    from zumbert.app.stages.flow.flowacts import FlowActs

TRAVEL = (("actual", "at the velocity of the flow"), ("full", "at full-bore velocity"))
BEGIN = "No flow yet. Give areas and a rain, or an inflow at a structure."


class FlowPage(QWidget):
    """Values of one pipe with its part-full curve and what mends it; sums where nothing is
    selected.
    """

    def __init__(self, session: Session, pen: Pen, acts: "FlowActs") -> None:
        super().__init__()
        self.session, self.pen, self.acts = session, pen, acts
        self.title, self.words = label("", "title"), wrapped("", "second")
        self.figures = Stack(None, 0)
        self.curve = MarksView(pen, "part-full curve", 170)
        self.share = ValueField("share of flow", self._take_share)
        self.inflow = ValueField("fixed inflow", self._take_inflow)
        self.travel = choice(pen, "travel velocity", TRAVEL)
        self.travel.activated.connect(
            lambda i: session.edit(
                "Change the travel velocity", lambda p, f: set_travel(p, self.travel.itemData(i))
            )
        )
        self.asked, self.given = QWidget(), QWidget()
        self.asked.setLayout(fields([("Share", self.share)], 96))
        self.given.setLayout(fields([("Fixed inflow", self.inflow)], 96))
        self.remark, self.found = wrapped("", "small"), Stack(None, 2)
        self.mend = Stack(None, 2)
        self.export = QPushButton("Flows and areas …")
        self.export.setObjectName("export flows")
        self.export.setToolTip("Every figure that leads to each flow, as a spreadsheet or CSV")
        self.export.clicked.connect(lambda: acts.export_flows())
        self._made: object = None
        whole = Stack(self, 5)
        head: tuple[QWidget, ...] = (self.title, self.words, self.curve)
        for w in head:
            whole.addWidget(w)
        whole.addLayout(self.figures)
        for w in (self.asked, self.given, self.remark):
            whole.addWidget(w)
        whole.addLayout(self.found)
        whole.addLayout(self.mend)
        whole.addWidget(rule())
        whole.addLayout(fields([("Travels", self.travel)], 96))
        whole.addWidget(self.export)
        whole.addWidget(chip("Read back sizes …", "read back sizes", acts.read_back))

    def refresh(self, s: State) -> None:
        """Shows the state."""
        pipe = (
            next(iter(s.chosen.pipes), None)
            if len(s.chosen.pipes) == 1 and not s.chosen.structures
            else None
        )
        structure = (
            next(iter(s.chosen.structures), None)
            if len(s.chosen.structures) == 1 and not s.chosen.pipes
            else None
        )
        facts, u = s.shown.facts, s.units
        self.travel.setCurrentIndex(self.travel.findData(s.shown.project.settings.travel))
        self.curve.show_drawn(None)
        self.asked.hide()
        self.given.setVisible(structure is not None)
        self.remark.setText("")
        keys: tuple[str, ...] = ()
        if pipe is not None and pipe in facts.pipes:
            self._pipe(s, facts.pipes[pipe])
            keys = (pipe,)
        elif structure is not None and structure in facts.structures:
            self._structure(s, structure)
        else:
            self._whole(s)
        self.remark.setVisible(bool(self.remark.text()))
        show_findings(self.found, self.pen, s, keys)
        if not s.previewing:
            self._offer(s, pipe)
        self.inflow.setPlaceholderText(f"0 {u.flow_unit}")

    def _rows(self, rows: list[tuple[str, str]]) -> None:
        clear(self.figures)
        for name, value in rows:
            self.figures.addWidget(FigureRow(self.pen, name, value))

    def _pipe(self, s: State, f: PipeFacts) -> None:
        u, facts = s.units, s.shown.facts
        q = facts.pipe_flow.get(f.pipe.id)
        ends = " to ".join(facts.project.structures[k].label for k in (f.pipe.up, f.pipe.down))
        self.title.setText(f"Pipe {ends}")
        self.words.setText(f"{f.pipe.label}, {u.dn(f.dn)}, {u.slope(f.slope)}")
        if q is None:
            self._rows([])
            self.remark.setText(remark(facts, f.pipe.id) or BEGIN)
            return
        self._rows(
            [
                ("CA", f"{u.wide(q.ca)} {u.wide_unit}"),
                ("Time of concentration", f"{u.minutes(q.tc)} min"),
                ("Intensity", f"{u.intensity(q.intensity)} {u.intensity_unit}"),
                ("Fixed inflow", u.flows(q.passed)),
                ("Design flow", u.flows(q.flow)),
                ("Full-bore flow", u.flows(q.capacity)),
                ("Flow over full bore", u.ratio(q.used)),
                ("Depth over diameter", u.ratio(q.depth_ratio)),
                ("Velocity", u.speed(q.velocity)),
                ("Critical depth", u.deep(q.critical_depth(f.inside))),
                ("Travel time", f"{u.minutes(q.travel)} min"),
            ]
        )
        self.curve.show_drawn(lambda wide, tall: part_full_curve(q, u, wide, tall))
        several = len(facts.links.outlets.get(f.pipe.up, ())) > 1
        self.asked.setVisible(several)
        self.share.show_value(u.ratio(q.share), False)
        self.share.setToolTip(
            "What of the flow that leaves its upper structure goes here; empty: what the others "
            "leave"
        )
        self.remark.setText(remark(facts, f.pipe.id) or "")

    def _structure(self, s: State, key: StructureId) -> None:
        u, facts = s.units, s.shown.facts
        record = facts.project.structures[key]
        self.title.setText(record.label)
        self.words.setText(facts.project.types[record.type].name)
        node = facts.flows.nodes.get(key) if facts.flows is not None else None
        own = [f for f in facts.areas.values() if f.area.structure == key]
        rows = [("Own areas", f"{len(own)}, {u.wide(sum(f.size for f in own))} {u.wide_unit}")]
        if node is not None:
            rows += [
                ("CA", f"{u.wide(node.ca)} {u.wide_unit}"),
                ("Time of concentration", f"{u.minutes(node.tc)} min"),
                ("Flow of rain", u.flows(node.rain)),
                ("Fixed inflows", u.flows(node.passed)),
            ]
        self._rows(rows)
        self.inflow.show_value(u.flow(record.inflow, 1), False)
        if node is not None and node.part:
            self.remark.setText("A part of the system alone gives more than the whole.")

    def _whole(self, s: State) -> None:
        u, facts = s.units, s.shown.facts
        self.title.setText("Design flow")
        rain = facts.project.rain
        self.words.setText(
            BEGIN
            if facts.flows is None
            else ""
            if rain is None
            else f"{rain.name}, {rain.years:g} years"
        )
        over = [q for q in facts.pipe_flow.values() if q.used is not None and q.used > 1]
        rows = [
            ("Pipes with flow", str(sum(q.flow > 0 for q in facts.pipe_flow.values()))),
            ("Over full bore", str(len(over))),
        ]
        for sums in area_sums(facts):
            for name, (size, ca, n) in sums.items():
                rows.append(
                    (name.capitalize(), f"{n}: {u.wide(size)}, CA {u.wide(ca)} {u.wide_unit}")
                )
        self._rows(rows)
        lost = unassigned(facts)
        if lost:
            named = ", ".join(lost[:4]) + (f" and {len(lost) - 4} more" if len(lost) > 4 else "")
            self.remark.setText(
                f"{counted(len(lost), 'area')} drain{'s' if len(lost) == 1 else ''} nowhere: "
                f"{named}."
            )

    def _offer(self, s: State, pipe: PipeId | None) -> None:
        """Fixes of what the flow of the pipe breaks."""
        found = (
            [f for f in s.picture.found(pipe) if rule_of(f.rule).of_flow and not f.decided]
            if pipe is not None
            else []
        )
        key = (s.current, tuple(f.key for f in found))
        if self._made == key:
            return
        self._made = key
        clear(self.mend)
        for finding in found[:1]:
            fixes = FixButtons(self.session, self.pen, None)
            self.mend.addWidget(fixes)
            fixes.offer(s, finding)

    def _take_share(self, text: str) -> bool:
        pipe = next(iter(self.session.state.chosen.pipes), None)
        if pipe is None:
            return False
        return self.session.edit(
            "Change a share of flow",
            lambda p, f: set_share(p, pipe, typed_number(text) if text.strip() else None),
        )

    def _take_inflow(self, text: str) -> bool:
        key = next(iter(self.session.state.chosen.structures), None)
        if key is None:
            return False
        u = self.session.units
        return self.session.edit(
            "Change an inflow",
            lambda p, f: set_inflow(p, key, u.typed(text.strip() or "0", of=FLOW)),
        )
