"""What follows the colors of swatches by itself: names that nobody gave, ramps, and what was baked from them."""

import dataclasses
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core.color.notation import parse_color
from huvren.core.errors import BadInput
from huvren.core.palette.baking import follows
from huvren.core.palette.document import palette_from_document, palette_to_document
from huvren.core.palette.naming import suggest_name
from huvren.core.palette.operations.add import AddSwatches
from huvren.core.palette.operations.adjust import AdjustSwatches
from huvren.core.palette.operations.bake_ramp import BakeAgain, BakeRamp
from huvren.core.palette.operations.duplicate import DuplicateSwatches
from huvren.core.palette.operations.every import OPERATIONS
from huvren.core.palette.operations.ramps import ChangeRamp, FollowRamp, KeepRamp
from huvren.core.palette.operations.recolor import RecolorSwatch
from huvren.core.palette.operations.rename import RenameSwatch
from huvren.core.palette.operations.several import Several
from huvren.core.palette.operations.variants import AddVariant, ShowVariant
from huvren.core.palette.values import Palette
from huvren.core.ramp.makers import make
from huvren.core.ramp.plan import plan_to_document
from huvren.core.ramp.recipe import RampRecipe
from huvren.core.reduction.adopt import adopt
from huvren.core.reduction.recipe import ReduceRecipe
from huvren.core.reduction.reduce import reduce_picture


def typed(text: str) -> Palette:
    return AddSwatches(text=text).run(Palette("Plate")).palette


def recolored(palette: Palette, place: int, text: str) -> Palette:
    return RecolorSwatch(id=palette.swatches[place].id, text=text).run(palette).palette


def names(palette: Palette) -> list[str]:
    return [swatch.name for swatch in palette.swatches]


def test_a_name_follows_its_color_until_somebody_gives_one() -> None:
    palette = typed("#e85421\n#e85421\n#3a5f4a Moss")
    assert names(palette) == ["Vivid orange", "Vivid orange 2", "Moss"]
    after = recolored(recolored(palette, 0, "#1f6f8b"), 1, "#00ff00")
    assert names(after) == [suggest_name(parse_color("#1f6f8b")), "Vivid lime", "Moss"] or names(after)[1].startswith("Vivid ")
    assert "range" not in "".join(names(after)), "nothing is called orange any more"
    assert names(recolored(after, 2, "#e85421"))[2] == "Moss"
    named = RenameSwatch(id=palette.swatches[0].id, name="Lamp 2").run(palette).palette
    assert names(recolored(named, 0, "#1f6f8b"))[0] == "Lamp 2"
    # Where the words stay the same the name does, number and all.
    assert names(recolored(palette, 1, "#e85522"))[1] == "Vivid orange 2"


def test_the_name_of_a_copy_follows_unless_somebody_gave_the_first() -> None:
    for text, after in (("#f85226", suggest_name(parse_color("#00ff00"))), ("#f85226 Lamp", "Lamp copy")):
        one = typed(text)
        two = DuplicateSwatches(ids=[one.swatches[0].id]).run(one).palette
        assert names(two)[1] == f"{names(one)[0]} copy"
        assert names(recolored(two, 1, "#00ff00"))[1] == after


def test_two_that_come_to_the_same_words_are_told_apart() -> None:
    palette = typed("#e85421\n#3355cc")
    blue = names(palette)[1]
    assert names(recolored(palette, 0, "#3355cd")) == [f"{blue} 2", blue]


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(*[st.integers(0, 255)] * 3), min_size=1, max_size=6), st.integers(-180, 180))
def test_no_automatic_name_tells_another_color(rows: Any, turn: int) -> None:
    palette = typed("\n".join("#{:02x}{:02x}{:02x}".format(*row) for row in rows))
    after = AdjustSwatches(hue_turn=turn).run(palette).palette
    for swatch in after.swatches:
        words = suggest_name(swatch.color)
        assert swatch.name == words or swatch.name.rsplit(" ", 1)[0] == words
    assert len(set(names(after))) == len(rows)


def test_showing_a_variant_renames_nothing() -> None:
    palette = typed("#e85421")
    two = AddVariant(name="Night", first_name="Day").run(palette).palette
    night = recolored(two, 0, "#10204a")
    assert names(night) == [suggest_name(parse_color("#10204a"))]
    day = next(variant.id for variant in night.variants if variant.name == "Day")
    assert names(ShowVariant(id=day).run(night).palette) == names(night), "a name belongs to the palette, not to a variant"


def test_a_variant_shown_among_several_steps_renames_nothing() -> None:
    two = AddVariant(name="Night", first_name="Day").run(typed("#e85421")).palette
    night = recolored(two, 0, "#10204a")
    day = next(variant.id for variant in night.variants if variant.name == "Day")
    both = Several(steps=[{"kind": "show_variant", "id": day}]).run(night).palette
    assert both == ShowVariant(id=day).run(night).palette


def test_a_stop_that_loses_its_swatch_among_several_steps_is_said_once() -> None:
    palette = typed("#102030\n#f0e0d0")
    ends = [{"swatch": swatch.id} for swatch in palette.swatches]
    kept = KeepRamp(ramp=RampRecipe.model_validate({"stops": ends, "steps": 5})).run(palette).palette
    notes = Several(steps=[{"kind": "delete_swatches", "ids": [palette.swatches[0].id]}]).run(kept).notes
    assert len([note for note in notes if "lost its swatch" in note]) == 1


