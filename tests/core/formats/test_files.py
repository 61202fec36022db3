"""Files in and out: round trips over every registered format, independent readers, broken files."""

import contextlib
import io
import json

import numpy as np
import pytest
from PIL import Image, ImageCms
from PIL.GimpPaletteFile import GimpPaletteFile

from huvren.core.color.notation import parse_color
from huvren.core.errors import BadFile, BadInput, HuvrenError, TooLarge
from huvren.core.formats import FORMATS, Document, Format, read_palette
from huvren.core.palette.values import Palette, Swatch
from huvren.core.pictures import MOST_BYTES, read_picture, scale_down
from huvren.demo.library import typed_palettes
from tests.pictures import opaque, painted, png, png_claiming, saved

PRESS = next(palette for palette in typed_palettes() if palette.name.startswith("Press"))
INDICES = np.random.default_rng(1).integers(0, len(PRESS.swatches), (12, 17)).astype(np.uint8)


def written(entry: Format, palette: Palette = PRESS) -> bytes:
    assert entry.write
    return entry.write(Document(palette, INDICES % len(palette.swatches)))


@pytest.mark.parametrize("entry", FORMATS, ids=lambda entry: entry.id)
def test_round_trip_keeps_what_the_format_declares(entry: Format) -> None:
    data = written(entry)
    found_format, found = read_palette(data)
    assert found_format is entry
    back = found.palette
    assert [s.color.hex for s in back.swatches] == [s.color.hex for s in PRESS.swatches]
    if entry.keeps.names:
        assert [s.name for s in back.swatches] == [s.name for s in PRESS.swatches]
        assert back.name == PRESS.name
    if entry.keeps.groups:
        names = {group.id: group.name for group in back.groups}
        ours = {group.id: group.name for group in PRESS.groups}
        assert [names[s.group or ""] for s in back.swatches] == [ours[s.group or ""] for s in PRESS.swatches]
    if entry.keeps.ids:
        assert back == PRESS
    assert written(entry) == data


@pytest.mark.parametrize("entry", [e for e in FORMATS if e.keeps.alpha], ids=lambda entry: entry.id)
def test_alpha_survives_where_declared(entry: Format) -> None:
    palette = Palette("A", tuple(Swatch(parse_color(c), c) for c in ("#11223300", "#ff000080", "#00ff00")))
    back = read_palette(written(entry, palette))[1].palette
    assert [s.color.hex for s in back.swatches] == ["#11223300", "#ff000080", "#00ff00"]


def test_pillow_reads_the_text_palette() -> None:
    reader = GimpPaletteFile(io.BytesIO(written(FORMATS["gpl"])))
    raw, mode = reader.getpalette()
    assert mode == "RGB"
    assert list(raw[: 3 * len(PRESS.swatches)]) == [channel for s in PRESS.swatches for channel in s.color.bytes[:3]]


def test_pillow_reads_the_indexed_picture_in_strip_order() -> None:
    image = Image.open(io.BytesIO(written(FORMATS["indexed-png"])))
    assert image.mode == "P"
    assert np.array_equal(np.asarray(image), INDICES)
    raw = image.getpalette() or []
    assert raw[: 3 * len(PRESS.swatches)] == [channel for s in PRESS.swatches for channel in s.color.bytes[:3]]


def test_hex_list_bytes() -> None:
    palette = Palette("A", (Swatch(parse_color("#E85421")), Swatch(parse_color("rgb(1 2 3 / 50%)"))))
    assert written(FORMATS["hex"], palette) == b"e85421\n010203\n"


def test_text_palette_bytes() -> None:
    palette = Palette("Two", (Swatch(parse_color("#e85421"), "Eye-spot"), Swatch(parse_color("#010203"), "Ink")))
    assert written(FORMATS["gpl"], palette).decode().split("\n")[1:] == [
        "Name: Two", "Columns: 0", "#", "232  84  33\tEye-spot", "  1   2   3\tInk", "",
    ]  # fmt: skip


