"""A decoded picture's numbers become 8-bit sRGB: embedded profiles, 16 bits a channel, color tables; in bands, for little memory."""

import io
from collections.abc import Iterator

import numpy as np
from PIL import Image, ImageCms

from huvren.core.color.arrays import Bytes
from huvren.core.picture_color import Encoding, encoding_of_profile, to_srgb_bytes


def profile_of(image: Image.Image, notes: list[str], is_for_library: bool) -> Encoding | None:
    """What an embedded profile of primaries and curves says; None for sRGB, for none, and where the library is to convert.

    is_for_library : of pictures that the library converts, only what is sRGB is told apart. A profile that is left to it stays.
    """
    profile = image.info.get("icc_profile")
    if not profile or image.mode in ("CMYK", "LAB"):
        return None
    try:
        name = ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(profile))).strip()
    except (ImageCms.PyCMSError, OSError, ValueError, TypeError):
        notes.append("Its embedded color profile cannot be read and was left out.")
        del image.info["icc_profile"]
        return None
    found = encoding_of_profile(profile, f"the embedded color profile “{name[:60]}”")
    if found is None or (is_for_library and not found.is_srgb):
        return None
    del image.info["icc_profile"]
    return None if found.is_srgb else found


def by_library(image: Image.Image, notes: list[str]) -> Image.Image:
    """A picture whose embedded profile is left to the library: one of 8 bits, or one that goes by tables."""
    profile = image.info.get("icc_profile")
    if not profile or image.mode not in ("RGB", "RGBA", "L", "LA", "CMYK"):
        return image
    try:
        source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        description = ImageCms.getProfileDescription(source).strip()
        alpha = image.getchannel("A") if "A" in image.getbands() else None
        if image.mode in ("RGBA", "LA"):
            image = image.convert(image.mode[:-1])
        converted = ImageCms.profileToProfile(image, source, ImageCms.createProfile("sRGB"), outputMode="RGB")
    except (ImageCms.PyCMSError, OSError, ValueError, TypeError):
        notes.append("Its embedded color profile cannot be read and was left out.")
        return image
    if converted is None:
        return image
    if alpha is not None:
        converted.putalpha(alpha)
    notes.append(f"Converted from the embedded color profile “{description[:60]}” to sRGB.")
    return converted


BAND = 1 << 20
"""Pixels that are converted at a time: a whole picture in a second form would double the memory that it takes."""


def _bands(image: Image.Image) -> Iterator[tuple[slice, Image.Image]]:
    """The image from top to bottom in bands, with the rows that each is."""
    width, height = image.size
    step = max(1, BAND // width)
    for top in range(0, height, step):
        bottom = min(top + step, height)
        yield slice(top, bottom), image.crop((0, top, width, bottom))


def gray_of_sixteen(image: Image.Image, encoding: Encoding | None) -> Image.Image:
    """16-bit gray, brought to sRGB and then to 8 bits; with an alpha where one number stands for clear."""
    gray = np.empty((image.height, image.width), dtype=np.uint8)
    clear = image.info.pop("transparency", None)
    alpha = None if clear is None else np.empty(gray.shape, dtype=np.uint8)
    for rows, band in _bands(image):
        numbers = np.clip(np.asarray(band), 0, 65_535).astype(np.uint16)
        same = numbers[..., None] if encoding is None else numbers[..., None].repeat(3, axis=-1)
        gray[rows] = to_srgb_bytes(same, encoding)[..., 0]
        if alpha is not None:
            alpha[rows] = np.where(numbers == clear, 0, 255)
    made = Image.fromarray(gray, "L")
    if alpha is not None:
        made.putalpha(Image.fromarray(alpha, "L"))
    return made


def rgb_of_sixteen(high: Image.Image, low: Image.Image, encoding: Encoding | None) -> Image.Image:
    """16-bit RGB, with or without alpha, by the halves of its numbers; one color may stand for clear."""
    clear = high.info.get("transparency") if high.mode == "RGB" else None
    made = np.empty((high.height, high.width, 3 if high.mode == "RGB" and clear is None else 4), dtype=np.uint8)
    for (rows, upper), (_, lower) in zip(_bands(high), _bands(low), strict=True):
        numbers = np.asarray(upper).astype(np.uint16) << 8 | np.asarray(lower)
        made[rows, :, :3] = to_srgb_bytes(numbers[..., :3], encoding)
        if clear is not None:
            made[rows, :, 3] = np.where((numbers == np.array(clear)).all(axis=-1), 0, 255)
        elif made.shape[2] == 4:
            made[rows, :, 3] = to_srgb_bytes(numbers[..., 3], None)
    return Image.fromarray(made)


def with_palette(image: Image.Image, encoding: Encoding) -> Image.Image:
    """An indexed picture with its color table in sRGB; its indices stay."""
    raw = np.array(image.getpalette("RGB") or [], dtype=np.uint8).reshape(-1, 3)
    image.putpalette(to_srgb_bytes(raw, encoding).tobytes())
    return image


def convert_in_place(rgba: Bytes, encoding: Encoding) -> None:
    """Bring 8-bit numbers that mean something else to sRGB where they lie, in bands.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8, whose colors are overwritten.
    encoding : Encoding
        What they mean.
    """
    step = max(1, BAND // rgba.shape[1])
    for top in range(0, rgba.shape[0], step):
        part = rgba[top : top + step, :, :3]
        part[...] = to_srgb_bytes(part, encoding)


def to_rgba(image: Image.Image) -> Bytes:
    """The pixels of a picture of 8 bits.

    Parameters
    ----------
    image : Image.Image
        A picture of any mode that the library brings to RGBA.

    Returns
    -------
    Bytes
        (h, w, 4) uint8.
    """
    rgba = np.empty((image.height, image.width, 4), dtype=np.uint8)
    for rows, band in _bands(image):
        rgba[rows] = np.asarray(band.convert("RGBA"))
    return rgba
