"""Where these tests begin."""

import pytest

from tests.app.space.hands import rest


@pytest.fixture
def space(user):
    """The view in space in the plan's place, at rest."""
    user.do("space")
    rest(user)
    return user.window.centre.space
