"""Ramps kept with a palette: they survive every operation, their ties stay sound, baking again follows, filling keeps the ends."""

import json
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.color.notation import parse_color
from huvren.core.color.value import Color
from huvren.core.errors import BadInput, HuvrenError, Unknown
from huvren.core.palette.baking import changed_by_hand, follows
from huvren.core.palette.document import palette_from_document, palette_to_document
from huvren.core.palette.operations.bake_ramp import BakeAgain, BakeRamp, FillBetween
from huvren.core.palette.operations.bring_in import BringIn
from huvren.core.palette.operations.delete import DeleteSwatches
from huvren.core.palette.operations.duplicate import DuplicateSwatches
from huvren.core.palette.operations.groups import MakeGroup
from huvren.core.palette.operations.merge import MergeNearTwins, MergeSwatches, MergeToCount
from huvren.core.palette.operations.move import MoveSwatches
from huvren.core.palette.operations.ramps import ChangeRamp, KeepRamp, MoveRamp, RemoveRamp, RenameRamp
from huvren.core.palette.operations.recolor import RecolorSwatch
from huvren.core.palette.operations.slots import SetSlots
from huvren.core.palette.operations.sort import ReverseSwatches, SortSwatches
from huvren.core.palette.operations.variants import AddVariant, ShowVariant
from huvren.core.palette.values import MOST_RAMPS, Group, KeptRamp, Palette, Swatch
from huvren.core.ramp.plan import PlanStop, RampPlan, plan_of, plan_to_document
from huvren.core.ramp.recipe import RampRecipe, recipe_of

CODES = ("#262b5c", "#2bb5a0", "#2cb6a1", "#ffd478", "#808080", "#e85421", "#101010")


def palette() -> Palette:
    """Seven swatches, two of them near twins, a group, and two kept ramps: one tied to three of them, one plain."""
    swatches = tuple(
        Swatch(parse_color(code), f"Ink {n}", f"s{n}", group="g" if n in (2, 3) else None) for n, code in enumerate(CODES)
    )
    tied = RampPlan((PlanStop(swatch="s1"), PlanStop(swatch="s2", position=0.4), PlanStop(swatch="s3")), 4)
    plain = plan_of([parse_color("#000"), parse_color("#fff")], steps=3)
    ramps = (KeptRamp("Tied", tied, "r0", ("glow",)), KeptRamp("Plain", plain, "r1"))
    return Palette("P", swatches, (Group("Wings", "g"),), ramps=ramps)


def recipe(plan: RampPlan) -> RampRecipe:
    return RampRecipe.model_validate(plan_to_document(plan))


def sound(palette: Palette) -> None:
    """Every tie is to a swatch that is there, every ramp is one, and the document gives the palette back."""
    present = {swatch.id for swatch in palette.swatches}
    for kept in palette.ramps:
        assert kept.plan.tied() <= present
        assert not kept.baked or {swatch for swatch, _ in kept.baked} & present
        assert kept.group is None or kept.group in {group.id for group in palette.groups}
        assert len(kept.plan.ramp(palette.color_of).baked(5)) == 5
    assert len({kept.id for kept in palette.ramps}) == len(palette.ramps)
    assert palette_from_document(json.loads(json.dumps(palette_to_document(palette)))) == palette


PARCEL = palette_to_document(replace(palette(), name="Parcel"))
ids = st.sampled_from([f"s{n}" for n in range(7)])
some_ids = st.lists(ids, min_size=1, max_size=4, unique=True)
STEPS = st.one_of(
    st.builds(DeleteSwatches, ids=some_ids), st.builds(DuplicateSwatches, ids=some_ids),
    st.builds(MoveSwatches, ids=some_ids, to=st.integers(0, 6)), st.builds(MergeSwatches, ids=some_ids, keep=st.just("average")),
    st.builds(MergeNearTwins, tolerance=st.floats(0, 30)), st.builds(MergeToCount, count=st.integers(1, 6)),
    st.builds(RecolorSwatch, id=ids, text=st.sampled_from(["#123456", "oklch(0.7 0.2 40)", "#0000"])),
    st.builds(SortSwatches, keys=st.just(["hue"])), st.builds(ReverseSwatches),
    st.builds(AddVariant, name=st.sampled_from(["A", "B"])),
    st.builds(SetSlots, slots=st.sampled_from([None, 12, 30])), st.builds(MakeGroup, ids=some_ids, name=st.sampled_from(["X", "Y"])),
    st.builds(BakeRamp, id=st.sampled_from(["r0", "r1"])), st.builds(BakeAgain, id=st.sampled_from(["r0", "r1"])),
    st.builds(RemoveRamp, id=st.just("r1")), st.builds(MoveRamp, id=st.just("r0"), to=st.integers(0, 3)),
    st.builds(BringIn, document=st.just(PARCEL), source=st.just("p"), how=st.sampled_from(["append", "union", "replace"])),
    st.builds(FillBetween, ids=some_ids, count=st.integers(1, 3)),
)  # fmt: skip


