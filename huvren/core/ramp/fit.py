"""A ramp read from samples, such as a line drawn across a picture: as few stops as keep within a tolerance."""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.eight_bits import to_eight_bits
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.ramp.fewest import freely
from huvren.core.ramp.plan import PlanStop, RampPlan
from huvren.core.ramp.stops import MOST_STOPS

SAMPLES = 193
"""Samples along a line, for the exact search; its time grows with their cube."""
SIDE = 2
"""Pixels to both sides of the line that are averaged, so that grain makes no stops."""


@dataclass(frozen=True)
class Fit:
    """plan : stops in OKLab; samples : (n, 4) uint8 read; errors : (n,) ΔEOK×100 between them and the ramp;
    fewest : whether no fewer stops would do."""

    plan: RampPlan
    samples: Bytes
    errors: Floats
    fewest: bool

    @property
    def worst(self) -> float:
        return float(self.errors.max())


CLEAR = 1e-3
"""Alpha below which a color is not known."""
OUTSIDE = 1.0
"""Shares of a picture by which a line may lie outside of it."""


def along(rgba: Bytes, line: tuple[float, float, float, float]) -> Floats:
    """(h, w, 4) uint8 and a line x0, y0, x1, y1 in shares 0..1 of the picture → (SAMPLES, 4) linear-light means across the line,
    alpha 0..1.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    line : tuple[float, float, float, float]
        x0, y0, x1, y1 in shares 0..1 of the picture.

    Returns
    -------
    Floats
        (SAMPLES, 4) linear light and alpha 0..1.

    Raises
    ------
    BadInput
        For a line without length.
    """
    height, width = rgba.shape[:2]
    if any(not -OUTSIDE <= place <= 1 + OUTSIDE for place in line):
        raise BadInput("That line lies outside the picture. Draw it over the picture.")
    ends = np.array([[line[0] * (width - 1), line[1] * (height - 1)], [line[2] * (width - 1), line[3] * (height - 1)]])
    way = ends[1] - ends[0]
    length = float(np.linalg.norm(way))
    if length < 1:
        raise BadInput("That line has no length. Draw it from one color to another.")
    across = np.array([-way[1], way[0]]) / length
    shares = np.linspace(0, 1, SAMPLES)
    reach = np.arange(-SIDE, SIDE + 1) if min(height, width) > 2 * SIDE else np.zeros(1)
    points = ends[0] + shares[:, None, None] * way + reach[None, :, None] * across
    columns = np.clip(np.rint(points[..., 0]), 0, width - 1).astype(int)
    rows = np.clip(np.rint(points[..., 1]), 0, height - 1).astype(int)
    found = rgba[rows, columns] / 255
    alpha = found[..., 3:]
    weights = np.where(alpha.sum(axis=1, keepdims=True) > 0, alpha, 1.0)
    linear = convert(found[..., :3], "srgb", "srgb-linear")
    mean = (linear * weights).sum(axis=1) / weights.sum(axis=1)
    return np.column_stack([mean, alpha.mean(axis=(1, 2))])


def fit(samples: Floats, tolerance: float) -> Fit:
    """(n, 4) linear-light samples with alpha, n ≤ 257 → the ramp of fewest stops within `tolerance` ΔEOK×100 of every sample.

    Straight through OKLab between stops at samples, whose colors are free: a line that is straight but for its grain is two stops
    (`fewest.freely`). Where it takes more than 64 stops, splitting at the worst sample gives 64.

    Parameters
    ----------
    samples : Floats
        (n, 4) linear light and alpha, n ≤ 257.
    tolerance : float
        ΔEOK×100.

    Returns
    -------
    Fit
        The ramp and how near it comes.

    Raises
    ------
    BadInput
        Where there are fewer than two samples.
    """
    if not 0 < tolerance <= 100:
        raise BadInput(f"A tolerance of {tolerance:g} is outside 0 to 100.")
    oklab = convert(samples[:, :3], "srgb-linear", "oklab")
    rows = np.column_stack([oklab * samples[:, 3:], samples[:, 3]])
    shares = np.linspace(0, 1, len(rows))
    kept, values, is_fewest = freely(rows, shares, tolerance / DELTA_SCALE, MOST_STOPS)
    alphas = np.clip(values[:, 3], 0, 1)
    # What is clear has the color that was read.
    is_clear = alphas < CLEAR
    colors = np.where(is_clear[:, None], oklab[kept], values[:, :3] / np.where(is_clear, 1, alphas)[:, None])
    stops = tuple(
        PlanStop(Color("oklab", (row[0], row[1], row[2]), alpha), position=float(shares[place]))
        for place, row, alpha in zip(kept, colors.tolist(), alphas.tolist(), strict=True)
    )
    plan = RampPlan(stops, None)
    settled = np.column_stack([colors * alphas[:, None], alphas])
    drawn = np.column_stack([np.interp(shares, shares[kept], settled[:, channel]) for channel in range(4)])
    errors = np.linalg.norm(drawn - rows, axis=1) * DELTA_SCALE
    srgb = convert(np.clip(samples[:, :3], 0, None), "srgb-linear", "srgb")
    shown = to_eight_bits(np.column_stack([srgb, samples[:, 3]]))
    return Fit(plan, shown, errors, is_fewest)
