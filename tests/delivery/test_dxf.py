import io
from collections import Counter
from math import degrees

import ezdxf
import numpy as np
import pytest
from ezdxf.math import Vec3
from msgspec.structs import replace
from pytest import approx
from scipy.spatial import KDTree

from tests.build import drawn
from tests.delivery.places import long_job, texts_on, window_on, with_delivery
from zumbert.delivery.dxf.layers import layer_name
from zumbert.delivery.dxf.write import dxf_bytes, dxf_document, section_document
from zumbert.delivery.job import Job
from zumbert.delivery.pages import leaves, page
from zumbert.delivery.paper import windows_of
from zumbert.drawing.layers import Belongs, belongs
from zumbert.drawing.marks import Faded, Inset
from zumbert.drawing.sight import MapSight, SectionSight, StraightSight
from zumbert.drawing.style import LINES
from zumbert.edits.ground import in_units, place_background
from zumbert.edits.setup import add_background
from zumbert.edits.sheets import change_sheet
from zumbert.geometry.placing import Placing


def read(doc):
    """The drawing as a file gives it back; the audit finds nothing."""
    text = dxf_bytes(doc).decode(doc.output_encoding)
    out = ezdxf.read(io.StringIO(text))
    audit = out.audit()
    assert not audit.errors and not audit.fixes
    return out


@pytest.fixture(scope="module")
def drawing(job):
    made = leaves(job)
    return read(dxf_document(job, [page(job, leaf, made) for leaf in made]))


@pytest.mark.parametrize(
    ("pattern", "of", "layer"),
    [
        ("{service}-{role}-{status}", Belongs("storm", "pipe", "existing"), "storm-pipe-existing"),
        ("{service}-{role}-{status}", Belongs("", "land", ""), "land"),
        ("{service}-{role}-{status}", Belongs("", "structure", "proposed"), "structure-proposed"),
        ("D_{role}", Belongs("storm", "pipe", ""), "D_pipe"),
        ("{role}_{service}_X", Belongs("", "land", ""), "land_X"),
        ("A-{status}", Belongs("", "land", ""), "A"),
        ("{role}<1>", Belongs("", "land", ""), "land_1_"),
    ],
)
def test_layers_are_named_by_the_pattern(pattern, of, layer):
    assert layer_name(pattern, of) == layer


def test_every_role_belongs_to_something():
    assert all(belongs(role).role for role in LINES)
    assert belongs("storm-existing-outside") == Belongs("storm", "pipe", "existing")
    assert belongs("gully-foul") == Belongs("foul", "gully", "proposed")
    assert (
        belongs("contour-design-minor").role == "road" and belongs("contour-major").role == "ground"
    )
    assert belongs("service-oval").service == "others"


def test_pipes_lie_at_their_true_coordinates_and_inverts(job, drawing):
    space = drawing.modelspace()
    deep = [
        [tuple(p) for p in e.points()]
        for e in space.query('POLYLINE[layer=="storm-invert-proposed"]')
    ]
    wanted = [
        [
            (f.span.up.x, f.span.up.y, f.pipe.invert_up),
            (f.span.down.x, f.span.down.y, f.pipe.invert_down),
        ]
        for f in job.facts.pipes.values()
        if f.pipe.status == "proposed"
    ]
    assert len(deep) == len(wanted) == 39
    assert np.allclose(
        np.array([p[:1] + p[-1:] for p in deep]), np.array(wanted), atol=1e-6, rtol=0
    )
    flat = space.query('LWPOLYLINE[layer=="storm-pipe-existing"]')
    assert len(flat) >= 1


