"""Pictures: bytes of a file become an RGBA array in sRGB, upright, behind limits; and back to files."""

import io
import struct
import warnings
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from typing import Any, TypeVar

import numpy as np
from PIL import Image, ImageOps, UnidentifiedImageError

from huvren.core.color.arrays import Bytes
from huvren.core.errors import BadFile, HuvrenError, TooLarge
from huvren.core.picture_kinds import MOST_PIXELS, PictureKind, kind_of, labels_of_pictures
from huvren.core.picture_numbers import (
    by_library,
    convert_in_place,
    gray_of_sixteen,
    profile_of,
    rgb_of_sixteen,
    to_rgba,
    with_palette,
)  # fmt: skip
from huvren.core.scaling import scaled

MOST_BYTES = 80 * 1024 * 1024
MOST_SIDE = 250_000
"""Pixels of a side: a strip of the most swatches fits. Longer ones are no pictures, and nothing shows them."""


@dataclass(frozen=True)
class Picture:
    """A decoded picture. rgba : (h, w, 4) uint8, sRGB, upright; notes : what was done on the way in."""

    rgba: Bytes
    kind: PictureKind
    """Of the file."""
    mode: str
    """Of its pixels."""
    notes: tuple[str, ...]
    own_palette: tuple[tuple[int, int, int], ...] = ()
    """8-bit sRGB of its color table."""
    as_stored: bool = True
    """Whether a browser shows the file's own bytes just like `rgba`."""

    @property
    def format(self) -> str:
        """Of the file, as people call it."""
        return self.kind.label

    @property
    def width(self) -> int:
        return int(self.rgba.shape[1])

    @property
    def height(self) -> int:
        return int(self.rgba.shape[0])


def _check_size(data: bytes, name: str) -> None:
    if not data:
        raise BadFile(f"“{name}” is empty: it has no bytes. Choose another file.")
    if len(data) > MOST_BYTES:
        raise TooLarge(
            f"“{name}” has {len(data) / 1048576:,.0f} MB; {MOST_BYTES // 1048576} MB is the most that can be taken. "
            "Save it smaller, or as JPEG or WebP."
        )


DAMAGE = (
    OSError, SyntaxError, ValueError, EOFError, LookupError, TypeError, ArithmeticError, RuntimeError, struct.error, zlib.error,
)  # fmt: skip
"""What the library raises, besides its own errors, for bytes that are not what they say."""


def _check_pixels(size: tuple[int, int], name: str, most_pixels: int) -> None:
    width, height = size
    pixels = width * height
    if pixels > most_pixels:
        raise TooLarge(
            f"“{name}” claims {width:,} × {height:,} = {pixels / 1e6:,.0f} million pixels; "
            f"{most_pixels // 10**6} million is the most that can be taken. Scale it down first."
        )
    if max(width, height) > MOST_SIDE:
        raise TooLarge(f"“{name}” claims {width:,} × {height:,} pixels; a side has at most {MOST_SIDE:,}. Cut it into pieces first.")


def open_picture(data: bytes, name: str = "the file", most_pixels: int = MOST_PIXELS) -> tuple[PictureKind, Image.Image]:
    """Open by contents, not by ending, and check the size it claims before anything is decoded."""
    _check_size(data, name)
    kind = kind_of(data)
    if kind is None:
        raise BadFile(f"“{name}” is not a picture that can be read. {labels_of_pictures()} files work.")
    most_pixels = min(most_pixels, kind.most_pixels)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            if kind.claims is not None:
                _check_pixels(kind.claims(data), name, most_pixels)
            image = kind.opened(data)
    except HuvrenError:
        raise
    except Image.DecompressionBombError as error:
        raise TooLarge(f"“{name}” claims to have more than {MOST_PIXELS // 10**6} million pixels.") from error
    except (UnidentifiedImageError, *DAMAGE) as error:
        why = f"begins like a {kind.label} picture, and is damaged, cut short, or of a form that is not read here"
        raise BadFile(f"“{name}” {why}.") from error
    _check_pixels(image.size, name, most_pixels)
    why = kind.refuses(image)
    if why:
        raise BadFile(f"“{name}” cannot be taken: {why}.")
    return kind, image


