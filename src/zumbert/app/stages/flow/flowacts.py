"""The commands of the stage Flow: tools, areas from drawings and roads, files of rain,
flows and sizes.
"""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QWidget

from zumbert.app.exchanging import Exchange
from zumbert.app.questions import file_to_read, file_to_write
from zumbert.app.told import told
from zumbert.edits.areas import add_area, areas_of_layers, areas_of_road, assign_nearest
from zumbert.edits.grounditems import GroundItem
from zumbert.edits.rain import set_rain
from zumbert.errors import EditError
from zumbert.model.ids import AreaId, BackgroundId, RoadId

if TYPE_CHECKING:
    from zumbert.app.bars.foot import Foot
    from zumbert.app.toolbox import Toolbox
    from zumbert.edits.sizelines import Sized
    from zumbert.edits.sizing import HowToSize


class FlowActs(QObject):
    """Each change is an undo step; a refusal is told."""

    def __init__(
        self, window: QWidget, exchange: Exchange, toolbox: "Toolbox", foot: "Foot"
    ) -> None:
        super().__init__(window)
        self.window, self.exchange, self.toolbox, self.foot = window, exchange, toolbox, foot
        self.session, self.files, self.work, self.pen = (
            exchange.session,
            exchange.files,
            exchange.work,
            exchange.pen,
        )

    def take(self, name: str) -> None:
        """Takes a tool in hand."""
        self.toolbox.take(name)

    # -- areas -------------------------------------------------------------------------------------

    def from_layers(self) -> None:
        """Asks which layers of a drawing hold areas, and of which kind."""
        from zumbert.app.stages.flow.layersdialog import LayersDialog

        project = self.session.state.current.project
        if not project.backgrounds:
            self.session.refused.emit("There is no drawing yet: import a DXF first.")
            return
        dialog = LayersDialog(self.window, project, self.pen)
        dialog.accepted.connect(lambda: self.take_layers(dialog.drawing, dialog.kinds))
        dialog.open()

    def take_layers(self, drawing: str, kinds: dict[str, str]) -> bool:
        """Areas of all closed lines of some layers."""
        return self.session.edit(
            "Take areas from a drawing",
            lambda p, f: areas_of_layers(p, f, p.backgrounds[BackgroundId(drawing)], kinds),
        )

    def from_road(self, verge: bool) -> bool:
        """Areas of the road that is shown, else of the first, between its gullies."""
        s = self.session.state
        if s.look.run_key is not None and s.look.run_key.kind == "road":
            road: RoadId | None = RoadId(s.look.run_key.id)
        else:
            road = next(iter(s.current.project.roads), None)
        if road is None:
            self.session.refused.emit("There is no road yet: import or draw one first.")
            return False
        name = s.current.project.roads[road].name
        return self.session.edit(f"Areas of {name}", lambda p, f: areas_of_road(p, f, road, verge))

    @told(None)
    def by_size(self) -> None:
        """An area with a typed size, to be set in the panel."""
        s = self.session.state
        to = next(iter(s.chosen.structures), None) if len(s.chosen.structures) == 1 else None
        kinds = [k.name for k in s.current.project.area_kinds]
        kind = s.held.area_kind if s.held.area_kind in kinds else kinds[0]
        project, key = add_area(s.current.project, kind, size=100.0, structure=to)
        if self.session.apply(f"Add {project.areas[key].name}", project):
            self.session.pick(GroundItem("area", key))

    def assign_nearest(self) -> None:
        """The selected area drains to the structure inside it, or nearest."""
        item = self.session.state.chosen.item
        if item is not None and item.kind == "area":
            self.session.edit(
                "Drain an area to the nearest structure",
                lambda p, f: assign_nearest(p, f, [AreaId(item.id)]),
            )

    def import_files(self) -> None:
        """Asks for files to import."""
        self.exchange.import_dialog()

    # -- rain --------------------------------------------------------------------------------------

    @told(None)
    def import_rain(self) -> None:
        """Asks for a rain as TOML and takes it."""
        from zumbert.exchange.raintoml import read_rain

        path = file_to_read(self.window, "Import rain", self.files.folder(), "Rain (*.toml)")
        if path is not None:
            rain = read_rain(path)
            self.session.edit(f"Import the rain {rain.name}", lambda p, f: set_rain(p, rain))

    @told(None)
    def export_rain(self) -> None:
        """Asks for a file and writes the rain to it."""
        from zumbert.exchange.raintoml import write_rain

        rain = self.session.state.current.project.rain
        if rain is None:
            raise EditError("There is no rain yet.")
        path = file_to_write(
            self.window, "Export rain", self.files.folder(), f"{rain.name}.toml", "Rain (*.toml)"
        )
        if path is not None:
            write_rain(rain, path)
            self.foot.say(f"Written: {path}")

    # -- flows and sizes ---------------------------------------------------------------------------

    def export_flows(self) -> None:
        """Asks for a file and writes flows and areas to it."""
        name = f"{self.session.state.current.project.name} flows.xlsx"
        path = file_to_write(
            self.window,
            "Export flows",
            self.files.folder(),
            name,
            "Spreadsheet (*.xlsx);;CSV (*.csv)",
        )
        if path is not None:
            self.export_flows_to(path)

    @told(False)
    def export_flows_to(self, path: Path) -> bool:
        """Writes flows and areas: a spreadsheet with all tables, or the flows of pipes as CSV."""
        from zumbert.exchange.csv import write_csv
        from zumbert.exchange.flowtables import flow_tables
        from zumbert.exchange.xlsx import write_xlsx

        tables = flow_tables(self.session.state.current.facts)
        if path.suffix.lower() == ".csv":
            write_csv(path, tables[0])
        else:
            write_xlsx(path, tables)
        self.foot.say(f"Written: {path}")
        return True

    def read_back(self) -> None:
        """Sizes that were worked out elsewhere come back by label."""
        self.exchange.readback_dialog()

    def sized(self, how: "HowToSize") -> "Sized | None":
        """The result of sizing, worked out with progress; None where it was given up. Raises
        EditError.
        """
        from zumbert.edits.sizing import sized

        current = self.session.state.current
        return self.work.run(
            "Sizing", lambda tell: sized(current.project, current.facts, how, tell)
        )

    @told(None)
    def export_log(self) -> None:
        """Asks for a file and writes the log of the last sizing."""
        from zumbert.exchange.sizelog import write_size_log

        log = self.session.state.current.project.size_log
        if log is None:
            raise EditError("Nothing was sized yet.")
        kinds = "Text (*.txt);;CSV (*.csv);;Spreadsheet (*.xlsx)"
        name = f"{self.session.state.current.project.name} sizes.txt"
        path = file_to_write(
            self.window, "Export the log of sizes", self.files.folder(), name, kinds
        )
        if path is not None:
            write_size_log(log, path)
            self.foot.say(f"Written: {path}")
