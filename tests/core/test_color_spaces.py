"""Color conversion against published values and an independent library."""

import itertools

import numpy as np
import pytest
from coloraide import Color as Oracle

from huvren.core.color.contrast import contrast_ratio
from huvren.core.color.convert import oklab_to_srgb, oklch_to_srgb, srgb_to_oklab, srgb_to_oklch
from huvren.core.color.difference import ciede2000, delta_eok
from huvren.core.color.gamut import in_srgb_gamut, map_to_srgb
from huvren.core.color.kernels import cube_root, cube_root32, decode_srgb_array, encode_srgb_array
from huvren.core.color.spaces import SPACES, convert
from huvren.core.errors import Unknown
from huvren.core.reduction.histogram import oklab_of_rgb

CUBE = np.array(list(itertools.product(np.linspace(0, 1, 9), repeat=3)))
ORACLE_IDS = {
    "xyz-d65": "xyz-d65", "xyz-d50": "xyz-d50", "srgb": "srgb", "srgb-linear": "srgb-linear", "oklab": "oklab",
    "oklch": "oklch", "hsv": "hsv", "hsl": "hsl", "hwb": "hwb", "lab-d65": "lab-d65", "lab": "lab", "lch-d65": "lch-d65",
    "lch": "lch", "display-p3": "display-p3", "a98-rgb": "a98-rgb", "prophoto-rgb": "prophoto-rgb", "rec2020": "rec2020",
}  # fmt: skip


def test_published_oklab_pairs() -> None:
    """Ottosson 2020, “A perceptual color space for image processing”, table of XYZ and OKLab pairs (3 decimals)."""
    xyz = [[0.950, 1.000, 1.089], [1.000, 0.000, 0.000], [0.000, 1.000, 0.000], [0.000, 0.000, 1.000]]
    expected = [[1.000, 0.000, 0.000], [0.450, 1.236, -0.019], [0.922, -0.671, 0.263], [0.153, -1.415, -0.449]]
    assert np.allclose(convert(xyz, "xyz-d65", "oklab"), expected, atol=1.1e-3)


@pytest.mark.parametrize(
    ("rgb", "oklch"),
    [
        # CSS Color 4, section 9.3 examples and the sRGB primaries as they are commonly listed.
        ((1, 1, 1), (1.0, 0.0, None)),
        ((0, 0, 0), (0.0, 0.0, None)),
        ((1, 0, 0), (0.62796, 0.25768, 29.234)),
        ((0, 1, 0), (0.86644, 0.29483, 142.495)),
        ((0, 0, 1), (0.45201, 0.31321, 264.052)),
    ],
)
def test_primaries_in_oklch(rgb: tuple[int, ...], oklch: tuple[float, float, float | None]) -> None:
    lightness, chroma, hue = srgb_to_oklch(np.array(rgb, dtype=float))
    assert lightness == pytest.approx(oklch[0], abs=2e-5)
    assert chroma == pytest.approx(oklch[1], abs=2e-5)
    if oklch[2] is not None:
        assert hue == pytest.approx(oklch[2], abs=2e-3)


def test_oracle_table_names_every_space() -> None:
    assert set(SPACES.ids()) - set(ORACLE_IDS) == {"cmyk", "gray"}


@pytest.mark.parametrize("space", ORACLE_IDS)
def test_spaces_agree_with_independent_library_over_the_cube(space: str) -> None:
    ours = convert(CUBE, "srgb", space)
    tolerance = 3e-5 if space == "prophoto-rgb" else 3e-6  # its matrix is given for two slightly different D50 whites
    for rgb, mine in zip(CUBE, ours, strict=True):
        theirs = Oracle("srgb", rgb).convert(ORACLE_IDS[space], norm=False)[:-1]
        scale = 100 if space.startswith(("lab", "lch")) else 1
        for channel, a, b in zip(SPACES[space].channels, mine, theirs, strict=True):
            if channel.is_hue:
                colored = mine[1] > 1e-4 * scale if space not in ("hwb",) else mine[1] + mine[2] < 1 - 1e-6
                if colored:
                    assert abs((a - b + 180) % 360 - 180) < 1e-3, (rgb, space)
            else:
                assert a == pytest.approx(0 if np.isnan(b) else b, abs=tolerance * scale), (rgb, space, channel.name)


