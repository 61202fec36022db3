"""Checks: what they say is so, against brute force and independent libraries; mends mend, and nothing locked changes."""

from dataclasses import replace
from itertools import combinations, permutations
from typing import Any

import matplotlib as mpl
import numpy as np
import pytest
from coloraide import Color as Reference
from hypothesis import given, settings
from hypothesis import strategies as st
from matplotlib.colors import to_hex

from huvren.core.checks import CHECKS, Report, clean_limits, examine, examine_all, known_limits
from huvren.core.checks.balance import crowd_in, gaps_in
from huvren.core.checks.example import example_of
from huvren.core.checks.forms import runs_of, shaded
from huvren.core.checks.mixtures import mixed, seen_error
from huvren.core.checks.ordering import EXACT_UP_TO, farthest_order, worth
from huvren.core.checks.pictures import painted_with, sample_of
from huvren.core.checks.rules import differences
from huvren.core.checks.shapes import FORMS, lit
from huvren.core.checks.subject import Sample, Subject, quoted_name
from huvren.core.checks.text import ratios
from huvren.core.checks.touching import by_swatch, touching
from huvren.core.color.notation import parse_color
from huvren.core.color.spaces import convert
from huvren.core.color.value import Color
from huvren.core.color.vision import VISIONS, seen
from huvren.core.errors import BadInput, HuvrenError, Unknown
from huvren.core.palette.values import Group, Palette, Swatch
from huvren.demo.library import typed_palettes
from tests.pictures import opaque, painted

CODES = (
    "#171426", "#262b5c", "#3f4f8c", "#5f86b8", "#9cc3d6", "#14323a", "#1f6e6a", "#2bb5a0", "#9fe0c0", "#4a1f14", "#8a3c14",
    "#c8641e",
)  # fmt: skip
TWO = ("#ff0000", "#00ff00")


def palette_of(*codes: str, locked: tuple[int, ...] = (), groups: str = "") -> Palette:
    """Swatches named Ink 0, Ink 1 …; `groups` has a letter for each, blank for none."""
    letters = groups.ljust(len(codes))
    made = {letter: Group(letter, f"g{letter}") for letter in groups if letter.strip()}
    swatches = tuple(
        Swatch(parse_color(code), f"Ink {n}", f"s{n}", n in locked, made[letters[n]].id if letters[n].strip() else None)
        for n, code in enumerate(codes)
    )
    return Palette("P", swatches, tuple(made.values()))


colors = st.tuples(*[st.integers(0, 255)] * 3).map(lambda rgb: "#{:02x}{:02x}{:02x}".format(*rgb))
palettes = st.builds(
    lambda codes, locked, groups: palette_of(*codes, locked=tuple(locked), groups="".join(sorted(groups))),
    st.lists(colors, min_size=0, max_size=12), st.sets(st.integers(0, 11), max_size=3), st.lists(st.sampled_from("AB"), max_size=8),
)  # fmt: skip


def borders(palette: Palette, seed: int) -> dict[tuple[str, str], int]:
    rng = np.random.default_rng(seed)
    table = [swatch.id for swatch in palette.swatches]
    if not table:
        return {}
    return dict(by_swatch(touching(rng.integers(0, len(table), (12, 16)).astype(np.uint8)), table))


def named_pairs(report: Report) -> set[tuple[str, ...]]:
    return {tuple(sorted(pair)) for pair in report.pairs}


