import io
import os
import subprocess
import sys
import zipfile

import msgspec
import numpy as np
import pytest
from msgspec.structs import replace

from tests.build import chain, v_project, with_pipe
from zumbert.demo.project import demo_project
from zumbert.edits.setup import add_road
from zumbert.errors import StoreError
from zumbert.geometry.clothoid import Clothoid
from zumbert.geometry.elements import Straight
from zumbert.geometry.profile import Pvi
from zumbert.model.digging import Digging, Rate, Stratum
from zumbert.model.note import Pin
from zumbert.model.pipe import Bore
from zumbert.model.road import RoadProfile
from zumbert.store import load, save
from zumbert.store.file import FORMAT


def same(a, b):
    plain = [msgspec.json.encode(replace(p, surfaces={}, attachments={})) for p in (a, b)]
    assert plain[0] == plain[1]
    assert [(s.id, s.name, s.role) for s in a.surfaces.values()] == [
        (s.id, s.name, s.role) for s in b.surfaces.values()
    ]
    for p, q in zip(a.surfaces.values(), b.surfaces.values(), strict=True):
        np.testing.assert_array_equal(p.vertices, q.vertices)
        np.testing.assert_array_equal(p.faces, q.faces)


def test_everything_comes_back(tmp_path):
    demo = demo_project()
    save(demo, tmp_path / "demo.zumbert")
    back = load(tmp_path / "demo.zumbert")
    same(demo, back)
    assert isinstance(next(p for p in back.pipes.values() if p.label == "EXP1").size, Bore)


def test_clothoids_and_curves_of_all_kinds_come_back(tmp_path):
    elements = (Straight(0.0, 0.0, 10.0, 0.0), Clothoid(10.0, 0.0, 1.5707963, 40.0, 0.0, 0.01))
    pvis = (
        Pvi(0.0, 1.0),
        Pvi(20.0, 2.0, 10.0, ahead=4.0),
        Pvi(40.0, 2.5, radius=300.0),
        Pvi(50.0, 2.6),
    )
    p = add_road(
        chain([(48.0, 47.5)]),
        "R",
        elements,
        5.0,
        (RoadProfile(name="D", kind="design", pvis=pvis),),
    )
    save(p, tmp_path / "r.zumbert")
    [road] = load(tmp_path / "r.zumbert").roads.values()
    assert road == next(iter(p.roads.values()))


def test_the_same_project_gives_the_same_bytes(tmp_path):
    p = chain([(48.0, 47.5)])
    save(p, tmp_path / "a")
    save(p, tmp_path / "b")
    assert (tmp_path / "a").read_bytes() == (tmp_path / "b").read_bytes()


def test_a_label_with_quotes_and_letters_of_all_kinds(tmp_path):
    p = chain([(48.0, 47.5)])
    name = "S\"1' \u00fc\u4e2d\n;"
    p = replace(p, structures={**p.structures, "S1": replace(p.structures["S1"], label=name)})
    save(p, tmp_path / "quotes.zumbert")
    assert load(tmp_path / "quotes.zumbert").structures["S1"].label == name


def test_a_failed_save_leaves_the_file_before_it(tmp_path, monkeypatch):
    path = tmp_path / "p.zumbert"
    save(chain([(48.0, 47.5)]), path)
    before = path.read_bytes()

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(StoreError, match="could not be written: No space left"):
        save(demo_project(), path)
    assert path.read_bytes() == before
    assert os.listdir(tmp_path) == ["p.zumbert"]


def test_a_link_stays_a_link(tmp_path):
    real, link = tmp_path / "real.zumbert", tmp_path / "link.zumbert"
    save(chain([(48.0, 47.5)]), real)
    link.symlink_to(real)
    save(chain([(48.0, 47.4)]), link)
    assert link.is_symlink()
    assert load(real).pipes["P1"].invert_down == 47.4


def test_what_is_no_project_is_refused_in_a_sentence(tmp_path):
    path = tmp_path / "x.zumbert"
    with pytest.raises(StoreError, match="does not exist"):
        load(path)
    path.write_text("no zip")
    with pytest.raises(StoreError, match="is not a project"):
        load(path)
    with zipfile.ZipFile(path, "w") as z:
        z.writestr("other.txt", "hello")
    with pytest.raises(StoreError, match="is not a project"):
        load(path)
    with zipfile.ZipFile(path, "w") as z:
        z.writestr(
            "project.json", f'{{"format": {FORMAT}, "surfaces": [], "project": {{"name": 3}}}}'
        )
    with pytest.raises(StoreError, match="is broken"):
        load(path)
    with zipfile.ZipFile(path, "w") as z:
        z.writestr("project.json", '{"format": 99}')
    with pytest.raises(StoreError, match="newer Zumbert"):
        load(path)


def test_a_cut_off_file_is_refused(tmp_path):
    path = tmp_path / "p.zumbert"
    save(demo_project(), path)
    whole = path.read_bytes()
    for share in (0.1, 0.5, 0.999):
        path.write_bytes(whole[: int(len(whole) * share)])
        with pytest.raises(StoreError):
            load(path)


