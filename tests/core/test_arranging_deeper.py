"""Slots, paths, merging to a number, names, groups, adjusting, other palettes, variants: by hand, brute force and property."""

import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.color.adjusting import over
from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color
from huvren.core.errors import BadInput
from huvren.core.palette.document import palette_from_document, palette_to_document
from huvren.core.palette.matching import match
from huvren.core.palette.operations import Operation
from huvren.core.palette.operations.add import AddSwatches
from huvren.core.palette.operations.adjust import AdjustSwatches
from huvren.core.palette.operations.compare import KeepShared, SnapTo
from huvren.core.palette.operations.delete import DeleteSwatches
from huvren.core.palette.operations.groups import MoveGroup, SetColumns
from huvren.core.palette.operations.merge import MergeNearTwins, MergeSwatches, MergeToCount
from huvren.core.palette.operations.move import MoveSwatches
from huvren.core.palette.operations.naming import NameSeries, ReplaceInNames, SuggestNames
from huvren.core.palette.operations.notes import AnnotateSwatches, TagPalette
from huvren.core.palette.operations.recolor import RecolorSwatch
from huvren.core.palette.operations.slots import PinSwatches, SetSlots
from huvren.core.palette.operations.sort import ReverseSwatches, SmoothOrder, SortSwatches, SwapSwatches, TakeOrder
from huvren.core.palette.operations.variants import AddVariant, RemoveVariant, RenameVariant, ShowVariant
from huvren.core.palette.path_kernels import improve, path_length, search
from huvren.core.palette.paths import shortest_path
from huvren.core.palette.selecting import SELECT_RULES, select
from huvren.core.palette.values import Palette, Swatch
from tests.core.test_palette import ids, row


def colored(*codes: str, locked: str = "") -> Palette:
    """A palette with letters for ids."""
    letters = "abcdefghijklmnopqrstuvwxyz"
    swatches = [
        Swatch(parse_color(code), f"Swatch {letter}", letter, locked=letter in locked)
        for code, letter in zip(codes, letters, strict=False)
    ]
    return Palette("Colored", tuple(swatches))


def after(operation: Operation, palette: Palette, usage: dict[str, int] | None = None) -> Palette:
    return operation.apply(palette, usage or {}).palette


def hexes(palette: Palette) -> list[str]:
    return [swatch.color.hex for swatch in palette.swatches]


def slots(palette: Palette) -> dict[str, int | None]:
    return {swatch.id: swatch.slot for swatch in palette.swatches}


# Numbered places


def test_slots_stay_where_they_are_and_leave_holes() -> None:
    palette = after(SetSlots(slots=8), row("abcd"))
    assert slots(palette) == {"a": 0, "b": 1, "c": 2, "d": 3}
    palette = after(DeleteSwatches(ids=["b"]), palette)
    assert slots(palette) == {"a": 0, "c": 2, "d": 3}
    palette = after(MoveSwatches(ids=["d"], to=7), palette)
    assert slots(palette) == {"a": 0, "c": 2, "d": 7}
    palette = after(MoveSwatches(ids=["a"], to=2), palette)
    assert slots(palette) == {"a": 2, "c": 3, "d": 7}, "what stood there moves on to the next free place"
    added = after(AddSwatches(text="#fff"), palette)
    assert [s.slot for s in added.swatches] == [2, 3, 6, 7], "the last place is taken, so what comes behind closes up"
    assert palette_from_document(palette_to_document(added)) == added
    assert all(s.slot is None for s in after(SetSlots(slots=None), added).swatches)


def test_pinned_swatches_keep_their_place() -> None:
    palette = after(PinSwatches(ids=["a"], pinned=True), after(SetSlots(slots=6), row("abcd")))
    moved = after(MoveSwatches(ids=["d"], to=0), palette)
    assert slots(moved) == {"a": 0, "d": 1, "b": 2, "c": 3}
    assert slots(after(ReverseSwatches(), palette)) == {"a": 0, "d": 1, "c": 2, "b": 3}
    assert slots(after(SortSwatches(keys=["lightness"], descending=True), palette))["a"] == 0
    assert slots(after(SwapSwatches(ids=["a", "c"]), palette)) == {"c": 0, "b": 1, "a": 2, "d": 3}
    assert next(s for s in after(SwapSwatches(ids=["a", "c"]), palette).swatches if s.id == "c").pinned


