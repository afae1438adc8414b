"""What is recorded: of projects of all kinds, all that follows from them; of every edit, what it
changes.
"""

from functools import cache, cached_property, partial
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from msgspec.structs import replace

from tests.analysis.test_incremental import random_edit
from tests.build import facts_of
from tests.edits.made import BASE, EDITS, Maker, arguments, project_of
from tests.recorded.asked import asked
from tests.recorded.files import files
from tests.recorded.listing import listed, size_logs
from tests.recorded.odd import odd
from tests.recorded.plain import changes, gist, plain, short, sketch_of_text
from tests.recorded.shapes import SEEDS, SHAPES
from zumbert.analysis import analyse
from zumbert.analysis.crosssection import cross_section
from zumbert.analysis.facts import Facts
from zumbert.analysis.paths import shortest
from zumbert.analysis.probe import levels, stops
from zumbert.analysis.quantities import full_quantities
from zumbert.analysis.runlist import outline, run_keys
from zumbert.analysis.runs import run
from zumbert.analysis.sectionsteps import place_on, where_words
from zumbert.analysis.sectionsteps import stops as section_stops
from zumbert.analysis.selecting import WAYS, Chosen, more
from zumbert.analysis.takeoff import description, takeoff
from zumbert.analysis.trench import trenches
from zumbert.checks import check
from zumbert.checks.arrange import bars
from zumbert.checks.legal import end_range, rows, shift_range
from zumbert.checks.sentences import brief, mark, remark, sentence, source
from zumbert.delivery.geojson import geojson
from zumbert.delivery.job import Job
from zumbert.delivery.landxml import landxml
from zumbert.demo.project import demo_project
from zumbert.drawing.picture import Picture
from zumbert.drawing.plan import network
from zumbert.drawing.sight import MapSight
from zumbert.edits.fixes import fixes
from zumbert.edits.land import add_land
from zumbert.edits.rain import change_rain
from zumbert.edits.snaps import snaps
from zumbert.errors import ZumbertError
from zumbert.exchange.csv import write_csv
from zumbert.exchange.flowtables import flow_report
from zumbert.exchange.importing import import_files
from zumbert.exchange.landxml import read_landxml
from zumbert.exchange.library import read_library, write_library
from zumbert.exchange.quantitytext import quantity_lines
from zumbert.exchange.raintoml import read_rain, write_rain
from zumbert.exchange.readback import read_back
from zumbert.exchange.reports import check_report
from zumbert.exchange.svg import write_svg
from zumbert.exchange.tables import in_units, pipe_table, structure_table
from zumbert.exchange.toml import read_standard, write_standard
from zumbert.exchange.trenchtoml import read_trench, write_trench
from zumbert.model.display import Units
from zumbert.model.rain import Rain

DRAWS = 8  # of arguments for an edit
BASES = ("base", "feet", "odd 3", "odd 4")  # that they are made of in turn
ASKED = 2  # times that each function is asked
READ = 2  # of them are recorded to be read
LONGEST = 20_000  # letters of a text whose lines are kept
STEPS = 30  # random edits until a project is in disorder


def feet():
    """The small project in US units, its inverts and lengths on other bases, its flow by another
    formula.
    """
    settings = replace(
        BASE.settings,
        units=Units(system="us"),
        length_basis="wall-slope",
        invert_basis="walls",
        formula="colebrook-white",
        travel="full",
    )
    return change_rain(replace(BASE, settings=settings), years=20.0)


@cache
def disorder(seed):
    """The small project after random edits, with land that it leaves."""
    project, rng = BASE, np.random.default_rng(seed)
    x, y = (np.mean([getattr(p, n) for p in analyse(BASE).places.values()]) for n in "xy")
    ring = [(x - 60, y - 40), (x + 10, y - 40), (x + 15, y + 40), (x - 60, y + 40)]
    project = add_land(project, "reserve", ring, "reserve")[0]
    facts = analyse(project)
    for _ in range(STEPS):
        try:
            project = random_edit(project, facts, rng)
        except ZumbertError:
            continue
        facts = analyse(project, facts)
    return project


