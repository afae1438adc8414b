"""The stage Levels: inverts and rims, in the long section."""

from typing import TYPE_CHECKING

from zumbert.app.frame import Frame
from zumbert.app.session import Session
from zumbert.app.stages.stage import OVERLAYS, Action, WorkStage

if TYPE_CHECKING:
    from zumbert.app.stages.levels.regrading import Regrading


def _acts(w: Frame) -> "Regrading":
    from zumbert.app.stages.levels.regrading import Regrading

    return Regrading(w)


def _turn_about_other_end(session: Session) -> None:
    """Makes a slope turn about the other end of the pipe."""
    chosen = session.state.chosen
    now = chosen.hand.pivot if chosen.hand is not None else chosen.pivot
    session.set_pivot("down" if now == "up" else "up")


LEVELS: WorkStage[Frame] = WorkStage(
    id="levels",
    text="Levels",
    icon=(
        "M4 3.5v17 M20 6.5v14 M2 3.5h4 M18 6.5h4 M4 12.2 20 15.4 M4 15.2 20 18.4 M12 10.2V4.5 "
        "M10 6.5l2-2 2 2"
    ),
    acts=_acts,
    opens=True,
    overlays=OVERLAYS | {"legal"},
    rings=True,
    bends=True,
    actions=(
        Action(
            id="regrade", text="Regrade between two structures", drawings=True, keys=("R",),
            menu="Edit", run=lambda w: w.acts("levels").regrade(),
        ),
        Action(
            id="other-end", text="Turn the slope about the pipe's other end", drawings=True,
            keys=("O",), menu="Edit", run=lambda w: _turn_about_other_end(w.session),
        ),
    ),
)  # fmt: skip
