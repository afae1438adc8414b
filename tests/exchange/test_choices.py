"""What one chooses in the summary of an import, and alignments and surfaces that come back from
LandXML.
"""

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from pytest import approx

from tests.amount import times
from zumbert.demo.make import FILES
from zumbert.exchange.found import read_files, sorted_out
from zumbert.exchange.importing import built
from zumbert.exchange.landxml import read_landxml
from zumbert.exchange.taking.choices import Choices
from zumbert.geometry.alignment import Alignment
from zumbert.geometry.clothoid import Clothoid
from zumbert.geometry.elements import Arc, Straight
from zumbert.geometry.intersections import Intersection, elements_through
from zumbert.model.project import new_project

CROSSED = """<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2"><Units>\
<Metric linearUnit="meter"/></Units>
<Surfaces><Surface name="S"><SourceData><DataPoints>\
<PntList3D>0 0 1 0 100 1 100 100 1 100 0 1 50 20 40</PntList3D></DataPoints>
<Breaklines><Breakline><PntList3D>20 50 3 80 50 3</PntList3D></Breakline>
<Breakline><PntList3D>50 30 5 50 70 5</PntList3D></Breakline></Breaklines></SourceData></Surface>\
</Surfaces></LandXML>"""


def test_roads_and_surfaces_are_chosen():
    found = read_files(sorted_out([FILES / "quillerby.xml"]))
    choices = Choices(roles={"Road design": "design"}, roads=frozenset({"Tansymoor Lane"}))
    made = built(new_project("x"), found, choices)
    assert [r.name for r in made.project.roads.values()] == ["Tansymoor Lane"]
    assert [(s.name, s.role) for s in made.project.surfaces.values()] == [("Road design", "design")]
    assert 'The road "Quillerby Rise" is left out.' in made.notes
    assert 'The surface "Existing ground" is left out.' in made.notes


def test_faults_are_told_and_left_out_by_choice(tmp_path):
    (tmp_path / "s.xml").write_text(CROSSED)
    found = read_files(sorted_out([tmp_path / "s.xml"]))
    assert found.faulty
    plain = built(new_project("x"), found, Choices(roles={"S": "existing"}))
    assert any(
        "1 crossing breakline, the worst by 2.000 m at x 50.00, y 50.00" in n for n in plain.notes
    )
    assert any("1 spike, the worst by 37.343 m at x 20.00, y 50.00" in n for n in plain.notes)
    clean = built(
        new_project("x"), found, Choices(roles={"S": "existing"}, spikes=20.0, leave_crossed=True)
    )
    assert (
        'The surface "S": 1 breakline crossing an earlier one: taken as points only.' in clean.notes
    )
    assert '1 spike of "S" left out.' in clean.notes
    [s] = clean.project.surfaces.values()
    assert s.vertices[:, 2].max() == 5.0


def landxml_of(elements, start, vertices, faces, unit="meter", per=1.0):
    """LandXML written by hand: northing first, points with ids in no order."""

    def at(tag, x, y):
        return f"<{tag}>{y / per:.12f} {x / per:.12f}</{tag}>"

    def radius(k):
        return "INF" if k == 0 else f"{1 / abs(k) / per:.12f}"

    pieces = []
    for e in elements:
        ends = at("Start", e.x0, e.y0), at("End", e.x1, e.y1)
        if isinstance(e, Straight):
            pieces.append(f"<Line>{ends[0]}{ends[1]}</Line>")
        elif isinstance(e, Arc):
            rot = "cw" if e.clockwise else "ccw"
            pieces.append(
                f'<Curve rot="{rot}">{ends[0]}{at("Center", e.xc, e.yc)}{ends[1]}</Curve>'
            )
        else:
            rot = "cw" if e.k0 + e.k1 > 0 else "ccw"
            pieces.append(
                f'<Spiral spiType="clothoid" rot="{rot}" length="{e.length / per:.12f}" '
                f'radiusStart="{radius(e.k0)}" '
                f'radiusEnd="{radius(e.k1)}">{ends[0]}{ends[1]}</Spiral>'
            )
    ids = (
        [7 + 3 * ((i * 5) % len(vertices)) for i in range(len(vertices))]
        if len(vertices) % 5
        else list(range(len(vertices)))
    )
    order = np.argsort([-i for i in ids])
    points = "".join(
        (
            f'<P id="{ids[i]}">{vertices[i][1] / per:.12f} {vertices[i][0] / per:.12f} '
            f"{vertices[i][2] / per:.12f}</P>"
        )
        for i in order
    )
    triangles = "".join(f"<F>{' '.join(str(ids[v]) for v in f)}</F>" for f in faces)
    kind = "Metric" if unit == "meter" else "Imperial"
    return (
        f'<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.1"><Units><{kind} '
        f'linearUnit="{unit}"/></Units>'
        '<Alignments><Alignment name="R" '
        f'staStart="{start / per:.12f}"><CoordGeom>{"".join(pieces)}</CoordGeom></Alignment>'
        "</Alignments><Surfaces><Surface "
        f'name="G"><Definition><Pnts>{points}</Pnts><Faces>{triangles}</Faces></Definition>'
        "</Surface></Surfaces></LandXML>"
    )


