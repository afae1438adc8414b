"""The report as PDF, and as DOCX from a template that a firm can replace."""

import io
from pathlib import Path
from typing import Any

from zumbert.delivery.job import Job, Tell
from zumbert.delivery.outputs import Maker
from zumbert.delivery.paper import unit_of
from zumbert.delivery.png import png_bytes
from zumbert.delivery.report.content import Figure, Report, report
from zumbert.delivery.report.template import TEMPLATE
from zumbert.errors import ReadError
from zumbert.exchange.tables import Table, cell_text

PIXELS = 2.0  # of a picture in a DOCX, a drawing unit
WIDE = 265.0  # mm that a picture may be wide there


def report_pdf_maker(job: Job) -> Maker:
    """The report as PDF."""

    def make(path: Path, tell: Tell) -> list[str]:
        from zumbert.delivery.pdf import pdf_bytes
        from zumbert.delivery.report.pages import report_pages

        made = report(job, lambda s, w: tell(0.6 * s, w))
        how = job.project.delivery
        pages = report_pages(made, how, unit_of(how))
        path.write_bytes(
            pdf_bytes(
                pages, how.printed, made.title, how.drawn, lambda s, w: tell(0.6 + 0.4 * s, w)
            )
        )
        return []

    return make


def docx_maker(job: Job, template: Path | None = None) -> Maker:
    """The report as DOCX; one's own template is filled in as the shipped one is."""

    def make(path: Path, tell: Tell) -> list[str]:
        made = report(job, lambda s, w: tell(0.6 * s, w))
        path.write_bytes(docx_bytes(made, template, lambda s, w: tell(0.6 + 0.4 * s, w)))
        return []

    return make


def docx_bytes(made: Report, template: Path | None, tell: Tell) -> bytes:
    """A report filled into a template. Raises ReadError for a file that is none."""
    from docx.shared import Mm
    from docxtpl import DocxTemplate, InlineImage
    from jinja2 import TemplateError
    from jinja2.sandbox import SandboxedEnvironment

    source = template or TEMPLATE
    try:
        doc = DocxTemplate(str(source))
        doc.init_docx()
    except Exception as e:
        raise ReadError(
            f"{source} could not be read as a DOCX template: {e}. Save it again as DOCX."
        ) from e

    def picture(f: Figure, share: float) -> Any:
        tell(share, f.words)
        data = png_bytes(f.marks, f.width, f.height, PIXELS)
        return InlineImage(doc, io.BytesIO(data), width=Mm(min(WIDE, f.width * 0.31)))

    parts = []
    for i, part in enumerate(made.parts):
        share = i / len(made.parts)
        parts.append(
            {
                "title": part.title,
                "words": part.words,
                "values_": [{"name": n, "value": v} for n, v in part.values],
                "tables": [_table(t) for t in part.tables],
                "figures": [{"picture": picture(f, share), "words": f.words} for f in part.figures],
            }
        )
    values = {
        "title": made.title,
        "date": made.date,
        "revision": made.revision,
        "drawn": made.drawn,
        "checked": made.checked,
        "contents": [p.title for p in made.parts],
        "parts": parts,
    }
    out = io.BytesIO()
    tell(0.9, "Writing DOCX")
    try:
        doc.render(values, jinja_env=SandboxedEnvironment(), autoescape=True)
        doc.save(out)
    except (TemplateError, ValueError, KeyError) as e:
        raise ReadError(
            f"{source} could not be filled in: {e}. Compare its fields with those of the shipped "
            "template."
        ) from e
    return out.getvalue()


def _table(table: Table) -> dict[str, Any]:
    rows = [
        [cell_text(c, v) for c, v in zip(table.columns, row, strict=True)] for row in table.rows
    ]
    return {"title": table.name, "heads": [c.title for c in table.columns], "rows": rows}