@settings(max_examples=150, deadline=None)
@given(st.lists(STEPS, max_size=6))
def test_kept_ramps_survive_every_operation(steps: list[Any]) -> None:
    now = palette()
    gone: set[str] = set()
    for step in steps:
        before, stands = now, palette_to_document(now)
        try:
            outcome = step.run(now)
        except HuvrenError:
            continue
        now = outcome.palette
        gone |= {step.id} if step.kind == "remove_ramp" else set()
        sound(now)
        assert {kept.id for kept in before.ramps} - gone <= {kept.id for kept in now.ramps}, "none is lost on the way"
        assert palette_to_document(before) == stands, "and what was is as it was, for undo"
        lost = {s.swatch for k in before.ramps for s in k.plan.stops if s.swatch} - {s.id for s in now.swatches}
        for kept in now.ramps:
            old = next((k for k in before.ramps if k.id == kept.id), None)
            if old is None or len(old.plan.stops) != len(kept.plan.stops):
                continue
            for was, is_now in zip(old.plan.stops, kept.plan.stops, strict=True):
                if was.swatch in lost and is_now.swatch is None:
                    assert is_now.color == before.color_of(was.swatch), "it keeps the color that its swatch had"
                    assert any(kept.name in note for note in outcome.notes), "and that is said"


def test_a_merge_hands_ties_to_who_took_over_and_says_nothing() -> None:
    outcome = MergeNearTwins(tolerance=2, keep="first").run(palette())
    assert [stop.swatch for stop in outcome.palette.ramps[0].plan.stops] == ["s1", "s1", "s3"]
    assert outcome.notes == ()
    deleted = DeleteSwatches(ids=["s1", "s2"]).run(palette())
    assert deleted.notes == ("2 stops of the ramp “Tied” lost their swatches and keep the colors they had.",)
    assert [stop.color for stop in deleted.palette.ramps[0].plan.stops][:2] == [parse_color(CODES[1]), parse_color(CODES[2])]


def test_letting_a_stop_go_on_purpose_is_not_said() -> None:
    plan = replace(palette().ramps[0].plan, stops=(PlanStop(parse_color("#fff")), *palette().ramps[0].plan.stops[1:]))
    outcome = ChangeRamp(id="r0", ramp=recipe(plan)).run(palette())
    assert outcome.notes == ()
    assert outcome.palette.ramps[0].plan == plan


def test_stops_show_the_variant_that_is_shown() -> None:
    day = AddVariant(name="Day").run(palette()).palette
    day = RecolorSwatch(id="s1", text="#ffffff").run(day).palette
    assert day.ramps[0].plan.ramp(day.color_of).baked(2)[0].hex == "#ffffff"
    night = ShowVariant(id=day.variants[0].id).run(day).palette
    assert night.ramps[0].plan.ramp(night.color_of).baked(2)[0].hex == CODES[1]


