"""The menu of a right click: what can be done with what lies under the pointer."""

from collections.abc import Callable, Mapping
from functools import partial

from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu

from zumbert.app.actions import ACTIONS
from zumbert.app.frame import Frame
from zumbert.app.panels.severalpanel import select_more
from zumbert.app.stages.stage import stage_for
from zumbert.app.values import delete_item, delete_selected
from zumbert.app.views.view import DrawingView
from zumbert.edits.grounditems import KINDS, GroundItem, item_name
from zumbert.edits.join import split, turned
from zumbert.edits.layoptions import first_way
from zumbert.edits.loose import nearest_distance
from zumbert.model.ids import PipeId, StructureId


def menu_of(
    w: Frame, actions: Mapping[str, QAction], view: DrawingView, x: float, y: float
) -> QMenu:
    """The menu at a place of a drawing; what lies there is selected, unless it is already."""
    menu = QMenu(w)
    hit = view.hit_current(x, y) or view.hit(x, y)
    project = w.session.state.current.project
    if hit is not None and hit.id in project.structures:
        _structure(menu, w, StructureId(hit.id), actions)
    elif hit is not None and hit.id in project.pipes:
        _pipe(menu, w, view, PipeId(hit.id), x, y)
    elif hit is not None and hit.kind in KINDS:
        _thing(menu, w, GroundItem(hit.kind, hit.id))
    else:
        _nothing(menu, w, actions)
    return menu


def _head(menu: QMenu, text: str) -> None:
    menu.addAction(text).setEnabled(False)
    menu.addSeparator()


def _add(menu: QMenu, text: str, run: Callable[[], object]) -> None:
    menu.addAction(text).triggered.connect(lambda _=False: run())


def _action(menu: QMenu, w: Frame, actions: Mapping[str, QAction], name: str) -> None:
    """An action of the table, with its words and key."""
    a = next(a for a in ACTIONS if a.id == name)
    entry = menu.addAction(
        f"{a.words(w) if a.words is not None else a.text}\t{a.keys[0] if a.keys else ''}"
    )
    entry.setEnabled(a.enabled(w))
    entry.triggered.connect(actions[name].trigger)


def _selecting(menu: QMenu, w: Frame) -> None:
    menu.addSeparator()
    for how, text in (
        ("upstream", "Select all upstream"),
        ("downstream", "Select all downstream"),
        ("run", "Select the run"),
    ):
        _add(menu, text, partial(select_more, w.session, how))


def _delete(menu: QMenu, w: Frame) -> None:
    menu.addSeparator()
    s = w.session.state
    many = len(s.chosen.pipes) + len(s.chosen.structures)
    _add(
        menu,
        f"Delete {many} selected \u2026" if many > 1 else "Delete",
        lambda: delete_selected(w.session, w),
    )


def _structure(menu: QMenu, w: Frame, key: StructureId, actions: Mapping[str, QAction]) -> None:
    s = w.session.state
    if key not in s.chosen.structures:
        w.session.select(structures=frozenset({key}), follow=False)
    _head(menu, s.current.project.structures[key].label)
    _add(menu, "Show in both drawings", partial(w.going.to_thing, key))
    _add(menu, "Lay a run from here", partial(w.toolbox.take, "lay"))
    _add(menu, "Regrade from here", actions["regrade"].trigger)
    _selecting(menu, w)
    _delete(menu, w)


def _pipe(menu: QMenu, w: Frame, view: DrawingView, key: PipeId, x: float, y: float) -> None:
    s = w.session.state
    if key not in s.chosen.pipes:
        w.session.select(pipes=frozenset({key}), follow=view.leads)
    label, place = s.current.project.pipes[key].label, view.world(x, y)
    _head(menu, label)
    _add(menu, "Show in both drawings", partial(w.going.to_thing, key))
    if place is not None:
        at = nearest_distance(s.current.facts.spans[key], *place)
        kind = (s.held.way or first_way(s.current.project)).type
        _add(
            menu,
            "Split with a chamber here",
            lambda: w.session.edit(
                f"Split {label}", lambda p, f: split(p, f, key, at, kind).project
            ),
        )
    _add(
        menu,
        "Turn the flow",
        lambda: w.session.edit(f"Turn the flow of {label}", lambda p, f: turned(p, f, [key])),
    )
    _selecting(menu, w)
    _delete(menu, w)


def _thing(menu: QMenu, w: Frame, item: GroundItem) -> None:
    w.session.pick(item)
    _head(menu, item_name(w.session.state.current.project, item))
    if w.session.state.look.stage.picks != "ground" and item.kind not in ("pin", "area"):
        stage = stage_for(w.stages, lambda s: s.picks == "ground")
        _add(menu, f"Edit in the stage {stage.text}", lambda: w.go_stage(stage.id))
    _add(menu, "Delete", lambda: delete_item(w.session, item, None))


def _nothing(menu: QMenu, w: Frame, actions: Mapping[str, QAction]) -> None:
    for name in ("undo", "redo"):
        _action(menu, w, actions, name)
    menu.addSeparator()
    for name in ("lay", "gullies", "select-all"):
        _action(menu, w, actions, name)
    menu.addSeparator()
    for name in ("fit", "straighten", "whole"):
        _action(menu, w, actions, name)
