"""Where these tests begin."""

import pytest


@pytest.fixture
def checks(user):
    user.in_stage("checks")
    return user


@pytest.fixture
def sheet(checks):
    checks.window.side.panel.turn_to(2)
    checks.settle()
    return checks
