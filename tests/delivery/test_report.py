import io
import re
import shutil
import subprocess

import numpy as np
import pytest
from docx import Document
from PIL import Image
from pypdf import PdfReader

from zumbert.delivery.outputs import Output, write_all
from zumbert.delivery.paper import unit_of
from zumbert.delivery.png import png_bytes
from zumbert.delivery.report.content import report
from zumbert.delivery.report.pages import report_pages
from zumbert.delivery.report.template import TEMPLATE, write_template
from zumbert.delivery.report.write import docx_bytes, docx_maker, report_pdf_maker
from zumbert.drawing.marks import Disc, Faded, Fill, Inset, Segments, Stroke, Text, points
from zumbert.errors import ReadError
from zumbert.exchange.quantityreport import quantities_report


def quiet(share, words):
    """Hears nothing."""


@pytest.fixture(scope="module")
def made(job):
    return report(job, quiet)


@pytest.fixture(scope="module")
def docx(made):
    return docx_bytes(made, None, quiet)


def test_a_report_has_all_its_parts(job, made):
    titles = [p.title for p in made.parts]
    assert titles == [
        "Project data",
        "Standards",
        "Schedules",
        "Long sections",
        "Findings and decisions",
        "Quantities",
        "Trench types",
        "Trench sections",
    ]
    parts = dict(zip(titles, made.parts, strict=True))
    assert parts["Standards"].values[0] == ("Estate roads", "for Storm, Storm existing")
    assert len(parts["Long sections"].figures) == sum(k.kind != "road" for k in job.runs)
    assert parts["Findings and decisions"].words == "5 breaches, 0 cautions, 0 decided."
    assert len(parts["Trench types"].figures) == sum(
        len(job.project.trench_types[k].sizes)
        for k in dict.fromkeys(n.trench for n in job.project.networks.values())
    )


def test_the_pdf_has_contents_with_page_numbers_and_every_structure(job, made, tmp_path):
    write_all([Output(tmp_path / "r.pdf", False, report_pdf_maker(job))])
    found = PdfReader(tmp_path / "r.pdf")
    texts = [p.extract_text() for p in found.pages]
    pages = report_pages(made, job.project.delivery, unit_of(job.project.delivery))
    assert len(texts) == len(pages)
    first = texts[0]
    for part in made.parts:
        n = next(i for i, p in enumerate(pages, 1) if p.title == part.title and i > 1)
        assert re.search(rf"{part.title}\s+{n}\b", first), part.title
        assert part.title in texts[n - 1]
    words = " ".join(texts)
    assert all(s.label in words for s in job.project.structures.values())
    assert f"Page {len(texts)} of {len(texts)}" in texts[-1]


def test_the_docx_can_be_edited_and_holds_tables_and_pictures(job, made, docx):
    doc = Document(io.BytesIO(docx))
    headings = [p.text for p in doc.paragraphs if p.style.name == "Heading 1"]
    assert headings == ["Contents", *(p.title for p in made.parts)]
    wanted = sum(len(p.tables) for p in made.parts) + sum(bool(p.values) for p in made.parts)
    assert len(doc.tables) == wanted
    assert len(doc.inline_shapes) == sum(len(p.figures) for p in made.parts)
    structures = next(t for t in doc.tables if t.cell(0, 0).text == "Structure")
    assert len(structures.rows) == len(job.project.structures) + 1
    assert "{{" not in "".join(p.text for p in doc.paragraphs) and "{%" not in "".join(
        p.text for p in doc.paragraphs
    )


@pytest.mark.skipif(shutil.which("soffice") is None, reason="no office program is there")
def test_an_office_program_reads_the_same_totals(job, docx, tmp_path):
    (tmp_path / "r.docx").write_bytes(docx)
    command = [
        "soffice",
        f"-env:UserInstallation=file://{tmp_path}/profile",
        "--headless",
        "--convert-to",
        "pdf",
        "--outdir",
        tmp_path,
    ]
    subprocess.run([*command, tmp_path / "r.docx"], check=True, capture_output=True, timeout=240)
    if not (tmp_path / "r.pdf").exists():
        pytest.skip("the office program has no word processor")
    words = " ".join(
        " ".join(p.extract_text() for p in PdfReader(tmp_path / "r.pdf").pages).split()
    )
    totals = quantities_report("x", job.facts, job.quantities)["totals"]["proposed"]
    for key in ("excavation", "excavation_net", "backfill"):
        assert f"{job.units.volume(totals[key])} m³" in words, key
    for status in ("excavation", "bedding"):
        assert job.units.volume(totals[status]) in words
    assert "Grand total" in words


