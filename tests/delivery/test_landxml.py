import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree
from msgspec.structs import replace
from pytest import approx

from tests.amount import times
from tests.build import facts_of
from tests.delivery.places import with_delivery
from zumbert.analysis import analyse
from zumbert.delivery.job import Job
from zumbert.delivery.landxml import landxml
from zumbert.edits.basis import set_network_basis
from zumbert.edits.roads import add_profile
from zumbert.edits.setup import network_named, with_settings
from zumbert.exchange.importing import import_files
from zumbert.exchange.landxml import read_landxml
from zumbert.geometry.profile import Pvi
from zumbert.model.display import Units
from zumbert.model.ids import PipeId, StructureId
from zumbert.model.pipe import Bore, Pipe
from zumbert.model.project import new_project
from zumbert.model.structure import FixedRim, Free, OnSurface, Structure

NS = {"x": "http://www.landxml.org/schema/LandXML-1.2"}


def again(project, tmp_path, **roles):
    """A project written and read back, with what was told both times."""
    written = landxml(Job(project))
    path = tmp_path / "a.xml"
    path.write_text(written.text, encoding="utf-8")
    made = import_files("again", landxml=[path], settings=project.settings, **roles)
    return made.project, written.notes, made.notes


def by_label(records):
    return {r.label: r for r in records.values()}


def test_the_demo_comes_back_the_same(job, tmp_path):
    back, _, notes = again(job.project, tmp_path, ground="Existing ground", design="Road design")
    mine, theirs = by_label(job.project.structures), by_label(back.structures)
    assert mine.keys() == theirs.keys()
    roads = {r.name: r for r in back.roads.values()}
    for label, s in mine.items():
        t = theirs[label]
        assert (t.type, t.rim, t.status, t.service, t.outfall) == (
            s.type,
            s.rim,
            s.status,
            s.service,
            s.outfall,
        )
        assert back.networks[t.network].name == job.project.networks[s.network].name
    a, b = job.facts, facts_of(back)
    places = {s.label: b.places[s.id] for s in back.structures.values()}
    for key, s in job.project.structures.items():
        assert (places[s.label].x, places[s.label].y) == approx(
            (a.places[key].x, a.places[key].y), abs=1e-6
        )
    pipes = by_label(back.pipes)
    for p in job.project.pipes.values():
        q = pipes[p.label]
        assert (q.size, q.status, q.invert_up, q.invert_down) == (
            p.size,
            p.status,
            p.invert_up,
            p.invert_down,
        )
        assert back.structures[q.up].label == job.project.structures[p.up].label
    for road in job.project.roads.values():
        assert roads[road.name].profiles[0].pvis == road.profiles[0].pvis
        assert [e.length for e in roads[road.name].elements] == approx(
            [e.length for e in road.elements], abs=1e-9
        )
    for s in job.project.surfaces.values():
        t = next(t for t in back.surfaces.values() if t.name == s.name)
        assert np.allclose(t.vertices, s.vertices, atol=1e-6, rtol=0) and np.array_equal(
            t.faces, s.faces
        )
    assert 'The network "Storm" (storm): 40 structures, 39 pipes.' in notes


def test_what_has_no_place_there_is_told(job, tmp_path):
    _, told, _ = again(job.project, tmp_path, ground="Existing ground", design="Road design")
    [words] = told
    assert "3 areas of land" in words and "2 services" in words and "5 sheets" in words


floats = st.floats(-1e5, 1e5).map(lambda v: round(v, 6))
levels = st.floats(-50, 900).map(lambda v: round(v, 6))
labels = st.text(
    st.characters(blacklist_categories=("Cs", "Cc", "Zs", "Zl", "Zp")), min_size=1, max_size=8
).filter(lambda t: t == t.strip())
types = st.sampled_from(
    [
        "manhole-1050",
        "manhole-1500x1200",
        "gully-450",
        "catchpit-1200",
        "headwall",
        "outfall",
        "joint",
    ]
)


