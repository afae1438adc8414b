"""Reading large files: LandXML against bare lxml, a project against bare array reading."""

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from lxml import etree
from msgspec.structs import replace

from benchmarks.measure import Figure, median_ms
from benchmarks.surfaces import irregular
from zumbert.edits.setup import add_surface
from zumbert.exchange.found import read_files, sorted_out
from zumbert.exchange.importing import built, guessed_roles
from zumbert.exchange.landxml import read_landxml
from zumbert.exchange.taking.choices import Choices
from zumbert.model.project import new_project
from zumbert.store import load, save


def reading() -> Iterator[Figure]:
    vertices, faces = irregular(150_000)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "large.xml"
        _write(path, vertices, faces)
        ours = median_ms(lambda: read_landxml(path), 3)
        bare = median_ms(lambda: etree.fromstring(path.read_bytes()), 3)
        yield Figure("LandXML of 300k triangles against bare lxml", ours, bare, ours / bare, 3.0)
        project = Path(folder) / "large.zumbert"
        save(add_surface(new_project("large"), "Ground", "existing", vertices, faces), project)
        np.savez(Path(folder) / "bare.npz", vertices=vertices, faces=faces.astype(np.int32))

        def arrays() -> None:
            with np.load(Path(folder) / "bare.npz") as found:
                _ = found["vertices"], found["faces"]

        ours, bare = median_ms(lambda: load(project), 7), median_ms(arrays, 7)
        yield Figure("opening a project with it against its arrays", ours, bare, ours / bare, 2.0)
        points = Path(folder) / "large.csv"
        np.savetxt(points, vertices, "%.3f", ",", header="x,y,z", comments="")
        yield from _choosing(points)


def _choosing(path: Path) -> Iterator[Figure]:
    """Another unit chosen for 150,000 points that are about to be imported, against
    triangulating them.
    """
    project, found = new_project("choice"), read_files(sorted_out([path]))
    choices = Choices(roles=guessed_roles(project, found))
    begun = time.perf_counter()  # once: the second look finds all of it again
    built(project, found, choices)
    whole = (time.perf_counter() - begun) * 1000
    units = iter(("ft", "US survey ft", "yd", "dm"))
    one = median_ms(lambda: built(project, found, replace(choices, units={path: next(units)})), 3)
    yield Figure(
        "another unit for 150,000 points against a first look", one, whole, one / whole, 0.1
    )


def _write(path: Path, vertices: np.ndarray, faces: np.ndarray) -> None:
    with path.open("w") as f:
        f.write(
            '<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2" '
            'version="1.2"><Units><Metric linearUnit="meter"/>'
            '</Units><Surfaces><Surface name="G"><Definition surfType="TIN"><Pnts>\n'
        )
        f.writelines(
            f'<P id="{i}">{y:.3f} {x:.3f} {z:.3f}</P>\n'
            for i, (x, y, z) in enumerate(vertices.tolist(), 1)
        )
        f.write("</Pnts><Faces>\n")
        f.writelines(f"<F>{a} {b} {c}</F>\n" for a, b, c in (faces + 1).tolist())
        f.write("</Faces></Definition></Surface></Surfaces></LandXML>\n")