@pytest.mark.parametrize("space", [space for space in SPACES.ids() if space != "gray"])
def test_there_and_back(space: str) -> None:
    assert np.allclose(convert(convert(CUBE, "srgb", space), space, "srgb"), CUBE, atol=1e-9)


def test_fast_paths_agree_with_the_space_graph() -> None:
    assert np.allclose(srgb_to_oklab(CUBE), convert(CUBE, "srgb", "oklab"), atol=1e-12)
    assert np.allclose(oklab_to_srgb(srgb_to_oklab(CUBE)), CUBE, atol=1e-7)
    assert np.allclose(oklch_to_srgb(srgb_to_oklch(CUBE)), CUBE, atol=1e-7)


def test_float32_oklab_of_pictures_stays_within_a_millionth() -> None:
    rgb = np.array(list(itertools.product(range(0, 256, 15), repeat=3)), dtype=np.uint8)
    assert np.abs(oklab_of_rgb(rgb) - convert(rgb / 255, "srgb", "oklab")).max() < 2e-6


@pytest.mark.parametrize("value", [1e-12, 1e-6, 0.001, 0.2, 0.999, 1.0])
def test_fast_cube_root(value: float) -> None:
    assert float(cube_root32(np.float32(value))) == pytest.approx(value ** (1 / 3), rel=1e-6)


def test_cube_root_of_zero_is_zero() -> None:
    assert float(cube_root32(np.float32(0))) < 1e-6


# Sharma, Wu, Dalal 2005, “The CIEDE2000 color-difference formula: implementation notes, supplementary test data, and
# mathematical observations”, table 1: all 34 pairs.
CIEDE2000_PAIRS = """
50 2.6772 -79.7751 50 0 -82.7485 2.0425
50 3.1571 -77.2803 50 0 -82.7485 2.8615
50 2.8361 -74.0200 50 0 -82.7485 3.4412
50 -1.3802 -84.2814 50 0 -82.7485 1.0000
50 -1.1848 -84.8006 50 0 -82.7485 1.0000
50 -0.9009 -85.5211 50 0 -82.7485 1.0000
50 0 0 50 -1 2 2.3669
50 -1 2 50 0 0 2.3669
50 2.4900 -0.0010 50 -2.4900 0.0009 7.1792
50 2.4900 -0.0010 50 -2.4900 0.0010 7.1792
50 2.4900 -0.0010 50 -2.4900 0.0011 7.2195
50 2.4900 -0.0010 50 -2.4900 0.0012 7.2195
50 -0.0010 2.4900 50 0.0009 -2.4900 4.8045
50 -0.0010 2.4900 50 0.0010 -2.4900 4.8045
50 -0.0010 2.4900 50 0.0011 -2.4900 4.7461
50 2.5 0 50 0 -2.5 4.3065
50 2.5 0 73 25 -18 27.1492
50 2.5 0 61 -5 29 22.8977
50 2.5 0 56 -27 -3 31.9030
50 2.5 0 58 24 15 19.4535
50 2.5 0 50 3.1736 0.5854 1.0000
50 2.5 0 50 3.2972 0 1.0000
50 2.5 0 50 1.8634 0.5757 1.0000
50 2.5 0 50 3.2592 0.3350 1.0000
60.2574 -34.0099 36.2677 60.4626 -34.1751 39.4387 1.2644
63.0109 -31.0961 -5.8663 62.8187 -29.7946 -4.0864 1.2630
61.2901 3.7196 -5.3901 61.4292 2.2480 -4.9620 1.8731
35.0831 -44.1164 3.7933 35.0232 -40.0716 1.5901 1.8645
22.7233 20.0904 -46.6940 23.0331 14.9730 -42.5619 2.0373
36.4612 47.8580 18.3852 36.2715 50.5065 21.2231 1.4146
90.8027 -2.0831 1.4410 91.1528 -1.6435 0.0447 1.4441
90.9257 -0.5406 -0.9208 88.6381 -0.8985 -0.7239 1.5381
6.7747 -0.2908 -2.4247 5.8714 -0.0985 -2.2286 0.6377
2.0776 0.0795 -1.1350 0.9033 -0.0636 -0.5514 0.9082
"""