def test_structures_are_blocks_with_attributes(job, drawing):
    found = {e.get_attrib_text("LABEL"): e for e in drawing.modelspace().query("INSERT")}
    assert set(found) == {s.label for s in job.project.structures.values()}
    for f in job.facts.structures.values():
        e = found[f.structure.label]
        assert (e.dxf.insert.x, e.dxf.insert.y) == approx((f.place.x, f.place.y), abs=1e-6)
        assert e.get_attrib_text("RIM") == job.units.level(f.place.rim)
        assert e.get_attrib_text("CHAINAGE") == job.units.chainage(f.place.chainage)
        assert e.get_attrib_text("OFFSET") == job.units.offset(f.place.offset)
        assert e.dxf.layer == f"storm-structure-{f.structure.status}"
        for g in (*f.pipes_in, *f.pipes_out):
            assert g.pipe.label in e.get_attrib_text("INVERTS")
        visible = [a.dxf.tag for a in e.attribs if not a.is_invisible]
        assert visible == ["LABEL"]
    block = drawing.blocks.get(found["S4"].dxf.name)
    radii = sorted(round(c.dxf.radius, 6) for c in block.query("CIRCLE"))
    assert radii == [0.3, 0.6, 0.725]


def test_a_drawing_in_mm_gets_mm_at_its_own_origin(job):
    project = add_background(job.project, drawn("B1", ("a",), [(0, 0, 10, 10)], [0]))
    key = next(iter(project.backgrounds))
    project = place_background(in_units(project, key, 0.001), key, Placing(0.8, 0.6, 100.0, -50.0))
    there = Job(with_delivery(project, origin=key, layers="Z-{role}"))
    doc = read(dxf_document(there))
    assert doc.header["$INSUNITS"] == 4
    found = {e.get_attrib_text("LABEL"): e for e in doc.modelspace().query("INSERT")}
    back = project.backgrounds[key].placing.back
    for f in there.facts.structures.values():
        x, y = back.apply([(f.place.x, f.place.y)])[0] * 1000
        e = found[f.structure.label]
        assert (e.dxf.insert.x / 1000, e.dxf.insert.y / 1000) == approx(
            (x / 1000, y / 1000), abs=1e-6
        )
        assert e.dxf.insert.z == approx(f.place.rim * 1000, abs=1e-3)
    layers = {e.dxf.layer for e in doc.modelspace()}
    assert "Z-pipe" in layers and all(name.startswith("Z-") for name in layers)


def test_sheets_are_layouts_of_their_paper_with_viewports(job, drawing):
    made = leaves(job)
    names = [n for n in drawing.layout_names() if n != "Model"]
    assert len(names) == len(made)
    plan = next(leaf for leaf in made if leaf.sheet.kind == "plan")
    drawn = page(job, plan, made)
    layout = next(drawing.layouts.get(n) for n in names if n.startswith(plan.number))
    assert (layout.dxf.paper_width, layout.dxf.paper_height) == approx((drawn.width, drawn.height))
    viewport = max(layout.query("VIEWPORT"), key=lambda v: v.dxf.id)
    inset, _ = window_on(drawn, MapSight)
    # mm of paper for a metre
    assert viewport.get_scale() == approx(1000 / plan.sheet.scale, rel=1e-9)
    assert (viewport.dxf.width, viewport.dxf.height) == approx(
        (inset.width * drawn.unit, inset.height * drawn.unit)
    )
    texts = {t.dxf.text for t in layout.query("TEXT")}
    assert {job.project.name, "AB", "General plan"} <= texts


def seen_through(viewport, xy):
    """Where a viewport shows places (n, 2) of the model space on the paper, mm."""
    target, scale = Vec3(viewport.dxf.view_target_point), viewport.get_scale()
    away = [
        (Vec3(x, y, 0) - target).rotate_deg(viewport.dxf.view_twist_angle) * scale for x, y in xy
    ]
    return np.array(
        [(viewport.dxf.center.x + v.x, viewport.dxf.center.y + v.y) for v in away]
    ).reshape(-1, 2)


