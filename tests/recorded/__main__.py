"""`python -m tests.recorded [WORD]`: records anew what has a word in its name, or all."""

import sys

from tests.recorded.plain import rounded
from tests.recorded.recordings import RECORDINGS
from tests.recorded.store import FOLDER, file_of, text_of

FOLDER.mkdir(exist_ok=True)
for name, make in RECORDINGS.items():
    if len(sys.argv) < 2 or sys.argv[1] in name:
        file_of(name).write_text(text_of(rounded(make())) + "\n", encoding="utf-8")
        print(name)
