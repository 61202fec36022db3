"""Kinds of picture files: made by another library or by hand from their standards, read with their colors, or refused in words."""

import io
import struct

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageCms

from huvren.core.errors import BadFile, HuvrenError, TooLarge
from huvren.core.formats.readings import read_palettes
from huvren.core.picture_kinds import PICTURE_KINDS, is_picture, kind_of
from huvren.core.picture_kinds.boxes import boxes
from huvren.core.pictures import pixels_claimed, read_picture
from tests.core.test_lying_pictures import MB, held_while
from tests.core.test_picture_color import SRGB_CURVE, of_space, para, profile
from tests.pictures import saved

P3_PROFILE = of_space("P3", para(SRGB_CURVE))
RANDOM = np.random.default_rng(7)
RGB = RANDOM.integers(0, 256, (20, 30, 3), dtype=np.uint8)
RGBA = np.dstack([RGB, RANDOM.integers(0, 256, (20, 30), dtype=np.uint8)])
DEEP = RANDOM.integers(0, 65_536, (20, 30, 3), dtype=np.uint16)
TONES = RANDOM.integers(0, 65_536, (20, 30), dtype=np.uint16)


def in_eight_bits(numbers: np.ndarray, most: int = 65_535) -> np.ndarray:
    return np.floor(numbers / most * 255 + 0.5).astype(np.uint8)


GRAY_PROFILE = profile({b"kTRC": para([1.8])}, b"GRAY")
LOSSLESS: list[tuple[str, str, dict[str, object]]] = [
    ("BMP", "BMP", {}), ("TIFF", "TIFF", {}), ("TIFF", "TIFF", {"compression": "tiff_lzw"}), ("PPM", "PPM", {}),
    ("TIFF", "TIFF", {"compression": "tiff_deflate"}), ("TIFF", "TIFF", {"compression": "packbits"}), ("PCX", "PCX", {}),
    ("TIFF", "TIFF", {"big_tiff": True}), ("TGA", "TGA", {}), ("TGA", "TGA", {"compression": "tga_rle"}),
    ("JPEG2000", "JPEG 2000", {}), ("JPEG2000", "JPEG 2000", {"no_jp2": True}), ("ICO", "ICO", {"sizes": [(30, 20)]}),
    ("ICO", "ICO", {"sizes": [(30, 20)], "bitmap_format": "bmp"}), ("PNG", "PNG", {}), ("WEBP", "WebP", {"lossless": True}),
]  # fmt: skip


@pytest.mark.parametrize(("kind", "label", "options"), LOSSLESS, ids=str)
def test_what_a_library_writes_keeps_its_pixels(kind: str, label: str, options: dict[str, object]) -> None:
    picture = read_picture(saved(Image.fromarray(RGB), kind, **options), "wrong.png")
    assert picture.format == label
    assert picture.notes == ()
    assert np.array_equal(picture.rgba[..., :3], RGB)
    assert picture.rgba[..., 3].min() == 255
    assert picture.as_stored == PICTURE_KINDS[picture.kind.id].is_shown == (label in ("PNG", "WebP"))


@pytest.mark.parametrize(("kind", "options"), [
    ("TIFF", {}), ("TGA", {}), ("TGA", {"compression": "tga_rle"}), ("JPEG2000", {}), ("ICO", {"sizes": [(30, 20)]}),
    ("ICO", {"sizes": [(30, 20)], "bitmap_format": "bmp"}),
], ids=str)  # fmt: skip
def test_alpha_is_kept(kind: str, options: dict[str, object]) -> None:
    assert np.array_equal(read_picture(saved(Image.fromarray(RGBA), kind, **options)).rgba, RGBA)


@pytest.mark.parametrize("kind", ["BMP", "TIFF", "PCX", "TGA", "GIF", "PNG"])
def test_the_table_of_an_indexed_picture_is_read_in_its_order(kind: str) -> None:
    indexed = Image.fromarray(RGB).quantize(9)
    table = np.array(indexed.getpalette()).reshape(-1, 3)[:9]
    reading = read_palettes(saved(indexed, kind), "a")[0]
    assert reading.format is not None
    assert reading.format.id == "color-table"
    found = [swatch.color.bytes[:3] for swatch in reading.found.palette.swatches][:9]
    assert found == [tuple(row) for row in table.tolist()]
    assert "own-colors" in [each.format.id for each in read_palettes(saved(indexed, kind), "a") if each.format]


