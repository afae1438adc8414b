"""Lists as others write them: units, heads, bad rows, titles."""

import pytest
from pytest import approx

from tests.build import facts_of
from zumbert.errors import ReadError
from zumbert.exchange.found import read_files, sorted_out
from zumbert.exchange.importing import built, import_files
from zumbert.exchange.points import points_of, read_point_text
from zumbert.exchange.taking.choices import BadRows, Choices
from zumbert.geometry.tin import Tin
from zumbert.model.display import Units
from zumbert.model.project import Settings, new_project

FOOT = 0.3048


def us_project():
    return new_project("x", Settings(units=Units(system="us")))


def written(folder, **texts):
    for name, text in texts.items():
        (folder / name.replace("_", ".")).write_text(text)
    return sorted_out(sorted(folder.iterdir()))


def test_a_list_is_in_the_unit_of_the_project_unless_one_is_picked_and_it_is_told(tmp_path):
    found = read_files(written(tmp_path, s_csv="label,x,y,rim\nA,100,200,50\n"))
    path = tmp_path / "s.csv"
    for project, units, one, words in (
        (new_project("x"), {}, 1.0, "s.csv: its lengths are in m, as those of the project."),
        (us_project(), {}, FOOT, "s.csv: its lengths are in ft, as those of the project."),
        (us_project(), {path: "m"}, 1.0, "s.csv: its lengths are in m, as picked."),
        (
            new_project("x"),
            {path: "US survey ft"},
            1200 / 3937,
            "s.csv: its lengths are in US survey ft, as picked.",
        ),
    ):
        made = built(project, found, Choices(roles={}, units=units))
        [a] = made.project.structures.values()
        assert (a.place.x, a.place.y, a.rim.level) == (
            approx(100 * one),
            approx(200 * one),
            approx(50 * one),
        )
        assert words in made.notes
    made = import_files("x", structures=[path], unit="mm")
    assert next(iter(made.project.structures.values())).place.x == approx(0.1)
    with pytest.raises(ReadError, match='The unit "furlong" is not known'):
        import_files("x", structures=[path], unit="furlong")


def test_all_bad_rows_are_named_and_the_good_ones_can_be_taken(tmp_path):
    rows = "".join(f"B{i},manhole-1200,{'x' if i % 2 else i},0,\n" for i in range(130))
    bad = (
        "label,type,x,y,rim\nA,manhole-1200,1,2,\nA,manhole-1200,1,2,\nC,tower,1,2,\nD,manhole-1200,1,2,99999\n"
        + rows
    )
    found = read_files(
        written(
            tmp_path,
            s_csv=bad,
            p_csv="label,from,to,size,invert_up,invert_down\nP,A,B0,300,2,1\nQ,A,C,300,2,1\n",
        )
    )
    with pytest.raises(BadRows) as e:
        built(new_project("x"), found, Choices(roles={}))
    lines = str(e.value).splitlines()
    # two of one label, an unknown type, a level that is none, 65 without a number, and a pipe to a
    # row that is bad
    assert (
        lines[0] == "69 rows cannot be taken:" and len(lines) == 52 and lines[-1] == "and 19 more"
    )
    assert 'row 3: there is already a structure "A"' in lines[1]
    assert (
        'no structure type "tower"' in lines[2]
        and 'rim is "99999", and no ground has that level' in lines[3]
    )
    made = built(new_project("x"), found, Choices(roles={}, leave_bad=True))
    assert len(made.project.structures) == 66 and [
        p.label for p in made.project.pipes.values()
    ] == ["P"]
    assert sum(n.startswith("Left out: ") for n in made.notes) == 50


def test_heads_of_others_are_understood_and_what_means_nothing_is_passed_over(tmp_path):
    nodes = (
        "Manhole,Easting,Northing,Cover Level,Material\nM1,1000.0,2000.0,50.5,brick\n"
        "M2,1040,2000,50.1,\n"
    )
    links = "US Node,DS Node,US Invert,DS Invert,Diameter,Shape\nM1,M2,48.6,48.2,300,C\n"
    utility = (
        "Reference;Easting;Northing;Invert;Diameter\nW9;1,5;2,5;47,25;110\nW9;9,5;2,5;47,00;110\n"
    )
    files = written(tmp_path, nodes_csv=nodes, links_csv=links, utility_csv=utility)
    assert [p.name for p in (*files["structures"], *files["pipes"], *files["services"])] == [
        "nodes.csv",
        "links.csv",
        "utility.csv",
    ]
    made = built(new_project("x"), read_files(files), Choices(roles={})).project
    assert {s.label: (s.place.x, s.rim.level) for s in made.structures.values()} == {
        "M1": (1000.0, 50.5),
        "M2": (1040.0, 50.1),
    }
    [pipe] = made.pipes.values()
    assert (pipe.size, pipe.invert_up, pipe.invert_down) == ("300", 48.6, 48.2)
    assert facts_of(made).pipes[pipe.id].slope == approx(0.01)
    [w] = made.services.values()
    assert (w.label, w.size, w.points) == ("W9", 0.11, ((1.5, 2.5, 47.25), (9.5, 2.5, 47.0)))


