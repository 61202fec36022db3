"""Sheets of squares as people make them: margins, gaps, uneven widths, rows, labels, noise; drawn here and found again."""

import io

import numpy as np
import pytest
from PIL import Image, ImageDraw

from huvren.core.color.value import Color
from huvren.core.errors import BadFile
from huvren.core.formats import FORMATS, Document
from huvren.core.formats.pictures.squares import find_squares
from huvren.core.formats.readings import read_palettes
from huvren.core.palette.values import Palette, Swatch
from tests.counting import steps_of
from tests.pictures import painted

STRIP = FORMATS["strip-png"]
INKS = [(232, 84, 33), (27, 26, 29), (138, 106, 82), (255, 212, 120), (30, 92, 140), (120, 160, 90), (200, 40, 90), (90, 60, 160)]
PAPER = (243, 234, 214)
Box = tuple[int, int, int, int]


def sheet(
    boxes: list[tuple[Box, tuple[int, int, int]]], size: tuple[int, int], ground: tuple[int, int, int] = PAPER, labels: bool = False,
    frame: bool = False,
) -> Image.Image:  # fmt: skip
    image = Image.new("RGB", size, ground)
    pen = ImageDraw.Draw(image)
    for number, ((left, top, width, height), color) in enumerate(boxes):
        pen.rectangle((left, top, left + width - 1, top + height - 1), color, (0, 0, 0) if frame else None)
        if labels:
            pen.text((left + 2, top + height + 3), f"Ink {number} #{color[0]:02x}{color[1]:02x}", (20, 20, 20))
    return image


def row(count: int, width: int, height: int, gap: int, left: int = 20, top: int = 20) -> list[tuple[Box, tuple[int, int, int]]]:
    return [((left + at * (width + gap), top, width, height), INKS[at % len(INKS)]) for at in range(count)]


def kept(image: Image.Image, kind: str = "PNG", **options: object) -> bytes:
    held = io.BytesIO()
    image.save(held, kind, **options)
    return held.getvalue()


def colors(data: bytes, way: int = 0) -> list[tuple[int, ...]]:
    found = list(STRIP.taken(data).values())[way]
    return [swatch.color.bytes[:3] for swatch in found.palette.swatches]


def near(found: list[tuple[int, ...]], wanted: list[tuple[int, int, int]], by: int) -> bool:
    gaps = [abs(a - b) for x, y in zip(found, wanted, strict=False) for a, b in zip(x, y, strict=True)]
    return len(found) == len(wanted) and max(gaps) <= by


UNEVEN = [((20, 20, 30, 60), INKS[0]), ((50, 20, 71, 60), INKS[1]), ((121, 20, 17, 60), INKS[2]), ((138, 20, 44, 60), INKS[3])]
SHEETS = {
    "gaps": (row(6, 40, 40, 10), (340, 90)),
    "no gaps": (row(6, 40, 40, 0), (300, 90)),
    "uneven widths": (UNEVEN, (220, 110)),
    "two rows": (row(5, 40, 40, 8) + [(box, INKS[(n + 3) % 8]) for n, (box, _) in enumerate(row(5, 40, 40, 8, top=80))], (280, 150)),
    "rows of uneven length": (row(5, 30, 30, 6) + row(3, 30, 30, 6, top=70), (220, 130)),
    "small and close": (row(8, 12, 12, 2), (150, 50)),
    "tall": (row(4, 20, 90, 5), (140, 130)),
    "one against the rim": (row(4, 40, 40, 10, left=0, top=0), (200, 60)),
}  # fmt: skip


@pytest.mark.parametrize("name", SHEETS)
@pytest.mark.parametrize("way", ["plain", "labels", "frame", "jpeg", "jpeg low", "webp"])
def test_sheets_are_found_again(name: str, way: str) -> None:
    boxes, (width, height) = SHEETS[name]
    if way == "labels" and name in ("small and close", "one against the rim", "rows of uneven length"):
        return  # no room for words there
    if name == "small and close" and way in ("jpeg low", "webp"):
        return  # smaller than the blocks in which such files keep color
    image = sheet(boxes, (width, height + 20), labels=way == "labels", frame=way == "frame" and name != "small and close")
    data = kept(image, "WEBP" if way == "webp" else "JPEG" if "jpeg" in way else "PNG",
                **({"quality": 60 if "low" in way else 90} if way not in ("plain", "labels", "frame") else {}))  # fmt: skip
    wanted = [color for _, color in boxes]
    lossy = 12 if "low" in way or way == "webp" else 6 if way == "jpeg" else 0
    assert near(colors(data), wanted, lossy), colors(data)
    found = next(iter(STRIP.taken(data).values()))
    assert len(found.areas) == len(boxes)
    for (left, top, across, down), (box, _) in zip(found.areas, boxes, strict=True):
        slack = 5 if lossy else 1
        assert abs(left - box[0]) <= slack
        assert abs(top - box[1]) <= slack
        assert abs(across - box[2]) <= 2 * slack
        assert abs(down - box[3]) <= 2 * slack


