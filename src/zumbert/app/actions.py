"""Every action once, those of the stages among them: menus, shortcuts and the finder are built
from this table.
"""

from zumbert.analysis.selecting import WAYS
from zumbert.app.frame import Frame
from zumbert.app.stages.stage import Action, WorkStage
from zumbert.app.stages.table import STAGES
from zumbert.app.zones import next_zone
from zumbert.space.wanted import VIEWS, View


def _undo_words(w: Frame) -> str:
    return f"Undo: {w.session.history.undo_name}" if w.session.history.undo_name else "Undo"


def _redo_words(w: Frame) -> str:
    return f"Redo: {w.session.history.redo_name}" if w.session.history.redo_name else "Redo"


def _help(w: Frame, page: str) -> None:
    from zumbert.app.help import HelpDialog

    HelpDialog(w, page, keys_page(w.table)).open()


def _log(w: Frame) -> None:
    from zumbert.app.logdialog import LogDialog

    LogDialog(w).open()


def keys_page(actions: tuple[Action[Frame], ...]) -> str:
    """All keys, from a table of actions, as Markdown."""
    rows = [
        f"| {a.text} | {', '.join(a.keys)} |"
        for menu in MENUS
        for a in actions
        if a.menu == menu and a.keys
    ]
    return "\n".join(["# All keys", "", "| action | keys |", "|---|---|", *rows])


def _space(w: Frame) -> bool:
    return w.centre.space_seen


def _view(i: int, view: View) -> Action[Frame]:
    """An action that looks at space from one of six sides."""
    words = f"Look from {view}" if view in ("above", "below") else f"Look from the {view}"
    return Action(
        id=f"look-{view}",
        text=words,
        keys=(f"Ctrl+{i + 1}",),
        menu="View",
        enabled=_space,
        run=lambda w: w.centre.space.look_from(view),
    )


def _selected(w: Frame) -> bool:
    s = w.session.state
    return bool(
        s.chosen.pipes or s.chosen.structures or s.chosen.item is not None or s.look.stage.covers
    )


def _more(how: str, words: str) -> Action[Frame]:
    """An action that widens the selection; all and all others need nothing selected."""

    def run(w: Frame) -> None:
        from zumbert.app.panels.severalpanel import select_more

        select_more(w.session, how)

    text = words.replace("All", "Select all", 1)
    keys = {"all": ("Ctrl+A",), "connected": ("Ctrl+J",)}.get(how, ())
    return Action(
        id=f"select-{how}",
        text=text,
        keys=keys,
        menu="Select",
        run=run,
        enabled=_selected if how not in ("all", "inverse") else lambda w: True,
    )


def _stage(i: int, stage: WorkStage[Frame]) -> Action[Frame]:
    """An action that goes to a stage."""
    return Action(
        id=stage.id,
        text=f"Stage {stage.text}",
        icon=stage.icon,
        keys=(f"Alt+{i + 1}",),
        menu="View",
        run=lambda w: w.go_stage(stage.id),
    )


MENUS = ("File", "Edit", "Select", "Draw", "View", "Help")

SELECTING = tuple(_more(how, words) for how, words in WAYS)

_FIRST: tuple[Action[Frame], ...] = (
    Action(id="new", text="New project …", keys=("Ctrl+N",), menu="File",
           run=lambda w: w.files.new_project()),
    Action(id="settings", text="Project settings …", keys=("Ctrl+,",), menu="File",
           run=lambda w: w.files.project_settings()),
    Action(id="welcome", text="Welcome page", menu="File", run=lambda w: w.files.show_welcome()),
    Action(id="open", text="Open …", keys=("Ctrl+O",), menu="File",
           run=lambda w: w.files.open_dialog()),
    Action(id="import", text="Import files …", keys=("Ctrl+I",), menu="File",
           run=lambda w: w.exchange.import_dialog()),
    Action(id="read-back", text="Read back a changed schedule …", keys=("Ctrl+B",), menu="File",
           run=lambda w: w.exchange.readback_dialog()),
    Action(id="save", text="Save", keys=("Ctrl+S",), menu="File", run=lambda w: w.files.save()),
    Action(id="save-as", text="Save as …", keys=("Ctrl+Shift+S",), menu="File",
           run=lambda w: w.files.save_as()),
    Action(id="export", text="Export quantities to a spreadsheet …", keys=("Ctrl+E",), menu="File",
           run=lambda w: w.exchange.export()),
    Action(id="demo", text="Open the demo", menu="File", run=lambda w: w.files.open_demo()),
    Action(
        id="undo", text="Undo", keys=("Ctrl+Z",), menu="Edit", run=lambda w: w.undo(),
        enabled=lambda w: w.session.history.undo_name is not None, words=_undo_words,
    ),
    Action(
        id="redo", text="Redo", keys=("Ctrl+Shift+Z", "Ctrl+Y"), menu="Edit",
        run=lambda w: w.redo(),
        enabled=lambda w: w.session.history.redo_name is not None, words=_redo_words,
    ),
    Action(id="delete", text="Delete", keys=("Del",), menu="Edit", run=lambda w: w.delete(),
           enabled=_selected),
    Action(id="attach", text="Attach loose ends to what is near", drawings=True, menu="Edit",
           run=lambda w: w.attach_ends()),
    *SELECTING,
)  # fmt: skip

