"""Where these tests begin."""

import pytest


@pytest.fixture
def flow(user):
    user.in_stage("flow")
    return user
