"""Stops in plain sRGB that stand in for a ramp where its own way, curve or spacing cannot be said."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from huvren.core.color.arrays import Floats
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.color.eight_bits import shown_shares
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.ramp.fewest import by_splitting
from huvren.core.ramp.spacings import looks
from huvren.core.ramp.values import Ramp

SAMPLES = 1025
CLOSE_ENOUGH = 1.0
MOST_BAKED = 257
JUMP = 0.02
"""OKLab difference between neighboring samples that may be a hard edge where the ramp as a whole runs more slowly."""
HALVINGS = 20
CLEAR = 1 / 512
"""Alpha up to which nothing is seen in 8 bits."""


@dataclass(frozen=True)
class Baked:
    """places : (k,) 0..1, twice the same at a hard edge; srgb : (k, 3) 0..1; alpha : (k,); worst : largest ΔEOK×100 anywhere.

    is_straight : whether what draws it mixes colors apart from their alpha, as SVG 2 §14 and painting programs do, in place of
    premultiplied, as CSS does.
    """

    places: Floats
    srgb: Floats
    alpha: Floats
    worst: float
    is_straight: bool = False

    def at(self, shares: Floats) -> Floats:
        """(n,) shares → (n, 4) sRGB and alpha 0..1, in between as programs draw it.

        Parameters
        ----------
        shares : Floats
            (n,) 0..1.

        Returns
        -------
        Floats
            (n, 4) sRGB and alpha 0..1.
        """
        weighed = self.srgb if self.is_straight else self.srgb * self.alpha[:, None]
        after = np.clip(np.searchsorted(self.places, shares, side="right"), 1, len(self.places) - 1)
        begin, end = self.places[after - 1], self.places[after]
        part = np.clip(np.where(end > begin, (shares - begin) / np.where(end > begin, end - begin, 1.0), 1.0), 0, 1)[:, None]
        alpha = self.alpha[after - 1, None] * (1 - part) + self.alpha[after, None] * part
        mixed = weighed[after - 1] * (1 - part) + weighed[after] * part
        covered = 1.0 if self.is_straight else np.where(alpha > 0, alpha, 1.0)
        return np.column_stack([np.clip(mixed / covered, 0, 1), alpha])


MIXED_APART = (
    "Between stops that differ in color and in alpha it is drawn a little otherwise: here alpha is premultiplied, there it is not."
)


def is_mixed_apart(colors: Sequence[Color]) -> bool:
    """Whether a ramp of these colors looks otherwise where colors are mixed apart from their alpha: two neighbors differ in both."""
    return any(
        first.alpha != last.alpha and min(first.alpha, last.alpha) < 1 and first.bytes[:3] != last.bytes[:3]
        for first, last in pairwise(colors)
    )


def sampled(ramp: Ramp, count: int) -> Baked:
    """Even samples from end to end, rounded to 8 bits."""
    shares = np.linspace(0, 1, count)
    srgb, alpha, _ = ramp.shown(shares)
    return Baked(shares, shown_shares(srgb), shown_shares(alpha), 0.0)


def stepped(ramp: Ramp, steps: int) -> Baked:
    """Flat bands with hard edges."""
    srgb, alpha, _ = ramp.shown(ramp.shares(steps))
    edges = np.linspace(0, 1, steps + 1)
    places = np.repeat(edges, 2)[1:-1]
    return Baked(places, np.repeat(srgb, 2, axis=0), np.repeat(alpha, 2), 0.0)


def _looks(ramp: Ramp, shares: Floats) -> Floats:
    srgb, alpha, _ = ramp.shown(shares)
    return looks(srgb, alpha)


def _hard_edges(ramp: Ramp, shares: Floats, seen: Floats) -> Floats:
    """(e, 2) shares just before and just behind each jump: however closely one looks, most of the difference stays there.

    What is only steep, as a ramp that leaves black, comes apart when looked at closely. seen : (n, 4) looks at the shares.
    """
    moves = np.linalg.norm(np.diff(seen, axis=0), axis=1)
    edges = np.flatnonzero((moves > JUMP) & (moves > 8 * np.median(moves)))
    low, high, before, behind = shares[edges], shares[edges + 1], seen[edges], seen[edges + 1]
    for _ in range(HALVINGS if edges.size else 0):
        middle = (low + high) / 2
        between = _looks(ramp, middle)
        left = np.linalg.norm(between - before, axis=1) >= np.linalg.norm(behind - between, axis=1)
        low, high = np.where(left, low, middle), np.where(left, middle, high)
        before, behind = np.where(left[:, None], before, between), np.where(left[:, None], between, behind)
    return np.asarray(np.column_stack([low, high])[np.linalg.norm(behind - before, axis=1) > moves[edges] / 2])


def _tinted(srgb: Floats, alpha: Floats) -> Floats:
    """(n, 3) sRGB where what is clear has the color of the nearest that is seen: it tints what fades to it."""
    seen = np.flatnonzero(alpha > CLEAR)
    if not len(seen):
        return srgb
    places = np.arange(len(alpha))
    after = np.clip(np.searchsorted(seen, places), 0, len(seen) - 1)
    before = np.clip(after - 1, 0, None)
    nearest = np.where(np.abs(seen[before] - places) <= np.abs(seen[after] - places), seen[before], seen[after])
    return srgb[np.where(alpha > CLEAR, places, nearest)]


def bake(ramp: Ramp, tolerance: float = CLOSE_ENOUGH, most: int = MOST_BAKED, is_straight: bool = False) -> Baked:
    """Few stops that a program which interpolates in sRGB shows within `tolerance` ΔEOK×100 of the ramp, or the best `most`.

    is_straight : for programs that mix colors apart from their alpha.
    """
    shares = np.linspace(0, 1, SAMPLES)
    srgb, alpha, _ = ramp.shown(shares)
    edges = _hard_edges(ramp, shares, looks(srgb, alpha))
    shares = np.unique(np.concatenate([shares, edges.ravel()]))
    srgb, alpha, _ = ramp.shown(shares)
    if is_straight:
        srgb = _tinted(srgb, alpha)
    jumps = np.searchsorted(shares, edges[:, 0]).tolist()
    pinned = tuple(side for jump in jumps for side in (jump, jump + 1))[: most - 2]
    rows = np.column_stack([srgb if is_straight else srgb * alpha[:, None], alpha])
    kept = by_splitting(rows, shares, tolerance / DELTA_SCALE, most, pinned)
    oklab = convert(srgb, "srgb", "oklab")
    while True:
        baked = Baked(shares[kept], srgb[kept], alpha[kept], 0.0, is_straight)
        got = baked.at(shares)
        gaps = np.linalg.norm(convert(got[:, :3], "srgb", "oklab") - oklab, axis=1) * np.minimum(alpha, got[:, 3]) * DELTA_SCALE
        # Near black a little sRGB is much to the eye: the worst place of each stretch that is too far off becomes a stop.
        worst_of = [begin + 1 + int(np.argmax(gaps[begin + 1 : end])) for begin, end in pairwise(kept) if end - begin > 1]
        wrong = sorted((place for place in worst_of if gaps[place] > tolerance), key=lambda place: -gaps[place])
        if not wrong or len(kept) >= most:
            break
        kept = sorted({*kept, *wrong[: most - len(kept)]})
    places = shares[kept]
    for jump in jumps:
        if jump in kept and jump + 1 in kept:
            at = kept.index(jump)
            # At the very ends both stay, so that the end is still the end.
            places[at : at + 2] = places[at : at + 2] if at == 0 or at + 2 == len(places) else places[at]
    return replace(baked, places=places, worst=float(gaps.max()))
