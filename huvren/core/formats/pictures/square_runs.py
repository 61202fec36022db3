"""Squares by runs: what stands apart on a plain ground is cut out, rows first, then columns; what touches is parted where its color
changes. Labels, frames and the noise of JPEG are no squares.
"""

from collections.abc import Iterator
from itertools import islice

import numpy as np

from huvren.core.color.arrays import Bytes, Flags, Integers
from huvren.core.formats.pictures.plain_areas import Squares, are_alike, explained_share, ground_of, largest_difference, usual_color

MOST_PIECES = 2_000
"""Pieces that are looked at one by one; larger sheets are grids."""
MOST_LOOKED, MOST_BLOCKS = 60_000, 8_000
"""Runs and blocks that are looked at before a picture is given up as one of something else."""
FEWEST_PIXELS_A_PIECE = 9
SOLID = 0.7
"""The share of a square that is of its own color: the rest may be a label or a frame."""
EXPLAINED = 0.75
LEAST_HEIGHT = 0.4
"""Of the usual height: what is lower is a label."""
NARROW = 0.25
"""Of the usual width of what touches: what is narrower is the blur between two squares."""


def _spans(flags: Flags) -> list[tuple[int, int]]:
    """Begin and end of each run of true values."""
    steps = np.flatnonzero(np.diff(np.concatenate([[False], flags, [False]]).astype(np.int8)))
    return list(zip(steps[0::2].tolist(), steps[1::2].tolist(), strict=True))


def _parted(changes: Flags) -> list[tuple[int, int]]:
    """Runs between the places where something changes. changes : (n − 1,), between neighbors."""
    ends = np.flatnonzero(changes) + 1
    bounds = [0, *ends.tolist(), len(changes) + 1]
    return list(zip(bounds[:-1], bounds[1:], strict=True))


