"""Projects whose every record is unlike the usual: values of each field drawn by a seed, those
that nobody thinks of too.
"""

from functools import cache

import numpy as np
from msgspec.structs import replace

from tests.edits.made import BASE
from zumbert.analysis import analyse
from zumbert.geometry.strip import StripAt
from zumbert.model.area import RoadSide
from zumbert.model.digging import Digging, Rate, Stratum
from zumbert.model.display import Units
from zumbert.model.land import Land
from zumbert.model.pipe import Bore
from zumbert.model.project import FORMULAS, LENGTH_BASES
from zumbert.model.rain import Rain, RainTable
from zumbert.model.road import Strip
from zumbert.model.run import NamedRun
from zumbert.model.service import ServiceLine
from zumbert.model.standard import AGAINST, CROWNS, LIMITS, WEIGHTS, OwnLimit
from zumbert.model.structure import FixedRim, Free, OnSurface
from zumbert.model.trench import UPPERS, TrenchSize

PLACES = analyse(BASE).places
LEVEL = {k: p.ground or 40.0 for k, p in PLACES.items()}


class Lot:
    """Draws by a seed."""

    def __init__(self, seed):
        self.rng = np.random.default_rng(seed)

    def one(self, items):
        items = list(items)
        return items[int(self.rng.integers(len(items)))]

    def at(self, low, high):
        return round(float(self.rng.uniform(low, high)), 3)

    def yes(self, share=0.5):
        return bool(self.rng.random() < share)

    def maybe(self, value, share=0.5):
        return value if self.yes(share) else None


def of_settings(lot, settings):
    units = Units(
        system=lot.one(("metric", "us")),
        chainages=lot.one(("plus", "plain")),
        slopes=lot.one(("percent", "ratio", "fraction")),
    )
    return replace(
        settings,
        units=units,
        length_basis=lot.one(LENGTH_BASES),
        invert_basis=lot.one(("centres", "walls")),
        formula=lot.one(FORMULAS),
        travel=lot.one(("actual", "full")),
    )


def of_standard(lot, standard):
    values = {}
    for name, field in LIMITS.items():
        now = getattr(standard, name)
        if now is None:
            values[name] = lot.maybe(lot.at(0.5, 1.5))
        elif isinstance(now, tuple):
            values[name] = tuple((upto, value * lot.at(0.6, 1.6)) for upto, value in now)
        elif field.by == "dn" and lot.yes(0.3):
            values[name] = (
                (300.0, now * lot.at(0.7, 1.2)),
                (600.0, now),
                (900.0, now * lot.at(0.8, 1.5)),
            )
        else:
            values[name] = now * lot.at(0.5, 1.6)
    weights = {f.rule: lot.one(WEIGHTS) for f in LIMITS.values() if lot.yes(0.2)}
    return replace(
        standard, weights=weights, crowns=lot.one(CROWNS), cover_against=lot.one(AGAINST), **values
    )


def trench_size(lot, dn, ground):
    sloped = lot.yes(0.6)
    return TrenchSize(
        dn=dn,
        ground=ground,
        bedding=lot.at(0, 0.3),
        width=lot.one((lot.at(0.6, 1.5), ((1.5, 0.8), (3.0, 1.2)))),
        side=lot.maybe(lot.at(0.15, 0.4), 0.3),
        vertical_height=lot.at(0, 0.8) if sloped else 0.0,
        batter=lot.at(0, 1) if sloped else 0.0,
        bench_width=lot.at(0, 0.4) if lot.yes(0.3) else 0.0,
        bench_height=lot.at(0.5, 1.5),
        surround=lot.maybe(lot.at(0, 0.3)),
        support_above=lot.maybe(lot.at(0.8, 1.5)),
    )


def of_trench(lot, trench):
    sizes = [
        trench_size(lot, dn, ground)
        for dn in (300.0, None)
        for ground in ("", "rock")
        if not ground or lot.yes()
    ]
    return replace(
        trench,
        sizes=tuple(sizes),
        working_space=lot.at(0.2, 0.8),
        base_thickness=lot.at(0.1, 0.3),
        spacing=lot.at(1, 6),
        upper=lot.one(UPPERS),
    )


