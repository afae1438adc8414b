"""The rows of a pipe: its inverts, limits and drops, each with the range that the rules allow."""

from msgspec.structs import replace
from PySide6.QtWidgets import QWidget

from zumbert.analysis.facts import Facts
from zumbert.analysis.pipes import PipeFacts
from zumbert.app.panels.fields import Combo, offer
from zumbert.app.panels.rangebar import Scale
from zumbert.app.panels.ranges import drop_scale, invert_scale, slope_scale
from zumbert.app.panels.rows import ValueRow
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.app.values import edit_field
from zumbert.checks.limits import governing_drop, pipe_limit
from zumbert.checks.sentences import limit_source
from zumbert.checks.velocity import velocity
from zumbert.checks.where import along
from zumbert.edits.change import size_misfit
from zumbert.model.ids import PipeId
from zumbert.model.pipe import Bore, End
from zumbert.model.project import size_words


class PipeRows(QWidget):
    """The rows of the pipe shown."""

    def __init__(self, session: Session, pen: Pen, pipe: PipeId) -> None:
        super().__init__()
        self.session, self.pen, self.pipe = session, pen, pipe
        self.rows: dict[str, ValueRow] = {}
        self._offered: tuple[object, ...] = ()  # what the sizes that are offered go by
        self.size_box = Combo(pen).as_wide_as_its_column()
        self.size_box.setAccessibleName("Size")
        self.size_box.setObjectName("pipe size")
        self.size_box.activated.connect(
            lambda _: edit_field(session, self.pipe, "size", self.size_box.currentData())
        )

    def _sizes(self, f: PipeFacts) -> None:
        """Sizes that fit both chambers come first; the others follow and say why they do not
        fit.
        """
        project, now = self.session.state.shown.project, f.pipe.size
        ends = (project.structures[f.pipe.up].type, project.structures[f.pipe.down].type)
        asked = (project.sizes, project.types, project.settings, now, *ends)
        if len(asked) == len(self._offered) and all(
            a is b or a == b for a, b in zip(asked, self._offered, strict=True)
        ):
            return
        self._offered = asked
        choices: list[tuple[object, str, str]] = [
            (z.key, size_words(project, z), size_misfit(project, self.pipe, z.key))
            for z in project.sizes.values()
            if z.allowed or z.key == now
        ]
        if isinstance(now, Bore):
            choices.insert(0, ("", f"{f.dn:g} / {f.wall * 1000:g} mm", ""))
        offer(self.size_box, choices, "" if isinstance(now, Bore) else now)
        self.size_box.setToolTip(
            "" if isinstance(now, Bore) else size_misfit(project, self.pipe, now)
        )

    def _invert_row(
        self, facts: Facts, f: PipeFacts, was: PipeFacts | None, end: End, pivot: End
    ) -> None:
        u, row = facts.units, self.rows[f"invert_{end}"]
        title, now = (
            f"Invert at {facts.project.structures[f.pipe.at(end)].label}",
            f.pipe.invert(end),
        )
        before = was.pipe.invert(end) if was is not None else None
        before = None if before is None or abs(before - now) < 1e-9 else before
        under = "" if before is None else f"was {u.level(before)}"
        if f.pipe.holds_end(end) or end == pivot:
            row.show_row(
                title,
                u.level(now),
                None,
                under,
                "held" if f.pipe.holds_end(end) else "stays, fixed end",
            )
            return
        row.show_row(
            title, u.level(now), replace(invert_scale(facts, f, end), now=now, before=before), under
        )

    def _limit_rows(self, facts: Facts, f: PipeFacts, was: PipeFacts | None) -> None:
        u = facts.units
        slope = None if f.slope is None else f.slope * 100
        before = was.slope * 100 if was is not None and was.slope is not None else None
        hand = self.session.state.chosen.hand
        pivot = (
            hand.pivot
            if hand is not None and hand.pipe == self.pipe
            else self.session.state.chosen.pivot
        )
        scale, tip = slope_scale(facts, f, pivot)
        self.rows["slope"].bar.tip(tip)
        self.rows["slope"].show_row(
            "Slope",
            u.slope(f.slope),
            replace(scale, now=slope, before=before),
            u.other_slope(f.slope),
        )
        cover, old = f.cover, was.cover if was is not None else None
        need, most = (
            pipe_limit(facts.project, f.pipe, f.dn, name) for name in ("cover_min", "cover_max")
        )
        least, greatest = (None, None) if cover is None else (cover.least, cover.greatest)
        at = "" if cover is None else along(facts, f, cover.least_at)
        scale = Scale(
            low=need,
            now=least,
            before=old.least if old else None,
            words=f"at least {u.length(need)}",
        )
        self.rows["cover"].show_row("Least cover", u.length(least), scale, at)
        scale = Scale(
            high=most,
            now=greatest,
            before=old.greatest if old else None,
            words=f"at most {u.length(most)}",
        )
        sources = "from " + ", ".join(facts.surfaces.name(n) for n in f.span.sources)
        self.rows["greatest_cover"].show_row("Greatest cover", u.length(greatest), scale, sources)
        low, high = (
            pipe_limit(facts.project, f.pipe, f.dn, name)
            for name in ("velocity_min", "velocity_max")
        )
        fast, slow = (
            velocity(facts.project, f),
            None if was is None else velocity(facts.project, was),
        )
        scale = Scale(
            low=low, high=high, now=fast, before=slow, words=f"{u.length(low)} to {u.length(high)}"
        )
        self.rows["velocity"].show_row("Velocity, full bore", u.length(fast), scale)
        for key, name in (
            ("cover", "cover_min"),
            ("greatest_cover", "cover_max"),
            ("velocity", "velocity_min"),
        ):
            self.rows[key].bar.tip(limit_source(facts.project, f.pipe, name))

    def _drop_row(self, facts: Facts, f: PipeFacts, end: End, current: Facts | None) -> None:
        """The drop at an end; of several, the one with the least room over its limit."""
        at, row = f.pipe.at(end), self.rows[f"drop_{end}"]
        worst = governing_drop(facts, self.pipe, at)
        row.setVisible(worst is not None)
        if worst is None:
            return
        old = None
        if current is not None and at in current.structures:
            both = (worst.inlet, worst.outlet)
            old = next(
                (d.drop for d in current.structures[at].drops if (d.inlet, d.outlet) == both), None
            )
        names = facts.project.structures
        scale, tip = drop_scale(facts, f, end, worst)
        if tip:
            row.bar.tip(tip)
        row.show_row(
            f"Drop at {names[at].label}",
            facts.units.level(worst.drop),
            replace(scale, now=worst.drop, before=old),
            f"from {names[facts.pipes[worst.inlet].pipe.up].label}",
        )

    def _clear_rows(self, s: State) -> None:
        """The clearances to what crosses the pipe, the least first."""
        u = s.units
        crossed = (
            [c for c in s.look.run.crossings if c.pipe == self.pipe and c.clear is not None]
            if s.look.run is not None
            else []
        )
        nearest = sorted(crossed, key=lambda c: (c.clear or 0.0) - c.need)
        for i, key in enumerate(("clear 1", "clear 2")):
            row = self.rows[key]
            row.setVisible(i < len(nearest))
            if i < len(nearest):
                c = nearest[i]
                words = f"at least {u.length(c.need)}" if c.need else ""
                under = f"{'over' if c.above else 'under'}, upright {u.length(c.upright)}"
                scale = Scale(low=c.need, now=c.clear, words=words)
                of = s.shown.project.services if c.kind == "service" else s.shown.project.pipes
                row.show_row(f"Clear of {of[c.id].label}", u.length(c.clear), scale, under)
