"""Where colors come from: notations, companions, mixtures, samples, ladders. Against published values and by hand."""

import numpy as np
import pytest
from coloraide import Color as Reference
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.color.harmony import SCHEMES, companions, reroll
from huvren.core.color.mixing import ladder, mix, reflectance_of, reflectance_to_linear_srgb
from huvren.core.color.notation import NOTATIONS, format_css, parse_color
from huvren.core.color.planes import PLANES, chroma_reach, draw_plane
from huvren.core.color.spaces import convert
from huvren.core.color.transfer import encode_srgb_array
from huvren.core.color.typed import parse_named_colors
from huvren.core.color.value import Color
from huvren.core.errors import BadColor, BadInput
from huvren.core.palette.derivations import ColorSource
from huvren.core.palette.derivations.grays import GrayLadder
from huvren.core.palette.derivations.harmony import Drawn, Harmony
from huvren.core.palette.derivations.mixture import Mixture, Paint
from huvren.core.palette.derivations.samples import Samples
from huvren.core.palette.derivations.softened import Softened
from huvren.core.palette.derivations.tints import Tints
from huvren.core.palette.operations.add import AddSwatches
from huvren.core.palette.operations.derive import DeriveSwatches
from huvren.core.palette.values import Palette, Swatch
from huvren.core.sampling import sample_disc, sample_line
from tests.core.test_arranging_deeper import after, colored
from tests.pictures import opaque
from tools.reflectance import make_matrix

# Notations


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("K25", "#bfbfbf"), ("k100", "#000000"), ("cmyk(0 0 0 25)", "#bfbfbf"), ("#1234", "#11223344"), ("abc", "#aabbcc"),
        ("hwb(200 12% 20%)", None), ("lab(60 40 -20)", None), ("color(display-p3 0.2 0.5 0.4)", None), ("rebeccapurple", "#663399"),
    ],
)  # fmt: skip
def test_every_notation_is_read(text: str, code: str | None) -> None:
    wanted = code or Reference(text).convert("srgb").fit(method="oklch-chroma").to_string(hex=True)
    assert parse_color(text).hex == wanted


@pytest.mark.parametrize("notation", [n for n in NOTATIONS.ids() if n != "cmyk"])
@pytest.mark.parametrize("code", ["#c8102e", "#1b4d3e", "#f2f2f2", "#3a86ff", "#00000080"])
def test_what_is_written_another_library_reads_back(notation: str, code: str) -> None:
    written = format_css(parse_color(code), notation)
    read = Reference(written).convert("srgb")
    ours = np.array(parse_color(code).srgb)
    assert np.abs(np.array(read.coords()) - ours).max() < 0.003
    assert read.alpha() == pytest.approx(parse_color(code).alpha, abs=0.002)


def test_lists_with_names() -> None:
    text = "Lamp core  #ffcc66\n#102030 Night, deep\nSoot: K80\n\n#111 #222\nrgb(1 2 3) — Ink"
    named = [(color.hex, name) for color, name in parse_named_colors(text)]
    assert named == [
        ("#ffcc66", "Lamp core"), ("#102030", "Night, deep"), ("#333333", "Soot"), ("#111111", ""), ("#222222", ""),
        ("#010203", "Ink"),
    ]  # fmt: skip
    added = after(AddSwatches(text="Lamp core #ffcc66\nLamp core #ffcc67"), Palette("P"))
    assert [s.name for s in added.swatches] == ["Lamp core", "Lamp core 2"]
    with pytest.raises(BadColor, match="“Nothing” is no color"):
        parse_named_colors("Nothing here")


# Companions


@pytest.mark.parametrize(
    ("scheme", "spread", "count", "offsets"),
    [
        ("complement", 0, 2, [0, 180]), ("split", 30, 3, [0, 150, 210]), ("triad", 120, 3, [0, 120, 240]),
        ("tetrad", 60, 4, [0, 60, 180, 240]), ("tetrad", 90, 4, [0, 90, 180, 270]), ("analogous", 25, 5, [0, 25, 335, 50, 310]),
    ],
)  # fmt: skip
def test_companions_stand_at_their_angles_and_hold_lightness(scheme: str, spread: float, count: int, offsets: list[float]) -> None:
    assert [offset % 360 for offset in SCHEMES[scheme].offsets(spread, count)] == offsets  # type: ignore[arg-type]
    base = Color("oklch", (0.65, 0.09, 40.0))
    made = companions(base, scheme, spread, count if scheme == "analogous" else None)  # type: ignore[arg-type]
    assert made[0] == base
    for color, offset in zip(made, offsets, strict=True):
        lightness, chroma, hue = Reference(color.hex).convert("oklch").coords()
        assert lightness == pytest.approx(0.65, abs=0.004)
        assert chroma == pytest.approx(0.09, abs=0.004)
        assert (hue - 40 - offset + 180) % 360 - 180 == pytest.approx(0, abs=2)