curve = st.tuples(
    st.floats(-1.5, 1.5).filter(lambda a: abs(a) > 0.1), st.floats(25, 200),
    st.sampled_from([0.0, 12.0, 30.0]),
    st.sampled_from([0.0, 18.0]),
)  # fmt: skip


@settings(max_examples=times(40), deadline=None)
@given(
    curves=st.lists(curve, min_size=1, max_size=3),
    bearing=st.floats(0, 6.2),
    start=st.floats(-500, 5000),
    side=st.integers(3, 9),
    seed=st.integers(0, 2**31),
    feet=st.booleans(),
)
def test_random_alignments_and_surfaces_come_back(
    tmp_path_factory, curves, bearing, start, side, seed, feet
):
    assume(all((a + b) / (2 * r) < abs(turn) - 0.02 for turn, r, a, b in curves))
    x, y = 500_000.0, 4_000_000.0
    points = [Intersection(x, y)]
    for turn, r, a, b in curves:
        x, y = x + 900 * np.sin(bearing), y + 900 * np.cos(bearing)
        points.append(Intersection(float(x), float(y), r, a, b))
        bearing += turn
    points.append(Intersection(float(x + 900 * np.sin(bearing)), float(y + 900 * np.cos(bearing))))
    elements = elements_through(points)
    random = np.random.default_rng(seed)
    gx, gy = np.meshgrid(np.arange(side) * 10.0, np.arange(side) * 10.0)
    vertices = np.column_stack(
        [x + gx.ravel(), y + gy.ravel(), random.uniform(10, 20, side * side)]
    )
    n = np.arange(side * side).reshape(side, side)
    faces = np.column_stack([n[:-1, :-1].ravel(), n[:-1, 1:].ravel(), n[1:, 1:].ravel()])
    path = tmp_path_factory.mktemp("x") / "r.xml"
    unit, per = ("foot", 0.3048) if feet else ("meter", 1.0)
    path.write_text(landxml_of(elements, start, vertices, faces, unit, per))
    found = read_landxml(path)
    [road], [surface] = found.roads, found.surfaces
    assert [type(e) for e in road.elements] == [type(e) for e in elements]
    bends = [
        [k for e in of if isinstance(e, Clothoid) for k in (e.k0, e.k1)]
        for of in (road.elements, elements)
    ]
    assert bends[0] == approx(bends[1], rel=1e-9)  # radii are in the file's unit too
    ours, theirs = Alignment(elements, start), Alignment(road.elements, road.start)
    ch = np.linspace(ours.start, ours.end, 60)
    at = np.array(
        theirs.point(
            ch * (theirs.length / ours.length)
            + (theirs.start - ours.start * theirs.length / ours.length),
            3.0,
        )
    )
    np.testing.assert_allclose(
        at[:, 1:-1], np.array(ours.point(ch, 3.0))[:, 1:-1], rtol=0, atol=1e-6
    )
    assert theirs.length == approx(ours.length, abs=1e-6)
    assert any(isinstance(e, Clothoid) for e in elements) == any(a or b for _, _, a, b in curves)
    corners = surface.vertices[surface.faces].reshape(-1, 9)
    want = vertices[faces].reshape(-1, 9)
    np.testing.assert_allclose(
        corners[np.lexsort(corners.T)], want[np.lexsort(want.T)], rtol=0, atol=1e-6
    )
