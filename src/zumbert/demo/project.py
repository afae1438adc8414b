"""The demo project: read from its open-format files, with the second run laid and regraded by
edits.
"""

from functools import cache
from pathlib import Path

import numpy as np
from msgspec.structs import replace

from zumbert.analysis import analyse
from zumbert.analysis.surfaces import levels
from zumbert.edits.areas import areas_of_road
from zumbert.edits.digging import set_strata
from zumbert.edits.lay import lay
from zumbert.edits.layoptions import LayOptions
from zumbert.edits.rain import set_rain
from zumbert.edits.records import structure_labelled
from zumbert.edits.regrade import Regrade, Regraded, regraded
from zumbert.edits.roads import set_strip
from zumbert.edits.sheets import change_sheet, set_delivery, usual_sheets
from zumbert.exchange.area_csv import read_areas
from zumbert.exchange.importing import import_files
from zumbert.exchange.raintoml import read_rain
from zumbert.exchange.taking.choices import Imported
from zumbert.geometry.strip import StripAt
from zumbert.model.digging import Stratum
from zumbert.model.ids import SizeKey, TypeKey
from zumbert.model.project import Project
from zumbert.model.road import Strip
from zumbert.model.structure import Anchored

FILES = Path(__file__).parent / "files"
# chainage and offset on Tansymoor Lane, m
LANE = ((20.0, 1.0), (52.0, 1.0), (88.0, 1.0), (124.0, 1.0))


def read() -> Imported:
    """The project that the files alone give."""
    made = import_files(
        "Quillerby School access",
        landxml=[FILES / "quillerby.xml"],
        structures=[FILES / "structures.csv"],
        pipes=[FILES / "pipes.csv"],
        standard=FILES / "standard.toml",
        trench=FILES / "trench.toml",
        ground="Existing ground",
        design="Road design",
        land=[FILES / "land.csv"],
        services=[FILES / "services.csv"],
    )
    project = made.project
    for road in project.roads:
        project = set_strip(
            project, road, Strip(sections=(StripAt(left=3.0, right=3.0, kerb=0.1, verge=2.0),))
        )
    return Imported(project=project, notes=made.notes)


def laid(project: Project) -> Project:
    """With the run along Tansymoor Lane, laid up-slope from S4 by cover."""
    s4 = structure_labelled(project, "S4")
    road = next(r.id for r in project.roads.values() if r.name == "Tansymoor Lane")
    way = LayOptions(type=TypeKey("manhole-1050"), size=SizeKey("225"), network=s4.network, up=True)
    places = [Anchored(road, ch, off) for ch, off in LANE]
    return lay(project, analyse(project), places, way, s4.id)[-1].project


def levelled(project: Project) -> Regraded:
    """With that run regraded: from its top down to S4 at one slope, with the least drop at each
    chamber.
    """
    facts = analyse(project)
    s4, top = structure_labelled(project, "S4"), structure_labelled(project, "S17")
    rim = facts.places[top.id].rim or 0.0
    return regraded(
        project, facts, Regrade(a=top.id, b=s4.id, start=rim - 1.55, slope=0.0255, drop=0.03)
    )


BOREHOLES = (  # chainage and offset on Quillerby Rise, and depth to rock, m
    (10.0, -6.0, 2.6), (70.0, 5.0, 1.7), (110.0, -12.0, 1.5), (150.0, 8.0, 1.2), (210.0, -7.0, 1.5),
    (260.0, 6.0, 1.9), (330.0, -5.0, 1.6), (405.0, 4.0, 1.8), (120.0, -90.0, 2.2),
    (300.0, 60.0, 2.4),
)  # fmt: skip
TOPSOIL = 0.25  # m


def with_strata(project: Project) -> Project:
    """With topsoil, general ground and, as boreholes met it, rock."""
    facts = analyse(project)
    line = next(r.alignment for r in facts.roads.values() if r.road.name == "Quillerby Rise")
    ch, off, depth = np.array(BOREHOLES).T
    x, y = line.point(ch, off)
    rock = np.column_stack([x, y, levels(facts.surfaces.existing, x, y) - depth]).round(3)
    boreholes = tuple((float(a), float(b), float(c)) for a, b, c in rock)
    strata = (
        Stratum(name="topsoil", thickness=TOPSOIL),
        Stratum(name="general"),
        Stratum(name="rock", boreholes=boreholes),
    )
    return set_strata(project, strata)


def with_sheets(project: Project) -> Project:
    """With the usual sheets, as one click in the stage Deliver makes them, at scales that suit
    the job.
    """
    made = usual_sheets(project, analyse(project))
    for sheet in list(made.sheets.values()):
        if sheet.kind == "plan-and-section":
            made = change_sheet(made, sheet.id, scale=250.0, up=50.0)
    return set_delivery(made, drawn="AB", checked="CD", date="2026-11-27", numbers="Q-{n:02}")


def with_areas(project: Project) -> Project:
    """With a rain, the roofs and the yard of the school, and the carriageway of Quillerby Rise
    from gully to gully.
    """
    project = read_areas(set_rain(project, read_rain(FILES / "rain.toml")), FILES / "areas.csv")
    road = next(k for k, r in project.roads.items() if r.name == "Quillerby Rise")
    return areas_of_road(project, analyse(project), road)


@cache
def demo_project() -> Project:
    """The whole demo, made once: a project never changes."""
    project = with_areas(with_sheets(with_strata(levelled(laid(read().project)).project)))
    return replace(project, name="Quillerby School access")
