"""Branches that docstrings and docs promise, each by a case that would differ without it."""

import struct
from dataclasses import replace

import coloraide
import numpy as np
import pytest

from huvren.core.color.difference import delta_eok
from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import SPACES, convert
from huvren.core.color.value import Color
from huvren.core.errors import BadColor, BadFile, BadInput
from huvren.core.formats import FORMATS, Document
from huvren.core.formats.holding import within_reach
from huvren.core.palette.document import palette_to_document
from huvren.core.palette.merging import mean_color
from huvren.core.palette.operations.adjust import AdjustSwatches
from huvren.core.palette.operations.bring_in import BringIn
from huvren.core.palette.operations.duplicate import DuplicateSwatches
from huvren.core.palette.operations.notes import AnnotateSwatches, TagPalette
from huvren.core.palette.operations.slots import SetSlots
from huvren.core.palette.sorting import sorted_palette, sorted_places
from huvren.core.palette.values import Palette, Swatch
from huvren.core.reduction.tiles import limit_tiles
from huvren.core.reduction.weighing import MASK_MOST, ONCE, BrushMark, draw_mask
from tests.core.test_arranging import strip


@pytest.mark.parametrize("text", ["hwb(40 80% 70%)", "hwb(200 100% 100%)", "hwb(0 60% 60%)", "hwb(120 30% 90%)"])
def test_whiteness_and_blackness_above_one_together_are_a_gray(text: str) -> None:
    ours = parse_color(text).srgb
    assert ours == pytest.approx(coloraide.Color(text).convert("srgb").coords(), abs=1e-9)
    assert max(ours) - min(ours) < 1e-9


@pytest.mark.parametrize(
    ("text", "coords"),
    [
        ("lab(150 10 10)", (100, 10, 10)), ("lab(-3 10 10)", (0, 10, 10)), ("lch(150 -5 30)", (100, 0, 30)),
        ("oklab(1.2 0.1 0)", (1, 0.1, 0)), ("oklch(-0.1 -0.2 30)", (0, 0, 30)), ("rgb(300 -20 10)", (1, 0, 10 / 255)),
        ("color(srgb 1.4 -0.2 0)", (1.4, -0.2, 0)), ("color(display-p3 1.2 0 0)", (1.2, 0, 0)),
    ],
)  # fmt: skip
def test_css_clamps_lightness_and_chroma_and_leaves_color_alone(text: str, coords: tuple[float, ...]) -> None:
    assert parse_color(text).coords == pytest.approx(coords)


def test_the_mean_of_a_merge_weighs_and_keeps_alpha() -> None:
    red, blue = Swatch(parse_color("#ff0000"), id="r"), Swatch(parse_color("#0000ff40"), id="b")
    mean = mean_color([red, blue], {})
    weights = np.array([1, 64 / 255])
    wanted = (weights[:, None] * [red.color.to("oklab"), blue.color.to("oklab")]).sum(axis=0) / weights.sum()
    assert mean.coords == pytest.approx(wanted)
    assert mean.alpha == pytest.approx(weights.sum() / 2)
    by_pixels = mean_color([red, blue], {"r": 1, "b": 99})
    assert by_pixels.alpha == pytest.approx((1 + 99 * 64 / 255) / 100)
    clear = [Swatch(parse_color("#ff000000")), Swatch(parse_color("#0000ff00"))]
    assert mean_color(clear, {}) == clear[0].color


def test_what_comes_in_takes_free_places_and_no_pins() -> None:
    here = SetSlots(slots=8).apply(strip("#111111", "#222222")).palette
    there = Palette(
        "Other",
        tuple(replace(s, id=f"x{n}", slot=n, pinned=True) for n, s in enumerate(strip("#aa0000", "#00aa00").swatches)),
        slots=4,
    )
    after = BringIn(document=palette_to_document(there), source="Other").apply(here).palette
    assert [(s.id, s.slot, s.pinned) for s in after.swatches] == [
        ("a", 0, False),
        ("b", 1, False),
        ("x0", 2, False),
        ("x1", 3, False),
    ]


