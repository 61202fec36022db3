"""What the numbers of a picture mean: profiles and chunks made by hand from the standards, coloraide beside them."""

import struct
import zlib
from typing import Any

import numpy as np
import pytest
from coloraide import Color
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from huvren.core.color.notation import parse_color
from huvren.core.formats import FORMATS, Document
from huvren.core.palette.values import Palette, Swatch
from huvren.core.picture_color import encoding_of_png, encoding_of_profile, to_srgb_bytes
from huvren.core.pictures import Picture, read_picture
from tests.core.test_lying_pictures import held_while
from tests.pictures import painted, saved

RGB = painted(20, 30)[..., :3]
LINEAR, TWO_TWO = [1.0], [2.2]
SRGB_CURVE = [2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045]
SPACES = {"P3": "display-p3", "A98": "a98-rgb", "sRGB": "srgb"}


def fixed(*values: float) -> bytes:
    return struct.pack(f">{len(values)}i", *(round(value * 65536) for value in values))


def para(numbers: list[float]) -> bytes:
    form = {1: 0, 3: 1, 4: 2, 5: 3, 7: 4}[len(numbers)]
    return b"para" + bytes(4) + struct.pack(">HH", form, 0) + fixed(*numbers)


def curv(entries: list[int]) -> bytes:
    return b"curv" + bytes(4) + struct.pack(f">I{len(entries)}H", len(entries), *entries)


def profile(tags: dict[bytes, bytes], space: bytes = b"RGB ", called: str = "Studio light") -> bytes:
    """An ICC profile of these elements (ICC.1:2022, §7)."""
    text = called.encode("utf-16-be")
    tags = {b"desc": b"mluc" + bytes(4) + struct.pack(">II2s2sII", 1, 12, b"en", b"US", len(text), 28) + text, **tags}
    head, body = struct.pack(">I", len(tags)), b""
    at = 128 + 4 + 12 * len(tags)
    for key, element in tags.items():
        head += struct.pack(">4sII", key, at + len(body), len(element))
        body += element + bytes(-len(element) % 4)
    whole = head + body
    first = struct.pack(">I4s4s4s4s4s12s4s", 128 + len(whole), b"none", b"\x04\x30\0\0", b"mntr", space, b"XYZ ", bytes(12), b"acsp")
    return (first + bytes(28) + fixed(0.9642, 1, 0.8249)).ljust(128, b"\0") + whole


def of_space(name: str, curve: bytes, called: str = "Studio light") -> bytes:
    """A profile of the primaries of a CSS color space, whose columns coloraide knows."""
    columns = [Color(f"color({SPACES[name]} {red} {green} {blue})").convert("xyz-d50").coords() for red, green, blue in np.eye(3)]
    tags = {key: b"XYZ " + bytes(4) + fixed(*column) for key, column in zip((b"rXYZ", b"gXYZ", b"bXYZ"), columns, strict=True)}
    return profile({**tags, b"rTRC": curve, b"gTRC": curve, b"bTRC": curve}, called=called)


def wanted(rgb: np.ndarray, space: str) -> np.ndarray:
    """Numbers of a CSS space as 8-bit sRGB, clipped."""
    rows = [Color(space, list(row / 255)).convert("srgb").coords() for row in rgb.reshape(-1, 3)]
    return np.floor(np.clip(np.array(rows), 0, 1) * 255 + 0.5).astype(np.uint8).reshape(rgb.shape)


def chunk(key: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + key + body + struct.pack(">I", zlib.crc32(key + body))


def deep_png(numbers: np.ndarray, *chunks: bytes) -> bytes:
    """A PNG of 16 bits a channel: gray, RGB or RGBA by the last axis."""
    height, width = numbers.shape[:2]
    kind = {1: 0, 3: 2, 4: 6}[1 if numbers.ndim == 2 else numbers.shape[2]]
    rows = numbers.astype(">u2").reshape(height, -1)
    pixels = b"".join(b"\0" + row.tobytes() for row in rows)
    head = chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 16, kind, 0, 0, 0))
    return b"\x89PNG\r\n\x1a\n" + head + b"".join(chunks) + chunk(b"IDAT", zlib.compress(pixels)) + chunk(b"IEND", b"")


def with_chunks(data: bytes, *chunks: bytes) -> bytes:
    """A PNG with more chunks behind its head."""
    return data[:33] + b"".join(chunks) + data[33:]