def test_avif_is_near_and_says_what_it_is() -> None:
    flat = np.full((32, 32, 3), (200, 60, 20), np.uint8)
    picture = read_picture(saved(Image.fromarray(flat), "AVIF", quality=100, subsampling="4:4:4"))
    assert picture.format == "AVIF"
    assert np.abs(picture.rgba[..., :3].astype(int) - flat).max() <= 2
    wide = saved(Image.fromarray(flat), "AVIF", quality=100, subsampling="4:4:4", icc_profile=P3_PROFILE)
    assert "Converted" in read_picture(wide).notes[0]


def _with_nclx(primaries: int, transfer: int) -> bytes:
    data = saved(Image.fromarray(np.full((32, 32, 3), (200, 60, 20), np.uint8)), "AVIF", quality=100, subsampling="4:4:4")
    at = data.index(b"nclx")
    return data[: at + 4] + struct.pack(">HH", primaries, transfer) + data[at + 8 :]


def test_numbers_of_avif_are_followed_or_said() -> None:
    assert read_picture(_with_nclx(2, 2)).notes == ()
    p3 = read_picture(_with_nclx(12, 13))
    assert p3.notes == ("Converted from numbers 12, 13 of H.273 to sRGB.",)
    assert p3.rgba[0, 0, 0] > 205
    assert "PQ" in read_picture(_with_nclx(9, 16)).notes[0]


# BMP, by its headers.


def bmp(header: bytes, rows: bytes, table: bytes = b"", after: bytes = b"") -> bytes:
    begin = 14 + len(header) + len(table)
    return b"BM" + struct.pack("<IHHI", begin + len(rows) + len(after), 0, 0, begin) + header + table + rows + after


def info(width: int, height: int, bits: int, way: int = 0, size: int = 40, colors: int = 0, rest: bytes = b"") -> bytes:
    return (struct.pack("<IiiHHIIiiII", size, width, height, 1, bits, way, 0, 2835, 2835, colors, 0) + rest).ljust(size, b"\0")


PIXELS = np.array([[(255, 0, 0), (0, 255, 0), (0, 0, 255)], [(9, 8, 7), (90, 80, 70), (250, 240, 230)]], np.uint8)


