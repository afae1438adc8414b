"""GeoJSON of structures and pipes in true coordinates (RFC 7946, but for its one coordinate
system: the project's is named).
"""

from typing import Any

import msgspec

from zumbert.delivery.dxf.model import pipe_line
from zumbert.delivery.job import Job
from zumbert.exchange.tables import columns_of
from zumbert.fields import PIPE_FIELDS, STRUCTURE_FIELDS, Field


def geojson(job: Job) -> bytes:
    """A feature a structure and pipe with its values in SI; pipes are lines at their inverts. The
    EPSG code is written down, and nothing is reprojected.
    """
    facts, p = job.facts, job.project
    features = [
        _feature(
            "Point",
            [f.place.x, f.place.y, *([] if f.place.rim is None else [f.place.rim])],
            "structure",
            k,
            values_of(job, f, STRUCTURE_FIELDS),
        )
        for k, f in ((k, facts.structures[k]) for k in p.structures)
        if f.place.x is not None
    ]
    features += [
        _feature("LineString", pipe_line(f).tolist(), "pipe", k, values_of(job, f, PIPE_FIELDS))
        for k, f in ((k, facts.pipes[k]) for k in p.pipes)
        if f.span.up.x is not None and f.span.down.x is not None
    ]
    document: dict[str, Any] = {"type": "FeatureCollection", "name": p.name}
    if p.delivery.epsg is not None:
        document["crs"] = {
            "type": "name",
            "properties": {"name": f"urn:ogc:def:crs:EPSG::{p.delivery.epsg}"},
        }
    return (
        msgspec.json.format(msgspec.json.encode({**document, "features": features}), indent=1)
        + b"\n"
    )


def _feature(
    shape: str, coordinates: Any, kind: str, key: str, values: dict[str, Any]
) -> dict[str, Any]:
    return {
        "type": "Feature",
        "id": key,
        "geometry": {"type": shape, "coordinates": coordinates},
        "properties": {"kind": kind, **values},
    }


def values_of(job: Job, of: Any, fields: dict[str, Field]) -> dict[str, Any]:
    """The values of a structure or pipe that schedules have, by the names that the command line
    uses; in SI.
    """
    out: dict[str, Any] = {}
    for f in columns_of(fields):
        value = f.read(job.facts, of)
        if f.words is not None and value is not None:
            value = f.words(job.facts, value)
        out[f.json or f.key] = value
    return out