def test_the_shipped_template_is_what_the_script_writes(tmp_path):
    write_template(tmp_path / "t.docx")
    texts = [
        [c.text for t in Document(p).tables for r in t.rows for c in r.cells]
        + [q.text for q in Document(p).paragraphs]
        for p in (tmp_path / "t.docx", TEMPLATE)
    ]
    assert texts[0] == texts[1]


def test_a_firm_s_own_template_is_filled_in(job, tmp_path):
    doc = Document()
    doc.add_paragraph("Our report on {{ title }}, drawn by {{ drawn }}")
    doc.add_paragraph("{%p for p in parts %}")
    doc.add_paragraph("Part: {{ p.title }}")
    doc.add_paragraph("{%p endfor %}")
    doc.save(tmp_path / "own.docx")
    write_all([Output(tmp_path / "out.docx", False, docx_maker(job, tmp_path / "own.docx"))])
    texts = [p.text for p in Document(tmp_path / "out.docx").paragraphs]
    assert texts[0] == "Our report on Quillerby School access, drawn by AB"
    assert "Part: Trench sections" in texts


@pytest.mark.parametrize(
    ("text", "words"),
    [("{{ title", "could not be filled in"), ("{% for x in %}", "could not be filled in")],
)
def test_a_template_with_a_mistake_is_told(made, tmp_path, text, words):
    doc = Document()
    doc.add_paragraph(text)
    doc.save(tmp_path / "own.docx")
    with pytest.raises(ReadError, match=words):
        docx_bytes(made, tmp_path / "own.docx", quiet)


def test_a_template_cannot_reach_what_is_none_of_its_own(made, tmp_path):
    doc = Document()
    doc.add_paragraph("{{ ''.__class__.__mro__[1].__subclasses__() }}")
    doc.save(tmp_path / "own.docx")
    with pytest.raises(ReadError, match="could not be filled in"):
        docx_bytes(made, tmp_path / "own.docx", quiet)


def test_no_template_at_all_is_told(made, tmp_path):
    (tmp_path / "no.docx").write_text("not a zip")
    with pytest.raises(ReadError, match="could not be read as a DOCX template"):
        docx_bytes(made, tmp_path / "no.docx", quiet)
    with pytest.raises(ReadError, match="could not be read as a DOCX template"):
        docx_bytes(made, tmp_path / "missing.docx", quiet)


def test_a_picture_has_its_marks_where_they_are():
    marks = (
        Fill("ink", points((10, 10), (30, 10), (30, 30), (10, 30))),
        Stroke("limit", points((0, 90), (100, 90))),
        Inset(
            (
                Fill("breach", points((-50, -50), (50, -50), (50, 50), (-50, 50))),
                Text("sheet", "x", 2, 9, angle=40),
            ),
            60,
            60,
            20,
            20,
        ),
        Faded((Disc("design", 80, 20, 8),), 0.5),
        Segments("storm", np.array([(5.0, 50.0, 95.0, 50.0)])),
        Text("strong", "words", 40, 40, "middle", plate=True),
        Text("strong", "narrow", 50, 80, squeeze=0.7),
    )
    picture = np.asarray(Image.open(io.BytesIO(png_bytes(marks, 100.0, 100.0, 2.0))))
    assert picture.shape == (200, 200, 3)
    assert picture[40, 40].tolist() == [0x1F, 0x2A, 0x33] and picture[10, 10].tolist() == [
        255,
        255,
        255,
    ]
    red = (picture.astype(int) - (0xBE, 0x32, 0x17)).__abs__().sum(axis=2) < 12
    ys, xs = np.nonzero(red)
    # cut at its box
    assert (
        xs.min() >= 119
        and ys.min() >= 119
        and xs.max() <= 160
        and ys.max() <= 160
        and red.sum() > 1000
    )
    assert 0x4E < picture[40, 160, 0] < 0xFF  # half as strong
