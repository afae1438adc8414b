"""The panel of nothing selected."""

from functools import cached_property
from typing import Any

from PySide6.QtWidgets import QVBoxLayout, QWidget

from zumbert.app.panels.networkspanel import NetworksSection
from zumbert.app.panels.rows import Stack, label, rule, wrapped
from zumbert.app.pen import Pen
from zumbert.app.session import Session
from zumbert.app.state import State
from zumbert.model.display import counted


class NothingPanel(QWidget):
    """The content of the project, and how to begin."""

    def __init__(self, session: Session, pen: Pen) -> None:
        super().__init__()
        self.body = wrapped("")
        self.title = label("", "title")
        self.session, self.pen = session, pen
        self.networks = NetworksSection(session, pen)
        whole = Stack(self, 6)
        whole.addWidget(self.title)
        whole.addWidget(rule())
        whole.addWidget(self.body)
        whole.addSpacing(6)
        whole.addWidget(rule())
        whole.addWidget(label("Nothing selected", "section"))
        whole.addWidget(
            wrapped(
                "Click a pipe in plan or long section to see its values with the ranges that the "
                "rules allow. "
                "Drag its rings to set its levels, or click a value in the rows under the section.",
                "second",
            )
        )
        self._add(whole, self.networks)
        self.more = Stack(None, 6)
        whole.addLayout(self.more)
        whole.addStretch(1)

    def _add(self, into: QVBoxLayout, section: QWidget) -> None:
        into.addSpacing(6)
        into.addWidget(rule())
        into.addWidget(section)

    @cached_property
    def sections(self) -> tuple[Any, ...]:
        """Label fields, named runs and pinned levels, once there is something to show."""
        from zumbert.app.panels.labelfields import LabelFields
        from zumbert.app.panels.pinspanel import PinsSection
        from zumbert.app.panels.runspanel import RunsSection

        self.fields, self.runs = LabelFields(self.session), RunsSection(self.session)
        self.pins = PinsSection(self.session, self.pen)
        out = self.fields, self.runs, self.pins
        for section in out:
            self._add(self.more, section)
        return out

    def refresh(self, s: State) -> None:
        """Shows the state."""
        self.networks.refresh(s)
        if s.shown.project.structures or "sections" in self.__dict__:
            for section in self.sections:
                section.refresh(s)
        u = s.units
        project = s.shown.project
        self.title.setText(project.name)
        total = sum(f.span.length for f in s.shown.facts.pipes.values())
        surfaces = (
            ", ".join(f"{g.name} ({g.role})" for g in project.surfaces.values()) or "no surface yet"
        )
        self.body.setText(
            f"{counted(len(project.structures), 'structure')}, "
            f"{counted(len(project.pipes), 'pipe')}, {u.long(total)}.\n"
            "Roads: "
            f"{', '.join(r.name for r in project.roads.values()) or 'none yet'}.\nSurfaces: "
            f"{surfaces}."
        )
