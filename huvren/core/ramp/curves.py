"""Curves: how a ramp runs through its stops. All but the straight one are cubic pieces with a slope at every stop."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.registry import Registry

Slopes = Callable[[Floats, Floats], Floats]


@dataclass(frozen=True)
class Curve:
    """A curve. `slopes` takes (k,) rising places and (k, c) values, k ≥ 3, and gives (k, c) slopes; None for straight pieces.

    stays : whether each piece keeps within the values of its two stops.
    """

    id: str
    """By which it is named in documents, addresses and commands."""
    label: str
    """As menus call it."""
    use: str
    """What it is for, in one sentence."""
    slopes: Slopes | None = None
    """At the knots; None where pieces are straight."""
    stays: bool = True


CURVES: Registry[Curve] = Registry("curve")


def _end_slope(h0: float, h1: float, d0: Floats, d1: Floats) -> Floats:
    """Three points, one-sided, kept in shape (Fritsch and Butland 1984; Moler 2004, “Numerical Computing”, §3.6)."""
    slope = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1)
    wrong_way = np.sign(slope) != np.sign(d0)
    too_steep = (np.sign(d0) != np.sign(d1)) & (np.abs(slope) > 3 * np.abs(d0))
    return np.asarray(np.where(wrong_way, 0.0, np.where(too_steep, 3 * d0, slope)))


def monotone_slopes(places: Floats, values: Floats) -> Floats:
    """Weighted harmonic means of the neighboring rises, 0 where the direction turns (Fritsch and Butland 1984).

    Parameters
    ----------
    places : Floats
        (k,) knots, rising.
    values : Floats
        (k, c) at the knots.

    Returns
    -------
    Floats
        (k, c) slopes.
    """
    widths = np.diff(places)[:, None]
    rises = np.diff(values, axis=0) / widths
    slopes = np.zeros_like(values)
    before, after = rises[:-1], rises[1:]
    first, second = 2 * widths[1:] + widths[:-1], widths[1:] + 2 * widths[:-1]
    goes_on = before * after > 0
    safe_before, safe_after = np.where(goes_on, before, 1.0), np.where(goes_on, after, 1.0)
    slopes[1:-1] = np.where(goes_on, (first + second) / (first / safe_before + second / safe_after), 0.0)
    slopes[0] = _end_slope(float(widths[0, 0]), float(widths[1, 0]), rises[0], rises[1])
    slopes[-1] = _end_slope(float(widths[-1, 0]), float(widths[-2, 0]), rises[-1], rises[-2])
    return slopes


def natural_slopes(places: Floats, values: Floats) -> Floats:
    """Slopes of the cubic spline whose second derivative is 0 at both ends and continuous in between.

    Parameters
    ----------
    places : Floats
        (k,) knots, rising.
    values : Floats
        (k, c) at the knots.

    Returns
    -------
    Floats
        (k, c) slopes.
    """
    count = len(places)
    widths = np.diff(places)
    rises = np.diff(values, axis=0) / widths[:, None]
    system = np.zeros((count, count))
    wanted = np.empty_like(values)
    inner = np.arange(1, count - 1)
    system[inner, inner - 1], system[inner, inner + 1] = widths[1:], widths[:-1]
    system[inner, inner] = 2 * (widths[:-1] + widths[1:])
    wanted[1:-1] = 3 * (widths[1:, None] * rises[:-1] + widths[:-1, None] * rises[1:])
    system[0, :2], wanted[0] = (2, 1), 3 * rises[0]
    system[-1, -2:], wanted[-1] = (1, 2), 3 * rises[-1]
    return np.asarray(np.linalg.solve(system, wanted))


CURVES.register(Curve("straight", "straight", "From stop to stop by the straight way, with a corner at each."))
CURVES.register(
    Curve("monotone", "rounded", "Rounds the corners and never goes beyond the colors of two neighboring stops.", monotone_slopes)
)
CURVES.register(
    Curve(
        "natural", "flowing", "The smoothest way through all stops; it may swing a little beyond them.", natural_slopes, stays=False
    )
)


def slopes_of(curve: Curve, places: Floats, values: Floats, closed: bool) -> Floats:
    """(k, c) slopes at the knots of one unbroken piece, 2 knots or more. closed : the last knot is the first one again.

    Parameters
    ----------
    curve : Curve
        How the values bend between knots.
    places : Floats
        (k,) knots, rising.
    values : Floats
        (k, c) at the knots.
    closed : bool
        Whether the last knot is the first one again.

    Returns
    -------
    Floats
        (k, c) slopes.

    Raises
    ------
    ValueError
        For a curve that is not known.
    """
    if curve.slopes is None:
        raise ValueError("A straight curve has no slopes.")
    if closed and len(places) > 2:
        # One round before and one behind: what is far away no longer matters.
        span, turn = places[-1] - places[0], values[-1] - values[0]
        around = np.concatenate([places[:-1] - span, places, places[1:] + span])
        rounds = np.concatenate([values[:-1] - turn, values, values[1:] + turn])
        found = curve.slopes(around, rounds)[len(places) - 1 : 2 * len(places) - 1]
        found[-1] = found[0]
        return found
    if len(places) == 2:
        return np.repeat(np.diff(values, axis=0) / np.diff(places)[:, None], 2, axis=0)
    return curve.slopes(places, values)


def hermite(left: Floats, right: Floats, slope_left: Floats, slope_right: Floats, width: Floats, t: Floats) -> Floats:
    """Cubic pieces: (n, c) values and slopes at both ends, (n,) widths and (n,) shares 0..1 → (n, c).

    Parameters
    ----------
    left : Floats
        (n, c) values before.
    right : Floats
        (n, c) values behind.
    slope_left : Floats
        (n, c) slopes before.
    slope_right : Floats
        (n, c) slopes behind.
    width : Floats
        (n,) from knot to knot.
    t : Floats
        (n,) shares 0..1 between.

    Returns
    -------
    Floats
        (n, c).
    """
    u, h = t[:, None], width[:, None]
    return np.asarray(
        (1 + 2 * u) * (1 - u) ** 2 * left
        + u * (1 - u) ** 2 * h * slope_left
        + u**2 * (3 - 2 * u) * right
        + u**2 * (u - 1) * h * slope_right
    )