PROJECTS = {"demo": demo_project, "base": lambda: BASE, "feet": feet}
PROJECTS |= {f"disorder {seed}": partial(disorder, seed) for seed in (1, 2)}
PROJECTS |= {f"odd {seed}": partial(odd, seed) for seed in range(1, 5)}
SHORT = PROJECTS.keys() - {"disorder 1", "odd 1"}  # recorded without what can be read


# -- all that follows from a project ---------------------------------------------------------------


class Known:
    """A project with what follows from it, each worked out once."""

    def __init__(self, project):
        self.project, self.facts = project, facts_of(project)

    @cached_property
    def findings(self):
        return check(self.project, self.facts)

    @cached_property
    def dug(self):
        return trenches(self.facts)

    @cached_property
    def runs(self):
        return [
            r
            for r in (run(self.facts, key) for key in run_keys(self.project, self.facts))
            if r is not None
        ]

    @cached_property
    def quantities(self):
        return full_quantities(self.dug)


@cache
def known(name):
    return Known(PROJECTS[name]())


def derived(of):
    """Facts."""
    facts = of.facts
    return {
        name: plain(getattr(facts, name), brief=True)
        for name in Facts.__struct_fields__
        if name not in ("project", "made")
    }


def judged(of):
    """Findings in words, with what mends them, and the bounds of each level."""
    project, facts, found = of.project, of.facts, of.findings
    out = []
    for f in found:
        said = [say(facts, f) for say in (sentence, brief, mark, remark, source)]
        mended = [
            (fix.text, fix.figure, changes(project, fix.project))
            for fix in fixes(project, facts, f)
        ]
        out.append({"finding": plain(f), "said": said, "fixes": mended})
    ends = {
        k: [(end_range(facts, f, e), snaps(facts, f, e)) for e in ("up", "down")]
        for k, f in facts.pipes.items()
    }
    ranges = {
        k: plain([shift_range(facts, f), ends[k], snaps(facts, f, None)])
        for k, f in facts.pipes.items()
    }
    return {
        "findings": out,
        "bars": plain(list(bars(found))),
        "ranges": ranges,
        "rows": {k: plain(rows(facts, f)) for k, f in list(facts.pipes.items())[:4]},
    }


def looked_at(of):
    """Runs, what is met along them, and what is selected by what is."""
    project, facts, dug = of.project, of.facts, of.dug
    out = {}
    for key in run_keys(project, facts):
        r = run(facts, key)
        if r is None:
            out[str(key)] = plain(outline(facts, key))
            continue
        at = [place_on(dug, r, x) for x in np.linspace(r.start, r.start + r.length, 7)[1:-1]]
        lines = [
            r.name,
            r.structures,
            r.reaches,
            r.length,
            r.start,
            r.fall,
            r.ground,
            r.design,
            r.others,
            r.crossings,
            r.near,
        ]
        words = [p and where_words(facts, p.pipe, p.s) for p in at]
        out[str(key)] = plain(
            [*lines, outline(facts, key), section_stops(dug, r), words], brief=True
        )
    pipes, structures = list(project.pipes), list(project.structures)
    chosen = Chosen(frozenset(pipes[1:2]), frozenset(structures[2:3]))
    ways = {
        f"{a} {b}": plain(shortest(facts, a, b)) for a in structures[:3] for b in structures[-3:]
    }
    told = {
        k: plain([levels(f, facts, d) for d in (0.0, 0.4 * f.span.length)] + stops(facts, k))
        for k, f in list(facts.pipes.items())[::3]
    }
    return {
        "runs": out,
        "ways": ways,
        "more": {how: plain(more(facts, chosen, how)) for how, _ in WAYS},
        "levels": told,
    }


def counted(of):
    """Trenches, quantities and their lists."""
    facts, dug, q = of.facts, of.dug, of.quantities
    cuts = {
        k: plain(
            [cross_section(dug, k, share * t.pipe.span.length) for share in (0.01, 0.5)], brief=True
        )
        for k, t in list(dug.pipes.items())[::4]
    }
    items = list(takeoff(facts, q))
    return {
        "trenches": plain(dug.pipes, brief=True),
        "pits": plain(dug.pits, brief=True),
        "quantities": plain(q),
        "takeoff": plain(items),
        "described": [description(facts, f) for f in facts.pipes.values()],
        "lines": list(quantity_lines(facts, q, items)),
        "sections": cuts,
    }


