"""A triangulated surface and its role."""

from typing import Any, Literal

from msgspec import Struct

from zumbert.geometry.placing import Placing
from zumbert.model.ids import SurfaceId

Role = Literal["existing", "design", "formation", "rock", "none"]
ROLE_WORDS: tuple[tuple[Role, str], ...] = (  # what each is called
    ("existing", "existing ground"), ("design", "design surface"), ("formation", "formation"),
    ("rock", "rock"), ("none", "no role"),
)  # fmt: skip


class Surface(Struct, frozen=True, kw_only=True, eq=False, dict=True):
    """Vertices (n, 3) float64 in m and faces (m, 3) int32; compared by identity, since surfaces
    are large.
    """

    id: SurfaceId
    name: str
    role: Role
    shown: bool = True
    strength: float = 1.0  # 0 to 1: how strongly it is drawn
    placing: Placing = Placing()  # from the source's own places (m) to those of the project
    vertices: Any  # NDArray (n, 3): x, y, level
    faces: Any  # NDArray (m, 3): vertex numbers