def rows_of(pixels: np.ndarray) -> bytes:
    """Blue first, from below, to full words."""
    return b"".join(row[:, ::-1].tobytes().ljust(-(-row.size // 4) * 4, b"\0") for row in pixels[::-1])


@pytest.mark.parametrize("data", [
    bmp(struct.pack("<IHHHH", 12, 3, 2, 1, 24), rows_of(PIXELS)),
    bmp(info(3, 2, 24), rows_of(PIXELS)),
    bmp(info(3, -2, 24), rows_of(PIXELS[::-1])),
    bmp(info(3, 2, 24, size=64), rows_of(PIXELS)),
    bmp(info(3, 2, 24, size=108, rest=b"\0" * 16 + b"BGRs"), rows_of(PIXELS)),
    bmp(info(3, 2, 24, size=124, rest=b"\0" * 16 + b" niW"), rows_of(PIXELS)),
    bmp(info(3, 2, 32), rows_of(np.dstack([np.zeros((2, 3), np.uint8), PIXELS]))),
], ids=["12", "40", "upside-down", "64", "108", "124", "32 bits"])  # fmt: skip
def test_bitmaps_by_hand(data: bytes) -> None:
    picture = read_picture(data)
    assert picture.notes == ()
    assert np.array_equal(picture.rgba[..., :3], PIXELS)


def test_bitmaps_by_runs_with_tables_and_with_profiles() -> None:
    table = bytes([0, 0, 255, 0, 0, 255, 0, 0, 255, 0, 0, 0])  # red, green, blue
    runs = bytes([2, 1, 1, 2, 0, 0, 0, 3, 0, 1, 2, 0, 0, 1])  # below: green, green, blue; above, one by one: red, green, blue
    picture = read_picture(bmp(info(3, 2, 8, way=1, colors=3), runs, table))
    assert picture.rgba[..., :3].tolist() == [[[255, 0, 0], [0, 255, 0], [0, 0, 255]], [[0, 255, 0], [0, 255, 0], [0, 0, 255]]]
    assert picture.own_palette == ((255, 0, 0), (0, 255, 0), (0, 0, 255))
    offset = 124 + len(rows_of(PIXELS))
    header = info(3, 2, 24, size=124, rest=b"\0" * 16 + b"DEBM" + b"\0" * 52 + struct.pack("<II", offset, len(P3_PROFILE)))
    wide = read_picture(bmp(header, rows_of(PIXELS), after=P3_PROFILE))
    assert "Converted from" in wide.notes[0]
    assert not np.array_equal(wide.rgba[1, ..., :3], PIXELS[1])
    ends = b"\1" * 36 + b"\0" * 12
    stated = read_picture(bmp(info(3, 2, 24, size=108, rest=b"\0" * 20 + ends), rows_of(PIXELS)))
    assert stated.notes == ("It states primaries and gammas of its own, which are not read here; its colors were taken as sRGB.",)


# TIFF, by its tags.


def tiff(tags: dict[int, tuple[int, list[int]]], pixels: bytes, order: str = "<", pages: int = 1) -> bytes:
    """kinds of values: 3 has 2 bytes, 4 has 4. The strip lies behind the header."""
    form = {3: "H", 4: "I"}
    whole = (b"II*\0" if order == "<" else b"MM\0*") + struct.pack(f"{order}I", 8 + len(pixels)) + pixels
    for page in range(pages):
        entries = b""
        listed = {**tags, 273: (4, [8]), 279: (4, [len(pixels)])}
        after = len(whole) + 2 + 12 * len(listed) + 4
        beyond = b""
        for tag, (kind, values) in sorted(listed.items()):
            packed = struct.pack(f"{order}{len(values)}{form[kind]}", *values)
            if len(packed) > 4:
                place = struct.pack(f"{order}I", after + len(beyond))
                beyond += packed
            else:
                place = packed.ljust(4, b"\0")
            entries += struct.pack(f"{order}HHI", tag, kind, len(values)) + place
        following = after + len(beyond) if page + 1 < pages else 0
        whole += struct.pack(f"{order}H", len(listed)) + entries + struct.pack(f"{order}I", following) + beyond
    return whole


def tags(pixels: np.ndarray, photometric: int, **more: list[int]) -> dict[int, tuple[int, list[int]]]:
    height, width = pixels.shape[:2]
    count = 1 if pixels.ndim == 2 else pixels.shape[2]
    made = {256: (3, [width]), 257: (3, [height]), 258: (3, [pixels.dtype.itemsize * 8] * count), 259: (3, [1])}
    made |= {262: (3, [photometric]), 277: (3, [count]), 278: (3, [height])}
    return made | {int(tag[1:]): (3, values) for tag, values in more.items()}


@pytest.mark.parametrize("order", ["<", ">"])
def test_tiff_of_sixteen_bits_keeps_them_until_it_is_rounded(order: str) -> None:
    picture = read_picture(tiff(tags(DEEP, 2), DEEP.astype(f"{order}u2").tobytes(), order))
    assert np.array_equal(picture.rgba[..., :3], in_eight_bits(DEEP))
    assert picture.notes == ("Brought from 16 to 8 bits a channel.",)
    gray = read_picture(tiff(tags(TONES, 1), TONES.astype(f"{order}u2").tobytes(), order))
    assert np.array_equal(gray.rgba[..., 1], in_eight_bits(TONES))
    white_is_zero = tiff(tags(TONES, 0), TONES.astype(f"{order}u2").tobytes(), order)
    inverse = read_picture(white_is_zero)
    assert np.array_equal(inverse.rgba[..., 1], in_eight_bits(65_535 - TONES.astype(int)))


def test_compressed_tiff_of_sixteen_bits() -> None:
    plain = tiff(tags(DEEP, 2), DEEP.astype("<u2").tobytes())
    packed = Image.open(io.BytesIO(plain))
    assert packed.mode == "RGB"
    import zlib

    body = zlib.compress(DEEP.astype(">u2").tobytes())
    listed = {**tags(DEEP, 2), 259: (3, [8])}
    assert np.array_equal(read_picture(tiff(listed, body, ">")).rgba[..., :3], in_eight_bits(DEEP))


def test_tiff_says_what_it_leaves_out_or_does_not_take() -> None:
    pages = read_picture(tiff(tags(RGB, 2), RGB.tobytes(), pages=3))
    assert pages.notes == ("It has further pages; the first one was taken.",)
    assert np.array_equal(pages.rgba[..., :3], RGB)
    for numbers, kind in ((np.zeros((4, 4), np.float32), 3), (np.zeros((4, 4), np.int32), 2)):
        with pytest.raises(BadFile, match="Save it with 8 or 16 bits a channel"):
            read_picture(tiff(tags(numbers, 1, t339=[kind]), numbers.tobytes()), "a.tif")
    clear = np.dstack([DEEP, np.full(DEEP.shape[:2], 65_535, np.uint16)])
    premultiplied = read_picture(tiff(tags(clear, 2, t338=[1]), clear.astype("<u2").tobytes()))
    assert premultiplied.notes == ("The upper 8 of 16 bits a channel were taken.",)


def test_tiff_is_turned_upright_once() -> None:
    picture = read_picture(tiff(tags(RGB, 2, t274=[6]), RGB.tobytes()))
    assert (picture.width, picture.height) == (20, 30)
    assert np.array_equal(picture.rgba[..., :3], np.rot90(RGB, -1))
    assert picture.notes == ("Turned upright as its camera data says.",)
    deep = read_picture(tiff(tags(DEEP, 2, t274=[3]), DEEP.astype("<u2").tobytes()))
    assert np.array_equal(deep.rgba[..., :3], np.rot90(in_eight_bits(DEEP), 2))


def test_lab_and_profiles_of_tiff() -> None:
    lab = ImageCms.profileToProfile(
        Image.fromarray(RGB), ImageCms.createProfile("sRGB"), ImageCms.createProfile("LAB"), outputMode="LAB"
    )
    assert lab is not None
    picture = read_picture(saved(lab, "TIFF"))
    assert picture.notes == ("Converted from CIE Lab to sRGB.",)
    assert np.median(np.abs(picture.rgba[..., :3].astype(int) - RGB)) <= 2
    deep = tiff({**tags(DEEP, 2)}, DEEP.astype("<u2").tobytes())
    assert read_picture(deep).notes == ("Brought from 16 to 8 bits a channel.",)
    inverse = saved(Image.fromarray(65_535 - TONES), "TIFF", icc_profile=GRAY_PROFILE, tiffinfo={262: 0})
    upright = saved(Image.fromarray(TONES), "TIFF", icc_profile=GRAY_PROFILE)
    assert np.array_equal(read_picture(inverse).rgba, read_picture(upright).rgba)
    assert "Converted from" in " ".join(read_picture(inverse).notes)
    wide = read_picture(saved(Image.fromarray(RGB), "TIFF", icc_profile=P3_PROFILE))
    same = read_picture(saved(Image.fromarray(RGB), "PNG", icc_profile=P3_PROFILE))
    assert np.array_equal(wide.rgba, same.rgba)


def test_sixteen_bits_of_gray_with_alpha() -> None:
    import zlib

    from tests.pictures import chunk

    alpha = RANDOM.integers(0, 65_536, TONES.shape, dtype=np.uint16)
    rows = b"".join(
        b"\0" + np.stack([tone, clear], axis=-1).astype(">u2").tobytes() for tone, clear in zip(TONES, alpha, strict=True)
    )
    header = struct.pack(">IIBBBBB", 30, 20, 16, 4, 0, 0, 0)
    data = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")
    picture = read_picture(data)
    assert np.array_equal(picture.rgba[..., 2], in_eight_bits(TONES))
    assert np.array_equal(picture.rgba[..., 3], in_eight_bits(alpha))
    assert picture.notes == ("Brought from 16 to 8 bits a channel.",)


# Portable maps.

GRAY = np.array([[0, 5, 10], [15, 3, 7]])
FEW = bytes([0, 5, 10, 15, 3, 7])


@pytest.mark.parametrize(("data", "wanted"), [
    (b"P2\n3 2\n15\n0 5 10\n15 3 7\n", in_eight_bits(GRAY, 15)),
    (b"P2 # made by hand\n# 9 9\n3\t2\r15 #\n0 5 10 # five\n15 3 7", in_eight_bits(GRAY, 15)),
    (b"P5 3 2 15\n" + FEW, in_eight_bits(GRAY, 15)),
    (b"P5\n3 2\n65535\n" + struct.pack(">6H", 0, 128, 129, 32_767, 32_768, 65_535), np.array([[0, 0, 1], [127, 128, 255]])),
    (b"P1\n3 2\n010\n1 1 0", np.array([[255, 0, 255], [0, 0, 255]])),
    (b"P4\n3 2\n" + bytes([0b01000000, 0b11011111]), np.array([[255, 0, 255], [0, 0, 255]])),
    (b"P7\nWIDTH 3\nHEIGHT 2\nDEPTH 1\nMAXVAL 15\nTUPLTYPE GRAYSCALE\nENDHDR\n" + FEW, in_eight_bits(GRAY, 15)),
    (b"P7\n# by hand\nMAXVAL 15\nDEPTH 1\nHEIGHT 2\nWIDTH 3\nENDHDR\n" + FEW, in_eight_bits(GRAY, 15)),
], ids=["P2", "comments", "P5", "P5 of 16 bits", "P1", "P4", "P7", "P7 in another order"])  # fmt: skip
def test_portable_maps(data: bytes, wanted: np.ndarray) -> None:
    picture = read_picture(data)
    assert picture.format == "PPM"
    assert np.array_equal(picture.rgba[..., 0], wanted)
    assert np.array_equal(picture.rgba[..., 2], wanted)
    assert bool(picture.notes) == (b"65535" in data)


def test_portable_maps_of_color() -> None:
    text = "P3\n30 20 255\n" + "\n".join(" ".join(map(str, row.ravel())) for row in RGB)
    assert np.array_equal(read_picture(text.encode()).rgba[..., :3], RGB)
    whole = b"P7\nWIDTH 30\nHEIGHT 20\nDEPTH 4\nMAXVAL 255\nTUPLTYPE RGB_ALPHA\nENDHDR\n" + RGBA.tobytes()
    assert np.array_equal(read_picture(whole).rgba, RGBA)


@pytest.mark.parametrize("data", [
    b"P5\n3 2\n15\n" + bytes([0, 5, 10, 16, 3, 7]), b"P5\n3 2\n15\n\0\5", b"P2\n3 2\n15\n0 5 10 15 3", b"P2\n3 2\n15\n0 5 x 15 3 7 8",

    b"P2\n3 2\n15\n0 -5 10 15 3 7", b"P5\n3 2\n0\n" + bytes(6), b"P5\n0 2\n15\n", b"P5\n3 2\n70000\n" + bytes(12),
    b"P1\n3 2\n010 112",
    b"P7\nWIDTH 3\nENDHDR\n" + bytes(9), b"P5 3", b"P6\n# " + b"x" * 5000,
], ids=repr)  # fmt: skip
def test_portable_maps_that_make_no_sense(data: bytes) -> None:
    with pytest.raises(BadFile):
        read_picture(data, "a.ppm")


# TGA, which has no mark.


def tga(pixels: bytes, kind: int, depth: int, flags: int = 0x20, table: bytes = b"", entry: int = 0, said: bytes = b"") -> bytes:
    count = len(table) // max(entry // 8, 1)
    return (
        struct.pack("<BBBHHBHHHHBB", len(said), bool(table), kind, 0, count, entry, 0, 0, 3, 2, depth, flags) + said + table + pixels
    )


def test_tga_by_hand() -> None:
    upright = PIXELS[..., ::-1].tobytes()
    assert np.array_equal(read_picture(tga(upright, 2, 24)).rgba[..., :3], PIXELS)
    assert np.array_equal(read_picture(tga(upright, 2, 24, flags=0)).rgba[..., :3], PIXELS[::-1])
    assert np.array_equal(read_picture(tga(upright, 2, 24, flags=0x30)).rgba[..., :3], PIXELS[:, ::-1])
    assert np.array_equal(read_picture(tga(upright, 2, 24, said=b"a note")).rgba[..., :3], PIXELS)
    with_none = np.dstack([PIXELS[..., ::-1], np.zeros((2, 3), np.uint8)]).tobytes()
    unsaid = read_picture(tga(with_none, 2, 32, flags=0x20))
    assert np.array_equal(unsaid.rgba[..., :3], PIXELS)
    assert unsaid.rgba[..., 3].min() == 255
    assert read_picture(tga(with_none, 2, 32, flags=0x28)).rgba[..., 3].max() == 0
    words = struct.pack("<6H", 0x7C00, 0x03E0, 0x001F, 0x0000, 0x7FFF, 0xFC00)
    fifteen = read_picture(tga(words, 2, 16, flags=0x21))
    assert fifteen.rgba[0].tolist() == [[255, 0, 0, 255], [0, 255, 0, 255], [0, 0, 255, 255]]
    assert fifteen.rgba[1, 2].tolist() == [255, 0, 0, 255]
    assert fifteen.notes == ("One bit of each pixel is for overlays and was left out.",)
    table = bytes([0, 0, 255, 0, 255, 0, 255, 0, 0])
    indexed = read_picture(tga(bytes([0, 1, 2, 2, 1, 0]), 1, 8, table=table, entry=24))
    assert indexed.own_palette == ((255, 0, 0), (0, 255, 0), (0, 0, 255))
    assert np.array_equal(indexed.rgba[0, :, :3], PIXELS[0])


def test_nothing_else_is_taken_for_a_tga() -> None:
    table = bytes(range(256)) * 3
    assert not is_picture(table)
    assert not is_picture(table + struct.pack(">HH", 256, 0xFFFF))
    for length in (0, 1, 17, 18, 19, 400):
        assert kind_of(bytes(length)) is None
    for count in range(1, 3000):
        assert not is_picture(struct.pack(">HH", 1, count) + struct.pack(">HHHHH", 0, 65_535, 0, 0, 0) * 3)


@given(st.binary(max_size=2000))
@settings(max_examples=300, deadline=None)
def test_bytes_that_come_by_chance_are_answered_in_words(data: bytes) -> None:
    for begin in (
        b"",
        b"\0\0\x02" + bytes(9),
        b"\x0a\x05\x01\x08",
        b"\0\0\x01\0\x01\0",
        b"II*\0\x08\0\0\0",
        b"P6 ",
        b"BM" + bytes(12) + b"\x28\0\0\0",
    ):
        try:
            read_picture(begin + data, "chance", 1_000_000)
        except (BadFile, TooLarge):
            continue


# PCX.


def pcx(
    rows: bytes, bits: int, planes: int, width: int, height: int, version: int = 5, table: bytes = b"", tail: bytes = b""
) -> bytes:
    head = struct.pack("<BBBB4H2H", 10, version, 1, bits, 0, 0, width - 1, height - 1, 72, 72) + table.ljust(48, b"\0")
    head += struct.pack("<BBHH", 0, planes, -(-width * bits // 16) * 2, 1)
    return head.ljust(128, b"\0") + rows + tail


def test_pcx_by_hand() -> None:
    red, green, blue = PIXELS.transpose(2, 0, 1).tolist()
    lines = [line + [0] for y in range(2) for line in (red[y], green[y], blue[y])]
    coded = b"".join(bytes([0xC1, value]) for line in lines for value in line)
    assert np.array_equal(read_picture(pcx(coded, 8, 3, 3, 2)).rgba[..., :3], PIXELS)
    indices = bytes([0, 1, 2, 0, 2, 1, 0, 0])
    by_table = read_picture(pcx(indices, 8, 1, 3, 2, tail=b"\x0c" + bytes([255, 0, 0, 0, 255, 0, 0, 0, 255]).ljust(768, b"\0")))
    assert np.array_equal(by_table.rgba[0, :, :3], PIXELS[0])
    planes = b"".join(bytes([0xC1, byte, 0]) for byte in (0b10100000, 0b11000000, 0b00000000, 0b10000000))  # 11, 2, 1
    own = bytes(range(48))
    assert read_picture(pcx(planes, 1, 4, 3, 1, table=own)).rgba[0, :, 0].tolist() == [33, 6, 3]
    usual = read_picture(pcx(planes, 1, 4, 3, 1, version=3, table=own))
    assert usual.rgba[0, :, :3].tolist() == [[85, 255, 255], [0, 170, 0], [0, 0, 170]]
    assert usual.notes == ("It has no color table of its own; the usual 16 colors were taken.",)


# What files say of themselves and what they hold.


def icon(*icons: tuple[bytes, tuple[int, int, int]]) -> bytes:
    at = 6 + 16 * len(icons)
    heads, bodies = b"", b""
    for body, (width, height, depth) in icons:
        heads += struct.pack("<BBBBHHII", width, height, 0, 0, 1, depth, len(body), at + len(bodies))
        bodies += body
    return struct.pack("<HHH", 0, 1, len(icons)) + heads + bodies


def test_the_largest_icon_is_taken_by_what_it_is() -> None:
    small, large = (saved(Image.new("RGB", (side, side), color), "PNG") for side, color in ((16, "red"), (300, "blue")))
    picture = read_picture(icon((small, (16, 16, 32)), (large, (0, 0, 8))))
    assert (picture.width, picture.rgba[0, 0].tolist()) == (300, [0, 0, 255, 255])
    assert picture.notes == ("It holds 2 icons; the largest was taken.",)
    bitmap = info(3, 4, 24) + rows_of(PIXELS) + bytes(8)
    lying = read_picture(icon((bitmap, (200, 90, 24))))
    assert np.array_equal(lying.rgba[..., :3], PIXELS)
    assert lying.notes == ()


def test_files_that_claim_too_much_are_refused_before_they_are_decoded() -> None:
    from tests.pictures import png_claiming

    bomb = icon((png_claiming(20_000, 20_000), (16, 16, 32)))
    large = [bomb, icon((info(15_000, 30_000, 24) + bytes(100), (16, 16, 24))), b"P5\n20000 20000\n255\n" + bytes(100)]
    large += [b"P4\n20000 20000\n" + bytes(100), tiff({**tags(RGB, 2), 256: (4, [60_000]), 257: (4, [60_000])}, RGB.tobytes())]
    stream = bytearray(saved(Image.fromarray(RGB), "JPEG2000", no_jp2=True))
    struct.pack_into(">II", stream, 8, 6000, 6000)
    large.append(bytes(stream))
    for data in large:
        with pytest.raises(TooLarge, match="million"):
            pixels_claimed(data, "a")

        def read(data: bytes = data) -> None:
            with pytest.raises(TooLarge):
                read_picture(data, "a")

        assert held_while(read) < 24 * MB


def test_what_lies_behind_the_pixels_of_a_map_is_not_read() -> None:
    long = b"P2\n2 1\n255\n7 8 \n" + b"9 9 9 9\n" * 3_000_000

    def read() -> None:
        assert read_picture(long).rgba[0, :, 0].tolist() == [7, 8]

    assert held_while(read) < 48 * MB


def test_long_lists_of_pages_and_boxes_end() -> None:
    pages = tiff(tags(RGB[:1, :1], 2), b"\1\2\3", pages=20_000)
    assert read_picture(pages).notes == ("It has further pages; the first one was taken.",)
    assert len(list(boxes(b"\0\0\0\x08free" * 50_000))) == 10_000
    assert [word for word, *_ in boxes(struct.pack(">I4sQ", 1, b"wide", 24) + b"12345678" + struct.pack(">I4s", 0, b"last"))] == [
        b"wide",
        b"last",
    ]
    assert list(boxes(struct.pack(">I4s", 3, b"none"))) == []


@pytest.mark.parametrize("kind", [kind.id for kind in PICTURE_KINDS])
def test_every_kind_cut_short_or_changed_ends_in_words(kind: str) -> None:
    data = saved(Image.fromarray(RGB), kind, **({"sizes": [(30, 20)]} if kind == "ICO" else {}))
    assert kind_of(data) is PICTURE_KINDS[kind]
    dice = np.random.default_rng(11)
    for _ in range(150):
        broken = bytearray(data[: dice.integers(1, len(data) + 1)] if dice.random() < 0.5 else data)
        for place in dice.integers(0, len(broken), 3):
            broken[place] = dice.integers(0, 256)
        try:
            read_picture(bytes(broken), "a", 1_000_000)
        except HuvrenError:
            continue
