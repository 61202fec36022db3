"""How names are sorted and searched, and that the nearest palette is the nearest one."""

import random

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.difference import DELTA_SCALE
from huvren.core.names import SORTED_LETTERS, folded, sort_key
from huvren.core.reduction.histogram import oklab_of_rgb
from huvren.core.reduction.nearest_of_many import _bins, nearest


def test_names_stand_as_people_would_put_them() -> None:
    wanted = [
        "", "(draft)", "7 moths", "12 moths", "100", "Ébène", "eclair 2", "Eclair 10", "ember", "Plate 4", "plate 4, first light",
        "plate 007", "Plate 12", "plate 123456789012345678901", "Straße", "strasse 2", "Zürich", "夜",
    ]  # fmt: skip
    for seed in range(5):
        shuffled = random.Random(seed).sample(wanted, len(wanted))
        assert sorted(shuffled, key=sort_key) == wanted


@given(st.text(max_size=12), st.integers(0, 10**18), st.integers(0, 10**18), st.text(max_size=6))
def test_numbers_within_names_sort_by_their_value(before: str, one: int, other: int, after: str) -> None:
    if not before[-1:].isdigit() and not after[:1].isdigit():
        keys = [sort_key(f"{before}{number}{after}") for number in (one, other)]
        assert (keys[0] < keys[1]) == (one < other) or one == other


@given(st.text())
@example("ﷺ" * 200)
def test_any_name_has_a_key_of_bounded_length_whatever_its_case(name: str) -> None:
    assert len(sort_key(name)) <= SORTED_LETTERS
    assert folded(name) == folded(folded(name))
    assert folded("Goldﬁsch, STRASSE, ΣΟΦΟΣ") == folded("GOLDFISCH, straße, σοφος")


def plain(rgb: Bytes, counts: list[int], wanted: Floats) -> Floats:
    """All distances, and the least of each palette."""
    away = np.linalg.norm(oklab_of_rgb(rgb) - wanted, axis=1) * DELTA_SCALE
    return np.array([part.min() for part in np.split(away, np.cumsum(counts)[:-1])])


@pytest.mark.parametrize("seed", range(8))
def test_what_is_nearest_is_exactly_what_looking_at_every_color_finds(seed: int) -> None:
    chance = np.random.default_rng(seed)
    counts = [int(count) for count in chance.choice([1, 2, 16, 300], 200)]
    rgb = chance.integers(0, 256, (sum(counts), 3), dtype=np.uint8)
    if seed % 4 == 1:
        rgb //= 16  # dark, where a step of a byte is far
    if seed % 4 == 3:
        rgb = (chance.integers(20, 236, 3) + chance.integers(-12, 13, rgb.shape)).astype(np.uint8)  # rivals in bins beside each other
    for wanted in (rgb[7], [0, 0, 0], [255, 255, 255], [0, 0, 255], chance.integers(0, 256, 3)):
        lab = oklab_of_rgb(np.array([wanted], np.uint8))[0]
        np.testing.assert_allclose(nearest(rgb, np.array(counts), lab), plain(rgb, counts, lab), atol=1e-4)
        few = nearest(rgb[: counts[0]], np.array(counts[:1]), lab)
        np.testing.assert_allclose(few, plain(rgb, counts, lab)[:1], atol=1e-4)
    outside = np.array([1.4, 0.9, -0.9])
    np.testing.assert_allclose(nearest(rgb, np.array(counts), outside), plain(rgb, counts, outside), atol=1e-4)


def test_no_color_is_further_from_the_middle_of_its_bin_than_is_said() -> None:
    """All 16,777,216 of them."""
    middle, reach = _bins()
    low = np.stack(np.meshgrid(*[np.arange(256, dtype=np.uint8)] * 2, indexing="ij"), axis=-1).reshape(-1, 2)
    for red in range(256):
        rgb = np.column_stack([np.full(len(low), red, np.uint8), low])
        five = rgb.astype(int) >> 3
        bins = (five[:, 0] * 32 + five[:, 1]) * 32 + five[:, 2]
        away = np.linalg.norm(oklab_of_rgb(rgb) - middle[bins], axis=1)
        assert (away <= reach[bins]).all()