def of_digging(lot, digging):
    rock = digging.strata[-1].boreholes
    strata = (
        (),
        digging.strata,
        (
            Stratum(name="topsoil", thickness=lot.at(0.1, 0.6)),
            Stratum(name="clay", thickness=lot.at(0.3, 1.0)),
            Stratum(
                name="rock", boreholes=tuple((x, y, z + lot.at(-0.8, 0.8)) for x, y, z in rock)
            ),
        ),
    )
    return Digging(
        strata=lot.one(strata),
        bands=lot.one((digging.bands, (0.0, 0.7, 1.4), (0.0,))),
        stripped=lot.at(0, 0.4),
        to_centres=lot.yes(),
        statuses=lot.one((frozenset({"proposed"}), frozenset({"proposed", "existing"}))),
        left_out=frozenset(k for k in list(BASE.networks)[1:] if lot.yes(0.3)),
        reuse=lot.at(0, 1),
        bulking=lot.at(1, 1.5),
        carriageway=lot.at(0, 0.4),
        verge=lot.at(0, 0.2),
        field=lot.at(0, 0.1),
        rates=(
            Rate(item="Excavation", unit="m³", rate=lot.at(5, 50)),
            Rate(item="Bedding", unit="m³", rate=lot.at(5, 90)),
        ),
    )


def of_road(lot, road):
    def section(chainage):
        return StripAt(
            chainage=chainage,
            left=lot.at(2, 4),
            right=lot.at(2, 4),
            crossfall_left=lot.at(-0.04, 0.04),
            crossfall_right=lot.at(-0.04, 0.04),
            kerb=lot.one((0.0, 0.125)),
            verge=lot.one((0.0, lot.at(1, 3))),
            verge_crossfall=lot.at(-0.05, 0.05),
        )

    sections = tuple(section(ch) for ch in (0.0, *sorted(lot.at(10, 110) for _ in range(2))))
    return replace(
        road,
        strip=lot.maybe(
            Strip(sections=sections, surface=lot.yes(0.7), depth=lot.at(0.2, 0.6)), 0.8
        ),
        near=lot.maybe(lot.at(5, 40), 0.7),
        without=frozenset(k for k in BASE.structures if lot.yes(0.1)),
    )


def of_pipe(lot, pipe):
    up, down = (LEVEL[k] - lot.at(0.3, 3.0) for k in (pipe.up, pipe.down))
    a, b = PLACES[pipe.up], PLACES[pipe.down]
    middle = Free((a.x + b.x) / 2 + lot.at(-3, 3), (a.y + b.y) / 2 + lot.at(-3, 3))
    return replace(
        pipe,
        size=lot.one((pipe.size, lot.one(BASE.sizes), Bore(lot.at(0.1, 0.8), lot.at(0, 0.1)))),
        invert_up=round(up, 3),
        invert_down=lot.one((round(down, 3), round(up - lot.at(0, 1), 3), round(up, 3))),
        invert_basis=lot.one((None, "centres", "walls")),
        status=lot.one(("proposed", "proposed", "existing", "abandoned")),
        through=lot.maybe(middle, 0.25),
        hold_size=lot.yes(0.2),
        hold_up=lot.yes(0.2),
        hold_down=lot.yes(0.2),
        share=lot.maybe(lot.at(0.2, 1), 0.2),
        limits=limits(lot, ("cover_min", "slope_min", "velocity_max")),
        trench=lot.maybe(lot.one(BASE.trench_types), 0.3),
        service=lot.one(("storm", "storm", "foul")),
    )


def limits(lot, rules):
    return tuple(
        OwnLimit(rule=r, value=lot.maybe(lot.at(0.01, 1.0)), reason="agreed")
        for r in rules
        if lot.yes(0.15)
    )