@pytest.mark.parametrize(
    ("operation", "words"),
    [
        (AddSwatches(text="#111 #222 #333"), "This palette has 6 numbered places, and 7 swatches do not fit."),
        (MoveSwatches(ids=["a", "b"], to=5), "the places 0 to 5; 5 is too far"),
        (SetSlots(slots=3), "This palette has 3 numbered places, and 4 swatches do not fit."),
    ],
)
def test_a_full_slot_palette_says_so(operation: Operation, words: str) -> None:
    with pytest.raises(BadInput, match=words):
        operation.apply(after(SetSlots(slots=6), row("abcd")))


def test_only_slot_palettes_pin() -> None:
    with pytest.raises(BadInput, match="Only a palette of numbered places can pin"):
        PinSwatches(ids=["a"], pinned=True).apply(row("abc"))


@settings(max_examples=150, deadline=None)
@given(st.data())
def test_slots_are_always_different_and_in_order(data: st.DataObject) -> None:
    count = data.draw(st.integers(1, 7))
    palette = after(SetSlots(slots=data.draw(st.integers(count, 12))), row("abcdefg"[:count]))
    for _ in range(data.draw(st.integers(1, 6))):
        names = [s.id for s in palette.swatches]
        if not names:
            break
        one = data.draw(st.sampled_from(names))
        step = data.draw(st.sampled_from([
            MoveSwatches(ids=[one], to=data.draw(st.integers(0, (palette.slots or 1) - 1))),
            PinSwatches(ids=[one], pinned=data.draw(st.booleans())), ReverseSwatches(), DeleteSwatches(ids=[one]),
            SortSwatches(keys=["lightness"]),
        ]))  # fmt: skip
        pinned = {s.id: s.slot for s in palette.swatches if s.pinned and s.id != one}
        palette = after(step, palette)
        places = [s.slot for s in palette.swatches]
        assert places == sorted(set(places))
        assert all(place is not None and 0 <= place < (palette.slots or 0) for place in places)
        assert {s.id: s.slot for s in palette.swatches if s.id in pinned} == pinned


# Order


def test_swap_reverse_and_take_order() -> None:
    palette = row("abcdef", "xx yy ")
    swapped = after(SwapSwatches(ids=["a", "e"]), palette)
    assert ids(swapped) == "ebcdaf"
    assert [s.group for s in swapped.swatches] == ["x", "x", None, "y", "y", None]
    assert ids(after(ReverseSwatches(ids=["a", "b", "d", "e"]), palette)) == "bacedf"
    shuffled = after(SortSwatches(keys=["lightness"], descending=True), row("abcdef"))
    assert ids(after(TakeOrder(ids=list("abcdef"), source="step 1"), shuffled)) == "abcdef"
    assert ids(after(TakeOrder(ids=["d"]), row("abcd"))) == "dabc"
    with pytest.raises(BadInput, match="named twice"):
        TakeOrder(ids=["a", "a"]).apply(palette)
    with pytest.raises(BadInput, match="two different"):
        SwapSwatches(ids=["a", "a"]).apply(palette)


def test_sort_by_name_coverage_and_family() -> None:
    palette = colored("#ff0000", "#00ff00", "#808080", "#0000ff")
    names = ["Ink 10", "ink 9", "Ash", "Ink 1"]
    named = replace(palette, swatches=tuple(replace(s, name=n) for s, n in zip(palette.swatches, names, strict=True)))
    assert ids(after(SortSwatches(keys=["name"]), named)) == "cdba"
    assert ids(after(SortSwatches(keys=["coverage"]), palette, {"b": 5, "d": 9})) == "dbac"
    assert ids(after(SortSwatches(keys=["family", "lightness"]), colored("#0000ff", "#300000", "#ff6060", "#777777"))) == "dbca"


def length(points: np.ndarray, order: list[int]) -> float:
    return float(sum(np.linalg.norm(points[a] - points[b]) for a, b in itertools.pairwise(order)))


def nearest_neighbor(points: np.ndarray, start: int) -> list[int]:
    order, left = [start], set(range(len(points))) - {start}
    while left:
        order.append(min(left, key=lambda p: np.linalg.norm(points[p] - points[order[-1]])))
        left.remove(order[-1])
    return order


