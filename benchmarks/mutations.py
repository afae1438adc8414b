"""`python -m benchmarks.mutations [COUNT] [SEED]`: how many of some small changes the closest tests
see.

Mutants are drawn by seed from all of the core; each is put in the place of its module, and the test
files that are closest to it by imports are run, and what was recorded is compared. Those that no
test sees are listed. Exits 1 where the goal is missed.
"""

import ast
import heapq
import os
import subprocess
import sys
import time
from collections import Counter
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from hashlib import sha256
from pathlib import Path

from benchmarks.mutants import SOURCE, VARIABLE, Mutant, file_of, mutants

ROOT = SOURCE.parent
CORE = ("geometry", "hydraulics", "model", "analysis", "checks", "edits", "exchange")
GOAL = 0.8
FILES = 4  # of tests that are run at most
BROAD = 50  # modules: tests that import more are close to none
LONGEST = 240  # s; a mutant that makes tests run longer is seen
# figures of all of the core: close to each module
RECORDED = ROOT / "tests" / "recorded" / "test_recorded.py"
WINDOW = ("app", "desk")  # tests that go through the window: close to what only the window uses


def modules(folders: Sequence[str] = CORE) -> list[str]:
    """All modules of the core, or of other folders."""
    files = [
        p
        for name in folders
        for p in sorted((SOURCE / "zumbert" / name).rglob("*.py"))
        if p.stat().st_size
    ]
    return [
        ".".join(p.relative_to(SOURCE).with_suffix("").parts).removesuffix(".__init__")
        for p in files
    ]


@cache
def imports(file: Path) -> set[str]:
    """The modules of ours that a file imports, anywhere in it."""
    found = set()
    for node in ast.walk(ast.parse(file.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            found |= {a.name for a in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found |= {node.module} | {f"{node.module}.{a.name}" for a in node.names}
    return {name for name in found if name.split(".")[0] in ("zumbert", "tests")}


def test_files() -> dict[Path, set[str]]:
    """All files of tests, with what they import."""
    return {p: imports(p) for p in sorted((ROOT / "tests").rglob("test_*.py")) if p != RECORDED}


def closest(module: str, tests: dict[Path, set[str]]) -> list[Path]:
    """The tests that are closest to a module: those of its name, those that import it, else
    those that import what does.
    """
    folder, name = module.split(".")[1], module.rpartition(".")[2]
    of_core = {
        p: names for p, names in tests.items() if p.parts[-2] not in WINDOW and len(names) <= BROAD
    }
    mirrored = [p for p in tests if p.stem == f"test_{name}" and p.parts[-2] == folder]
    found = _nearest(module, of_core, modules()) or _nearest(module, tests, modules((*CORE, "app")))
    return [*list(dict.fromkeys([*mirrored, *found]))[:FILES], RECORDED]


def _nearest(module: str, tests: dict[Path, set[str]], through: list[str]) -> list[Path]:
    """The tests that import a module, else those that import one that does, and so on; the
    narrowest first.
    """
    known, layer, near = {module}, {module}, list[Path]()
    while layer and not near:
        near = [p for p, names in tests.items() if names & layer]
        layer = {m for m in through if m not in known and imports(file_of(m)) & layer}
        known |= layer
    return sorted(near, key=lambda p: (len(tests[p]), p))


def seen(mutant: Mutant, files: list[Path]) -> bool:
    """Whether a test fails with the mutant in its place."""
    env = os.environ | {
        VARIABLE: f"{mutant.module} {mutant.number}",
        "QT_QPA_PLATFORM": "offscreen",
    }
    command = [
        sys.executable,
        "-m",
        "pytest",
        "-p",
        "benchmarks.mutants",
        "-p",
        "no:cacheprovider",
        "-n",
        "0",
        "-x",
        "-q",
    ]
    try:
        done = subprocess.run(
            [*command, *map(str, files)], env=env, cwd=ROOT, capture_output=True, timeout=LONGEST
        )
    except subprocess.TimeoutExpired:
        return True
    return done.returncode != 0


def sample(count: int, seed: int) -> list[Mutant]:
    """Mutants drawn from all of the core, each as likely; what changes in one place draws no
    others elsewhere.
    """

    def lot(mutant: Mutant, nth: int) -> bytes:
        return sha256(
            f"{seed} {mutant.module} {mutant.before} {mutant.after} {nth}".encode()
        ).digest()

    drawn = []
    for module in modules():
        alike: Counter[tuple[str, str]] = Counter()
        for m in mutants(module):
            drawn.append((lot(m, alike[m.before, m.after]), m))
            alike[m.before, m.after] += 1
    return [m for _, m in heapq.nsmallest(count, drawn)]


def main(count: int = 60, seed: int = 25) -> int:
    tests, began = test_files(), time.monotonic()
    drawn = sample(count, seed)
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        found = list(pool.map(lambda m: seen(m, closest(m.module, tests)), drawn))
    for mutant in [m for m, caught in zip(drawn, found, strict=True) if not caught]:
        print(
            f"not seen: {mutant.module}:{mutant.line}  {mutant.before}  ->  {mutant.after}  "
            f"({mutant.number})"
        )
    share = sum(found) / len(found)
    print(
        f"{sum(found)} of {count} mutants are seen: {share:.0%}, goal {GOAL:.0%}, seed {seed}, "
        f"{time.monotonic() - began:.0f} s"
    )
    return 0 if share >= GOAL else 1


if __name__ == "__main__":
    sys.exit(main(*map(int, sys.argv[1:3])))
