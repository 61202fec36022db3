"""Pictures in: upright, in sRGB, behind limits; broken ones are refused in words."""

import numpy as np
import pytest
from PIL import Image, ImageCms

from huvren.core.errors import BadFile, TooLarge
from huvren.core.pictures import MOST_BYTES, read_picture, scale_down
from tests.core.test_lying_pictures import held_while
from tests.pictures import opaque, painted, png, png_claiming, saved

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


def test_one_bit_a_pixel_is_shown_by_browsers_as_it_is() -> None:
    picture = read_picture(saved(Image.fromarray(RGB).convert("1"), "PNG"))
    assert picture.as_stored
    assert set(np.unique(picture.rgba)) <= {0, 255}


def test_a_large_opaque_picture_is_scaled_down_where_it_lies() -> None:
    large = np.full((4000, 4000, 4), 255, dtype=np.uint8)
    assert held_while(lambda: scale_down(large, 150_000)) < large.nbytes / 4


def test_animated_files_give_their_first_frame_and_say_so() -> None:
    frames = [Image.fromarray(np.full((6, 6, 3), tone, np.uint8)) for tone in (10, 200)]
    picture = read_picture(saved(frames[0], "GIF", save_all=True, append_images=frames[1:]))
    assert picture.rgba[0, 0, 0] == 10
    assert picture.notes[0] == "It is animated with 2 frames; the first frame was taken."


@pytest.mark.parametrize(
    ("data", "error", "words"),
    [
        (b"", BadFile, "“x.png” is empty: it has no bytes"),
        (
            b"not a picture at all",
            BadFile,
            "“x.png” is not a picture that can be read. PNG, JPEG, WebP, GIF, BMP, "
            "TIFF, AVIF, JPEG 2000, ICO, PCX, PPM and TGA files work.",
        ),
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