def test_records_that_name_what_is_not_there_are_refused(tmp_path):
    path = tmp_path / "p.zumbert"
    save(with_pipe(chain([(48.0, 47.5)]), "Q", "S1", "nowhere", 1.0, 1.0), path)
    with pytest.raises(StoreError, match='pipe "Q" ends at no structure'):
        load(path)


def test_the_file_can_be_read_by_its_documentation_with_zip_json_and_numpy(tmp_path):
    import io
    import json

    path = tmp_path / "demo.zumbert"
    save(demo_project(), path)
    with zipfile.ZipFile(path) as z:
        document = json.loads(z.read("project.json").decode("utf-8"))
        ground = next(s for s in document["surfaces"] if s["role"] == "existing")
        with np.load(
            io.BytesIO(z.read(f"surfaces/{ground['id']}.npz")), allow_pickle=False
        ) as arrays:
            vertices, faces = arrays["vertices"], arrays["faces"]
    assert document["format"] == FORMAT
    assert (vertices.dtype, vertices.shape[1]) == (np.float64, 3)
    assert (faces.dtype, int(faces.max()) < len(vertices)) == (np.int32, True)
    project = document["project"]
    pipe = next(p for p in project["pipes"].values() if p["label"] == "P5")
    ends = [project["structures"][pipe[e]]["label"] for e in ("up", "down")]
    assert (ends, pipe["invert_up"], project["sizes"][pipe["size"]]["inside"]) == (
        ["S5", "S4"],
        41.169,
        0.3,
    )
    place = project["structures"][pipe["up"]]["place"]
    assert (place["type"], place["chainage"], project["roads"][place["road"]]["name"]) == (
        "anchored",
        131.0,
        "Quillerby Rise",
    )


def test_land_services_spots_and_attached_files_come_back(tmp_path):
    from zumbert.model.land import Land
    from zumbert.model.note import Attachment, Spot
    from zumbert.model.service import ServiceLine

    p = chain([(48.0, 47.5)])
    p = replace(
        p,
        land={
            "l1": Land(
                id="l1", name="Reserve", kind="reserve", ring=((0.0, 0.0), (9.0, 0.0), (0.0, 9.0))
            )
        },
        services={
            "v1": ServiceLine(
                id="v1", label="W1", kind="water", points=((0.0, 0.0, 1.0), (9.0, 0.0, None))
            )
        },
        spots={"t1": Spot(id="t1", x=1.0, y=2.0, follows="design")},
        attachments={
            "a1": Attachment(id="a1", name="soil.pdf", note="borehole 3", data=b"%PDF\x00\xff"),
            "a2": Attachment(id="a2", name="far.txt", path="../far.txt"),
        },
    )
    save(p, tmp_path / "p.zumbert")
    back = load(tmp_path / "p.zumbert")
    assert (back.land, back.services, back.spots) == (p.land, p.services, p.spots)
    assert [(a.name, a.note, a.path, a.data) for a in back.attachments.values()] == [
        ("soil.pdf", "borehole 3", None, b"%PDF\x00\xff"),
        ("far.txt", "", "../far.txt", None),
    ]


def test_a_road_that_cannot_be_is_refused(tmp_path):
    import msgspec as m

    from zumbert.geometry.intersections import Intersection
    from zumbert.model.road import Road

    p = chain([(48.0, 47.5)])
    bad = Road(
        id="r1",
        name="Bend",
        points=(Intersection(0, 0), Intersection(10, 0, 90.0), Intersection(10, 10)),
    )
    save(replace(p, roads={"r1": bad}), tmp_path / "p.zumbert")
    with pytest.raises(StoreError, match='road "Bend": the curves at points 1 and 2 need'):
        load(tmp_path / "p.zumbert")
    pvis = (Pvi(9.0, 1.0), Pvi(2.0, 1.0))
    odd = m.structs.replace(
        bad,
        points=bad.points[:1] + bad.points[2:],
        profiles=(RoadProfile(name="D", kind="design", pvis=pvis),),
    )
    save(replace(p, roads={"r1": odd}), tmp_path / "p.zumbert")
    with pytest.raises(StoreError, match="must rise"):
        load(tmp_path / "p.zumbert")
    save(
        replace(p, roads={"r1": m.structs.replace(odd, profiles=(), design=3)}),
        tmp_path / "p.zumbert",
    )
    with pytest.raises(StoreError, match="has no profile 3"):
        load(tmp_path / "p.zumbert")


