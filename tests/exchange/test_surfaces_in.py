"""Points, grids, DXF faces and lines with levels, land and services from files."""

import ezdxf
import numpy as np
import pytest
from ezdxf.render.mesh import MeshBuilder
from pytest import approx

from tests.build import road_project
from zumbert.edits.ground import read_again
from zumbert.errors import Cancelled, ReadError
from zumbert.exchange.asciigrid import read_grid
from zumbert.exchange.dxf import read_dxf, surface_of
from zumbert.exchange.found import ImportFiles, read_files, sorted_out
from zumbert.exchange.importing import built
from zumbert.exchange.points import points_of, read_point_text
from zumbert.exchange.taking.choices import Choices
from zumbert.exchange.taking.drawings import drawing_again, is_stale
from zumbert.geometry.tin import Tin
from zumbert.model.project import new_project


def write(tmp_path, name, text):
    path = tmp_path / name
    path.write_bytes(text if isinstance(text, bytes) else text.encode())
    return path


# -- points ----------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("text", "columns"),
    [
        (
            "1,100.0,200.0,10.5,EG\n2,110,200,11,EG\n",
            ("number", "easting", "northing", "level", "code"),
        ),
        ("100 200 10.5\n110 200 11\n", ("easting", "northing", "level")),
        ("P1 100 200 10.5\nP2 110 200 11\n", ("number", "easting", "northing", "level")),
        ("x;y;z\n100,0;200,0;10,5\n110,0;200;11\n", ("easting", "northing", "level")),
        (
            "# survey\nnorth\teast\telev\n200\t100\t10.5\n200\t110\t11\n",
            ("northing", "easting", "level"),
        ),
        (
            b"\xef\xbb\xbfname,E,N,RL,Description\nA,100,200,10.5,tree\nB,110,200,11,\n",
            ("number", "easting", "northing", "level", "code"),
        ),
    ],
)
def test_the_columns_of_points_are_told_apart(tmp_path, text, columns):
    found = read_point_text(write(tmp_path, "p.txt", text))
    assert found.columns == columns
    assert points_of(found).xyz.tolist() == [[100.0, 200.0, 10.5], [110.0, 200.0, 11.0]]


def test_columns_are_picked_and_bad_rows_told(tmp_path):
    found = read_point_text(
        write(tmp_path, "p.csv", "1,200,100,10.5\n2,x,110,11\n3,200,120\n4,200,130,12\n")
    )
    made = points_of(found, ("number", "northing", "easting", "level"))
    assert made.xyz.tolist() == [[100.0, 200.0, 10.5], [130.0, 200.0, 12.0]]
    assert made.notes == ("2 rows without three numbers left out: 2, 3.",)
    with pytest.raises(ReadError, match="pick one column for the level"):
        points_of(found, ("number", "northing", "easting", "-"))


@pytest.mark.parametrize(
    ("text", "words"),
    [("", "is empty"), ("hello\nworld\n", "holds no points"), ("1 2\n3 4\n", "holds no points")],
)
def test_what_are_no_points_is_refused(tmp_path, text, words):
    with pytest.raises(ReadError, match=words):
        read_point_text(write(tmp_path, "p.txt", text))


def test_points_become_existing_ground_in_their_unit(tmp_path):
    path = write(tmp_path, "survey.xyz", "0 0 10\n100 0 20\n100 100 20\n0 100 10\n")
    made = built(
        new_project("x"),
        read_files(sorted_out([path])),
        Choices(roles={"survey": "existing"}, units={path: "ft"}),
    )
    [s] = made.project.surfaces.values()
    # a plane that rises 0.1; at 50 ft east it is 15 ft high
    assert float(Tin(s.vertices, s.faces).level(50 * 0.3048, 30.0 * 0.3048)) == approx(15 * 0.3048)
    assert "survey.xyz: 4 points." in made.notes


# -- grids -----------------------------------------------------------------------------------------

GRID = (
    "ncols 3\nnrows 3\nxllcorner 0\nyllcorner 10\ncellsize 2\nNODATA_value -9999\n7 8 9\n4 5 "
    "6\n1 2 -9999\n"
)


def test_a_grid_is_a_surface_from_the_middles_of_its_cells(tmp_path):
    vertices, faces, notes = read_grid(write(tmp_path, "g.asc", GRID))
    tin = Tin(vertices, faces)
    # middles at x 1, 3, 5 and y 11, 13, 15; the first row is the northern one
    assert tin.level([1.0, 1.0, 3.0, 2.0], [11.0, 15.0, 13.0, 14.0]).tolist() == approx(
        [1.0, 7.0, 5.0, 6.0]
    )
    assert np.isnan(tin.level(4.5, 11.5))  # one corner of that square has no data
    assert notes[1] == "1 cells hold no data: there the surface has holes."