def test_a_ramp_over_the_swatches_of_another_follows_in_the_same_step() -> None:
    palette = typed("#102030\n#f0e0d0")
    ends = [{"swatch": swatch.id} for swatch in palette.swatches]
    kept = KeepRamp(ramp=RampRecipe.model_validate({"stops": ends, "steps": 3}), name="First").run(palette).palette
    baked = BakeRamp(id=kept.ramps[0].id).run(kept).palette
    middle = [{"swatch": baked.swatches[3].id}, {"swatch": palette.swatches[1].id}]
    # The one that hangs on it stands before it in the list.
    more = KeepRamp(ramp=RampRecipe.model_validate({"stops": middle, "steps": 4}), name="Second").run(baked).palette
    both = BakeRamp(id=more.ramps[1].id).run(more).palette
    turned = both.with_ramps(reversed(both.ramps))
    after = recolored(turned, 0, "#a01010")
    assert [follows(ramp, after) for ramp in after.ramps] == [True, True]
    assert after.swatches[5].color == after.swatches[3].color


def test_names_follow_through_a_reduction() -> None:
    wall = np.full((8, 8, 4), 255, np.uint8)
    wall[..., :3] = (98, 96, 104)
    palette = dataclasses.replace(typed("#62605f"), slots=None)
    made = reduce_picture(wall, ReduceRecipe(colors=1))
    adopted = adopt(palette, made, ReduceRecipe(colors=1), "seed").palette
    assert adopted.swatches[0].id == palette.swatches[0].id, "it is the same swatch, a little recolored"
    assert names(adopted) == [suggest_name(adopted.swatches[0].color)]


def shaded(steps: int = 7) -> Palette:
    """A base, with the shading ramp through it kept and baked."""
    palette = typed("#8a5a3c Wing\n#223355 Night")
    base = palette.swatches[0]
    (plan,) = make("shading", [base.color], {}, steps)
    recipe = RampRecipe.model_validate(plan_to_document(plan.tied_to(base.id, base.color)))
    kept = KeepRamp(ramp=recipe, name="Shade").run(palette).palette
    return BakeRamp(id=kept.ramps[0].id).run(kept).palette


def test_baked_swatches_follow_a_recolored_stop_by_themselves() -> None:
    palette = shaded()
    assert parse_color("#8a5a3c").hex in {swatch.color.hex for swatch in palette.swatches[2:]}
    after = recolored(palette, 0, "#2f6f5a")
    assert follows(after.ramps[0], after)
    (wanted,) = make("shading", [parse_color("#2f6f5a")], {}, 7)
    expected = [color.hex for color in wanted.ramp(lambda _: parse_color("#2f6f5a")).baked(7)]
    assert [swatch.color.hex for swatch in after.swatches[2:]] == expected, "all of it is made anew from the new color"
    assert [swatch.id for swatch in after.swatches] == [swatch.id for swatch in palette.swatches]
    assert palette_from_document(palette_to_document(after)) == after
    # Another swatch has no say in it.
    assert recolored(palette, 1, "#000000").swatches[2:] == palette.swatches[2:]


def test_what_was_changed_by_hand_stays_and_is_said() -> None:
    palette = shaded()
    mine = recolored(palette, 4, "#ff00ff")
    outcome = RecolorSwatch(id=mine.swatches[0].id, text="#2f6f5a").run(mine)
    assert outcome.palette.swatches[4].color.hex == "#ff00ff"
    assert any("changed by hand stayed" in note for note in outcome.notes)


def test_a_ramp_that_does_not_follow_leaves_its_swatches_until_it_is_baked_again() -> None:
    palette = shaded()
    still = FollowRamp(id=palette.ramps[0].id, following=False).run(palette).palette
    after = recolored(still, 0, "#2f6f5a")
    assert after.swatches[1:] == still.swatches[1:]
    assert not follows(after.ramps[0], after)
    assert palette_from_document(palette_to_document(after)) == after
    again = BakeAgain(id=after.ramps[0].id).run(after).palette
    assert follows(again.ramps[0], again)


def test_a_plain_ramp_between_two_swatches_follows_either() -> None:
    palette = typed("#102030\n#f0e0d0")
    ends = [{"swatch": swatch.id} for swatch in palette.swatches]
    kept = KeepRamp(ramp=RampRecipe.model_validate({"stops": ends, "steps": 5})).run(palette).palette
    baked = BakeRamp(id=kept.ramps[0].id).run(kept).palette
    after = recolored(baked, 1, "#ffffff")
    assert after.swatches[-1].color.hex == "#ffffff"
    assert follows(after.ramps[0], after)
    # A ramp that was itself changed to other counts waits for “Bake again”.
    longer = RampRecipe.model_validate({"stops": ends, "steps": 6})
    changed = ChangeRamp(id=after.ramps[0].id, ramp=longer).run(after).palette
    assert len(changed.swatches) == len(after.swatches)
    assert recolored(changed, 0, "#000000").swatches[2:] == changed.swatches[2:]


def test_every_operation_says_whether_it_recolors() -> None:
    assert {entry.id for entry in OPERATIONS if not entry.model.recolors} == {"show_variant", "remove_variant", "several"}


def test_numbers_that_no_maker_takes_leave_the_ramp_as_it_is() -> None:
    palette = shaded()
    ramp = palette.ramps[0]
    odd = dataclasses.replace(ramp, plan=dataclasses.replace(ramp.plan, numbers=(("nothing", 1.0),)))
    after = recolored(palette.with_ramps([odd]), 0, "#2f6f5a")
    assert [stop.swatch for stop in after.ramps[0].plan.stops] == [stop.swatch for stop in ramp.plan.stops]
    document = palette_to_document(palette)
    document["ramps"][0]["plan"]["numbers"] = {str(n): 1.0 for n in range(20)}
    with pytest.raises(BadInput, match="numbers of its maker"):
        palette_from_document(document)
