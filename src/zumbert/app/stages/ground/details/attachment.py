"""An attached file."""

from typing import Any

from zumbert.app.panels.rows import wrapped
from zumbert.app.stages.ground.details.detail import Detail
from zumbert.app.state import State


class FileDetail(Detail):
    def build(self) -> None:
        self.note = self.field("Note", "file note", lambda t: self.change("Note a file", note=t))
        self.words = wrapped("", "small")
        self.whole.addWidget(self.words)
        self.whole.addWidget(
            self.button("Save a copy …", "save a copy", lambda: self.acts.file_copy())
        )

    def show_record(self, s: State, r: Any) -> None:
        if not self.note.isModified():
            self.note.setText(r.note)
        inside = f"kept inside, {len(r.data or b'') / 1024:.1f} kB"
        self.words.setText(inside if r.data is not None else f"linked: {r.path}")