def test_text_palette_takes_what_real_files_hold() -> None:
    head = written(FORMATS["gpl"]).split(b"\n")[0]
    data = b"\xef\xbb\xbf" + head + b"\r\nName: Caf\xc3\xa9\r\nColumns: 8\r\n#\r\n# a remark\r\n 255\t0 0   Red one \r\n\r\n0 0 255"
    palette = read_palette(data)[1].palette
    assert (palette.name, palette.columns) == ("Café", 8)
    assert [swatch.color.hex for swatch in palette.swatches] == ["#ff0000", "#0000ff"]
    assert palette.swatches[0].name == "Red one"
    assert "blue" in palette.swatches[1].name
    latin = head + b"\nName: Caf\xe9\n1 2 3 x\n"
    assert read_palette(latin)[1].palette.name == "Café"


HEAD = "GIMP Palette\n"


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "it has no bytes"),
        (b"hello there\n", "is not a palette that can be read. These work: .gpl, .hex, .json, .png"),
        (HEAD.encode(), "The file holds no color"),
        (HEAD.encode() + b"1 2 x\n", "Line 2: “1 2 x” is no row of three numbers"),
        (HEAD.encode() + b"1 2 300 a\n", "Line 2: 300 is more than 255"),
        (HEAD.encode() + b"Columns: many\n", "“Columns:” is followed by “many”"),
        (b'{"format": "huvren-palette", "version": 1, "swatches": [', "not sound JSON. Line 1"),
        (b'{"format": "huvren-palette", "version": 9, "swatches": []}', "has version 9; this reader knows version 1"),
        (b'{"format": "huvren-palette", "version": 1}', "the field 'swatches' is missing"),
    ],
)
def test_broken_palettes_are_told_why(data: bytes, words: str) -> None:
    with pytest.raises(BadFile) as caught:
        read_palette(data, "broken.file")
    assert words in str(caught.value)