def test_what_is_held_left_out_and_said_comes_back(tmp_path):
    demo = demo_project()
    pipe, structure = next(iter(demo.pipes.values())), next(iter(demo.structures.values()))
    pin = Pin(id="n1", pipe=pipe.id, at=3.0, outer=True, cover_from="existing")
    road = replace(next(iter(demo.roads.values())), without=frozenset({structure.id}))
    network = replace(next(iter(demo.networks.values())), invert_basis="walls")
    p = replace(
        demo,
        pins={pin.id: pin},
        roads={**demo.roads, road.id: road},
        networks={**demo.networks, network.id: network},
        pipes={
            **demo.pipes,
            pipe.id: replace(pipe, hold_up=True, hold_slope=True, invert_basis="centres"),
        },
        structures={**demo.structures, structure.id: replace(structure, next_slope=0.02)},
    )
    save(p, tmp_path / "p.zumbert")
    back = load(tmp_path / "p.zumbert")
    for name in ("pins", "networks", "pipes", "structures", "roads"):
        assert getattr(back, name) == getattr(p, name)


def test_a_save_that_fails_for_any_reason_is_told_and_leaves_no_file_behind(tmp_path):
    path = tmp_path / "p.zumbert"
    save(demo_project(), path)
    before = path.read_bytes()
    broken = replace(demo_project(), name="stray \udcff byte")
    with pytest.raises(
        StoreError, match="could not be written: .* The file before it is untouched"
    ):
        save(broken, path)
    assert path.read_bytes() == before and [p.name for p in tmp_path.iterdir()] == ["p.zumbert"]


CODE = """
import sys
from msgspec.structs import replace
from zumbert.demo.project import demo_project
from zumbert.model.background import Background
from zumbert.store import save
import numpy as np
p = demo_project()
some = frozenset(list(p.structures)[:12])
p = replace(p, roads={k: replace(r, without=some) for k, r in p.roads.items()})
b = Background(
    id="b1", name="d", layers=tuple("abcdefgh"), off=frozenset("abcdefgh"),
    segments=np.zeros((1, 4)), layer=np.zeros(1),
)
save(replace(p, backgrounds={"b1": b}), sys.argv[1])
"""


def test_the_same_project_gives_the_same_bytes_on_every_run(tmp_path):
    found = set()
    for seed in ("1", "2", "3"):
        path = tmp_path / f"{seed}.zumbert"
        subprocess.run(
            [sys.executable, "-c", CODE, str(path)],
            env=os.environ | {"PYTHONHASHSEED": seed},
            check=True,
        )
        found.add(path.read_bytes())
    assert len(found) == 1
    assert load(path).backgrounds["b1"].off == frozenset("abcdefgh")


def with_member(source, target, name, data):
    """A project file with one member replaced."""
    with zipfile.ZipFile(source) as a, zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as b:
        for i in a.infolist():
            b.writestr(i.filename, data if i.filename == name else a.read(i))


def npz(**members):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as z:
        for name, data in members.items():
            with z.open(f"{name}.npy", "w", force_zip64=True) as f:
                for part in data:
                    f.write(part)
    return out.getvalue()


def head(shape):
    f = io.BytesIO()
    np.lib.format.write_array_header_1_0(
        f, {"descr": "<f8", "fortran_order": False, "shape": shape}
    )
    return f.getvalue()


def test_arrays_that_are_not_what_they_say_are_refused_without_being_unpacked(
    tmp_path, monkeypatch
):
    save(demo_project(), tmp_path / "a.zumbert")
    [name, *_] = [
        n for n in zipfile.ZipFile(tmp_path / "a.zumbert").namelist() if n.startswith("surfaces/")
    ]
    lying = npz(vertices=[head((10**12, 3))], faces=[head((1, 3)) + bytes(24)])
    with_member(tmp_path / "a.zumbert", tmp_path / "b.zumbert", name, lying)
    with pytest.raises(StoreError, match="an array that is not as large as it says"):
        load(tmp_path / "b.zumbert")
    monkeypatch.setattr("zumbert.store.file.LARGEST_ARRAYS", 1 << 22)
    deflated = npz(
        vertices=[head((350_000, 3)), bytes(8_400_000)], faces=[head((1, 3)) + bytes(24)]
    )
    assert len(deflated) < 30_000  # 8 MB of nothing
    with_member(tmp_path / "a.zumbert", tmp_path / "c.zumbert", name, deflated)
    with pytest.raises(StoreError, match="unpacks to more than 1 GiB"):
        load(tmp_path / "c.zumbert")


def test_what_is_counted_is_saved(tmp_path):
    digging = Digging(
        strata=(
            Stratum(name="topsoil", thickness=0.2),
            Stratum(name="rock", boreholes=((0.0, 0.0, 1.0), (9.0, 0.0, 1.0))),
        ),
        bands=(0.0, 1.0),
        statuses=frozenset({"proposed", "existing"}),
        rates=(Rate(item='Gully "450"', unit="", rate=180.0),),
    )
    save(replace(v_project(), digging=digging), tmp_path / "a.zumbert")
    assert load(tmp_path / "a.zumbert").digging == digging


def test_a_pipe_with_an_unknown_trench_is_refused(tmp_path):
    p = v_project()
    p = replace(p, pipes={k: replace(v, trench="nowhere") for k, v in p.pipes.items()})
    save(p, tmp_path / "a.zumbert")
    with pytest.raises(StoreError, match="unknown trench type"):
        load(tmp_path / "a.zumbert")
