"""The strip that regrades the run between two structures, and how it is come to."""

from functools import cached_property

from zumbert.app.frame import Frame
from zumbert.app.stages.levels.regradestrip import RegradeStrip
from zumbert.app.tools.twopick import TwoPick
from zumbert.model.ids import StructureId


class Regrading:
    """The commands of the stage beyond a single edit."""

    def __init__(self, window: Frame) -> None:
        self.window, self.session = window, window.session

    @cached_property
    def strip(self) -> RegradeStrip:
        """The strip over the long section; made when it is first asked for."""
        centre = self.window.centre
        made = RegradeStrip(self.session, centre.pen, centre.section.setFocus)
        centre.add_strip(made)
        self.session.changed.connect(lambda old, new: made.follow(new))
        return made

    def regrade(self) -> None:
        """Opens the strip over the run between two structures: the selected ones, else two that
        are picked.
        """
        s = self.session.state
        if len(s.chosen.structures) != 2:
            self.window.toolbox.hold(TwoPick(self.session, "regrade", self._between))
            return
        a, b = sorted(
            s.chosen.structures, key=lambda k: s.current.facts.structures[k].lowest or 0.0
        )
        self._between(a, b)

    def _between(self, a: StructureId, b: StructureId) -> None:
        if not self.window.toolbox.picking:
            self.window.toolbox.put_down()
            self.session.select(structures=frozenset({a, b}), follow=False)
        self.strip.open(a, b)
