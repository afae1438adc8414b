"""The whole job on the demo files with no window, step by step, in words."""

from collections.abc import Iterator
from pathlib import Path

from zumbert.analysis import analyse
from zumbert.analysis.quantities import full_quantities
from zumbert.analysis.runlist import run_keys
from zumbert.analysis.runs import run
from zumbert.analysis.trench import trenches
from zumbert.checks import check
from zumbert.checks.sentences import sentence
from zumbert.delivery import outputs
from zumbert.delivery.job import Job
from zumbert.delivery.out import OUT
from zumbert.demo.project import (
    BOREHOLES,
    laid,
    levelled,
    read,
    with_areas,
    with_sheets,
    with_strata,
)
from zumbert.drawing.levelrows import rows_height
from zumbert.drawing.longsection import long_section
from zumbert.drawing.picture import Picture
from zumbert.drawing.sight import section_fitted
from zumbert.errors import ReadError
from zumbert.exchange.csv import write_csv
from zumbert.exchange.quantitytables import quantity_tables
from zumbert.exchange.svg import write_svg
from zumbert.exchange.tables import finding_table, pipe_table, structure_table
from zumbert.exchange.xlsx import write_xlsx
from zumbert.model.display import counted
from zumbert.model.project import Project
from zumbert.store import save


def example(out: Path) -> Iterator[str]:
    """Does the job, writes project, schedules and a long section to a folder, and tells each
    step as it is done.
    """
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as e:
        raise ReadError(
            f"{out} could not be made: {e.strerror or e}. Choose another folder."
        ) from e
    made = read()
    yield "Read the demo's LandXML, CSV and TOML files:"
    yield from (f"  {note}" for note in made.notes)
    project = laid(made.project)
    fresh = len(project.structures) - len(made.project.structures)
    yield (
        f"Laid a second run of {fresh} manholes along Tansymoor Lane by chainage and offset, up "
        "from S4."
    )
    graded = levelled(project)
    project = with_areas(with_sheets(with_strata(graded.project)))
    yield f"Regraded it from its top down to S4: {graded.sum}."
    yield (
        "Split the ground into topsoil, general ground and rock, the rock from "
        f"{counted(len(BOREHOLES), 'borehole')}."
    )
    facts = analyse(project)
    wide = project.units.area(sum(f.size for f in facts.areas.values()))
    yield (
        f"Drained {counted(len(facts.areas), 'area')} ({wide}), among them the road between its "
        "gullies, in a rain of two years."
    )
    findings = check(project, facts)
    yield (
        f"Checked: {counted(findings.breaches, 'breach', 'breaches')}, "
        f"{counted(findings.cautions, 'caution')}."
    )
    yield from (f"  {sentence(findings.facts, f)}" for f in findings)
    dug = trenches(facts)
    q = full_quantities(dug)
    for status, t in q.totals.items():
        u = project.units
        strata = "".join(f", {u.volume(v)} in {name}" for name, v in t.by_stratum.items())
        yield (
            f"Excavation, {status}: {u.volume(t.excavation)} {u.m3} for {u.long(t.length)} of "
            f"pipe{strata}."
        )
        if t.excavation:
            yield (
                f"  Net of shared space {u.volume(t.excavation_net)} {u.m3}, backfill "
                f"{u.volume(t.backfill)} {u.m3}."
            )
    save(project, out / "quillerby.zumbert")
    tables = (
        structure_table(facts),
        pipe_table(facts),
        finding_table(facts, findings),
        *quantity_tables(facts, q),
    )
    write_xlsx(out / "schedules.xlsx", tables)
    for table in tables:
        write_csv(out / f"{table.name.lower().replace(' ', '-')}.csv", table)
    draw_section(project, out / "long-section.svg")
    yield from delivered(project, out)
    yield f"Written to {out.resolve()}:"
    yield from (f"  {p.name}" for p in sorted(out.iterdir()) if p.is_file())


def delivered(project: Project, out: Path) -> Iterator[str]:
    """Drawings, files for other programs, report and schedules, each as the stage Deliver writes
    them.
    """
    job = Job(project)
    pages = outputs.chosen(job)
    yield f"Made {counted(len(job.project.sheets), 'sheet')}, {counted(len(pages), 'page')}."
    names = {
        "pdf": "drawings.pdf",
        "dxf": "drawings.dxf",
        "landxml": "quillerby.xml",
        "geojson": "quillerby.geojson",
        "gltf": "quillerby.glb",
        "png": "in-space.png",
        "report-pdf": "report.pdf",
        "docx": "report.docx",
        "schedules": "schedules",
    }
    made = ((out.absolute() / name, OUT[key]) for key, name in names.items())
    yield from outputs.write_all(
        [outputs.Output(path, not o.kinds, o.make(job, pages, None)) for path, o in made]
    )


def draw_section(project: Project, path: Path) -> None:
    """The first run of a project as an SVG long section, with its level rows and trench bottom."""
    facts = analyse(project)
    shown = run(facts, run_keys(project, facts)[0])
    picture = Picture(
        facts=facts,
        findings=check(project, facts),
        run=shown,
        trenches=trenches(facts),
        shows=frozenset({"cover", "trench", "bands"}),
    )
    width, height = 1600.0, 520.0
    inverts = [v for r in shown.reaches for v in _inverts(project, r.pipe)] if shown else [0.0]
    rims = [facts.places[s].rim or inverts[0] for s, _ in shown.structures] if shown else [1.0]
    low, high = min(inverts) - 0.4, max(*inverts, *rims) + 0.4
    sight = section_fitted((0.0, shown.length if shown else 1.0), (low, high), width, height, 84.0)
    write_svg(path, long_section(picture, sight).marks, width, height + rows_height(picture))


def _inverts(project: Project, pipe: object) -> tuple[float, float]:
    p = project.pipes[pipe]  # type: ignore[index]
    return p.invert_up, p.invert_down
