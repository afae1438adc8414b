"""Areas that drain to structures, as washes in the plan."""

import numpy as np
from msgspec.structs import replace

from tests.app.ready import DEMO
from zumbert.analysis import analyse
from zumbert.drawing.flowmarks import washes
from zumbert.drawing.labels import Labels
from zumbert.drawing.marks import Fill
from zumbert.drawing.sight import StraightSight
from zumbert.edits.areas import add_area


def test_an_area_whose_middle_is_beyond_a_straightened_plan_is_washed_as_far_as_it_is_in_it():
    road = next(iter(analyse(DEMO).roads.values())).alignment
    begin, end = road.start, road.start + 40.0
    x, y = (
        np.array(v, float) for v in zip(road.point(begin, 0.0), road.point(end, 0.0), strict=True)
    )
    d = np.array([x[1] - x[0], y[1] - y[0]]) / 40.0
    at = np.array([x[0], y[0]])
    # three corners beside the road's beginning, two far before it
    ring = [
        at + 2 * d,
        at + 30 * d,
        at + 30 * d + 20 * d[::-1] * (-1, 1),
        at - 900 * d + 40 * d[::-1] * (-1, 1),
        at - 900 * d,
    ]
    project, key = add_area(DEMO, "field", ring=tuple(map(tuple, np.array(ring).tolist())))
    facts = analyse(replace(project, areas={key: project.areas[key]}))
    sight = StraightSight(
        width=900.0,
        height=250.0,
        line=road,
        first=begin,
        left=84.0,
        scale=4.0,
        middle=125.0,
        reach=70.0,
    )
    labels = Labels()
    marks = list(washes(facts, sight, labels))
    assert any(isinstance(m, Fill) for m in marks)
    assert labels.texts == []
