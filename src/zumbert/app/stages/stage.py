"""The types of a stage, an action, a tool and a chip: each stage is one entry."""

from collections.abc import Callable, Iterable, Mapping
from typing import Any, Generic, Literal, NamedTuple, TypeVar

from msgspec import Struct

from zumbert.drawing.picture import Show

W = TypeVar("W")  # the window

FREE_HINT = (
    "Click a structure or a pipe, Shift and drag to catch many. Drag to move the drawing, "
    "wheel to zoom."
)
OVERLAYS: frozenset[str] = frozenset({"cover", "services", "profile", "holds"})


class Action(Struct, Generic[W], frozen=True, kw_only=True):
    """One action: a permanent id, its words, keys, and when it can be done."""

    id: str
    text: str
    keys: tuple[str, ...] = ()
    menu: str = ""  # one of MENUS; "" keeps it out of the menu
    icon: str = ""  # of the program's own, shown in the menu
    run: Callable[[W], object]
    enabled: Callable[[W], bool] = lambda w: True
    # whether it works in plan or section: a stage that hides them is left for it, as for all of
    # the menu Draw
    drawings: bool = False
    words: Callable[[W], str] | None = None  # text that says more, such as what undo takes back


class Offer(NamedTuple):
    """One tool; its module is imported when it is first asked for."""

    make: Callable[[Any], Any]  # from a session; None where it was refused, and told
    again: bool = False  # asked for while it is in hand, it is put down
    alone: bool = False  # what is selected is let go for it


class TableOffer(NamedTuple):
    """One of the tables under the drawings; its module is imported when it is made."""

    title: str
    make: Callable[[Any, Any], Any]  # from a session and a pen


class Chip(NamedTuple, Generic[W]):
    """A button over the plan, shown in its stage and while it is on."""

    name: str
    text: str
    run: Callable[[W], object]
    on: Callable[[W], bool] | None = None  # whether it is lit; None: it is pushed, not switched
    tip: str = ""
    words: Callable[[W], str] | None = None  # its text, where that changes
    steps: bool = False  # whether a click takes the next of several steps, not the other of two


class WorkStage(Struct, Generic[W], frozen=True, kw_only=True, eq=False):
    """A stage: it chooses tools, overlays and side panel, and locks nothing."""

    id: str
    text: str
    icon: str  # its path, 24 by 24
    # the side panel of the stage; None: the panel of what is selected
    panel: Callable[[W], Any] | None = None
    yields: bool = False  # whether the panel gives way to that of selected pipes and structures
    acts: Callable[[W], Any] | None = None  # what its buttons do; made when first asked for
    actions: tuple[Action[W], ...] = ()  # beside the one that goes to it
    tools: Mapping[str, Offer] = {}
    chips: tuple[Chip[W], ...] = ()
    tables: Mapping[str, TableOffer] = {}  # under the drawings, beside those of the network
    overlays: frozenset[str] = OVERLAYS  # that the head of the long section offers
    adds: frozenset[Show] = frozenset()  # shown here unless they are switched off
    rings: bool = False  # whether rings drag levels
    bends: bool = False  # whether the pipe that is selected can be bent
    digs: bool = False  # whether trenches are worked out
    picks: Literal["", "ground", "areas"] = ""  # what is picked beside pipes and structures
    # from the centre, a view of the stage's own: a widget in the plan's place, while the state
    # wants it, or, where it covers both drawings, a `Covering`
    view: Callable[[Any], Any] | None = None
    covers: bool = False
    opens: bool = False  # whether a project opens in it
    judges: bool = False  # whether it is gone to for the findings
    back: Callable[[W], None] | None = None  # what is done as the window has the keyboard again
    needs_trenches: Callable[[Any], bool] = lambda project: False
    hint: Callable[[Any], str] = lambda state: FREE_HINT  # what a click will do


NO_STAGE: WorkStage[Any] = WorkStage(id="", text="", icon="")


def stage_for(stages: Iterable[WorkStage[W]], does: Callable[[WorkStage[W]], bool]) -> WorkStage[W]:
    """The first stage that does something: the one that is gone to for it."""
    return next((s for s in stages if does(s)), NO_STAGE)