@pytest.mark.parametrize("seed", range(12))
def test_the_smooth_path_through_few_is_the_shortest(seed: int) -> None:
    points = np.random.default_rng(seed).random((7, 3))
    best = min(length(points, list(order)) for order in itertools.permutations(range(7)))
    found = shortest_path(points)
    assert sorted(found) == list(range(7))
    assert length(points, found) == pytest.approx(best)
    assert points[found[0], 0] <= points[found[-1], 0]
    pinned = shortest_path(points, 3, 5)
    assert (pinned[0], pinned[-1]) == (3, 5)
    fixed = min(length(points, [3, *order, 5]) for order in itertools.permutations([0, 1, 2, 4, 6]))
    assert length(points, pinned) == pytest.approx(fixed)
    for first, last in ((3, None), (None, 5)):
        one = shortest_path(points, first, last)
        assert (one[0] if first is not None else one[-1]) == (first if first is not None else last)
        wanted = [order for order in itertools.permutations(range(7)) if order[0] == first or order[-1] == last]
        assert length(points, one) == pytest.approx(min(length(points, list(order)) for order in wanted))


@pytest.mark.parametrize(("count", "seed"), [(12, 1), (13, 1), (40, 2), (64, 67)])
def test_the_smooth_path_is_within_half_a_percent_of_a_long_search(count: int, seed: int) -> None:
    points = np.random.default_rng(seed).random((count, 3))
    gaps = np.linalg.norm(points[:, None] - points[None], axis=-1)
    best = np.inf
    for start in range(3):
        order = np.random.default_rng(start).permutation(count)
        improve(gaps, order, 0, count)
        search(gaps, order, 0, count, 6000)
        best = min(best, float(path_length(gaps, order)))
    assert length(points, shortest_path(points)) <= best * 1.005


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10**6), st.integers(2, 60))
def test_the_smooth_path_is_never_longer_than_the_nearest_neighbor_tour(seed: int, count: int) -> None:
    points = np.random.default_rng(seed).random((count, 3))
    darkest, lightest = int(points[:, 0].argmin()), int(points[:, 0].argmax())
    found = length(points, shortest_path(points))
    assert found <= min(length(points, nearest_neighbor(points, start)) for start in (darkest, lightest)) + 1e-9


def test_smooth_order_in_a_palette() -> None:
    ladder = colored("#000", "#777", "#ddd", "#333", "#aaa", "#fff")
    assert hexes(after(SmoothOrder(), ladder)) == ["#000000", "#333333", "#777777", "#aaaaaa", "#dddddd", "#ffffff"]
    assert ids(after(SmoothOrder(first="b", last="a"), ladder))[0] == "b"
    assert ids(after(SmoothOrder(first="b", last="a"), ladder))[-1] == "a"
    with pytest.raises(BadInput, match="same swatch"):
        SmoothOrder(first="a", last="a").apply(ladder)


# Merging


@pytest.mark.parametrize("seed", range(8))
def test_merging_to_a_number_leaves_that_many(seed: int) -> None:
    random = np.random.default_rng(seed)
    palette = colored(*["#{:02x}{:02x}{:02x}".format(*random.integers(0, 256, 3)) for _ in range(12)])
    for count in (11, 7, 3, 1):
        outcome = MergeToCount(count=count).apply(palette, {})
        assert len(outcome.palette.swatches) == count
        assert set(outcome.successors) | {s.id for s in outcome.palette.swatches} == {s.id for s in palette.swatches}
    # Complete linkage: the result at N is that of merging at the height of the last join.
    tolerances = [t / 4 for t in range(400)]
    counts = {len(after(MergeNearTwins(tolerance=t), palette).swatches) for t in tolerances}
    for count in counts - {12}:
        tolerance = next(t for t in tolerances if len(after(MergeNearTwins(tolerance=t), palette).swatches) == count)
        assert ids(after(MergeNearTwins(tolerance=tolerance), palette)) == ids(after(MergeToCount(count=count), palette))


def test_merging_to_a_number_says_what_cannot_be() -> None:
    palette = colored("#111", "#222", "#333", "#444", locked="abc")
    with pytest.raises(BadInput, match="No fewer than 3 can be left"):
        MergeToCount(count=2).apply(palette)
    with pytest.raises(BadInput, match="There are 4 swatches, so merging to 4 leaves nothing to do"):
        MergeToCount(count=4).apply(palette)


def test_exact_twins_and_the_lightest() -> None:
    palette = colored("#123456", "#abcdef", "#123456", "#123457")
    assert ids(after(MergeNearTwins(tolerance=0), palette)) == "abd"
    assert MergeNearTwins(tolerance=0, keep="first").label(palette) == "Merge exact twins, keeping the first"
    assert ids(after(MergeSwatches(ids=["a", "b", "d"], keep="lightest"), palette)) == "bc"


# Names, notes, groups


