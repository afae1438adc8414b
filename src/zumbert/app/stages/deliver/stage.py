"""The stage Deliver: sheets, schedules and files to send."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from zumbert.app.frame import Frame
from zumbert.app.stages.stage import Action, WorkStage
from zumbert.model.project import Project

if TYPE_CHECKING:
    from zumbert.app.centre import Centre
    from zumbert.app.stages.deliver.delivering import Delivering
    from zumbert.app.stages.deliver.deliverview import DeliverView


def _panel(w: Frame) -> QWidget:
    from zumbert.app.stages.deliver.deliverpanel import DeliverPanel

    return DeliverPanel(w.session, w.pen, acts(w))


def acts(w: Frame) -> "Delivering":
    """The commands that send files."""
    made: Delivering = w.acts("deliver")
    return made


def _acts(w: Frame) -> "Delivering":
    from zumbert.app.stages.deliver.delivering import Delivering

    return Delivering(w, w.files, w.foot, lambda: w.centre.pictured, lambda: view(w))


def _view(centre: "Centre") -> "DeliverView":
    from zumbert.app.stages.deliver.deliverview import DeliverView

    return DeliverView(centre.session, centre.pen, centre.work)


def view(w: Frame) -> "DeliverView":
    """The list of sheets with the one that is shown."""
    made: DeliverView = w.centre.of("deliver")
    return made


def _in_force(w: Frame) -> bool:
    return w.session.state.look.stage is DELIVER


def _with_sections(project: Project) -> bool:
    return any(sheet.kind == "sections" for sheet in project.sheets.values())


DELIVER: WorkStage[Frame] = WorkStage(
    id="deliver",
    text="Deliver",
    icon=(
        "M4 3.5h16v17H4z M12.5 20.5v-5.5H20 M12.5 17.7H20 M7 11c2-3.5 4-3.8 5.5-2.2S15.5 10 17 7"
    ),
    panel=_panel,
    acts=_acts,
    view=_view,
    covers=True,
    needs_trenches=_with_sections,
    actions=(
        Action(id="next-sheet", text="Next sheet", keys=("PgDown",), menu="View",
               run=lambda w: view(w).turn(1), enabled=_in_force),
        Action(id="previous-sheet", text="Previous sheet", keys=("PgUp",), menu="View",
               run=lambda w: view(w).turn(-1), enabled=_in_force),
        Action(id="export-pdf", text="Sheets as PDF …", keys=("Ctrl+P",), menu="File",
               run=lambda w: acts(w).send("pdf")),
        Action(id="picture", text="Drawing as a picture …", menu="File",
               run=lambda w: acts(w).picture(),
               enabled=lambda w: not _in_force(w) or view(w).sheet.page is not None),
        Action(id="issue", text="Issue drawings and schedules …", menu="File",
               run=lambda w: acts(w).issue()),
    ),
)  # fmt: skip