waters, statuses = (
    st.sampled_from(["storm", "foul"]),
    st.sampled_from(["proposed", "existing", "abandoned"]),
)
bores = st.builds(Bore, st.floats(0.05, 3), st.floats(0.001, 0.3))
sizes = st.one_of(st.sampled_from(["150", "300", "clay-300", "plastic-315"]), bores)


@st.composite
def projects(draw):
    """Random networks: any labels, types, sizes, waters, statuses, rims and bases."""
    project = new_project('A "job" & <more>')
    if draw(st.booleans()):
        project = replace(project, settings=replace(project.settings, units=Units(system="us")))
    nets = []
    for name in draw(st.lists(labels, min_size=1, max_size=2, unique_by=str.casefold)):
        project, key = network_named(project, name)
        nets.append(key)
    names = draw(st.lists(labels, min_size=2, max_size=7, unique=True))
    structures = {}
    for i, label in enumerate(names):
        rim = draw(
            st.one_of(
                st.builds(FixedRim, levels),
                st.builds(OnSurface, st.sampled_from(["design", "existing"]), levels),
            )
        )
        structures[StructureId(f"s{i}")] = Structure(
            id=StructureId(f"s{i}"),
            label=label,
            type=draw(types),
            place=Free(draw(floats), draw(floats)),
            rim=rim,
            network=draw(st.sampled_from(nets)),
            service=draw(waters),
            status=draw(statuses),
            outfall=draw(st.booleans()),
            rotation=draw(st.one_of(st.none(), st.floats(0, 6.28))),
            sump=draw(st.one_of(st.none(), levels)),
            cover=(draw(st.floats(-1, 1)), draw(st.floats(-1, 1))),
        )
    pipes = {}
    for i, label in enumerate(draw(st.lists(labels, max_size=6, unique=True))):
        up, down = draw(st.permutations(list(structures)))[:2]
        pipes[PipeId(f"p{i}")] = Pipe(
            id=PipeId(f"p{i}"),
            label=label,
            up=up,
            down=down,
            size=draw(sizes),
            invert_up=draw(levels),
            invert_down=draw(levels),
            network=draw(st.sampled_from(nets)),
            service=draw(waters),
            status=draw(statuses),
            invert_basis=draw(st.sampled_from([None, "walls", "centres"])),
        )
    return replace(project, structures=structures, pipes=pipes)


@settings(deadline=None, max_examples=times(30, 600))
@given(projects())
def test_random_networks_come_back_the_same(tmp_path_factory, project):
    back, _, _ = again(project, tmp_path_factory.mktemp("xml"))
    mine, theirs = by_label(project.structures), by_label(back.structures)
    assert mine.keys() == theirs.keys()
    for label, s in mine.items():
        t = theirs[label]
        assert replace(t, id=s.id, network=s.network, place=s.place) == s
        assert (t.place.x, t.place.y) == approx((s.place.x, s.place.y), abs=1e-6)
        assert (
            back.networks[t.network].name.casefold() == project.networks[s.network].name.casefold()
        )
    pipes = by_label(back.pipes)
    assert pipes.keys() == by_label(project.pipes).keys()
    for p in project.pipes.values():
        q = pipes[p.label]
        size = q.size if isinstance(q.size, str) else p.size
        assert replace(q, id=p.id, network=p.network, up=p.up, down=p.down, size=size) == replace(
            p, size=size
        )
        if isinstance(p.size, Bore):
            assert (q.size.inside, q.size.wall) == approx((p.size.inside, p.size.wall), abs=1e-6)
        else:
            assert q.size == p.size
        assert [back.structures[k].label for k in (q.up, q.down)] == [
            project.structures[k].label for k in (p.up, p.down)
        ]


def test_profiles_of_each_kind_come_back(job, tmp_path):
    road = next(iter(job.project.roads))
    pvis = (
        Pvi(0.0, 40.0),
        Pvi(100.0, 44.0, 30.0),
        Pvi(220.0, 42.0, 50.0, ahead=20.0),
        Pvi(330.0, 47.0, radius=900.0),
        Pvi(420.0, 45.0),
    )
    project = add_profile(job.project, road, "curved", pvis)
    back, _, _ = again(project, tmp_path, ground="Existing ground", design="Road design")
    mine = next(r for r in back.roads.values() if r.name == project.roads[road].name)
    found = next(p for p in mine.profiles if p.name == "curved")
    for a, b in zip(found.pvis, pvis, strict=True):
        assert (a.chainage, a.level, a.length, a.radius) == approx(
            (b.chainage, b.level, b.length, b.radius), abs=1e-9
        )
        assert a.ahead == (None if b.ahead is None else approx(b.ahead))