def test_names_of_many() -> None:
    palette = row("abcdefghijkl")
    series = after(NameSeries(ids=["a", "c", "d"], stem=" Wing ", start=9), palette)
    assert [s.name for s in series.swatches[:4]] == ["Wing 09", "B", "Wing 10", "Wing 11"]
    assert [s.name for s in after(NameSeries(stem="S"), palette).swatches][::11] == ["S 01", "S 12"]
    replaced = after(ReplaceInNames(find="wing", put="Tail"), series)
    assert [s.name for s in replaced.swatches[:3]] == ["Tail 09", "B", "Tail 10"]
    with pytest.raises(BadInput, match="No name holds “wing”"):
        ReplaceInNames(find="wing", match_case=True).apply(series)
    words = [s.name for s in after(SuggestNames(), colored("#000", "#fff", "#000")).swatches]
    assert words == ["Black", "White", "Black 2"]
    with pytest.raises(BadInput, match="needs a stem"):
        NameSeries(stem="  ").apply(palette)


def test_notes_and_tags() -> None:
    palette = after(AnnotateSwatches(ids=["a"], note=" For the rim ", tags=["warm", "warm", " rim"]), row("ab"))
    assert (palette.swatches[0].note, palette.swatches[0].tags) == ("For the rim", ("warm", "rim"))
    assert after(AnnotateSwatches(ids=["a"], tags=[]), palette).swatches[0].note == "For the rim"
    tagged = after(TagPalette(tags=["press", "plates"]), palette)
    assert palette_from_document(palette_to_document(tagged)) == tagged
    with pytest.raises(BadInput, match="21 tags are too many"):
        TagPalette(tags=[str(n) for n in range(21)]).apply(palette)
    with pytest.raises(BadInput, match="has 41 characters"):
        TagPalette(tags=["x" * 41]).apply(palette)


def test_groups_move_and_have_columns() -> None:
    palette = row("abcdefg", "xx yyzz")
    moved = after(MoveGroup(id="z", to=0), palette)
    assert ids(moved) == "fgabcde"
    assert [g.id for g in moved.groups] == ["z", "x", "y"]
    assert ids(after(MoveGroup(id="x", to=2), palette)) == "cdefgab"
    assert ids(after(MoveGroup(id="x", to=1), palette)) == "cdeabfg"
    columned = after(SetColumns(group="y", columns=4), palette)
    assert [g.columns for g in columned.groups] == [None, 4, None]
    assert palette_from_document(palette_to_document(columned)) == columned
    assert after(SetColumns(columns=8), palette).columns == 8


# Adjusting


def test_adjusting_turns_scales_and_bends() -> None:
    palette = colored("#a06860", "#808080", "#506080", "#ffffff00")
    turned = after(AdjustSwatches(hue_turn=90), palette)
    for before, now in zip(palette.swatches[:3], turned.swatches, strict=False):
        old, new = before.color.to("oklch"), now.color.to("oklch")
        assert new[0] == pytest.approx(old[0], abs=1e-3)
        if old[1] > 0.02:
            assert (new[2] - old[2]) % 360 == pytest.approx(90, abs=0.6)
    gray = after(AdjustSwatches(chroma=0), palette)
    assert all(s.color.to("oklch")[1] < 1e-3 for s in gray.swatches[:3])
    lighter = after(AdjustSwatches(lightness=10), palette)
    assert lighter.swatches[1].color.oklab[0] == pytest.approx(palette.swatches[1].color.oklab[0] + 0.1, abs=2e-3)
    warm, cool = (after(AdjustSwatches(warmth=amount), palette).swatches[1].color.oklab for amount in (60, -60))
    assert warm[2] > 0.02 > -0.02 > cool[2]
    assert after(AdjustSwatches(curve=50), palette).swatches[1].color.oklab[0] > palette.swatches[1].color.oklab[0] + 0.05
    assert turned.swatches[3] == palette.swatches[3], "what is clear stays"
    assert after(AdjustSwatches(), palette) == palette
    assert AdjustSwatches(hue_turn=12, warmth=-5, opacity=40).label(palette) == (
        "Adjust all swatches: hue turned +12°, cooler by 5, softened to 40 % over #ffffff"
    )


def test_softening_is_what_a_screen_composites() -> None:
    soft = after(AdjustSwatches(opacity=25, ground="#fff"), colored("#000000", "#ff0000"))
    assert hexes(soft) == ["#bfbfbf", "#ffbfbf"]
    assert over(np.array([1.0, 0, 0]), np.array([0.0, 0, 0]), 0.5).tolist() == [0.5, 0, 0]


