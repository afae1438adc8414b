"""How rough a pipe is, and its velocity when it runs full."""

from zumbert.hydraulics.resistance import Roughness
from zumbert.model.pipe import Bore, Pipe
from zumbert.model.project import Project

ROUGH = Roughness(0.013, 0.0006)  # of a size of no catalogue: that of concrete


def roughness(project: Project, pipe: Pipe) -> Roughness:
    """Manning's n of a pipe, and its ks (m)."""
    if isinstance(pipe.size, Bore):
        return ROUGH
    size = project.sizes[pipe.size]
    return Roughness(size.n, size.ks)