@pytest.mark.parametrize("of", ["project", "network"])
def test_inverts_at_walls_come_back_at_walls(job, tmp_path, of):
    """Into a project that quotes at centres: covers, slopes and lengths are what they were."""
    p = job.project
    if of == "project":
        p = with_settings(p, replace(p.settings, invert_basis="walls"))
    else:
        p = set_network_basis(p, next(iter(p.networks)), "walls")
    facts = facts_of(p)
    made = landxml(Job(p))
    (tmp_path / "a.xml").write_text(made.text, encoding="utf-8")
    roles = {"ground": "Existing ground", "design": "Road design"}
    back = import_files("again", landxml=[tmp_path / "a.xml"], **roles).project
    theirs = {f.pipe.label: f for f in facts_of(back).pipes.values()}
    assert back.settings.invert_basis == "centres" and len(theirs) == len(facts.pipes)
    for f in facts.pipes.values():
        g = theirs[f.pipe.label]
        assert (g.cover.least, g.slope, g.basis) == approx((f.cover.least, f.slope, f.basis))
    pipes = etree.fromstring(made.text.encode()).iterfind(".//x:Pipe", NS)
    for e in pipes:
        f = next(f for f in facts.pipes.values() if f.pipe.label == e.get("name"))
        fall = f.pipe.invert_up - f.pipe.invert_down
        assert float(e.get("slope")) * float(e.get("length")) == approx(fall, abs=1e-9)
    assert any("inverts at inner walls" in n for n in made.notes)


def test_the_document_is_what_others_read(job):
    root = etree.fromstring(landxml(Job(with_delivery(job.project, epsg=25832))).text.encode())
    assert root.get("version") == "1.2"
    metric = root.find("x:Units/x:Metric", NS)
    assert (metric.get("linearUnit"), metric.get("diameterUnit")) == ("meter", "millimeter")
    assert root.find("x:CoordinateSystem", NS).get("epsgCode") == "25832"
    s4 = root.find('.//x:Struct[@name="S4"]', NS)
    f = next(f for f in job.facts.structures.values() if f.structure.label == "S4")
    north, east = map(float, s4.findtext("x:Center", namespaces=NS).split())
    assert (east, north) == approx((f.place.x, f.place.y))
    assert float(s4.get("elevRim")) == approx(f.place.rim) and float(s4.get("elevSump")) == approx(
        f.sump_level
    )
    assert float(s4.find("x:CircStruct", NS).get("diameter")) == approx(1200)
    ways = [
        (v.get("flowDir"), v.get("refPipe"), float(v.get("elev")))
        for v in s4.findall("x:Invert", NS)
    ]
    assert ("out", "P4", approx(40.049)) in ways and len(ways) == len(f.pipes_in) + 1
    p4 = root.find('.//x:Pipe[@name="P4"]', NS)
    assert (p4.get("refStart"), p4.get("refEnd")) == ("S4", "S3")
    assert float(p4.find("x:CircPipe", NS).get("diameter")) == approx(375)