def test_locked_swatches_are_not_adjusted() -> None:
    palette = colored("#c04030", "#204080", locked="a")
    assert after(AdjustSwatches(hue_turn=90), palette).swatches[0] == palette.swatches[0]
    with pytest.raises(BadInput, match="All of those swatches are locked"):
        AdjustSwatches(ids=["a"], hue_turn=90).apply(palette)


# Another palette


def document(palette: Palette) -> dict[str, object]:
    return palette_to_document(palette)


def test_common_difference_snap_and_match() -> None:
    mine = colored("#101010", "#c04030", "#fafafa", "#00000000")
    card = [("#111111", "Soot"), ("#ffffff", "Chalk"), ("#f000", "Clear")]
    other = Palette("Card", tuple(Swatch(parse_color(code), name) for code, name in card))
    found = match(mine.swatches, other.swatches)
    assert [m.place for m in found] == [0, 0, 1, 2]
    gap = np.linalg.norm(np.array(mine.swatches[0].color.oklab) - other.swatches[0].color.oklab)
    assert found[0].delta == pytest.approx(100 * gap)
    assert found[3].delta == 0
    assert ids(after(KeepShared(document=document(other), source="Card", keep="common"), mine)) == "acd"
    assert ids(after(KeepShared(document=document(other), source="Card", keep="difference"), mine)) == "b"
    snapped = after(SnapTo(document=document(other), source="Card", names=True), replace(mine, swatches=mine.swatches[:3]))
    assert hexes(snapped) == ["#111111", "#111111", "#ffffff"]
    assert [s.name for s in snapped.swatches] == ["Soot", "Soot", "Chalk"]
    assert ids(snapped) == "abc", "identities stay"
    with pytest.raises(BadInput, match="Nothing would be left: no swatch is in “Card”"):
        KeepShared(document=document(other), source="Card", ids=["b"]).apply(replace(mine, swatches=mine.swatches[1:2]))
    with pytest.raises(BadInput, match="holds no swatch to compare with"):
        SnapTo(document=document(Palette("Empty")), source="Empty").apply(mine)


# Variants


def test_variants_hold_other_colors_for_the_same_swatches() -> None:
    day = colored("#c04030", "#204080", "#f0e0c0")
    palette = after(AddVariant(name="Lamp", first_name="Day"), day)
    assert [v.name for v in palette.variants] == ["Day", "Lamp"]
    palette = after(AdjustSwatches(warmth=80), palette)
    lamp = hexes(palette)
    first, second = palette.variants
    palette = after(ShowVariant(id=first.id), palette)
    assert hexes(palette) == hexes(day)
    palette = after(AddSwatches(text="#00ff00"), palette)
    palette = after(DeleteSwatches(ids=["b"]), palette)
    palette = after(ShowVariant(id=second.id), palette)
    assert hexes(palette) == [lamp[0], lamp[2], "#00ff00"], "added and removed in all at once"
    assert palette_from_document(palette_to_document(palette)) == palette
    palette = after(RecolorSwatch(id="a", text="#010203"), palette)
    palette = after(RenameVariant(id=second.id, name="Night"), palette)
    with pytest.raises(BadInput, match="There is a variant “Night” already"):
        AddVariant(name="Night").apply(palette)
    with pytest.raises(BadInput, match="Show another one before removing it"):
        RemoveVariant(id=second.id).apply(palette)
    alone = after(RemoveVariant(id=first.id), palette)
    assert (alone.variants, alone.variant, hexes(alone)[0]) == ((), None, "#010203")


# Selecting


def test_selecting_by_rule() -> None:
    palette = colored("#101010", "#111111", "#c04030", "#101010", "#ffffff", locked="e")
    outside = palette.with_swatches([*palette.swatches, Swatch(Color("oklch", (0.7, 0.35, 150.0)), "Neon", "n")])
    assert select(palette, "similar", ("a",), 2) == ["a", "b", "d"]
    assert select(palette, "doubles") == ["d"]
    assert select(outside, "outside") == ["n"]
    assert select(palette, "locked") == ["e"]
    assert select(palette, "unused", usage={"a": 4, "c": 1}) == ["b", "d", "e"]
    assert select(row("abcdef", "xx yy "), "group", ("b", "d")) == ["a", "b", "d", "e"]
    with pytest.raises(BadInput, match="No picture is painted"):
        select(palette, "unused")
    with pytest.raises(BadInput, match="Select the swatch first"):
        select(palette, "similar")
    assert all(rule.use.endswith(".") for rule in SELECT_RULES)