def test_a_scale_rises_in_lightness_within_the_gamut() -> None:
    scale = companions(parse_color("#2040c0"), "scale", count=9)
    lightness = [color.to("oklch")[0] for color in scale]
    assert lightness == sorted(lightness)
    assert all(color.in_srgb for color in scale)
    with pytest.raises(BadInput, match="A triad has 3 colors; 5 were asked for"):
        companions(parse_color("#2040c0"), "triad", count=5)


@pytest.mark.parametrize("scheme", SCHEMES.ids())
def test_drawn_colors_follow_the_seed_and_keep_apart(scheme: str) -> None:
    kept = [parse_color("#c04030"), parse_color("#f0e0c0")]
    once = [c.hex for c in reroll(kept, 6, 7, scheme)]  # type: ignore[arg-type]
    assert once == [c.hex for c in reroll(kept, 6, 7, scheme)]  # type: ignore[arg-type]
    assert once != [c.hex for c in reroll(kept, 6, 8, scheme)]  # type: ignore[arg-type]
    places = np.array([c.oklab for c in [*kept, *reroll(kept, 6, 7, scheme)]])  # type: ignore[arg-type]
    gaps = np.linalg.norm(places[:, None] - places[None], axis=-1) + np.eye(len(places))
    assert gaps.min() * 100 > 5


# Mixing


def test_the_reflectance_matrix_is_that_of_its_script() -> None:
    assert np.allclose(reflectance_to_linear_srgb(), make_matrix(), atol=1e-12)
    assert np.allclose(reflectance_to_linear_srgb().sum(axis=1), 1)


@settings(max_examples=80, deadline=None)
@given(st.tuples(st.integers(0, 255), st.integers(0, 255), st.integers(0, 255)))
def test_recovered_reflectances_are_bounded_and_look_like_their_color(rgb: tuple[int, int, int]) -> None:
    spectrum = reflectance_of(Color.from_bytes(*rgb))
    assert 0 < spectrum.min() <= spectrum.max() < 1
    seen = encode_srgb_array(reflectance_to_linear_srgb() @ spectrum) * 255
    assert np.abs(seen - rgb).max() < 0.8
    assert np.abs(np.diff(spectrum)).max() < 0.45, "smooth"


@pytest.mark.parametrize("model", ["pigment", "light"])
@pytest.mark.parametrize("code", ["#000000", "#ffffff", "#fcd200", "#0a3fb0", "#ff0000", "#123456"])
def test_a_color_mixed_with_itself_stays_itself(model: str, code: str) -> None:
    color = parse_color(code)
    assert mix([color, color], [1, 3], model).hex == code  # type: ignore[arg-type]
    assert mix([color, parse_color("#888")], [1, 0], model).hex == code  # type: ignore[arg-type]


def test_paint_and_light_mix_as_one_expects() -> None:
    yellow, blue = parse_color("#fcd200"), parse_color("#0a3fb0")
    paint, light = mix([yellow, blue], [1, 1], "pigment"), mix([yellow, blue], [1, 1], "light")
    assert 110 < paint.to("oklch")[2] < 175, "yellow and blue paint make a green"
    assert light.to("oklab")[0] > paint.to("oklab")[0]
    red, green = parse_color("#ff0000"), parse_color("#00ff00")
    halfway = Reference("red").mix("lime", 0.5, space="srgb-linear").convert("srgb").to_string(hex=True)
    assert mix([red, green], [1, 1], "light").hex == halfway
    white, black = parse_color("#fff"), parse_color("#000")
    assert 0.45 < mix([white, black], [1, 1], "pigment").oklab[0] < 0.7
    shades = [color.oklab[0] for color in ladder(white, black, 5, "pigment")]
    assert shades == sorted(shades, reverse=True)
    assert mix([white, black], [3, 1], "light").srgb[0] == pytest.approx(float(encode_srgb_array(np.array([0.75]))[0]))


@pytest.mark.parametrize(
    ("parts", "words"), [([0, 0], "All parts are 0"), ([1], "parts for 1"), ([1, -1], "0 or more"), ([1, float("nan")], "0 or more")]
)
def test_impossible_parts_are_told(parts: list[float], words: str) -> None:
    with pytest.raises(BadInput, match=words):
        mix([parse_color("#fff"), parse_color("#000")], parts, "pigment")