@settings(max_examples=120, deadline=None)
@given(palettes, st.booleans(), st.integers(0, 99))
def test_what_is_mended_is_no_longer_named_and_nothing_locked_has_changed(palette: Palette, linked: bool, seed: int) -> None:
    met = borders(palette, seed) if linked else None
    usage = {swatch.id: n for n, swatch in enumerate(palette.swatches)} if linked else None
    subject = Subject(palette, usage, met)
    for check, report in examine_all(subject).items():
        sentence = report.sentence
        assert sentence
        assert sentence[0].isupper() or not sentence[0].isalpha()
        assert sentence.endswith("."), sentence
        assert "  " not in sentence
        present = {swatch.id for swatch in palette.swatches}
        assert set(report.ids) <= present
        drawing = report.draw(CHECKS[check].settled({}, views=True))
        assert {swatch for shape in drawing.shapes for swatch in shape.ids} <= present
        for mend in report.mends:
            after = mend.operation.run(palette, usage or {}).palette
            for before in palette.swatches:
                if before.locked:
                    assert next(swatch for swatch in after.swatches if swatch.id == before.id).color == before.color, mend.label
            again = examine(CHECKS[check], Subject(after, usage, met))
            if mend.operation.kind == "recolor_swatch" and report.pairs and check not in {"rules", "order", "text"}:
                moved = mend.operation.id
                gone = [pair for pair in named_pairs(report) if moved in pair and pair not in named_pairs(again)]
                assert gone, (check, mend.label, report.sentence, again.sentence)
            if check == "text":
                assert again.verdict == "holds", (mend.label, again.sentence)
            if check == "balance" and mend.operation.kind == "fill_between":
                left, right = sorted(mend.operation.ids)
                assert (left, right) not in named_pairs(again), mend.label
            if check == "balance" and mend.operation.kind == "delete_swatches":
                assert "lie within" not in again.sentence
            if check == "forms" and mend.operation.kind == "sort_swatches":
                names = [quoted_name(swatch) for swatch in palette.swatches if swatch.id in mend.operation.ids]
                assert not any(f"{name} goes up and down" in again.sentence for name in names)


@settings(max_examples=60, deadline=None)
@given(palettes)
def test_checks_say_the_same_of_the_same_and_change_nothing(palette: Palette) -> None:
    first, second = (examine_all(Subject(palette)) for _ in range(2))
    assert [(r.verdict, r.sentence, r.pairs) for r in first.values()] == [(r.verdict, r.sentence, r.pairs) for r in second.values()]
    assert [[m.operation.model_dump() for m in r.mends] for r in first.values()] == [
        [m.operation.model_dump() for m in r.mends] for r in second.values()
    ]


def test_every_palette_of_the_demo_but_one_has_something_to_find() -> None:
    clean = [palette.name for palette in typed_palettes() if len(palette.swatches) > 3
             if {report.verdict for report in examine_all(Subject(palette)).values()} <= {"holds", "nothing"}]  # fmt: skip
    assert clean == ["Trap map, six depths"]


def test_borders_in_a_picture_against_brute_force() -> None:
    rng = np.random.default_rng(5)
    indices = rng.integers(0, 6, (23, 31)).astype(np.uint8)
    counts = np.zeros((256, 256), int)
    for y, x in np.ndindex(indices.shape):
        for down, right in ((0, 1), (1, 0)):
            if y + down < 23 and x + right < 31 and indices[y, x] != indices[y + down, x + right]:
                a, b = int(indices[y, x]), int(indices[y + down, x + right])
                counts[a, b] += 1
                counts[b, a] += 1
    assert (touching(indices) == counts).all()
    table = ["a", "b", "a", None, "c", "b"]
    found = by_swatch(touching(indices), table)
    assert found["a", "b"] == counts[0, 1] + counts[0, 5] + counts[2, 1] + counts[2, 5]
    assert set(found) == {("a", "b"), ("a", "c"), ("b", "c")}, "the same swatch does not border on itself, and none on nothing"
    assert touching(np.zeros((1, 1), np.uint8)).sum() == 0


@settings(max_examples=40, deadline=None)
@given(st.integers(2, 7), st.integers(0, 10_000))
def test_orders_are_the_best_there_are(count: int, seed: int) -> None:
    points = np.random.default_rng(seed).random((count, 3))
    table = np.linalg.norm(points[:, None] - points[None], axis=2)
    order, exact = farthest_order(table)
    assert exact
    assert sorted(order) == list(range(count))
    best = max(worth(table, list(path)) for path in permutations(range(count)))
    assert worth(table, order) == pytest.approx(best)


