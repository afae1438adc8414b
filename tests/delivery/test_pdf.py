import io
import re
import shutil
import subprocess

import numpy as np
import pytest
from pypdf import PdfReader
from pytest import approx

from tests.delivery.places import long_job, with_delivery
from zumbert.delivery.job import Job
from zumbert.delivery.outputs import pdf_maker
from zumbert.delivery.pages import leaves, page
from zumbert.delivery.paper import Page
from zumbert.delivery.pdf import pdf_bytes
from zumbert.drawing.marks import Disc, Faded, Fill, Inset, Raster, Segments, Stroke, Text, points
from zumbert.drawing.style import INKS
from zumbert.model.ids import SheetId

MM = 25.4 / 72


def one_page(*marks, width=100.0, height=50.0, unit=0.25):
    return Page(SheetId(""), "A title", "1", width, height, unit, marks)


def read(data):
    return PdfReader(io.BytesIO(data))


def test_pages_have_their_paper_sizes_and_all_labels_and_inverts(job, pages):
    found = read(pdf_bytes(pages, title=job.project.name))
    assert len(found.pages) == len(pages)
    for a, b in zip(found.pages, pages, strict=True):
        assert (float(a.mediabox.width) * MM, float(a.mediabox.height) * MM) == approx(
            (b.width, b.height), abs=0.01
        )
    texts = [p.extract_text() for p in found.pages]
    words = " ".join(texts)
    for s in job.project.structures.values():
        assert re.search(rf"\b{re.escape(s.label)}\b", words), s.label
    schedule = " ".join(
        t for t, p in zip(texts, pages, strict=True) if p.title.startswith("Schedules")
    )
    for pipe in job.project.pipes.values():
        for level in (pipe.invert_up, pipe.invert_down):
            assert job.units.level(level) in schedule
    assert found.metadata.title == job.project.name


def test_the_face_is_embedded_and_texts_can_be_searched(pages):
    found = read(pdf_bytes(pages[:1]))
    fonts = {}
    for f in found.pages[0]["/Resources"]["/Font"].values():
        fonts[f.get_object()["/BaseFont"]] = f.get_object()
    ours = [f for name, f in fonts.items() if "IBMPlexSans" in name]
    assert len(ours) == 2
    assert all("/FontFile2" in f["/FontDescriptor"] and "/ToUnicode" in f for f in ours)


def test_layers_can_be_switched_off(pages):
    found = read(pdf_bytes(pages[:2]))
    groups = found.trailer["/Root"]["/OCProperties"]["/OCGs"]
    names = [g.get_object()["/Name"] for g in groups]
    assert {
        "Storm pipe, proposed",
        "Structure, proposed",
        "Road",
        "Ground",
        "Sheet",
        "Levels",
    } <= set(names)
    assert len(names) == len(set(names))
    for p in found.pages:
        content = p.get_contents().get_data().decode("latin-1")
        assert content.count("BDC") == content.count("EMC") > 5
        used = set(re.findall(r"/OC /(L\d+) BDC", content))
        assert used <= {k.removeprefix("/") for k in p["/Resources"]["/Properties"]}


def test_five_hundred_is_five_hundred(tmp_path):
    # chambers 60 m apart at 1:500 are 120 mm apart on paper: measured between the column lines of
    # the section
    project, _ = long_job(240.0)
    job = Job(project)
    made = leaves(job)
    found = read(pdf_bytes([page(job, made[0], made)]))
    content = found.pages[0].get_contents().get_data().decode("latin-1")
    lines = [
        tuple(map(float, m))
        for m in re.findall(r"([-\d.]+) ([-\d.]+) m ([-\d.]+) ([-\d.]+) l", content)
    ]
    upright = sorted(
        {round(a * MM, 3) for a, b, c, d in lines if abs(a - c) < 1e-6 and abs(d - b) * MM > 20}
    )
    gaps = np.array([b - a for a in upright for b in upright if b > a])
    assert (np.abs(gaps - 120.0) < 0.1).sum() >= 4


@pytest.mark.skipif(
    shutil.which("pdftoppm") is None, reason="poppler-utils is not there to render with"
)
def test_a_distance_on_a_rendered_page_is_true(tmp_path):
    from PIL import Image

    # two strokes 200 units apart, a unit being 0.25 mm: 50 mm, at 300 dots to the inch 590.55
    # pixels
    marks = [Stroke("sheet-border", points((x, 20), (x, 180))) for x in (100.0, 300.0)]
    (tmp_path / "a.pdf").write_bytes(pdf_bytes([one_page(*marks)]))
    subprocess.run(
        ["pdftoppm", "-r", "300", "-gray", "-png", tmp_path / "a.pdf", tmp_path / "a"], check=True
    )
    [picture] = tmp_path.glob("a*.png")
    row = np.asarray(Image.open(picture).convert("L"))[300].astype(float)
    dark = 255.0 - row
    halves = [dark[:700], dark[700:]]
    middles = [(h * np.arange(len(h))).sum() / h.sum() for h in halves]
    far = (middles[1] + 700 - middles[0]) / 300 * 25.4
    assert far == approx(50.0, abs=0.1)


@pytest.mark.parametrize("inks", INKS)
def test_every_mark_is_inked_in_each_ink(inks):
    marks = (
        Fill("road", points((0, 0), (50, 0), (50, 50)), "kerb"),
        Disc("field", 30, 30, 5, "structure"),
        Disc("ink", 30, 30, 2),
        Segments("storm", np.array([(0.0, 0.0, 9.0, 9.0), (np.nan, 0, 1, 1)])),
        Stroke("limit", points((0, 0), (9, 9)), True),
        Faded((Text("note", "faint 3 m³ Ø ≥", 10, 10, angle=30.0, plate=True),), 0.4),
        Raster("shade", 0.0, 0.0, 5.0, np.array([[0.0, 0.5, 0.5], [1.0, np.nan, 0.2]])),
        Inset(
            (
                Text("sheet", "small", 5, 5, "middle", squeeze=0.8),
                Text("sheet", "right", 5, 9, "right"),
            ),
            10,
            10,
            40,
            40,
            0.5,
        ),
    )
    found = read(pdf_bytes([one_page(*marks)], inks))
    text = found.pages[0].extract_text()
    assert "faint 3 m³" in text and "small" in text
    content = found.pages[0].get_contents().get_data().decode("latin-1")
    colours = set(re.findall(r"([\d.]+ [\d.]+ [\d.]+) (?:rg|RG)", content))
    if inks != "colour":
        assert all(len(set(c.split())) == 1 for c in colours)
    else:
        assert any(len(set(c.split())) > 1 for c in colours)


def test_a_document_is_given_up_between_its_pages(pages):
    class Stop(Exception):
        pass

    heard = []

    def tell(share, words):
        heard.append((share, words))
        if len(heard) == 3:
            raise Stop

    with pytest.raises(Stop):
        pdf_bytes(pages, tell=tell)
    assert [s for s, _ in heard] == sorted(s for s, _ in heard)


def test_the_same_project_gives_the_same_bytes(tmp_path, job):
    made = leaves(job)[:1]
    for name in "ab":
        pdf_maker(Job(with_delivery(job.project, drawn="X"), job.facts, job.findings), made)(
            tmp_path / name, lambda s, w: None
        )
    assert (tmp_path / "a").read_bytes() == (tmp_path / "b").read_bytes()
