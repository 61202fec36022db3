"""What a kind of picture file is: how its files begin, what they state of their colors, and what the library leaves to us."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from huvren.core.picture_color import Encoding
from huvren.core.registry import Registry

if TYPE_CHECKING:
    from PIL import Image

MOST_PIXELS = 100_000_000


def _nothing_stated(data: bytes, image: Image.Image) -> tuple[Encoding | None, str]:
    return None, ""


def _no_halves(data: bytes, image: Image.Image) -> Image.Image | None:
    return None


def _as_it_is(data: bytes, image: Image.Image) -> tuple[Image.Image, str]:
    return image, ""


def frames_of(image: Image.Image) -> str:
    """What is said of an animation. Looks through the whole file, once."""
    frames = getattr(image, "n_frames", 1)
    return f"It is animated with {frames} frames; the first frame was taken." if frames > 1 else ""


@dataclass(frozen=True)
class PictureKind:
    """A kind of picture file, and what is ours about reading it. The decoder is the library's."""

    id: str
    """By which the library names its decoder, where it has one."""
    label: str
    """As messages call it."""
    endings: tuple[str, ...]
    """Of files, with the dot."""
    media_type: str
    """In answers of the server."""
    begins: Callable[[bytes], bool]
    """Whether bytes are of this kind, by their beginning."""
    is_shown: bool = False
    """Whether every browser shows its files."""
    is_lossy: bool = False
    """Whether flat areas may come back uneven."""
    open: Callable[[bytes], Image.Image] | None = None
    """What opens a file without decoding it, where that is not the library."""
    claims: Callable[[bytes], tuple[int, int]] | None = None
    """The largest width and height that a file says of anything in it, where the library looks at less before it decodes."""
    refuses: Callable[[Image.Image], str] = lambda image: ""
    """Why an opened file is not taken, or "": numbers that have no place here."""
    more: Callable[[Image.Image], str] = frames_of
    """What is said of further frames or pages, which are left out, or ""."""
    states: Callable[[bytes, Image.Image], tuple[Encoding | None, str]] = _nothing_stated
    """What the file states of its colors before an embedded profile, and what is to be said of it. A profile that the library does
    not find is put where it puts one."""
    low_halves: Callable[[bytes, Image.Image], Image.Image | None] = _no_halves
    """The lower bytes of 16 bits a channel, of which the library reads the upper; None where there are none."""
    mend: Callable[[bytes, Image.Image], tuple[Image.Image, str]] = _as_it_is
    """The decoded picture as it is meant where the library takes the file by its word, and what is to be said of it."""
    is_turned: bool = False
    """Whether the library turns a picture upright as it decodes it."""
    most_pixels: int = MOST_PIXELS
    """Fewer where decoding takes long or much memory."""

    def opened(self, data: bytes) -> Image.Image:
        """The picture, opened and not decoded."""
        from PIL import Image

        if self.open is not None:
            return self.open(data)
        return Image.open(io.BytesIO(data), formats=(self.id,))


PICTURE_KINDS: Registry[PictureKind] = Registry("kind of picture")


def begins_with(*marks: bytes) -> Callable[[bytes], bool]:
    """Whether bytes begin with one of these."""
    return lambda data: data.startswith(marks)


def halves_by_layout(library: str, layouts: dict[str, str]) -> Callable[[bytes, Image.Image], Image.Image | None]:
    """What opens a file a second time for the lower halves of its numbers.

    Parameters
    ----------
    library : str
        The decoder.
    layouts : dict[str, str]
        By how the library takes the upper half of each number, how it takes the lower.

    Returns
    -------
    Callable[[bytes, Image.Image], Image.Image | None]
        The picture of lower halves, or None for a file of another layout.
    """

    def low(data: bytes, image: Image.Image) -> Image.Image | None:
        from PIL import Image
        from PIL.ImageFile import ImageFile

        tiles = image.tile if isinstance(image, ImageFile) else []
        stated = [tile.args if isinstance(tile.args, str) else (tile.args or ("",))[0] for tile in tiles]
        if not tiles or any(word not in layouts for word in stated):
            return None
        other = Image.open(io.BytesIO(data), formats=(library,))
        other.tile = [
            tile._replace(args=(layouts[word], *tile.args[1:]) if isinstance(tile.args, tuple) else layouts[word])
            for tile, word in zip(other.tile, stated, strict=True)
        ]  # fmt: skip
        other.load()
        return other

    return low
