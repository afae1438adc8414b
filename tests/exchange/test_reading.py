import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pytest import approx

from tests.build import sheet
from zumbert.edits.setup import add_surface
from zumbert.errors import ReadError
from zumbert.exchange.importing import _apart, import_files
from zumbert.exchange.landxml import read_landxml
from zumbert.geometry.alignment import Alignment
from zumbert.geometry.clothoid import Clothoid
from zumbert.geometry.tin import Tin
from zumbert.model.project import new_project

HEAD = (
    '<LandXML xmlns="http://www.landxml.org/schema/LandXML-{v}" version="{v}"><Units><Metric '
    'linearUnit="meter"/></Units>'
)
ROAD = """<Alignments><Alignment name="R" staStart="100"><CoordGeom>
<Line><Start>0 0</Start><End>0 100</End></Line>
<Curve rot="ccw"><Start>0 100</Start><Center>50 100</Center><End>50 150</End></Curve></CoordGeom>
<Profile><ProfAlign name="D"><PVI>100 10</PVI><ParaCurve length="40">160 11</ParaCurve>\
<PVI>250 11</PVI></ProfAlign></Profile>
</Alignment></Alignments>"""
GROUND = """<Surfaces><Surface name="G"><Definition surfType="TIN"><Pnts>\
<P id="7">-100 -100 1.0</P><P id="3">-100 300 1.0</P>
<P id="12">200 300 2.0</P><P id="5">200 -100 2.0</P></Pnts><Faces><F>7 3 12</F><F>7 12 5</F>\
<F i="1">3 12 5</F></Faces>
</Definition></Surface></Surfaces>"""


def landxml(*parts, v="1.2"):
    return HEAD.format(v=v) + "".join(parts) + "</LandXML>"


@pytest.mark.parametrize("version", ["1.0", "1.1", "1.2"])
def test_northing_comes_first_whatever_the_version(files, version):
    found = read_landxml(files(a_xml=landxml(ROAD, GROUND, v=version))["a_xml"])
    [road] = found.roads
    alignment = Alignment(road.elements, road.start)
    # a line 100 m to the east, then a quarter to the left about (100, 50)
    assert alignment.start == 100.0
    assert alignment.length == approx(100 + 25 * np.pi)
    assert [float(v) for v in alignment.point(150.0)] == approx([50.0, 0.0])
    assert [float(v) for v in alignment.point(alignment.end)] == approx([150.0, 50.0])
    [surface] = found.surfaces
    assert surface.vertices[0].tolist() == [-100.0, -100.0, 1.0]
    assert len(surface.faces) == 2  # an invisible face is left out
    assert road.profiles[0].pvis[1].length == 40.0


def test_feet_become_metres_and_it_is_told(files):
    text = landxml(ROAD, GROUND).replace("Metric", "Imperial").replace('"meter"', '"USSurveyFoot"')
    found = read_landxml(files(a_xml=text)["a_xml"])
    assert found.roads[0].start == approx(100 * 1200 / 3937)
    assert found.surfaces[0].vertices[0, 2] == approx(1200 / 3937)
    assert any("USSurveyFoot" in n for n in found.notes)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (landxml(ROAD).replace('"meter"', '"furlong"'), 'line 1: the unit "furlong" is not known'),
        ("<LandXML><Units>", "line 1: this is no sound XML"),
        ("<other/>", "is XML but no LandXML"),
        ("", "no sound XML"),
        (
            '<!DOCTYPE x [<!ENTITY e SYSTEM "file:///etc/passwd">]>'
            '<LandXML><A>&e;</A><Units><Metric linearUnit="x"/></Units></LandXML>',
            "unit",
        ),
    ],
)
def test_what_is_no_landxml_is_refused(files, text, words):
    with pytest.raises(ReadError, match=words):
        read_landxml(files(a_xml=text)["a_xml"])


@pytest.mark.parametrize(
    ("old", "new", "words"),
    [
        (
            '<Curve rot="ccw">',
            '<Chain>0 100 0 110</Chain><Curve rot="ccw">',
            "Chain at line 3 is of a kind",
        ),
        (
            '<Curve rot="ccw">',
            '<Spiral length="5"><Start>0 100</Start></Spiral><Curve rot="ccw">',
            "spiral at line 3 has no rot",
        ),
        ("<Start>0 100</Start>", "<Start>0 101</Start>", "miss each other by 1.000 m"),
        ("<Center>50 100</Center>", "", "has no Center"),
        ('rot="ccw"', "", "no rot of cw or ccw"),
        ("<Center>50 100</Center>", "<Center>50 110</Center>", "different radii"),
        ("<End>0 100</End>", "<End>0 abc</End>", "could not convert"),
    ],
)
def test_a_road_that_cannot_be_read_is_left_out_and_told(files, old, new, words):
    found = read_landxml(files(a_xml=landxml(ROAD.replace(old, new, 1)))["a_xml"])
    assert found.roads == ()
    [note] = found.notes
    assert 'The road "R"' in note
    assert words in note


