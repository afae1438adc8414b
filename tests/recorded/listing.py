"""Tables and logs whose contents are recorded."""

from tests.recorded.plain import changes, plain
from zumbert.edits.sizing import SIZED_LEVELS, HowToSize, sized
from zumbert.errors import ZumbertError
from zumbert.exchange.flowtables import area_sums, area_table, flow_tables
from zumbert.exchange.quantitytables import quantity_tables
from zumbert.exchange.tables import (
    finding_table,
    in_units,
    library_table,
    pipe_table,
    structure_table,
)


def listed(of):
    """Tables, in the units of the project."""
    project, facts = of.project, of.facts
    tables = [
        structure_table(facts),
        pipe_table(facts),
        finding_table(facts, of.findings),
        area_table(facts),
        *flow_tables(facts),
        *quantity_tables(facts, of.quantities),
        library_table(project, "types"),
        library_table(project, "sizes"),
    ]
    return {
        "tables": [plain(in_units(t, project.units)) for t in tables],
        "areas": plain(area_sums(facts)),
    }


def size_logs(of):
    """What sizing finds, by each way of levels."""
    project, facts = of.project, of.facts
    ways = [
        HowToSize(levels=how, order=how != "cover", chambers=how != "inverts")
        for how in SIZED_LEVELS
    ]
    out = []
    for how in ways:
        try:
            made = sized(project, facts, how)
        except ZumbertError as e:
            out.append(str(e))
        else:
            out.append({"log": plain(made.log), "changes": changes(project, made.project)})
    return out
