"""Where these tests begin."""

import pytest


@pytest.fixture
def deliver(user):
    user.in_stage("deliver")
    return user
