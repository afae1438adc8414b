"""Where these tests begin."""

import pytest

from tests.build import drawn
from zumbert.edits.setup import add_background


@pytest.fixture
def surveyed(user):
    """A drawing with an L of two straights, a ring, and a crossing line."""
    lines = [
        [1440, 960, 1500, 960],
        [1500, 960, 1500, 930],
        [1560, 960, 1590, 960],
        [1590, 960, 1590, 930],
        [1590, 930, 1560, 960],
        [1450, 940, 1450, 980],
    ]
    user.session.edit(
        "Add", lambda p, f: add_background(p, drawn("survey", ("A",), lines, [0] * 6))
    )
    return user
