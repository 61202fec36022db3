"""Median cut (Heckbert 1982): boxes of sRGB, the widest cut where half of its pixels lie on either side."""

import numpy as np

from huvren.core.color.arrays import Bytes, Integers
from huvren.core.reduction.choosers.chooser import CHOOSERS, Brief, Chooser


def choose(brief: Brief) -> Bytes:
    """Means of `count` boxes.

    The next box to cut is that with the most weight times its longest side.

    Parameters
    ----------
    brief : Brief
        What is asked for: points, weights, count and what is present.

    Returns
    -------
    Bytes
        (k, 3) uint8, besides those present.
    """
    # A byte a channel, each by itself: sorting bytes is a matter of counting them.
    channels = np.ascontiguousarray(brief.histogram.rgb().T)
    spread = brief.points.bin_of
    known = spread >= 0
    # Binned points share their weight among their colors by count.
    counts = np.where(known, brief.histogram.counts, 0).astype(np.float64)
    per_point = np.bincount(spread[known], weights=counts[known], minlength=len(brief.points.weights))
    factor = brief.points.weights / np.maximum(per_point, 1e-12)
    weights = np.where(known, counts * factor[np.maximum(spread, 0)], 0)
    rows = np.flatnonzero(weights > 0)
    boxes = [rows]

    def sides(box: Integers) -> Integers:
        return np.array([np.ptp(channel[box]) for channel in channels], dtype=np.int64)

    def urgency(box: Integers) -> float:
        return float(weights[box].sum() * sides(box).max()) if len(box) > 1 else 0.0

    gains = [urgency(rows)]
    while len(boxes) < brief.count:
        place = int(np.argmax(gains))
        if gains[place] <= 0:
            break
        box = boxes[place]
        channel = channels[int(sides(box).argmax())]
        box = box[np.argsort(channel[box], kind="stable")]
        running = np.cumsum(weights[box])
        middle = int(np.searchsorted(running, running[-1] / 2)) + 1
        # Never cut between equal values, and leave something on both sides.
        values = channel[box]
        low = int(np.searchsorted(values, values[min(middle, len(box) - 1)], side="left"))
        middle = low if low > 0 else int(np.searchsorted(values, values[0], side="right"))
        boxes[place], gains[place] = box[:middle], urgency(box[:middle])
        boxes.append(box[middle:])
        gains.append(urgency(box[middle:]))
    means = [[np.average(channel[box], weights=weights[box]) for channel in channels] for box in boxes if len(box)]
    return np.rint(np.array(means).reshape(-1, 3)).astype(np.uint8)


CHOOSERS.register(
    Chooser(
        "median-cut",
        "median cut",
        "Cuts color space where the pixels halve: the classic look of older pictures.",
        choose,
        tunes="moved",
    )
)
