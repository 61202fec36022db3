"""The figures of docs/COLOR.md: a picture at eight colors and a night at four, chosen for the pixels, and for the dither.

Above the pixels, below what is seen of them from arm's length, under each the colors; the original stands first, then untuned, fine
and free grain.
"""

from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image
from scipy.ndimage import gaussian_filter

from bench.color import night_with_a_moon
from huvren.core.color.arrays import Bytes
from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array
from huvren.core.reduction.afar import ARMS_LENGTH, sigma_of
from huvren.core.reduction.grain import FREE
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.reduce import reduce_picture
from huvren.demo.plates import plate_lamplight

FOLDER = Path(__file__).resolve().parent.parent / "docs" / "figures"
STRIP, GAP, GROUND = 26, 10, 238


def _from_afar(rgb: Bytes) -> Bytes:
    light = decode_srgb_array(rgb / 255)
    seen = np.stack([gaussian_filter(light[..., channel], sigma_of(ARMS_LENGTH)) for channel in range(3)], axis=-1)
    return np.asarray(np.rint(encode_srgb_array(np.clip(seen, 0, 1)) * 255), dtype=np.uint8)


def _strip(colors: Bytes, width: int) -> Bytes:
    return np.repeat(colors[np.arange(width) * len(colors) // width][None], STRIP, axis=0)


def draw(name: str, picture: Bytes, piece: tuple[slice, slice], colors: int) -> Path:
    """Write a figure anew."""
    rgba = np.dstack([picture, np.full(picture.shape[:2], 255, np.uint8)])
    width = piece[1].stop - piece[1].start
    blank = np.full((STRIP, width, 3), GROUND, dtype=np.uint8)
    columns = [[picture[piece], _from_afar(picture)[piece], blank]]
    ways: dict[str, dict[str, Any]] = {"untuned": {"tune": False}, "fine grain": {}, "free grain": {"grain": FREE}}
    for way, told in ways.items():
        made = reduce_picture(rgba, ReduceRecipe(colors=colors, dither="floyd-steinberg", **told))
        shown = made.rgb[made.indices]
        columns.append([shown[piece], _from_afar(shown)[piece], _strip(made.rgb, width)])
        print(f"{name}, {way}: close up ΔE {made.figures.mean:.2f}, from afar {made.figures.afar:.2f}")
    high = sum(part.shape[0] for part in columns[0]) + GAP * (len(columns[0]) + 1)
    sheet = np.full((high, GAP + len(columns) * (width + GAP), 3), GROUND, dtype=np.uint8)
    for across, column in enumerate(columns):
        top, left = GAP, GAP + across * (width + GAP)
        for part in column:
            sheet[top : top + part.shape[0], left : left + width] = part
            top += part.shape[0] + GAP
    place = FOLDER / f"{name}.png"
    place.parent.mkdir(exist_ok=True)
    Image.fromarray(sheet).save(place, optimize=True)
    return place


if __name__ == "__main__":
    print(draw("tuned", plate_lamplight(), (slice(40, 300), slice(500, 820)), 8))
    print(draw("moon", night_with_a_moon(), (slice(0, 220), slice(0, 320)), 4))
