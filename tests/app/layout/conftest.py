"""Where these tests begin."""

import pytest
from msgspec.structs import replace


@pytest.fixture
def laying(user):
    user.session.set(straight=False)
    """The tool in hand, the upper part of the road in sight."""
    user.do("lay")
    user.plan.map = replace(user.plan.map, scale=4.0, x=1640.0, y=905.0)
    user.plan.update()
    user.settle()
    user.session.set(way=replace(user.window.toolbox.tool.way, up=True))
    return user


@pytest.fixture
def picking(user):
    """Stage Layout, straightened, the part about S4 in sight."""
    user.do("straighten")
    user.session.to_stage("layout")
    user.plan.map = replace(user.plan.map, scale=6.0, x=1500.0, y=868.0)
    user.plan.update()
    user.settle()
    return user


@pytest.fixture
def resting(user):
    """Nothing selected, stage Layout."""
    user.session.select()
    user.session.to_stage("layout")
    user.settle()
    return user
