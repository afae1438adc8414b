"""The choices of an import, and its state while it is built."""

from collections.abc import Mapping
from pathlib import Path

from msgspec import Struct

from zumbert.errors import ReadError
from zumbert.exchange.points import PointColumn
from zumbert.model.background import UNITS
from zumbert.model.ids import NetworkId
from zumbert.model.project import Project
from zumbert.model.surface import Role

LAYER_USES: tuple[tuple[str, str], ...] = (
    ("", "drawing alone"), ("land reserve", "road reserve"), ("land easement", "easement"),
    ("land property", "property"), ("service water", "water"), ("service gas", "gas"),
    ("service power", "power"), ("service telecom", "telecom"), ("service sewer", "sewer"),
    ("leave", "leave it out"),
)  # fmt: skip


class BadRows(ReadError):
    """Some rows of a table are bad, while the others can be taken."""


class Imported(Struct, frozen=True, kw_only=True):
    """The project, and in sentences what was found, told and left out."""

    project: Project
    notes: tuple[str, ...]


class Choices(Struct, frozen=True, kw_only=True):
    """The choices of the summary. A surface without a role here is left out, a road not
    named here too.
    """

    roles: Mapping[str, Role]
    roads: frozenset[str] | None = None  # None: all
    # how a road of a name that is there is taken: "replace", or the name that it gets
    same_roads: Mapping[str, str] = {}
    networks: bool = True  # whether pipe networks are taken
    # networks that take an imported standard or trench type; None: all
    taken_by: frozenset[NetworkId] | None = None
    units: Mapping[Path, str] = {}  # of drawings, points, grids and tables
    layers: Mapping[tuple[Path, str], str] = {}  # uses of layers, of LAYER_USES
    columns: Mapping[Path, tuple[PointColumn, ...]] = {}  # of files of points
    # m: vertices farther off the plane of their neighbours are left out
    spikes: float | None = None
    # of tables whose heads are not ours: what each column is
    tables: Mapping[Path, tuple[str, ...]] = {}
    # points and lines with levels of several files make one surface, named as the first
    one_surface: bool = False
    leave_bad: bool = False  # rows of tables that cannot be taken are left out and told
    leave_crossed: bool = False  # breaklines that cross an earlier one count as points only


class Taking:
    """An import under way: the choices, the notes so far, and the rows that cannot be taken."""

    def __init__(self, choices: Choices) -> None:
        self.choices = choices
        self.notes: list[str] = []
        self.bad: list[str] = []
        self.joined: frozenset[str] = frozenset()  # surfaces that are part of another already

    def unit(self, project: Project, path: Path) -> float:
        """Metres of one unit of a file that names none; which it was is told."""
        picked = self.choices.units.get(path)
        name = picked or usual_unit(project)
        self.notes.append(
            f"{path.name}: its lengths are in {name}, "
            f"{'as picked' if picked else 'as those of the project'}."
        )
        return UNITS.get(name, project.units.metres)


def usual_unit(project: Project) -> str:
    """The unit that a list without one is taken to be in: that of the project's lengths."""
    return project.units.m
