"""Pictures, profiles and gzipped drawings whose size fields lie: answered in words or read, within what their pixels may take."""

import functools
import gzip
import struct
import zlib
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageCms

from huvren.core.errors import BadFile, TooLarge
from huvren.core.formats.readings import read_palette
from huvren.core.pictures import read_picture
from tests.pictures import painted, saved

MB = 1024 * 1024
MOST_PIXELS = 1_000_000
MOST_HELD = 16 * MOST_PIXELS + 24 * MB
"""What the gate counts a picture of the most pixels as, and what the libraries hold besides."""
RGB = painted(24, 40)[..., :3]
PROFILE = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


def _held(what: str) -> int:
    line = next(line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith(what))
    return int(line.split()[1]) * 1024


def held_while(run: Callable[[], object]) -> int:
    """The most memory that the process took meanwhile, beyond what it had: that of libraries is seen too. Linux, `proc(5)`."""
    Path("/proc/self/clear_refs").write_text("5")
    before = _held("VmRSS")
    run()
    return _held("VmHWM") - before


@dataclass(frozen=True)
class Lie:
    """A field that says a size: where it is, its form, and the field after it that a checksum of a PNG covers."""

    at: int
    form: str
    chunk: int | None = None


@dataclass(frozen=True)
class File:
    data: bytes
    name: str
    lies: dict[str, Lie] = field(default_factory=dict)

    def lying(self, values: dict[str, int]) -> bytes:
        data = bytearray(self.data)
        for name, value in values.items():
            lie = self.lies[name]
            struct.pack_into(lie.form, data, lie.at, value % (1 << (8 * struct.calcsize(lie.form))))
            if lie.chunk is not None:
                (length,) = struct.unpack_from(">I", self.data, lie.chunk)
                body = data[lie.chunk + 4 : lie.chunk + 8 + length]
                struct.pack_into(">I", data, lie.chunk + 8 + length, zlib.crc32(body))
        return bytes(data)


def _png() -> File:
    data = saved(Image.fromarray(RGB), "PNG", icc_profile=PROFILE)
    lies = {"width": Lie(16, ">I", 8), "height": Lie(20, ">I", 8), "depth": Lie(24, "B", 8), "color": Lie(25, "B", 8)}
    for kind in (b"iCCP", b"IDAT", b"IEND"):
        lies[f"length of {kind.decode()}"] = Lie(data.index(kind) - 4, ">I")
    return File(data, "a.png", lies)


def _gif() -> File:
    data = saved(Image.fromarray(RGB).quantize(16), "GIF")
    image = data.index(b"\x2c", 13 + 3 * (2 << (data[10] & 7)))
    lies = {"width": Lie(6, "<H"), "height": Lie(8, "<H"), "table": Lie(10, "B")}
    lies |= {f"frame {n}": Lie(image + 1 + 2 * n, "<H") for n in range(4)}
    return File(
        data, "a.gif", lies | {"frame table": Lie(image + 9, "B"), "code size": Lie(image + 10, "B"), "block": Lie(image + 11, "B")}
    )


def _webp(lossless: bool) -> File:
    data = saved(Image.fromarray(RGB), "WEBP", lossless=lossless, icc_profile=PROFILE)
    body = data.index(b"VP8L" if lossless else b"VP8 ")
    lies = {"whole": Lie(4, "<I"), "canvas": Lie(data.index(b"VP8X") + 12, "<Q"), "profile": Lie(data.index(b"ICCP") + 4, "<I")}
    lies |= {"body": Lie(body + 4, "<I"), "size": Lie(body + (9 if lossless else 14), "<I")}
    return File(data, "a.webp", lies)


def _jpeg() -> File:
    data = saved(Image.fromarray(RGB), "JPEG", icc_profile=PROFILE)
    frame = data.index(b"\xff\xc0")
    lies = {
        "frame": Lie(frame + 2, ">H"),
        "height": Lie(frame + 5, ">H"),
        "width": Lie(frame + 7, ">H"),
        "parts": Lie(frame + 9, "B"),
    }
    return File(
        data, "a.jpg", lies | {"profile": Lie(data.index(b"\xff\xe2") + 2, ">H"), "table": Lie(data.index(b"\xff\xdb") + 2, ">H")}
    )


