"""How a ramp reads: its lightness and chroma from end to end, its steps, its bands, and where it leaves sRGB."""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Bytes, Flags, Floats
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.eight_bits import to_eight_bits
from huvren.core.color.measures import Measure
from huvren.core.color.spaces import convert
from huvren.core.ramp.values import Ramp

SAMPLES = 512
FINE = 2048
"""Samples that bands are found with, and colors counted."""
CONTINUOUS_STEPS = 256
"""Steps that the evenness of a continuous ramp is measured over."""


@dataclass(frozen=True)
class Evenness:
    """The largest step over the mean step, by the ramp's measure: as computed, and after rounding to 8 bits.

    at : share where the largest one ends.
    """

    exact: float
    """Before rounding to 8 bits."""
    rounded: float
    """After it."""
    at: float
    mean: float
    """Of a step, by the ramp's measure."""


@dataclass(frozen=True)
class Banding:
    """colors : how many different 8-bit colors; widest : share of the length that its widest band takes, 0..1;
    edges : (m,) shares where a band that is wider than `WIDE` begins or ends."""

    colors: int
    widest: float
    edges: Floats


WIDE = 1 / 96
"""Share of the length from which a band of one color shows as a ring."""


@dataclass(frozen=True)
class Profile:
    """One lane, drawn and measured.

    rgba : (SAMPLES, 4) uint8, sRGB from left to right, each the middle of its piece. lightness, chroma : (SAMPLES,) of OKLCh.
    dip, rise : how far the lightness falls below, or climbs above, the straight line between its ends.
    outside : share of the samples outside sRGB; outside_spans : (k, 2) where they begin and end, 0..1; steps : (steps, 4) uint8
    of the baked steps, None for a continuous ramp.
    """

    rgba: Bytes
    lightness: Floats
    chroma: Floats
    dip: float
    rise: float
    outside: float
    outside_spans: Floats
    banding: Banding
    """What is seen of single steps."""
    evenness: Evenness
    """How alike the steps are."""
    steps: Bytes | None


def rgba_bytes(srgb: Floats, alpha: Floats) -> Bytes:
    """(n, 3) sRGB and (n,) alpha 0..1 → (n, 4) uint8, rounded half up.

    Parameters
    ----------
    srgb : Floats
        (n, 3) sRGB 0..1.
    alpha : Floats
        (n,) 0..1.

    Returns
    -------
    Bytes
        (n, 4) uint8.
    """
    return to_eight_bits(np.column_stack([srgb, alpha]))


def _steps(measure: Measure, srgb: Floats, alpha: Floats, closed: bool) -> Floats:
    if closed:
        srgb, alpha = np.concatenate([srgb, srgb[:1]]), np.concatenate([alpha, alpha[:1]])
    return measure.steps(srgb, alpha)


def _ratio(steps: Floats) -> float:
    mean = float(steps.mean()) if len(steps) else 0.0
    return float(steps.max()) / mean if mean > 1e-9 else 1.0


def evenness(ramp: Ramp, steps: int | None) -> Evenness:
    """Of so many steps, or of a continuous ramp."""
    shares = ramp.shares(steps or CONTINUOUS_STEPS)
    srgb, alpha, _ = ramp.shown(shares)
    return _evenness(ramp, shares, srgb, alpha)


def _evenness(ramp: Ramp, shares: Floats, srgb: Floats, alpha: Floats) -> Evenness:
    gaps = _steps(ramp.measure, srgb, alpha, ramp.closed)
    rounded = _steps(ramp.measure, rgba_bytes(srgb, alpha)[:, :3] / 255, alpha, ramp.closed)
    worst = int(np.argmax(gaps)) if len(gaps) else 0
    mean = float(gaps.mean()) if len(gaps) else 0.0
    return Evenness(_ratio(gaps), _ratio(rounded), float(shares[min(worst + 1, len(shares) - 1)]), mean)


