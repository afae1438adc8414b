"""Made-up networks of any size over an irregular ground, by seed."""

import numpy as np
from msgspec.structs import replace

from zumbert.edits.setup import add_surface
from zumbert.model.ids import PipeId, SizeKey, StructureId, TypeKey
from zumbert.model.pipe import Pipe
from zumbert.model.project import Project, new_project
from zumbert.model.structure import Free, Structure

RUN = 50  # pipes in a run, each run with its outfall


def network(pipes: int, seed: int = 1, run: int = RUN) -> Project:
    """Parallel runs of 50 pipes (or another count) of 50 m over a rolling ground; some of them
    break rules, as real drafts do.
    """
    rng = np.random.default_rng(seed)
    runs = max(1, round(pipes / run))
    project = _ground(new_project("benchmark"), runs, rng, run)
    net = next(iter(project.networks))
    structures: dict[StructureId, Structure] = {}
    made: dict[PipeId, Pipe] = {}
    for r in range(runs):
        level = 60.0 - rng.uniform(0.0, 0.3)
        for i in range(run + 1):
            key = StructureId(f"s{r}-{i}")
            kind = TypeKey("outfall" if i == run else "manhole-1200")
            place = Free(i * 50.0 + float(rng.uniform(-3, 3)), r * 30.0 + float(rng.uniform(-3, 3)))
            structures[key] = Structure(
                id=key, label=f"S{r}-{i}", type=kind, place=place, network=net
            )
            if i:
                up = StructureId(f"s{r}-{i - 1}")
                fall = float(rng.uniform(0.2, 0.6))
                pipe = PipeId(f"p{r}-{i}")
                made[pipe] = Pipe(
                    id=pipe,
                    label=f"P{r}-{i}",
                    up=up,
                    down=key,
                    size=SizeKey("300"),
                    invert_up=level,
                    invert_down=level - fall,
                    network=net,
                )
                level -= fall + float(rng.uniform(0.0, 0.04))
    return replace(project, structures=structures, pipes=made)


def _ground(project: Project, runs: int, rng: np.random.Generator, run: int) -> Project:
    nx, ny = run * 5 + 4, max(4, runs * 3)  # with 10,000 pipes some 300,000 triangles
    gx, gy = np.meshgrid(
        np.linspace(-60, run * 50 + 60, nx), np.linspace(-60, runs * 30 + 60, ny), indexing="ij"
    )
    gx = gx + rng.uniform(-3, 3, gx.shape)
    gy = gy + rng.uniform(-2, 2, gy.shape)
    z = 62.5 - 0.0085 * gx + 0.4 * np.sin(gx / 40) * np.cos(gy / 25)
    n = np.arange(nx * ny).reshape(nx, ny)
    a, b, c, d = (v.ravel() for v in (n[:-1, :-1], n[1:, :-1], n[1:, 1:], n[:-1, 1:]))
    faces = np.concatenate([np.column_stack([a, b, c]), np.column_stack([a, c, d])])
    vertices = np.column_stack([gx.ravel(), gy.ravel(), z.ravel()])
    return add_surface(project, "Ground", "existing", vertices, faces)
