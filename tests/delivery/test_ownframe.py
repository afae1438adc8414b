import ezdxf
import pytest
from pytest import approx

from tests.delivery.places import texts_on, with_delivery
from zumbert.delivery.job import Job
from zumbert.delivery.ownframe import read_frame
from zumbert.delivery.pages import leaves, page, room_of
from zumbert.delivery.paper import unit_of
from zumbert.delivery.revisions import issued
from zumbert.drawing.marks import Stroke
from zumbert.errors import ReadError

SVG = """<svg xmlns="http://www.w3.org/2000/svg" width="841mm" height="594mm" viewBox="0 0 841 594">
<rect x="5" y="5" width="831" height="584"/><rect id="room" x="25" y="15" width="700" height="500"/>
<polyline points="730,500 836,500 836,589"/><line x1="730" y1="545" x2="836" y2="545"/>
<text x="735" y="520" font-size="5">{title}</text>
<text x="735" y="570" font-size="8">No {number} / {revision}{nothing}</text></svg>"""


def test_a_frame_from_svg_is_drawn_with_its_fields_filled_in(job, tmp_path):
    (tmp_path / "f.svg").write_text(SVG)
    frame = read_frame(tmp_path / "f.svg")
    assert (frame.width, frame.height) == (831.0, 584.0)
    assert frame.inside == (20.0, 10.0, 720.0, 510.0)  # from the border's corner
    own = Job(with_delivery(job.project, frame=frame), job.facts, job.findings)
    made = leaves(own)
    drawn = page(own, made[0], made)
    words = {t.text for t, *_ in texts_on(drawn.marks)}
    assert {"General plan", "No Q-01 / {nothing}"} <= words  # a field that is none stays as it is
    unit = unit_of(own.project.delivery)
    box = room_of(own.project, made[0].sheet)
    assert (box.x * unit, box.y * unit, box.width * unit) == approx((20.0, 10.0, 700.0))
    assert sum(isinstance(m, Stroke) and m.role == "sheet-line" for m in drawn.marks) >= 3
    assert not any(isinstance(m, Stroke) and m.role == "sheet-border" for m in drawn.marks)


def test_a_frame_from_dxf_is_the_same_the_other_way_up(tmp_path):
    doc = ezdxf.new()
    doc.header["$INSUNITS"] = 4
    space = doc.modelspace()
    space.add_lwpolyline([(0, 0), (420, 0), (420, 297), (0, 297)], close=True)
    space.add_lwpolyline(
        [(20, 50), (410, 50), (410, 287), (20, 287)], close=True, dxfattribs={"layer": "ROOM"}
    )
    space.add_text("{project}", height=3.5).set_placement((20, 10))
    doc.saveas(tmp_path / "f.dxf")
    frame = read_frame(tmp_path / "f.dxf")
    assert (frame.width, frame.height) == approx((420.0, 297.0))
    assert frame.inside == approx((20.0, 10.0, 410.0, 247.0))
    [text] = frame.texts
    assert (text.text, text.x, text.y, text.height) == (
        "{project}",
        approx(20.0),
        approx(287.0),
        approx(3.5),
    )


def test_a_frame_has_the_list_of_revisions(job, tmp_path):
    (tmp_path / "f.svg").write_text(SVG.replace("{title}", "{revisions}"))
    project = issued(
        with_delivery(job.project, frame=read_frame(tmp_path / "f.svg")),
        job.facts,
        "A",
        "2026-01-02",
        "for tender",
    )
    there = Job(issued(project, job.facts, "B", "2026-02-03", ""), job.facts, job.findings)
    made = leaves(there)
    texts = [(t.text, box[1]) for t, _, box, _ in texts_on(page(there, made[0], made).marks)]
    at = dict(texts)
    assert at["B  2026-02-03"] < at["A  2026-01-02  for tender"]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("<svg xmlns='http://www.w3.org/2000/svg'/>", "has no lines"),
        (
            "<svg xmlns='http://www.w3.org/2000/svg'><rect x='a' width='9' height='9'/></svg>",
            "a value that is not a number",
        ),
        (
            "<svg xmlns='http://www.w3.org/2000/svg'><rect width='9' height='9'/></svg>",
            "drawn in mm",
        ),
        ("<svg", "could not be read as SVG"),
    ],
)
def test_what_is_no_frame_is_told(tmp_path, text, words):
    (tmp_path / "f.svg").write_text(text)
    with pytest.raises(ReadError, match=words):
        read_frame(tmp_path / "f.svg")
