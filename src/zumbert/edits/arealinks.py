"""The links of areas, when what they name is deleted."""

from collections.abc import Container

from msgspec.structs import replace

from zumbert.analysis.areas import AreaFacts
from zumbert.model.area import Area
from zumbert.model.ids import StructureId


def without_structures(f: AreaFacts, gone: Container[StructureId]) -> Area:
    """An area without structures that go: it drains nowhere then, and a stretch of a road that
    ended there keeps its shape.
    """
    area, side = f.area, f.area.along
    if area.structure is not None and area.structure in gone:
        area = replace(area, structure=None)
    if side is not None and any(k is not None and k in gone for k in (side.first, side.last)):
        ring = () if f.ring is None else tuple((float(x), float(y)) for x, y in f.ring.tolist())
        area = replace(area, along=None, ring=ring, size=None if ring else 0.01)
    return area