def of_structure(lot, structure):
    ground = LEVEL[structure.id]
    rim = lot.one(
        (
            structure.rim,
            OnSurface("existing", lot.at(-0.1, 0.1)),
            FixedRim(round(ground + lot.at(-0.3, 0.3), 3)),
        )
    )
    return replace(
        structure,
        type=lot.one((structure.type, structure.type, lot.one(BASE.types))),
        rim=rim,
        rotation=lot.maybe(lot.at(0, 6)),
        sump=lot.maybe(round(ground - lot.at(2, 4), 3), 0.2),
        sump_depth=lot.maybe(lot.at(0, 0.6), 0.2),
        status=lot.one(("proposed", "proposed", "proposed", "existing", "abandoned")),
        outfall=lot.yes(0.1),
        inflow=lot.at(0.001, 0.05) if lot.yes(0.2) else 0.0,
        cover=(lot.at(-0.3, 0.3), lot.at(-0.3, 0.3)),
        next_slope=lot.maybe(lot.at(0.005, 0.03), 0.2),
        limits=limits(lot, ("drop_min", "rim_on_surface", "chamber_size")),
    )


def of_area(lot, area):
    road = next(iter(BASE.roads))
    first, last = (lot.maybe(lot.one(BASE.structures)) for _ in range(2))
    side = lot.one(("left", "right"))
    along = RoadSide(
        road=road, side=side, first=first, last=last, whole=lot.yes(0.3), verge=lot.yes()
    )
    more = {"along": along, "ring": (), "size": None} if lot.yes(0.3) else {}
    return replace(
        area,
        structure=lot.one(BASE.structures),
        coefficient=lot.maybe(lot.at(0.2, 1)),
        entry=lot.maybe(lot.at(2, 15)),
        **more,
    )


def lines(lot):
    """Services that cross, run beside and end within the work."""
    xy = [(p.x, p.y) for p in PLACES.values()]
    out = {}
    for i in range(3):
        (ax, ay), (bx, by) = lot.one(xy), lot.one(xy)
        level = lot.one((None, 39.5))
        points = (
            (ax + lot.at(-9, 9), ay + lot.at(-9, 9), level),
            ((ax + bx) / 2 + 1, (ay + by) / 2, lot.at(38, 41)),
            (bx + lot.at(-9, 9), by + lot.at(-9, 9), level),
        )
        kind, size = lot.one(("water", "gas", "power")), lot.at(0.05, 0.5)
        out[f"v{i}"] = ServiceLine(
            id=f"v{i}", label=f"V{i}", kind=kind, points=points, size=size, clearance=lot.at(0, 0.6)
        )
    return out


def rings(lot):
    """Land that the work leaves."""
    x, y = (float(np.mean([getattr(p, n) for p in PLACES.values()])) for n in "xy")
    ring = (
        (x - 60, y - 40),
        (x + lot.at(-20, 20), y - 40),
        (x + lot.at(-20, 20), y + 40),
        (x - 60, y + 40),
    )
    return {"n1": Land(id="n1", name="reserve", kind="reserve", ring=ring)}


def rain(lot):
    table = RainTable(
        minutes=(5.0, 10.0, 30.0, 60.0),
        rows=((2.0, (90.0, 70.0, 40.0, 25.0)), (30.0, (180.0, 140.0, 80.0, 50.0))),
    )
    return lot.one(
        (
            BASE.rain,
            Rain(source=table, years=lot.at(2, 30), climate=lot.at(0.8, 1.4), entry=lot.at(3, 8)),
            None,
        )
    )


@cache
def odd(seed):
    """The small project, odd throughout."""
    lot = Lot(seed)
    records = {
        name: {k: make(lot, v) for k, v in getattr(BASE, name).items()}
        for name, make in (
            ("standards", of_standard),
            ("trench_types", of_trench),
            ("roads", of_road),
            ("pipes", of_pipe),
            ("structures", of_structure),
            ("areas", of_area),
        )
    }
    heads = list(BASE.structures)
    runs = {
        f"q{i}": NamedRun(
            id=f"q{i}", name=f"run {i}", a=lot.one(heads), b=lot.maybe(lot.one(heads))
        )
        for i in range(2)
    }
    networks = {
        k: replace(
            n,
            standard=lot.one(BASE.standards),
            trench=lot.one(BASE.trench_types),
            invert_basis=lot.one((None, "walls")),
        )
        for k, n in BASE.networks.items()
    }
    return replace(
        BASE,
        settings=of_settings(lot, BASE.settings),
        digging=of_digging(lot, BASE.digging),
        rain=rain(lot),
        services=lines(lot),
        land=rings(lot),
        runs=runs,
        networks=networks,
        decisions={},
        **records,
    )
