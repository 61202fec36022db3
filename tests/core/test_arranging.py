"""Sorting, merging, groups, bringing in: against brute force and by hand."""

import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.color.difference import delta_eok
from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color
from huvren.core.errors import BadInput, Unknown
from huvren.core.palette.clusters import cut, gaps_between, merge_tree
from huvren.core.palette.document import palette_to_document
from huvren.core.palette.operations.bake_ramp import BakeRamp
from huvren.core.palette.operations.bring_in import BringIn
from huvren.core.palette.operations.groups import DissolveGroup, MakeGroup, RenameGroup
from huvren.core.palette.operations.merge import MergeNearTwins, MergeSwatches
from huvren.core.palette.operations.sort import SortSwatches
from huvren.core.palette.sorting import sorted_places
from huvren.core.palette.values import Palette, Swatch
from huvren.core.ramp.recipe import RampRecipe, RampStop
from tests.core.test_palette import ids, row


def strip(*codes: str, locked: str = "", groups: str = "") -> Palette:
    """Swatches a, b, c … of these colors; `locked` and `groups` by letter and place."""
    bare = row("abcdefghijkl"[: len(codes)], groups)
    swatches = [
        replace(s, color=parse_color(c), locked=s.id in locked) for s, c in zip(bare.swatches, codes, strict=True)
    ]  # fmt: skip
    return replace(bare, swatches=tuple(swatches))


def brute_force(swatches: list[Swatch], tolerance: float) -> list[set[int]]:
    """Complete linkage as it is defined: join the two clusters whose farthest members are nearest, while they may be."""
    gaps = gaps_between(swatches)
    clusters = [{place} for place in range(len(swatches))]
    while True:
        pairs = [
            (max(gaps[i, j] for i in one for j in other), min(one), min(other), one, other)
            for one, other in itertools.combinations(sorted(clusters, key=min), 2)
        ]
        best = min(pairs, key=lambda pair: pair[:3], default=None)
        if best is None or best[0] > tolerance or not np.isfinite(best[0]):
            return sorted(clusters, key=min)
        clusters = [c for c in clusters if c not in (best[3], best[4])] + [best[3] | best[4]]


@st.composite
def crowds(draw: st.DrawFn) -> list[Swatch]:
    count = draw(st.integers(1, 9))
    levels = st.integers(0, 7)
    return [
        Swatch(
            Color.from_bytes(draw(levels) * 6, draw(levels) * 6, draw(levels) * 6, draw(st.sampled_from([255, 255, 255, 128, 0]))),
            f"S{n}", str(n), locked=draw(st.sampled_from([False, False, True])),
        )
        for n in range(count)
    ]  # fmt: skip


@settings(max_examples=200, deadline=None)
@given(crowds(), st.sampled_from([0.0, 1.0, 2.5, 5.0, 9.0, 100.0]))
def test_clusters_are_those_of_brute_force(swatches: list[Swatch], tolerance: float) -> None:
    ours = cut(len(swatches), *merge_tree(swatches), tolerance)
    assert [set(cluster) for cluster in ours] == brute_force(swatches, tolerance)
    for cluster in ours:
        assert sum(swatches[place].locked for place in cluster) <= 1
        for one, other in itertools.combinations(cluster, 2):
            if swatches[one].color.alpha:
                assert delta_eok(swatches[one].color.oklab, swatches[other].color.oklab) <= tolerance + 1e-3


def test_merging_keeps_who_it_says_and_pixels_follow() -> None:
    near = strip("#402018", "#422119", "#44221a", "#0000ff", locked="b")
    after = MergeNearTwins(tolerance=3).apply(near)
    assert ids(after.palette) == "bd"
    assert after.successors == {"a": "b", "c": "b"}
    open_ = strip("#402018", "#422119", "#44221a", "#0000ff")
    assert ids(MergeNearTwins(tolerance=3, keep="first").apply(open_).palette) == "ad"
    assert ids(MergeNearTwins(tolerance=3).apply(open_, {"c": 50, "a": 9}).palette) == "cd"
    assert ids(MergeNearTwins(tolerance=3, ids=["a", "d"]).apply(open_).palette) == "abcd"
    mean = MergeSwatches(ids=["a", "d"], keep="average").apply(open_, {"a": 300, "d": 100}).palette
    expected = np.array(parse_color("#402018").to("oklab")) * 0.75 + np.array(parse_color("#0000ff").to("oklab")) * 0.25
    assert ids(mean) == "abc"
    assert mean.swatches[0].color.coords == pytest.approx(tuple(expected))