def test_a_grid_by_centres(tmp_path):
    vertices, _, _ = read_grid(
        write(
            tmp_path,
            "g.asc",
            GRID.replace("xllcorner", "xllcenter").replace("yllcorner", "YLLCENTER"),
        )
    )
    assert vertices[:, :2].min(axis=0).tolist() == [0.0, 10.0]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("hello", "its head has no ncols"),
        (GRID.replace("7 8 9", "7 8"), "holds 8 levels, and its head says 9"),
        (GRID.replace("7 8", "seven 8"), "a level that is no number"),
        (GRID.replace("ncols 3", "ncols 1e9"), "it needs two each way"),
        (GRID.replace("cellsize 2", "cellsize 0"), "a cell is wider than nothing"),
        (GRID.replace("cellsize 2", "cellsize wide"), 'is "wide", which is no number'),
        (GRID.replace("5", "-9999"), "no four cells with data"),
    ],
)
def test_a_bad_grid_is_refused(tmp_path, text, words):
    with pytest.raises(ReadError, match=words):
        read_grid(write(tmp_path, "g.asc", text))


# -- drawings --------------------------------------------------------------------------------------


@pytest.fixture
def deep(tmp_path):
    doc = ezdxf.new()
    doc.header["$INSUNITS"] = 6
    space = doc.modelspace()
    space.add_3dface([(0, 0, 10), (10, 0, 11), (10, 10, 11), (0, 10, 10)])
    with space.add_mesh().edit_data() as data:
        data.vertices, data.faces = (
            [(10, 0, 11), (20, 0, 12), (20, 10, 12), (10, 10, 11)],
            [(0, 1, 2, 3)],
        )
    poly = MeshBuilder()
    poly.add_mesh(vertices=[(20, 0, 12), (30, 0, 13), (30, 10, 13)], faces=[(0, 1, 2)])
    poly.render_polyface(space)
    doc.saveas(tmp_path / "faces.dxf")
    return tmp_path / "faces.dxf"


def test_faces_and_meshes_are_one_surface(deep):
    found = read_dxf(deep)
    vertices, faces, _ = surface_of(found)
    tin = Tin(vertices, faces)
    assert tin.level([5.0, 15.0, 28.0], [5.0, 5.0, 3.0]).tolist() == approx([10.5, 11.5, 12.8])
    assert len(vertices) == 8  # corners at one place are one
    assert found.notes[1] == "5 faces, 0 lines with levels, 0 points."
    made = built(
        new_project("x"),
        read_files(ImportFiles.of(dxf=(deep,))),
        Choices(roles={"faces levels": "design"}),
    )
    [s] = made.project.surfaces.values()
    assert (s.name, s.role, made.project.backgrounds) == ("faces levels", "design", {})


def test_lines_with_levels_are_breaklines(tmp_path):
    doc = ezdxf.new()
    doc.header["$INSUNITS"] = 6
    space = doc.modelspace()
    space.add_polyline3d([(0, 0, 10), (50, 0, 12), (100, 0, 10)])
    space.add_polyline3d([(0, 50, 20), (100, 50, 20)])
    space.add_point((50, 25, 30))
    doc.saveas(tmp_path / "lines.dxf")
    found = read_dxf(tmp_path / "lines.dxf")
    vertices, faces, _ = surface_of(found)
    assert Tin(vertices, faces).level([25.0, 50.0, 50.0], [0.0, 0.0, 25.0]).tolist() == approx(
        [11.0, 12.0, 30.0]
    )


def test_layers_become_land_and_services_or_are_left_out(tmp_path):
    doc = ezdxf.new()
    doc.header["$INSUNITS"] = 4
    space = doc.modelspace()
    space.add_lwpolyline(
        [(0, 0), (50_000, 0), (50_000, 20_000)], close=True, dxfattribs={"layer": "RESERVE"}
    )
    space.add_line((0, 0), (1000, 0), dxfattribs={"layer": "RESERVE"})
    space.add_polyline3d([(0, 0, 40_000), (9000, 9000, 41_000)], dxfattribs={"layer": "WATER"})
    space.add_line((0, 0), (5, 5), dxfattribs={"layer": "FRAME"})
    space.add_circle((20_000, 10_000), 1000, dxfattribs={"layer": "TREES"})
    doc.saveas(tmp_path / "d.dxf")
    path = tmp_path / "d.dxf"
    layers = {
        (path, "RESERVE"): "land reserve",
        (path, "WATER"): "service water",
        (path, "FRAME"): "leave",
    }
    made = built(
        road_project(), read_files(ImportFiles.of(dxf=(path,))), Choices(roles={}, layers=layers)
    )
    [area], [line] = made.project.land.values(), made.project.services.values()
    assert (area.kind, area.ring) == ("reserve", ((0, 0), (50, 0), (50, 20)))
    assert line.points == ((0, 0, 40), (9, 9, 41))
    [b] = made.project.backgrounds.values()
    assert set(b.layers) == {"RESERVE", "WATER", "TREES"}
    assert b.centres.tolist() == [[20.0, 10.0]]
    assert 'Layer "RESERVE": 1 area of land (reserve), 1 line left out.' in made.notes


