"""What is recorded of questions: every public function of the core whose arguments a project
gives is asked some times.
"""

import importlib
import inspect
import pkgutil
import typing

import numpy as np

from tests.edits.made import EDITS, Maker
from tests.recorded.plain import gist
from zumbert.analysis.areas import AreaFacts
from zumbert.analysis.chambers import StructureFacts
from zumbert.analysis.crossings import Reach
from zumbert.analysis.digs import Dig
from zumbert.analysis.links import Links
from zumbert.analysis.pipes import PipeFacts
from zumbert.analysis.places import PlaceFacts
from zumbert.analysis.plots import World
from zumbert.analysis.quantities import Quantities
from zumbert.analysis.roads import RoadFacts
from zumbert.analysis.runline import Run
from zumbert.analysis.selecting import Chosen
from zumbert.analysis.spans import Span
from zumbert.analysis.surfaces import Surfaces
from zumbert.analysis.trench import Trenches
from zumbert.checks.check import Findings
from zumbert.checks.finding import Finding
from zumbert.errors import ZumbertError
from zumbert.model.display import Units
from zumbert.model.pipe import Pipe
from zumbert.model.structure import Structure

PARTS = ("model", "hydraulics", "analysis", "checks", "edits", "exchange")
NOT_ASKED = {
    "analyse",
    "check",
    "trenches",
    "full_quantities",
    "union",
    "section_volumes",
    "read_atlas",
    "shipped_atlas",
}
TEXTS = (
    "42.1", "+0.1", "-0.05", "1:80", "2.5%", "0.0125", "c1.2", "s2%", "12+34.5", "3.5 12", "10,20",
    "2<45", "300", "DN 300 clay", "", "x",
)  # fmt: skip


class Asker(Maker):
    """Arguments of more types, from what follows from a project."""

    def __init__(self, known, rng):
        super().__init__(known.project, known.facts, rng)
        self.known = known

    def made(self):
        f, known, p = self.facts, self.known, self.project
        pipe = self.one(f.pipes.values())
        drawn = self.one(known.runs)
        out = super().made() | {
            PipeFacts: pipe,
            StructureFacts: self.one(f.structures.values()),
            Span: pipe.span,
            PlaceFacts: self.one(f.places.values()),
            Pipe: pipe.pipe,
            Structure: self.one(p.structures.values()),
            Units: p.units,
            Surfaces: f.surfaces,
            Links: f.links,
            RoadFacts: self.one(f.roads.values()),
            Trenches: known.dug,
            Quantities: known.quantities,
            Findings: known.findings,
            Run: drawn,
            World: known.dug.world,
            Chosen: Chosen(frozenset(self.some(p.pipes)), frozenset(self.some(p.structures))),
        }
        for kind, found in (
            (AreaFacts, f.areas.values()),
            (Finding, known.findings),
            (Reach, drawn.reaches),
            (Dig, [t.dig for t in known.dug.pipes.values() if t.dig is not None]),
        ):
            if found:
                out[kind] = self.one(found)
        return out

    def value(self, kind, name):
        return (
            self.one(TEXTS)
            if kind is str and name in ("text", "typed", "slope", "distance")
            else super().value(kind, name)
        )


def questions():
    """The functions that are asked, by name: no edits, and nothing that takes files or a time."""
    out = {}
    for part in PARTS:
        package = importlib.import_module(f"zumbert.{part}")
        for found in pkgutil.walk_packages(package.__path__, f"{package.__name__}."):
            module = importlib.import_module(found.name)
            for name, f in vars(module).items():
                whole = f"{found.name.removeprefix('zumbert.')}.{name}"
                if (
                    inspect.isfunction(f)
                    and f.__module__ == found.name
                    and name[0] != "_"
                    and name not in NOT_ASKED
                ):
                    if (
                        whole.removeprefix("edits.") not in EDITS
                        and "path" not in inspect.signature(f).parameters
                    ):
                        out[whole] = f
    return out


def asked(known, draws):
    """What each function answers that can be asked; where its arguments cannot be made it is
    left out.
    """
    out = {}
    for name, f in sorted(questions().items()):
        try:
            hints = typing.get_type_hints(f)
        except NameError:  # a type that is there for the type checker alone
            continue
        needed = [
            n
            for n, p in inspect.signature(f).parameters.items()
            if p.kind is not p.VAR_KEYWORD and n in hints and n != "tell"
        ]
        answers = []
        for draw in range(draws):
            w = Asker(known, np.random.default_rng([draw, *name.encode()]))
            try:
                arguments = {n: w.value(hints[n], n) for n in needed}
            except (KeyError, TypeError, IndexError, ValueError):
                break
            answers.append(answer(f, arguments))
        if answers:
            out[name] = answers
    return out


def answer(f, arguments):
    """What a function gives, or why it refuses."""
    try:
        found = f(**arguments)
        return gist(list(found) if inspect.isgenerator(found) else found)
    except (ZumbertError, ValueError) as e:
        return str(e)
    except Exception as e:  # arguments that nobody gives
        return type(e).__name__
