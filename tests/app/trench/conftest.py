"""Where these tests begin."""

import pytest


@pytest.fixture
def trench(user):
    user.in_stage("trench")
    return user