def test_orders_beyond_the_exact_ones_are_no_worse_than_the_strip() -> None:
    points = np.random.default_rng(9).random((EXACT_UP_TO + 8, 3))
    table = np.linalg.norm(points[:, None] - points[None], axis=2)
    order, exact = farthest_order(table)
    assert not exact
    assert sorted(order) == list(range(len(points)))
    shuffled = [np.random.default_rng(n).permutation(len(points)).tolist() for n in range(300)]
    assert worth(table, order) >= max(worth(table, path) for path in shuffled)


def test_contrast_ratios_are_those_of_wcag() -> None:
    subject = Subject(palette_of("#000000", "#ffffff", "#777777", *CODES))
    table = ratios(subject)
    assert table[0, 1] == pytest.approx(21, abs=1e-6)
    assert table[1, 2] == pytest.approx(4.48, abs=0.005), "the gray that just misses 4.5"
    for a, b in combinations(range(len(subject.swatches)), 2):
        theirs = Reference(subject.hex(a)).contrast(Reference(subject.hex(b)), method="wcag21")
        # coloraide takes its luminance in XYZ with slightly other digits.
        assert table[a, b] == pytest.approx(theirs, rel=2e-3)


@settings(max_examples=60, deadline=None)
@given(st.lists(colors, min_size=2, max_size=7), st.floats(1, 21), st.floats(1, 21))
def test_the_verdict_on_text_is_what_the_ratios_say(codes: list[str], one: float, other: float) -> None:
    low, high = sorted((round(one, 1), round(other, 1)))
    subject = Subject(palette_of(*codes))
    report = examine(CHECKS["text"], subject, {"low": low, "high": high})
    values = [ratios(subject)[a, b] for a, b in combinations(range(len(codes)), 2)]
    inside = [value for value in values if low <= value <= high]
    assert (report.verdict == "holds") == bool(inside)
    for mend in report.mends:
        after = Subject(mend.operation.run(subject.palette).palette)
        assert any(low <= ratios(after)[a, b] <= high for a, b in combinations(range(len(codes)), 2)), mend.label
    if low > 1:
        chosen = examine(CHECKS["text"], subject, {"low": low, "high": high, "ink": "s0", "ground": "s1"})
        assert (chosen.verdict == "fails") == (not low <= ratios(subject)[0, 1] <= high)


def test_mixtures_are_optical_means_in_linear_light() -> None:
    palette = palette_of("#000000", "#ffffff", "#bcbcbc", "#808080")
    subject = Subject(palette)
    made = mixed(subject, coarse_limit=100, new_limit=0.1)
    pairs = list(zip(made.first.tolist(), made.second.tolist(), strict=True))
    black_white = pairs.index((0, 1))
    gray = convert(made.oklab[black_white], "oklab", "srgb")
    assert gray * 255 == pytest.approx([188, 188, 188], abs=0.6), "half of the light is sRGB 188, not 128"
    assert made.new[black_white] == pytest.approx(0, abs=0.01), "which the palette has already"
    assert black_white not in made.useful
    assert made.coarse[black_white] == pytest.approx(100, abs=0.1)
    for number in made.useful:
        assert made.new[number] >= 0.1
    assert examine(CHECKS["mixtures"], subject, {"coarse": 2}).verdict == "look"


@settings(max_examples=40, deadline=None)
@given(st.lists(colors, min_size=3, max_size=10, unique=True), st.integers(0, 99))
def test_tones_grown_by_mixing_never_lie_farther_from_a_picture(codes: list[str], seed: int) -> None:
    rgb = np.random.default_rng(seed).integers(0, 256, (20, 20, 3)).astype(np.uint8)
    sample = sample_of(opaque(rgb))
    assert sample.weights.sum() == 400
    subject = Subject(palette_of(*codes), samples=sample)
    made = mixed(subject, 30, 3)
    before = seen_error(subject, subject.oklab)
    after = seen_error(subject, np.concatenate([subject.oklab, made.oklab[made.useful]]))
    assert after <= before + 1e-9
    brute = np.linalg.norm(sample.oklab[:, None] - subject.oklab[None], axis=2).min(axis=1) @ sample.weights / 4
    assert before == pytest.approx(brute)


