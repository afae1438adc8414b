"""The clearance in space between a pipe and a service, or another pipe, over their whole
lengths.
"""

from itertools import pairwise

import numpy as np
from msgspec.structs import replace

from zumbert.analysis.pipes import PipeFacts
from zumbert.geometry.elements import Array
from zumbert.geometry.space import between_pieces
from zumbert.model.service import ServiceLine


def axis(f: PipeFacts) -> Array:
    """The axis of a pipe from inner wall to inner wall, as straight pieces (n, 2, 3) of x, y and
    level (m).

    Those of a curved pipe leave its arc by 5 mm at most.
    """
    a, b = f.span.reach_up, f.span.length - f.span.reach_down
    if b <= a:
        a, b = 0.0, f.span.length
    s = np.array([a, *(v for v in f.span.chords().tolist() if a < v < b), b])
    return _pieces([(*f.span.point(v), f.invert(v) + f.inside / 2) for v in s.tolist()])


def moved(f: PipeFacts, up: float, down: float) -> PipeFacts:
    """A pipe with its ends raised by so many m, to ask for its axis; its cover stays as it was."""
    p = replace(f.pipe, invert_up=f.pipe.invert_up + up, invert_down=f.pipe.invert_down + down)
    return replace(
        f, pipe=p, slope=(p.invert_up - p.invert_down) / f.basis if f.basis > 1e-9 else 0.0
    )


def service_axis(service: ServiceLine) -> Array:
    """The axis of a service in the same way; no pieces where a level is not known."""
    known = [(p[0], p[1], p[2]) for p in service.points if p[2] is not None]
    return _pieces(known) if len(known) == len(service.points) > 1 else np.zeros((0, 2, 3))


def _pieces(places: list[tuple[float, float, float]]) -> Array:
    return np.array(list(pairwise(places)), float).reshape(-1, 2, 3)


def clear_of_service(f: PipeFacts, service: ServiceLine) -> float | None:
    """The least distance (m) between the axes of a pipe and a service, less both outside radii: at
    most 0 where they clash.

    None where a level of the service is not known, or a pipe has no place.
    """
    return _clear(axis(f), service_axis(service), f.inside / 2 + f.wall + service.size / 2)


def clear_of_pipe(f: PipeFacts, g: PipeFacts) -> float | None:
    """The least distance (m) between two pipes, outside to outside."""
    return _clear(axis(f), axis(g), f.inside / 2 + f.wall + g.inside / 2 + g.wall)


def _clear(a: Array, b: Array, radii: float) -> float | None:
    if not len(a) or not len(b):
        return None
    least = float(between_pieces(a, b).min())
    return least - radii if least == least else None