def test_other_vertical_curves_and_what_they_lack(files):
    def curved(kind):
        return ROAD.replace('ParaCurve length="40"', kind).replace(
            "/ParaCurve", "/" + kind.split()[0]
        )

    circ = curved('CircCurve radius="900"')
    unsym = curved('UnsymParaCurve lengthIn="30" lengthOut="20"')
    found = [
        read_landxml(files(a_xml=landxml(t))["a_xml"]).roads[0].profiles[0].pvis[1]
        for t in (circ, unsym)
    ]
    assert (found[0].radius, found[0].length) == (900.0, 0.0)
    assert (found[1].length, found[1].ahead) == (50.0, 20.0)
    bad = read_landxml(files(a_xml=landxml(circ.replace(' radius="900"', "")))["a_xml"])
    assert bad.roads[0].profiles == ()
    assert "has no radius" in bad.notes[0]


@pytest.mark.parametrize("rot", ["cw", "ccw"])
def test_a_spiral_runs_into_its_arc(files, rot):
    # a clothoid of 60 m from straight to radius 200, from the origin to the east, written with its
    # true end
    turn = 1.0 if rot == "cw" else -1.0
    spiral = Clothoid(0.0, 0.0, np.pi / 2, 60.0, 0.0, turn / 200)
    ends = f"<Start>0 0</Start><PI>0 40</PI><End>{spiral.y1!r} {spiral.x1!r}</End>"
    text = ROAD[: ROAD.index("<Line>")] + (
        '<Line><Start>0 -50</Start><End>0 0</End></Line><Spiral length="60" radiusStart="INF" '
        f'radiusEnd="200" rot="{rot}"'
        f' spiType="clothoid">{ends}</Spiral></CoordGeom></Alignment></Alignments>'
    )
    [road] = read_landxml(files(a_xml=landxml(text))["a_xml"]).roads
    alignment = Alignment(road.elements, road.start)
    assert alignment.length == approx(110.0)
    assert float(alignment.bearing(150.0)) == approx(np.pi / 2)
    assert float(alignment.bearing(210.0)) == approx(np.pi / 2 + turn * 60 / 400)
    told = read_landxml(files(a_xml=landxml(text.replace('length="60"', 'length="70"')))["a_xml"])
    assert "does not fit" in told.notes[0]
    cubic = read_landxml(files(a_xml=landxml(text.replace('"clothoid"', '"cubic"')))["a_xml"])
    assert "is a cubic" in cubic.notes[0]


COORD = st.floats(-1e6, 1e6, allow_nan=False).map(lambda v: round(v, 4))


@given(
    st.lists(
        st.tuples(COORD, COORD, st.floats(-100, 3000).map(lambda v: round(v, 4))),
        min_size=3,
        max_size=12,
    ),
    st.randoms(),
)
def test_a_surface_written_by_hand_comes_back(tmp_path_factory, points, rnd):
    ids = rnd.sample(range(1, 1000), len(points))
    faces = [rnd.sample(range(len(points)), 3) for _ in range(5)]
    pnts = "".join(
        f'<P id="{i}">{y!r} {x!r} {z!r}</P>' for i, (x, y, z) in zip(ids, points, strict=True)
    )
    fs = "".join(f"<F>{ids[a]} {ids[b]} {ids[c]}</F>" for a, b, c in faces)
    body = (
        "<Surfaces><Surface "
        f'name="S"><Definition><Pnts>{pnts}</Pnts><Faces>{fs}</Faces></Definition></Surface></Surfaces>'
    )
    path = tmp_path_factory.mktemp("x") / "s.xml"
    path.write_text(landxml(body))
    [found] = read_landxml(path).surfaces
    assert np.abs(found.vertices - np.array(points)).max() < 1e-6
    assert found.vertices[found.faces].tolist() == np.array(points)[np.array(faces)].tolist()