@settings(max_examples=60, deadline=None)
@given(
    st.integers(2, 9), st.integers(2, 9), st.sets(st.integers(0, 8), max_size=3), st.sets(st.integers(0, 8), max_size=3),
    st.booleans(),
)  # fmt: skip
def test_baking_again_follows_all_but_what_was_changed_by_hand(
    first: int, second: int, touched: set[int], removed: set[int], recolored: bool
) -> None:
    start = palette()
    plan = replace(start.ramps[0].plan, steps=first)
    baked = BakeRamp(id="r0").run(replace(start, ramps=(replace(start.ramps[0], plan=plan), start.ramps[1]))).palette
    kept = baked.ramp("r0")
    assert len(kept.baked) == first
    assert follows(kept, baked)
    by_hand = [kept.baked[place][0] for place in touched - removed if place < first]
    out = [kept.baked[place][0] for place in removed if place < first]
    for swatch in by_hand:
        baked = RecolorSwatch(id=swatch, text="#00ff00").run(baked).palette
    if recolored:
        baked = RecolorSwatch(id="s1", text="#400000").run(baked).palette
    baked = ChangeRamp(id="r0", ramp=recipe(replace(plan, steps=second))).run(baked).palette
    assert {swatch.id for swatch in changed_by_hand(baked.ramp("r0"), baked)} == set(by_hand)
    if out:
        baked = DeleteSwatches(ids=out).run(baked).palette
    if len(out) == first:
        with pytest.raises(BadInput, match="no swatches that were baked"):
            BakeAgain(id="r0").run(baked)
        return
    outcome = BakeAgain(id="r0").run(baked)
    after = outcome.palette
    sound(after)
    assert follows(after.ramp("r0"), after)
    wanted = after.ramp("r0").plan.ramp(after.color_of).baked(second)
    left = {swatch.id for swatch in after.swatches}
    assert not left & set(out), "what was taken out by hand stays out"
    for (swatch_id, _), color in zip(after.ramp("r0").baked, wanted, strict=bool(after.ramp("r0").baked)):
        if swatch_id in out:
            continue
        shown = after.swatches[after.index_of(swatch_id)].color
        assert shown == (parse_color("#00ff00") if swatch_id in by_hand else color)
    stayed_out = sum(kept.baked[place][0] in out for place in range(min(first, second)))
    assert [note for note in outcome.notes if "stayed out" in note] == ([] if not stayed_out else [
        f"{stayed_out} swatch{'es' if stayed_out > 1 else ''} taken out by hand stayed out."])  # fmt: skip
    assert any("changed by hand" in note for note in outcome.notes) == bool(by_hand)
    assert all(any(swatch.id == held for swatch in after.swatches) for held in by_hand), "what was changed by hand is never taken out"
    if not after.ramp("r0").baked:
        return
    again = BakeAgain(id="r0").run(after)
    assert [swatch.color for swatch in again.palette.swatches] == [swatch.color for swatch in after.swatches]


@settings(max_examples=60, deadline=None)
@given(st.lists(ids, min_size=2, max_size=5, unique=True), st.integers(1, 6), st.sampled_from(["oklab", "oklch", "srgb", "pigment"]))
def test_filling_in_between_keeps_the_ends_and_the_groups_together(picked: list[str], count: int, space: str) -> None:
    start = palette()
    after = FillBetween(ids=picked, count=count, ramp=RampRecipe(stops=[], space=space)).run(start).palette
    assert len(after.swatches) == len(start.swatches) + count * (len(picked) - 1)
    old = [swatch for swatch in after.swatches if swatch.id in {s.id for s in start.swatches}]
    assert old == list(start.swatches), "those that were there stay, in order"
    runs = [group for place, group in enumerate(s.group for s in after.swatches)
            if group and (place == 0 or after.swatches[place - 1].group != group)]  # fmt: skip
    assert len(runs) == len(set(runs)), "no group is cut in two"
    names = [swatch.name for swatch in after.swatches]
    assert len(set(names)) == len(names)


def test_between_two_swatches_lie_the_steps_of_the_ramp() -> None:
    after = FillBetween(ids=["s0", "s1"], count=3, ramp=RampRecipe(stops=[], spacing="even", curve="monotone")).run(palette()).palette
    wanted = plan_of([parse_color(CODES[0]), parse_color(CODES[1])], spacing="even").ramp(palette().color_of).baked(5)
    assert [swatch.color.hex for swatch in after.swatches[:5]] == [color.hex for color in wanted]