def viewport_of(layout, drawn, inset):
    """The viewport in the place of a box of a page."""
    middle = (
        (inset.x + inset.width / 2) * drawn.unit,
        drawn.height - (inset.y + inset.height / 2) * drawn.unit,
    )
    return next(
        v
        for v in layout.query("VIEWPORT")
        if v.dxf.id > 1 and v.dxf.center.vec2.isclose(middle, abs_tol=1e-6)
    )


def layout_of(doc, drawn):
    return next(doc.layouts.get(n) for n in doc.layout_names() if n.startswith(drawn.number))


def test_a_turned_viewport_shows_places_where_the_sheet_has_them(job):
    sheet = next(s for s in job.project.sheets.values() if s.kind == "plan")
    turned = Job(change_sheet(job.project, sheet.id, turn=0.4), job.facts, job.findings)
    made = leaves(turned)
    drawn = page(turned, next(x for x in made if x.sheet.id == sheet.id), made)
    doc = read(dxf_document(turned, [drawn], sections="none"))
    inset, sight = window_on(drawn, MapSight)
    viewport = viewport_of(layout_of(doc, drawn), drawn, inset)
    xy = [(p.x, p.y) for p in job.facts.places.values()]
    on_paper = (sight.to_drawing(np.array(xy)) + np.array([inset.x, inset.y])) * drawn.unit
    assert np.allclose(
        seen_through(viewport, xy), on_paper * (1, -1) + (0, drawn.height), atol=1e-6, rtol=0
    )
    assert viewport.dxf.view_twist_angle == approx(360 - degrees(0.4))


def lines_in(marks, roles, ox=0.0, oy=0.0):
    """The points of lines and outlines of some roles, in units of the page."""
    for m in marks:
        if isinstance(m, (Inset, Faded)):
            yield from lines_in(
                m.marks, roles, ox + getattr(m, "x", 0.0), oy + getattr(m, "y", 0.0)
            )
        elif {getattr(m, "role", ""), getattr(m, "edge", "")} & roles and hasattr(m, "xy"):
            yield from (m.xy + np.array([ox, oy])).tolist()


@pytest.mark.parametrize("steep", [False, True])
def test_straightened_plans_and_long_sections_are_seen_where_the_sheet_has_them(job, steep):
    if steep:  # a step of the datum: two viewports on one section
        job = Job(long_job(600.0, fall=0.08, up=50.0)[0])
    made = leaves(job)
    pages = [page(job, leaf, made) for leaf in made if leaf.sheet.kind == "plan-and-section"]
    doc = read(dxf_document(job, pages, sections="none"))
    shapes = [[p[:2] for p in e.get_points()] for e in doc.modelspace().query("LWPOLYLINE")]
    model = np.array([p for shape in shapes for p in shape])
    sights = set()
    for one in pages:
        for window, inset in windows_of(one.marks):
            viewport = viewport_of(layout_of(doc, one), one, inset)
            assert viewport.get_scale() == approx(
                1000 / job.project.sheets[one.sheet].scale, rel=1e-9
            )
            xy = np.array(
                list(lines_in([inset], {"chamber", "chamber-inner", "storm-outside", "limit"}))
            ).reshape(-1, 2)
            at = (xy - (inset.x, inset.y)) / (inset.width, inset.height)
            xy = xy[((at > 0.01) & (at < 0.99)).all(axis=1)] * (one.unit, -one.unit) + np.array(
                [0.0, one.height]
            )
            if len(xy):
                sights.add(type(window.sight))
                near, _ = KDTree(seen_through(viewport, model)).query(xy)
                assert np.nanmax(near) < 1e-6
    assert sights == {SectionSight} if steep else {StraightSight, SectionSight}


