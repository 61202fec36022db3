"""Stops in plain sRGB that stand in for a ramp where its own way, curve or spacing cannot be said."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.spaces import convert
from huvren.core.ramp.fewest import by_splitting
from huvren.core.ramp.values import Ramp

SAMPLES = 1025
CLOSE_ENOUGH = 1.0
MOST_BAKED = 257
JUMP = 0.02
"""OKLab difference between neighboring samples that counts as a hard edge where the ramp as a whole runs more slowly."""


@dataclass(frozen=True)
class Baked:
    """places : (k,) 0..1, twice the same at a hard edge; srgb : (k, 3) 0..1; alpha : (k,); worst : largest ΔEOK×100 anywhere."""

    places: Floats
    srgb: Floats
    alpha: Floats
    worst: float

    def at(self, shares: Floats) -> Floats:
        """(n,) shares → (n, 4) sRGB and alpha 0..1, straight in between as programs draw it: alpha premultiplied."""
        weighed = self.srgb * self.alpha[:, None]
        after = np.clip(np.searchsorted(self.places, shares, side="right"), 1, len(self.places) - 1)
        begin, end = self.places[after - 1], self.places[after]
        part = np.clip(np.where(end > begin, (shares - begin) / np.where(end > begin, end - begin, 1.0), 1.0), 0, 1)[:, None]
        alpha = self.alpha[after - 1, None] * (1 - part) + self.alpha[after, None] * part
        mixed = weighed[after - 1] * (1 - part) + weighed[after] * part
        return np.column_stack([np.clip(mixed / np.where(alpha > 0, alpha, 1.0), 0, 1), alpha])


def sampled(ramp: Ramp, count: int) -> Baked:
    """Even samples from end to end, rounded to 8 bits."""
    shares = np.linspace(0, 1, count)
    srgb, alpha, _ = ramp.shown(shares)
    return Baked(shares, np.floor(srgb * 255 + 0.5) / 255, np.floor(alpha * 255 + 0.5) / 255, 0.0)


def stepped(ramp: Ramp, steps: int) -> Baked:
    """Flat bands with hard edges."""
    srgb, alpha, _ = ramp.shown(ramp.shares(steps))
    edges = np.linspace(0, 1, steps + 1)
    places = np.repeat(edges, 2)[1:-1]
    return Baked(places, np.repeat(srgb, 2, axis=0), np.repeat(alpha, 2), 0.0)


def bake(ramp: Ramp, tolerance: float = CLOSE_ENOUGH, most: int = MOST_BAKED) -> Baked:
    """Few stops that a program which interpolates in sRGB shows within `tolerance` ΔEOK×100 of the ramp, or the best `most`."""
    shares = np.linspace(0, 1, SAMPLES)
    srgb, alpha, _ = ramp.shown(shares)
    looks = np.column_stack([convert(srgb, "srgb", "oklab") * alpha[:, None], alpha])
    moves = np.linalg.norm(np.diff(looks, axis=0), axis=1)
    edges = np.flatnonzero((moves > JUMP) & (moves > 8 * np.median(moves)))
    pinned = tuple(int(side) for edge in edges for side in (edge, edge + 1))[: most - 2]
    rows = np.column_stack([srgb * alpha[:, None], alpha])
    kept = by_splitting(rows, shares, tolerance / DELTA_SCALE, most, pinned)
    oklab = convert(srgb, "srgb", "oklab")
    while True:
        got = np.column_stack([np.interp(shares, shares[kept], rows[kept, channel]) for channel in range(4)])
        shown = np.clip(got[:, :3] / np.where(got[:, 3:] > 0, got[:, 3:], 1), 0, 1)
        gaps = np.linalg.norm(convert(shown, "srgb", "oklab") - oklab, axis=1) * np.minimum(alpha, got[:, 3]) * DELTA_SCALE
        gaps[kept] = 0
        if gaps.max() <= tolerance or len(kept) >= most:
            break
        # Near black a little sRGB is much to the eye: the worst place of each stretch that is too far off becomes a stop.
        worst_of = [begin + 1 + int(np.argmax(gaps[begin + 1 : end])) for begin, end in pairwise(kept) if end - begin > 1]
        wrong = sorted((place for place in worst_of if gaps[place] > tolerance), key=lambda place: -gaps[place])
        kept = sorted({*kept, *wrong[: most - len(kept)]})
    worst = float(gaps.max())
    places = shares[kept]
    for edge in edges.tolist():
        if edge in kept and edge + 1 in kept:
            at = kept.index(edge)
            places[at : at + 2] = (shares[edge] + shares[edge + 1]) / 2
    places[0], places[-1] = 0, 1
    return Baked(places, srgb[kept], alpha[kept], worst)