@pytest.mark.parametrize("entry", [e for e in FORMATS if e.read], ids=lambda entry: entry.id)
def test_a_file_cut_anywhere_is_read_or_refused_in_words(entry: Format) -> None:
    data = written(entry)
    for length in range(0, len(data), max(1, len(data) // 60)):
        with contextlib.suppress(HuvrenError):
            assert read_palette(data[:length])[1].palette.swatches


def test_indexed_picture_needs_a_picture_and_few_colors() -> None:
    write = FORMATS["indexed-png"].write
    assert write
    with pytest.raises(BadInput, match="needs a reduced picture"):
        write(Document(PRESS))
    many = Palette("M", tuple(Swatch(parse_color(f"#0000{n % 256:02x}")) for n in range(257)))
    with pytest.raises(BadInput, match="holds 1 to 256 colors; this palette has 257"):
        write(Document(many, INDICES))
    with pytest.raises(BadInput, match="A pixel of the picture has no swatch"):
        write(Document(Palette("S", PRESS.swatches[:2]), INDICES))


def test_json_is_readable_by_others() -> None:
    body = json.loads(written(FORMATS["json"]))
    assert body["swatches"][0]["hex"] == PRESS.swatches[0].color.hex
    assert body["swatches"][0]["name"] == "Lamp black"


RGB = painted(20, 30)[..., :3]


def test_plain_pictures_keep_their_pixels() -> None:
    assert np.array_equal(read_picture(png(opaque(RGB))).rgba, opaque(RGB))
    clear = opaque(RGB)
    clear[:5, :, 3] = 40
    assert np.array_equal(read_picture(png(clear)).rgba, clear)
    lossless = read_picture(saved(Image.fromarray(RGB), "WEBP", lossless=True))
    assert np.array_equal(lossless.rgba[..., :3], RGB)
    assert lossless.format == "WebP"


def test_pictures_are_turned_upright() -> None:
    exif = Image.Exif()
    exif[0x0112] = 6
    picture = read_picture(saved(Image.fromarray(RGB), "PNG", exif=exif))
    assert (picture.width, picture.height) == (20, 30)
    assert np.array_equal(picture.rgba[..., :3], np.rot90(RGB, -1))
    assert "Turned upright" in picture.notes[0]
    assert not picture.as_stored


def test_gray_sixteen_bit_palette_and_cmyk() -> None:
    gray = np.arange(600, dtype=np.uint8).reshape(20, 30)
    assert np.array_equal(read_picture(saved(Image.fromarray(gray), "PNG")).rgba[..., 1], gray)
    wide = (gray.astype(np.uint16) * 257).astype(np.uint16)
    deep = read_picture(saved(Image.fromarray(wide), "PNG"))
    assert np.array_equal(deep.rgba[..., 0], gray)
    assert "16 to 8 bits" in deep.notes[0]
    indexed = Image.fromarray(RGB).quantize(7)
    own = read_picture(saved(indexed, "PNG"))
    assert np.array_equal(own.rgba[..., :3], np.asarray(indexed.convert("RGB")))
    assert len(own.own_palette) == 7
    ink = Image.fromarray(np.full((8, 8, 4), (0, 255, 255, 0), np.uint8), "CMYK")
    pressed = read_picture(saved(ink, "JPEG", quality=100))
    assert np.abs(pressed.rgba[0, 0, :3].astype(int) - (255, 0, 0)).max() <= 3
    assert any("CMYK" in note for note in pressed.notes)


def test_embedded_profiles_are_brought_to_srgb() -> None:
    swapped = ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB"))
    picture = read_picture(saved(Image.fromarray(RGB), "PNG", icc_profile=swapped.tobytes()))
    assert "cannot be read and was left out" in picture.notes[0]
    srgb = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB"))
    same = read_picture(saved(Image.fromarray(RGB), "PNG", icc_profile=srgb.tobytes()))
    assert np.abs(same.rgba[..., :3].astype(int) - RGB).max() <= 1


def test_animated_files_give_their_first_frame_and_say_so() -> None:
    frames = [Image.fromarray(np.full((6, 6, 3), tone, np.uint8)) for tone in (10, 200)]
    picture = read_picture(saved(frames[0], "GIF", save_all=True, append_images=frames[1:]))
    assert picture.rgba[0, 0, 0] == 10
    assert picture.notes[0] == "It is animated with 2 frames; the first frame was taken."


@pytest.mark.parametrize(
    ("data", "error", "words"),
    [
        (b"", BadFile, "“x.png” is empty: it has no bytes"),
        (b"not a picture at all", BadFile, "“x.png” is not a picture that can be read. PNG, JPEG, WebP and GIF files work."),
        (b"%PDF-1.7 etc", BadFile, "is not a picture that can be read"),
        (png(opaque(RGB))[:200], BadFile, "“x.png” is damaged or cut short"),
        (saved(Image.fromarray(RGB), "JPEG")[:150], BadFile, ""),
        (png_claiming(20_000, 20_000), TooLarge, ""),
        (
            png_claiming(11_000, 10_000),
            TooLarge,
            "“x.png” claims 11,000 × 10,000 = 110 million pixels; 100 million is the most",
        ),
        (b"\0" * (MOST_BYTES + 1), TooLarge, "80 MB is the most that can be taken"),
    ],
    ids=["empty", "text", "other", "cut-png", "cut-jpeg", "bomb", "too-many-pixels", "too-many-bytes"],
)
def test_bad_pictures_are_told_why(data: bytes, error: type[Exception], words: str) -> None:
    with pytest.raises(error) as caught:
        read_picture(data, "x.png")
    assert words in str(caught.value)


def test_the_ending_does_not_matter() -> None:
    assert read_picture(saved(Image.fromarray(RGB), "JPEG"), "wrong.png").format == "JPEG"


def test_scaling_down_keeps_the_shape() -> None:
    large = opaque(np.zeros((300, 400, 3), np.uint8))
    assert scale_down(large, 200_000) is large
    small = scale_down(large, 1200)
    assert small.shape[0] * small.shape[1] <= 1200
    assert small.shape[1] / small.shape[0] == pytest.approx(4 / 3, rel=0.05)