def test_viewports_show_line_work_and_the_words_lie_on_the_paper_once(job, drawing):
    made = leaves(job)
    space = drawing.modelspace()
    for leaf in made:
        drawn = page(job, leaf, made)
        layout, boxes = layout_of(drawing, drawn), list(windows_of(drawn.marks))
        viewports = [v for v in layout.query("VIEWPORT") if v.dxf.id > 1]
        assert len(viewports) == len(boxes)
        for v in viewports:
            assert "lettering" in v.frozen_layers
        words = Counter(t.dxf.text for t in layout.query("TEXT"))
        for label in ("S4", "S5", "S13"):
            assert words[label] == sum(t.text == label for t, *_ in texts_on(drawn.marks))
    plan = layout_of(drawing, page(job, made[0], made))
    [viewport] = [v for v in plan.query("VIEWPORT") if v.dxf.id > 1]
    shown = {e.dxf.layer for e in space} - set(viewport.frozen_layers)
    assert {
        "storm-pipe-proposed",
        "road-edge",
        "road-verge",
        "road-centre",
        "land",
        "contour-major",
    } <= shown
    assert not any("label" in name or "invert" in name or "lettering" in name for name in shown)
    low = viewport.dxf.view_target_point[0] + viewport.dxf.width / viewport.get_scale() / 2
    strips = [e for e in space if e.dxf.layer == "lettering"]
    # beside what the plan shows
    assert strips and all(e.get_placement()[1].x > low for e in strips if e.dxftype() == "TEXT")


def test_layers_that_a_plain_pattern_throws_together_still_leave_words_out_of_viewports(job):
    there = Job(with_delivery(job.project, layers="X"), job.facts, job.findings)
    made = leaves(there)
    doc = read(dxf_document(there, [page(there, leaf, made) for leaf in made[:2]], sections="none"))
    assert {"X", "X-pipe-label", "X-structure-label", "X-lettering"} <= {
        layer.dxf.name for layer in doc.layers
    }
    for name in doc.layout_names():
        for v in doc.layouts.get(name).query("VIEWPORT") if name != "Model" else ():
            if v.dxf.id > 1:
                assert "X" not in v.frozen_layers and "X-lettering" in v.frozen_layers


def test_contours_lie_at_their_levels(job, drawing):
    surface = job.facts.surfaces.existing
    found = [
        e for e in drawing.modelspace().query("LWPOLYLINE") if e.dxf.layer.startswith("contour-")
    ]
    assert len(found) > 20
    for e in found[::7]:
        xy = np.array([p[:2] for p in e.get_points()])
        z = surface.level((xy[1:, 0] + xy[:-1, 0]) / 2, (xy[1:, 1] + xy[:-1, 1]) / 2)
        assert np.nanmax(np.abs(z - e.dxf.elevation)) < 1e-6


def test_long_sections_lie_beside_the_plan_or_in_files_of_their_own(job, drawing):
    right = max(p.x for p in job.facts.places.values())
    texts = [
        t
        for t in drawing.modelspace().query("TEXT")
        if t.dxf.insert.x > right + 30 or t.get_placement()[1].x > right + 30
    ]
    assert {"S13", "HW1", "Invert in"} <= {t.dxf.text for t in texts}
    alone = read(section_document(job, job.runs[0]))
    assert {"S13", "HW1"} <= {t.dxf.text for t in alone.modelspace().query("TEXT")}
    levels = [
        e for e in alone.modelspace().query("LWPOLYLINE") if e.dxf.layer.startswith("storm-pipe")
    ]
    assert levels


def test_an_older_version_is_written_when_it_is_asked_for(job):
    doc = read(dxf_document(Job(with_delivery(job.project, dxf="R2000"), job.facts, job.findings)))
    assert doc.dxfversion == "AC1015"
    assert all(not e.dxf.hasattr("true_color") for e in doc.modelspace())


def test_names_with_signs_that_a_layer_may_not_have_do_no_harm(job):
    sheet = next(iter(job.project.sheets.values()))
    named = replace(job.project, sheets={sheet.id: replace(sheet, title='A/B: "plan" <1> | 2')})
    odd = Job(named, job.facts, job.findings)
    made = leaves(odd)
    doc = read(dxf_document(odd, [page(odd, made[0], made)], sections="none"))
    assert len(doc.layout_names()) == 2
