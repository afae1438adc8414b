"""The report's DOCX template as it is shipped; a firm replaces it by one of its own. Run as a
script it writes the file anew.

A template names, in double braces: title, date, revision, drawn, checked; and loops over `contents`
and `parts`, each with title, words, values (name, value), tables (title, heads, rows) and figures
(picture, words). docxtpl fills it in.
"""

from pathlib import Path
from typing import Any

TEMPLATE = Path(__file__).parent / "report.docx"


def write_template(path: Path) -> None:
    """The template, made from nothing."""
    from docx import Document
    from docx.enum.section import WD_ORIENT
    from docx.shared import Mm, Pt

    doc = Document()
    section = doc.sections[0]
    section.orientation = WD_ORIENT.LANDSCAPE
    section.page_width, section.page_height = Mm(297), Mm(210)
    section.left_margin = section.right_margin = Mm(15)
    section.top_margin = section.bottom_margin = Mm(15)
    doc.styles["Normal"].font.name = "IBM Plex Sans"
    doc.styles["Normal"].font.size = Pt(9)
    small = doc.styles.add_style("Cell", 1)
    small.base_style = doc.styles["Normal"]
    small.font.size = Pt(6.5)
    small.paragraph_format.space_after = Pt(0)
    doc.add_heading("{{ title }}", 0)
    doc.add_paragraph("Storm drainage: report")
    for name in ("date", "revision", "drawn", "checked"):
        doc.add_paragraph(f"{{%p if {name} %}}")
        doc.add_paragraph(f"{name.capitalize()}: {{{{ {name} }}}}")
        doc.add_paragraph("{%p endif %}")
    doc.add_heading("Contents", 1)
    for text in (
        "{%p for c in contents %}",
        "{{ c }}",
        "{%p endfor %}",
        "{%p for part in parts %}",
    ):
        doc.add_paragraph(text)
    doc.add_heading("{{ part.title }}", 1)
    for text in (
        "{%p if part.words %}",
        "{{ part.words }}",
        "{%p endif %}",
        "{%p if part.values_ %}",
    ):
        doc.add_paragraph(text)
    _table(
        doc,
        2,
        ["{%tr for v in part.values_ %}", ""],
        ["{{ v.name }}", "{{ v.value }}"],
        ["{%tr endfor %}", ""],
    )
    doc.add_paragraph("{%p endif %}")
    doc.add_paragraph("{%p for t in part.tables %}")
    doc.add_heading("{{ t.title }}", 2)
    row = ["{%tc for c in row %}", "{{ c }}", "{%tc endfor %}"]
    _table(
        doc,
        3,
        ["{%tc for h in t.heads %}", "{{ h }}", "{%tc endfor %}"],
        ["{%tr for row in t.rows %}", "", ""],
        row,
        ["{%tr endfor %}", "", ""],
    )
    for text in (
        "{%p endfor %}",
        "{%p for f in part.figures %}",
        "{{ f.picture }}",
        "{{ f.words }}",
        "{%p endfor %}",
        "{%p endfor %}",
    ):
        doc.add_paragraph(text)
    doc.save(str(path))


def _table(doc: Any, columns: int, *rows: list[str]) -> None:
    table = doc.add_table(rows=0, cols=columns)
    table.style = "Table Grid"
    for texts in rows:
        cells = table.add_row().cells
        for cell, text in zip(cells, texts, strict=True):
            cell.paragraphs[0].style = "Cell"
            cell.paragraphs[0].add_run(text)


if __name__ == "__main__":
    write_template(TEMPLATE)
