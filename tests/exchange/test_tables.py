"""Tables of the library: decimals by what stands in a column."""

from msgspec.structs import replace

from zumbert.exchange.tables import library_table
from zumbert.model.project import new_project


def decimals(project):
    return {c.head: c.decimals for c in library_table(project, "types").columns}


def test_a_column_shows_its_values_whole():
    p = new_project("x")
    assert (decimals(p)["Inside"], decimals(p)["Depth to"]) == (0, 2)
    kind = next(iter(p.types.values()))
    odd = replace(p, types={**p.types, kind.key: replace(kind, inside=1.2345)})
    assert decimals(odd)["Inside"] == 1
