"""The stage Layout: runs, gullies and structures, in plan."""

from zumbert.app.frame import Frame
from zumbert.app.session import Session
from zumbert.app.stages.stage import Action, Chip, Offer, WorkStage
from zumbert.app.tools.tool import Tool


def _lay(session: Session) -> Tool:
    from zumbert.app.stages.layout.lay import LayTool

    chosen = session.state.chosen.structures
    return LayTool(session, next(iter(chosen)) if len(chosen) == 1 else None)


def _gullies(session: Session) -> Tool:
    from zumbert.app.stages.layout.gully import GullyTool

    return GullyTool(session)


def _line_pipes(session: Session) -> Tool:
    from zumbert.app.stages.layout.linepipes import LinePipesTool

    return LinePipesTool(session)


LAYOUT: WorkStage[Frame] = WorkStage(
    id="layout",
    text="Layout",
    icon=(
        "M5.2 18.3 10 12.6 M12.9 10.4 17.8 6.6 M6.2 19.5a2 2 0 1 1-4 0a2 2 0 0 1 4 0 M13.4 11.3a2 "
        "2 0 1 1-4 0a2 2 0 0 1 4 0 M21.5 5.2a2 2 0 1 1-4 0a2 2 0 0 1 4 0 M14.5 19.5h7 M18 16v7"
    ),
    bends=True,
    chips=(
        Chip("lay", "Lay a run", lambda w: w.toolbox.take("lay"),
             lambda w: w.toolbox.name == "lay"),
        Chip("gullies", "Place gullies", lambda w: w.toolbox.take("gullies"),
             lambda w: w.toolbox.name == "gullies"),
        Chip("tables", "Tables", lambda w: w.centre.toggle_tables(),
             lambda w: w.centre.tables_open),
    ),
    tools={
        "lay": Offer(_lay, again=True, alone=True),
        "gullies": Offer(_gullies, again=True, alone=True),
        "line-pipes": Offer(_line_pipes, again=True, alone=True),
    },
    actions=(
        Action(id="lay", text="Lay a run", keys=("L",), menu="Draw", icon="run",
               run=lambda w: w.toolbox.take("lay")),
        Action(id="gullies", text="Place gullies in pairs or along a road", keys=("G",),
               menu="Draw", run=lambda w: w.toolbox.take("gullies")),
        Action(id="line-pipes", text="Draw pipes from a line", keys=("Shift+L",), menu="Draw",
               run=lambda w: w.toolbox.take("line-pipes")),
    ),
)  # fmt: skip