def test_gaps_and_crowds_of_lightness() -> None:
    lightness = np.array([0.9, 0.1, 0.35, 0.36, 0.38, 0.6])
    assert gaps_in(lightness, 0.24) == [(5, 0), (1, 2)]
    assert gaps_in(lightness, 0.31) == []
    assert sorted(crowd_in(lightness, 0.03).tolist()) == [2, 3, 4]
    assert len(crowd_in(lightness, 0.02)) == 2
    assert crowd_in(lightness, 0.027).tolist() == [2, 3], "of two as large the darker"
    assert len(crowd_in(lightness, 1)) == 6


def test_values_that_melt_are_those_that_touch() -> None:
    """Red and green of one lightness, and a light one: they melt only where they meet."""
    palette = palette_of("#b0483a", "#3f7f4a", "#f4ead6")
    apart = np.array([[0, 0, 2, 2, 1, 1]], np.uint8)
    beside = np.array([[0, 0, 0, 1, 1, 2]], np.uint8)
    table = ["s0", "s1", "s2"]
    assert examine(CHECKS["value"], Subject(palette, touching=by_swatch(touching(apart), table))).verdict == "holds"
    report = examine(CHECKS["value"], Subject(palette, touching=by_swatch(touching(beside), table)))
    assert report.verdict == "look"
    assert report.pairs == (("s0", "s1"),)
    assert "50 % of the borders in the picture" in report.sentence
    assert "no picture is linked" in examine(CHECKS["value"], Subject(palette)).sentence


def test_eyes_name_what_only_some_part() -> None:
    palette = palette_of("#b5533c", "#6f7f2f", "#3c6fb5", "#f0d9a0")
    report = examine(CHECKS["eyes"], Subject(palette, touching={("s0", "s1"): 9, ("s1", "s2"): 1}))
    assert report.pairs[0] == ("s0", "s1")
    assert report.verdict == "fails", "they touch"
    assert "1 of them touch" in report.sentence
    srgb = Subject(palette).srgb[:2]
    apart = np.linalg.norm(np.diff(convert(srgb, "srgb", "oklab"), axis=0)) * 100
    deutan = np.linalg.norm(np.diff(convert(seen(srgb, VISIONS["deutan"]), "srgb", "oklab"), axis=0)) * 100
    assert apart >= 10 > 5 > deutan
    assert f"ΔE {deutan:.1f}" in report.sentence
    assert examine(CHECKS["eyes"], Subject(palette), {"severity": 5}).verdict == "holds"


@settings(max_examples=50, deadline=None)
@given(st.lists(colors, min_size=2, max_size=8))
def test_the_verdict_on_charts_is_the_least_difference_to_any_eyes(codes: list[str]) -> None:
    subject = Subject(palette_of(*codes))
    report = examine(CHECKS["charts"], subject, {"apart": 8})
    least = np.inf
    for srgb in (subject.srgb, *(seen(subject.srgb, vision) for vision in VISIONS)):
        oklab = convert(srgb, "srgb", "oklab")
        least = min(least, *(np.linalg.norm(oklab[a] - oklab[b]) * 100 for a, b in combinations(range(len(codes)), 2)))
    assert (report.verdict == "fails") == (least < 4)
    assert report.verdict in ({"look", "holds"} if least >= 8 else {"look", "fails"})
    assert f"with {least:.1f};" in report.sentence