def banding(rgba: Bytes) -> Banding:
    """Of (n, 4) uint8 colors along the ramp, each the middle of its piece.

    Parameters
    ----------
    rgba : Bytes
        (n, 4) uint8 along the ramp, each the middle of its piece.

    Returns
    -------
    Banding
        What is seen of single steps.
    """
    words = np.ascontiguousarray(rgba).view(np.uint32)[:, 0]
    turns = np.concatenate([[0], np.flatnonzero(np.diff(words)) + 1, [len(words)]])
    widths = np.diff(turns)
    wide = np.flatnonzero(widths > WIDE * len(words))
    edges = np.unique(np.concatenate([turns[wide], turns[wide + 1]]))
    inner = edges[(edges > 0) & (edges < len(words))]
    return Banding(len(np.unique(words)), float(widths.max() / len(words)), inner / len(words))


def _spans(outside: Flags) -> Floats:
    """(n,) bool → (k, 2) shares where runs of true begin and end."""
    padded = np.concatenate([[False], outside, [False]])
    turns = np.flatnonzero(padded[1:] != padded[:-1]).reshape(-1, 2)
    return np.asarray(turns / len(outside))


def profile(ramp: Ramp, steps: int | None = None) -> Profile:
    """Sample a ramp evenly from 0 to 1 and measure it; its evenness over so many steps, its bands over every shade."""
    middles = (np.arange(FINE) + 0.5) / FINE
    shares = ramp.shares(steps or CONTINUOUS_STEPS)
    # All of it at once: what a call costs besides its samples would count three times for every lane.
    every, alphas, all_inside = ramp.shown(np.concatenate([middles, [0.0, 1.0], shares]))
    srgb, inside = every[:FINE], all_inside[:FINE]
    fine = rgba_bytes(srgb, alphas[:FINE])
    pick = np.arange(SAMPLES) * (FINE // SAMPLES) + FINE // SAMPLES // 2
    oklab = convert(srgb[pick], "srgb", "oklab")
    ends = convert(every[FINE : FINE + 2], "srgb", "oklab")[:, 0]
    above = oklab[:, 0] - (ends[0] + middles[pick] * (ends[1] - ends[0]))
    return Profile(
        fine[pick], oklab[:, 0], np.hypot(oklab[:, 1], oklab[:, 2]), max(0.0, float(-above.min())), max(0.0, float(above.max())),
        float(1 - inside.mean()), _spans(~inside), banding(fine),
        _evenness(ramp, shares, every[FINE + 2 :], alphas[FINE + 2 :]),
        None if steps is None else rgba_bytes(every[FINE + 2 :], alphas[FINE + 2 :]),
    )  # fmt: skip


def stepped(ramp: Ramp, steps: int) -> Bytes:
    """(steps, 4) uint8 of the baked steps, as they are shown.

    Parameters
    ----------
    ramp : Ramp
        Any ramp.
    steps : int
        Number of steps.

    Returns
    -------
    Bytes
        (steps, 4) uint8 of the baked steps, as they are shown.
    """
    srgb, alpha, _ = ramp.shown(ramp.shares(steps))
    return rgba_bytes(srgb, alpha)


def difference(first: Ramp, second: Ramp) -> tuple[Floats, Floats]:
    """(SAMPLES,) shares, and the ΔEOK×100 between two ramps there, as they are shown; what is half clear counts half.

    Parameters
    ----------
    first : Ramp
        One ramp.
    second : Ramp
        Another.

    Returns
    -------
    tuple[Floats, Floats]
        (SAMPLES,) shares and (SAMPLES,) ΔEOK×100.
    """
    shares = (np.arange(SAMPLES) + 0.5) / SAMPLES
    looks = [(convert(srgb, "srgb", "oklab"), alpha) for srgb, alpha, _ in (first.shown(shares), second.shown(shares))]
    (one, alpha), (other, beta) = looks
    return shares, np.linalg.norm(one - other, axis=1) * DELTA_SCALE * np.minimum(alpha, beta)
