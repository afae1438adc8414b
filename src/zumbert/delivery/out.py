"""The table of what goes out: the window's buttons and the options of the command line come from
it.
"""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import NamedTuple

from zumbert.delivery import outputs
from zumbert.delivery.gltf import gltf
from zumbert.delivery.ifc import ifc
from zumbert.delivery.job import Job
from zumbert.delivery.outputs import Maker
from zumbert.delivery.pages import Leaf
from zumbert.delivery.report.write import docx_maker, report_pdf_maker
from zumbert.delivery.space import space_png

Make = Callable[[Job, Sequence[Leaf], Path | None], Maker]


class Out(NamedTuple):
    """A kind of file that goes out: its words, the kinds of a file dialog ("" for a folder), its
    name after the project's.
    """

    title: str
    group: str
    tip: str
    kinds: str
    name: str
    make: Make  # of a job, the pages that are picked, and a template
    template: bool = False  # whether one's own template can be filled in


SHEETS, PROGRAMS, REPORTS = "Sheets", "Other programs", "Reports and schedules"
OUT: dict[str, Out] = {  # by the option of the command line
    "pdf": Out("PDF", SHEETS, "All sheets as one PDF", "PDF (*.pdf)", " drawings.pdf", lambda j, p,
               t: outputs.pdf_maker(j, p)),
    "pdf-each": Out("PDF, a file a sheet", SHEETS, "A PDF for each sheet, in this folder", "", "",
                    lambda j, p, t: outputs.pdf_each_maker(j, p)),
    "svg": Out("SVG, a file a sheet", SHEETS, "An SVG for each sheet, in this folder", "", "",
               lambda j, p, t: outputs.svg_maker(j, p)),
    "dxf": Out("DXF", PROGRAMS, "Model space, long sections beside it, sheets as layouts",
               "DXF (*.dxf)", ".dxf",
               lambda j, p, t: outputs.dxf_maker(j, p)),
    "dxf-sections": Out("Long sections as DXF", PROGRAMS, "A DXF for each run, in this folder", "",
                        "",
                        lambda j, p, t: outputs.sections_maker(j)),
    "landxml": Out("LandXML", PROGRAMS,
                   "Roads with profiles, surfaces and pipe networks, version 1.2",
                   "LandXML (*.xml)", ".xml",
                   lambda j, p, t: outputs.landxml_maker(j)),
    "geojson": Out("GeoJSON", PROGRAMS, "Structures and pipes in true coordinates",
                   "GeoJSON (*.geojson)", ".geojson",
                   lambda j, p, t: outputs.geojson_maker(j)),
    "gltf": Out("glTF", PROGRAMS, "Network, services and ground in space, for 3-D viewers",
                "glTF (*.glb)", ".glb",
                lambda j, p, t: outputs.space_maker(j, gltf)),
    "ifc": Out("IFC", PROGRAMS,
               "Pipes, structures, services and ground as bodies with their data, IFC 4",
               "IFC (*.ifc)", ".ifc",
               lambda j, p, t: outputs.space_maker(j, ifc)),
    "png": Out("Picture of space", PROGRAMS, "The project seen in space, as a picture",
               "PNG (*.png)", " in space.png",
               lambda j, p, t: outputs.space_maker(j, lambda job, tell: space_png(job, tell=tell))),
    "report-pdf": Out("Report as PDF", REPORTS,
                      "Schedules, long sections, findings, quantities, trench sections",
                      "PDF (*.pdf)",
                      " report.pdf", lambda j, p, t: report_pdf_maker(j)),
    "docx": Out("Report as DOCX", REPORTS, "The same, to be changed in a word processor",
                "DOCX (*.docx)", " report.docx",
                lambda j, p, t: docx_maker(j, t), True),
    "schedules": Out("Schedules", REPORTS,
                     "All schedules as a spreadsheet and as CSV, in this folder", "", "",
                     lambda j, p, t: outputs.schedules_maker(j)),
}  # fmt: skip