def test_runs_are_groups_or_neighbors_in_hue() -> None:
    grouped = Subject(palette_of(*CODES[:9], groups="AAAAABBBB"))
    assert [run.places for run in runs_of(grouped)] == [(0, 1, 2, 3, 4), (5, 6, 7, 8)]
    loose = Subject(palette_of("#7a1f14", "#c8641e", "#ffa22e", "#262b5c", "#5f86b8"))
    assert [run.places for run in runs_of(loose)] == [(0, 1, 2), (3, 4)]
    crooked = examine(CHECKS["forms"], Subject(palette_of("#2a1610", "#c8641e", "#8a3c14", "#ffd478", groups="AAAA")))
    assert "“A” goes up and down in lightness" in crooked.sentence
    jump = examine(CHECKS["forms"], Subject(palette_of("#0a0705", "#1a100a", "#c8641e", "#ffd478", groups="AAAA")))
    assert "“A” jumps by" in jump.sentence
    assert jump.pairs == (("s1", "s2"),)
    short = examine(CHECKS["forms"], Subject(palette_of("#4a1f14", "#c8641e", groups="AA")), {"jump": 0.9})
    assert "“A” has 2 steps" in short.sentence


def test_forms_forgive_what_is_not_seen_and_see_a_hue_that_jumps() -> None:
    def told(*hexes: str, groups: str | None = None) -> str:
        return examine(CHECKS["forms"], Subject(palette_of(*hexes, groups=groups) if groups else palette_of(*hexes))).sentence

    steps = ["#2a1610", "#6b3416", "#6a3415", "#c8641e", "#e89a50", "#ffd478"]
    assert "can hold a form" in told(*steps, groups="AAAAAA"), "a step back by 0.002"
    assert "goes up and down" in told(*[*steps[:2], "#5a2c10", *steps[3:]], groups="AAAAAA")
    assert "turns by" in told("#3a1c10", "#7a3a18", "#2e8a6a", "#58c0a0", "#a8e8d8", groups="AAAAA")
    maps = {name: [to_hex(row[:3]) for row in mpl.colormaps[name](np.linspace(0, 1, 8))] for name in ("viridis", "plasma", "magma")}
    for name, colors in maps.items():
        (run,) = runs_of(Subject(palette_of(*colors)))
        assert len(run.places) == 8, name
    for name in ("tab10", "Set1", "Dark2"):
        colors = [to_hex(row[:3]) for row in mpl.colormaps[name].colors]
        assert runs_of(Subject(palette_of(*colors, groups="A" * len(colors)))) == [], name
    wheel = [Color("oklch", (0.7 + 0.04 * (place % 2), 0.12, place * 30.0)).hex for place in range(12)]
    assert told(*wheel).startswith("There is no group and no run")


@pytest.mark.parametrize("form", list(FORMS))
def test_forms_turn_with_the_lamp(form: str) -> None:
    right, inside = lit(form, 0)
    left, same = lit(form, 180)
    assert (inside == same).all()
    assert 0.05 < inside.mean() < 0.95
    assert (right[inside] >= 0.15).all()
    assert (right[inside] <= 1).all()
    assert np.abs(right - left)[inside].max() > 0.25, "another side is lit"
    lightness = np.array([0.2, 0.4, 0.7])
    flat, mingled = shaded(right, lightness, False), shaded(right, lightness, True)
    assert set(np.unique(flat[inside])) == {0, 1, 2}
    wanted = 0.2 + (right - right.min()) / np.ptp(right) * 0.5
    assert np.abs(lightness[flat] - wanted).max() <= 0.15 + 1e-9, "the nearest step"
    assert abs(float((lightness[mingled] - wanted).mean())) < 0.02, "dithered steps have the light in the mean"


def test_other_screens_lose_pairs_order_and_accents() -> None:
    dark = examine(CHECKS["screens"], Subject(palette_of("#000000", "#0b0b12", "#f6f2ea")), {"together": 1.5})
    assert "on a bright room" in dark.sentence
    assert ("s0", "s1") in dark.pairs
    assert dark.verdict == "look"
    assert examine(CHECKS["screens"], Subject(palette_of("#202020", "#f0f0f0"))).verdict == "holds"
    vivid = examine(CHECKS["screens"], Subject(palette_of("#1020ff", "#f0f0f0")), {"accents": 99})
    assert "accent" in vivid.sentence
    assert "dulled" not in examine(CHECKS["screens"], Subject(palette_of("#1020ff", "#f0f0f0")), {"accents": 1}).sentence