def pixels_claimed(data: bytes, name: str) -> int:
    """Pixels that a file claims, for the room that decoding it takes. Raises `BadFile` or `TooLarge` before anything is decoded."""
    kind = kind_of(data)
    if kind is not None and kind.claims is not None:
        try:
            size = kind.claims(data)
        except HuvrenError:
            raise
        except DAMAGE:
            size = (1, 1)  # opening it says what is wrong
        _check_pixels(size, name, kind.most_pixels)
        return size[0] * size[1]
    _, image = open_picture(data, name)
    return image.width * image.height


def read_picture(data: bytes, name: str = "the file", most_pixels: int = MOST_PIXELS) -> Picture:
    """Decode a picture of any kind that is read. Raises `BadFile` or `TooLarge` with a sentence for a person."""
    kind, image = open_picture(data, name, most_pixels)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            return _decoded(data, kind, image)
    except DAMAGE as error:
        raise BadFile(f"“{name}” is damaged or cut short: its {kind.label} data ends or breaks too early.") from error
    except Image.DecompressionBombError as error:
        raise TooLarge(f"“{name}” unpacks to more than can be taken.") from error


def _decoded(data: bytes, kind: PictureKind, image: Image.Image) -> Picture:
    mode = image.mode
    more = kind.more(image)
    notes = [more] if more else []
    if more:
        image.seek(0)
    # Before anything loads the picture, as asking for its camera data does.
    low = None if more else kind.low_halves(data, image)
    orientation = image.getexif().get(0x0112, 1)
    stated, said = kind.states(data, image)
    notes += [said] if said else []
    has_profile = bool(image.info.get("icc_profile"))
    is_deep = low is not None or mode.startswith("I")
    image.load()
    if low is None:
        image, said = kind.mend(data, image)
        notes += [said] if said else []
    if stated is not None:
        # It comes before an embedded profile.
        image.info.pop("icc_profile", None)
        encoding = None if stated.is_srgb else stated
    else:
        encoding = profile_of(image, notes, is_for_library=not is_deep and mode != "P")
    colored: Image.Image = image
    if low is not None:
        colored = rgb_of_sixteen(image, low, encoding)
    elif is_deep:
        colored = gray_of_sixteen(image, encoding)
    elif encoding is not None and mode == "P":
        colored = with_palette(image, encoding)
    if is_deep:
        notes.append("Brought from 16 to 8 bits a channel.")
    if encoding is not None:
        notes.append(f"Converted from {encoding.name} to sRGB.")
    elif image.info.get("icc_profile"):
        colored.info["icc_profile"] = image.info["icc_profile"]
        colored = by_library(colored, notes)
    own_palette: tuple[tuple[int, int, int], ...] = ()
    if mode == "P" and image.palette is not None:
        raw = image.getpalette("RGB") or []
        own_palette = tuple(zip(raw[0::3], raw[1::3], raw[2::3], strict=True))
    if orientation in range(2, 9):
        if not kind.is_turned:
            colored.getexif()[0x0112] = orientation
            colored = ImageOps.exif_transpose(colored)
        notes.append("Turned upright as its camera data says.")
    if colored.mode == "CMYK":
        notes.append("Converted from CMYK by the plain device formula, as it has no profile.")
    rgba = to_rgba(colored)
    if encoding is not None and not is_deep and mode != "P":
        convert_in_place(rgba, encoding)
    as_stored = kind.is_shown and mode in ("1", "RGB", "RGBA", "L", "P") and not notes and not has_profile
    return Picture(rgba, kind, mode, tuple(notes), own_palette, as_stored)


MOST_SMALL = 4_000_000
"""Pixels up to which a picture is looked at for a palette in it; larger ones are photographs to be reduced."""