def test_surfaces_get_roles_by_name(files):
    two = GROUND + GROUND.replace('name="G"', 'name="D"')
    f = files(a_xml=landxml(two), b_xml=landxml(GROUND))

    def roles(xml, **values):
        return {
            s.name: s.role
            for s in import_files("x", landxml=xml, **values).project.surfaces.values()
        }

    assert roles([f["b_xml"]]) == {"G": "existing"}
    assert roles([f["a_xml"]], design="D") == {"G": "existing", "D": "design"}
    assert roles([f["a_xml"]], ground="D") == {"G": "none", "D": "existing"}
    with pytest.raises(ReadError, match="say which is the ground"):
        roles([f["a_xml"]])
    with pytest.raises(ReadError, match='--ground "X" is no surface'):
        roles([f["a_xml"]], ground="X")
    twice = import_files(
        "x", landxml=[files(c_xml=landxml(ROAD, GROUND))["c_xml"]] * 2, ground="G 2"
    ).project
    assert [r.name for r in twice.roads.values()] == ["R", "R 2"]  # of one name they are told apart
    assert {s.name: s.role for s in twice.surfaces.values()} == {"G": "none", "G 2": "existing"}


@pytest.mark.parametrize(
    "ids", [("7", "3", "12", "5"), ("a", "b", "c", "d"), ("P1", "2", "3", "4")]
)
def test_ids_may_be_any_words(files, ids):
    a, b, c, d = ids
    text = (
        GROUND.replace('id="7"', f'id="{a}"')
        .replace('id="3"', f'id="{b}"')
        .replace('id="12"', f'id="{c}"')
    )
    text = text.replace('id="5"', f'id="{d}"').replace(
        "<F>7 3 12</F><F>7 12 5</F>", f"<F>{a} {b} {c}</F><F>{a} {c} {d}</F>"
    )
    [s] = read_landxml(
        files(a_xml=landxml(text.replace('<F i="1">3 12 5</F>', "")))["a_xml"]
    ).surfaces
    assert s.vertices[s.faces[1]].tolist() == [
        [-100.0, -100.0, 1.0],
        [300.0, 200.0, 2.0],
        [-100.0, 200.0, 2.0],
    ]


@pytest.mark.parametrize(
    ("old", "new", "words"),
    [
        ("-100 -100 1.0", "-100 -100", "has no northing, easting and level"),
        ("-100 -100 1.0", "-100 -100 x", "has no northing, easting and level"),
        ("<F>7 3 12</F>", "<F>7 3</F>", "has 2 points, not three or four"),
        ("<F>7 3 12</F>", "<F>7 3 99</F>", "names a point that is not there"),
    ],
)
def test_a_broken_surface_is_left_out_and_told(files, old, new, words):
    found = read_landxml(files(a_xml=landxml(GROUND.replace(old, new, 1)))["a_xml"])
    assert found.surfaces == ()
    assert words in found.notes[0]


def test_source_data_is_triangulated_here_and_its_faults_are_told(files):
    body = """<Surfaces><Surface name="S"><SourceData><DataPoints>\
<PntList3D>0 0 1 0 100 1 100 100 1 100 0 1 50 50 1.5 50 50 1.9
    </PntList3D></DataPoints><Breaklines><Breakline><PntList3D>20 10 3 20 90 3</PntList3D>\
</Breakline></Breaklines>
    <Contours><Contour elev="2"><PntList2D>80 10 80 90</PntList2D></Contour></Contours>
    <Boundaries><Boundary bndType="outer"><PntList2D>5 5 5 95 95 95 95 5</PntList2D></Boundary>\
</Boundaries>
    </SourceData></Surface></Surfaces>"""
    found = read_landxml(files(a_xml=landxml(body))["a_xml"])
    [s] = found.surfaces
    tin = Tin(s.vertices, s.faces)
    assert tin.level([50.0, 50.0, 50.0], [20.0, 80.0, 50.0]).tolist() == approx([3.0, 2.0, 1.5])
    assert np.isnan(tin.level(2.0, 2.0))
    assert any("was triangulated here" in n for n in s.notes)
    assert any("1 double point, the worst by 0.400 m at x 50.00, y 50.00" in n for n in s.notes)
    empty = read_landxml(
        files(b_xml=landxml('<Surfaces><Surface name="E"><Definition/></Surface></Surfaces>'))[
            "b_xml"
        ]
    )
    assert "neither faces nor points" in empty.notes[0]


def test_several_groups_and_faces_of_four_corners_are_all_read(files):
    more = GROUND.replace(
        "</Pnts>", '</Pnts><Pnts><P id="20">300 -100 3.0</P><P id="21">300 300 3.0</P></Pnts>'
    )
    more = more.replace("<F>7 3 12</F><F>7 12 5</F>", "<F>7 3 12 5</F>")
    more = more.replace("</Faces>", "</Faces><Faces><F>5 12 21</F><F>5 21 20</F></Faces>")
    [s] = read_landxml(files(a_xml=landxml(more))["a_xml"]).surfaces
    tin = Tin(s.vertices, s.faces)
    assert len(s.faces) == 4  # one of four corners, two of three
    # north first: level 1 + (north + 100) / 300 up to 200, then 2 + (north - 200) / 100
    assert tin.level([0.0, 290.0, 100.0, 100.0], [-100.0, 50.0, 199.0, 250.0]).tolist() == approx(
        [1.0, 1.5, 1 + 299 / 300, 2.5]
    )


