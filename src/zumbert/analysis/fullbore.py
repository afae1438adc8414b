"""Velocity of a pipe that runs full, by its slope, and the slope that gives a velocity."""

from math import inf, log10, sqrt

from zumbert.model.pipe import Bore, Pipe
from zumbert.model.project import Formula, Project

GRAVITY = 9.80665  # m/s²
VISCOSITY = 1.31e-6  # m²/s, of water at 10 °C
ROUGH = (0.013, 0.0006)  # n, and ks in m, of a size of no catalogue: those of concrete


def roughness(project: Project, pipe: Pipe) -> tuple[float, float]:
    """Manning's n of a pipe, and its ks (m)."""
    if isinstance(pipe.size, Bore):
        return ROUGH
    size = project.sizes[pipe.size]
    return size.n, size.ks


def full_velocity(formula: Formula, inside: float, slope: float, n: float, ks: float) -> float:
    """Velocity (m/s) of a round pipe that runs full: inside diameter and ks in m, slope as a fraction; 0 where it does not fall.

    Manning: V = (D/4)^(2/3) S^(1/2) / n. Colebrook and White: V = -2 v log10(ks/(3.7 D) + 2.51 nu/(D v)), v = sqrt(2 g D S).
    """
    if slope <= 0:
        return 0.0
    if formula == "manning":
        return float((inside / 4) ** (2 / 3) * sqrt(slope) / n)
    v = sqrt(2 * GRAVITY * inside * slope)
    return max(0.0, -2 * v * log10(ks / (3.7 * inside) + 2.51 * VISCOSITY / (inside * v)))


def slope_for(formula: Formula, inside: float, velocity: float, n: float, ks: float) -> float:
    """The slope (fraction) at which a pipe runs full with a velocity (m/s): the inverse of `full_velocity`, to rounding."""
    if velocity <= 0:
        return 0.0
    if formula == "manning":
        return float((velocity * n / (inside / 4) ** (2 / 3)) ** 2)
    low, high = 0.0, 1.0
    while full_velocity(formula, inside, high, n, ks) < velocity:
        low, high = high, high * 4
        if high == inf:
            return inf
    while high - low > 1e-15 * high:  # velocity rises with slope
        mid = (low + high) / 2
        if mid in (low, high):
            break
        low, high = (mid, high) if full_velocity(formula, inside, mid, n, ks) < velocity else (low, mid)
    return high