@pytest.mark.parametrize(
    ("palette", "words"),
    [
        (palette_of("#808080", "#818181"), "2 swatches are twins within ΔE 1"),
        (replace(palette_of(*TWO), swatches=tuple(replace(s, name="Same") for s in palette_of(*TWO).swatches)), "2 share a name"),
        (Palette("P", (Swatch(parse_color("#ff0000"), "", "s0"),)), "1 without a name"),
        (Palette("P", (Swatch(Color("display-p3", (1, 0, 0)), "Wide", "s0"),)), "1 outside sRGB"),
        (palette_of("#030303", "#ff0000"), "1 nearly black but not quite"),
        (palette_of("#fdfdfc", "#ff0000"), "1 nearly white but not quite"),
        (palette_of("#ff0000", "#00ff00", groups="A"), "1 group of one"),
    ],
)  # fmt: skip
def test_disorder_is_named_and_mended(palette: Palette, words: str) -> None:
    report = examine(CHECKS["order"], Subject(palette))
    assert words.lower() in report.sentence.lower()
    assert report.verdict == "look"
    (mend,) = report.mends
    after = examine(CHECKS["order"], Subject(mend.operation.run(palette).palette))
    assert words.lower() not in after.sentence.lower()


def test_order_counts_unused_swatches_places_and_names() -> None:
    palette = palette_of("#ff0000", "#00ff00", "#0000ff")
    report = examine(CHECKS["order"], Subject(palette, usage={"s0": 5}), {"most": 2, "format": "act"})
    assert "2 paint nothing in the picture" in report.sentence
    assert "1 more than the 2 allowed" in report.sentence
    assert ".act: 3 names dropped" in report.sentence
    assert examine(CHECKS["order"], Subject(palette, usage={"s0": 1, "s1": 1, "s2": 1})).verdict == "holds"
    clear = Palette("P", tuple(Swatch(parse_color(code), code, code) for code in ("#ff0000", "#ff000080")))
    assert examine(CHECKS["order"], Subject(clear)).verdict == "holds", "of other alpha they are no twins"
    pure = examine(CHECKS["order"], Subject(palette_of("#000000", "#ffffff")))
    assert pure.verdict == "holds", "black and white themselves are in order"


@settings(max_examples=40, deadline=None)
@given(
    st.lists(colors, min_size=1, max_size=6),
    st.lists(colors, min_size=1, max_size=5),
    st.sampled_from(["ok", "ciede2000"]),
    st.floats(0, 30),
)
def test_house_rules_are_kept_exactly_when_every_color_is_near_enough(
    own: list[str], wanted: list[str], measure: str, within: float
) -> None:
    reference = palette_of(*wanted)
    subject = Subject(palette_of(*own), others={"r": reference})
    report = examine(CHECKS["rules"], subject, {"reference": "r", "within": within, "measure": measure, "others": "none"})
    table = np.array([
        [Reference(a).delta_e(b, method="2000" if measure == "ciede2000" else "ok", scalar=100) for b in wanted] for a in own
    ])  # fmt: skip
    if np.abs(table - within).min() < 0.02:
        return
    assert (report.verdict == "holds") == bool((table.min(axis=0) <= within).all() and (table.min(axis=1) <= within).all())
    assert differences(subject.srgb, Subject(reference).srgb, measure) == pytest.approx(table, abs=0.02)
    for mend in report.mends:
        after = examine(CHECKS["rules"], replace(subject, palette=mend.operation.run(subject.palette).palette),
                        {"reference": "r", "within": within, "measure": measure})  # fmt: skip
        kept = int(after.sentence.split(" of ")[0])
        assert kept >= int(report.sentence.split(" of ")[0]) or mend.operation.kind == "delete_swatches"


