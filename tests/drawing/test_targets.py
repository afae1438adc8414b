import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from zumbert.drawing.marks import Target
from zumbert.drawing.targets import Targets, distance

PLACE = st.tuples(st.floats(-100, 100), st.floats(-100, 100))


@given(
    st.lists(st.tuples(st.lists(PLACE, min_size=1, max_size=4), st.floats(1, 20)), max_size=30),
    PLACE,
)
def test_boxes_leave_out_nothing_that_is_near(shapes, place):
    targets = [Target("pipe", i, np.array(xy, float), r) for i, (xy, r) in enumerate(shapes)]
    wanted = {t.id for t in targets if distance(t.xy, *place) <= t.radius}
    assert {t.id for t, _ in Targets(targets).near(*place)} == wanted


@given(st.lists(PLACE, min_size=1, max_size=5), PLACE)
def test_distance_is_to_the_nearest_part_of_a_line(xy, place):
    line = np.array(xy, float)
    t = np.linspace(0, 1, 2001)[:, None]
    sampled = (
        [line[:1]]
        if len(line) == 1
        else [a + t * (b - a) for a, b in zip(line[:-1], line[1:], strict=True)]
    )
    near = min(float(np.hypot(*(s - np.array(place)).T).min()) for s in sampled)
    assert distance(line, *place) <= near + 1e-9
    longest = max(
        (float(np.hypot(*(b - a))) for a, b in zip(line[:-1], line[1:], strict=True)), default=0.0
    )
    assert distance(line, *place) >= near - longest / 2000 - 1e-9