# Samples


def test_a_disc_is_averaged_in_linear_light() -> None:
    halves = np.zeros((40, 40, 3), np.uint8)
    halves[:, 20:] = 255
    sample = sample_disc(opaque(halves), 20, 20, 21)
    x, y = np.meshgrid(np.arange(40) - 20, np.arange(40) - 20)
    disc = x**2 + y**2 <= 10.5**2
    assert sample.pixels == disc.sum()
    share = float((disc & (x >= 0)).sum() / disc.sum())
    assert sample.color.srgb[0] == pytest.approx(float(encode_srgb_array(np.array([share]))[0]), abs=1e-6)
    kinds = [(color.hex, round(amount, 3)) for color, amount in sample.kinds]
    assert kinds == [("#ffffff", round(share, 3)), ("#000000", round(1 - share, 3))]
    assert sample.spread > 20
    one = sample_disc(opaque(halves), 19.9, 3, 1)
    assert (one.color.hex, one.pixels, one.spread, one.kinds) == ("#000000", 1, 0, ())


def test_a_calm_disc_is_not_called_mixed() -> None:
    noise = np.random.default_rng(1).integers(96, 104, (60, 60, 3)).astype(np.uint8)
    assert sample_disc(opaque(noise), 30, 30, 51).kinds == ()


@pytest.mark.parametrize(
    ("x", "y", "diameter", "words"),
    [
        (-1, 3, 1, "lies outside the picture of 40 × 30"),
        (3, 30, 5, "outside"),
        (3, 3, 0, "1 to 201 pixels wide"),
        (3, 3, 202, "202 was asked"),
    ],
)
def test_impossible_samples_are_told(x: float, y: float, diameter: int, words: str) -> None:
    with pytest.raises(BadInput, match=words):
        sample_disc(opaque(np.zeros((30, 40, 3), np.uint8)), x, y, diameter)


def test_samples_along_a_line() -> None:
    ramp = np.repeat(np.arange(0, 250, 5, dtype=np.uint8)[None, :, None], 9, axis=0).repeat(3, axis=2)
    found = sample_line(opaque(ramp), (0.5, 4.5), (48.5, 4.5), 5, 1)
    assert [sample.color.bytes[0] for sample in found] == [0, 60, 120, 180, 240]
    clear = np.zeros((9, 9, 4), np.uint8)
    with pytest.raises(BadInput, match="nothing but clear pixels"):
        sample_disc(clear, 4, 4, 5)
    with pytest.raises(BadInput, match="2 to 64 colors"):
        sample_line(opaque(ramp), (0, 0), (1, 1), 65, 1)


# Derivations


def derived(palette: Palette, derivation: object, group: str = "") -> list[Swatch]:
    grown = after(DeriveSwatches(derivation=derivation, group=group), palette)
    return list(grown.swatches[len(palette.swatches) :])


def test_gray_ladders() -> None:
    by_black = derived(Palette("P"), GrayLadder(by="black", count=5))
    assert [(s.color.hex, s.name) for s in by_black] == [
        ("#ffffff", "K 0"), ("#bfbfbf", "K 25"), ("#808080", "K 50"), ("#404040", "K 75"), ("#000000", "K 100"),
    ]  # fmt: skip
    assert by_black[1].color.space == "cmyk"
    even = [s.color.oklab[0] for s in derived(Palette("P"), GrayLadder(count=6))]
    assert np.diff(even) == pytest.approx(-0.2, abs=0.004)
    assert len(derived(Palette("P"), GrayLadder(count=3, ends=False))) == 3


def test_tints_shades_tones_and_softened_copies() -> None:
    palette = colored("#c04030", "#204080")
    tints = derived(palette, Tints(ids=["a", "b"], toward="tints", count=3), "Tints")
    assert len(tints) == 6
    assert len({s.group for s in tints}) == 1
    assert tints[0].group is not None
    lightness = [s.color.oklab[0] for s in tints[:3]]
    assert lightness == sorted(lightness)
    tones = derived(palette, Tints(ids=["a"], toward="tones", count=3))
    own = palette.swatches[0].color.oklab[0]
    assert [s.color.oklab[0] for s in tones] == pytest.approx([own] * 3, abs=0.003)
    soft = derived(palette, Softened(ids=["a"], ground=ColorSource(text="#fff"), opacity=50))
    assert (soft[0].color.hex, soft[0].name) == ("#e0a098", "Swatch a 50 %")