def gama(value: float) -> bytes:
    return chunk(b"gAMA", struct.pack(">I", round(value * 100_000)))


def cicp(*numbers: int) -> bytes:
    return chunk(b"cICP", bytes(numbers))


def chrm(*places: float) -> bytes:
    return chunk(b"cHRM", struct.pack(">8I", *(round(place * 100_000) for place in places)))


P3_PLACES = (0.3127, 0.3290, 0.680, 0.320, 0.265, 0.690, 0.150, 0.060)
SRGB_CHUNK = chunk(b"sRGB", b"\0")
PLAIN = saved(Image.fromarray(RGB), "PNG")


def seen(data: bytes) -> Picture:
    return read_picture(data)


def test_the_profile_of_a_wider_space_is_followed_in_every_kind_of_picture() -> None:
    icc = of_space("P3", para(SRGB_CURVE))
    for kind, error in (("PNG", 1), ("WEBP", 1), ("JPEG", 9)):
        told = {"lossless": True} if kind == "WEBP" else {"quality": 100, "subsampling": 0} if kind == "JPEG" else {}
        picture = seen(saved(Image.fromarray(RGB), kind, icc_profile=icc, **told))
        assert np.abs(picture.rgba[..., :3].astype(int) - wanted(RGB, "display-p3")).max() <= error, kind
        assert "Studio light" in picture.notes[0]
        assert not picture.as_stored
    clear = np.dstack([RGB, np.full(RGB.shape[:2], 90, np.uint8)])
    assert (seen(saved(Image.fromarray(clear), "PNG", icc_profile=icc)).rgba[..., 3] == 90).all()


@pytest.mark.parametrize(("name", "curve"), [("P3", para(SRGB_CURVE)), ("A98", para([563 / 256])), ("A98", curv([563]))])
def test_an_indexed_picture_has_the_colors_of_its_profile(name: str, curve: bytes) -> None:
    indexed = Image.fromarray(RGB).quantize(7)
    raw = np.array(indexed.getpalette("RGB"), np.uint8).reshape(-1, 3)[:7]
    picture = seen(saved(indexed, "PNG", icc_profile=of_space(name, curve), transparency=2))
    right = wanted(raw, SPACES[name])
    assert np.abs(np.array(picture.own_palette, int)[:7] - right).max() <= 1
    assert np.abs(picture.rgba[..., :3].astype(int) - right[np.asarray(indexed)]).max() <= 1
    assert np.array_equal(picture.rgba[..., 3] == 0, np.asarray(indexed) == 2)


def test_sixteen_bits_of_gray_go_through_their_curve_before_they_are_eight() -> None:
    gray = np.array([[0, 100, 655, 32_768, 65_535]], np.uint16)
    picture = seen(deep_png(gray, chunk(b"iCCP", b"g\0\0" + zlib.compress(profile({b"kTRC": para(LINEAR)}, b"GRAY")))))
    right = [round(Color("srgb-linear", [value / 65_535] * 3).convert("srgb").coords()[0] * 255) for value in gray[0]]
    assert picture.rgba[0, :, 0].tolist() == right
    assert right[1] == 5, "what 8 bits of light would have lost"
    assert any("16 to 8" in note for note in picture.notes)


@pytest.mark.parametrize("called", ["sRGB of our own", "Light"])
def test_the_name_of_a_profile_is_not_trusted(called: str) -> None:
    gray = Image.fromarray(np.full((4, 4, 3), 128, np.uint8))
    assert seen(saved(gray, "PNG", icc_profile=of_space("sRGB", para(LINEAR), called))).rgba[0, 0, 0] == 188
    same = seen(saved(Image.fromarray(RGB), "PNG", icc_profile=of_space("sRGB", para(SRGB_CURVE), called)))
    assert np.array_equal(same.rgba[..., :3], RGB)
    assert same.notes == ()


