"""`zumbert export` and `zumbert issue`: what leaves the desk."""

from collections.abc import Callable
from pathlib import Path
from typing import Annotated

import typer

from zumbert.cli.base import app, refuse, say


@app.command()
def export(
    file: Annotated[Path, typer.Argument()],
    sheets: Annotated[list[str], typer.Option(help="Only this sheet, by its title or number; repeat for several.")] = [],  # noqa: B006
    pdf: Annotated[Path | None, typer.Option(help="All sheets as one PDF.")] = None,
    pdf_each: Annotated[Path | None, typer.Option("--pdf-each", help="A PDF a sheet, in this folder.")] = None,
    svg: Annotated[Path | None, typer.Option(help="An SVG a sheet, in this folder.")] = None,
    dxf: Annotated[Path | None, typer.Option(help="Model space, long sections and sheets as DXF.")] = None,
    dxf_sections: Annotated[Path | None, typer.Option("--dxf-sections", help="A DXF a long section, in this folder.")] = None,
    landxml: Annotated[Path | None, typer.Option(help="Roads, surfaces and pipe networks as LandXML 1.2.")] = None,
    geojson: Annotated[Path | None, typer.Option(help="Structures and pipes as GeoJSON.")] = None,
    report_pdf: Annotated[Path | None, typer.Option("--report-pdf", help="The report as PDF.")] = None,
    docx: Annotated[Path | None, typer.Option(help="The report as DOCX.")] = None,
    template: Annotated[Path | None, typer.Option(help="A DOCX template of your own for --docx.")] = None,
    schedules: Annotated[Path | None, typer.Option(help="Schedules as a spreadsheet and as CSV, in this folder.")] = None,
    usual_sheets: Annotated[bool, typer.Option("--usual-sheets", help="Make the usual sheets where there are none.")] = False,
) -> None:
    """Write drawings, reports, schedules and files for other programs; an existing file is replaced whole or not at all."""
    from zumbert.delivery import outputs
    from zumbert.delivery.job import Job
    from zumbert.delivery.report.write import docx_maker, report_pdf_maker
    from zumbert.edits.sheets import usual_sheets as with_usual
    from zumbert.store import load

    job = Job(load(file))
    if usual_sheets and not job.project.sheets:
        job = Job(with_usual(job.project, job.facts))
    picked = outputs.chosen(job, sheets)
    asked: tuple[tuple[Path | None, bool, Callable[[], outputs.Maker]], ...] = (
        (pdf, False, lambda: outputs.pdf_maker(job, picked)), (pdf_each, True, lambda: outputs.pdf_each_maker(job, picked)),
        (svg, True, lambda: outputs.svg_maker(job, picked)), (dxf, False, lambda: outputs.dxf_maker(job, picked)),
        (dxf_sections, True, lambda: outputs.sections_maker(job)), (landxml, False, lambda: outputs.landxml_maker(job)),
        (geojson, False, lambda: outputs.geojson_maker(job)), (report_pdf, False, lambda: report_pdf_maker(job)),
        (docx, False, lambda: docx_maker(job, template)), (schedules, True, lambda: outputs.schedules_maker(job)),
    )  # fmt: skip
    wanted = [outputs.Output(path.absolute(), folder, make()) for path, folder, make in asked if path is not None]
    if not wanted:
        refuse("Nothing to write: say what with --pdf, --dxf, --landxml, --report-pdf, --docx, --svg, --geojson or --schedules.")
    say(*outputs.write_all(wanted), *(f"Written: {w.target}" for w in wanted))


@app.command()
def issue(
    file: Annotated[Path, typer.Argument()],
    name: Annotated[str | None, typer.Option(help="The revision; the next letter if left out.")] = None,
    date: Annotated[str | None, typer.Option(help="Its date; today if left out.")] = None,
    words: Annotated[str, typer.Option(help="What it is for.")] = "",
    out: Annotated[Path | None, typer.Option("-o", help="Where to write; the same file if left out.")] = None,
) -> None:
    """Keep what the project is today as an issue: later sheets and schedules show what differs from it."""
    import datetime

    from zumbert.analysis import analyse
    from zumbert.delivery.revisions import issued, next_name
    from zumbert.store import load, save

    project = load(file)
    day = date or datetime.date.today().isoformat()
    made = issued(project, analyse(project), name or next_name(project), day, words)
    save(made, out or file)
    say(f"Issued as {next(reversed(made.issues.values())).name}, {day}. Written: {out or file}")