def test_house_rules_end_where_they_say() -> None:
    """Two grays whose difference lies between 2 and 3."""
    subject = Subject(palette_of("#808080"), others={"r": palette_of("#888888")})
    gap = float(differences(subject.srgb, Subject(palette_of("#888888")).srgb, "ok")[0, 0])
    assert 2 < gap < 3
    for within, verdict in ((2.0, "fails"), (round(gap - 0.1, 1), "fails"), (round(gap + 0.1, 1), "holds")):
        assert examine(CHECKS["rules"], subject, {"reference": "r", "within": within}).verdict == verdict


AWKWARD = {
    "empty": Palette("P"),
    "one": palette_of("#123456"),
    "all the same": palette_of(*["#808080"] * 6),
    "all clear": Palette("P", tuple(Swatch(parse_color("#0000"), id=f"s{n}") for n in range(3))),
    "half clear": Palette("P", tuple(Swatch(parse_color(f"#{n}0{n}0{n}080"), f"{n}", f"s{n}") for n in range(5))),
    "ink shares": Palette("P", tuple(Swatch(Color("cmyk", (n / 4, 0.5, 0.2, 0.1)), f"{n}", f"s{n}") for n in range(5))),
    "wide gamut": Palette("P", tuple(Swatch(Color("oklch", (0.7, 0.4, n * 60.0)), f"{n}", f"s{n}") for n in range(6))),
    "missing parts": Palette("P", tuple(Swatch(Color.of("oklch", (n / 4, None, None)), f"{n}", f"s{n}") for n in range(5))),
    "numbered places": replace(palette_of(*CODES[:5]), slots=5),
    "everything locked": palette_of(*CODES[:6], locked=tuple(range(6))),
    "long names": Palette("P", tuple(Swatch(parse_color(code), "n" * 200, f"s{n}") for n, code in enumerate(CODES))),
    "marks in names": Palette("P", tuple(Swatch(parse_color(code), "<b>&\"'”", f"s{n}") for n, code in enumerate(CODES))),
    "black and white": palette_of("#000", "#fff"),
    "256": palette_of(*[f"#{n:02x}{(n * 7) % 256:02x}{(n * 29) % 256:02x}" for n in range(256)]),
    "4,096": palette_of(*[f"#{n % 16 * 17:02x}{n // 16 % 16 * 17:02x}{n // 256 * 17:02x}" for n in range(4096)]),
}  # fmt: skip


@pytest.mark.parametrize("case", list(AWKWARD))
def test_awkward_palettes_get_an_answer_in_words(case: str) -> None:
    palette = AWKWARD[case]
    subject = Subject(palette, samples=Sample(np.zeros((0, 3)), np.zeros(0)), touching={}, usage={})
    for check, report in examine_all(subject, {"rules": {"reference": "gone"}}).items():
        assert report.verdict in {"fails", "look", "holds", "nothing"}
        assert report.sentence.endswith(".")
        assert report.draw(CHECKS[check].settled({}, views=True)).shapes
        for mend in report.mends:
            mend.operation.run(palette)
    if case in {"empty", "all clear"}:
        assert {report.verdict for report in examine_all(subject).values()} == {"nothing"}
    if case == "everything locked":
        assert all(m.operation.kind in {"fill_between", "derive_swatches", "sort_swatches", "take_order"}
                   for r in examine_all(subject).values() for m in r.mends)  # fmt: skip
    if case == "4,096":
        assert "Only the first 512 of 4,096 swatches were compared." in examine(CHECKS["eyes"], subject).sentence
        assert "Mixed were the first 64 of 4,095" not in examine(CHECKS["mixtures"], subject).sentence