EQUATION = '<StaEquation staInternal="150" staBack="150" staAhead="1150"/>'


def test_profiles_beyond_a_station_equation_are_put_at_chainages_that_run_on(files):
    profile = "<PVI>100 10</PVI><ParaCurve length='40'>1160 11</ParaCurve><PVI>1250 11</PVI>"
    text = ROAD.replace("</CoordGeom>", "</CoordGeom>" + EQUATION)
    text = text.replace(
        '<PVI>100 10</PVI><ParaCurve length="40">160 11</ParaCurve><PVI>250 11</PVI>', profile
    )
    ground = (
        "<ProfSurf name='E'><PntList2D>100 9 140 9.5</PntList2D><PntList2D>1155 9.6 1240 "
        "10</PntList2D></ProfSurf>"
    )
    text = text.replace("</Profile>", ground + "</Profile>")
    found = read_landxml(files(a_xml=landxml(text))["a_xml"])
    design, existing = found.roads[0].profiles
    # own stationing goes on with 1150 where the chainage is 150: 1160 is 160, 1250 is 250
    assert [p.chainage for p in design.pvis] == [100.0, 160.0, 250.0]
    assert [(p.chainage, p.level) for p in existing.pvis] == [
        (100, 9),
        (140, 9.5),
        (155, 9.6),
        (240, 10),
    ]
    assert any("comes in 2 lists of points" in n for n in found.notes)
    back = ROAD.replace("</CoordGeom>", '</CoordGeom><StaEquation staBack="150" staAhead="120"/>')
    back = back.replace(
        "160 11</ParaCurve><PVI>250 11</PVI>", "130 11</ParaCurve><PVI>220 11</PVI>"
    )
    [profile] = read_landxml(files(b_xml=landxml(back))["b_xml"]).roads[0].profiles
    # stations 120 to 150 come twice: 130 is taken where it comes first, 220 lies beyond: 250
    assert [p.chainage for p in profile.pvis] == [100.0, 130.0, 250.0]
    lost = text.replace("1160 11", "990 11")
    assert "is on no part of the road's stationing" in " ".join(
        read_landxml(files(c_xml=landxml(lost))["c_xml"]).notes
    )


@pytest.mark.parametrize(("gap", "told"), [(0.012, True), (-0.0005, False)])
def test_elements_that_miss_or_overlap_a_little_are_joined(files, gap, told):
    text = ROAD.replace("<End>0 100</End>", f"<End>0 {100 - gap}</End>")
    found = read_landxml(files(a_xml=landxml(text))["a_xml"])
    a, b = found.roads[0].elements
    assert (b.x0, b.y0) == (a.x1, a.y1) == (100 - gap, 0.0) or told
    assert (b.x0, b.y0) == (a.x1, a.y1)
    assert (
        any("missed each other, by 0.012 m at most, were joined" in n for n in found.notes) == told
    )
    assert b.radius == approx(50.0, abs=1e-6) and (b.x1, b.y1) == (150.0, 50.0)


def test_elements_that_miss_by_more_are_no_road(files):
    text = ROAD.replace("<End>0 100</End>", "<End>0 99.94</End>")
    found = read_landxml(files(a_xml=landxml(text))["a_xml"])
    assert found.roads == () and "miss each other by 0.060 m" in found.notes[0]


def test_an_inflow_may_be_large_but_not_beyond_all_measure(tmp_path):
    rows = "label,type,x,y,rim,inflow_m3s\nA,manhole-1200,0,0,60,{}\n"
    path = tmp_path / "s.csv"
    path.write_text(rows.format(1000))
    assert [s.inflow for s in import_files("x", structures=[path]).project.structures.values()] == [
        1000.0
    ]
    path.write_text(rows.format(1000.5))
    with pytest.raises(ReadError, match="inflow_m3s is 1000.5"):
        import_files("x", structures=[path])


def test_what_lies_apart_from_all_else_is_told():
    near = add_surface(new_project("x"), "existing", "existing", *sheet([(0, 50), (100, 50)]))
    assert _apart(near) == []
    far = add_surface(near, "design", "design", *sheet([(9000, 50), (9100, 50)]))
    assert [n.split(" does")[0] for n in _apart(far)] == [
        'The surface "existing"',
        'The surface "design"',
    ]