def test_a_polyline_with_arcs_stays_one_line(tmp_path):
    doc = ezdxf.new()
    space = doc.modelspace()
    for bulge in (1.0, -1.0):
        space.add_lwpolyline([(0, 0, 0), (10, 0, bulge), (20, 0, 0), (30, 5, 0)], format="xyb")
    doc.saveas(tmp_path / "arc.dxf")
    for line in read_dxf(tmp_path / "arc.dxf", "m").lines:
        steps = np.hypot(*np.diff(line.xyz[:, :2], axis=0).T)
        assert line.xyz[0].tolist() == [0, 0, 0]
        assert line.xyz[-1].tolist() == [30, 5, 0]
        assert steps.max() < 11.2
        assert steps.sum() == approx(10 + 5 * np.pi + np.hypot(10, 5), rel=1e-3)


def test_a_drawing_is_read_again_where_its_file_changed(tmp_path):
    doc = ezdxf.new()
    doc.header["$INSUNITS"] = 6
    doc.modelspace().add_line((0, 0), (10, 0), dxfattribs={"layer": "A"})
    doc.modelspace().add_line((0, 5), (10, 5), dxfattribs={"layer": "B"})
    path = tmp_path / "d.dxf"
    doc.saveas(path)
    p = built(road_project(), read_files(ImportFiles.of(dxf=(path,))), Choices(roles={})).project
    [(key, b)] = p.backgrounds.items()
    assert not is_stale(b)
    doc.modelspace().add_line((0, 9), (10, 9), dxfattribs={"layer": "C"})
    doc.saveas(path)
    assert is_stale(b)
    from zumbert.edits.ground import show_layers
    from zumbert.edits.grounditems import GroundItem, set_strength

    p = set_strength(show_layers(p, key, frozenset({"B"})), GroundItem("background", key), 0.5)
    again = read_again(p, key, drawing_again(p.backgrounds[key])).backgrounds[key]
    assert (again.id, set(again.layers), again.off, again.strength, len(again.segments)) == (
        key,
        {"A", "B", "C"},
        {"B"},
        0.5,
        3,
    )
    assert not is_stale(again)
    path.unlink()
    assert not is_stale(again)
    with pytest.raises(ReadError, match="could not be read"):
        drawing_again(again)


def test_reading_is_given_up_where_it_is_told_to(deep):
    def tell(share, words):
        raise Cancelled(words)

    with pytest.raises(Cancelled):
        read_files(ImportFiles.of(dxf=(deep,)), tell)


# -- land and services -----------------------------------------------------------------------------


def test_land_and_services_from_csv(tmp_path):
    land = write(
        tmp_path,
        "land.csv",
        "name,kind,x,y\nA,reserve,0,0\nA,,50,0\nA,,50,50\nB,,0,0\nB,,5,0\nB,,5,5\n",
    )
    pipes = write(
        tmp_path,
        "s.csv",
        "label;kind;size;clearance;x;y;level\nW1;water;0,15;0,5;0;0;40,5\nW1;;;;9;0;\n",
    )
    files = sorted_out([land, pipes])
    assert (files["land"], files["services"]) == ((land,), (pipes,))
    p = built(new_project("x"), read_files(files), Choices(roles={})).project
    assert [(a.name, a.kind, len(a.ring)) for a in p.land.values()] == [
        ("A", "reserve", 3),
        ("B", "property", 3),
    ]
    [line] = p.services.values()
    assert (line.label, line.size, line.clearance, line.points) == (
        "W1",
        0.15,
        0.5,
        ((0, 0, 40.5), (9, 0, None)),
    )


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("name,kind,x,y\nA,reserve,0,0\nA,,50,0\n", "row 2: an area of land needs three corners"),
        ("name,kind,x,y\nA,garden,0,0\n", 'row 2: kind is "garden"'),
        (
            "label,kind,size,clearance,x,y,level\nW,water,9,,0,0,\nW,,,,1,1,\n",
            "row 2: a service is at most 5.00 m wide",
        ),
        ("label,kind,size,clearance,x,y,level\nW,water,,,0,,\n", "row 2: y is missing"),
    ],
)
def test_bad_land_and_services_name_their_row(tmp_path, text, words):
    path = write(tmp_path, "f.csv", text)
    with pytest.raises(ReadError, match=words):
        built(new_project("x"), read_files(sorted_out([path])), Choices(roles={}))


def test_what_does_not_meet_is_told(tmp_path):
    far = write(tmp_path, "far.xyz", "900000 0 1\n900010 0 1\n900000 10 1\n")
    made = built(road_project(), read_files(sorted_out([far])), Choices(roles={"far": "design"}))
    assert (
        'The surface "far" does not meet the roads and surfaces: check its unit and origin.'
        in made.notes
    )