def test_the_copy_of_a_pinned_swatch_leaves_the_original_its_place_and_pin() -> None:
    palette = SetSlots(slots=8).apply(strip("#111111", "#222222", "#333333")).palette
    palette = replace(
        palette, swatches=tuple(replace(s, pinned=s.id == "b", slot=5 if s.id == "b" else s.slot) for s in palette.swatches)
    )
    palette = palette.with_swatches(palette.swatches)
    after = DuplicateSwatches(ids=["b"]).apply(palette).palette
    kept = next(s for s in after.swatches if s.id == "b")
    copy = next(s for s in after.swatches if s.name == "B copy" or s.name.endswith("copy"))
    assert (kept.slot, kept.pinned) == (5, True)
    assert (copy.slot, copy.pinned, copy.locked) == (6, False, False)
    assert len({s.slot for s in after.swatches}) == 4


def test_a_coarse_key_counts_in_whole_steps_downward() -> None:
    """Lightness 0.19 and 0.11 are one tenth, 0.21 the next: chroma decides within the tenth alone."""
    swatches = [
        Swatch(Color("oklch", (lightness, chroma, 30.0)), id=name)
        for name, lightness, chroma in (("dull", 0.19, 0.021), ("vivid", 0.11, 0.04), ("light", 0.21, 0.001))
    ]
    swatches = [replace(s, color=Color("srgb", s.color.srgb)) for s in swatches]
    assert [swatches[place].id for place in sorted_places(swatches, ["lightness", "chroma"])] == ["dull", "vivid", "light"]
    assert [swatches[place].id for place in sorted_places(swatches, ["lightness"])] == ["vivid", "dull", "light"]


def test_half_clear_swatches_are_adjusted_and_keep_their_alpha_and_clear_ones_are_left() -> None:
    palette = strip("#80402080", "#80402000", "#804020")
    after = AdjustSwatches(lightness=20).apply(palette).palette.swatches
    assert [s.color.alpha for s in after] == pytest.approx([128 / 255, 0, 1])
    assert after[0].color.srgb == pytest.approx(after[2].color.srgb)
    assert after[0].color.oklab[0] > palette.swatches[0].color.oklab[0] + 0.1
    assert after[1] == palette.swatches[1]


def ase_with(lightness: float, a: float = 20.0, b: float = -30.0) -> bytes:
    name = struct.pack(">H", 2) + "x\0".encode("utf-16-be")
    body = name + b"LAB " + struct.pack(">3fH", lightness, a, b, 2)
    return b"ASEF" + struct.pack(">HHI", 1, 0, 1) + struct.pack(">HI", 1, len(body)) + body


@pytest.mark.parametrize(("written", "read"), [(0.5, 50), (1.0, 100), (0.0, 0), (50.0, 50), (99.5, 99.5), (1.5, 1.5)])
def test_lab_lightness_of_a_swatch_exchange_is_a_share_or_a_percentage(written: float, read: float) -> None:
    color = FORMATS["ase"].read(ase_with(written)).palette.swatches[0].color  # type: ignore[misc]
    assert color.space == "lab"
    assert color.coords == pytest.approx((read, 20, -30), abs=1e-4)


def riff(chunks: bytes) -> bytes:
    body = b"PAL " + chunks
    return b"RIFF" + struct.pack("<I", len(body)) + body


DATA = b"data" + struct.pack("<IHH", 12, 0x0300, 2) + bytes([1, 2, 3, 0, 4, 5, 6, 0])


