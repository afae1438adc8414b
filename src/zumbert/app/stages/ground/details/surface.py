"""A surface: its role, its spikes, what it holds."""

from typing import Any

from PySide6.QtWidgets import QHBoxLayout, QLineEdit

from zumbert.app.panels.rows import label, wrapped
from zumbert.app.stages.ground.details.detail import Detail
from zumbert.app.state import State
from zumbert.app.told import told
from zumbert.edits.ground import leave_out_spikes, set_role
from zumbert.geometry.spikes import SPIKE
from zumbert.model.display import counted
from zumbert.model.surface import ROLE_WORDS


class SurfaceDetail(Detail):
    def build(self) -> None:
        self.words = wrapped("", "small")
        self.whole.addWidget(self.words)
        self.role = self.combo("Role", f"role {self.record.name}", ROLE_WORDS, self._role)
        row = QHBoxLayout()
        self.spike = QLineEdit(self.session.units.full(SPIKE))
        self.spike.setObjectName("spike height")
        self.spike.setAccessibleName("Height of a spike")
        self.spike.setFixedWidth(52)
        row.addWidget(label("Spikes over", "second"))
        row.addWidget(self.spike)
        row.addWidget(label(self.session.units.m, "second"))
        row.addStretch(1)
        row.addWidget(self.button("Leave out", "leave out spikes", self._spikes))
        self.whole.addLayout(row)
        self.whole.addWidget(
            self.button("Place by points", "place", lambda: self.acts.take("place"))
        )

    def _role(self, role: Any) -> None:
        key = self.record.id
        self.edit(f"Change the role of {self._name()}", lambda p, f: set_role(p, key, role))

    @told(None)
    def _spikes(self) -> None:
        height = self.typed(self.spike.text())
        if height is None:
            return
        project, count = leave_out_spikes(
            self.session.state.current.project, self.record.id, height
        )
        if not count:
            self.session.refused.emit(
                f"No vertex is more than {self.session.units.long(height)} off its neighbours."
            )
            return
        self.session.apply(f"Leave out {counted(count, 'spike')} of {self._name()}", project)

    def show_record(self, s: State, r: Any) -> None:
        u, z = s.units, r.vertices[:, 2]
        self.words.setText(
            (
                f"{counted(len(r.faces), 'face')}, {counted(len(r.vertices), 'point')}, level "
                f"{u.length(z.min())} to {u.long(z.max())}"
            )
            if len(z)
            else "empty"
        )
        self.role.setCurrentIndex(self.role.findData(r.role))