def test_columns_are_picked(tmp_path):
    found = read_files(
        written(tmp_path, a_csv="Asset,E,N,CL,old\nM1,1,2,50,7\n".replace("Asset", "Node"))
    )
    path = tmp_path / "a.csv"
    made = built(
        new_project("x"), found, Choices(roles={}, tables={path: ("label", "y", "x", "-", "rim")})
    ).project
    [s] = made.structures.values()
    assert (s.place.x, s.place.y, s.rim.level) == (2.0, 1.0, 7.0)


def test_title_lines_may_stand_above_the_heads_of_points(tmp_path):
    (tmp_path / "p.csv").write_text(
        "Survey of the slope,,,\nBook "
        "7,,,\nPoint,Easting,Northing,Level\n1,10,20,5\n2,11,21,6\n3,10,22,7\n"
    )
    text = read_point_text(tmp_path / "p.csv")
    assert text.columns == ("number", "easting", "northing", "level")
    assert points_of(text).xyz.tolist() == [[10, 20, 5], [11, 21, 6], [10, 22, 7]]


def test_points_and_breaklines_of_several_files_make_one_surface(tmp_path):
    (tmp_path / "a.xyz").write_text("0 0 1\n100 0 1\n100 100 1\n0 100 1\n")
    (tmp_path / "b.xyz").write_text("50 20 3\n50 80 3\n20 20 2\n")
    found = read_files(sorted_out([tmp_path / "a.xyz", tmp_path / "b.xyz"]))
    roles = {"a": "existing", "b": "none"}
    apart = built(new_project("x"), found, Choices(roles=roles)).project
    assert len(apart.surfaces) == 2
    made = built(new_project("x"), found, Choices(roles=roles, one_surface=True))
    [s] = made.project.surfaces.values()
    assert (s.name, s.role, len(s.vertices)) == ("a", "existing", 7)
    assert '"a" is one surface of a, b.' in made.notes
    assert not any("left out" in n for n in made.notes)


def test_points_join_the_source_data_of_a_landxml_surface_inside_its_boundary(tmp_path):
    (tmp_path / "more.xyz").write_text("50 50 9\n500 500 1\n")
    (tmp_path / "g.xml").write_text(
        '<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2" version="1.2"><Units><Metric '
        'linearUnit="meter"/></Units>'
        '<Surfaces><Surface name="G"><SourceData><DataPoints><PntList3D>0 0 1 0 100 1 100 100 1 '
        "100 0 1</PntList3D></DataPoints>"
        '<Boundaries><Boundary bndType="outer"><PntList2D>10 10 10 90 90 90 90 10 10 '
        "10</PntList2D></Boundary></Boundaries>"
        "</SourceData></Surface></Surfaces></LandXML>"
    )
    found = read_files(sorted_out([tmp_path / "g.xml", tmp_path / "more.xyz"]))
    choices = Choices(roles={"G": "existing", "more": "none"}, one_surface=True)
    [s] = built(new_project("x"), found, choices).project.surfaces.values()
    tin = Tin(s.vertices, s.faces)
    # the boundary cuts, the far point makes nothing
    assert (s.name, tin.extents) == ("G", (10.0, 10.0, 90.0, 90.0))
    # 9 in the middle, 1 at the corners
    assert tin.level([50.0, 75.0], [50.0, 50.0]).tolist() == approx([9.0, 5.0])


def test_what_is_new_is_told_apart_from_what_was_there_and_what_stands_far_off_the_ground(tmp_path):
    (tmp_path / "g.xyz").write_text("0 0 50\n100 0 50\n100 100 50\n0 100 50\n")
    first = built(
        new_project("x"),
        read_files(written(tmp_path, s_csv="label,x,y,rim\nA,10,10,50\nB,20,10,80\n")),
        Choices(roles={"g": "existing"}),
    )
    assert "2 structures, 0 pipes." in first.notes
    assert "1 rim far off the ground: B by 30.000 m. Check unit and columns." in first.notes
    (tmp_path / "s.csv").write_text("label,x,y,rim\nC,30,10,50.2\n")
    second = built(first.project, read_files(sorted_out([tmp_path / "s.csv"])), Choices(roles={}))
    assert "1 structure, 0 pipes new; 2 structures there before." in second.notes
    assert not any("far off" in n for n in second.notes)


def test_a_place_out_of_sense_and_a_spike_are_told_as_the_file_writes_them(tmp_path):
    rows = [(x, y, 100.0) for x in range(0, 100, 10) for y in range(0, 100, 10)]
    rows += [(1000.0, 2000.0, 99999.0), (51.0, 52.0, 130.0)]
    (tmp_path / "feet.csv").write_text("x,y,z\n" + "".join(f"{x},{y},{z}\n" for x, y, z in rows))
    found = read_files(sorted_out([tmp_path / "feet.csv"]))
    for unit, off in (("m", 30.0), ("ft", 30.0 * 0.3048)):
        made = built(
            new_project("x"),
            found,
            Choices(roles={"feet": "none"}, units={tmp_path / "feet.csv": unit}),
        )
        assert any("the first at x 1000.00, y 2000.00 has the level 99999" in n for n in made.notes)
        assert any(
            f"has 1 spike, the worst by {off:.3f} m at x 51.00, y 52.00" in n for n in made.notes
        )
