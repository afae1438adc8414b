"""The stages, in the order of the work."""

from zumbert.app.frame import Frame
from zumbert.app.stages.checks.stage import CHECKS
from zumbert.app.stages.deliver.stage import DELIVER
from zumbert.app.stages.flow.stage import FLOW
from zumbert.app.stages.ground.stage import GROUND
from zumbert.app.stages.layout.stage import LAYOUT
from zumbert.app.stages.levels.stage import LEVELS
from zumbert.app.stages.stage import WorkStage
from zumbert.app.stages.trench.stage import TRENCH

STAGES: tuple[WorkStage[Frame], ...] = (GROUND, LAYOUT, LEVELS, FLOW, CHECKS, TRENCH, DELIVER)