def _profile() -> File:
    """The fields of the profile itself, in a file that says nothing else of it: 128 bytes of heading, then the tags."""
    data = saved(Image.fromarray(RGB), "JPEG", icc_profile=PROFILE)
    begin = data.index(PROFILE[36:40]) - 36
    lies = {"size": Lie(begin, ">I"), "tags": Lie(begin + 128, ">I")}
    for tag in range(struct.unpack_from(">I", PROFILE, 128)[0]):
        lies |= {f"offset {tag}": Lie(begin + 136 + 12 * tag, ">I"), f"size {tag}": Lie(begin + 140 + 12 * tag, ">I")}
    return File(data, "profile.jpg", lies)


def _of_kind(kind: str, **options: object) -> File:
    """Any number near the beginning or the end lies: sizes, tags, places of other numbers."""
    data = saved(Image.fromarray(RGB), kind, **options)
    places = {*range(min(len(data) - 4, 400)), *range(max(0, len(data) - 300), len(data) - 4)}
    return File(data, f"a.{kind}", {f"{form} {at}": Lie(at, form) for at in sorted(places) for form in ("<H", ">H", "<I", ">I")})


OTHERS = [
    _of_kind("BMP"), _of_kind("TIFF"), _of_kind("TIFF", compression="tiff_deflate"), _of_kind("AVIF"), _of_kind("JPEG2000"),
    _of_kind("JPEG2000", no_jp2=True), _of_kind("ICO", sizes=[(40, 24)]), _of_kind("ICO", sizes=[(40, 24)], bitmap_format="bmp"),
    _of_kind("PCX"), _of_kind("PPM"), _of_kind("TGA", compression="tga_rle"),
]  # fmt: skip
FILES = [_png(), _gif(), _webp(True), _webp(False), _jpeg(), _profile(), *OTHERS]
VALUES = st.one_of(st.sampled_from([0, 1, 2, 255, 1000, 65_535, MB, 2**31 - 1, 2**31, 2**32 - 1]), st.integers(0, 2**32 - 1))


@pytest.mark.parametrize("file", FILES, ids=lambda file: file.name)
def test_the_file_itself_is_read(file: File) -> None:
    assert read_picture(file.data, file.name, MOST_PIXELS).rgba.shape == (24, 40, 4)
    assert file.lying({}) == file.data


@pytest.mark.parametrize("file", FILES, ids=lambda file: file.name)
@given(data=st.data())
@settings(max_examples=60, deadline=None)
def test_sizes_that_lie_cost_no_more_than_a_picture_of_the_most_pixels(file: File, data: st.DataObject) -> None:
    values = data.draw(st.dictionaries(st.sampled_from(sorted(file.lies)), VALUES, min_size=1, max_size=4))

    def read() -> None:
        try:
            picture = read_picture(file.lying(values), file.name, MOST_PIXELS)
        except (BadFile, TooLarge):
            return
        assert picture.rgba.dtype == np.uint8
        assert 0 < picture.width * picture.height <= MOST_PIXELS

    assert held_while(read) <= MOST_HELD


@functools.cache
def _drawing(blanks: int) -> tuple[bytes, int]:
    """A gzipped drawing with so many blanks in it, and its length before."""
    text = b'<svg xmlns="http://www.w3.org/2000/svg"><rect fill="#e85421"/>' + b" " * blanks + b"</svg>"
    return gzip.compress(text, 1, mtime=0), len(text)


@given(claimed=VALUES, blanks=st.sampled_from([0, 1000, 150 * MB]))
@settings(max_examples=20, deadline=None)
def test_a_gzipped_drawing_may_say_any_size(claimed: int, blanks: int) -> None:
    packed, length = _drawing(blanks)
    data = packed[:-4] + struct.pack("<I", claimed)

    def read() -> None:
        try:
            assert [s.color.hex for s in read_palette(data, "a.svgz")[1].palette.swatches] == ["#e85421"]
        except TooLarge:
            assert blanks > 20 * MB
        except BadFile:
            assert claimed != length

    # The twenty million letters that a drawing may have, as they are and as text, and not the hundred and fifty that stand there.
    assert held_while(read) <= 3 * 20 * MB