def _without_narrow(spans: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Runs without the blur between two of them."""
    rising = np.sort(np.array([end - begin for begin, end in spans]))
    up_to = np.cumsum(rising)
    # The usual width is that of the run which a pixel of the middle lies in.
    usual = rising[np.searchsorted(up_to, up_to[-1] // 2, side="right")] if up_to[-1] else 0
    least = max(usual * NARROW, 1)
    return [(begin, end) for begin, end in spans if end - begin >= least]


def _bands(block: Bytes, tolerance: int) -> list[tuple[int, int]]:
    """Rows of a block that look alike from left to right, without the blur between them."""
    changes = largest_difference(block[1:], block[:-1]) > tolerance
    found = _without_narrow(_parted(changes.mean(axis=1) > (0.02 if tolerance else 0)))
    return _joined(found, [block[(top + bottom) // 2] for top, bottom in found], tolerance)


def _joined(spans: list[tuple[int, int]], looks: list[Bytes], tolerance: int) -> list[tuple[int, int]]:
    """Runs that are parted by noise alone are one. looks : what each shows."""
    if not tolerance:
        return spans
    made: list[tuple[int, int]] = []
    last: Bytes | None = None
    for span, look in zip(spans, looks, strict=True):
        if last is not None and are_alike(look, last, tolerance).mean() > 0.9:
            made[-1] = (made[-1][0], span[1])
        else:
            made.append(span)
            last = look
    return made


def _tiles(block: Bytes, tolerance: int) -> Iterator[tuple[int, int, int, int]]:
    """Left, top, right, bottom of the plain pieces of a block in which squares touch each other."""
    height, width = block.shape[:2]
    looked = 0
    for top, bottom in _bands(block, tolerance):
        inset = (bottom - top) // 5
        band = block[top + inset : bottom - inset]
        # Noise is taken out by the middle one of several rows; what is exact needs but one.
        profile = np.median(band[:: max(1, len(band) // 16)], axis=0).astype(np.uint8) if tolerance else band[len(band) // 2]
        runs = _without_narrow(_parted(largest_difference(profile[1:], profile[:-1]) > tolerance))
        looked += len(runs)
        if looked > MOST_LOOKED:
            return
        if tolerance and width < 3 * len(runs):
            continue  # noise: nothing as narrow as that stays apart in a lossy picture
        looks = [np.median(profile[left:right], axis=0).astype(np.uint8) for left, right in runs] if tolerance else []
        for left, right in _joined(runs, looks, tolerance):
            # Specks, as letters are made of, are no squares; in a picture of one line every pixel may be one.
            if height == 1 or width == 1 or (right - left) * (bottom - top) >= FEWEST_PIXELS_A_PIECE:
                yield left, top, right, bottom


def _pieces(rgba: Bytes, ground: Bytes | None, tolerance: int) -> list[tuple[int, int, int, int]]:
    """Left, top, right, bottom of what may be a square, row by row."""
    if ground is None:
        return list(islice(_tiles(rgba, tolerance), MOST_PIECES + 1))
    mask = ~are_alike(rgba, ground, tolerance + 2)
    found: list[tuple[int, int, int, int]] = []
    blocks = 0
    for top, bottom in _spans(mask.mean(axis=1) > (0.01 if tolerance else 0)):
        rows = mask[top:bottom]
        if blocks > MOST_BLOCKS:
            return []
        for left, right in _spans(rows.mean(axis=0) > (0.2 if tolerance else 0)):
            # Blocks of one row may begin and end at different heights.
            inner = np.flatnonzero(rows[:, left:right].mean(axis=1) > (0.3 if tolerance else 0))
            if not len(inner):
                continue
            blocks += 1
            high, low = top + int(inner[0]), top + int(inner[-1]) + 1
            tiles = islice(_tiles(rgba[high:low, left:right], tolerance), MOST_PIECES + 1)
            found += [(left + a, high + b, left + c, high + d) for a, b, c, d in tiles]
            if len(found) > MOST_PIECES:
                return []
    return found


def _settled(rgba: Bytes, area: Integers, color: Bytes, tolerance: int) -> tuple[int, int, int, int]:
    """An area of a noisy picture as far as its color reaches, from its middle on, into the blur about it or back out of it."""
    left, top, width, height = area.tolist()

    def reach(flags: Flags, begin: int, size: int) -> tuple[int, int]:
        middle = begin + size // 2
        inside = next(((one, end) for one, end in _spans(flags) if one <= middle < end), (begin, begin + size))
        return inside[0], inside[1] - inside[0]

    rows = rgba[max(top - height, 0) : top + 2 * height, left + width // 4 : left + width - width // 4]
    above = min(top, height)
    begin, down = reach(are_alike(rows, color, 2 * tolerance).mean(axis=1) > 0.6, above, height)
    top += begin - above
    columns = rgba[top + down // 4 : top + down - down // 4, max(left - width, 0) : left + 2 * width]
    before = min(left, width)
    begin, across = reach(are_alike(columns, color, 2 * tolerance).mean(axis=0) > 0.6, before, width)
    return left + begin - before, top, across, down


def _ground_between(rgba: Bytes, pieces: list[tuple[int, int, int, int]], tolerance: int) -> Bytes | None:
    """The color of most of the rim where it also stands between the pieces time and again: squares that reach the rim."""
    if not 4 <= len(pieces) <= MOST_PIECES:
        return None
    rim = np.concatenate([rgba[0], rgba[-1], rgba[:, 0], rgba[:, -1]])
    color = usual_color(rim)
    middles = np.array([rgba[(top + bottom) // 2, (left + right) // 2] for left, top, right, bottom in pieces])
    of_it = are_alike(middles, color, tolerance + 2)
    parted = int((np.diff(of_it.astype(np.int8)) == 1).sum())
    return color if parted >= 2 and are_alike(rim, color, tolerance + 2).mean() > 0.4 else None


def by_runs(rgba: Bytes, tolerance: int) -> Squares | None:
    """Squares that stand apart on a ground or touch each other, or None where they do not explain the picture.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    tolerance : int
        How much two pixels of one square may differ in a channel.

    Returns
    -------
    Squares | None
        In rows from the top, or None.
    """
    ground = ground_of(rgba, tolerance)
    pieces = _pieces(rgba, ground, tolerance)
    if ground is None and (between := _ground_between(rgba, pieces, tolerance)) is not None:
        ground = between
        pieces = _pieces(rgba, ground, tolerance)
    if not 2 <= len(pieces) <= MOST_PIECES:
        return None
    areas = np.array([(left, top, right - left, bottom - top) for left, top, right, bottom in pieces])
    sizes = areas[:, 2] * areas[:, 3]
    is_line = min(rgba.shape[:2]) == 1
    by_height = np.argsort(areas[:, 3])
    usual = areas[by_height[np.searchsorted(np.cumsum(sizes[by_height]), sizes.sum() / 2)], 3]
    keep, colors = [], []
    for place, (left, top, width, height) in enumerate(areas.tolist()):
        if height < usual * LEAST_HEIGHT or (not is_line and width * height < FEWEST_PIXELS_A_PIECE):
            continue
        x, y = width // 6, height // 6
        pixels = rgba[top + y : top + height - y, left + x : left + width - x].reshape(-1, 4)
        color = usual_color(pixels)
        is_ground = ground is not None and bool(are_alike(color, ground, tolerance + 4))
        if not is_ground and are_alike(pixels, color, tolerance + 2).mean() >= SOLID:
            keep.append(place)
            colors.append(color)
            if tolerance:
                areas[place] = _settled(rgba, areas[place], color, tolerance)
    if len(keep) < 2:
        return None
    areas = areas[keep]
    found = np.array(colors, dtype=np.uint8)
    explained = explained_share(rgba, areas, found, ground, tolerance)
    if explained < EXPLAINED:
        return None
    rows, columns = _shape(areas)
    where = "on a plain ground" if ground is not None else "that touch"
    note = f"Read as {len(keep):,} pieces of one color {where}, in {rows} {'row' if rows == 1 else 'rows'}."
    return Squares("by runs", areas, found, columns if rows > 1 else None, note, explained)


def _shape(areas: Integers) -> tuple[int, int]:
    """Rows, and the most that stand in one of them."""
    tops = areas[:, 1]
    begins = np.flatnonzero(
        np.concatenate([[True], np.diff(areas[:, 0]) < 0]) | np.concatenate([[True], tops[1:] >= tops[:-1] + areas[:-1, 3]])
    )
    return len(begins), int(np.diff([*begins.tolist(), len(areas)]).max())
