"""A full check from nothing and after one edit, and the room between pipes and services."""

from collections.abc import Iterator

import numpy as np
import shapely
from msgspec.structs import replace

from benchmarks.measure import Figure, median_ms
from benchmarks.networks import network
from zumbert.analysis import analyse
from zumbert.analysis.meetings import lines, meetings
from zumbert.checks import check
from zumbert.edits.levels import set_invert
from zumbert.geometry.tin import Tin
from zumbert.model.ids import ServiceId
from zumbert.model.project import Project
from zumbert.model.service import ServiceLine

PIPES = 10_000
SERVICES = 10_000


def checking() -> Iterator[Figure]:
    project = network(PIPES)
    facts = analyse(project)
    surface = next(iter(project.surfaces.values()))
    ends = np.array([(s.up.x, s.up.y, s.down.x, s.down.y) for s in facts.spans.values()], float)
    sections = median_ms(
        lambda: Tin(surface.vertices, surface.faces).sections(ends[:, :2], ends[:, 2:]), 3
    )
    whole = median_ms(lambda: check(project, analyse(project)), 3)
    yield Figure(
        "full check of 10,000 pipes, its ground sections", whole, sections, whole / sections, 3.0
    )

    findings = check(project, facts)
    key = list(project.pipes)[PIPES // 2]
    steps = iter(range(1, 99))

    def again() -> None:
        one = set_invert(project, key, "up", project.pipes[key].invert_up + 0.001 * next(steps))
        check(one, analyse(one, facts), findings)

    spent = median_ms(again, 50)
    yield Figure("facts and findings after one edit of 10,000", spent, None, spent, 4.0)

    crossed = with_services(project)
    made = analyse(crossed).made
    keys = list(crossed.pipes)
    boxes = made["boxes"].at

    def floor() -> None:
        plan = shapely.box(boxes[:, 0], boxes[:, 1], boxes[:, 3], boxes[:, 4])
        at = made["service_lines"].boxes
        shapely.STRtree(shapely.box(at[:, 0], at[:, 1], at[:, 3], at[:, 4])).query(plan)
        shapely.STRtree(plan).query(plan)

    def ours() -> None:
        made.values["service_lines"] = lines(crossed)
        meetings(made, keys)

    mine, tree = median_ms(ours, 5), median_ms(floor, 5)
    yield Figure("clearance of 10,000 pipes to 10,000 services", mine, tree, mine / tree, 2.0)


def with_services(project: Project) -> Project:
    """The network with services of one piece each, thrown over it at the levels of its pipes."""
    rng = np.random.default_rng(3)
    places = np.array([(s.place.x, s.place.y) for s in project.structures.values()])
    low, high = places.min(axis=0), places.max(axis=0)
    a = rng.uniform(low, high, (SERVICES, 2))
    b = a + rng.normal(0, 15, (SERVICES, 2))
    z = rng.uniform(40, 62, (SERVICES, 2))
    services = {
        ServiceId(f"v{i}"): ServiceLine(
            id=ServiceId(f"v{i}"),
            label=f"W{i}",
            kind="water",
            size=0.2,
            points=((*a[i].tolist(), float(z[i, 0])), (*b[i].tolist(), float(z[i, 1]))),
        )
        for i in range(SERVICES)
    }
    return replace(project, services=services)