def test_strips_that_fill_the_picture_are_parted_where_the_color_changes() -> None:
    boxes = [((0, 0, 37, 50), INKS[0]), ((37, 0, 91, 50), INKS[1]), ((128, 0, 55, 50), INKS[2])]
    for data in (kept(sheet(boxes, (183, 50))), kept(sheet(boxes, (183, 50)), "JPEG", quality=92)):
        assert near(colors(data), [color for _, color in boxes], 6)
    by_share = [((0, 0, 20, 50), INKS[0]), ((20, 0, 40, 50), INKS[1]), ((60, 0, 60, 50), INKS[2])]
    ways = STRIP.taken(kept(sheet(by_share, (120, 50))))
    assert [(way, len(found.palette.swatches)) for way, found in ways.items()] == [("by runs", 3), ("by grid", 6)]


def test_twins_without_a_gap_are_two_and_both_ways_are_offered() -> None:
    twins = Palette("T", tuple(Swatch(Color.from_bytes(*INKS[n])) for n in (0, 0, 1, 1, 1)))
    ways = STRIP.taken(STRIP.written(Document(twins)))
    assert [(way, len(found.palette.swatches)) for way, found in ways.items()] == [("by grid", 5), ("by runs", 2)]


def test_a_square_of_the_ground_s_own_color_is_in_the_grid() -> None:
    boxes = [(box, color) for at, (box, color) in enumerate(row(6, 40, 40, 10)) if at != 2]
    ways = STRIP.taken(kept(sheet(boxes, (340, 90))))
    assert [(way, len(found.palette.swatches)) for way, found in ways.items()] == [("by runs", 5), ("by grid", 6)]
    assert colors(kept(sheet(boxes, (340, 90))), 1)[2] == PAPER


def test_clear_ground_is_a_ground() -> None:
    image = Image.new("RGBA", (200, 60), (0, 0, 0, 0))
    pen = ImageDraw.Draw(image)
    for at in range(4):
        pen.rectangle((10 + at * 45, 10, 10 + at * 45 + 35, 45), (*INKS[at], 255))
    assert colors(kept(image)) == INKS[:4]


def test_the_strip_of_seventy_thousand_comes_back() -> None:
    many = Palette("Many", tuple(Swatch(Color.from_bytes(n % 256, n // 256 % 256, 7), f"n{n}", f"s{n}") for n in range(70_000)))
    back = next(iter(STRIP.taken(STRIP.written(Document(many))).values())).palette
    assert [swatch.color for swatch in back.swatches] == [swatch.color for swatch in many.swatches]


@pytest.mark.parametrize("seed", range(4))
def test_photographs_and_noise_are_no_sheets(seed: int) -> None:
    dice = np.random.default_rng(seed)
    few = Image.fromarray(dice.integers(0, 256, (9, 9, 3)).astype(np.uint8))
    blurred = np.array(few.resize((360, 360), Image.Resampling.BICUBIC))
    for picture in (dice.integers(0, 256, (300, 300, 3)).astype(np.uint8), blurred, painted(320, 240)[..., :3]):
        for data in (kept(Image.fromarray(picture)), kept(Image.fromarray(picture), "JPEG", quality=80)):
            assert STRIP.sniff(data) == 0
            with pytest.raises(BadFile, match="no sheet"):
                STRIP.taken(data)


def test_both_ways_stand_first_among_the_readings() -> None:
    boxes = [(box, color) for at, (box, color) in enumerate(row(6, 40, 40, 10)) if at != 2]
    labels = [reading.label for reading in read_palettes(kept(sheet(boxes, (340, 90))), "sheet.png")]
    assert labels[:2] == [".png strip of squares, by runs", ".png strip of squares, by grid"]


def _hard_pictures(side: int) -> list[np.ndarray]:
    noise = np.random.default_rng(0).integers(0, 256, (side, side, 4)).astype(np.uint8)
    stripes = np.zeros((side, side, 4), np.uint8)
    stripes[:, ::2] = 255
    checks = stripes.copy()
    checks[::2] = 255 - checks[::2]
    specks = np.full((side, side, 4), 255, np.uint8)
    specks[10:-10:2, 10:-10:2, :3] = 0
    return [noise, stripes, checks, specks]


@pytest.mark.parametrize("is_lossy", [False, True])
def test_looking_for_squares_takes_steps_in_proportion_to_the_pixels(is_lossy: bool) -> None:
    for small, large in zip(_hard_pictures(150), _hard_pictures(300), strict=True):
        once, four_times = (steps_of(lambda picture=picture: find_squares(picture, is_lossy)) for picture in (small, large))
        assert four_times <= 4.4 * once + 1_000
    for picture in _hard_pictures(1000):
        find_squares(picture, is_lossy)


def test_places_behind_the_last_square_are_no_swatches() -> None:
    boxes, (width, height) = SHEETS["rows of uneven length"]
    (found,) = STRIP.taken(kept(sheet(boxes, (width, height)))).values()
    assert len(found.palette.swatches) == len(boxes)
