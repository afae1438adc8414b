"""Friction: velocity at a hydraulic radius and slope by Manning or by Colebrook and White, and
what follows for full pipes.
"""

from math import inf, log10, sqrt
from typing import Literal, NamedTuple

GRAVITY = 9.80665  # m/s²
VISCOSITY = 1.31e-6  # m²/s, of water at 10 °C
FrictionFormula = Literal["manning", "colebrook-white"]


class Roughness(NamedTuple):
    """How rough a wall is, for both formulas."""

    n: float  # Manning's n
    ks: float  # m, of Colebrook and White


def velocity_at(formula: FrictionFormula, radius: float, slope: float, rough: Roughness) -> float:
    """Velocity (m/s) at a hydraulic radius (m) and a friction slope (fraction); 0 where it does not
    fall.

    Manning: R^(2/3) S^(1/2) / n. Colebrook and White with D = 4 R: -2 v log10(ks/(3.7 D) + 2.51
    nu/(D v)), v = sqrt(2 g D S).
    """
    if slope <= 0 or radius <= 0:
        return 0.0
    if formula == "manning":
        return float(radius ** (2 / 3) * sqrt(slope) / rough.n)
    d = 4 * radius
    v = sqrt(2 * GRAVITY * d * slope)
    return max(0.0, -2 * v * log10(rough.ks / (3.7 * d) + 2.51 * VISCOSITY / (d * v)))


def full_velocity(
    formula: FrictionFormula, inside: float, slope: float, n: float, ks: float
) -> float:
    """Velocity (m/s) of a round pipe that runs full: inside diameter and ks in m, slope as a
    fraction; 0 where it does not fall.
    """
    return velocity_at(formula, inside / 4, slope, Roughness(n, ks))


def slope_for(
    formula: FrictionFormula, inside: float, velocity: float, n: float, ks: float
) -> float:
    """The slope (fraction) at which a round pipe runs full with a velocity (m/s): the inverse of
    `full_velocity`, to rounding.
    """
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
        low, high = (
            (mid, high) if full_velocity(formula, inside, mid, n, ks) < velocity else (low, mid)
        )
    return high