def test_all_published_ciede2000_pairs() -> None:
    rows = np.array([[float(v) for v in line.split()] for line in CIEDE2000_PAIRS.strip().splitlines()])
    assert len(rows) == 34
    assert np.allclose(ciede2000(rows[:, :3], rows[:, 3:6]), rows[:, 6], atol=5e-5)
    assert np.allclose(ciede2000(rows[:, 3:6], rows[:, :3]), rows[:, 6], atol=5e-5)


def test_delta_eok_is_distance_times_one_hundred() -> None:
    assert float(delta_eok([0.5, 0.03, 0.0], [0.5, 0.0, 0.04])) == pytest.approx(5.0)


@pytest.mark.parametrize(
    ("first", "second", "ratio"),
    # WCAG 2.2, definition of contrast ratio: black on white 21; #767676 on white is the lightest gray that passes 4.5.
    [((0, 0, 0), (1, 1, 1), 21.0), ((1, 1, 1), (1, 1, 1), 1.0), ((0x76 / 255,) * 3, (1, 1, 1), 4.54)],
)
def test_contrast(first: tuple[float, ...], second: tuple[float, ...], ratio: float) -> None:
    assert contrast_ratio(first, second) == pytest.approx(ratio, abs=0.005)
    assert contrast_ratio(second, first) == contrast_ratio(first, second)


@pytest.mark.parametrize("oklch", [(0.7, 0.35, 30.0), (0.5, 0.4, 150.0), (0.9, 0.25, 260.0), (0.3, 0.3, 100.0)])
def test_gamut_mapping_agrees_with_independent_library(oklch: tuple[float, float, float]) -> None:
    ours = map_to_srgb(np.array(oklch))
    assert in_srgb_gamut(ours)
    theirs = Oracle("oklch", oklch).fit("srgb", method="oklch-chroma").convert("srgb")[:-1]
    assert np.allclose(ours, theirs, atol=4e-3)


def test_gamut_mapping_leaves_inside_colors_alone() -> None:
    assert np.allclose(map_to_srgb(convert([0.2, 0.5, 0.7], "srgb", "oklch")), [0.2, 0.5, 0.7], atol=1e-9)


def test_unknown_space_is_named_with_the_choices() -> None:
    with pytest.raises(Unknown, match=r"There is no color space “rgbx”\. Choose one of: xyz-d65"):
        convert([0, 0, 0], "rgbx", "srgb")


def test_wrong_number_of_coordinates() -> None:
    with pytest.raises(ValueError, match="sRGB has 3 coordinates, got shape"):
        convert([0, 0], "srgb", "oklab")


def test_roots_are_those_of_the_library() -> None:
    """Cube roots, and the powers of the sRGB transfer functions that are built from roots, against NumPy's own."""
    values = np.concatenate([np.linspace(-2, 2, 4001), 10.0 ** np.arange(-30.0, 10, 0.5), [0.0]])
    assert np.allclose([cube_root(value) for value in values], np.cbrt(values), rtol=1e-14, atol=0)
    sizes = np.abs(values)
    decoded = np.where(sizes <= 0.04045, sizes / 12.92, ((sizes + 0.055) / 1.055) ** 2.4)
    encoded = np.where(sizes <= 0.0031308, sizes * 12.92, 1.055 * sizes ** (1 / 2.4) - 0.055)
    assert np.allclose(decode_srgb_array(values), np.copysign(decoded, values), rtol=1e-13, atol=0)
    assert np.allclose(encode_srgb_array(values), np.copysign(encoded, values), rtol=1e-13, atol=1e-18)
    assert np.isnan(cube_root(np.nan))
    assert np.isnan(srgb_to_oklab([np.nan, 0, 0])).all()


@pytest.mark.parametrize("rows", [1, 255, 256, 257, 1000])
def test_bulk_conversions_know_no_edge_of_a_block(rows: int) -> None:
    srgb = np.random.default_rng(rows).uniform(-0.2, 1.2, (rows, 3))
    assert np.allclose(srgb_to_oklab(srgb), convert(srgb, "srgb", "oklab"), atol=1e-12)
    assert np.allclose(oklab_to_srgb(srgb_to_oklab(srgb)), srgb, atol=1e-12)
    assert np.allclose(oklch_to_srgb(srgb_to_oklch(srgb)), srgb, atol=1e-12)
