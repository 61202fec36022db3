"""Plain areas of a picture: which pixels are of one color, what the ground is, and what a drawing of squares explains."""

from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Bytes, Flags, Integers

PLAIN_BORDER = 0.6
"""The share of a picture's rim that is of one color where it has a ground."""


@dataclass(frozen=True)
class Squares:
    """What was found. areas : (n, 4) left, top, width, height in pixels; colors : (n, 4) RGBA; explained : share 0..1 of pixels."""

    way: str
    """How the squares were told apart."""
    areas: Integers
    colors: Bytes
    columns: int | None
    """In a row; None where it does not say."""
    note: str
    """What was seen on the way."""
    explained: float


def words_of(rgba: Bytes) -> Integers:
    """(…, 4) → each pixel as one number.

    Parameters
    ----------
    rgba : Bytes
        (…, 4) uint8.

    Returns
    -------
    Integers
        (…) uint32.
    """
    return np.ascontiguousarray(rgba).view(np.uint32)[..., 0]


def largest_difference(one: Bytes, other: Bytes) -> Bytes:
    """(…, 4) and (…, 4) → the largest difference in a channel.

    Parameters
    ----------
    one, other : Bytes
        (…, 4) uint8.

    Returns
    -------
    Bytes
        (…) uint8.
    """
    return np.asarray((np.maximum(one, other) - np.minimum(one, other)).max(axis=-1))


def are_alike(colors: Bytes, other: Bytes, tolerance: int) -> Flags:
    """(…, 4) and (…, 4) → whether they are one color.

    Parameters
    ----------
    colors, other : Bytes
        (…, 4) uint8.
    tolerance : int
        How much the two may differ in a channel.

    Returns
    -------
    Flags
        (…) bool.
    """
    return np.asarray(largest_difference(colors, other) <= tolerance)


def usual_color(colors: Bytes) -> Bytes:
    """The color that most of (n, 4) pixels have; of noisy ones the middle one.

    Parameters
    ----------
    colors : Bytes
        (n, 4) uint8, one pixel or more.

    Returns
    -------
    Bytes
        (4,) uint8.
    """
    found, counts = np.unique(words_of(colors.reshape(-1, 1, 4)).ravel(), return_counts=True)
    if counts.max() * 2 >= len(colors):
        return np.asarray(np.array([found[counts.argmax()]], dtype=np.uint32).view(np.uint8))
    return np.asarray(np.median(colors.reshape(-1, 4), axis=0).astype(np.uint8))


def ground_of(rgba: Bytes, tolerance: int) -> Bytes | None:
    """The color that the squares stand on, or None where they fill the picture.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    tolerance : int
        How much two pixels of one color may differ in a channel.

    Returns
    -------
    Bytes | None
        (4,) uint8, or None.
    """
    rim = np.concatenate([rgba[0], rgba[-1], rgba[:, 0], rgba[:, -1]])
    color = usual_color(rim)
    if are_alike(rim, color, tolerance + 2).mean() < PLAIN_BORDER:
        return None
    # A strip of few squares may have one color on most of its rim; a ground goes all the way round.
    corners = rgba[[0, 0, -1, -1], [0, -1, 0, -1]]
    sides = [are_alike(side, color, tolerance + 2).mean() for side in (rgba[0], rgba[-1], rgba[:, 0], rgba[:, -1])]
    return color if are_alike(corners, color, tolerance + 2).all() and min(sides) > 0.9 else None


def explained_share(rgba: Bytes, areas: Integers, colors: Bytes, ground: Bytes | None, tolerance: int) -> float:
    """The share of pixels that a drawing of the squares on their ground would show as they are.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    areas : Integers
        (n, 4) left, top, width, height in pixels.
    colors : Bytes
        (n, 4) uint8, of the areas.
    ground : Bytes | None
        (4,) uint8 of what they stand on.
    tolerance : int
        How much two pixels of one color may differ in a channel.

    Returns
    -------
    float
        0..1.
    """
    drawn = np.zeros_like(rgba)
    if ground is not None:
        drawn[:] = ground
    for (left, top, width, height), color in zip(areas.tolist(), colors, strict=True):
        drawn[top : top + height, left : left + width] = color
    return float(are_alike(rgba, drawn, tolerance + 2).mean())
