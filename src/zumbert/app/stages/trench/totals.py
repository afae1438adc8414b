"""The totals page: what is dug by size, depth and stratum, how they balance, what is not counted,
and what has changed.
"""

from functools import partial

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QGridLayout

from zumbert.analysis.crosssection import cross_section
from zumbert.analysis.digs import trench_type
from zumbert.analysis.quantities import DugRow, PipeRow, Quantities, Total, quantities
from zumbert.analysis.sectionsteps import place_on, where_words
from zumbert.analysis.takeoff import priced, takeoff
from zumbert.analysis.union import Net
from zumbert.app.panels.figures import FigureRow
from zumbert.app.panels.rows import Stack, clear, label, pair, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.reader import Keeper
from zumbert.app.reading import note
from zumbert.app.session import Session
from zumbert.app.stages.trench.changes import MANY, NOTHING, ChangesPage
from zumbert.app.state import State
from zumbert.drawing.hatches import pattern_of
from zumbert.exchange.quantitytables import OVERLAP_WORDS
from zumbert.model.digging import Digging
from zumbert.model.display import counted, number

REST = 60  # ms
LATER = 250  # ms that a drag rests, until what changed is told
MOST_LINES = 8


class TotalsPage(ChangesPage, Keeper):
    """Follows the trenches and the shared cursor."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__(session, pen)
        self.title, self.sub = label("Trench", "title"), wrapped("", "second")
        self.here = QGridLayout()
        self.here.setHorizontalSpacing(10)
        self.here.setVerticalSpacing(0)
        self.body = Stack(None, 0)
        whole = Stack(self)
        whole.addWidget(self.title)
        whole.addWidget(self.sub)
        whole.addLayout(self.here)
        whole.addWidget(rule())
        whole.addLayout(self.body)
        whole.addWidget(rule())
        whole.addLayout(pair(label("What changed", "section"), self.since))
        whole.addLayout(self.changes)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST)
        self._rest.timeout.connect(self._rested)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(LATER)
        self._later.timeout.connect(self._compare)

    # -- at the cursor -----------------------------------------------------------------------------

    def refresh(self, s: State) -> None:
        """Shows the state."""
        if s.dug.trenches is None:
            return
        self._show_here(s)
        if s.previewing and len(s.shown.project.pipes) > MANY:
            self._rest.start()
        else:
            self._rested()

    def _rested(self) -> None:
        """Shows the totals; a figure that is pressed is let go of first, since the page is made of
        new rows.
        """
        if any(row.isDown() for row in self.findChildren(FigureRow)):
            self._rest.start()
            return
        self._rest.stop()
        focus = self.focusWidget()
        name = focus.objectName() if isinstance(focus, FigureRow) and focus.hasFocus() else ""
        self.kept("totals", (), self._show_totals)
        row = self.findChild(FigureRow, name) if name else None
        if row is not None:
            row.setFocus()

    def _show_here(self, s: State) -> None:
        dug, run, u = s.dug.trenches, s.look.run, s.units
        place = (
            place_on(dug, run, s.at.cursor)
            if dug is not None and run is not None and s.at.cursor is not None
            else None
        )
        if place is None or dug is None:
            if not self.sub.text():
                self.sub.setText("Move along the long section to see its trench.")
            return
        project = s.shown.project
        pipe = project.pipes[place.pipe]
        f, t = dug.facts.pipes[place.pipe], dug.pipes[place.pipe]
        self.title.setText(f"Trench at {where_words(dug.facts, place.pipe, place.s)}")
        ends = f"{project.structures[pipe.up].label} to {project.structures[pipe.down].label}"
        self.sub.setText(f"Pipe {ends}, {u.dn(f.dn)}. {trench_type(project, pipe).name}")
        section = cross_section(dug, place.pipe, place.s)
        cut, pit = section.trench, section.pit
        if pit is not None:
            rows = [
                ("Pit of", project.structures[pit.structure].label),
                ("Pit bottom", u.level(pit.bottom)),
                ("Pit", f"{u.volume(dug.pits[pit.structure].excavation)} {u.m3}"),
            ]
        elif cut is None:
            rows = [("", t.misfit or ("no trench here" if t.dig is not None else "not dug"))]
        else:
            rock = {k: v for k, v in cut.by_stratum.items() if "rock" in k.casefold()}
            deepest = list(rock.items()) or list(cut.by_stratum.items())[-1:]
            rows = [
                ("Depth left", f"{u.length(cut.left)} {u.m}"),
                ("Depth right", f"{u.length(cut.right)} {u.m}"),
                ("Top width", f"{u.length(cut.top_width)} {u.m}"),
                ("Area", u.square(cut.area, 2)),
                *((f"Area in {k}", u.square(v, 2)) for k, v in deepest),
                ("Dug from", trench_type(project, pipe).upper.capitalize()),
            ]
        clear(self.here)
        for i, (name, value) in enumerate(rows):
            self.here.addWidget(label(name, "small"), i // 3 * 2, i % 3)
            self.here.addWidget(label(value, "section"), i // 3 * 2 + 1, i % 3)

    # -- totals ------------------------------------------------------------------------------------

    def _net(self, s: State) -> tuple[Net, str]:
        """The union for what is shown: worked out, or as it was last, and how it is told."""
        if s.dug.net is not None and s.dug.net[0] is s.dug.trenches:
            return s.dug.net[1], ""
        return (NOTHING, "being worked out") if s.dug.net is None else (s.dug.net[1], "estimate")

    def _show_totals(self, s: State) -> None:
        if s.dug.trenches is None:
            return
        note(s, "current")  # the history has changed with it
        net, told = self._net(s)
        q = self.q = quantities(s.dug.trenches, net=net)
        clear(self.body)
        for status, total in q.totals.items():
            if status == "proposed" or total.excavation or total.not_counted:
                self._status(s, status, total, q, told)
            elif total.length:
                words = f"{status.capitalize()}: {s.units.long(total.length)}, no digging counted."
                self.body.addWidget(wrapped(words, "second"))
        if not q.totals:
            self.body.addWidget(wrapped("Nothing is laid yet.", "second"))
        self._overlaps(s, q)
        self._costs(s, q)
        if s.previewing:
            self._later.start()
        else:
            self._compare()

    def _compare(self) -> None:
        """Shows what has changed, once a drag rests."""
        self._later.stop()
        self._fill_since()
        self._show_changes()

    def _status(self, s: State, status: str, t: Total, q: Quantities, told: str) -> None:
        u, add = s.units, self.body.addWidget
        rows: list[PipeRow] = [r for r in q.pipes if r.status == status]
        every: list[DugRow] = [*rows, *(r for r in q.structures if r.status == status)]
        self.body.addLayout(pair(label(f"Excavation, {status}", "section"), label(u.m3, "small")))
        names = list(t.by_stratum)
        roles = {n: f"stratum-{pattern_of(n, i)}" for i, n in enumerate(names)}
        most = max([*(dug for _, dug in t.by_dn.values()), t.pits, *t.by_depth.values(), 1e-9])
        for dn, (long, dug) in t.by_dn.items():
            mine = [r for r in rows if r.dn == dn]
            parts = [(roles[n], sum(r.by_stratum.get(n, 0.0) for r in mine) / most) for n in names]
            add(
                self._row(
                    u.dn(dn),
                    u.volume(dug),
                    bar=parts,
                    of=mine,
                    tip=f"{u.long(long)} of pipe, by stratum",
                )
            )
        parts = [
            (
                roles[n],
                sum(r.by_stratum.get(n, 0.0) for r in q.structures if r.status == status) / most,
            )
            for n in names
        ]
        pits = [r for r in q.structures if r.status == status and r.excavation]
        add(self._row("Pits", u.volume(t.pits), bar=parts, of=pits, tip="Chamber pits, each once"))
        add(rule())
        for name, volume in t.by_depth.items():
            words = f"{Digging.band_words(name, u.metres)} {u.m}"
            tip = f"What of the digging lies {words} deep"
            add(
                self._row(
                    words,
                    u.volume(volume),
                    bar=[("soft", volume / most)],
                    of=[r for r in every if name in r.by_depth],
                    tip=tip,
                )
            )
        add(rule())
        for name, volume in t.by_stratum.items():
            tip = f"Excavation in {name}"
            add(
                self._row(
                    name.capitalize(),
                    u.volume(volume),
                    bar=[(roles[name], volume / max(t.excavation, 1e-9))],
                    of=[r for r in every if name in r.by_stratum],
                    tip=tip,
                )
            )
        add(
            self._row(
                "Trenches and pits",
                u.volume(t.excavation),
                strong=True,
                of=[r for r in every if r.excavation],
            )
        )
        if s.dug.sectioned is not None and s.dug.sectioned[0] is s.dug.trenches and t.trenches:
            by = sum(s.dug.sectioned[1].get(r.id, 0.0) for r in rows)
            tip = (
                f"Trenches alone by average end areas: {u.volume(by)} {u.m3}; exact: "
                f"{u.volume(t.trenches)} {u.m3}"
            )
            add(
                self._row(
                    (
                        "Trenches by sections, "
                        f"{number((by / t.trenches - 1) * 100, 2, signed=True)} %"
                    ),
                    u.volume(by),
                    tip=tip,
                )
            )
        add(rule())
        for name, long in t.length_by_depth.items():
            words = f"Trench {Digging.band_words(name, u.metres)} {u.m} deep"
            add(self._row(words, u.long(long), of=[r for r in rows if name in r.length_by_depth]))
        add(rule())
        add(label("From digging to filling", "section"))
        shared = [r for r in every if r.shared > 0]
        known = s.dug.net is not None

        # what goes by the union, which may not be that of what is shown yet
        def by_net(text: str) -> str:
            return f"≈ {text}" if told else text

        net = by_net(u.volume(t.excavation_net)) if known else "in work"
        add(
            self._row(
                "less shared space",
                by_net(u.volume(-t.shared)) if known else "–",
                of=shared,
                tip="What two digs or more have in common is counted once",
            )
        )
        whole = [r for r in every if r.excavation]
        tip = "The union of all trenches and pits: click to light them up"
        add(self._row("Net excavation", net, strong=True, of=whole, tip=told or tip))
        for words, value, of in (
            ("less bedding", t.bedding, rows),
            ("less surround", t.surround, rows),
            ("less pipes", t.pipes, rows),
            ("less chambers", t.chambers, pits),
        ):
            if value:
                add(self._row(words, u.volume(-value), of=of))
        if t.reinstatement:
            add(self._row("less reinstatement", by_net(u.volume(-t.reinstatement))))
        add(self._row("Backfill", by_net(u.volume(t.backfill)), strong=True, of=whole, tip=told))
        bulked = f"Surplus, bulked × {number(s.shown.project.digging.bulking, 2)}"
        add(self._row(bulked, by_net(u.volume(t.surplus)), of=whole, tip=told))
        add(rule())
        add(label("Sides and surface", "section"))
        if t.support:
            add(self._row("Side support", u.square(t.support), of=[r for r in every if r.support]))
        for kind, area in t.areas.items():
            add(
                self._row(
                    f"Reinstatement, {kind}",
                    by_net(u.square(area)),
                    of=[r for r in every if kind in r.areas],
                )
            )
        self._cautions(s, t, q, rows, every)

    def _cautions(
        self, s: State, t: Total, q: Quantities, rows: list[PipeRow], every: list[DugRow]
    ) -> None:
        u = s.units
        filled = [r for r in rows if r.fill > 0.005]
        if filled:
            first = ", ".join(f"{r.up} to {r.down} {u.volume(r.fill)} {u.m3}" for r in filled[:6])
            more = f" and {len(filled) - 6} more" if len(filled) > 6 else ""
            self.body.addWidget(
                wrapped(
                    f"Fill first, up to the crowns that lie over the ground: {first}{more}.",
                    "caution",
                )
            )
        if t.not_counted:
            words = "; ".join(f"{k}: {why}" for k, why in list(t.not_counted.items())[:6])
            more = f"; and {len(t.not_counted) - 6} more" if len(t.not_counted) > 6 else ""
            self.body.addWidget(wrapped(f"Incomplete. Not counted: {words}{more}.", "caution"))
        rock = [
            r.label
            for r in q.structures
            if any("rock" in n.casefold() for n in r.by_stratum) and r in every
        ]
        if rock:
            names = ", ".join(rock[:6]) + (f" and {len(rock) - 6} more" if len(rock) > 6 else "")
            self.body.addWidget(
                wrapped(f"{counted(len(rock), 'chamber pit')} in rock: {names}.", "caution")
            )

    def _overlaps(self, s: State, q: Quantities) -> None:
        if not q.overlaps:
            return
        project = s.shown.project
        names: dict[str, str] = {k: p.label for k, p in project.pipes.items()}
        names |= {k: v.label for k, v in project.structures.items()}
        self.body.addWidget(rule())
        self.body.addWidget(label("Shared space", "section"))
        for o in q.overlaps[:MOST_LINES]:
            if o.a in names and o.b in names:
                row = FigureRow(
                    self.pen,
                    f"{names[o.a]} and {names[o.b]} {OVERLAP_WORDS[o.kind]}",
                    s.units.volume(o.volume),
                    ask=partial(self.light, (o.a, o.b)),
                )
                self.body.addWidget(row)
        if len(q.overlaps) > MOST_LINES:
            self.body.addWidget(
                label(f"and {len(q.overlaps) - MOST_LINES} more in the spreadsheet", "small")
            )

    def _costs(self, s: State, q: Quantities) -> None:
        rates = s.shown.project.digging.rates
        if rates:
            total = sum(
                p.sum or 0.0
                for p in priced(takeoff(s.shown.facts, q), rates)
                if p.item.status == "proposed"
            )
            self.body.addWidget(rule())
            self.body.addWidget(
                FigureRow(self.pen, "Cost of what has a rate", number(total, 2), strong=True)
            )

    # -- what changed ------------------------------------------------------------------------------
