"""Sheets: what leaves the desk on paper, how it is lettered, and what was issued of it."""

from typing import Literal, NamedTuple, get_args

from msgspec import Struct, field

from zumbert.model.ids import BackgroundId, IssueId, SheetId, StructureId

Paper = Literal["A4", "A3", "A2", "A1", "A0", "custom"]
Plan = Literal["straightened", "turned"]
Printed = Literal["colour", "grey", "black"]
DxfVersion = Literal["R2018", "R2000"]
PAPERS: tuple[Paper, ...] = get_args(Paper)
DXF_VERSIONS: tuple[DxfVersion, ...] = get_args(DxfVersion)
SIZES: dict[str, tuple[float, float]] = {  # mm, the long side first (ISO 216)
    "A4": (297.0, 210.0), "A3": (420.0, 297.0), "A2": (594.0, 420.0), "A1": (841.0, 594.0),
    "A0": (1189.0, 841.0),
}  # fmt: skip


class KindOfSheet(NamedTuple):
    """A kind of sheet: its words, the title of a new one, and the values of a sheet that it has."""

    words: str
    title: str
    has: tuple[str, ...]


SHEET_KINDS: dict[str, KindOfSheet] = {
    "plan-and-section": KindOfSheet(
        "Plan and long section", "Plan and long section",
        ("scale", "up", "plan", "overlap", "along", "rows", "tables", "legend"),
    ),
    "plan": KindOfSheet(
        "Plan", "General plan",
        ("scale", "turn", "window", "overlap", "grid", "key_plan", "tables", "legend"),
    ),
    "sections": KindOfSheet(
        "Trench sections", "Trench sections", ("step", "chainages", "along", "legend")
    ),
    "chambers": KindOfSheet("Chambers", "Chambers", ("structures", "legend")),
    "tables": KindOfSheet("Tables", "Schedules", ("tables",)),
}  # fmt: skip


class Along(Struct, frozen=True):
    """The line that a sheet follows: a run by its head, a named run, the way between two
    structures, or a road.
    """

    kind: Literal["run", "road", "path", "named"]
    id: str


class Sheet(Struct, frozen=True, kw_only=True):
    """One drawing; where its scale asks for it, it goes over several pages."""

    id: SheetId
    title: str
    kind: str  # of SHEET_KINDS
    paper: Paper = "A1"
    size: tuple[float, float] = (594.0, 420.0)  # mm, of a custom paper: its width and height
    upright: bool = False  # the long side up; a custom paper stands as it is given
    along: tuple[
        Along, ...
    ] = ()  # runs and roads, for plan and long section and for trench sections; none: all main runs
    scale: float = 500.0  # in plan and along: 500 means 1:500
    up: float = 100.0  # of levels
    plan: Plan = "straightened"
    rows: tuple[str, ...] = ()  # level rows; none: those of the project
    overlap: float = 10.0  # m that neighbours both show
    turn: float = 0.0  # radians clockwise that a plan is turned
    centre: tuple[float, float] | None = None  # m, of the plan's window; None: the whole job
    # m, its width and height; None: as much as the paper takes
    window: tuple[float, float] | None = None
    key_plan: bool = True
    grid: bool = True  # crosses with coordinates
    legend: bool = True
    chainages: tuple[float, ...] = ()  # of trench sections; none: every `step`
    step: float = 20.0  # m
    structures: tuple[StructureId, ...] = ()  # chambers that are drawn; none: all
    tables: tuple[str, ...] = ()  # tables that are set out; none: structures and pipes
    # moved by hand here: drawing units
    labels: dict[str, tuple[float, float]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        """Raises ValueError for a kind that there is not."""
        if self.kind not in SHEET_KINDS:
            raise ValueError(
                f'no kind of sheet is called "{self.kind}", but {", ".join(SHEET_KINDS)}'
            )


class FrameText(Struct, frozen=True):
    """A text of one's own frame; `{title}` and the like are filled in."""

    text: str
    x: float  # mm from the left, y from the top
    y: float
    height: float  # mm, of its capitals


class OwnFrame(Struct, frozen=True, kw_only=True):
    """A frame that was read from a drawing: lines and texts in mm from the upper left corner."""

    name: str
    width: float
    height: float
    lines: tuple[tuple[tuple[float, float], ...], ...] = ()
    texts: tuple[FrameText, ...] = ()
    # mm: left, top, right, bottom of the room for the drawing
    inside: tuple[float, float, float, float] | None = None


class Delivery(Struct, frozen=True, kw_only=True):
    """How all sheets and files are made."""

    numbers: str = "{n:02}"  # pattern of sheet numbers
    drawn: str = ""
    checked: str = ""
    date: str = ""
    small: float = 2.5  # mm, height of capitals of labels
    large: float = 3.5  # mm, of titles
    capitals: bool = False
    printed: Printed = "colour"
    frame: OwnFrame | None = None
    layers: str = "{service}-{role}-{status}"
    dxf: DxfVersion = "R2018"
    # files are written at the units and origin of this drawing; None: the project's
    origin: BackgroundId | None = None
    epsg: int | None = None  # code of the coordinate system; it is only written down


class Issue(Struct, frozen=True, kw_only=True, dict=True):
    """An issue: the values of all structures and pipes as the schedules had them, SI, by
    their ids and fields.
    """

    id: IssueId
    name: str  # the revision: A, B
    date: str
    words: str = ""
    structures: dict[str, dict[str, str | float | None]] = field(default_factory=dict)
    pipes: dict[str, dict[str, str | float | None]] = field(default_factory=dict)