_LAST: tuple[Action[Frame], ...] = (
    Action(id="probe", text="Levels at any point of a pipe",
           drawings=True, keys=("V",), menu="View", run=lambda w: w.toolbox.take("probe")),
    Action(id="measure", text="Measure length and area",
           drawings=True, keys=("M",), menu="View", run=lambda w: w.toolbox.take("measure")),
    Action(id="space", text="Space: in the plan's place, beside it, or away", keys=("F3",),
           menu="View", drawings=True,
           run=lambda w: w.centre.next_space()),
    Action(id="along", text="Look along the run", keys=("Shift+F3",), menu="View",
           run=lambda w: w.centre.space.toggle_along(),
           enabled=_space),
    *(_view(i, v) for i, v in enumerate(VIEWS)),
    Action(id="tables", text="Tables of structures and pipes", drawings=True, keys=("Ctrl+T",),
           menu="View", icon="tables",
           run=lambda w: w.centre.toggle_tables()),
    Action(id="straighten", text="Straighten the plan",
           drawings=True, keys=("S",), menu="View", run=lambda w: w.centre.straighten()),
    Action(id="show-path", text="Show the way between two selected structures", drawings=True,
           keys=("W",), menu="View",
           run=lambda w: w.going.along_path(),
           enabled=lambda w: len(w.session.state.chosen.structures) == 2),
    Action(id="fit", text="Fit the selection, then all", keys=("F",), menu="View",
           run=lambda w: w.centre.fit()),
    Action(id="pick-run", text="Pick a run", keys=("Ctrl+R",), menu="View",
           run=lambda w: w.head.picker.open()),
    Action(id="find", text="Find", keys=("Ctrl+K",), menu="Edit", icon="find",
           run=lambda w: w.finder.setFocus()),
    Action(id="theme", text="Light or dark theme", menu="View", run=lambda w: w.toggle_theme()),
    Action(id="zones", text="Next zone", keys=("F6",), menu="View", run=next_zone),
    Action(id="whole", text="Enlarge the zone under the pointer", keys=("F11",), menu="View",
           run=lambda w: w.centre.toggle_whole()),
    Action(id="help", text="Help on this stage", keys=("F1",), menu="Help",
           run=lambda w: _help(w, "space" if w.centre.in_space else w.session.state.look.stage.id)),
    Action(id="help-space", text="Help on the view in space", menu="Help",
           run=lambda w: _help(w, "space")),
    Action(id="keys", text="All keys", menu="Help", run=lambda w: _help(w, "keys")),
    Action(id="log", text="Show the log", menu="Help", run=_log),
    Action(id="about", text="About Zumbert", menu="Help", run=lambda w: _help(w, "about")),
    Action(id="quit", text="Quit", keys=("Ctrl+Q",), menu="File", run=lambda w: w.close()),
    Action(id="menu", text="Main menu", keys=("Alt+M",), run=lambda w: None),
)  # fmt: skip


def all_actions(stages: tuple[WorkStage[Frame], ...]) -> tuple[Action[Frame], ...]:
    """All actions, with those of the stages. Raises ValueError where an id or key stands in it
    twice.
    """
    to = (_stage(i, s) for i, s in enumerate(stages))
    return checked((*_FIRST, *to, *(a for s in stages for a in s.actions), *_LAST))


def checked(actions: tuple[Action[Frame], ...]) -> tuple[Action[Frame], ...]:
    """The table, if no id or key stands in it twice. Raises ValueError."""
    for values in ([a.id for a in actions], [k for a in actions for k in a.keys]):
        doubles = {v for v in values if values.count(v) > 1}
        if doubles:
            raise ValueError(f"twice in the table of actions: {sorted(doubles)}")
    return actions


ACTIONS = all_actions(STAGES)
