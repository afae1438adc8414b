"""Depths of flow: normal and critical, for sections of any shape, and fast for round pipes."""

from functools import cache
from math import log, pi, sin
from typing import NamedTuple

from zumbert.hydraulics.resistance import GRAVITY, FrictionFormula, Roughness, velocity_at
from zumbert.hydraulics.sections import FlowSection

STEPS = 4096  # of the table that a round pipe's angle is looked up in
CLOSE = 1e-14  # relative: where Newton's steps end
NEAR = 3e-7  # radians: the step after one so small is lost in rounding
FIVE, TWO, TWICE, LOG_TURN = 5 / 3, 2 / 3, 10 / 3, log(2 * pi)


def flow_at(
    formula: FrictionFormula, section: FlowSection, y: float, slope: float, rough: Roughness
) -> float:
    """Flow (m³/s) at a depth (m) and a slope (fraction)."""
    wet = section.perimeter(y)
    if wet <= 0:
        return 0.0
    area = section.area(y)
    return area * velocity_at(formula, area / wet, slope, rough)


def normal_depth(
    formula: FrictionFormula, section: FlowSection, flow: float, slope: float, rough: Roughness
) -> float | None:
    """The depth (m) at which a flow (m³/s) runs evenly, the lower of two; None where the section
    does not take it.
    """
    from scipy.optimize import brentq, minimize_scalar  # takes a while to import

    if flow <= 0:
        return 0.0
    if slope <= 0:
        return None

    def short(y: float) -> float:
        return flow_at(formula, section, y, slope, rough) - flow

    if section.height is None:
        high = 1.0
        while short(high) < 0:
            high *= 2
    else:  # the greatest flow of a closed section runs below its top
        tall = section.height
        found = minimize_scalar(
            lambda y: -short(y),
            bounds=(0.6 * tall, tall * (1 - 1e-12)),
            method="bounded",
            options={"xatol": 1e-10 * tall},
        )
        high = float(found.x)
        if short(high) < 0:
            return None
    return float(brentq(short, 0.0, high, xtol=1e-15, rtol=1e-14, maxiter=500))


def critical_depth(section: FlowSection, flow: float) -> float:
    """The depth (m) at which Q² T = g A³; the height of a closed section where it is nowhere so
    deep.
    """
    from scipy.optimize import brentq

    if flow <= 0:
        return 0.0

    def short(y: float) -> float:  # as a length, so that it is even in scale
        return section.area(y) ** 3 * GRAVITY - flow**2 * section.width(y)

    high = section.height
    if high is None:
        high = 1.0
        while short(high) < 0:
            high *= 2
    else:
        high *= 1 - 1e-15
        if short(high) < 0:
            return section.height or 0.0
    low = high
    while short(low) >= 0:
        low /= 2
        if low < 1e-12 * high:
            return low
    return float(brentq(short, low, high, xtol=1e-15, rtol=1e-14, maxiter=500))


# -- round pipes -----------------------------------------------------------------------------------


class RoundFlow(NamedTuple):
    """How a flow runs in a round pipe."""

    depth_ratio: float  # depth over diameter; 1: it runs full
    velocity: float  # m/s


@cache
def _table() -> list[float]:
    """Angles at even steps of share^(3/16), against which the angle is smooth down to 0; made
    when one is first asked for.
    """
    out = [0.0, _newton(_wanted(1.0 / STEPS), 0.3)]
    for i in range(2, STEPS + 1):
        out.append(_newton(_wanted(i / STEPS), min(4.6, 2 * out[-1] - out[-2])))
    return out


def _wanted(x: float) -> float:
    """The logarithm of flow that is sought, 5/3 ln(t - sin t) - 2/3 ln t, at a step of the
    table.
    """
    return 16 / 3 * log(x) + LOG_TURN


def _newton(want: float, t: float) -> float:
    """The angle by Newton's steps from one that is near."""
    for _ in range(60):
        cut = _cut(t)
        step = (5 / 3 * log(cut) - 2 / 3 * log(t) - want) / (
            10 / 3 * sin(t / 2) ** 2 / cut - 2 / 3 / t
        )
        t -= max(-0.3 * t, min(0.3 * t, step))
        if abs(step) < CLOSE * t:
            break
    return t


def manning_angle(share: float) -> float:
    """The angle at the centre (radians) at which a round pipe carries a share (0 to 1) of its full
    flow by Manning: relative error below 1e-11.
    """
    if share <= 0:
        return 0.0
    table, x = _table(), float(share**0.1875 * STEPS)
    i = int(x) if x < STEPS else STEPS - 1
    t = table[i] + (x - i) * (table[i + 1] - table[i])
    want = log(share) + LOG_TURN
    if i < 2:
        return _newton(want, max(t, 1e-6))
    for _ in range(2):  # the table is near: one step gives all digits, save at its lower end
        half = sin(t / 2)
        cut = t - sin(t)
        step = (FIVE * log(cut) - TWO * log(t) - want) / (TWICE * half * half / cut - TWO / t)
        t -= step
        if -NEAR < step < NEAR:
            break
    return t


def _cos(t: float) -> float:
    return 1 - 2 * sin(t / 2) ** 2


DRY = 1e-12  # m³/s: a drop in half a day


def round_flow(
    formula: FrictionFormula,
    inside: float,
    slope: float,
    rough: Roughness,
    flow: float,
    full: float,
) -> RoundFlow:
    """How a flow (m³/s) runs in a round pipe of an inside diameter (m) and a slope; `full` is its
    full-bore velocity (m/s).

    It runs full from its full-bore flow on, at the velocity that the flow has there; so does one
    that does not fall. Less than `DRY` counts as no flow.
    """
    area = pi * inside * inside / 4
    capacity = full * area
    if flow < DRY:
        return RoundFlow(0.0, 0.0)
    if flow >= capacity:
        return RoundFlow(1.0, flow / area)
    t = manning_angle(flow / capacity)
    if formula != "manning":
        t = _by_colebrook(inside, slope, rough, flow, t)
    return RoundFlow(sin(t / 4) ** 2, flow / (inside * inside / 8 * _cut(t)))


def _cut(t: float) -> float:
    """T - sin t, right for small angles too."""
    return t - sin(t) if t > 0.02 else t**3 / 6 * (1 - t * t / 20 * (1 - t * t / 42))


def _by_colebrook(inside: float, slope: float, rough: Roughness, flow: float, t: float) -> float:
    """The angle by Colebrook and White, by secant steps on ln Q against ln t from the one of
    Manning.
    """
    before: tuple[float, float] | None = None  # ln t and ln Q of the step before
    for _ in range(40):
        cut = _cut(t)
        now = (
            inside
            * inside
            / 8
            * cut
            * velocity_at("colebrook-white", inside / 4 * cut / t, slope, rough)
        )
        if now <= 0:  # rougher than it is deep: the formula says nothing there
            t, before = t * 1.5, None
            continue
        at = log(t), log(now)
        grow = t * (1 - _cos(t)) / cut  # of the area; the velocity goes with about R^0.6
        rate = (
            grow + 0.62 * (grow - 1)
            if before is None or at[0] == before[0]
            else (at[1] - before[1]) / (at[0] - before[0])
        )
        step = (log(flow) - at[1]) / rate if rate > 0 else 0.1
        before = at
        t *= 1 + max(-0.3, min(0.3, step))
        if abs(step) < CLOSE * 10:
            break
    return float(t)