@pytest.mark.parametrize(
    ("element", "light"),
    [
        (curv([]), 0.5), (curv([256]), 0.5), (curv([0, 65535]), 0.5), (curv([0, 6554, 65535]), 0.1), (para([2.0]), 0.25),
        (para([2.0, 1.0, -0.25]), 0.0625), (para([2.0, 1.0, -0.75]), 0.0), (para([2.0, 1.0, -0.25, 0.125]), 0.1875),
        (para([2.0, 1.0, -0.75, 0.125]), 0.125), (para([2.0, 1.0, 0.0, 0.5, 0.75]), 0.25), (para([2.0, 1.0, 0.0, 0.5, 0.25]), 0.25),
        (para([2.0, 1.0, 0.0, 0.5, 0.75, 0.3, 0.125]), 0.375), (para([2.0, 1.0, 0.0, 0.5, 0.25, 0.3, 0.125]), 0.55),
    ],
)  # fmt: skip
def test_every_form_of_a_curve(element: bytes, light: float) -> None:
    found = encoding_of_profile(profile({b"kTRC": element}, b"GRAY"), "it")
    assert found is not None
    assert found.linear[32_768] == pytest.approx(light, abs=1e-4)


@pytest.mark.parametrize(
    ("chunks", "right"),
    [
        ((), "srgb"), ((SRGB_CHUNK,), "srgb"), ((gama(0.45455),), "srgb"), ((gama(0.45455), SRGB_CHUNK), "srgb"),
        ((gama(1.0),), "srgb-linear"), ((gama(1.0), SRGB_CHUNK), "srgb"), ((gama(0.45455), chrm(*P3_PLACES)), "display-p3"),
        ((chrm(*P3_PLACES),), "srgb"), ((cicp(12, 13, 0, 1),), "display-p3"), ((cicp(1, 13, 0, 1), gama(1.0)), "srgb"),
        ((cicp(1, 8, 0, 1), SRGB_CHUNK), "srgb-linear"), ((gama(1.0), cicp(12, 13, 0, 1)), "display-p3"),
        ((gama(1.0), gama(0.45455)), "srgb-linear"),
    ],
)  # fmt: skip
def test_of_what_chunks_say_the_first_in_the_standards_order_holds(chunks: tuple[bytes, ...], right: str) -> None:
    picture = seen(with_chunks(PLAIN, *chunks))
    assert np.abs(picture.rgba[..., :3].astype(int) - wanted(RGB, right)).max() <= 1
    assert bool(picture.notes) == (right != "srgb")


def test_a_profile_comes_before_gamma_and_behind_cicp() -> None:
    icc = saved(Image.fromarray(RGB), "PNG", icc_profile=of_space("P3", para(SRGB_CURVE)))
    assert np.abs(seen(with_chunks(icc, gama(1.0))).rgba[..., :3].astype(int) - wanted(RGB, "display-p3")).max() <= 1
    assert np.array_equal(seen(with_chunks(icc, cicp(1, 13, 0, 1))).rgba[..., :3], RGB), "sRGB by cICP, whatever the profile"
    linear = seen(with_chunks(icc, cicp(1, 8, 0, 1)))
    assert np.abs(linear.rgba[..., :3].astype(int) - wanted(RGB, "srgb-linear")).max() <= 1


@pytest.mark.parametrize(
    ("chunks", "said"),
    [
        ((cicp(9, 16, 0, 1),), "PQ"), ((cicp(9, 18, 0, 1),), "HLG"), ((cicp(77, 13, 0, 1),), "not known here"),
        ((cicp(1, 13, 0, 0),), "not known here"), ((gama(0),), "makes no sense"), ((gama(0.5), chrm(*[0.0] * 8)), "makes no sense"),
        ((gama(0.5), chrm(*[0.3] * 8)), "makes no sense"),
    ],
)  # fmt: skip
def test_what_is_not_followed_is_said(chunks: tuple[bytes, ...], said: str) -> None:
    picture = seen(with_chunks(PLAIN, *chunks))
    assert any(said in note for note in picture.notes)
    assert np.array_equal(picture.rgba[..., :3], RGB)


def test_a_chunk_that_is_damaged_says_nothing() -> None:
    broken = bytearray(gama(1.0))
    broken[9] ^= 1
    assert encoding_of_png(with_chunks(PLAIN, bytes(broken))) == (None, "")
    assert encoding_of_png(PLAIN[:40]) == (None, "")