@pytest.mark.parametrize(
    ("step", "words"),
    [
        (lambda: KeepRamp(ramp=RampRecipe(stops=[])), "A ramp needs two colors or more; none was given"),
        (lambda: KeepRamp(ramp=recipe(plan_of([parse_color("#fff")] * 2)), name="Tied"), "There is a ramp “Tied”"),
        (lambda: RenameRamp(id="r0", name="Plain"), "There is a ramp “Plain”"),
        (lambda: RenameRamp(id="r0", name=" \n "), "A ramp needs a name"),
        (lambda: RenameRamp(id="r0", name="x" * 400), "That ramp name has 400 characters"),
        (lambda: RenameRamp(id="r0", name="x", tags=["t" * 60]), "The tag “t"),
        (lambda: BakeRamp(), "Say which ramp to bake"),
        (lambda: BakeRamp(id="r0", ramp=recipe(plan_of([parse_color("#fff")] * 2))), "Say which ramp to bake"),
        (lambda: BakeRamp(ramp=recipe(plan_of([parse_color("#fff")] * 2, steps=None))), "A continuous ramp cannot be baked"),
        (lambda: BakeAgain(id="r0"), "no swatches that were baked from it"),
        (lambda: FillBetween(ids=["s0"]), "needs two swatches or more"),
        (lambda: FillBetween(ids=["s0", "s1"]), "no empty places. Say how many"),
    ],
)  # fmt: skip
def test_what_cannot_be_done_is_said(step: Any, words: str) -> None:
    with pytest.raises(BadInput) as caught:
        step().run(palette())
    assert words in str(caught.value)


@pytest.mark.parametrize("step", [RemoveRamp(id="no"), MoveRamp(id="no", to=0), RenameRamp(id="no", name="x"), BakeRamp(id="no")])
def test_a_ramp_that_is_gone_is_unknown(step: Any) -> None:
    with pytest.raises(Unknown, match="no longer in the palette"):
        step.run(palette())


def test_labels_name_the_ramp_and_names_are_suggested() -> None:
    start = palette()
    assert KeepRamp(ramp=recipe(start.ramps[0].plan)).label(start) == "Keep the ramp “Ink 1 to Ink 3”"
    made = recipe(replace(start.ramps[1].plan, purpose="cyclic"))
    assert KeepRamp(ramp=made, name="Round").label(start) == "Keep the cyclic ramp “Round”"
    assert RenameRamp(id="r0", name="Tied", tags=["a"]).label(start) == "Tag the ramp “Tied”"
    assert BakeRamp(id="r0").label(start) == "Bake “Tied” into 4 swatches"
    assert FillBetween(ids=["s0", "s1"], count=2).label(start) == "Fill in 2 at a time between “Ink 0” and “Ink 1”"
    kept = KeepRamp(ramp=recipe(start.ramps[0].plan), after="r0").run(start).palette
    assert [entry.name for entry in kept.ramps] == ["Tied", "Ink 1 to Ink 3", "Plain"]
    again = KeepRamp(ramp=recipe(start.ramps[0].plan)).run(kept).palette
    assert len({entry.name for entry in again.ramps}) == 4
    with pytest.raises(BadInput, match=f"at most {MOST_RAMPS} ramps"):
        start.with_ramps([replace(start.ramps[0], id=str(n)) for n in range(MOST_RAMPS + 1)])


@settings(max_examples=60, deadline=None)
@given(
    st.lists(
        st.tuples(st.floats(0, 1), st.none() | st.floats(0, 0.4), st.floats(0, 359), st.none() | st.floats(0, 1)),
        min_size=2, max_size=6,
    ),
    st.none() | st.integers(2, 1024),
)  # fmt: skip
def test_a_recipe_is_its_plan_and_back(rows: list[tuple[Any, ...]], steps: int | None) -> None:
    plan = RampPlan(tuple(PlanStop(Color.of("oklch", row[:3], row[3])) for row in rows), steps, "lch", "longer", "natural", "even")
    assert RampRecipe.model_validate(recipe_of(plan)).plan() == plan
    assert RampRecipe.model_validate(json.loads(json.dumps(plan_to_document(plan)))).plan() == plan


def test_untying_keeps_what_stays_and_retying_names_another() -> None:
    plan = palette().ramps[0].plan
    assert plan.untied(palette().color_of, lambda swatch: True) is plan
    free = plan.untied(palette().color_of, lambda swatch: swatch == "s3")
    assert [stop.swatch for stop in free.stops] == [None, None, "s3"]
    assert np.allclose([stop.color.srgb for stop in free.stops if stop.color], [parse_color(code).srgb for code in CODES[1:3]])
    assert [stop.swatch for stop in plan.retied({"s1": "x"}).stops] == ["x", "s2", "s3"]