# -- edits and files -------------------------------------------------------------------------------


def edited(names):
    """What each of some edits changes, or why it is refused."""
    bases = [known(base) for base in BASES]
    out = {}
    for name in names:
        out[name] = []
        for draw in range(DRAWS):
            base = bases[draw % len(bases)]
            project, facts = base.project, base.facts
            w = Maker(project, facts, np.random.default_rng([draw, *name.encode()]))
            try:
                made = EDITS[name](**arguments(name, EDITS[name], w))
            except (ZumbertError, ValueError) as e:
                out[name].append(str(e))
                continue
            after = project_of(made)
            more = (
                []
                if after is made or not isinstance(made, tuple)
                else plain([m for m in made if not hasattr(m, "pipes")])
            )
            found = [after and changes(project, after), more]
            out[name].append(found if draw < READ else gist(found))
    return out


def written(of):
    """What is written of a project, and what reading it gives again."""
    project = of.project
    project = replace(project, delivery=replace(project.delivery, date="2026-11-25"))
    facts = analyse(project)
    job = Job(project, facts)
    with TemporaryDirectory() as name:
        folder = Path(name)
        texts = {"geojson": geojson(job).decode()}
        (folder / "a.xml").write_text(landxml(job).text)
        sight = MapSight(width=400, height=300, x=1500, y=880, scale=1)
        plan = network(Picture(facts=facts, findings=check(project, facts)), sight).marks
        write_library(folder / "library.toml", project)
        write_standard(
            list(project.standards.values())[-1], folder / "standard.toml", project.units.system
        )
        write_trench(
            list(project.trench_types.values())[-1], folder / "trench.toml", project.units.system
        )
        write_rain(project.rain or Rain(), folder / "rain.toml")
        write_csv(folder / "structures.csv", in_units(structure_table(facts), project.units))
        write_csv(folder / "pipes.csv", in_units(pipe_table(facts), project.units))
        write_svg(folder / "plan.svg", plan, 400, 300)
        texts |= {p.name: p.read_text() for p in sorted(folder.iterdir())}
        readers = {
            "a.xml": read_landxml,
            "library.toml": read_library,
            "standard.toml": read_standard,
            "trench.toml": read_trench,
            "rain.toml": read_rain,
            "structures.csv": partial(read_back, project, facts),
        }
        back = {path: gist(reader(folder / path)) for path, reader in readers.items()}
        made = import_files(
            "again", landxml=[folder / "a.xml"], ground=next(iter(project.surfaces.values())).name
        )
    reports = {
        "check": check_report("a.zumbert", facts, check(project, facts)),
        "flow": flow_report(Path("a.zumbert"), facts),
    }
    return {
        "texts": {
            k: sketch_of_text(t) if len(t) < LONGEST else gist(sketch_of_text(t))
            for k, t in texts.items()
        },
        "back": back,
        "again": plain(made.notes),
        "project": plain(made.project, brief=True),
        "reports": {k: gist(r) for k, r in reports.items()},
    }


# -- each by name ----------------------------------------------------------------------------------


def of_project(make, name):
    """What is recorded of a project."""
    found = make(known(name))
    return short(found) if name in SHORT else found


def of_shapes(make):
    """What is recorded of shapes: of the first to be read."""
    return [
        found if seed == SEEDS[0] else short(found, 1) for seed in SEEDS for found in [make(seed)]
    ]


OF_PROJECTS = {"derived": derived, "judged": judged, "looked at": looked_at, "counted": counted,
               "listed": listed,
               "sizes": size_logs, "written": written}  # fmt: skip
PARTS = 4  # that the edits are recorded in
RECORDINGS = {
    **{f"{what} of {p}": partial(of_project, make, p) for what, make in OF_PROJECTS.items()
       for p in PROJECTS if p != "base"},
    **{f"edits {i + 1}": partial(edited, sorted(EDITS)[i::PARTS]) for i in range(PARTS)},
    **{name: partial(of_shapes, make) for name, make in SHAPES.items()},
    "asked": lambda: asked(known("odd 1"), ASKED),
    "files": files,
}  # fmt: skip