@pytest.mark.parametrize("odd", [b"", b"note" + struct.pack("<I", 3) + b"abc\0", b"note" + struct.pack("<I", 4) + b"abcd"])
def test_chunks_of_odd_length_are_padded(odd: bytes) -> None:
    found = FORMATS["pal-riff"].read(riff(odd + DATA))  # type: ignore[misc]
    assert [s.color.bytes[:3] for s in found.palette.swatches] == [(1, 2, 3), (4, 5, 6)]


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"RIFX" + riff(DATA)[4:], "“RIFF” was expected"), (riff(DATA)[:-1], "cut short"),
        (b"RIFF" + struct.pack("<I", 4) + b"WAVE", "something else than a palette"),
        (riff(b"data" + struct.pack("<IHH", 12, 0x0200, 2) + bytes(8)), "version 0x0200 was found"),
        (riff(b"data" + struct.pack("<IHH", 12, 0x0300, 3) + bytes(8)), "3 colors need 16 bytes; the chunk has 12"),
        (riff(b"note" + struct.pack("<I", 99) + b"abcd"), "the chunk at byte 12"), (riff(b""), "a chunk's name"),
        (riff(b"data" + struct.pack("<IHH", 4, 0x0300, 0)), "Its count is 0"),
    ],
)  # fmt: skip
def test_a_broken_riff_palette_is_told_why(data: bytes, words: str) -> None:
    with pytest.raises(BadFile, match=words.replace("(", r"\(")):
        FORMATS["pal-riff"].read(data)  # type: ignore[misc]
    with pytest.raises(BadFile, match="holds 65,535 colors; this palette has 65,536"):
        FORMATS["pal-riff"].written(Document(Palette("P", tuple(Swatch(Color.from_bytes(0, 0, 0), id=str(n)) for n in range(65536)))))


def test_lab_of_another_white_is_held_as_lab() -> None:
    color = Color("lab-d65", (60.0, 20.0, -30.0), 0.5)
    held = within_reach(color, FORMATS["ase"].keeps.spaces)
    assert (held.space, held.alpha) == ("lab", 0.5)
    assert delta_eok(held.to("oklab"), color.to("oklab")) < 1e-4
    assert held.coords == pytest.approx(coloraide.Color("lab-d65", [60, 20, -30]).convert("lab").coords(), abs=0.02)


def test_a_color_table_says_when_its_end_may_be_filling() -> None:
    table = bytes([9, 9, 9]) * 250 + bytes([1, 2, 3]) * 6
    assert FORMATS["act"].read(table).notes == (  # type: ignore[misc]
        "The table always has 256 places; the last 6 are all the same and may be filling.",
    )
    assert FORMATS["act"].read(table[:-3] + bytes([1, 2, 4])).notes == ()  # type: ignore[misc]
    assert FORMATS["act"].read(table + struct.pack(">HH", 256, 0xFFFF)).notes == ()  # type: ignore[misc]


