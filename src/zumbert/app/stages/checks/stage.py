"""The stage Checks: what breaks a rule, and how it is mended."""

from PySide6.QtWidgets import QWidget

from zumbert.app.frame import Frame
from zumbert.app.stages.stage import WorkStage


def _panel(w: Frame) -> QWidget:
    from zumbert.app.stages.checks.checkspanel import ChecksPanel

    return ChecksPanel(w.session, w.pen, w.going.to_finding, w.going.to_place, w.work.run)


CHECKS: WorkStage[Frame] = WorkStage(
    id="checks",
    text="Checks",
    icon=(
        "M3 7.5h18 M3 17.5h18 M9.2 7.5l2.8 4.6 2.8-4.6 M15.5 14l1.6-2 M5 17.5v3 M19 17.5v3 M12 "
        "17.5v3"
    ),
    panel=_panel,
    judges=True,
)