def test_locked_swatches_always_survive_a_merge() -> None:
    palette = strip("#100000", "#f00000", "#e00000", "#ff0000", locked="ab")
    after = MergeSwatches(ids=["a", "b", "c", "d"]).apply(palette)
    assert ids(after.palette) == "ab"
    assert after.successors == {"c": "b", "d": "b"}
    with pytest.raises(BadInput, match="All of those are locked, and a locked swatch always stays"):
        MergeSwatches(ids=["a", "b"]).apply(palette)
    with pytest.raises(BadInput, match="All of those swatches are locked"):
        MergeNearTwins(tolerance=5, ids=["a", "b"]).apply(palette)
    with pytest.raises(BadInput, match="Merging needs two swatches or more"):
        MergeSwatches(ids=["c"]).apply(palette)
    with pytest.raises(ValueError, match="There is no merge rule “loudest”"):
        MergeSwatches(ids=["c", "d"], keep="loudest")


def test_many_swatches_are_clustered_alike_in_any_order() -> None:
    random = np.random.default_rng(4)
    colors = random.integers(0, 256, (600, 3)).tolist()
    swatches = [Swatch(Color.from_bytes(*rgb), "", str(place)) for place, rgb in enumerate(colors)]
    clusters = {frozenset(swatches[p].id for p in c) for c in cut(600, *merge_tree(swatches), 4.0)}
    shuffled = [swatches[place] for place in random.permutation(600)]
    assert clusters == {frozenset(shuffled[p].id for p in c) for c in cut(600, *merge_tree(shuffled), 4.0)}


@pytest.mark.parametrize(
    ("keys", "descending", "order"),
    [
        (["lightness"], False, "dbaec"),
        (["lightness"], True, "ceabd"),
        (["chroma"], False, "dcbea"),
        (["hue", "lightness"], False, "dcbae"),
    ],
)
def test_sort_orders(keys: list[str], descending: bool, order: str) -> None:
    palette = strip("oklch(0.6 0.13 45)", "oklch(0.4 0.1 50)", "oklch(0.9 0.01 90)", "oklch(0.2 0.005 9)", "oklch(0.63 0.12 155)")
    assert ids(SortSwatches(keys=keys, descending=descending).apply(palette).palette) == order
    oklch = [swatch.color.to("oklch") for swatch in palette.swatches]
    if len(keys) == 1:
        channel = ["lightness", "chroma", "hue"].index(keys[0])
        assert sorted_places(palette.swatches, keys) == sorted(range(5), key=lambda place: oklch[place][channel])


def test_sorting_some_stays_in_their_places_and_groups_stay_together() -> None:
    palette = strip("#fff", "#888", "#000", "#777", "#222", groups="xxxyy")
    assert ids(SortSwatches(keys=["lightness"]).apply(palette).palette) == "cbaed"
    assert ids(SortSwatches(keys=["lightness"], ids=["a", "c", "d"]).apply(palette).palette) == "cbade"
    with pytest.raises(BadInput, match="Say what to sort by: hue, lightness, chroma"):
        SortSwatches(keys=[]).apply(palette)
    with pytest.raises(BadInput, match="given twice"):
        SortSwatches(keys=["hue", "hue"]).apply(palette)
    with pytest.raises(Unknown, match="There is no sort key “smell”"):
        SortSwatches(keys=["smell"]).apply(palette)


def test_groups_are_made_named_and_dissolved() -> None:
    made = MakeGroup(ids=["e", "b"], name=" Wing\ttips ").apply(row("abcdef")).palette
    assert ids(made) == "abecdf"
    assert [made.group_name(s.group) for s in made.swatches] == ["", "Wing tips", "Wing tips", "", "", ""]
    group = made.groups[0].id
    assert RenameGroup(id=group, name="Tips").apply(made).palette.groups[0].name == "Tips"
    assert DissolveGroup(id=group).apply(made).palette.groups == ()
    with pytest.raises(BadInput, match="There is a group “Wing tips” in this palette already"):
        MakeGroup(ids=["a"], name="Wing tips").apply(made)
    with pytest.raises(BadInput, match="A group needs a name"):
        MakeGroup(ids=["a"], name=" ").apply(made)
    with pytest.raises(Unknown, match="That group is no longer"):
        DissolveGroup(id="gone").apply(made)


def test_a_group_never_cuts_another_in_two() -> None:
    inside = MakeGroup(ids=["b", "f"], name="New").apply(row("abcdef", "xxx yy")).palette
    runs = [s.group for n, s in enumerate(inside.swatches) if n == 0 or inside.swatches[n - 1].group != s.group]
    assert len([group for group in runs if group]) == len({group for group in runs if group})
    assert sorted(ids(inside)) == list("abcdef")