def test_limits_that_contradict_each_other_are_said_by_the_check_alone() -> None:
    reports = examine_all(Subject(palette_of(*CODES)), {"text": {"low": 9, "high": 4}, "eyes": {"apart": 2, "together": 8}})
    assert "at least 9 and at most 4" in reports["text"].sentence
    assert "cannot be together below ΔE 8" in reports["eyes"].sentence
    assert {reports["text"].verdict, reports["eyes"].verdict} == {"nothing"}
    assert reports["balance"].verdict != "nothing"
    gone = examine(CHECKS["rules"], Subject(palette_of("#123456"), others={"x": None}), {"reference": "x"})
    assert "no longer on the shelf" in gone.sentence


@pytest.mark.parametrize(
    ("limits", "words"),
    [
        ({"tone": {}}, "There is no check “tone”"), ({"text": {"glow": 1}}, "has no limit “glow”"),
        ({"text": {"low": 99}}, "is 1 to 21; 99 was given"), ({"text": {"low": "much"}}, "has to be a number"),
        ({"text": {"low": float("nan")}}, "has to be a number"), ({"text": {"low": True}}, "has to be a number"),
        ({"text": 4}, "by name"), ({"rules": {"measure": "sight"}}, "“sight” is no choice"),
        ({"rules": {"reference": "x" * 300}}, "short text"),
        ({"charts": {"ground": "blurple"}}, "“blurple” is no color"),
    ],
)  # fmt: skip
def test_limits_that_cannot_be_are_refused_in_words(limits: dict[str, Any], words: str) -> None:
    with pytest.raises((BadInput, Unknown, HuvrenError), match=words):
        clean_limits(limits)
    if all(isinstance(held, dict) for held in limits.values()) and limits != {"tone": {}}:
        known, said_of = known_limits(limits)
        assert len(said_of) == 1, "stored limits are as usual instead, and that is said"
        assert not any(known.values())


def test_only_limits_that_differ_are_kept() -> None:
    assert clean_limits({"text": {"low": 4.5, "high": 15}, "eyes": {"severity": 100}}) == {"text": {"high": 15.0}}
    assert clean_limits({"charts": {"ground": "white"}}) == {"charts": {"ground": "#ffffff"}}


@pytest.mark.parametrize("check", CHECKS.ids())
def test_every_check_explains_itself_with_an_example_that_shows_it(check: str) -> None:
    entry = CHECKS[check]
    assert entry.question.endswith("?")
    assert min(len(entry.why), len(entry.look_for)) > 60
    report, drawing = example_of(check)
    assert report.verdict in ({"holds"} if check == "mixtures" else {"look", "fails"})
    assert drawing.caption.endswith(".")
    assert len({setting.id for setting in (*entry.limits, *entry.views)}) == len(entry.limits) + len(entry.views)
    assert len(entry.settled({})) == len(entry.limits), "the usual limits are limits"


def test_a_picture_is_painted_with_the_nearest_swatches() -> None:
    palette = palette_of("#000000", "#ffffff", "#ff0000")
    rgb = np.zeros((4, 6, 3), np.uint8)
    rgb[:, 2:4] = (250, 250, 250)
    rgb[:, 4:] = (240, 10, 10)
    usage, met, plate = painted_with(palette, opaque(rgb))
    assert plate is not None
    assert plate.indices.shape == (4, 6)
    drawing = examine(CHECKS["value"], Subject(palette, usage, met, plate=plate)).draw({})
    in_color, in_gray = [shape for shape in drawing.shapes if shape.kind == "image"]
    assert in_color.table == ("#000000", "#ffffff", "#ff0000")
    assert in_gray.table == ("#000000", "#ffffff", "#888888"), "the gray as light as red"
    assert usage == {"s0": 8, "s1": 8, "s2": 8}
    assert met == {("s0", "s1"): 4, ("s1", "s2"): 4}
    with pytest.raises(BadInput, match="at most 256 swatches"):
        painted_with(AWKWARD["4,096"], opaque(rgb))
    clear = np.zeros((3, 3, 4), np.uint8)
    assert sample_of(clear).weights.sum() == 0
    assert sample_of(painted(60, 80)).weights.sum() == 4800
