"""The boundary of all readers: a file that makes one stumble ends with a sentence about the
file.
"""

from collections.abc import Callable
from functools import wraps
from pathlib import Path
from typing import ParamSpec, TypeVar

from zumbert.errors import ReadError, ZumbertError
from zumbert.log import logger

P = ParamSpec("P")
T = TypeVar("T")


def reader(read: Callable[P, T]) -> Callable[P, T]:
    """Marks a function that reads a file. An error that it did not foresee is logged, and raised as
    a ReadError that names the file: most such files are damaged, and the user can tell which one it
    was.
    """

    @wraps(read)
    def reading(*args: P.args, **kwargs: P.kwargs) -> T:
        try:
            return read(*args, **kwargs)
        except (ZumbertError, OSError):
            raise
        except Exception as e:
            file = next(
                (a for a in (*args, *kwargs.values()) if isinstance(a, (str, Path))), "This file"
            )
            logger.exception("%s stumbled over %s", read.__name__, file)
            raise ReadError(
                f"{file} could not be read ({type(e).__name__}): it may be damaged, so write it "
                "again where it was made. "
                "The log has the details."
            ) from e

    return reading