_held: ContextVar[dict[tuple[int, str], Any] | None] = ContextVar("what was worked out of the file being read", default=None)


@contextmanager
def decoded_once() -> Iterator[None]:
    """Within it, `once` remembers: several readers look at one picture, which is decoded a single time."""
    token = _held.set({})
    try:
        yield
    finally:
        _held.reset(token)


Found = TypeVar("Found")


def once(data: bytes, what: str, work: Callable[[], Found]) -> Found:
    """What was worked out of these very bytes before, within `decoded_once`; else it is worked out now, and errors are kept too."""
    held = _held.get()
    if held is None:
        return work()
    key = (id(data), what)
    if key not in held:
        try:
            held[key] = work()
        except HuvrenError as error:
            held[key] = error
    if isinstance(held[key], HuvrenError):
        raise held[key]
    found: Found = held[key]
    return found


def is_small(data: bytes, name: str = "the picture") -> bool:
    """Whether a picture is looked at for a palette in it, rather than only reduced."""
    return pixels_claimed(data, name) <= MOST_SMALL


def read_small(data: bytes) -> Picture:
    """A picture that may be a palette, decoded. Raises `TooLarge` for a larger one, before it is."""

    def decode() -> Picture:
        if not is_small(data):
            raise TooLarge(f"The picture has more than {MOST_SMALL // 10**6} million pixels. Reduce it instead.")
        return read_picture(data, "the picture")

    return once(data, "pixels", decode)


def _seen_as_image(rgba: Bytes, mode: str = "RGBA") -> Image.Image:
    """(h, w, 4) uint8 as an image that shares its memory, where a copy would double it."""
    height, width = rgba.shape[:2]
    return Image.frombuffer(mode, (width, height), np.ascontiguousarray(rgba), "raw", mode, 0, 1)


def encode_png(rgba: Bytes, level: int = 3) -> bytes:
    """(h, w, 4) uint8 → PNG bytes, without alpha where all is opaque.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    level : int
        Of compression, 0 to 9.

    Returns
    -------
    bytes
        PNG bytes, without alpha where all is opaque.
    """
    image = _seen_as_image(rgba)
    if rgba[..., 3].min() == 255:
        image = image.convert("RGB")
    buffer = io.BytesIO()
    image.save(buffer, "PNG", compress_level=level)
    return buffer.getvalue()


def encode_rgb(rgb: Bytes) -> bytes:
    """(h, w, 3) uint8 → PNG bytes.

    Parameters
    ----------
    rgb : Bytes
        (h, w, 3) uint8.

    Returns
    -------
    bytes
        PNG bytes.
    """
    buffer = io.BytesIO()
    Image.fromarray(rgb, "RGB").save(buffer, "PNG", compress_level=1)
    return buffer.getvalue()


def encode_gray(gray: Bytes) -> bytes:
    """(h, w) uint8 → PNG bytes.

    Parameters
    ----------
    gray : Bytes
        (h, w) uint8.

    Returns
    -------
    bytes
        PNG bytes.
    """
    buffer = io.BytesIO()
    Image.fromarray(gray, "L").save(buffer, "PNG", compress_level=1)
    return buffer.getvalue()


def scale_down(rgba: Bytes, most_pixels: int, most_side: int = MOST_SIDE) -> Bytes:
    """A smaller copy, by area in linear light, with at most `most_pixels` and no side over `most_side`.

    The same array where it is small enough.

    Parameters
    ----------
    rgba : Bytes
        (h, w, 4) uint8.
    most_pixels : int
        In all.
    most_side : int
        Along either side.

    Returns
    -------
    Bytes
        (h, w, 4) uint8.
    """
    height, width = rgba.shape[:2]
    factor = min((most_pixels / (height * width)) ** 0.5, most_side / max(height, width))
    if factor >= 1:
        return rgba
    return scaled(rgba, max(1, int(width * factor)), max(1, int(height * factor)))
