"""Lenses against published values and independent libraries, and what holds for every lens."""

import colour
import numpy as np
import pytest
from coloraide import Color as Reference
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array
from huvren.core.color.vision import VISIONS, seen
from huvren.core.errors import BadInput, Unknown
from huvren.core.lenses import LENSES, parse_lens

GRID = np.stack(np.meshgrid(*[np.linspace(0, 1, 6)] * 3), axis=-1).reshape(-1, 3)
NAMES = {"protan": "Protanomaly", "deutan": "Deuteranomaly", "tritan": "Tritanomaly"}
amounts = st.floats(0, 100)


@pytest.mark.parametrize("kind", list(NAMES))
def test_weak_cones_are_those_of_the_published_tables(kind: str) -> None:
    """Machado, Oliveira and Fernandes 2009, as colour-science carries them for every tenth of severity."""
    published = colour.blindness.CVD_MATRICES_MACHADO2010[NAMES[kind]]
    assert len(published) == 11
    for severity, matrix in published.items():
        assert VISIONS[kind].matrix(severity) == pytest.approx(np.asarray(matrix), abs=1e-9)
        wanted = np.clip(encode_srgb_array(np.clip(decode_srgb_array(GRID) @ np.asarray(matrix).T, 0, 1)), 0, 1)
        assert LENSES[kind].through(GRID, severity * 100) == pytest.approx(wanted, abs=1e-9)


@pytest.mark.parametrize("kind", list(NAMES))
@pytest.mark.parametrize("severity", [0.0, 0.07, 0.35, 0.5, 0.77, 0.99, 1.0])
def test_cones_of_any_strength_agree_with_coloraide(kind: str, severity: float) -> None:
    for code in ("#c83c14", "#2bb5a0", "#7d5ba6", "#ffd478"):
        theirs = Reference(code).filter(kind, severity, method="machado", space="srgb-linear", out_space="srgb").clip()
        ours = seen(np.array([Reference(code).coords()]), VISIONS[kind], severity)[0]
        assert ours == pytest.approx(np.array(theirs.coords()), abs=2e-3)


@settings(max_examples=80, deadline=None)
@given(st.sampled_from(LENSES.ids()), st.lists(st.tuples(*[st.integers(0, 255)] * 3), min_size=1, max_size=40), st.floats(0, 1))
def test_every_lens_gives_colors_of_a_screen_the_same_for_the_same(
    lens_id: str, rows: list[tuple[int, int, int]], part: float
) -> None:
    lens = LENSES[lens_id]
    amount = None if lens.amount is None else lens.amount.low + part * (lens.amount.high - lens.amount.low)
    rgb = np.array(rows, np.uint8)
    shown = lens.through_bytes(rgb, amount)
    assert shown.shape == rgb.shape
    assert (shown == lens.through_bytes(rgb[::-1], amount)[::-1]).all(), "whatever stands beside it"
    srgb = lens.through(rgb / 255, amount)
    assert ((srgb >= 0) & (srgb <= 1)).all()
    assert (np.floor(srgb * 255 + 0.5) == shown).all()
    grays = lens.through_bytes(np.repeat(np.arange(256, dtype=np.uint8)[:, None], 3, axis=1), amount).astype(int)
    if lens_id != "seven-ink":
        assert (np.diff(grays.sum(axis=1)) >= 0).all(), "a lighter gray is never darker"