def test_harmonies_mixtures_and_samples_come_in_as_one_step() -> None:
    palette = colored("#c04030", "#204080", locked="a")
    step = DeriveSwatches(derivation=Harmony(base=ColorSource(swatch="a"), scheme="triad"))
    assert step.label(palette) == "Add the triad of Swatch a"
    assert len(derived(palette, Harmony(base=ColorSource(swatch="a"), scheme="triad"))) == 2
    assert len(derived(palette, Harmony(base=ColorSource(text="#c04030"), scheme="triad", with_base=True))) == 3
    assert len(derived(palette, Drawn(count=4, seed=3))) == 4
    paints = [Paint(color=ColorSource(swatch="a"), parts=3), Paint(color=ColorSource(text="#fff"))]
    assert len(derived(palette, Mixture(paints=paints))) == 1
    assert len(derived(palette, Mixture(paints=paints, steps=5))) == 5
    third = derived(palette, Mixture(paints=paints, steps=5))[2]
    assert derived(palette, Mixture(paints=paints, steps=5, only=2))[0].color == third.color
    picked = derived(palette, Samples(texts=["#010203", "red"], source="Plate"))
    assert [swatch.color.hex for swatch in picked] == ["#010203", "#ff0000"]
    with pytest.raises(BadInput, match="two colors or more"):
        Mixture(paints=paints[:1]).colors(palette)
    with pytest.raises(BadInput, match="there is no step 8"):
        Mixture(paints=paints, steps=5, only=7).colors(palette)
    with pytest.raises(BadInput, match="Nothing was picked"):
        Samples(texts=[]).colors(palette)
    with pytest.raises(ValueError, match="one of the two"):
        ColorSource()


# Planes


@pytest.mark.parametrize("plane", [plane for plane in PLANES if not plane.is_round], ids=lambda plane: plane.id)
def test_planes_show_the_color_of_each_place(plane: object) -> None:
    held = {"chroma-lightness": 145.0, "hue-chroma": 0.7, "hue-lightness": 0.08, "saturation-value": 210.0}[plane.id]  # type: ignore[attr-defined]
    drawn = draw_plane(plane.id, held, 61, 41)  # type: ignore[attr-defined]
    for column, row in ((0, 40), (30, 20), (15, 5), (60, 0)):
        coords = [0.0, 0.0, 0.0]
        coords[plane.held] = held  # type: ignore[attr-defined]
        for share, (channel, low, high) in ((column / 60, plane.across), (1 - row / 40, plane.up)):  # type: ignore[attr-defined]
            coords[channel] = low + (high - low) * share
        srgb = convert(coords, plane.space, "srgb")  # type: ignore[attr-defined]
        inside = bool((srgb > -1e-4).all() and (srgb < 1 + 1e-4).all())
        assert (drawn[row, column, 3] == 255) == inside
        if inside:
            assert np.abs(drawn[row, column, :3] - np.clip(srgb, 0, 1) * 255).max() <= 0.51


def test_the_hue_disc_is_round_with_gray_in_its_middle() -> None:
    disc = draw_plane("hue-disc", 0.7, 101, 101)
    assert disc[0, 0, 3] == 0
    middle = disc[50, 50]
    assert middle[3] == 255
    assert int(middle[:3].max()) - int(middle[:3].min()) <= 1
    right = convert([0.7, 0.34 * 0.2, 0.0], "oklch", "srgb") * 255
    assert np.abs(disc[50, 60, :3] - right).max() < 1


@pytest.mark.parametrize("lightness", [0.1, 0.25, 0.452, 0.7, 0.95])
def test_a_disc_reaches_as_far_as_the_gamut_does(lightness: float) -> None:
    """Against the gamut's edge of coloraide, hue by hue: nothing lies outside the disc, and little of it is empty."""
    reach = chroma_reach(lightness)
    widest = 0.0
    for hue in range(0, 360, 2):
        low, high = 0.0, 0.4
        for _ in range(12):
            middle = (low + high) / 2
            if Reference("oklch", [lightness, middle, hue]).in_gamut("srgb", tolerance=0):
                low = middle
            else:
                high = middle
        widest = max(widest, low)
    assert widest <= reach <= max(widest * 1.12, 0.04)
    disc = draw_plane("hue-disc", lightness, 201, 201, reach)
    across, up = np.meshgrid(np.linspace(-1, 1, 201), np.linspace(1, -1, 201))
    shown = np.hypot(across, up)[disc[..., 3] == 255].max() * reach
    assert shown == pytest.approx(widest, abs=0.004)


def test_black_and_white_leave_a_disc_to_look_at() -> None:
    assert chroma_reach(0.0) == chroma_reach(1.0) == 0.04