HAND = """<?xml version="1.0"?>
<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.1" version="1.1">
<Units><Imperial linearUnit="foot" diameterUnit="inch"/></Units>
<PipeNetworks><PipeNetwork name="Main" pipeNetType="sanitary">
<Structs>
 <Struct name="A" elevRim="100" elevSump="90"><Center>1000 2000</Center>\
<CircStruct diameter="48" thickness="5"/>
  <Invert elev="91" flowDir="out" refPipe="1"/></Struct>
 <Struct name="B" elevRim="98" state="existing"><Center>1000 2100</Center>\
<RectStruct length="4" width="3" thickness="0.5"/>
  <Invert elev="90" flowDir="in" refPipe="1"/><Invert elev="89.9" flowDir="out" refPipe="2"/>\
</Struct>
 <Struct name="C" elevRim="95"><Center>1000 2200</Center><OutletStruct/></Struct>
 <Struct name="D" elevRim="96"><Center>1050 2100</Center><InletStruct/></Struct>
 <Struct name="nowhere" elevRim="96"/>
</Structs>
<Pipes>
 <Pipe name="1" refStart="A" refEnd="B"><CircPipe diameter="12" thickness="2" material="Concrete"/>\
</Pipe>
 <Pipe name="2" refStart="B" refEnd="C" slope="0.01" length="100"><CircPipe diameter="12"/></Pipe>
 <Pipe name="3" refStart="D" refEnd="B"><CircPipe diameter="7.77" thickness="1"/></Pipe>
 <Pipe name="4" refStart="A" refEnd="C"><EggPipe height="20" span="14"/></Pipe>
 <Pipe name="5" refStart="A" refEnd="Z"><CircPipe diameter="12"/></Pipe>
</Pipes></PipeNetwork></PipeNetworks></LandXML>"""


def test_a_network_of_others_is_read_with_its_units_and_its_gaps_told(tmp_path):
    path = tmp_path / "hand.xml"
    path.write_text(HAND)
    made = import_files("hand", landxml=[path], settings=new_project("x").settings)
    project, notes = made.project, " ".join(made.notes)
    s, p, ft = by_label(project.structures), by_label(project.pipes), 0.3048
    assert set(s) == {"A", "B", "C", "D"} and set(p) == {"1", "2", "3"}
    assert (
        s["A"].place == Free(2000 * ft, 1000 * ft)
        and s["A"].rim == FixedRim(100 * ft)
        and s["A"].sump == approx(90 * ft)
    )
    assert project.types[s["A"].type].inside == approx(48 * 0.0254)
    assert (project.types[s["B"].type].inside, project.types[s["B"].type].across) == approx(
        (4 * ft, 3 * ft)
    )
    assert s["B"].status == "existing"
    assert [project.types[s[k].type].kind for k in "CD"] == ["outfall", "gully"]
    assert (p["1"].invert_up, p["1"].invert_down) == approx((91 * ft, 90 * ft))
    # the lower end from slope and length
    assert (p["2"].invert_up, p["2"].invert_down) == approx((89.9 * ft, 88.9 * ft))
    assert p["3"].size == Bore(approx(7.77 * 0.0254), approx(0.0254))
    assert all(q.service == "foul" for q in p.values())
    for told in (
        '"nowhere"',
        "its shape is EggPipe",
        'The pipe "5" is left out',
        "Diameters were converted from inch",
        'pipe "3" has no level at D',
    ):
        assert told in notes


def test_what_is_there_already_is_left_out_and_told(job, tmp_path):
    from zumbert.exchange.found import ImportFiles, read_files
    from zumbert.exchange.importing import built
    from zumbert.exchange.taking.choices import Choices

    path = tmp_path / "a.xml"
    path.write_text(landxml(job).text, encoding="utf-8")
    found = read_files(ImportFiles.of(landxml=path))
    made = built(job.project, found, Choices(roles={}, roads=frozenset()))
    assert (made.project.structures, made.project.pipes) == (
        job.project.structures,
        job.project.pipes,
    )
    assert 'There is already a structure "S4": that of the file is left out.' in made.notes
    without = built(new_project("n"), found, Choices(roles={}, roads=frozenset(), networks=False))
    assert not without.project.structures


@pytest.mark.parametrize("bad", ['diameter="x"', 'diameter=""', 'diameter="nan"'])
def test_a_pipe_without_a_size_is_left_out_alone(tmp_path, bad):
    path = tmp_path / "bad.xml"
    path.write_text(HAND.replace('diameter="12" thickness="2"', bad))
    found = read_landxml(path)
    assert (
        "1" not in {p.label for p in found.networks[0].pipes} and len(found.networks[0].pipes) == 3
    )
    assert any('The pipe "1"' in n for n in found.notes)
    assert analyse(import_files("b", landxml=[path]).project)