def test_what_each_lens_is_for() -> None:
    white, black, red = np.ones((1, 3)), np.zeros((1, 3)), np.array([[1.0, 0, 0]])
    assert LENSES["gamma-1.8"].through(np.full((1, 3), 0.5)) == pytest.approx(encode_srgb_array(np.full((1, 3), 0.5**1.8)))
    assert LENSES["gamma-2.6"].through(red) == pytest.approx(red)
    assert decode_srgb_array(LENSES["glare"].through(black, 10))[0, 0] == pytest.approx(0.1 / 1.1)
    assert LENSES["glare"].through(white, 10) == pytest.approx(white)
    assert LENSES["evening"].through(red, 0) == pytest.approx(red)
    assert (np.diff(LENSES["evening"].through(white, 100)[0]) < 0).all(), "white turns to lamplight"
    assert (LENSES["565"].through_bytes(np.array([[128, 128, 128]], np.uint8)) == [[132, 130, 132]]).all(), "16/31, 32/63, 16/31"
    assert (LENSES["444"].through_bytes(np.array([[128, 7, 250]], np.uint8)) == [[136, 0, 255]]).all()
    grays = LENSES["sixteen-gray"].through_bytes(np.repeat(np.arange(256, dtype=np.uint8)[:, None], 3, axis=1))
    assert len(np.unique(grays, axis=0)) == 16
    everything = np.stack(np.meshgrid(*[np.arange(0, 256, 15)] * 3), axis=-1).reshape(-1, 3).astype(np.uint8)
    assert len(np.unique(LENSES["seven-ink"].through_bytes(everything), axis=0)) == 7
    for lens_id in ("lightness", "achromatic", "sixteen-gray"):
        shown = LENSES[lens_id].through_bytes(everything)
        assert (shown == shown[:, :1]).all(), "no color is left"
    to_xyz = colour.RGB_COLOURSPACES["sRGB"].matrix_RGB_to_XYZ

    def chromaticities(lens_id: str, srgb: np.ndarray, amount: float | None = None) -> np.ndarray:  # type: ignore[type-arg]
        xyz = decode_srgb_array(LENSES[lens_id].through(srgb, amount)) @ to_xyz.T
        return np.asarray(xyz[:, :2] / xyz.sum(axis=1, keepdims=True))

    warm = colour.temperature.xy_to_CCT_McCamy1992(chromaticities("evening", white, 100)[0])
    assert warm == pytest.approx(3400, abs=40), "McCamy 1992"

    def area(corners: np.ndarray) -> float:  # type: ignore[type-arg]
        return abs(float(np.linalg.det(np.column_stack([corners, np.ones(3)])))) / 2

    assert area(chromaticities("small-gamut", np.eye(3))) / area(chromaticities("gamma-1.8", np.eye(3))) == pytest.approx(
        0.5, abs=0.03
    )
    by_rods = [float(decode_srgb_array(LENSES["achromatic"].through(row[None]))[0, 0]) for row in np.eye(3)]
    assert by_rods[1] > by_rods[2] > by_rods[0]
    assert sum(by_rods) == pytest.approx(1)
    washed = LENSES["small-gamut"].through(np.eye(3))
    assert (washed.max(axis=1) - washed.min(axis=1) < 0.75).all()
    assert LENSES["small-gamut"].through(white) == pytest.approx(white, abs=1e-6)
    middle = np.full((1, 3), encode_srgb_array(np.array([0.5]))[0])
    dots = [decode_srgb_array(LENSES["ink-on-paper"].through(middle, gain))[0, 0] for gain in (0, 15, 30)]
    assert dots == sorted(dots, reverse=True), "dots that grow print darker"
    assert dots[0] == pytest.approx((0.86 + 0.028) / 2), "and without any half the sheet is paper"


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("sepia", "There is no lens “sepia”"), ("deutan:140", "Severity 140 is outside 0 to 100"), ("deutan:x", "“x” is no amount"),
        ("deutan:", "“” is no amount"), ("glare:0", "Veil 0 is outside 1 to 10"), ("lightness:5", "has no amount"),
        ("deutan:nan", "has to be a number"),
    ],
)  # fmt: skip
def test_a_lens_that_cannot_be_is_said(text: str, words: str) -> None:
    with pytest.raises((BadInput, Unknown), match=words):
        parse_lens(text)


def test_a_lens_is_written_with_its_amount_or_without() -> None:
    assert parse_lens("deutan:80")[1] == 80
    assert parse_lens(" tritan ")[0].id == "tritan"
    assert parse_lens("565") == (LENSES["565"], None)
