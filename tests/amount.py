"""How much is tried: in a usual run, or at length by `./test --long`."""

import os

LONG = os.environ.get("ZUMBERT_LONG") == "1"


def times(usual, long=None):
    """How often something is tried: `usual`, or `long` (ten times that where it is not given) at
    length.
    """
    return (usual * 10 if long is None else long) if LONG else usual