def test_bringing_in_appends_unites_or_replaces() -> None:
    palette = strip("#ff0000", "#00ff00", "#0000ff", locked="a", groups="xxy")
    coming = replace(strip("#fe0000", "#808080", "#00ff00", groups="xxx"), name="Found")
    document = palette_to_document(coming)
    appended = BringIn(document=document, source="f.gpl").apply(palette).palette
    assert [s.color.hex for s in appended.swatches] == ["#ff0000", "#00ff00", "#0000ff", "#fe0000", "#808080", "#00ff00"]
    assert len(set(ids_of(appended))) == 6, "ids that are there already are not doubled"
    assert [group.name for group in appended.groups] == ["X", "Y", "X 2"]
    united = BringIn(document=document, source="f.gpl", how="union", tolerance=1).apply(palette).palette
    assert [s.color.hex for s in united.swatches] == ["#ff0000", "#00ff00", "#0000ff", "#808080"]
    exact = BringIn(document=document, source="f.gpl", how="union", tolerance=0).apply(palette).palette
    assert [s.color.hex for s in exact.swatches][3:] == ["#fe0000", "#808080"]
    replaced = BringIn(document=document, source="f.gpl", how="replace").apply(palette).palette
    assert [s.color.hex for s in replaced.swatches] == ["#ff0000", "#fe0000", "#808080", "#00ff00"]
    with pytest.raises(BadInput, match=r"Nothing of “f\.gpl” is chosen"):
        BringIn(document={**document, "swatches": []}, source="f.gpl").apply(palette)
    with pytest.raises(BadInput, match=r"the field .swatches. is missing"):
        BringIn(document={"name": "x"}, source="f.gpl").apply(palette)


def ids_of(palette: Palette) -> list[str]:
    return [swatch.id for swatch in palette.swatches]


def test_what_is_pasted_into_its_own_palette_comes_back_into_its_group() -> None:
    palette = strip("#111111", "#222222", "#333333", "#444444", groups="AAB ")
    document = palette_to_document(palette)
    taken = {**document, "swatches": document["swatches"][:1]}
    less = replace(palette, swatches=palette.swatches[1:])
    back = BringIn(document=taken, source="here", join_groups=True).apply(less).palette
    assert [swatch.id for swatch in back.swatches] == ["b", "a", "c", "d"], "behind the last of its group"
    assert [group.id for group in back.groups] == [group.id for group in palette.groups]
    again = BringIn(document=taken, source="here", join_groups=True).apply(back).palette
    assert [group.name for group in again.groups] == [group.name for group in palette.groups]
    assert [swatch.group for swatch in again.swatches] == [palette.swatches[0].group] * 3 + [palette.swatches[2].group, None]
    assert len({swatch.id for swatch in again.swatches}) == 5
    # A group of the same id under another name is another group; and without the wish all are.
    renamed = replace(less, groups=tuple(replace(group, name=f"{group.name}!") for group in less.groups))
    assert len(BringIn(document=taken, source="here", join_groups=True).apply(renamed).palette.groups) == 3
    assert len(BringIn(document=taken, source="here").apply(less).palette.groups) == 3


def test_a_ramp_is_baked_as_a_group_of_its_own() -> None:
    palette = strip("#262b5c", "#ffd478")
    recipe = RampRecipe(stops=[RampStop(swatch="a"), RampStop(swatch="b")], steps=7)
    after = BakeRamp(ramp=recipe).apply(palette).palette
    assert ids(after)[:2] == "ab"
    assert [after.group_name(s.group) for s in after.swatches[2:]] == ["A to B"] * 7
    assert [s.name for s in after.swatches[2:4]] == ["A to B 1", "A to B 2"]
    assert (after.swatches[2].color, after.swatches[-1].color) == (palette.swatches[0].color, palette.swatches[1].color)
    again = BakeRamp(ramp=recipe).apply(after).palette
    assert [group.name for group in again.groups] == ["A to B", "A to B 2"]
    assert BakeRamp(ramp=recipe).label(palette) == "Ramp from A to B in 7 steps, in OKLab."
    with pytest.raises(BadInput, match="A ramp needs two colors or more"):
        BakeRamp(ramp=RampRecipe(stops=[RampStop(swatch="a")])).apply(palette)
    with pytest.raises(Unknown, match="no longer in the palette"):
        BakeRamp(ramp=RampRecipe(stops=[RampStop(swatch="a"), RampStop(swatch="z")])).apply(palette)