def test_a_brush_is_full_to_half_its_radius_and_falls_to_once_at_the_rim() -> None:
    size = MASK_MOST
    mask = draw_mask([BrushMark(points=[(0.5, 0.5)], radius=0.25, weight=8)], size, size).astype(float) / ONCE
    row = mask[size // 2]
    middle, reach = size // 2, size // 4
    assert row[middle] == 8
    assert row[middle + reach // 2 - 2] == pytest.approx(8, abs=0.1)
    assert row[middle + reach * 3 // 4] == pytest.approx(1 + 7 / 2, abs=0.15), "half way down between"
    assert row[middle + reach + 2] == 1
    assert row[middle + reach - 3] > 1


def test_a_brush_counts_as_much_as_it_says_and_no_more() -> None:
    """Full at its middle, where it would cover twice."""
    mask = draw_mask([BrushMark(points=[(0.5, 0.5)], radius=0.25, weight=2)], 100, 100) / ONCE
    assert mask[50, 50] == 2
    faint = draw_mask([BrushMark(points=[(0.5, 0.5)], radius=0.25, weight=0.5)], 100, 100) / ONCE
    assert faint[50, 50] == 0.5


def test_the_swaps_of_a_tile_make_its_greedy_choice_better() -> None:
    """Where combinations are too many, greedy picks are improved by swaps: as good as the best of all, found by brute force."""
    random = np.random.default_rng(5)
    oklab = random.random((14, 3))
    indices = random.choice(14, (20, 20), p=random.dirichlet(np.ones(14))).astype(np.uint8)
    counts = np.bincount(indices.ravel(), minlength=14)
    gaps = np.linalg.norm(oklab[:, None] - oklab[None], axis=-1)

    def cost(kept: tuple[int, ...]) -> float:
        return float((counts * gaps[:, list(kept)].min(axis=1)).sum())

    import itertools

    best = min(cost(kept) for kept in itertools.combinations(range(14), 5))
    greedy: list[int] = []
    for _ in range(5):
        greedy.append(min((c for c in range(14) if c not in greedy), key=lambda c: cost((*greedy, c))))
    tiled = limit_tiles(indices, oklab, -1, 20, 20, 5)
    ours = cost(tuple(np.unique(tiled.indices).tolist()))
    assert ours < cost(tuple(greedy)) - 1e-9, "this case needs a swap"
    assert ours <= best * 1.02
    assert tiled.losses[0, 0] == pytest.approx(ours / 400 * 100, rel=1e-6)


def test_a_missing_component_has_no_number() -> None:
    with pytest.raises(BadColor, match="A missing component has no number"):
        Color("oklch", (0.5, 0.1, 30.0), 1.0, (2,))
    color = Color.of("oklch", (0.5, None, 30.0), None)
    assert (color.coords, color.alpha, color.missing) == ((0.5, 0.0, 30.0), 0.0, (1, -1))
    assert color.with_alpha(0.5).missing == (1,)


def test_notes_and_tags_are_cleaned_limited_and_labeled() -> None:
    palette = strip("#111111", "#222222")
    noted = AnnotateSwatches(ids=["a"], note="  two\x00 lines\nof it ").apply(palette).palette
    assert noted.swatches[0].note == "two lines\nof it"
    assert noted.swatches[1] == palette.swatches[1]
    tagged = AnnotateSwatches(ids=["a", "b"], tags=["ink", " ink ", "wing"])
    assert tagged.label(palette) == "Tag “A” and “B”: ink, wing"
    assert [s.tags for s in tagged.apply(noted).palette.swatches] == [("ink", "wing")] * 2
    assert tagged.apply(noted).palette.swatches[0].note == "two lines\nof it", "what is left out stays"
    assert AnnotateSwatches(ids=["a"], tags=[]).label(palette).endswith(": no tags")
    assert AnnotateSwatches(ids=["a"], note="x").label(palette) == f"Note on “{palette.swatches[0].name}”"
    with pytest.raises(BadInput, match="Give a note, tags, or both"):
        AnnotateSwatches(ids=["a"]).apply(palette)
    with pytest.raises(BadInput, match="21 tags are too many; 20 is the most"):
        TagPalette(tags=[str(n) for n in range(21)]).apply(palette)
    with pytest.raises(BadInput, match="40 is the most"):
        TagPalette(tags=["x" * 41]).apply(palette)
    assert TagPalette(tags=["press", "press"]).label(palette) == "Tag the palette: press"


def test_every_space_with_a_hue_says_when_it_has_no_power() -> None:
    """The declared rule against an independent library: a gray's hue is missing after conversion."""
    for space in SPACES:
        if space.hue is None:
            continue
        gray = convert(np.array([[0.42, 0.42, 0.42]]), "srgb", space.id)
        vivid = convert(np.array([[0.8, 0.3, 0.1]]), "srgb", space.id)
        assert space.hue_is_powerless(gray).tolist() == [True], space.id
        assert space.hue_is_powerless(vivid).tolist() == [False], space.id


def test_a_name_of_raised_digits_sorts_as_letters() -> None:
    palette = Palette("x", tuple(Swatch(Color.from_bytes(0, 0, 0), name) for name in ("²", "10", "9", "a")))
    assert [swatch.name for swatch in sorted_palette(palette, ["name"]).swatches] == ["9", "10", "a", "²"]
