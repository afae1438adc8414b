"""What the stage Deliver sends out: asks where to, writes beside the window, and tells what was written."""

from collections.abc import Callable, Sequence
from datetime import date
from pathlib import Path
from typing import NamedTuple

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QWidget

from zumbert.app.bars.foot import Foot
from zumbert.app.files import Files
from zumbert.app.questions import ask, file_to_read, file_to_write, folder_to_write
from zumbert.app.told import told
from zumbert.app.work import Tell
from zumbert.delivery import outputs
from zumbert.delivery.job import Job
from zumbert.delivery.outputs import Maker, Output
from zumbert.delivery.pages import Leaf
from zumbert.delivery.report.write import docx_maker, report_pdf_maker
from zumbert.delivery.revisions import issued, next_name


class Out(NamedTuple):
    """A kind of file that goes out."""

    title: str
    group: str
    tip: str
    kinds: str  # as a file dialog lists them; "" for a folder
    name: str  # what it is called at first, after the project
    make: Callable[[Job, Sequence[Leaf]], Maker]


OUT: dict[str, Out] = {
    "pdf": Out("PDF", "Sheets", "All sheets as one PDF", "PDF (*.pdf)", " drawings.pdf", outputs.pdf_maker),
    "pdf-each": Out("PDF, a file a sheet", "Sheets", "A PDF for each sheet, in a folder", "", "", outputs.pdf_each_maker),
    "svg": Out("SVG, a file a sheet", "Sheets", "An SVG for each sheet, in a folder", "", "", outputs.svg_maker),
    "dxf": Out("DXF", "Other programs", "Model space, long sections beside it, sheets as layouts", "DXF (*.dxf)", ".dxf",
               outputs.dxf_maker),
    "dxf-sections": Out("Long sections as DXF", "Other programs", "A DXF for each run, in a folder", "", "",
                        lambda job, picked: outputs.sections_maker(job)),
    "landxml": Out("LandXML", "Other programs", "Roads with profiles, surfaces and pipe networks, version 1.2", "LandXML (*.xml)",
                   ".xml", lambda job, picked: outputs.landxml_maker(job)),
    "geojson": Out("GeoJSON", "Other programs", "Structures and pipes in true coordinates", "GeoJSON (*.geojson)", ".geojson",
                   lambda job, picked: outputs.geojson_maker(job)),
    "report-pdf": Out("Report as PDF", "Reports and schedules", "Schedules, long sections, findings, quantities", "PDF (*.pdf)",
                      " report.pdf", lambda job, picked: report_pdf_maker(job)),
    "docx": Out("Report as DOCX", "Reports and schedules", "The same, to be changed in a word processor", "DOCX (*.docx)",
                " report.docx", lambda job, picked: docx_maker(job)),
    "docx-own": Out("Report from your template", "Reports and schedules", "The same, filled into a DOCX of your own",
                    "DOCX (*.docx)", " report.docx", lambda job, picked: docx_maker(job)),
    "schedules": Out("Schedules", "Reports and schedules", "All schedules as a spreadsheet and as CSV, in a folder", "", "",
                     lambda job, picked: outputs.schedules_maker(job)),
}  # fmt: skip


class Delivering(QObject):
    """The part of the window that writes what leaves the desk."""

    def __init__(self, window: QWidget, files: Files, foot: Foot) -> None:
        super().__init__(window)
        self.window, self.files, self.foot = window, files, foot
        self.session, self.work = files.session, files.work

    def job(self) -> Job:
        """The current value as a job."""
        s = self.session.state
        dug = s.trenches if s.trenches is not None and s.trenches.facts is s.current.facts else None
        return Job(s.current.project, s.current.facts, s.current.findings, dug)

    def send(self, key: str, only_shown: bool = False) -> None:
        """Asks where a kind of file goes, and writes it; `only_shown` leaves out the other sheets."""
        out = OUT[key]
        template = None
        if key == "docx-own":
            template = file_to_read(self.window, "Template of the report", self.files.folder(), "DOCX (*.docx)")
            if template is None:
                return
        name = self.session.state.current.project.name
        if out.kinds:
            path = file_to_write(self.window, out.title, self.files.folder(), f"{name}{out.name}", out.kinds)
        else:
            path = folder_to_write(self.window, f"{out.title}: choose a folder", self.files.folder())
        if path is not None:
            self.write(key, path, only_shown, template)

    @told(False)
    def write(self, key: str, path: Path, only_shown: bool = False, template: Path | None = None) -> bool:
        """Writes a kind of file; a refusal is told. False where it was cancelled too."""
        out, job = OUT[key], self.job()
        shown = self.session.state.leaf

        def make(tell: Tell) -> list[str]:
            picked = outputs.chosen(job)
            if only_shown:
                picked = [leaf for leaf in picked if leaf.place == min(shown, len(picked))]
            maker = docx_maker(job, template) if template is not None else out.make(job, picked)
            return outputs.write_all([Output(path, not out.kinds, maker)], tell)

        notes = self.work.run(f"Writing {path.name}", make)
        if notes is None:
            return False
        self.foot.say(" ".join([f"Written: {path}.", *notes]))
        return True

    def issue(self) -> None:
        """Keeps what the project is today as an issue, once it is asked for."""
        project = self.session.state.current.project
        name, day = next_name(project), date.today().isoformat()
        question = f"Issue drawings and schedules as revision {name}, {day}? Later sheets and schedules show what differs from it."
        if ask(self.window, "issue", "Issue", question, ("Issue", "Cancel")) == 0:
            self.session.edit(f"Issue {name}", lambda p, f: issued(p, f, name, day, ""))
