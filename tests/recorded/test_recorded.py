"""What follows from projects of all kinds, and what each edit changes, is what was recorded.
Another figure is meant or a fault: look at each that is named. `python -m tests.recorded` records
anew; the difference is read before it is committed.
"""

import json

import pytest

from tests.recorded.plain import differences
from tests.recorded.recordings import RECORDINGS
from tests.recorded.store import FOLDER, file_of

SHOWN = 8  # differences


@pytest.mark.parametrize("name", RECORDINGS)
def test_nothing_is_another_figure(name):
    kept = json.loads(file_of(name).read_text(encoding="utf-8"))
    found = list(differences(kept, json.loads(json.dumps(RECORDINGS[name]()))))
    assert not found, "\n".join([f"{len(found)} differences:", *found[:SHOWN]])


def test_every_file_is_of_a_recording():
    assert set(FOLDER.glob("*.json")) == {file_of(name) for name in RECORDINGS}