def test_sixteen_bits_of_rgb_are_rounded_and_their_clear_color_is_kept() -> None:
    random = np.random.default_rng(5)
    numbers = random.integers(0, 65_536, (9, 11, 3), dtype=np.uint16)
    numbers[0, :3] = [[0x00FF] * 3, [0x0080] * 3, [0x0081] * 3]
    right = np.rint(numbers / 257).astype(np.uint8)
    assert np.array_equal(seen(deep_png(numbers)).rgba[..., :3], right)
    numbers[4, 4] = numbers[6, 6] = (1000, 2000, 3000)
    numbers[5, 5] = (1001, 2000, 3000)
    picture = seen(deep_png(numbers, chunk(b"tRNS", struct.pack(">3H", 1000, 2000, 3000))))
    assert np.argwhere(picture.rgba[..., 3] == 0).tolist() == [[4, 4], [6, 6]]
    four = random.integers(0, 65_536, (5, 6, 4), dtype=np.uint16)
    assert np.array_equal(seen(deep_png(four)).rgba, np.rint(four / 257).astype(np.uint8))
    gray = random.integers(0, 65_536, (5, 6), dtype=np.uint16)
    clear = seen(deep_png(gray, chunk(b"tRNS", struct.pack(">H", int(gray[2, 3])))))
    assert clear.rgba[2, 3, 3] == 0
    assert (clear.rgba[..., 3] == 0).sum() == (gray == gray[2, 3]).sum()
    light = seen(deep_png(np.full((2, 2, 3), 327, np.uint16), gama(1.0)))
    assert light.rgba[0, 0, 0] == 16, "with the precision that 16 bits have"


def adam7(numbers: np.ndarray) -> bytes:
    """A PNG of 16-bit RGB in the seven passes of interlacing (PNG, §8.1)."""
    passes = [(0, 0, 8, 8), (0, 4, 8, 8), (4, 0, 8, 4), (0, 2, 4, 4), (2, 0, 4, 2), (0, 1, 2, 2), (1, 0, 2, 1)]
    parts = [numbers[top::down, left::across].astype(">u2") for top, left, down, across in passes]
    pixels = b"".join(b"\0" + row.tobytes() for part in parts if part.size for row in part)
    head = chunk(b"IHDR", struct.pack(">IIBBBBB", numbers.shape[1], numbers.shape[0], 16, 2, 0, 0, 1))
    return b"\x89PNG\r\n\x1a\n" + head + chunk(b"IDAT", zlib.compress(pixels)) + chunk(b"IEND", b"")


def test_sixteen_bits_are_read_interlaced_and_turned_upright_too() -> None:
    numbers = np.random.default_rng(8).integers(0, 65_536, (9, 14, 3), dtype=np.uint16)
    right = np.rint(numbers / 257).astype(np.uint8)
    assert np.array_equal(seen(adam7(numbers)).rgba[..., :3], right)
    exif = Image.Exif()
    exif[0x0112] = 6
    turned = seen(deep_png(numbers, chunk(b"eXIf", exif.tobytes()[6:])))
    assert np.array_equal(turned.rgba[..., :3], np.rot90(right, -1))


def test_indexed_pictures_that_are_written_say_that_they_are_srgb() -> None:
    palette = Palette("Two", (Swatch(parse_color("#204060")), Swatch(parse_color("#e0a04080"))))
    write = FORMATS["indexed-png"].write
    assert write is not None
    written = write(Document(palette, frames=(np.array([[0, 1]], np.uint8),)))
    at = written.index(b"sRGB")
    assert written[at + 4] == 0
    assert at < written.index(b"PLTE")
    assert encoding_of_png(written) == (None, "")
    assert seen(written).rgba.tolist() == [[[0x20, 0x40, 0x60, 255], [0xE0, 0xA0, 0x40, 0x80]]]


def test_a_profile_whose_elements_all_lie_over_each_other_takes_no_more_than_it_is() -> None:
    body = curv([7] * 500_000)
    head = struct.pack(">I", 190) + b"".join(struct.pack(">2sHII", b"zz", place, 132, len(body)) for place in range(190))
    icc = bytes(16) + b"RGB XYZ " + bytes(104) + head + body
    assert encoding_of_profile(icc, "it") is None
    assert held_while(lambda: encoding_of_profile(icc, "it")) < 20 * len(icc)


@settings(deadline=None)
@given(st.integers(0, 700), st.integers(0, 255), st.integers(0, 600))
def test_a_profile_that_is_damaged_ends_in_no_unforeseen_error(place: int, value: int, length: int) -> None:
    icc: Any = bytearray(of_space("P3", para(SRGB_CURVE)))
    icc[place % len(icc)] = value
    for data in (bytes(icc), bytes(icc[:length])):
        found = encoding_of_profile(data, "it")
        assert found is None or np.isfinite(found.linear).all()
        if found is not None:
            to_srgb_bytes(RGB, found)
